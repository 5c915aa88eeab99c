"""The leak test: a closed joint is pumped to a low pressure and left alone; how fast the pressure falls is the leak.

What else spoils it is fitted beside it: air that was warmed by pumping cools and takes pressure along (a sudden pump-up
loses 1 − 1/γ = 28.6 % without any leak), and a slow drift of temperature (1 K is 346 Pa) falls or rises whatever the
pressure. Room air, never breath: breath cools for minutes. Low pressure, so that sprung pads do not lift.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from creekbed.core.errors import BadInput
from creekbed.core.measure import Reading

Array = npt.NDArray[np.float64]
P_ATM = 101_325.0
"""Standard atmosphere, Pa (ISO 2533)."""
P_REF = 2_500.0
"""Pressure at which leaks are compared, Pa: house default."""
LOWEST_PEAK, HIGHEST = 600.0, 6_000.0
"""Peaks below say too little, pressures above lift sprung pads, Pa: house default."""
HEAT_SHARE = 1 - 1 / 1.4
"""Most that compression heat can take of the peak: γ of air 1.4, adiabatic then isothermal; ideal gas."""
HEAT_MOST = 1.2 * HEAT_SHARE
"""The same with a fifth more for strokes whose air leaked meanwhile and left its heat: house default."""
DRIFT_PRIOR = 1.0
"""Standard deviation of drift that a room brings unseen, Pa/s: about 0.2 K in a minute; house default."""
HEAT_PRIOR, HEAT_TAU_S, HEAT_TAU_SPREAD = 0.16, 3.0, 0.5
"""Heat expected of a hurried pump-up as a share of the peak (standard deviation); how fast it goes, s, and within what
factor (standard deviation of the logarithm): house default."""
EMPTY_SHARE, EMPTY_DOUBT = 0.05, 0.01
"""Under this share of the peak neither law is the whole truth: holes turn into gaps, pads settle; readings there are
believed to within this share of the peak only (standard deviation): house default."""
SETTLE_S = 0.15
"""How long after the peak the last stroke of the pump is over for certain, s: house default."""
Law = Literal["laminar", "orifice"]
MOST_READINGS, BEGINNING = 95, 30


@dataclass(frozen=True)
class LeakFit:
    """What the fall of pressure says.

    Attributes:
        law: "laminar" (a fine gap: p falls as e^(−t/τ)) or "orifice" (a hole: √p falls in a line), by AIC.
        weight: Akaike weight of that law against the other, 0.5 to 1.
        flow: leak at the reference pressure, ml/min of room air, with its standard uncertainty.
        rate: 1/τ in 1/s for laminar; −d√p/dt in √Pa/s for orifice.
        p0: pressure at the start of the fall, Pa, once the heat has gone.
        start_s: when the fall begins.
        heat: pressure that compression heat took, Pa; 0 where the fit needs none. heat_tau_s: its time constant.
        drift: Pa/s, falling or rising whatever the pressure; u_drift: its standard uncertainty.
        notes: what was seen besides, in words.
    """

    law: Law
    weight: float
    flow: Reading
    rate: float
    p0: float
    start_s: float
    heat: float
    heat_tau_s: float
    drift: float
    u_drift: float
    notes: tuple[str, ...]

    @property
    def tau_s(self) -> float:
        """Time constant of a laminar leak, s; infinite where nothing leaks."""
        return 1 / self.rate if self.law == "laminar" and self.rate > 0 else math.inf

    def pressure(self, times: Array) -> Array:
        """The fitted curve at rising times, s; Pa."""
        return self._curve(times, self.drift, self.heat)

    def leak_only(self, times: Array) -> Array:
        """What the leak alone would do from where the heat left it, Pa."""
        return self._curve(times, 0.0, 0.0)

    def _curve(self, times: Array, drift: float, heat: float) -> Array:
        t = np.maximum(np.asarray(times, dtype=float) - self.start_s, 0.0)
        if self.law == "orifice":
            x = np.array([[self.p0, self.rate, drift, heat, math.log(self.heat_tau_s)]])
            return _through_a_hole(x, np.append(0.0, t))[0, 1:]
        fall, by_drift, by_heat = _answers(np.array([self.rate]), np.array([self.heat_tau_s]), t)
        return np.asarray(self.p0 * fall[0] + drift * by_drift[0] + heat * by_heat[0])


def cone_volume_l(wide_mm: float, narrow_mm: float, length_mm: float) -> float:
    """Volume of a conical bore, l: πL/12·(d1² + d1·d2 + d2²).

    Raises:
        BadInput: a measure that is not positive.

    Reference:
        solid geometry, frustum of a cone.
    """
    if not (wide_mm > 0 and narrow_mm > 0 and length_mm > 0):
        raise BadInput("Bore and length must be more than 0 mm.", todo="Measure them again.")
    return math.pi * length_mm / 12 * (wide_mm**2 + wide_mm * narrow_mm + narrow_mm**2) / 1e6


def laminar_flow_ml_min(p_pa: float, volume_l: float, tau_s: float) -> float:
    """Flow of a laminar leak at gauge pressure p: Q = p·V/(p_atm·τ), in ml/min of room air.

    Reference:
        ideal gas at constant temperature, p much less than p_atm.
    """
    return p_pa * volume_l / (P_ATM * tau_s) * 60_000.0


def fit_leak(
    times_s: Sequence[float], pressures_pa: Sequence[float], volume_l: float, u_volume_l: float = 0.0
) -> LeakFit:
    """Fit the fall of pressure after the pump stops.

    A quiet stretch before pumping (at least 5 readings near 0) tells the drift; without one a house default stands for
    what a room may do unseen, and widens the interval.

    Args:
        times_s, pressures_pa: readings, gauge pressure, shape (n,), times rising.
        volume_l: joint, hose and bulb together, l. u_volume_l: its standard uncertainty.

    Returns:
        The law with the smaller AIC, its flow with what the other law would say weighed in.

    Raises:
        BadInput: too few readings, times that do not rise, a peak too low or so high that pads lift, no volume.

    Reference:
        linear Gaussian model integrated over its nuisances (Gelman et al., Bayesian Data Analysis, ch. 14);
        Akaike 1974; weights: Burnham and Anderson 2002, 2.9.
    """
    t = np.asarray(times_s, dtype=float)
    p = np.asarray(pressures_pa, dtype=float)
    _need(t, p, volume_l, u_volume_l)
    peak = _pumped(t, p)
    drift0, u_drift0 = _quiet(t, p, peak)
    t_fall, p_fall = t[peak:] - t[peak], p[peak:]
    if len(t_fall) < 12:
        raise BadInput("The fall is too short to say anything.", todo="Let it stand for half a minute.")
    noise = _noise(p_fall)
    t_fall, p_fall, noises = _thinned(t_fall, p_fall, noise)
    doubt = np.where(p_fall < EMPTY_SHARE * p_fall[0], EMPTY_DOUBT * p_fall[0], 0.0)
    given = (t_fall, p_fall, np.hypot(noises, doubt), drift0, u_drift0)
    gap = _fit_gap(*given)
    hole = _fit_hole(*given, gap.aic)
    best: dict[Law, _Fit] = {"laminar": gap, "orifice": hole}
    flows = {law: _flow(f, volume_l) for law, f in best.items()}
    low = min(f.aic for f in best.values())
    weights = {law: math.exp(-0.5 * min(f.aic - low, 700.0)) for law, f in best.items()}
    total = sum(weights.values())
    chosen = min(best, key=lambda law: best[law].aic)
    fit = best[chosen]
    flow = flows[chosen][0]
    mixed = sum(weights[law] * (flows[law][1] ** 2 + (flows[law][0] - flow) ** 2) for law in best) / total
    u = math.hypot(math.sqrt(mixed), flow * u_volume_l / volume_l)
    notes = _notes(fit, p_fall[0], drift0, u_drift0)
    return LeakFit(
        chosen, weights[chosen] / total, Reading(max(flow, 0.0), u, "milliliter/minute", "leak test"), fit.rate, fit.p0,
        float(t[peak]), fit.heat, fit.heat_tau, fit.drift, fit.u_drift, notes,
    )  # fmt: skip


def _need(t: Array, p: Array, volume: float, u_volume: float) -> None:
    if t.ndim != 1 or t.shape != p.shape or len(t) < 15:
        raise BadInput("There are too few readings.", todo="At least 15, some ten each second.")
    if len(t) > 100_000:
        raise BadInput("That is more than a leak test holds.", todo="Half a minute is enough.")
    if not (np.isfinite(t).all() and np.isfinite(p).all()) or (np.diff(t) <= 0).any():
        raise BadInput("The readings are not in the order of time.", todo="Record it again.")
    if not 0.005 <= volume <= 200 or not 0 <= u_volume < volume:
        raise BadInput("The volume must be between 5 ml and 200 l.", todo="Count joint, hose and bulb.")
    if p.max() > HIGHEST:
        raise BadInput(f"{p.max() / 1000:.1f} kPa lifts sprung pads.", todo="Pump to 2.5 kPa and hold no more than 6.")
    if p.max() < LOWEST_PEAK:
        raise BadInput("It was hardly pumped up.", todo="Close it and pump to about 2.5 kPa.")


def _pumped(t: Array, p: Array) -> int:
    """Where the fall begins: when the last stroke of the pump is over."""
    rise = p[3:] - p[:-3]
    strokes = np.flatnonzero(rise > 0.04 * p.max())
    begin = int(strokes[-1]) if len(strokes) else 0
    end = int(np.searchsorted(t, t[min(begin + 3, len(t) - 1)] + 0.3))
    top = begin + int(np.argmax(p[begin : end + 1]))
    return min(int(np.searchsorted(t, t[top] + SETTLE_S)), len(t) - 1)


def _quiet(t: Array, p: Array, peak: int) -> tuple[float, float]:
    """Drift before pumping and its standard uncertainty, Pa/s."""
    before = np.flatnonzero(p[:peak] > 0.05 * p[peak])
    end = int(before[0]) if len(before) else peak
    if end < 5 or t[end - 1] - t[0] < 1.0:
        return 0.0, DRIFT_PRIOR
    x, y = t[:end] - t[:end].mean(), p[:end]
    sxx = float(x @ x)
    slope = float(x @ y) / sxx
    rest = y - y.mean() - slope * x
    s2 = float(rest @ rest) / max(end - 2, 1)
    # what the room does next is not quite what it did before: a tenth of the unseen is kept
    return slope, math.hypot(1.5 * math.sqrt(s2 / sxx), 0.1 * DRIFT_PRIOR)


def _noise(p: Array) -> float:
    """Standard deviation of the gauge's noise from second differences, which a smooth fall does not touch; Pa."""
    second = np.diff(p, 2)
    return max(float(np.median(np.abs(second - np.median(second)))) * 1.4826 / math.sqrt(6), 0.05)


