"""Moist air: saturation, dew point, humidity ratio, wet bulb (ASHRAE Fundamentals 2017, chapter 1)."""

from __future__ import annotations

import math

from creekbed.core.conventions import number, temperature
from creekbed.core.errors import BadInput


def saturation_pressure_pa(celsius: float) -> float:
    """Saturation pressure of water vapour over liquid water or ice, Pa.

    ASHRAE Fundamentals 2017, ch. 1, eqs. 5 and 6 (Hyland and Wexler), −100 to 200 °C.

    Raises:
        BadInput: outside that range.
    """
    if not -100 <= celsius <= 200:
        raise BadInput(f"{temperature(celsius)} is outside what the vapour-pressure formula covers.")
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
        BadInput: outside those ranges, or so dry and cold that it would condense below −100 °C, where the curve ends.
    """
    if not 0.001 <= relative_humidity <= 1 or not -60 <= celsius <= 100:
        raise BadInput("The room's air must be −60 to 100 °C with a relative humidity of 0.1 to 100 %.")
    target = saturation_pressure_pa(celsius) * relative_humidity
    low, high = -100.0, celsius
    if saturation_pressure_pa(low) > target:
        raise BadInput(
            f"Air of {temperature(celsius)} with {number(100 * relative_humidity)} % condenses below "
            "−100 °C: that is not told here.",
            todo="Is the humidity in %? Half of what air can hold is 50 %.",
        )
    while high - low > 1e-6:
        middle = (low + high) / 2
        if saturation_pressure_pa(middle) < target:
            low = middle
        else:
            high = middle
    return (low + high) / 2


def humidity_ratio(celsius: float, relative_humidity: float, pressure_pa: float = 101_325.0) -> float:
    """Water vapour in moist air, kg for each kg of dry air.

    Args:
        celsius: −60 to 100. relative_humidity: 0 to 1. pressure_pa: of the air, standard atmosphere if not given.

    Raises:
        BadInput: outside that range, or a vapour pressure above the air's.

    Reference:
        ASHRAE Fundamentals 2017, ch. 1, eq. 20.
    """
    if not 0 <= relative_humidity <= 1 or not -60 <= celsius <= 100:
        raise BadInput("Air of −60 to 100 °C and 0 to 100 % is covered.")
    vapour = relative_humidity * saturation_pressure_pa(celsius)
    if vapour >= pressure_pa:
        raise BadInput("At that pressure there is no air left, only vapour.")
    return 0.621945 * vapour / (pressure_pa - vapour)


def humidity_elsewhere(celsius: float, relative_humidity: float, to_celsius: float) -> float:
    """Relative humidity of the same air at another temperature, as when the window is opened, 0 to 1 and above.

    The vapour pressure stays: 10 °C outside at 90 % are 47 % at 20 °C.

    Args:
        celsius, relative_humidity: as it is. to_celsius: where it comes to.
    """
    return relative_humidity * saturation_pressure_pa(celsius) / saturation_pressure_pa(to_celsius)


def wet_bulb_c(celsius: float, humidity: float, pressure_pa: float = 101_325.0) -> float:
    """Thermodynamic wet-bulb temperature, °C; below freezing over ice.

    Args:
        celsius: 0 to 60. humidity: 0 to 1. pressure_pa: of the air.

    Raises:
        BadInput: outside that range.

    Reference:
        ASHRAE Fundamentals 2017, ch. 1, eqs. 20, 33 and 35, solved by bisection.
    """
    if not 0 <= celsius <= 60 or not 0 <= humidity <= 1:
        raise BadInput("Air of 0 to 60 °C and 0 to 100 % is covered.")
    ratio = humidity_ratio(celsius, humidity, pressure_pa)
    low, high = -20.0, celsius
    while high - low > 1e-7:
        wet = (low + high) / 2
        saturated = humidity_ratio(wet, 1.0, pressure_pa)
        if wet >= 0:
            here = ((2501 - 2.326 * wet) * saturated - 1.006 * (celsius - wet)) / (2501 + 1.86 * celsius - 4.186 * wet)
        else:
            here = ((2830 - 0.24 * wet) * saturated - 1.006 * (celsius - wet)) / (2830 + 1.86 * celsius - 2.1 * wet)
        low, high = (wet, high) if here < ratio else (low, wet)
    return (low + high) / 2
