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
DRIFT_PRIOR = 1.0
"""Standard deviation of drift that a room brings unseen, Pa/s: about 0.2 K in a minute; house default."""
HEAT_PRIOR, HEAT_TAU_S, HEAT_TAU_SPREAD = 0.12, 3.0, 0.5
"""Heat expected of a hurried pump-up as a share of the peak (standard deviation); how fast it goes, s, and within what
factor (standard deviation of the logarithm): house default."""
Law = Literal["laminar", "orifice"]
MOST_READINGS = 200


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
        return np.asarray(self.p0 * fall[0] + drift * by_drift[0] + heat * by_heat[0, 0])


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
    t_fall, p_fall, noise = _thinned(t_fall, p_fall, noise)
    given = (t_fall, p_fall, noise, drift0, u_drift0)
    gap = _fit_gap(*given)
    hole = _fit_hole(*given, once=gap.aic < 1.3 * len(t_fall))
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
    """Where the fall begins: the peak just after the last stroke of the pump."""
    rise = p[3:] - p[:-3]
    strokes = np.flatnonzero(rise > 0.04 * p.max())
    begin = int(strokes[-1]) if len(strokes) else 0
    end = int(np.searchsorted(t, t[min(begin + 3, len(t) - 1)] + 0.3))
    return begin + int(np.argmax(p[begin : end + 1]))


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


