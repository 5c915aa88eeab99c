"""Drying by weight: how much water is left, and when it will be little enough, with an interval that holds.

What dries loses water fast where it lies open and slowly out of bores, corks and pads; some dries at one rate at
first. So the weight is taken as w(t) = w∞ + A·g(t/τ), where g is one of many shapes: e^(−x^k), where k = 1 is one time
constant (Page 1949); a quick and a slow time constant side by side; or a rate that is constant and then falls. For
given τ and shape the curve is linear in w∞ and A. The scale's scatter and the changes of the air are found from the
readings, never smaller than the scale's own step. So the answer is drawn from what the readings leave open, over all
shapes (normal model with unknown scatter, τ on a grid; Gelman et al., Bayesian Data Analysis, 3rd ed., ch. 3, 7, 14).

Nothing that dries jumps. A part that was lifted off, put on or dripped upon between two weighings does.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cache

import numpy as np
import numpy.typing as npt

from creekbed.core.climate.air import saturation_pressure_pa, wet_bulb_c
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

Array = npt.NDArray[np.float64]
FEWEST = 4
DRAWS = 4000
TAU_RANGE_MIN = (3.0, 3000.0)
TAU_TYPICAL_MIN, TAU_SPREAD = 60.0, 1.0
"""What drying at a bench usually takes, and within what factor (standard deviation of the logarithm): house default."""


@dataclass(frozen=True)
class Shape:
    """What is left of the water after x time constants, as a share: 1 at 0.

    Attributes:
        exponent: e^(−x^k). share, slower: a slow stage beside the quick one, and how many times as slow it is.
        constant: below which share the rate falls; above it is constant (0: it falls from the beginning).
        chance: against others of its kind.
    """

    exponent: float = 1.0
    share: float = 0.0
    slower: float = 1.0
    constant: float = 0.0
    chance: float = 1.0

    @property
    def row(self) -> tuple[float, float, float, float]:
        """The values as numbers."""
        return self.exponent, self.share, self.slower, self.constant


SHAPES = (
    tuple(Shape(exponent=k, chance=math.exp(-0.5 * (math.log(k) / 0.35) ** 2)) for k in (
        0.5, 0.6, 0.7, 0.8, 0.9, 1.0, 1.1, 1.2, 1.35, 1.5, 1.7, 2.0,
    )),
    tuple(Shape(share=s, slower=r) for s in (0.05, 0.1, 0.2, 0.35, 0.5, 0.7) for r in (3.0, 6.0, 12.0)),
    tuple(Shape(constant=c) for c in (0.15, 0.3, 0.45, 0.6, 0.8)),
)  # fmt: skip
"""Shapes that drying takes: one stage, two stages, a constant rate first; each kind as likely as the others: house
default."""
AIR_SHARE, SCALE_STEPS, KNOWN = 0.15, 0.6, 4
"""How far one loss between weighings lies off a smooth curve because air changes, as a share of it; how far the scale
is off, in its steps (standard deviations); and as how many readings these two count against what the readings say:
house default."""
OUTLIER = 4.0
"""Readings more than this many standard deviations away are left out, at most one in five: house default."""
FASTER, FIRST_FASTER = 2.5, 12.0
"""Drying does not speed up: how many times as fast as any loss before it a jump is, and a first loss as what follows:
house default."""
LONGEST_MIN = 14 * 24 * 60.0
"""Weighings of one drying lie within two weeks, min: house default."""


@dataclass(frozen=True)
class Drying:
    """How it stands.

    Attributes:
        dry_g: weight it will come to, g; u_dry_g: its standard uncertainty. tau_min, shape: the likeliest curve's time
            constant and :class:`Shape` as numbers.
        left_g: water left at the last reading, g, the median; left_95: 95 % interval.
        minutes: from the last reading until it is dry enough, the median; minutes_95: 95 % interval.
        is_dry: the whole interval of ``left`` is under the limit. left_out: indices of readings that were left out.
        notes: what was seen besides, in words.
    """

    dry_g: float
    u_dry_g: float
    tau_min: float
    shape: tuple[float, float, float, float]
    left_g: float
    left_95: tuple[float, float]
    minutes: float
    minutes_95: tuple[float, float]
    is_dry: bool
    left_out: tuple[int, ...]
    notes: tuple[str, ...] = ()
    likeliest: tuple[float, float, float] = (0.0, 0.0, 0.0)
    """When its curve begins, min; the weight it comes to and the water at the beginning, g."""

    def curve(self, minutes: Array) -> Array:
        """The likeliest weight at times on the weighings' own clock, g."""
        begin, dry, water = self.likeliest
        since = np.maximum(np.asarray(minutes, dtype=float) - begin, 0.0)
        return np.asarray(dry + water * _g(since / self.tau_min, *self.shape))