def _thinned(t: Array, p: Array, noise: float) -> tuple[Array, Array, Array]:
    """Long series as means of neighbours, more of them the later it is: a fit needs no more than some hundred points.

    Returns:
        Times, pressures, and the standard deviation of each.
    """
    n = len(t)
    if n <= MOST_READINGS:
        return t, p, np.full(n, noise)
    spare = MOST_READINGS - BEGINNING
    growth = 1.0
    while BEGINNING + float((growth ** np.arange(spare)).sum()) < n:
        growth += 0.002
    ends = BEGINNING + np.cumsum(growth ** np.arange(spare)).astype(int)
    starts = np.unique(np.concatenate([np.arange(BEGINNING), [BEGINNING], ends[ends < n]]))
    sizes = np.diff(np.append(starts, n))
    means = [np.add.reduceat(x, starts) / sizes for x in (t, p)]
    return means[0], means[1], noise / np.sqrt(sizes)


@dataclass(frozen=True)
class _Fit:
    law: Law
    rate: float
    p0: float
    heat: float
    heat_tau: float
    drift: float
    u_drift: float
    aic: float
    flow: float
    """Mean of rate times what it is worth at the reference pressure; ``u_flow`` its standard deviation."""
    u_flow: float


def _answers(rates: Array, taus: Array, t: Array) -> tuple[Array, Array, Array]:
    """How a joint with a laminar leak answers, for each pair: to 1 Pa, a drift of 1 Pa/s, 1 Pa of air that cools.

    The leak works on the whole pressure, so that what drift and heat bring leaks away too:
    dp/dt = −rate·p + drift − (heat/τ)·e^(−t/τ), from p0 + heat, in closed form.

    Args:
        rates, taus: of each pair, shape (pairs,), 1/s and s. t: shape (times,), s.

    Returns:
        Three arrays of shape (pairs, times); the last is e^(−t/τ) where nothing leaks.
    """
    r, q = rates[:, None], 1 / taus[:, None]
    fall = np.exp(-r * t)
    drift = np.where(r * t < 1e-6, t, -np.expm1(-r * t) / np.maximum(r, 1e-300))
    gap = r - q
    gap = np.where(np.abs(gap) < 1e-6, 1e-6, gap)
    return fall, drift, fall - q * (np.exp(-q * t) - fall) / gap


