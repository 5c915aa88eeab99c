"""From which amount on a supply is ordered, so that it lasts until the order comes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from statistics import NormalDist

from creekbed.core.quick_dataclasses import dataclass

YEAR_DAYS = 365.25
LASTS = 0.95
"""In so many of a hundred waits for an order nothing runs out: house default."""
MANY_JOBS, MOST_STEPS = 500, 4000


@dataclass(frozen=True)
class Use:
    """What one kind of job takes.

    Attributes:
        amount: that each job takes, in the unit of the supply. jobs_per_year: how many such jobs there are.
    """

    amount: float
    jobs_per_year: float


def minimum(uses: Sequence[Use], lead_days: float, lasts: float = LASTS) -> float:
    """The amount that lasts while an order is under way.

    Jobs come by chance and independently, so their number in a time is Poisson-distributed, and what they take is
    compound Poisson: its distribution is computed on a grid.

    Args:
        uses: by each kind of job. lead_days: from the order until it is on the shelf, days. lasts: share of such times
            in which nothing runs out.

    Returns:
        In the unit of the supply; 0 where nothing is used.

    Raises:
        ValueError: a negative use or time, or a share that is none.

    Reference:
        Silver, Pyke and Thomas, Inventory and Production Management in Supply Chains, 4th ed., ch. 6: the order point
        as a quantile of the demand over the lead time (from memory). Panjer, ASTIN Bulletin 12 (1981), 22-26: the
        recursion for a compound Poisson distribution (from memory; tested against SciPy and against drawn jobs).
    """
    if lead_days < 0 or not 0 < lasts < 1 or any(u.amount < 0 or u.jobs_per_year < 0 for u in uses):
        raise ValueError("uses and times are 0 or more, and a share lies between 0 and 1")
    kinds = [(u.amount, u.jobs_per_year * lead_days / YEAR_DAYS) for u in uses if u.amount > 0]
    jobs, mean = sum(n for _, n in kinds), sum(a * n for a, n in kinds)
    if mean <= 0:
        return 0.0
    spread = math.sqrt(sum(a * a * n for a, n in kinds))
    if jobs > MANY_JOBS:  # the recursion would underflow; by the central limit theorem
        return mean + NormalDist().inv_cdf(lasts) * spread
    step = _grid([a for a, _ in kinds], mean + 8 * spread)
    parts = [(math.ceil(a / step - 1e-9), n) for a, n in kinds]
    chances = [math.exp(-jobs)]
    total = chances[0]
    while total < lasts:
        at = len(chances)
        chances.append(sum(n * size * chances[at - size] for size, n in parts if size <= at) / at)
        total += chances[-1]
    return (len(chances) - 1) * step


def _grid(amounts: Sequence[float], most: float) -> float:
    """A step of which all amounts are multiples, to a thousandth; a coarser one where that were too many steps."""
    thousandths = [max(round(1000 * a), 1) for a in amounts]
    return max(math.gcd(*thousandths) / 1000, most / MOST_STEPS)


def rounded(amount: float) -> float:
    """An amount as people order it: up to a whole number, from 21 on to fives, from 101 on to tens, and so on."""
    if amount <= 0:
        return 0.0
    step = 1.0
    while amount > 20 * step:
        step *= 5 if str(int(step))[0] == "1" else 2
    return math.ceil(amount / step - 1e-9) * step
