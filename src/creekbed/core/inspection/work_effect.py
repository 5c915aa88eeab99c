"""What work changed of a measured value, and what it is likely to leave the next time."""

from __future__ import annotations

import math
import statistics
from collections.abc import Sequence

from creekbed.core.errors import BadInput
from creekbed.core.measure import Reading
from creekbed.core.prediction import LEAST, MOST, Prediction, half_range
from creekbed.core.quick_dataclasses import dataclass


@dataclass(frozen=True)
class Change:
    """What a value changed by.

    Attributes:
        by: the value after less the value before, with its standard uncertainty.
        told: whether it can be told from none (k = 2).
    """

    by: Reading
    told: bool


def change(before: Reading, after: Reading) -> Change:
    """What lies between two readings of one quantity.

    The doubts of both are taken as independent, which says too much rather than too little where one instrument is off
    by the same amount both times.

    Raises:
        BadInput: the readings are of different units.

    Reference:
        JCGM 100:2008, 5.1.2.
    """
    if before.unit != after.unit:
        raise BadInput("Readings in different units cannot be compared.")
    by = Reading(after.value - before.value, math.hypot(before.u, after.u), after.unit, "difference of two readings")
    return Change(by, abs(by.value) > by.expanded)


def likely_left(left: Sequence[Reading]) -> Prediction | None:
    """What the next reading after the same work will be; ``None`` where nothing is known.

    Args:
        left: what it read after that work before, the oldest first, in one unit; the newest twelve count. Their own
            standard uncertainty is the least by which the next one is believed to vary.
    """
    newest = left[-MOST:]
    if not newest:
        return None
    values = [r.value for r in newest]
    if len(values) < LEAST:
        return Prediction(values[-1])
    middle = statistics.fmean(values)
    wide = half_range(max(statistics.stdev(values), *(r.u for r in newest)), len(values))
    return Prediction(middle, middle - wide, middle + wide)