LONGEST_STEP_S = 0.5


def _through_a_hole(x: Array, t: Array) -> Array:
    """Pressure of a joint with a hole: dp/dt = −2k·√p + drift − (heat/τ)·e^(−t/τ), from p0 + heat.

    By symmetric splitting (Strang 1968): the hole alone is exact, √p falls in a line; drift and heat alone too.

    Args:
        x: rows of (p0, k, drift, heat, ln τ), shape (rows, 5). t: times from 0, shape (n,).

    Returns:
        Shape (rows, n), Pa.
    """
    p0, k, drift, heat, log_tau = x.T
    gaps = np.diff(t)
    parts = np.maximum(np.ceil(gaps / LONGEST_STEP_S - 1e-9).astype(int), 1)
    ends = np.append(0, np.cumsum(parts))
    inner = np.arange(ends[-1]) - np.repeat(ends[:-1], parts)
    fine = np.append(np.repeat(t[:-1], parts) + inner * np.repeat(gaps / parts, parts), t[-1])
    h = np.diff(fine)
    warm = heat[:, None] * np.exp(-fine / np.exp(log_tau)[:, None])
    pushes = (drift[:, None] * h + np.diff(warm, axis=1)).T
    halves = 0.5 * h[:, None] * k
    whole = halves.copy()
    whole[1:] += halves[:-1]  # the half steps on both sides of a point are one step through the hole
    out = np.empty((len(fine), len(x)))
    out[0] = p = p0 + heat
    for n in range(len(h)):
        root = np.sqrt(np.abs(p))
        root -= whole[n]
        np.maximum(root, 0.0, out=root)
        root *= root
        p = np.copysign(root, p)
        p += pushes[n]
        out[n + 1] = p
    after = np.maximum(np.sqrt(np.abs(out[1:])) - halves, 0.0) ** 2
    out[1:] = np.copysign(after, out[1:])
    return np.asarray(out[ends].T)


