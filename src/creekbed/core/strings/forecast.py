"""How a new string will settle: when it is out of tune next, how it holds for a day, each with its interval.

Three laws are weighed by how well they explain the readings (Bayes factors, whose form for many readings is Schwarz's
criterion): creep by the logarithm of time, c(t) = a·ln(1 + t/τ); two exponentials, c(t) = Σ a_i·(1 − exp(−t/τ_i)); and
any smooth spectrum of such exponentials, of which the logarithm is an even one. What strings of this kind do, by the
house's numbers, is the prior; with time scales and the size of errors given, the amounts are linear and have normal
distributions. A forecast is the mixture over all of it.

Source: Ferry, Viscoelastic Properties of Polymers, retardation spectra (from memory); Gelman et al., Bayesian Data
Analysis, 3rd ed., chapters 3, 7, 14 and 21.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.strings.learned import READING_CENTS, STRING_SD
from creekbed.core.strings.settling import DAY_MIN, LONGEST_MIN, need_drop

Real = NDArray[np.float64]
MOST_SHARP = 12.0
"""A string that is sharper by more between two readings did not settle meanwhile: house default."""
SCALES = np.array([0.3, 0.5, 0.8, 1.3, 2.1, 3.4])
"""Strings of one kind creep by so many times the usual amount; a log-normal law of them is laid on these."""
TIMES = np.array([0.1, 0.25, 0.5, 1.0, 2.0, 4.0, 10.0])
"""The same for their time scales."""
ERRORS, ERROR_CHANCES = np.array([0.8, 1.5, 4.0]), np.array([0.5, 0.4, 0.1])
"""Readings are wrong by so many times what they say: house default."""
FAST, SLOW = 3.0, 120.0
"""Time scales of the two exponentials, in those of the logarithm: together they look like it for a day."""
WITHIN = 0.5
"""How far the amounts of the plain laws vary once their scale is given, as a share of them: house default."""
UNEVEN, SMOOTH = 1.0, 1.6
"""How uneven a spectrum is, as a share of an even one, and over how many e-folds of time it hangs together."""
CHANCES = {"log": 0.3, "two": 0.2, "spectrum": 0.5}
"""Of the laws, before anything was read: house default."""
NODES = 20
SURE = 0.8
"""A string will hold where the chance of that is as large: house default."""
DRAWS = 1024


@dataclass(frozen=True)
class Kind:
    """What strings of a kind do: the prior.

    Attributes:
        a_cents, tau_min: the usual law. spread_a, spread_tau: standard deviations of the logarithms of both from string
            to string: house default.
    """

    a_cents: float
    tau_min: float
    spread_a: float = STRING_SD
    spread_tau: float = 0.9

    def __post_init__(self) -> None:
        if not (self.a_cents > 0 and self.tau_min > 0 and self.spread_a > 0 and self.spread_tau > 0):
            raise BadInput("A kind of string needs amounts and time scales of more than 0.")


@dataclass(frozen=True)
class Drop:
    """A reading before a retune: how flat the string was.

    Attributes:
        from_min, to_min: since it was tuned up: the retune before, and this reading. cents: flat is positive.
        u_cents: standard uncertainty of that.
    """

    from_min: float
    to_min: float
    cents: float
    u_cents: float = READING_CENTS

    def __post_init__(self) -> None:
        need_drop(self.from_min, self.to_min, self.cents)
        if not self.u_cents > 0 or not math.isfinite(self.u_cents):
            raise BadInput("The uncertainty of a reading must be more than 0.")
        if not self.cents >= -max(MOST_SHARP, 4 * self.u_cents):
            raise BadInput(
                f"It went sharp by {-self.cents:.4g} cents: a string that settles goes flat.",
                todo="Was it tuned up since, or has the room cooled down? Tune it, and read it again later.",
            )


@dataclass(frozen=True)
class Span:
    """A number with its interval of 95 %."""

    low: float
    median: float
    high: float


@dataclass(frozen=True, eq=False)
class Forecast:
    """What is to be expected of a string, from its last retune on.

    Attributes:
        last_min: the last retune, minutes since it was tuned up.
        next_min: when it will be flat by the tolerance, minutes since it was tuned up; :data:`LONGEST_MIN` after the
            last retune where it holds for a month.
        first_day: cents flat a day after the last retune. good_from: when a retune will hold for a day with a chance
            of :data:`SURE`, minutes since it was tuned up.
        holds: chance that the day after the last retune stays within the limit.
        laws: chance of each law: "log", "two" (exponentials), "spectrum".
        slips: chance that it creeps more than four times as much as its kind: then a peg or a winding slips.
    """

    last_min: float
    next_min: Span
    first_day: Span
    good_from: float
    holds: float
    laws: dict[str, float]
    slips: float
    _draws: _Draws

    @property
    def surely_holds(self) -> bool:
        """Whether the chance that it holds is large enough to rely on."""
        return self.holds >= SURE

    def curve(self, times_min: Sequence[float] | Real) -> tuple[Real, Real, Real]:
        """Cents flat at some times after the last retune: lower end, median and upper end of 95 %.

        Args:
            times_min: minutes since it was tuned up, not before the last retune; shape (N,).
        """
        at = np.asarray(times_min, dtype=np.float64)
        flat = self._draws.drop(np.array([self.last_min]), at)
        low, middle, high = np.quantile(flat, (0.025, 0.5, 0.975), axis=0)
        return low, middle, high


@dataclass(frozen=True, eq=False)
class _Draws:
    """Equally likely laws: a logarithm and exponentials of given time scales, with the amounts of each draw.

    Attributes:
        amount, tau: of the logarithm, shape (draws,). amounts: of the exponentials, shape (draws, nodes). nodes: their
            time scales.
    """

    amount: Real
    tau: Real
    amounts: Real
    nodes: Real
    laws: dict[str, float]

    def flat(self, at: Real) -> Real:
        """c(t) of each law at each time, shape (draws, times)."""
        logarithm = self.amount[:, None] * np.log1p(at / self.tau[:, None])
        return np.asarray(logarithm - self.amounts @ np.expm1(-at / self.nodes[:, None]))

    def drop(self, start: Real, end: Real) -> Real:
        """How far each law goes flat from each start, or from one, to each end, shape (draws, times)."""
        return self.flat(end) - self.flat(start)


def readable(rows: Sequence[tuple[float, float, float]]) -> tuple[Drop, ...]:
    """Readings on record, (start, end, cents flat) each, as a forecast takes them.

    Those that no settling string gives say nothing to it and are left out.
    """
    found = []
    for start, end, cents in rows:
        try:
            found.append(Drop(start, end, cents))
        except BadInput:
            continue
    return tuple(found)


@lru_cache(maxsize=64)
def forecast(
    kind: Kind, drops: tuple[Drop, ...], *, tolerance_cents: float, limit_cents: float, last_min: float | None = None
) -> Forecast:
    """What is to be expected of a string.

    Args:
        kind: what such strings do. drops: readings before retunes. tolerance_cents: flat by so much it is retuned.
        limit_cents: what the first day may bring. last_min: the last retune; the last reading's end if not given.

    Raises:
        BadInput: a tolerance or limit of 0 or less, or a last retune before 0.
    """
    if not (tolerance_cents > 0 and limit_cents > 0):
        raise BadInput("A tolerance must be more than 0 cents.")
    last = max((d.to_min for d in drops), default=0.0) if last_min is None else last_min
    if not 0 <= last <= LONGEST_MIN:
        raise BadInput("The last retune lies between tuning up and a month after.")
    draws = _drawn(kind, drops)
    tuned, retuned, day = np.array([0.0]), np.array([last]), np.array([DAY_MIN])
    ahead = np.concatenate([[0.0], np.geomspace(0.25, LONGEST_MIN, 180)])
    next_min = last + _first(ahead, draws.drop(retuned, last + ahead) >= tolerance_cents)
    first_day = draws.drop(retuned, retuned + day)
    good = _first(ahead, draws.drop(ahead, ahead + day) <= limit_cents)
    usual = kind.a_cents * math.log1p(DAY_MIN / kind.tau_min)
    return Forecast(
        last_min=last, next_min=_span(next_min), first_day=_span(first_day), good_from=float(np.quantile(good, SURE)),
        holds=float(np.mean(first_day <= limit_cents)), laws=draws.laws,
        slips=float(np.mean(draws.drop(tuned, day) > 4 * usual)), _draws=draws,
    )  # fmt: skip


def _first(at: Real, true: NDArray[np.bool_]) -> Real:
    """The first time at which a row is true; the last time where it never is. Shape (draws,)."""
    first = np.where(true.any(axis=1), true.argmax(axis=1), at.size - 1)
    return np.asarray(at[first])


def _span(values: Real) -> Span:
    low, middle, high = np.quantile(values, (0.025, 0.5, 0.975))
    return Span(float(low), float(middle), float(high))


def _log_normal(points: Real, spread: float) -> Real:
    weight = np.exp(-0.5 * (np.log(points) / spread) ** 2)
    return np.asarray(weight / weight.sum())


def _drawn(kind: Kind, drops: Sequence[Drop]) -> _Draws:
    """Laws drawn from what the kind and the readings make likely."""
    start, end = np.array([d.from_min for d in drops]), np.array([d.to_min for d in drops])
    read = np.array([d.cents for d in drops]), np.array([d.u_cents for d in drops])
    by_scale, by_time = _log_normal(SCALES, kind.spread_a), _log_normal(TIMES, kind.spread_tau)
    nodes = np.geomspace(0.1 * kind.tau_min, 2 * LONGEST_MIN, NODES)
    steps = np.exp(-start[:, None] / nodes) - np.exp(-end[:, None] / nodes)
    usual = np.array([kind.a_cents])
    apart = np.log(nodes[:, None] / nodes) / SMOOTH
    smooth = UNEVEN**2 * np.exp(-0.5 * apart**2) + 1e-6 * np.eye(NODES)
    cells: list[_Cell] = []
    for time, share in zip(TIMES, by_time, strict=True):
        tau = kind.tau_min * float(time)
        column = np.log((tau + end) / (tau + start))[:, None]
        cells.append(_Cell("log", tau, None, *_posterior(column, usual, np.eye(1) * WITHIN**2, *read), share))
        even = kind.a_cents * np.exp(-tau / nodes) * math.log(nodes[1] / nodes[0])
        cells.append(_Cell("spectrum", tau, np.arange(NODES), *_posterior(steps, even, smooth, *read), share))
    for i, j, share in _pairs(kind, nodes):
        both = kind.a_cents * _like_a_logarithm(nodes[i] / kind.tau_min, nodes[j] / kind.tau_min)
        at = np.array([i, j])
        found = _posterior(steps[:, at], both, np.eye(2) * WITHIN**2, *read)
        cells.append(_Cell("two", 1.0, at, *found, share))
    return _resampled(cells, by_scale, nodes)


@dataclass(frozen=True, eq=False)
class _Cell:
    """A law with its time scales: log weight, mean and root of the covariance of its amounts by scale and error.

    Attributes:
        at: the nodes whose amounts they are; ``None`` for the logarithm.
    """

    law: str
    tau: float
    at: NDArray[np.intp] | None
    weight: Real
    mean: Real
    root: Real
    share: float


def _pairs(kind: Kind, nodes: Real) -> list[tuple[int, int, float]]:
    """Pairs of time scales of two exponentials, with how likely each is before anything was read."""
    found = []
    for i in range(0, nodes.size, 2):
        for j in range(i + 3, nodes.size, 2):
            off = math.log(nodes[i] / (FAST * kind.tau_min)), math.log(nodes[j] / (SLOW * kind.tau_min))
            weight = math.exp(-0.5 * (off[0] ** 2 + off[1] ** 2) / kind.spread_tau**2)
            if weight > 0.05:
                found.append((i, j, weight))
    total = sum(w for _, _, w in found)
    return [(i, j, w / total) for i, j, w in found]


@lru_cache(maxsize=512)
def _like_a_logarithm(fast: float, slow: float) -> Real:
    """Amounts of two exponentials that look most like ln(1 + t/τ) within a day, for τ = 1."""
    at = np.geomspace(0.1, 300.0, 60)
    rows = 1 - np.exp(-at[:, None] / np.array([fast, slow]))
    return np.asarray(np.maximum(np.linalg.lstsq(rows, np.log1p(at), rcond=None)[0], 0.2))


def _posterior(columns: Real, usual: Real, relative: Real, y: Real, u: Real) -> tuple[Real, Real, Real]:
    """Log evidence, mean and root of the covariance of amounts, for each of :data:`SCALES` and :data:`ERRORS`.

    Args:
        columns: what one of each amount adds to each reading, shape (readings, amounts). usual: of such strings.
        relative: covariance of the amounts as shares of the usual ones. y, u: readings and their uncertainties.

    Returns:
        Shapes (scales, errors), (scales, errors, amounts) and (scales, errors, amounts, amounts).
    """
    mean = SCALES[:, None] * usual
    prior = SCALES[:, None, None] ** 2 * (usual[:, None] * relative * usual)
    at = columns @ prior @ columns.T
    noise = (ERRORS[:, None] * u) ** 2
    spread = at[:, None] + noise[None, :, :, None] * np.eye(y.size)
    missed = y - mean @ columns.T
    inverse = np.linalg.inv(spread)
    gain = np.einsum("sab,rb,serq->seaq", prior, columns, inverse)
    centre = mean[:, None] + np.einsum("seaq,sq->sea", gain, missed)
    covariance = prior[:, None] - np.einsum("seaq,qb,sbc->seac", gain, columns, prior)
    fit = np.einsum("sq,seqr,sr->se", missed, inverse, missed)
    weight = -0.5 * (np.linalg.slogdet(spread)[1] + fit)
    values, vectors = np.linalg.eigh(covariance)
    return weight, centre, vectors * np.sqrt(np.maximum(values, 0.0))[..., None, :]


def _resampled(cells: Sequence[_Cell], by_scale: Real, nodes: Real) -> _Draws:
    """:data:`DRAWS` equally likely laws: cells evenly by their weights, amounts by normals that are always the same."""
    before = np.log(by_scale)[:, None] + np.log(ERROR_CHANCES)
    weights = np.stack([c.weight + before + math.log(CHANCES[c.law] * c.share) for c in cells])
    shares = np.exp(weights - weights.max())
    total = np.cumsum(shares.ravel() / shares.sum())
    picked = np.minimum(np.searchsorted(total, (np.arange(DRAWS) + 0.5) / DRAWS), total.size - 1)
    normal = np.random.default_rng(NODES).normal(size=(DRAWS, NODES))  # always the same: a forecast does not flicker
    amount, tau, amounts = np.zeros(DRAWS), np.ones(DRAWS), np.zeros((DRAWS, NODES))
    which, scale, error = np.unravel_index(picked, shares.shape)
    for n in np.unique(which):
        cell, rows = cells[n], np.flatnonzero(which == n)
        s, e, size = scale[rows], error[rows], cell.mean.shape[-1]
        drawn = cell.mean[s, e] + np.einsum("nab,nb->na", cell.root[s, e], normal[rows, :size])
        drawn = np.maximum(drawn, 0.0)  # a string does not creep back
        if cell.at is None:
            amount[rows], tau[rows] = drawn[:, 0], cell.tau
        else:
            amounts[rows[:, None], cell.at] = drawn
    laws = {law: float(np.mean([cells[n].law == law for n in which])) for law in CHANCES}
    return _Draws(amount, tau, amounts, nodes, laws)
