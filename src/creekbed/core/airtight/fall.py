"""How the pressure of a closed joint falls, and what a record of it leaves open.

The leak's law, the heat of pumping, drift and what the gauge shows at nothing are fitted together: everything but the
heat is integrated about its best, the heat lies on a grid that is laid along what the readings leave open.
"""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
import numpy.typing as npt

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

Array = npt.NDArray[np.float64]
P_REF = 2_500.0
"""Pressure at which leaks are compared, Pa: house default."""
HEAT_SHARE = 1 - 1 / 1.4
"""Most that compression heat can take of the peak: γ of air 1.4, adiabatic then isothermal; ideal gas."""
HEAT_MOST = 1.2 * HEAT_SHARE
"""The same with a fifth more for strokes whose air leaked meanwhile and left its heat: house default."""
WANDER = 4.0
"""How the temperature of the air inside wanders besides, Pa in a second, as a random walk: 0.012 K; house default."""
DRIFT_PRIOR = 1.0
"""Standard deviation of drift that a room brings unseen, Pa/s: about 0.2 K in a minute; house default."""
HEAT_PRIOR, HEAT_TAU_S, HEAT_TAU_SPREAD = 0.16, 3.0, 0.5
"""Heat expected of a hurried pump-up as a share of the peak (standard deviation); how fast it goes, s, and within what
factor (standard deviation of the logarithm): house default."""
OFFSET_PRIOR = 10.0
"""What a gauge that was zeroed may show at nothing, Pa, where no quiet stretch tells (standard deviation): house
default."""
EXPONENT, BEND = (0.78, 0.2), (0.0, 0.06)
"""Exponent of the flow over the pressure at the reference pressure: 0.5 is a hole, 1 a gap, more a pad that opens under
pressure (ASTM E779 for 0.5 to 1); and its change for each factor e of pressure: a gap beside a hole has about 0.06, a
path with an entry loss −0.09, by their algebra. Mean and standard deviation: house default."""
SLOW_HEAT, SLOW_TAU_S = 0.02, 8.0
"""Heat of hose and bulb goes slower than that of the joint: its share of the peak (standard deviation) and its time
constant, s: house default."""
EMPTY_SHARE, EMPTY_DOUBT = 0.05, 0.01
"""No law holds exactly below this share of the peak, because holes turn into gaps and pads settle; readings there are
trusted to within this share of the peak only (standard deviation): house default."""
LAG_S, LAG_DOUBT = 0.8, 0.01
"""How long a slow gauge lags behind, s, and to within what share of the peak it is believed till then (standard
deviation): house default."""
Law = Literal["laminar", "orifice", "between"]
MOST_READINGS, BEGINNING = 95, 30


@dataclass(frozen=True)
class Still:
    """What the quiet stretch says: drift, Pa/s, and what the gauge shows at nothing, Pa, each with its uncertainty."""

    drift: float = 0.0
    u_drift: float = DRIFT_PRIOR
    offset: float = 0.0
    u_offset: float = OFFSET_PRIOR
    seen: bool = False


def thinned(t: Array, p: Array, noise: float) -> tuple[Array, Array, Array]:
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


P0, RATE, OFFSET, N, M, DRIFT, SLOW = range(7)
"""Places of what is fitted about its best: pressure, fall at the reference pressure, offset, exponent, its bend, drift,
slow heat."""


@dataclass(frozen=True)
class FallFit:
    """Means and spreads over what the readings leave open; x and drawn: the likeliest curve's parameters."""

    rate: float
    u_rate: float
    exponent: float
    u_exponent: float
    drift: float
    u_drift: float
    heat: float
    u_heat: float
    x: Array
    drawn: Array

    def law(self) -> tuple[Law, float]:
        """The likeliest of gap, hole and what lies between, and how likely it is."""
        u = max(self.u_exponent, 1e-6)
        gap = 0.5 * math.erfc((0.87 - self.exponent) / u / math.sqrt(2))
        hole = 0.5 * math.erfc((self.exponent - 0.63) / u / math.sqrt(2))
        chances: dict[Law, float] = {"laminar": gap, "orifice": hole, "between": 1 - gap - hole}
        best = max(chances, key=lambda law: chances[law])
        return best, chances[best]


LONGEST_STEP_S = 0.5