DRAWS, ROUNDS, ENOUGH, TAILS, HOPELESS = 240, 6, 60.0, 6, 80.0
"""Points drawn in each round, at most how many rounds, how many must carry the
weight in the end, degrees of freedom of the t distribution that they are drawn from, and by how much a worse AIC
ends it."""


def _fit_hole(t: Array, p: Array, noise: Array, drift0: float, u_drift0: float, beside: float) -> _Fit:
    """What the readings say of √p's slope where air goes through a hole, everything else averaged over.

    Drift, heat and its time constant are drawn, first as they are expected, then as the round before found them; for
    each draw p0 and k, which the readings settle well, follow by Gauss–Newton and are integrated about their best
    (adaptive importance sampling: Oh and Berger 1992; Laplace: Tierney and Kadane 1986). Always the same draws, so
    that the same readings give the same answer.

    Args:
        beside: AIC of the other law; rounds end early where this one cannot come near it.
    """
    random = np.random.default_rng(20)
    top = float(p[0])
    half = int(np.searchsorted(-p, -0.5 * top))
    t_half = float(t[half]) if half < len(t) else float(t[-1]) * max(top / max(top - float(p[-1]), 1.0), 1.0)
    k0 = math.sqrt(top) * (1 - math.sqrt(0.5)) / max(t_half, 1e-3)
    expected = np.array([drift0, 0.0, math.log(HEAT_TAU_S)])
    spread = np.array([u_drift0, HEAT_PRIOR * top, HEAT_TAU_SPREAD])
    z = random.standard_normal((DRAWS, 3))
    drawn = expected + z * spread
    log_q = -0.5 * (z**2).sum(axis=1)
    start = np.empty((DRAWS, 2))
    start[:, 0], start[:, 1] = top, k0
    for n in range(ROUNDS):
        drawn[:, 1] = np.abs(drawn[:, 1])  # pumping warms, it never cools: folded back
        if n == 0:
            start[:, 0] = top - np.minimum(drawn[:, 1], HEAT_MOST * top)
        best, chi2, cov = _settled(start, drawn, t, p, noise, 3 if n == 0 else 1)
        prior = (((drawn - expected) / spread) ** 2).sum(axis=1)
        excess = max(float(chi2.min()) / max(len(t) - 2, 1), 1.0)  # what the law does not explain widens all
        log_w = -0.5 * chi2 / excess + 0.5 * np.linalg.slogdet(cov)[1] - 0.5 * prior - log_q
        log_w[drawn[:, 1] > HEAT_MOST * top] = -np.inf
        w = _shares(log_w)
        if (n > 1 and _told(w) > ENOUGH) or (n > 0 and float(chi2.min()) > beside + HOPELESS):
            break
        for _ in range(16):
            if _told(w) >= 15:
                break
            log_w = 0.6 * log_w  # too few carry it: look wider
            w = _shares(log_w)
        if n == ROUNDS - 1:
            break
        middle = w @ drawn
        away = drawn - middle
        wide = (away * w[:, None]).T @ away + np.diag((0.02 * spread) ** 2) * 0.01
        slope = np.linalg.solve(wide, (away * w[:, None]).T @ (best - w @ best))
        z = random.standard_normal((DRAWS, 3)) / np.sqrt(random.chisquare(TAILS, (DRAWS, 1)) / TAILS)
        drawn = middle + z @ np.linalg.cholesky(1.2 * wide).T
        log_q = -0.5 * (TAILS + 3) * np.log1p((z**2).sum(axis=1) / TAILS)
        start = w @ best + (np.abs(drawn * [0, 1, 0]) + drawn * [1, 0, 1] - middle) @ slope
        start[:, 1] = np.clip(start[:, 1], 0.2 * float((w @ best)[1]), 5 * float((w @ best)[1]))
    return _hole_of(drawn, best, chi2, prior, cov * excess, w)


