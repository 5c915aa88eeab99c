"""In what range one more value lies, from those before it."""

from __future__ import annotations

import math

from creekbed.core.quick_dataclasses import dataclass

STUDENT_95 = (4.303, 3.182, 2.776, 2.571, 2.447, 2.365, 2.306, 2.262, 2.228, 2.201)
"""Student's t of a two-sided 95 % for 2, 3, … 11 degrees of freedom (published tables; tested against SciPy).

Every job asks for it, also before the window has loaded SciPy.
"""
LEAST = 3
"""From fewer values nobody can tell how much they vary: house default."""
MOST = LEAST + len(STUDENT_95) - 1
"""So many of the newest values count: house default."""


@dataclass(frozen=True)
class Prediction:
    """What is to be expected: ``likely``; with 95 % between ``low`` and ``high``, ``None`` from too few values."""

    likely: float
    low: float | None = None
    high: float | None = None


def half_range(spread: float, count: int) -> float:
    """Half the range round the mean in which one more value of a normal law lies with 95 %.

    Args:
        spread: standard deviation of the values. count: how many they are, :data:`LEAST` to :data:`MOST`.

    Reference:
        t·s·√(1 + 1/n) (Hahn and Meeker, Statistical Intervals, ch. 4; from memory).
    """
    return STUDENT_95[count - LEAST] * spread * math.sqrt(1 + 1 / count)
