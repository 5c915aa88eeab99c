"""How much of a supply an instrument will take the next time, from what it took before."""

from __future__ import annotations

import math
import statistics
from collections.abc import Sequence

from creekbed.core.measure import STUDENT_95
from creekbed.core.quick_dataclasses import dataclass

LEAST = 3
"""From fewer amounts nobody can tell how much they vary: house default."""
LEAST_SPREAD = 0.1
"""Amounts that look alike may still differ by a tenth: they are read off in drops; house default."""


@dataclass(frozen=True)
class NextAmount:
    """What is to be expected: ``likely``; with 95 % between ``low`` and ``high``, ``None`` from too few amounts."""

    likely: float
    low: float | None = None
    high: float | None = None


def next_amount(amounts: Sequence[float]) -> NextAmount | None:
    """The amount of the next time; ``None`` where nothing was noted.

    Args:
        amounts: of earlier times, none negative, in any unit; the newest twelve count. Zeros say that none was needed
            and are not counted.

    Reference:
        prediction interval of one more value of a normal law, m ± t·s·√(1 + 1/n), on logarithms (Hahn and Meeker,
        Statistical Intervals, ch. 4; from memory).
    """
    needed = [amount for amount in amounts[-len(STUDENT_95) - 2 :] if amount > 0]
    if not needed:
        return None
    if len(needed) < LEAST:
        return NextAmount(needed[-1])
    logs = [math.log(amount) for amount in needed]
    middle = statistics.fmean(logs)
    wide = (
        STUDENT_95[len(logs) - LEAST] * math.hypot(statistics.stdev(logs), LEAST_SPREAD) * math.sqrt(1 + 1 / len(logs))
    )
    return NextAmount(math.exp(middle), math.exp(middle - wide), math.exp(middle + wide))
