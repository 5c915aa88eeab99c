"""Wood and the air around it: the moisture it comes to, and how much that moves it."""

from __future__ import annotations

import math

from creekbed.core.conventions import number
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass


@dataclass(frozen=True)
class Wood:
    """How a wood moves: share of its width for each percent of moisture, along the rays and along the rings."""

    key: str
    name: str
    radial: float
    tangential: float


WOODS = {
    w.key: w
    for w in (
        Wood("spruce", "spruce", 0.00148, 0.00263),
        Wood("maple", "maple", 0.00165, 0.00353),
        Wood("mahogany", "mahogany", 0.00172, 0.00238),
        Wood("rosewood", "rosewood", 0.00100, 0.00200),
    )
}
"""Dimensional change coefficients: Wood Handbook, table of coefficients (Sitka spruce, sugar maple, mahogany) and
rosewood, all from memory."""


def emc_pct(celsius: float, relative_humidity: float) -> float:
    """Equilibrium moisture content of wood, % of dry weight.

    Args:
        celsius: −10 to 70 °C. relative_humidity: 0 to 0.98.

    Raises:
        BadInput: outside that range.

    Reference:
        Hailwood and Horrobin 1946; US Forest Products Laboratory, Wood Handbook, equation and constants in °C.
    """
    if not -10 <= celsius <= 70 or not 0 <= relative_humidity <= 0.98:
        raise BadInput("The formula covers −10 to 70 °C and up to 98 % humidity.", todo="Read the instrument again.")
    t, h = celsius, relative_humidity
    w = 349 + 1.29 * t + 0.0135 * t**2
    k = 0.805 + 0.000736 * t - 0.00000273 * t**2
    k1 = 6.27 - 0.00938 * t - 0.000303 * t**2
    k2 = 1.91 + 0.0407 * t - 0.000293 * t**2
    kh, both = k * h, k1 * k2 * (k * h) ** 2
    return 1800 / w * (kh / (1 - kh) + (k1 * kh + 2 * both) / (1 + k1 * kh + both))


def movement_mm(width_mm: float, from_pct: float, to_pct: float, coefficient: float) -> float:
    """How much a width of wood grows from one moisture to another, mm: D·C·(M2 − M1), for moistures of 6 to 14 %.

    Args:
        width_mm: across the grain. from_pct, to_pct: moisture, %. coefficient: of :data:`WOODS`.

    Raises:
        BadInput: measures that cannot be.

    Reference:
        Wood Handbook, dimensional change by coefficient.
    """
    if not 0 < width_mm <= 5000 or not (0 <= from_pct <= 30 and 0 <= to_pct <= 30):
        raise BadInput("Width and moisture cannot be so.", todo="Moisture lies between 0 and 30 %.")
    return width_mm * coefficient * (to_pct - from_pct)


def humidity_for(celsius: float, moisture_pct: float) -> float:
    """The relative humidity at which wood comes to a moisture, 0 to 0.98; the curve rises, so there is one.

    Raises:
        BadInput: a moisture that no air below 98 % gives.
    """
    if not 0 <= moisture_pct <= emc_pct(celsius, 0.98):
        raise BadInput(f"{number(moisture_pct)} % is more than air gives.", todo="It was wet; let it dry slowly.")
    low, high = 0.0, 0.98
    while high - low > 1e-9:
        middle = (low + high) / 2
        low, high = (middle, high) if emc_pct(celsius, middle) < moisture_pct else (low, middle)
    return math.fsum((low, high)) / 2
