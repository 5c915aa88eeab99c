"""A measured value with its uncertainty, and the decision it allows.

Uncertainty follows the GUM (JCGM 100:2008): a standard uncertainty ``u`` and the expanded uncertainty
``U = k·u`` with the coverage factor stated. The decision follows JCGM 106:2012: the measured value decides
only where the interval ``value ± U`` lies wholly on one side of a limit.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

Band = Literal["green", "amber", "act", "again"]
COVERAGE_FACTOR = 2.0  # JCGM 100:2008, 6.2.2: about 95 % for a normal distribution


@dataclass(frozen=True)
class Reading:
    """One measured value.

    Args:
        value: the best estimate, in ``unit``.
        u: standard uncertainty, in ``unit``, not negative.
        unit: Pint's name of the unit.
        how: where it came from ("typed", "caliper", "from two lengths").
    """

    value: float
    u: float
    unit: str
    how: str = "typed"

    def __post_init__(self) -> None:
        if not (math.isfinite(self.value) and math.isfinite(self.u)) or self.u < 0:
            raise BadInput("A reading needs a finite value and an uncertainty that is not negative.")

    @property
    def expanded(self) -> float:
        """Expanded uncertainty U = k·u, k = 2, in ``unit``."""
        return COVERAGE_FACTOR * self.u


@dataclass(frozen=True)
class Scale:
    """Bands of a check: green inside ``green``, amber inside ``amber``, act outside it.

    ``None`` at an end means that side has no limit. ``amber`` contains ``green``.
    """

    green: tuple[float | None, float | None]
    amber: tuple[float | None, float | None]

    def __post_init__(self) -> None:
        (g0, g1), (a0, a1) = self.green, self.amber
        inside = (a0 is None or (g0 is not None and a0 <= g0)) and (a1 is None or (g1 is not None and g1 <= a1))
        if not inside or (g0 is not None and g1 is not None and g0 > g1):
            raise BadInput("The amber band must contain the green one.")

    def band(self, value: float) -> Band:
        """The band of an exactly known value; a value on a limit is still inside."""
        if _inside(value, self.green):
            return "green"
        return "amber" if _inside(value, self.amber) else "act"


@dataclass(frozen=True)
class Decision:
    """What a reading allows us to say.

    Attributes:
        band: green, amber, act, or "again" (measure again: the uncertainty crosses the act limit).
        p_act: probability that the true value lies beyond the act limit, 0 to 1.
    """

    band: Band
    p_act: float


def _inside(value: float, limits: tuple[float | None, float | None]) -> bool:
    low, high = limits
    return (low is None or value >= low) and (high is None or value <= high)


def _probability_inside(reading: Reading, limits: tuple[float | None, float | None]) -> float:
    if reading.u == 0:
        return 1.0 if _inside(reading.value, limits) else 0.0

    def below(limit: float) -> float:
        return 0.5 * math.erfc(-(limit - reading.value) / (reading.u * math.sqrt(2)))

    low, high = limits
    return max(0.0, (1.0 if high is None else below(high)) - (0.0 if low is None else below(low)))


def decide(reading: Reading, scale: Scale) -> Decision:
    """Decide with a guard band of U = 2u on both sides of each act limit (JCGM 106:2012, 8.3).

    Crossing only the green limit is amber, the more careful of the two; crossing the act limit decides
    nothing and asks for another measurement.

    Args:
        reading: value and standard uncertainty in the unit of the scale.
        scale: the bands.

    Returns:
        The band and the probability, under a normal distribution, that the truth is beyond the act limit.
    """
    p_act = 1.0 - _probability_inside(reading, scale.amber)
    low, high = reading.value - reading.expanded, reading.value + reading.expanded
    crosses = any(limit is not None and low < limit < high for limit in scale.amber)
    if crosses:
        return Decision("again", p_act)
    if scale.band(reading.value) == "act":
        return Decision("act", p_act)
    within_green = scale.band(low) == "green" and scale.band(high) == "green"
    return Decision("green" if within_green else "amber", p_act)


def combine(readings: Sequence[Reading]) -> Reading:
    """The mean of repeated readings of one quantity.

    The scatter of the mean (type A, JCGM 100:2008, 4.2.3) is added in quadrature to the largest instrument
    uncertainty (type B), which repeating does not reduce. With few readings the scatter is
    widened by Student's t, so that two lucky readings do not pass for certainty.

    Raises:
        BadInput: no readings, or readings in different units.
    """
    if not readings:
        raise BadInput("There is nothing to average.")
    if len({r.unit for r in readings}) > 1:
        raise BadInput("Readings in different units cannot be averaged.")
    n = len(readings)
    mean = math.fsum(r.value for r in readings) / n
    if n == 1:
        return readings[0]
    s2 = math.fsum((r.value - mean) ** 2 for r in readings) / (n - 1)
    # Student's t for 95.45 % over 2 (so that U = 2u keeps its coverage), JCGM 100:2008, table G.2
    widen = {2: 13.97, 3: 4.53, 4: 3.31, 5: 2.87, 6: 2.65, 7: 2.52, 8: 2.43, 9: 2.37}.get(n, 2.32) / 2.0
    u_b = max(r.u for r in readings)
    return Reading(mean, math.hypot(widen * math.sqrt(s2 / n), u_b), readings[0].unit, f"mean of {n}")
