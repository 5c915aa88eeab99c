"""How a new string settles: logarithmic creep c(t) = −a·ln(1 + t/τ), in cents.

Each retune brings the pitch back to nought, but the string goes on along the same curve, ever more slowly.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

from creekbed.core.conventions import number
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

DAY_MIN = 24 * 60.0
LONGEST_MIN = 30 * DAY_MIN
"""How far a forecast goes at most, min: house default."""
MOST_CENTS = 600.0
"""A string that goes flat by more between two retunes was not tuned up: house default."""
MOST_TIMES = 10.0
"""A string that creeps so many times as much as the house's slips on its peg: house default."""


@dataclass(frozen=True)
class Creep:
    """Creep law of a string: ``a_cents`` per e-fold of time, ``tau_min`` its time scale."""

    a_cents: float
    tau_min: float

    def __post_init__(self) -> None:
        if not (self.a_cents > 0 and self.tau_min > 0):
            raise BadInput("A creep law needs an amount and a time scale of more than 0.")

    def drop_cents(self, from_min: float, to_min: float) -> float:
        """How far the string goes flat between two times since it was tuned up, cents, not negative."""
        return self.a_cents * math.log((self.tau_min + to_min) / (self.tau_min + from_min))

    def next_out(self, from_min: float, tolerance_cents: float) -> float:
        """Minutes since tuning up at which a string retuned at ``from_min`` is flat by the tolerance.

        At most :data:`LONGEST_MIN` after it: what holds for a month holds.
        """
        grows = math.exp(min(tolerance_cents / self.a_cents, 50.0))
        return min((self.tau_min + from_min) * grows - self.tau_min, from_min + LONGEST_MIN)


def need_drop(from_min: float, to_min: float, cents: float) -> None:
    """See that a reading of how flat a string was can be one.

    Raises:
        BadInput: times that do not go forward or last longer than a month, or a drop that cannot be.
    """
    if not 0 <= from_min < to_min:
        raise BadInput("Each reading needs a later end than its start.")
    if to_min > LONGEST_MIN:
        raise BadInput("A reading more than a month after tuning up says nothing.", todo="Times are in minutes.")
    if not abs(cents) <= MOST_CENTS:
        raise BadInput(
            f"No string goes flat by {cents:.4g} cents between two retunes.", todo="100 cents are one semitone."
        )


def fit_creep(house: Creep, drops: Sequence[tuple[float, float, float]], house_weight: float = 1.0) -> Creep:
    """Adapt the house's creep amount to what a string has shown.

    The time scale is kept; the amount is the least-squares fit through the origin of the measured drops
    against ln((τ+t2)/(τ+t1)), with the house value counted as ``house_weight`` further observations of the
    mean size, so that one reading does not throw the forecast about.

    Args:
        house: the house law for this kind of string.
        drops: rows of (from_min, to_min, drop_cents), times since tuning up, drops positive when flat.
        house_weight: how many readings the house value is worth.

    Raises:
        BadInput: a row whose times do not go forward or last longer than a month, a drop that cannot be, or one after
            which no string but a slipping one is left.
    """
    rows = []
    for start, end, drop in drops:
        need_drop(start, end, drop)
        rows.append((math.log((house.tau_min + end) / (house.tau_min + start)), drop))
    if not rows:
        return house
    mean_sq = sum(x * x for x, _ in rows) / len(rows)
    weight = house_weight * mean_sq
    a = (sum(x * y for x, y in rows) + weight * house.a_cents) / (sum(x * x for x, _ in rows) + weight)
    if a > MOST_TIMES * house.a_cents:
        raise BadInput(
            f"It creeps {number(a / house.a_cents, 0)} times as much as such a string does: this does "
            "not look like settling.",
            todo="Does its peg or its winding slip? Look at that first, then tune it up anew.",
        )
    return Creep(max(a, 0.05 * house.a_cents), house.tau_min)


def retune_times(law: Creep, tolerance_cents: float, retunes: int) -> list[float]:
    """Waits in minutes before each of ``retunes`` retunes, each at the moment the tolerance is reached."""
    waits, at = [], 0.0
    for _ in range(retunes):
        then = law.next_out(at, tolerance_cents)
        waits.append(then - at)
        at = then
    return waits


def pitch_over_time(
    law: Creep, retunes_min: Sequence[float], until_min: float, points: int = 240
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """How far the string stands from its pitch over time: a saw whose teeth get ever longer.

    Args:
        law: creep law. retunes_min: times since tuning up at which it was brought back, ascending.
        until_min: end of the curve, minutes since tuning up. points: number of times, at least 2.

    Returns:
        Times in minutes and deviations in cents (0 or less), both of shape (points + retunes within,).

    Raises:
        BadInput: an end of zero or less, or retunes that do not go forward.
    """
    import numpy as np  # here, so that the window can open without it

    if not until_min > 0 or points < 2:
        raise BadInput("A curve needs an end after its start.")
    teeth = [0.0, *(t for t in retunes_min if t < until_min)]
    if any(b <= a for a, b in pairwise(teeth)):
        raise BadInput("Each retune comes after the one before.")
    # finer where the string moves faster: even steps of ln(τ + t)
    low, high = np.log(law.tau_min), np.log(law.tau_min + until_min)
    times = np.sort(np.concatenate([np.exp(np.linspace(low, high, points)) - law.tau_min, np.array(teeth[1:])]))
    times[0] = 0.0
    last = np.array(teeth)[np.searchsorted(np.array(teeth), times, side="right") - 1]
    return times, -law.a_cents * np.log((law.tau_min + times) / (law.tau_min + last))


def first_day_cents(law: Creep, at_min: float) -> float:
    """How far the string goes flat within a day after it was last retuned at ``at_min``, cents, not negative."""
    return law.drop_cents(at_min, at_min + DAY_MIN)
