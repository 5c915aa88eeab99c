"""Moist air: saturation pressure and dew point (ASHRAE Handbook of Fundamentals 2017, chapter 1)."""

from __future__ import annotations

import math

from creekbed.core.errors import BadInput


def saturation_pressure_pa(celsius: float) -> float:
    """Saturation pressure of water vapour over liquid water or ice, Pa.

    ASHRAE Fundamentals 2017, ch. 1, eqs. 5 and 6 (Hyland and Wexler), −100 to 200 °C.

    Raises:
        BadInput: outside that range.
    """
    if not -100 <= celsius <= 200:
        raise BadInput(f"{celsius:g} °C is outside what the vapour-pressure formula covers.")
    t = celsius + 273.15
    if celsius < 0.01:
        ln_p = (
            -5.6745359e3 / t + 6.3925247 - 9.677843e-3 * t + 6.2215701e-7 * t**2 + 2.0747825e-9 * t**3
            - 9.484024e-13 * t**4 + 4.1635019 * math.log(t)
        )  # fmt: skip
    else:
        ln_p = (
            -5.8002206e3 / t + 1.3914993 - 4.8640239e-2 * t + 4.1764768e-5 * t**2 - 1.4452093e-8 * t**3
            + 6.5459673 * math.log(t)
        )  # fmt: skip
    return math.exp(ln_p)


def dew_point_c(celsius: float, relative_humidity: float) -> float:
    """Temperature at which air of this state begins to condense, °C.

    The saturation curve is inverted by bisection to 1e-6 °C; it rises strictly, so there is one answer.

    Args:
        celsius: air temperature, °C, −60 to 100.
        relative_humidity: 0 to 1, more than 0.001.

    Raises:
        BadInput: outside those ranges.
    """
    if not 0.001 <= relative_humidity <= 1 or not -60 <= celsius <= 100:
        raise BadInput("The room's air must be −60 to 100 °C with a relative humidity of 0.1 to 100 %.")
    target = saturation_pressure_pa(celsius) * relative_humidity
    low, high = -100.0, celsius
    while high - low > 1e-6:
        middle = (low + high) / 2
        if saturation_pressure_pa(middle) < target:
            low = middle
        else:
            high = middle
    return (low + high) / 2