def _hole_of(drawn: Array, best: Array, chi2: Array, prior: Array, cov: Array, w: Array) -> _Fit:
    """The fit that weighted draws tell: means, with the curve of the likeliest draw."""
    k = float(w @ best[:, 1])
    u_k = math.sqrt(float(w @ ((best[:, 1] - k) ** 2 + cov[:, 1, 1])))
    drift = float(w @ drawn[:, 0])
    u_drift = math.sqrt(float(w @ (drawn[:, 0] - drift) ** 2))
    n = int(np.argmin(chi2 + prior))
    worth = 2 * math.sqrt(P_REF)
    return _Fit(
        "orifice", float(best[n, 1]), float(best[n, 0]), float(drawn[n, 1]), math.exp(float(drawn[n, 2])),
        float(drawn[n, 0]), u_drift, float(chi2[n] + prior[n]) + 2 * 5, max(k, 0.0) * worth, u_k * worth,
    )  # fmt: skip


def _settled(start: Array, drawn: Array, t: Array, p: Array, noise: Array, steps: int) -> tuple[Array, Array, Array]:
    """p0 and k that fit best for each row of (drift, heat, ln τ), by Gauss–Newton.

    Returns:
        (p0, k) of each row, shape (rows, 2); chi-square there; their covariance, shape (rows, 2, 2).
    """
    x, n = start.copy(), len(start)
    step = np.array([1e-3 * float(p[0]), 1e-3 * float(np.abs(start[:, 1]).mean()) + 1e-7])
    every = np.tile(np.hstack([x, drawn]), (3, 1))
    every[n : 2 * n, 0] += step[0]
    every[2 * n :, 1] += step[1]
    curves = _through_a_hole(every, t)
    there = curves[:n]
    slopes = np.stack([(curves[n : 2 * n] - there) / step[0], (curves[2 * n :] - there) / step[1]], axis=1) / noise
    normal = slopes @ slopes.transpose(0, 2, 1)
    normal[:, [0, 1], [0, 1]] *= 1 + 1e-9
    normal[:, [0, 1], [0, 1]] += 1e-12
    cov = np.linalg.inv(normal)
    for _ in range(steps):  # the slopes hardly change on the way
        move = np.einsum("nij,nj->ni", cov, np.einsum("nit,nt->ni", slopes, (p - there) / noise))
        x[:, 0] += np.clip(move[:, 0], -0.3 * p[0], 0.3 * p[0])
        x[:, 1] += np.clip(move[:, 1], -0.6 * x[:, 1], 1.5 * x[:, 1] + step[1])
        there = _through_a_hole(np.hstack([x, drawn]), t)
    chi2: Array = (((p - there) / noise) ** 2).sum(axis=1)
    return x, chi2, np.asarray(cov, dtype=float)


