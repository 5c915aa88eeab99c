"""Angles at the bench from lengths."""

from __future__ import annotations

import math

from creekbed.core.errors import BadInput
from creekbed.core.measure import Reading


def lean_from_lengths(
    height_mm: float, offset_mm: float, u_height_mm: float = 0.25, u_offset_mm: float = 0.15
) -> Reading:
    """Lean of the bridge's back face off square, from two lengths.

    A small square stands on the top plate against the back foot of the bridge. At ``height_mm`` above the
    plate the gap between the square and the back face is ``offset_mm``: lean = atan(offset/height).
    Uncertainty by the law of propagation (JCGM 100:2008, eq. 10), the two lengths being independent.

    Args:
        height_mm: height at which the gap is taken, mm, more than 0.
        offset_mm: gap, mm, positive when the top leans toward the fingerboard.
        u_height_mm, u_offset_mm: standard uncertainties, mm.

    Returns:
        The lean in degrees, positive toward the fingerboard.

    Raises:
        BadInput: a height of zero or less, or lengths that cannot belong to a bridge (more than 45°).
    """
    if not height_mm > 0:
        raise BadInput("The height must be more than 0 mm.", todo="Measure the height above the top plate.")
    if abs(offset_mm) >= height_mm:
        raise BadInput(
            "Those two lengths would lay the bridge down by 45° or more.",
            todo="Give the height above the plate first, then the gap at that height.",
        )
    u = math.hypot(height_mm * u_offset_mm, offset_mm * u_height_mm) / (height_mm**2 + offset_mm**2)
    value = math.degrees(math.atan2(offset_mm, height_mm))
    return Reading(value, math.degrees(u), "degree", "from two lengths")