def _thinned(t: Array, p: Array, noise: float) -> tuple[Array, Array, float]:
    """Long series as means of neighbours: a fit needs no more than some hundred points."""
    size = -(-len(t) // MOST_READINGS)
    if size == 1:
        return t, p, noise
    n = len(t) // size * size
    return t[:n].reshape(-1, size).mean(axis=1), p[:n].reshape(-1, size).mean(axis=1), noise / math.sqrt(size)


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
    """How a joint with a laminar leak answers, for each rate: to 1 Pa, a drift of 1 Pa/s, 1 Pa of air that cools.

    The leak works on the whole pressure, so that what drift and heat bring leaks away too:
    dp/dt = −rate·p + drift − (heat/τ)·e^(−t/τ), from p0 + heat, in closed form.

    Returns:
        Shapes (rates, times), (rates, times), (rates, taus, times); the last is e^(−t/τ) where nothing leaks.
    """
    r, q = rates[:, None], 1 / taus[:, None]
    fall = np.exp(-r * t)
    drift = np.where(r * t < 1e-6, t, -np.expm1(-r * t) / np.maximum(r, 1e-300))
    gap = r[:, None, :] - q
    gap = np.where(np.abs(gap) < 1e-6, 1e-6, gap)
    cooling = -q * (np.exp(-q * t) - fall[:, None, :]) / gap
    return fall, drift, fall[:, None, :] + cooling


def _through_a_hole(x: Array, t: Array) -> Array:
    """Pressure of a joint with a hole: dp/dt = −2k·√p + drift − (heat/τ)·e^(−t/τ), from p0 + heat.

    By symmetric splitting (Strang 1968): the hole alone is exact, √p falls in a line; drift and heat alone too.

    Args:
        x: rows of (p0, k, drift, heat, ln τ), shape (rows, 5). t: times from 0, shape (n,).

    Returns:
        Shape (rows, n), Pa.
    """
    p0, k, drift, heat, log_tau = x.T
    parts = max(1, math.ceil(float(np.diff(t).max()) / 0.3))
    fine = np.append((t[:-1, None] + np.diff(t)[:, None] * np.arange(parts) / parts).ravel(), t[-1])
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
    return out[::parts].T


def _fit_hole(t: Array, p: Array, noise: float, drift0: float, u_drift0: float, *, once: bool = False) -> _Fit:
    """Least squares for p0, k, drift, √heat and ln τ, the last three with what is expected of them.

    Args:
        once: start from little heat only; else also from much, where the first does not fit.
    """
    from scipy.optimize import least_squares

    top = float(p[0])
    half = int(np.searchsorted(-p, -0.5 * top))
    t_half = float(t[half]) if half < len(t) else float(t[-1]) * max(top / max(top - float(p[-1]), 1.0), 1.0)
    k0 = math.sqrt(top) * (1 - math.sqrt(0.5)) / max(t_half, 1e-3)
    expected = np.array([drift0, 0.0, math.log(HEAT_TAU_S)])
    spread = np.array([u_drift0, HEAT_PRIOR * top, HEAT_TAU_SPREAD])
    steps = np.diag([1e-3 * top, 1e-3 * k0 + 1e-6, 0.01, 0.02 * math.sqrt(top), 1e-3])
    known: dict[bytes, Array] = {}

    def rows(x: Array) -> Array:
        """The curve at x and at a step to both sides in each parameter, in one go."""
        key = x.tobytes()
        if key not in known:
            every = np.vstack([x, x + steps, x - steps])
            every[:, 3] **= 2
            if len(known) > 3:
                del known[next(iter(known))]
            known[key] = _through_a_hole(every, t)
        return known[key]

    def rest(x: Array) -> Array:
        beside = np.array([x[2], x[3] ** 2, x[4]])
        return np.concatenate([(rows(x)[0] - p) / noise, (beside - expected) / spread])

    def slopes(x: Array) -> Array:
        made = (rows(x)[1:6] - rows(x)[6:]).T / (2 * np.diag(steps)) / noise
        beside = np.hstack([np.zeros((3, 2)), np.diag([1.0, 2 * x[3], 1.0]) / spread[:, None]])
        return np.vstack([made, beside])

    found = None
    for share in (0.02, 0.2):
        start = np.array([top * (1 - share), k0, drift0, math.sqrt(share * top), math.log(HEAT_TAU_S)])
        scale = [top, k0, 1.0, math.sqrt(0.1 * top), 0.5]
        tried = least_squares(
            rest, start, jac=slopes, method="lm", x_scale=scale, max_nfev=7 if once else 12, xtol=1e-4, ftol=1e-4
        )
        if found is None or tried.cost < found.cost:
            found = tried
        if once or 2 * found.cost < 1.3 * len(t):
            break
    assert found is not None
    x, chi2 = found.x, 2 * float(found.cost)
    excess = max(chi2 / max(len(t) - 2, 1), 1.0)  # what the law does not explain widens what is said of it
    cov = np.linalg.pinv(found.jac.T @ found.jac) * excess
    worth = 2 * math.sqrt(P_REF)
    return _Fit(
        "orifice", float(x[1]), float(x[0]), float(x[3] ** 2), math.exp(float(x[4])), float(x[2]),
        math.sqrt(max(float(cov[2, 2]), 0.0)), chi2 + 2 * 5, float(x[1]) * worth,
        math.sqrt(max(float(cov[1, 1]), 0.0)) * worth,
    )  # fmt: skip


def _fit_gap(t: Array, p: Array, noise: float, drift0: float, u_drift0: float) -> _Fit:
    """What the readings say of the rate, everything else averaged over.

    For a given rate and time constant of the heat the curve is linear in p0, drift and heat, so that these are
    integrated in closed form; the two others on a grid that narrows until the rate is well resolved.
    """
    from scipy.special import log_ndtr

    top = float(p[0])
    taus = np.exp(math.log(HEAT_TAU_S) + HEAT_TAU_SPREAD * np.linspace(-2.2, 2.2, 9))
    mean = np.array([top, drift0, 0.0])
    spread = np.array([10 * top, u_drift0, HEAT_PRIOR * top])
    rates = np.concatenate([[0.0], np.geomspace(1e-5, 30.0, 90)])
    for _ in range(6):
        tau_prior = -0.5 * ((np.log(taus) - math.log(HEAT_TAU_S)) / HEAT_TAU_SPREAD) ** 2
        grid = _grid(*_answers(rates, taus, t), p, noise, mean, spread)
        excess = max(float(grid.chi2.min()) / max(len(t) - 2, 1), 1.0)  # what the law does not explain widens all
        warm = log_ndtr(grid.found[:, :, 2] / np.sqrt(excess * grid.var[..., 2]))  # pumping warms, it never cools
        log_p = -0.5 * grid.chi2 / excess - 0.5 * grid.log_det + tau_prior + warm
        weight = np.exp(log_p - log_p.max())
        marginal = weight.sum(axis=1) * np.gradient(rates)
        there = np.flatnonzero(marginal > 1e-4 * marginal.max())
        low, high = max(int(there[0]) - 1, 0), min(int(there[-1]) + 1, len(rates) - 1)
        if len(there) > 25:
            break
        rates = np.linspace(rates[low], rates[high], 61)
        likely = np.flatnonzero(weight.sum(axis=0) > 1e-3 * weight.sum(axis=0).max())
        if len(likely) < 5:
            near = (taus[max(int(likely[0]) - 1, 0)], taus[min(int(likely[-1]) + 1, len(taus) - 1)])
            taus = np.geomspace(*near, len(taus))
    every = weight * np.gradient(rates)[:, None]
    every /= every.sum()
    flows = rates[:, None] * P_REF * np.ones_like(every)
    centre = float((flows * every).sum())
    u = math.sqrt(max(float(((flows - centre) ** 2 * every).sum()), 0.0))
    drift = float((grid.found[:, :, 1] * every).sum())
    drift_var = float((((grid.found[:, :, 1] - drift) ** 2 + excess * grid.var[..., 1]) * every).sum())
    r, c = np.unravel_index(int(np.argmax(log_p)), log_p.shape)
    p0, best_drift, heat = (float(x) for x in grid.found[r, c])
    aic = float(grid.chi2.min()) + 2 * 5  # both laws have five parameters
    return _Fit("laminar", float(rates[r]), p0, heat, float(taus[c]), best_drift, math.sqrt(drift_var), aic, centre, u)


@dataclass(frozen=True)
class _Grid:
    """The linear fit at every (rate, tau): chi-square at its best, log determinant, values and variances (…, 3)."""

    chi2: Array
    log_det: Array
    found: Array
    var: Array


def _grid(fall: Array, drift: Array, warm: Array, p: Array, noise: float, mean: Array, spread: Array) -> _Grid:
    n, m = warm.shape[:2]
    a = np.empty((n, m, 3, 3))
    b = np.empty((n, m, 3))
    a[..., 0, 0] = (fall**2).sum(axis=1)[:, None]
    a[..., 1, 1] = (drift**2).sum(axis=1)[:, None]
    a[..., 2, 2] = np.einsum("nmt,nmt->nm", warm, warm)
    a[..., 0, 1] = a[..., 1, 0] = (fall * drift).sum(axis=1)[:, None]
    a[..., 0, 2] = a[..., 2, 0] = np.einsum("nmt,nt->nm", warm, fall)
    a[..., 1, 2] = a[..., 2, 1] = np.einsum("nmt,nt->nm", warm, drift)
    b[..., 0], b[..., 1], b[..., 2] = (fall @ p)[:, None], (drift @ p)[:, None], warm @ p
    a, b = a / noise**2, b / noise**2
    index = np.arange(3)
    a[..., index, index] += 1 / spread**2
    b += mean / spread**2
    inverse = np.linalg.inv(a)
    found = np.einsum("nmij,nmj->nmi", inverse, b)
    chi2 = float(p @ p) / noise**2 + float(((mean / spread) ** 2).sum()) - (b * found).sum(axis=-1)
    return _Grid(chi2, np.asarray(np.linalg.slogdet(a)[1]), found, np.asarray(inverse[..., index, index]))


def _flow(fit: _Fit, volume_l: float) -> tuple[float, float]:
    """Flow at the reference pressure and its standard uncertainty without the volume's, ml/min."""
    k = volume_l / P_ATM * 60_000.0
    return fit.flow * k, fit.u_flow * k


def _notes(fit: _Fit, top: float, drift0: float, u_drift0: float) -> tuple[str, ...]:
    notes = []
    if fit.heat > 0.05 * top:
        notes.append(
            f"Pumping warmed the air: {fit.heat / (fit.p0 + fit.heat):.0%} of the pressure went as it cooled, "
            "and is not counted. Pump slower next time."
        )
    if abs(fit.drift) > max(2 * fit.u_drift, 0.5):
        word = "fell" if fit.drift < 0 else "rose"
        notes.append(f"The temperature {word} meanwhile ({fit.drift:+.1f} Pa/s); that is not counted.")
    if u_drift0 >= DRIFT_PRIOR:
        notes.append(
            "No quiet stretch before pumping: what the room's temperature did is guessed, and widens the result."
        )
    return tuple(notes)