def falls(x: Array, drawn: Array, t: Array) -> Array:
    """Pressure of a leaking joint: dp/dt = −rate·y(p/p_ref) + drift − cooling, from p0 + heat.

    ln y = n·ln(p/p_ref) + m/2·ln²(p/p_ref). By symmetric splitting (Strang 1968): in each step the leak goes as the
    power that it has there, which is exact; drift and heat alone are exact too.

    Args:
        x: rows of (p0, rate, offset, n, m, drift, slow heat), Pa and Pa/s; the offset is not added.
        drawn: rows of (heat, ln τ). t: times from 0, shape (n,).

    Returns:
        Shape (rows, n), Pa.
    """
    gaps = np.diff(t)
    parts = np.maximum(np.ceil(gaps / LONGEST_STEP_S - 1e-9).astype(int), 1)
    ends = np.append(0, np.cumsum(parts))
    inner = np.arange(ends[-1]) - np.repeat(ends[:-1], parts)
    fine = np.append(np.repeat(t[:-1], parts) + inner * np.repeat(gaps / parts, parts), t[-1])
    h = np.diff(fine)
    warm = drawn[:, :1] * np.exp(-fine / np.exp(drawn[:, 1:])) + x[:, SLOW:] * np.exp(-fine / SLOW_TAU_S)
    pushes = (x[:, DRIFT : DRIFT + 1] * h + np.diff(warm, axis=1)).T / P_REF
    n, m = x[:, N], x[:, M]
    halves = 0.5 * h[:, None] * (x[:, RATE] / P_REF)
    whole = halves.copy()
    whole[1:] += halves[:-1]  # the half steps on both sides of a point are one step of the leak
    out = np.empty((len(fine), len(x)))
    out[0] = now = (x[:, P0] + warm[:, 0]) / P_REF
    for k in range(len(h)):
        now = _leaked(now, whole[k], n, m) + pushes[k]
        out[k + 1] = now
    out[1:] = _leaked(out[1:], halves, n, m)
    return np.asarray(out[ends].T * P_REF)


def _leaked(p: Array, by: Array, n: Array, m: Array) -> Array:
    """What the leak alone leaves of a pressure after a short time, as the power that it is there.

    Args:
        p: over the reference pressure. by: rate · time, over the reference pressure.
    """
    size = np.clip(np.abs(p), 1e-4, 1e4)
    log = np.log(size)
    bend = m * log
    a = 1 - np.minimum(np.maximum(n + bend, 0.35), 1.8)
    a = np.where(np.abs(a) < 1e-3, 1e-3, a)
    left = 1 - a * by * np.exp(np.minimum((n - 1 + 0.5 * bend) * log, 40.0))
    kept = np.clip(np.log(np.clip(left, 1e-9, 1e9)) / a, -60.0, 10.0)
    return np.asarray(np.clip(p, -1e4, 1e4) * np.exp(kept))


ROUNDS, ENOUGH, GRID, REACH = 5, 14.0, 9, 2.8
"""At most how many rounds; how many points of the grid must carry the weight in the end (Kish's effective size); points
along each axis of the grid, and how far it reaches, in standard deviations."""


