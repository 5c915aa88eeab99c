"""The water that playing leaves in a bore: how much at most, what a cloth leaves of it, and how long that dries.

Breath leaves the mouth near 34 °C and full of water. The wall of the bore cools it to its own temperature, and what the
cooled air cannot hold runs down the wall. The mass of dry air stays the same on the way, so the water that is left
behind is that mass times the difference of the two humidity ratios: an upper bound of the condensed part, for air that
leaves warmer than the wall takes more with it. Spit comes on top: only weighing tells.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from creekbed.core.climate.air import humidity_ratio, saturation_pressure_pa
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

BREATH_C = 34.0
"""Temperature at which breath leaves the mouth, °C: common practice, no source."""
GAS_DRY_AIR = 287.042
"""Gas constant of dry air, J/(kg K): ASHRAE Fundamentals 2017, ch. 1, eq. 1."""
PRESSURE_PA = 101_325.0
PRIOR_LOG, PRIOR_SD, ONE_SD = 0.0, 0.5, 0.35
"""What is assumed before anything was weighed: the bound itself, within a factor of 1.65; weighings scatter by a
factor of 1.4: house default."""
CAREFUL = 1.2816
"""Standard normal deviate of 90 of a hundred: the wait is for the wetter ones."""


@dataclass(frozen=True)
class Share:
    """What share of the bound is really found, learned by weighing.

    Attributes:
        median: of the bound; 1 where nothing was weighed. low, high: between them lie 95 of a hundred playings.
        careful: 90 of a hundred playings leave no more than this. weighings: how many it rests on.
    """

    median: float
    low: float
    high: float
    careful: float
    weighings: int


def condensed_g(litres: float, bore_c: float, breath_c: float = BREATH_C, pressure_pa: float = PRESSURE_PA) -> float:
    """Water that breath can leave in a bore at most, g.

    Args:
        litres: of breath, as it leaves the mouth. bore_c: temperature of the bore's wall, −10 to 45 °C.
        breath_c: of the breath, °C. pressure_pa: of the air.

    Returns:
        0 where the bore is as warm as the breath.

    Raises:
        BadInput: less than no breath, or temperatures that cannot be.

    Reference:
        ASHRAE Fundamentals 2017, ch. 1, eqs. 5, 20 and 26: 2.2 g from 100 l in a bore of 20 °C, 2.9 g at 10 °C.
    """
    if not 0 <= litres <= 100_000 or not -10 <= bore_c <= 45 or not 20 <= breath_c <= 45:
        raise BadInput("Breath of 0 to 100 000 l and a bore of −10 to 45 °C are covered.")
    if bore_c >= breath_c:
        return 0.0
    vapour = saturation_pressure_pa(breath_c)
    dry_kg = (pressure_pa - vapour) * litres / 1000 / (GAS_DRY_AIR * (breath_c + 273.15))
    left = humidity_ratio(breath_c, 1.0, pressure_pa) - humidity_ratio(bore_c, 1.0, pressure_pa)
    return 1000 * dry_kg * max(left, 0.0)


def after_pulls_g(water_g: float, pulls: float, takes: float) -> float:
    """What a number of pulls of a dry cloth leaves, g; each takes the same share of what is there."""
    return float(water_g * (1 - takes) ** max(pulls, 0.0))


def drying_minutes(water_g: float, limit_g: float, tau_min: float, at_least: float = 0.0) -> float:
    """How long a bore airs until no more water is left than may be, minutes: τ·ln(w/limit).

    Args:
        water_g: in it when it is laid down. limit_g: that may be left. tau_min: its time constant in this air.
        at_least: shortest wait; what cannot be seen dries too.

    Raises:
        BadInput: a limit or a time constant of nothing.
    """
    if not limit_g > 0 or not tau_min > 0:
        raise BadInput("The limit and the time constant must be more than 0.")
    return max(at_least, tau_min * math.log(water_g / limit_g) if water_g > limit_g else 0.0)


def learn_share(weighings: Sequence[tuple[float, float]]) -> Share:
    """The share of the bound that weighings found.

    Args:
        weighings: (bound, water found), g: what instrument or cloth gained. No bound or no water: passed by.

    Returns:
        Normal model of the logarithms with known scatter and a prior around the bound itself (conjugate; Gelman et al.,
        Bayesian Data Analysis, 3rd ed., ch. 2.5).
    """
    logs = [math.log(found / bound) for bound, found in weighings if bound > 0 and found > 0]
    weight, each = 1 / PRIOR_SD**2, 1 / ONE_SD**2
    total = weight + each * len(logs)
    middle = (weight * PRIOR_LOG + each * sum(logs)) / total
    spread = math.sqrt(1 / total + ONE_SD**2)
    return Share(
        math.exp(middle), math.exp(middle - 1.96 * spread), math.exp(middle + 1.96 * spread),
        math.exp(middle + CAREFUL * spread), len(logs),
    )  # fmt: skip
