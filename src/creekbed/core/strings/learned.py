"""What a shop's own strings teach of the next one: how much strings of a family creep here, beside the house's number.

Source: normal model of the logarithms with known scatter and a prior around the house's number (conjugate; Gelman et
al., Bayesian Data Analysis, 3rd ed., ch. 2.5).
"""

from __future__ import annotations

import math
from collections.abc import Sequence

READING_CENTS = 1.5
"""Standard uncertainty of how flat a string is read, with what handling and warmth add: house default."""
HOUSE_SD = 0.4
"""How far the strings that a shop buys may creep otherwise than the house says, as a logarithm: house default."""
STRING_SD = 0.6
"""How much strings of one kind differ, standard deviation of the logarithm: house default."""
MOST_TIMES = 4.0
"""A string that creeps so many times as much as the house says slips, and one that creeps so little was not settling:
they teach nothing. House default."""

Reading = tuple[float, float, float]
"""From and to, minutes since it was tuned up, and cents flat."""


def times_of(readings: Sequence[Reading], a_cents: float, tau_min: float) -> tuple[float, float] | None:
    """How many times as much as the house says one string creeps, and the standard uncertainty of its logarithm.

    Least squares through the origin of the readings against ln((τ + t2)/(τ + t1)).

    Returns:
        ``None`` where its readings say nothing: none, times that do not go forward, or far from what strings do.
    """
    rows = [(math.log((tau_min + to) / (tau_min + start)), cents) for start, to, cents in readings if 0 <= start < to]
    weight = sum(x * x for x, _ in rows)
    if weight <= 0:
        return None
    times = sum(x * y for x, y in rows) / weight / a_cents
    if not 1 / MOST_TIMES <= times <= MOST_TIMES:
        return None
    return times, READING_CENTS / (a_cents * times * math.sqrt(weight))


def learned_times(strings: Sequence[Sequence[Reading]], a_cents: float, tau_min: float) -> float:
    """How many times as much as the house says this shop's strings creep; 1 where nothing was read.

    Args:
        strings: the readings of each string. a_cents, tau_min: the house's law.
    """
    total, at = 1 / HOUSE_SD**2, 0.0
    for readings in strings:
        found = times_of(readings, a_cents, tau_min)
        if found is not None:
            times, u = found
            weight = 1 / (STRING_SD**2 + u**2)
            total, at = total + weight, at + weight * math.log(times)
    return math.exp(at / total)