GRID, REACH = 25, 3.6
"""Points along each axis of the grid over rate and time constant, and how far it reaches, in standard deviations."""


def _fit_gap(t: Array, p: Array, noise: Array, drift0: float, u_drift0: float) -> _Fit:
    """What the readings say of the rate, everything else averaged over.

    For a given rate and time constant of the heat the curve is linear in p0, drift and heat, so that these are
    integrated in closed form; the two others on a grid that is laid along what they have in common and narrows until
    it resolves it (adaptive importance sampling: Oh and Berger 1992).
    """
    top = float(p[0])
    mean = np.array([top, drift0, 0.0])
    spread = np.array([10 * top, u_drift0, HEAT_PRIOR * top])
    rates = np.concatenate([[0.0], np.geomspace(1e-5, 30.0, 60)])
    log_taus = math.log(HEAT_TAU_S) + HEAT_TAU_SPREAD * np.linspace(-2.4, 2.4, 9)
    at = np.stack(np.meshgrid(rates, log_taus, indexing="ij"), axis=-1).reshape(-1, 2)
    area = np.repeat(np.gradient(rates), len(log_taus))
    edge = np.zeros(len(at), dtype=bool)
    for n in range(9):
        grid = _grid(at, t, p, noise, mean, spread)
        excess = max(float(grid.chi2.min()) / max(len(t) - 2, 1), 1.0)  # what the law does not explain widens all
        tau_prior = -0.5 * ((at[:, 1] - math.log(HEAT_TAU_S)) / HEAT_TAU_SPREAD) ** 2
        warm = _log_between(grid.found[:, 2], np.sqrt(excess * grid.var[:, 2]), HEAT_MOST * top)
        log_w = -0.5 * grid.chi2 / excess - 0.5 * grid.log_det + tau_prior + warm + np.log(area)
        w = _shares(log_w)
        if n and _told(w) > 60 and float(w[edge].sum()) < 0.02:
            break
        softer, spare = log_w, w
        while _told(spare) < 12 and not np.allclose(softer, softer[0]):  # too coarse yet: look wider
            softer = 0.6 * softer
            spare = _shares(softer)
        at, edge = _laid_along(at, spare)
        area = np.ones(len(at))
    flows = at[:, 0] * P_REF
    centre = float((flows * w).sum())
    u = math.sqrt(max(float(((flows - centre) ** 2 * w).sum()), 0.0))
    drift = float((grid.found[:, 1] * w).sum())
    drift_var = float((((grid.found[:, 1] - drift) ** 2 + excess * grid.var[:, 1]) * w).sum())
    best = int(np.argmax(log_w - np.log(area)))
    p0, best_drift, heat = (float(x) for x in grid.found[best])
    aic = float((grid.chi2 - 2 * tau_prior).min()) + 2 * 5  # both laws have five parameters
    return _Fit(
        "laminar", float(at[best, 0]), p0, max(heat, 0.0), math.exp(float(at[best, 1])), best_drift,
        math.sqrt(drift_var), aic, centre, u,
    )  # fmt: skip


def _shares(log_w: Array) -> Array:
    w = np.exp(log_w - log_w.max())
    return np.asarray(w / w.sum())


def _told(w: Array) -> float:
    """How many points carry the weight (Kish's effective sample size)."""
    return 1 / float((w**2).sum())


