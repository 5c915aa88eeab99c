"""Whether a pull-through passes a joint, and from which end.

A cloth of width w and thickness t, gathered into a rope with packing fraction φ, has about the diameter
d = √(4wt/(πφ)): the area of its cross-section over φ. It must pass the narrowest clear bore: the bore less whatever
stands into it.
"""

from __future__ import annotations

import math
from typing import Literal

from creekbed.core.catalogue.models.parts import Bore
from creekbed.core.conventions import millimetres
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

PHI = 0.55
"""Packing fraction of a gathered cotton cloth until the shop has calibrated its own: house default."""
PASSES, JAMS = 0.8, 1.0
"""Shares of the bore up to which a rope passes, and beyond which it would jam: house default."""
Fit = Literal["passes", "snug", "jams"]
REACH_MM = 100.0
"""How much cord must show at the far end while the cloth is still outside, mm: house default."""
ROUGH = {
    "chamois": "Chamois drags: it snags on what stands in the bore.",
    "bristle": "Bristle or a foam ring grips the wall: it wants a firmer pull, and snags on what stands in the bore.",
}
"""Stuffs that hold on to the bore: common practice, no source."""


@dataclass(frozen=True)
class SwabFit:
    """How a swab goes through a joint.

    Attributes:
        rope_mm: diameter of the gathered cloth. clear_mm: narrowest clear bore. share: the first over the second.
        fit: passes, snug (slowly) or jams. enter: which end, "wide" or "either"; "back" where the tube is closed: out
        again where it went in. why: in words.
    """

    rope_mm: float
    clear_mm: float
    share: float
    fit: Fit
    enter: Literal["wide", "either", "back"]
    why: str


@dataclass(frozen=True)
class Jam:
    """Where a cloth sticks.

    Attributes:
        depth_mm: from the end where it went in; ``None`` where the length of the bore is not known. where: in words.
        do: what to do about it.
    """

    depth_mm: float | None
    where: str
    do: str


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


def clear_mm(bore: Bore) -> float:
    """The narrowest clear width that a cloth must pass, mm: of the tightest of several alike bores."""
    return bore.narrow_mm - bore.in_way_mm - bore.tighter_mm


def swab_fit(
    width_mm: float,
    thickness_mm: float,
    bore: Bore,
    phi: float = PHI,
    *,
    rod_mm: float = 0.0,
    stuff: str = "silk",
    cord_mm: float = 0.0,
    weight_mm: float = 0.0,
) -> SwabFit:
    """Whether a swab passes a joint, how, and from which end.

    Args:
        width_mm, thickness_mm, phi: of the cloth, as :func:`rope_mm`. bore: of the joint.
        rod_mm: thickness of the rod that carries it, 0 for none: cloth lies round it, so the areas add.
        stuff: of the cloth; chamois and bristle hold on to the bore. cord_mm, weight_mm: of its cord; 0: not measured.

    Raises:
        BadInput: measures that cannot be.
    """
    if not (0 <= rod_mm <= 100 and 0 <= cord_mm <= 5000 and 0 <= weight_mm <= 100):
        raise BadInput("Rod, cord or weight cannot be so.", todo="Measure them again.")
    rope = math.hypot(rope_mm(width_mm, thickness_mm, phi), rod_mm)
    clear = clear_mm(bore)
    share = rope / clear
    fit: Fit = "passes" if share < PASSES else "snug" if share <= JAMS else "jams"
    ends_differ = bore.wide_mm > bore.narrow_mm or bore.in_way_mm > 0
    enter: Literal["wide", "either", "back"] = "back" if bore.closed else "wide" if ends_differ else "either"
    way = f", past {bore.in_way}" if bore.in_way_mm > 0 and bore.in_way else ""
    way += f", in {bore.tighter}" if bore.tighter_mm > 0 and bore.tighter else ""
    on = " of cloth and rod" if rod_mm else " of cloth"
    said = [
        {
            "passes": f"{millimetres(rope, 1)}{on} go through {millimetres(clear, 1)}{way}.",
            "snug": f"{millimetres(rope, 1)}{on} in {millimetres(clear, 1)}{way}: snug, draw it slowly.",
            "jams": f"{millimetres(rope, 1)}{on} would jam in {millimetres(clear, 1)}{way}.",
        }[fit]
    ]
    if stuff in ROUGH:
        said.append(ROUGH[stuff])
        if fit == "passes" and bore.in_way_mm > 0:
            fit = "snug"
    if weight_mm >= clear:
        fit = "jams"
        said.append(f"Its weight, {millimetres(weight_mm)}, does not pass {millimetres(clear, 1)}.")
    elif weight_mm > PASSES * clear:
        said.append(f"Its weight, {millimetres(weight_mm)}, only just passes: let it down, do not drop it.")
    if cord_mm and bore.length_mm and cord_mm < bore.length_mm + REACH_MM:
        fit = "jams"
        said.append(
            f"Its cord of {millimetres(cord_mm)} is too short for {millimetres(bore.length_mm)}: both "
            "ends stay within reach."
        )
    if fit != "jams" and enter == "wide":
        said.append("In at the wide end: from the narrow one it wads up.")
    if fit != "jams" and enter == "back":
        said.append("The far end is closed: it comes back the way it went, its end held in the hand.")
    return SwabFit(rope, clear, share, fit, enter, " ".join(said))


def jam(rope: float, bore: Bore, entered: Literal["wide", "narrow"], part: str = "joint") -> Jam | None:
    """Where a cloth sticks that is too thick, in a bore that narrows evenly from its wide to its narrow end.

    Args:
        rope: diameter of the gathered cloth, mm. entered: the end where it went in. part: name of the joint.

    Returns:
        ``None`` where it passes.
    """
    if rope <= clear_mm(bore):
        return None
    do = (
        "Stop. Draw it back the way it came, straight and slowly, never on through. It does not come: leave it, "
        "nothing hard after it; a jammed swab is a repairer's job."
    )
    length = bore.length_mm
    if rope > bore.narrow_mm - bore.tighter_mm:
        if entered == "narrow" or bore.wide_mm <= bore.narrow_mm:
            return Jam(0.0, f"at the {entered} end of the {part}, where it went in", do)
        depth = length * (bore.wide_mm - rope) / (bore.wide_mm - bore.narrow_mm) if length else None
        depth = None if depth is None else min(max(depth, 0.0), length)
        far = "before its narrow end" if depth is None else f"about {millimetres(depth, 0)} from the wide end"
        return Jam(depth, f"in the {part}, {far}, where the bore is {millimetres(rope, 1)}", do)
    return Jam(None, f"in the {part}, at {bore.in_way or 'what stands into the bore'}", do)
