"""How long strings last in this shop: days on hire until a string is found worn, learned from the shop's own findings.

A string that is still good says that it lasts at least so long. Strings wear out rather than fail by chance: lives
follow a Weibull law of shape 2, with the house's number as a prior.

Source: Weibull lives with known shape and a gamma prior of their rate (conjugate; Hamada et al., Bayesian Reliability,
2008, ch. 4, from memory). Shape and weight of the house's number: house default.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

SHAPE = 2.0
"""Of the Weibull law: 1 is chance alone, more is wear. House default."""
WORTH = 2.0
"""The house's number is worth so many strings that were found worn: house default."""
TEMPER = 0.8
"""Each string counts for so much, as lives may follow another law: intervals hold then too (tempered likelihood; house
default, tried on four laws)."""
LEAST_DAYS = 0.5
"""A string that is found worn at once, or was never on hire, says nothing of wear: house default."""


@dataclass(frozen=True)
class Life:
    """How long strings of one kind last, days on hire.

    Attributes:
        median_days: half of them are found worn by then. low_days, high_days: 95 % of the belief lies between.
        worn, fine: strings that were found worn, and that are good so far, by which it was learned.
    """

    median_days: float
    low_days: float
    high_days: float
    worn: int
    fine: int

    def chance_worn(self, days: float, more_days: float = 0.0) -> float:
        """Chance that a string that is good after ``days`` on hire is found worn within ``more_days``."""
        scale = self.median_days / math.log(2) ** (1 / SHAPE)
        return -math.expm1((days / scale) ** SHAPE - ((days + more_days) / scale) ** SHAPE)


def life_of(worn_days: Sequence[float], fine_days: Sequence[float], house_days: float) -> Life:
    """How long strings last.

    Args:
        worn_days: on hire until found worn. fine_days: on hire so far, of those that were good when looked at last.
        house_days: what the house says of the median.

    Raises:
        BadInput: days that cannot be.
    """
    if not house_days > 0 or any(not (0 <= d < 1e5) for d in (*worn_days, *fine_days)):
        raise BadInput("Days on hire are not less than 0.")
    from scipy.special import gammaincinv  # the window opens without it

    worn = [d for d in worn_days if d >= LEAST_DAYS]
    fine = [d for d in fine_days if d >= LEAST_DAYS]
    shape = WORTH + TEMPER * len(worn)
    rate = WORTH * house_days**SHAPE / math.log(2) + TEMPER * sum(d**SHAPE for d in (*worn, *fine))

    def median(at: float) -> float:
        return float((math.log(2) * rate / at) ** (1 / SHAPE))

    return Life(
        median(shape), median(float(gammaincinv(shape, 0.975))), median(float(gammaincinv(shape, 0.025))),
        len(worn), len(fine),
    )  # fmt: skip