def _laid_along(at: Array, w: Array) -> tuple[Array, npt.NDArray[np.bool_]]:
    """A grid along the principal axes of weighted points (rate, ln τ), no rate below 0, and which are its edge."""
    middle = w @ at
    away = at - middle
    cov = (away * w[:, None]).T @ away + np.diag([1e-12 + (1e-4 * middle[0]) ** 2, 1e-6])
    size, axes = np.linalg.eigh(cov / np.outer(np.sqrt(np.diag(cov)), np.sqrt(np.diag(cov))))
    steps = np.linspace(-REACH, REACH, GRID)
    a, b = (x.ravel() for x in np.meshgrid(steps, steps, indexing="ij"))
    whole = np.stack([a * math.sqrt(max(size[0], 1e-6)), b * math.sqrt(size[1])], axis=-1) @ axes.T
    points = middle + whole * np.sqrt(np.diag(cov))
    outside = np.maximum(np.abs(a), np.abs(b)) > 0.99 * REACH
    can = points[:, 0] >= 0
    return points[can], outside[can]


def _log_between(mean: Array, sd: Array, most: float) -> Array:
    """Logarithm of the chance that a normal value lies between 0 and ``most``: pumping warms, it never cools."""
    from scipy.special import log_ndtr

    low, high = log_ndtr(-mean / sd), log_ndtr((most - mean) / sd)
    with np.errstate(divide="ignore"):
        inside = np.log1p(-np.exp(np.minimum(low - high, 0.0)))
    return np.where(mean > 0, high + inside, _other_side(mean, sd, most))


def _other_side(mean: Array, sd: Array, most: float) -> Array:
    """The same counted from above, which keeps its digits where the mean is negative."""
    from scipy.special import log_ndtr

    far, near = log_ndtr((mean - most) / sd), log_ndtr(mean / sd)
    with np.errstate(divide="ignore"):
        return np.asarray(near + np.log1p(-np.exp(np.minimum(far - near, 0.0))))


@dataclass(frozen=True)
class _Grid:
    """The linear fit at each pair (rate, ln τ): chi-square at its best, log determinant, values, variances (…, 3)."""

    chi2: Array
    log_det: Array
    found: Array
    var: Array


def _grid(at: Array, t: Array, p: Array, noise: Array, mean: Array, spread: Array) -> _Grid:
    answers = np.stack(_answers(at[:, 0], np.exp(at[:, 1]), t), axis=1)  # (pairs, 3, times)
    answers = answers / noise
    scaled = p / noise
    a = answers @ answers.transpose(0, 2, 1)
    b = answers @ scaled + mean / spread**2
    index = np.arange(3)
    a[:, index, index] += 1 / spread**2
    inverse = np.linalg.inv(a)
    found = np.einsum("nij,nj->ni", inverse, b)
    chi2 = float(scaled @ scaled) + float(((mean / spread) ** 2).sum()) - (b * found).sum(axis=-1)
    return _Grid(chi2, np.asarray(np.linalg.slogdet(a)[1]), found, np.asarray(inverse[:, index, index]))


def _flow(fit: _Fit, volume_l: float) -> tuple[float, float]:
    """Flow at the reference pressure and its standard uncertainty without the volume's, ml/min."""
    k = volume_l / P_ATM * 60_000.0
    return fit.flow * k, fit.u_flow * k


def _notes(fit: _Fit, top: float, drift0: float, u_drift0: float) -> tuple[str, ...]:
    notes = []
    if fit.heat > 0.08 * top:
        notes.append(
            f"Pumping warmed the air: {fit.heat / (fit.p0 + fit.heat):.0%} of the pressure went as it cooled, "
            "and is not counted. Pump slower next time."
        )
    if abs(fit.drift) > max(3 * fit.u_drift, 0.5):
        word = "fell" if fit.drift < 0 else "rose"
        notes.append(f"The temperature {word} meanwhile ({fit.drift:+.1f} Pa/s); that is not counted.")
    if u_drift0 >= DRIFT_PRIOR:
        notes.append(
            "No quiet stretch before pumping: what the room's temperature did is guessed, and widens the result."
        )
    return tuple(notes)
