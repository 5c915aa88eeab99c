"""Drying by weight: how much water is left, and when it will be little enough, with an honest interval.

The weight of something that dries falls as w(t) = w∞ + A·e^(−t/τ). For a given τ the curve is linear in w∞ and A; the
scatter of the scale is not known beforehand and is found from the readings, never smaller than the scale's own step. So
the answer is drawn from what the readings leave open (normal model with unknown scatter, τ on a grid; Gelman et al.,
Bayesian Data Analysis, 3rd ed., ch. 3 and 14).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from creekbed.core.climate.air import saturation_pressure_pa, wet_bulb_c
from creekbed.core.errors import BadInput

Array = npt.NDArray[np.float64]
FEWEST = 4
DRAWS = 4000
TAU_RANGE_MIN = (3.0, 3000.0)
TAU_TYPICAL_MIN, TAU_SPREAD = 60.0, 1.0
"""What drying at a bench usually takes, and within what factor (standard deviation of the logarithm): house default."""
OUTLIER = 4.0
"""Readings further off than so many robust standard deviations are left out, one at most in five: house default."""


@dataclass(frozen=True)
class Drying:
    """How it stands.

    Attributes:
        dry_g: weight it will come to, g, with its standard uncertainty. tau_min: time constant, minutes, the median.
        left_g: water left at the last reading, g, the median; left_95: 95 % interval.
        minutes: from the last reading until it is dry enough, the median; minutes_95: 95 % interval.
        is_dry: the whole interval of ``left`` is under the limit. left_out: indices of readings that were left out.
    """

    dry_g: float
    u_dry_g: float
    tau_min: float
    left_g: float
    left_95: tuple[float, float]
    minutes: float
    minutes_95: tuple[float, float]
    is_dry: bool
    left_out: tuple[int, ...]


def fit_drying(
    minutes: Sequence[float], grams: Sequence[float], limit_g: float, *, step_g: float = 0.1, seed: int = 1
) -> Drying:
    """Fit weighings of something that dries.

    Args:
        minutes: times, rising. grams: weights then. limit_g: water that may be left.
        step_g: the scale's smallest step. seed: of the draws.

    Raises:
        BadInput: fewer than four weighings, times that do not rise, weights that do not fall, or a limit of zero.
    """
    t, w = np.asarray(minutes, dtype=float), np.asarray(grams, dtype=float)
    _need(t, w, limit_g, step_g)
    keep = np.ones(len(t), dtype=bool)
    for _ in range(len(t) // 5):
        off = _farthest(t[keep], w[keep], step_g)
        if off is None:
            break
        keep[np.flatnonzero(keep)[off]] = False
    t0 = float(t[-1])
    dry, amount, tau = _draws(t[keep] - t0, w[keep], step_g, np.random.default_rng(seed))
    left = np.maximum(amount, 0.0)
    with np.errstate(divide="ignore", invalid="ignore"):
        wait = np.where(left > limit_g, tau * np.log(np.maximum(left, 1e-12) / limit_g), 0.0)
    low, high = (float(x) for x in np.quantile(left, [0.025, 0.975]))
    first, last = (float(x) for x in np.quantile(wait, [0.025, 0.975]))
    return Drying(
        float(np.median(dry)), float(np.std(dry)), float(np.median(tau)), float(np.median(left)), (low, high),
        float(np.median(wait)), (first, last), high <= limit_g, tuple(int(n) for n in np.flatnonzero(~keep)),
    )  # fmt: skip


def _need(t: Array, w: Array, limit: float, step: float) -> None:
    if t.ndim != 1 or t.shape != w.shape or len(t) < FEWEST:
        raise BadInput(f"{FEWEST} weighings at least say how it dries.", todo="Weigh it again in a while.")
    if not (np.isfinite(t).all() and np.isfinite(w).all()) or (np.diff(t) <= 0).any() or (w <= 0).any():
        raise BadInput("The weighings are not in the order of time, or no weights.", todo="Look at them again.")
    if not limit > 0 or not step > 0:
        raise BadInput("The limit and the scale's step must be more than 0 g.")
    slope = float(np.polyfit(t - t.mean(), w, 1)[0])
    scatter = max(float(np.median(np.abs(np.diff(w)))), step)
    if slope * (t[-1] - t[0]) > 2 * scatter:
        raise BadInput(
            "It gains weight.", todo="Something drips on it, or the scale has moved: zero it and begin again."
        )


def _solve(t: Array, w: Array, taus: Array, step: float) -> tuple[Array, Array, Array, Array]:
    """For each tau: best (w∞, A), the inverse of XᵀX, residual sum of squares, and log weight."""
    e = np.exp(-t / taus[:, None])
    n = len(t)
    a, b, c = np.full(len(taus), float(n)), e.sum(axis=1), (e**2).sum(axis=1)
    det = np.maximum(a * c - b * b, 1e-12)
    p, q = w.sum(), e @ w
    found = np.stack([(c * p - b * q) / det, (a * q - b * p) / det], axis=1)
    inverse = np.stack([np.stack([c, -b], 1), np.stack([-b, a], 1)], axis=1) / det[:, None, None]
    rest = w - found[:, :1] - found[:, 1:] * e
    rss = (rest**2).sum(axis=1) + n * step**2 / 12
    prior = -0.5 * ((np.log(taus) - math.log(TAU_TYPICAL_MIN)) / TAU_SPREAD) ** 2
    # the prior of A is flat in grams of water at the first weighing, whatever tau
    scale = np.log(np.exp(-t[0] / taus))
    log_weight = -0.5 * np.log(det) + scale - 0.5 * (n - 2) * np.log(rss) + prior
    return found, inverse, rss, log_weight


def _draws(t: Array, w: Array, step: float, rng: np.random.Generator) -> tuple[Array, Array, Array]:
    taus = np.geomspace(*TAU_RANGE_MIN, 240)
    found, inverse, rss, log_weight = _solve(t, w, taus, step)
    weight = np.exp(log_weight - log_weight.max())
    pick = rng.choice(len(taus), DRAWS * 4, p=weight / weight.sum())
    dof = max(len(t) - 2, 1)
    sigma2 = rss[pick] / rng.chisquare(dof, len(pick))
    chol = np.linalg.cholesky(inverse + 1e-12 * np.eye(2))[pick]
    shift = np.einsum("nij,nj->ni", chol, rng.normal(size=(len(pick), 2))) * np.sqrt(sigma2)[:, None]
    both = found[pick] + shift
    right = (both[:, 1] >= 0) & (both[:, 0] > 0)  # it dries: there was water, and a weight is left
    if right.sum() < 50:
        right = np.ones(len(pick), dtype=bool)
    chosen = np.flatnonzero(right)[:DRAWS]
    return both[chosen, 0], both[chosen, 1], taus[pick][chosen]


def _farthest(t: Array, w: Array, step: float) -> int | None:
    """The reading that stands out most from the fit of all the others, if it does."""
    if len(t) < FEWEST + 2:
        return None
    taus = np.geomspace(*TAU_RANGE_MIN, 60)
    worst, at = OUTLIER, None
    for n in range(len(t)):
        others = np.arange(len(t)) != n
        found, _, rss, log_weight = _solve(t[others] - t[-1], w[others], taus, step)
        best = int(np.argmax(log_weight))
        fitted = found[best, 0] + found[best, 1] * np.exp(-(t[n] - t[-1]) / taus[best])
        sigma = math.sqrt(max(rss[best] / max(others.sum() - 3, 1), step**2 / 12))
        if abs(w[n] - fitted) / sigma > worst and n not in (0, len(t) - 1):
            worst, at = abs(w[n] - fitted) / sigma, n
    return at


def rate_ratio(air_c: float, humidity: float, to_c: float, to_humidity: float) -> float:
    """How much faster something dries in other air: the ratio of the vapour-pressure differences.

    The wet surface stands near the wet-bulb temperature of each air, not at the air's own.

    Args:
        air_c, humidity: now, °C and 0 to 1. to_c, to_humidity: then.

    Raises:
        BadInput: air that is full of water, in which nothing dries.
    """
    now = _pull(air_c, humidity)
    then = _pull(to_c, to_humidity)
    if now <= 0:
        raise BadInput("In air that is full of water nothing dries.")
    return then / now


def _pull(celsius: float, humidity: float) -> float:
    wet = wet_bulb_c(celsius, humidity)
    return saturation_pressure_pa(wet) - humidity * saturation_pressure_pa(celsius)
