"""How much of a supply an instrument will take the next time, from what it took before."""

from __future__ import annotations

import math
import statistics
from collections.abc import Sequence

from creekbed.core.prediction import LEAST, MOST, Prediction, half_range

LEAST_SPREAD = 0.1
"""Amounts that look alike may still differ by a tenth: they are read off in drops; house default."""


def next_amount(amounts: Sequence[float]) -> Prediction | None:
    """The amount of the next time, by a normal law of its logarithm; ``None`` where nothing was noted.

    Args:
        amounts: of earlier times, none negative, in any unit; the newest twelve count. Zeros say that none was needed
            and are not counted.
    """
    needed = [amount for amount in amounts[-MOST:] if amount > 0]
    if not needed:
        return None
    if len(needed) < LEAST:
        return Prediction(needed[-1])
    logs = [math.log(amount) for amount in needed]
    middle = statistics.fmean(logs)
    wide = half_range(math.hypot(statistics.stdev(logs), LEAST_SPREAD), len(logs))
    return Prediction(math.exp(middle), math.exp(middle - wide), math.exp(middle + wide))
