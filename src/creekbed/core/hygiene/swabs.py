"""Whether a pull-through passes a joint, and from which end.

A cloth of width w and thickness t, gathered into a rope with packing fraction φ, has about the diameter
d = √(4wt/(πφ)): the area of its cross-section over φ. It must pass the narrowest clear bore: the bore less whatever
stands into it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from creekbed.core.catalogue.models import Bore
from creekbed.core.errors import BadInput

PHI = 0.55
"""Packing fraction of a gathered cotton cloth until the shop has calibrated its own: house default."""
PASSES, JAMS = 0.8, 1.0
"""Shares of the bore up to which a rope passes, and beyond which it would jam: house default."""
Fit = Literal["passes", "snug", "jams"]


@dataclass(frozen=True)
class SwabFit:
    """How a swab goes through a joint.

    Attributes:
        rope_mm: diameter of the gathered cloth. clear_mm: narrowest clear bore. share: the first over the second.
        fit: passes, snug (slowly) or jams. enter: which end, "wide" or "either". why: in words.
    """

    rope_mm: float
    clear_mm: float
    share: float
    fit: Fit
    enter: Literal["wide", "either"]
    why: str


def rope_mm(width_mm: float, thickness_mm: float, phi: float = PHI) -> float:
    """Diameter of a gathered cloth, mm.

    Args:
        width_mm: across the pull. thickness_mm: of one layer. phi: packing fraction, 0 to 1.

    Raises:
        BadInput: measures that cannot be.
    """
    if not (0 < width_mm <= 2000 and 0 < thickness_mm <= 20 and 0 < phi <= 1):
        raise BadInput("Width, thickness and packing must be more than 0, and the packing at most 1.")
    return math.sqrt(4 * width_mm * thickness_mm / (math.pi * phi))


def packing(width_mm: float, thickness_mm: float, measured_mm: float) -> float:
    """Packing fraction from one measured rope: φ = 4wt/(πd²).

    Raises:
        BadInput: a rope thinner than its own cloth, which cannot be.
    """
    if not measured_mm > 0:
        raise BadInput("The rope's diameter must be more than 0 mm.")
    phi = 4 * width_mm * thickness_mm / (math.pi * measured_mm**2)
    if not 0 < phi <= 1:
        raise BadInput("So thin a rope cannot hold that cloth.", todo="Measure the gathered cloth again, not pressed.")
    return phi


def swab_fit(width_mm: float, thickness_mm: float, bore: Bore, phi: float = PHI) -> SwabFit:
    """Whether a swab passes a joint, how, and from which end.

    Args:
        width_mm, thickness_mm, phi: of the cloth, as :func:`rope_mm`. bore: of the joint.

    Raises:
        BadInput: measures that cannot be.
    """
    rope = rope_mm(width_mm, thickness_mm, phi)
    clear = bore.narrow_mm - bore.in_way_mm
    share = rope / clear
    fit: Fit = "passes" if share < PASSES else "snug" if share <= JAMS else "jams"
    ends_differ = bore.wide_mm > bore.narrow_mm or bore.in_way_mm > 0
    way = f", past {bore.in_way}" if bore.in_way_mm > 0 and bore.in_way else ""
    words = {
        "passes": f"{rope:.1f} mm of cloth go through {clear:.1f} mm{way}.",
        "snug": f"{rope:.1f} mm of cloth in {clear:.1f} mm{way}: snug, draw it slowly.",
        "jams": f"{rope:.1f} mm of cloth would jam in {clear:.1f} mm{way}.",
    }
    turn = " In at the wide end: from the narrow one it wads up." if ends_differ and fit != "jams" else ""
    return SwabFit(rope, clear, share, fit, "wide" if ends_differ else "either", words[fit] + turn)