def fit_fall(t: Array, p: Array, noise: float, still: Still, top: float) -> FallFit:
    """What the readings say of the leak at the reference pressure, everything else averaged over.

    Heat and its time constant lie on a grid, first as they are expected, then where the round before found them; for
    each point all else, which is nearly linear, follows by Gauss–Newton and is integrated about its best.
    """
    from scipy.special import softmax  # not at the top: the window opens without

    t, p, noises = thinned(t, p, noise)
    empty = np.where(p - still.offset < EMPTY_SHARE * top, EMPTY_DOUBT * top, 0.0)
    noises = np.sqrt(noises**2 + empty**2 + np.where(t < LAG_S, LAG_DOUBT * top, 0.0) ** 2)
    walks = WANDER**2 * np.minimum.outer(t, t)
    walk = walks - walks.mean(axis=0) - walks.mean(axis=1)[:, None] + walks.mean()  # about its mean, which p0 takes
    whiten = np.linalg.inv(np.linalg.cholesky(walk + np.diag(noises**2)))
    heats = HEAT_MOST * top * np.linspace(0, 1, 11) ** 1.6
    log_taus = math.log(HEAT_TAU_S) + HEAT_TAU_SPREAD * np.linspace(-2, 2, 5)
    at = np.stack(np.meshgrid(heats, log_taus, indexing="ij"), axis=-1).reshape(-1, 2)
    area = np.repeat(np.gradient(heats), len(log_taus))
    edge = np.zeros(len(at), dtype=bool)
    mean = np.array([top, 0.0, still.offset, EXPONENT[0], BEND[0], still.drift, 0.0])
    sides = np.array([10 * top, 1e6, still.u_offset, EXPONENT[1], BEND[1], still.u_drift, SLOW_HEAT * top])
    start = np.tile(mean, (len(at), 1))
    start[:, P0] = top - at[:, 0]
    start[:, RATE] = _first_rate(t, p - still.offset, top)
    excess = 1.0
    for k in range(ROUNDS):
        best, chi2, prior, cov = _settled(
            start, at, (t, p, whiten / math.sqrt(excess)), mean, sides, 5 if k == 0 else 2
        )
        chi2 = chi2 * excess
        excess = max(float(chi2.min()) / max(len(t) - 5, 1), 1.0)  # what the law does not explain widens all
        u = np.sqrt(cov[:, RATE, RATE])
        own = (at[:, 0] / (HEAT_PRIOR * top)) ** 2 + ((at[:, 1] - math.log(HEAT_TAU_S)) / HEAT_TAU_SPREAD) ** 2
        cost = chi2 / excess + prior + own
        log_w = -0.5 * cost + 0.5 * np.linalg.slogdet(cov)[1] + _log_above_nothing(best[:, RATE] / u) + np.log(area)
        log_w[(at[:, 0] > HEAT_MOST * top) | ~np.isfinite(log_w)] = -np.inf
        if not np.isfinite(log_w).any():
            raise BadInput("This does not look like a leak.", todo="Let it stand for half a minute, then look again.")
        w = softmax(log_w)
        if k == ROUNDS - 1 or (k > 0 and _told(w) > ENOUGH and float(w[edge].sum()) < 0.03):
            break
        spare = w
        while _told(spare) < 5 and np.isfinite(log_w).sum() > 5:  # too coarse yet: look wider
            log_w = 0.6 * log_w
            spare = softmax(log_w)
        was, at, edge = at, *_laid_along(at, spare, top)
        area = np.ones(len(at))
        start = _led_on(was, best, spare, at)
        start[:, RATE] = np.clip(start[:, RATE], 0.2 * max(float(spare @ best[:, RATE]), 0.0), None)
    return _told_by(at, best, cost, cov, w)


def _first_rate(t: Array, p: Array, top: float) -> float:
    """A first guess of the fall at the reference pressure, Pa/s: from when half is gone, or from the end."""
    half = int(np.argmax(p < 0.5 * top)) if (p < 0.5 * top).any() else len(p) - 1
    fallen = max(top - float(p[half]), 1e-3 * top)
    return fallen / max(float(t[half]), 1e-2) * P_REF / top


def _laid_along(at: Array, w: Array, top: float) -> tuple[Array, npt.NDArray[np.bool_]]:
    """A grid along the principal axes of weighted points (heat, ln τ), no heat below 0, and which are its edge."""
    middle = w @ at
    away = at - middle
    cov = (away * w[:, None]).T @ away + np.diag([(1e-3 * top) ** 2, 1e-4])
    size, axes = np.linalg.eigh(cov / np.outer(np.sqrt(np.diag(cov)), np.sqrt(np.diag(cov))))
    steps = np.linspace(-REACH, REACH, GRID)
    a, b = (x.ravel() for x in np.meshgrid(steps, steps, indexing="ij"))
    whole = np.stack([a * math.sqrt(max(size[0], 1e-4)), b * math.sqrt(size[1])], axis=-1) @ axes.T
    points = middle + whole * np.sqrt(np.diag(cov))
    outside = np.maximum(np.abs(a), np.abs(b)) > 0.99 * REACH
    can = (points[:, 0] >= 0) & (points[:, 0] <= HEAT_MOST * top)
    return (points[can], outside[can]) if can.sum() >= 8 else (np.abs(points), outside)


def _led_on(was: Array, best: Array, w: Array, at: Array) -> Array:
    """Where the fits at new points begin: along the line through those before."""
    middle, centre = w @ was, w @ best
    away = was - middle
    wide = (away * w[:, None]).T @ away
    wide += np.diag(1e-6 * np.diag(wide) + 1e-9)
    slope = np.linalg.solve(wide, (away * w[:, None]).T @ (best - centre))
    return np.asarray(centre + (at - middle) @ slope)