def fit_drying(
    minutes: Sequence[float], grams: Sequence[float], limit_g: float, *, step_g: float = 0.1, seed: int = 1
) -> Drying:
    """Fit weighings of something that dries.

    Args:
        minutes: times, rising. grams: weights then. limit_g: water that may be left.
        step_g: the scale's smallest step. seed: of the draws.

    Returns:
        What is left at the last weighing. After a jump, only what was weighed since counts.

    Raises:
        BadInput: fewer than four weighings (also since the last jump), times that do not rise, weights that do not
            fall, or a limit of zero.
    """
    t, w = np.asarray(minutes, dtype=float), np.asarray(grams, dtype=float)
    _need(t, w, limit_g, step_g)
    notes: list[str] = []
    gains = BadInput("It gains weight.", todo="Something drips on it, or the scale has moved: zero it and begin again.")
    if float(np.mean(np.diff(w) > 0.5 * step_g)) > 0.6:
        raise gains
    begin = _last_jump(t, w, step_g, notes)
    if len(t) - begin < FEWEST:
        more = FEWEST - len(t) + begin
        raise BadInput(
            f"{notes[-1]} {more} more {'weighings are' if more > 1 else 'weighing is'} needed.",
            todo="Weigh the same piece each time.",
        )
    if _gains(t[begin:], w[begin:], step_g):
        raise gains
    keep = np.arange(len(t)) >= begin
    for _ in range((len(t) - begin) // 5):
        off = _farthest(t[keep] - t[begin], w[keep], step_g)
        if off is None:
            break
        keep[np.flatnonzero(keep)[off]] = False
    _need_falling(w[keep], step_g)
    since = t[keep] - t[begin]
    last = float(t[-1] - t[begin])
    drawn = _draws(since, w[keep], step_g, limit_g, np.random.default_rng(seed))
    left = drawn.amount * drawn.g(last)
    left = np.where(left < 0.5 * step_g, 0.0, left)  # what no scale sees is nothing
    wait = drawn.until(limit_g, last)
    low, high = (float(x) for x in np.quantile(left, [0.025, 0.975]))
    high = max(high, 0.5 * step_g)
    first, end = (float(x) for x in np.quantile(wait, [0.025, 0.975]))
    out = [int(n) for n in np.flatnonzero(~keep) if n >= begin]
    return Drying(
        float(np.median(drawn.dry)), float(np.std(drawn.dry)), drawn.best[2], drawn.best_shape, float(np.median(left)),
        (low, high), float(np.median(wait)), (first, end), high <= limit_g, (*range(begin), *out), tuple(notes),
        (float(t[begin]), drawn.best[0], drawn.best[1]),
    )  # fmt: skip


def _need(t: Array, w: Array, limit: float, step: float) -> None:
    if t.ndim != 1 or t.shape != w.shape or len(t) < FEWEST:
        raise BadInput(f"{FEWEST} weighings at least say how it dries.", todo="Weigh it again in a while.")
    if len(t) > 2000:
        raise BadInput("Those are more weighings than a drying has.", todo="One each minute is more than enough.")
    if not (np.isfinite(t).all() and np.isfinite(w).all()) or (np.diff(t) <= 0).any() or (w <= 0).any():
        raise BadInput("The weighings are not in the order of time, or no weights.", todo="Look at them again.")
    if t[-1] - t[0] > LONGEST_MIN or w.max() > 100_000:
        raise BadInput("No drying takes two weeks or weighs 100 kg.", todo="Times are in minutes, weights in grams.")
    if not 0 < limit < 1000 or not 0 < step < 100:
        raise BadInput("The limit and the scale's step must be more than 0 g.")


def _gains(t: Array, w: Array, step: float) -> bool:
    slope = float(np.polyfit(t - t.mean(), w, 1)[0])
    scatter = max(float(np.median(np.abs(np.diff(w)))), step)
    return bool(slope * float(t[-1] - t[0]) > 2 * scatter)


def _need_falling(w: Array, step: float) -> None:
    """Check that the readings fall after jumps and odd ones are removed; where they do not, no reading can be trusted.

    Raises:
        BadInput: a weight that rises by more than the scatter.
    """
    rises = np.diff(w)
    if rises.max() > 6 * min(_scatter(w, step), 2 * step):
        raise BadInput(
            f"The weighings do not go together: one is {rises.max():.2g} g above the one before.",
            todo="Weigh the same piece each time, with nothing on it. Weigh it again in a while.",
        )


def _last_jump(t: Array, w: Array, step: float, notes: list[str]) -> int:
    """The first reading after the last jump, 0 where there is none; what was seen is noted in words.

    Only what no drying does counts: weight gained beyond the scatter, or a loss much faster than any before it.
    """
    scatter = _scatter(w, step)
    begin, lost = 0, -np.diff(w)
    pace = np.maximum(lost, 0.0) / np.diff(t)
    for n in range(len(lost)):
        since = pace[begin:n]
        usual = float(since.max()) if len(since) else math.inf
        apart = float(t[n + 1] - t[n])
        gained = -lost[n] > 6 * scatter and not _odd(w, n + 1, scatter)
        fast = lost[n] > FASTER * (usual * apart + 2 * scatter) + 4 * scatter and not _odd(w, n + 1, scatter)
        if len(since) == 0 and n + 2 < len(w):
            later = float(pace[n + 1])
            fast = lost[n] > FIRST_FASTER * (later * apart + scatter) + 4 * scatter
        if (gained or fast) and not (n and _odd(w, n, scatter)):
            what = "gained" if gained else "lost"
            notes.append(
                f"Between weighings {n + 1} and {n + 2} it {what} {abs(lost[n]):.2g} g at once: a jump is not drying. "
                "Was a part lifted off, put on or dripped upon? Only what was weighed since counts."
            )
            begin = n + 1
    return begin


def _scatter(w: Array, step: float) -> float:
    """How far a reading may lie off, g: by third differences, which smooth drying hardly has; never under the step."""
    if len(w) < 7:
        return step
    third = np.diff(w, 3)
    return max(step, min(float(np.median(np.abs(third))) * 1.4826 / math.sqrt(20), 5 * step))


def _odd(w: Array, n: int, scatter: float) -> bool:
    """Whether a reading stands out alone: those before and after it go on as if it were not there."""
    if not 0 < n < len(w) - 1:
        return False
    between = 0.5 * (w[n - 1] + w[n + 1])
    return bool(abs(w[n] - between) > 3 * abs(w[n + 1] - w[n - 1]) + 3 * scatter)


@dataclass(frozen=True)
class _Readings:
    """Weighings made equally sure: times, and what turns a curve at these times into numbers of unit scatter."""

    t: Array
    w: Array
    whiten: Array

    @classmethod
    def of(cls, t: Array, w: Array, step: float, air: float = AIR_SHARE) -> _Readings:
        """How far readings may lie off a smooth curve: each by the scale, and each loss by the air, which changes."""
        lost = np.append(0.0, np.maximum(-np.diff(w), step))
        walks = np.minimum.outer(np.cumsum((air * lost) ** 2), np.cumsum((air * lost) ** 2))
        cov = walks + np.eye(len(t)) * (SCALE_STEPS * step) ** 2
        return cls(t, w, np.linalg.inv(np.linalg.cholesky(cov)))


def _g(
    x: Array, exponent: Array | float, share: Array | float, slower: Array | float, constant: Array | float
) -> Array:
    """What is left of the water after x time constants, as a share (:class:`Shape`)."""
    c = np.maximum(constant, 1e-3)
    first = (1 - c) / c  # how long the rate is constant
    steady = np.where(x < first, 1 - c * x, c * np.exp(-np.maximum(x - first, 0.0)))
    stages = (1 - share) * np.exp(-(x**exponent)) + share * np.exp(-x / slower)
    return np.asarray(np.where(np.asarray(constant) > 0, steady, stages))


@dataclass(frozen=True)
class _Solved:
    """For each (tau, shape): best (w∞, A), the inverse of XᵀX, sum of squares, and logarithm of the weight."""

    taus: Array
    shapes: Array
    found: Array
    inverse: Array
    rss: Array
    log_weight: Array


def _solve(readings: _Readings, taus: Array, shapes: Array, width: Array) -> _Solved:
    """Solve for each tau and shape.

    Args:
        shapes: numbers of each shape and its chance. width: of the logarithm of tau that each stands for.
    """
    e = _g(readings.t / taus[:, None], *(shapes[:, n, None] for n in range(4))) @ readings.whiten.T
    one, w = readings.whiten.sum(axis=1), readings.whiten @ readings.w
    n = len(w)
    a, b, c = np.full(len(taus), float(one @ one)), e @ one, (e**2).sum(axis=1)
    det = np.maximum(a * c - b * b, 1e-12)
    p, q = float(one @ w), e @ w
    found = np.stack([(c * p - b * q) / det, (a * q - b * p) / det], axis=1)
    inverse = np.stack([np.stack([c, -b], 1), np.stack([-b, a], 1)], axis=1) / det[:, None, None]
    rss = ((w - found[:, :1] * one - found[:, 1:] * e) ** 2).sum(axis=1) + KNOWN
    log_weight = -0.5 * np.log(det) - 0.5 * (n - 2 + KNOWN) * np.log(rss) + np.log(shapes[:, 4] * width)
    log_weight -= 0.5 * ((np.log(taus) - math.log(TAU_TYPICAL_MIN)) / TAU_SPREAD) ** 2
    return _Solved(taus, shapes, found, inverse, rss, np.where(found[:, 1] > 0, log_weight, -np.inf))


@cache
def _all_shapes() -> Array:
    """Numbers of each shape, and its chance."""
    rows = []
    for kind in SHAPES:
        whole = sum(s.chance for s in kind) * len(SHAPES)
        rows += [(*s.row, s.chance / whole) for s in kind]
    return np.array(rows)


def _coarse(readings: _Readings, count: int) -> _Solved:
    """Every shape at time constants over their whole range."""
    shapes = _all_shapes()
    logs = np.linspace(math.log(TAU_RANGE_MIN[0]), math.log(TAU_RANGE_MIN[1]), count)
    taus = np.tile(np.exp(logs), len(shapes))
    return _solve(readings, taus, np.repeat(shapes, count, axis=0), np.full(len(taus), logs[1] - logs[0]))


def _fine(readings: _Readings) -> _Solved:
    """Every shape at time constants that lie where its weight is."""
    count = 40
    solved = _coarse(readings, count)
    shapes = _all_shapes()
    for _ in range(3):
        taus, widths = [], []
        for n in range(len(shapes)):
            mine = slice(n * count, (n + 1) * count)
            logs, log_w = np.log(solved.taus[mine]), solved.log_weight[mine]
            if not np.isfinite(log_w).any():
                low, high = logs[0], logs[-1]
            else:
                near = np.flatnonzero(log_w > np.nanmax(log_w) - 12)
                low, high = logs[max(near[0] - 1, 0)], logs[min(near[-1] + 1, count - 1)]
            taus.append(np.exp(np.linspace(low, high, count)))
            widths.append(np.full(count, (high - low) / (count - 1)))
        solved = _solve(readings, np.concatenate(taus), np.repeat(shapes, count, axis=0), np.concatenate(widths))
    return solved


@dataclass(frozen=True)
class _Drawn:
    """Draws of weight when dry, water at the first weighing, tau and shape; the likeliest of them together."""

    dry: Array
    amount: Array
    tau: Array
    shape: Array
    best: tuple[float, float, float]
    best_shape: tuple[float, float, float, float]

    def g(self, minutes: Array | float) -> Array:
        """Share of the water that is left some time after the first weighing."""
        return _g(np.asarray(minutes / self.tau), *self.shape.T[:4])

    def until(self, limit: float, last: float) -> Array:
        """Minutes after the last weighing until no more than that is left, by halving."""
        low, high = np.full(len(self.tau), last), np.full(len(self.tau), last + LONGEST_MIN)
        for _ in range(50):
            middle = 0.5 * (low + high)
            wet = self.amount * self.g(middle) > limit
            low, high = np.where(wet, middle, low), np.where(wet, high, middle)
        return np.asarray(np.where(self.amount * self.g(last) > limit, high - last, 0.0))


def _draws(t: Array, w: Array, step: float, limit: float, rng: np.random.Generator) -> _Drawn:
    from scipy.special import softmax  # not at the top: what only wants rates of drying does without

    solved = _fine(_Readings.of(t, w, step))
    if not np.isfinite(solved.log_weight).any():
        raise BadInput("It does not lose weight.", todo="Is it on the rack? Weigh it again in a while.")
    pick = rng.choice(len(solved.taus), DRAWS * 4, p=softmax(solved.log_weight))
    sigma2 = solved.rss[pick] / rng.chisquare(len(t) - 2 + KNOWN, len(pick))
    chol = np.linalg.cholesky(solved.inverse + 1e-12 * np.eye(2))[pick]
    shift = np.einsum("nij,nj->ni", chol, rng.normal(size=(len(pick), 2))) * np.sqrt(sigma2)[:, None]
    both = solved.found[pick] + shift
    right = (both[:, 1] >= 0) & (both[:, 0] > 0)  # it dries: there was water, and a weight is left
    if right.sum() < 50:
        right = np.ones(len(pick), dtype=bool)
    # of how much water there was only the order of magnitude is open: one over the amount
    share = np.where(right, 1 / (np.maximum(both[:, 1], 0.0) + limit), 0.0)
    chosen = rng.choice(len(pick), DRAWS, p=share / share.sum())
    near = _coarse(_Readings.of(t, w, step, 0.0), 60)  # what is drawn goes through the readings
    k = int(np.argmax(near.log_weight))
    best, shape = (float(near.found[k, 0]), float(near.found[k, 1]), float(near.taus[k])), near.shapes[k]
    return _Drawn(
        both[chosen, 0], np.maximum(both[chosen, 1], 0.0), solved.taus[pick][chosen], solved.shapes[pick][chosen], best,
        (float(shape[0]), float(shape[1]), float(shape[2]), float(shape[3])),
    )  # fmt: skip


def _farthest(t: Array, w: Array, step: float) -> int | None:
    """The reading that stands out most from a line between its neighbours, if it does so by more than drying bends."""
    if len(t) < FEWEST + 2:
        return None
    share = (t[1:-1] - t[:-2]) / (t[2:] - t[:-2])
    off = np.abs(w[1:-1] - (w[:-2] + share * (w[2:] - w[:-2])))
    over = off - 0.6 * np.abs(w[2:] - w[:-2]) - OUTLIER * 1.5 * _scatter(w, step)
    return int(np.argmax(over)) + 1 if over.max() > 0 else None


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