def _log_above_nothing(z: Array) -> Array:
    """Logarithm of the chance that a normal value with this mean over its deviation is more than nothing."""
    from scipy.special import log_ndtr

    return np.asarray(log_ndtr(z))


def _told_by(at: Array, best: Array, cost: Array, cov: Array, w: Array) -> FallFit:
    """Means and spreads over the weighted grid, with the curve of its likeliest point."""
    u = np.sqrt(cov[:, RATE, RATE])
    z = best[:, RATE] / u
    # no leak blows in: the normal about each point's best is cut off at nothing (Johnson and Kotz 1970, ch. 13)
    hazard = np.exp(-0.5 * z**2 - 0.5 * math.log(2 * math.pi) - _log_above_nothing(z))
    rate, u_rate = _mean(best[:, RATE] + u * hazard, u**2 * np.maximum(1 - hazard * (z + hazard), 1e-9), w)
    n, u_n = _mean(best[:, N], cov[:, N, N], w)
    drift, u_drift = _mean(best[:, DRIFT], cov[:, DRIFT, DRIFT], w)
    heat, u_heat = _mean(at[:, 0], np.zeros(len(at)), w)
    k = int(np.argmin(np.where(w > 0, cost, np.inf)))
    return FallFit(rate, u_rate, n, u_n, drift, u_drift, heat, u_heat, best[k].copy(), at[k].copy())


def _mean(means: Array, variances: Array, w: Array) -> tuple[float, float]:
    """Mean and standard deviation of a weighted mixture."""
    mean = float(w @ means)
    return mean, math.sqrt(float(w @ (variances + (means - mean) ** 2)))


def _settled(
    start: Array, at: Array, readings: tuple[Array, Array, Array], mean: Array, sides: Array, steps: int
) -> tuple[Array, Array, Array, Array]:
    """What fits best for each row of (heat, ln τ), by Gauss–Newton.

    Args:
        start: rows of what is fitted. mean, sides: what is expected of it, and within what standard deviation.

    Returns:
        The best of each row, shape (rows, 7); chi-square of the readings there, and of what was expected; covariances.
    """
    t, p, whiten = readings
    x, rows = start.copy(), len(start)
    step = np.array([
        1e-3 * p[0], 2e-3 * float(np.abs(x[:, RATE]).mean()) + 1e-3, 0.0, 0.01, 0.004, 0.02, 2e-4 * p[0],
    ])  # fmt: skip
    moved = [k for k in range(7) if k != OFFSET]
    every = np.tile(x, (7, 1))
    for n, k in enumerate(moved, 1):
        every[n * rows : (n + 1) * rows, k] += step[k]
    curves = falls(every, np.tile(at, (7, 1)), t)
    there = curves[:rows]
    slopes = np.ones((rows, 7, len(t)))
    for n, k in enumerate(moved, 1):
        slopes[:, k] = (curves[n * rows : (n + 1) * rows] - there) / step[k]
    slopes = slopes @ whiten.T
    normal = slopes @ slopes.transpose(0, 2, 1) + np.diag(1 / sides**2)
    size = np.sqrt(normal[:, range(7), range(7)])
    scaled = normal / (size[:, :, None] * size[:, None, :]) + 1e-10 * np.eye(7)
    cov = np.linalg.inv(scaled) / (size[:, :, None] * size[:, None, :])
    most = np.array([0.3 * p[0], np.inf, np.inf, 0.2, 0.06, np.inf, np.inf])
    for _ in range(steps):  # the slopes hardly change on the way
        pull = np.einsum("nkt,nt->nk", slopes, (p - there - x[:, OFFSET, None]) @ whiten.T) + (mean - x) / sides**2
        move = np.einsum("nij,nj->ni", cov, pull)
        x += np.clip(move, -most, most)
        x[:, RATE] = np.maximum(x[:, RATE], -0.02 * P_REF)
        there = falls(x, at, t)
    chi2: Array = (((p - there - x[:, OFFSET, None]) @ whiten.T) ** 2).sum(axis=1)
    prior: Array = (((x - mean) / sides) ** 2).sum(axis=1)
    return x, np.where(np.isfinite(chi2), chi2, 1e30), prior, np.asarray(cov, dtype=float)


def _told(w: Array) -> float:
    """How many points carry the weight (Kish's effective sample size)."""
    return 1 / float((w**2).sum())
