"""May this agent touch this material?"""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

from creekbed.core.catalogue.models.agents import MaterialCompatibility
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.parts import Part
from creekbed.core.catalogue.surfaces import surfaces
from creekbed.core.quick_dataclasses import dataclass

_RANK = {"no": 0, "label": 0, "brief": 1, "short": 2, "cool": 3, "yes": 3}

_WHY = {
    "no": "Nothing says that it bears it, so it must not.",
    "label": "Only as its label says: enter that first, then it may.",
}


@dataclass(frozen=True)
class Answer:
    """Whether a use is allowed, how far, and why."""

    allowed: bool
    bears: str
    why: str
    mark: str


def may_touch(material: MaterialCompatibility, agent: str, exposure: str = "yes") -> Answer:
    """Whether ``material`` bears ``agent`` for the exposure wanted. A missing entry means no.

    Args:
        material: what the part is made of.
        agent: key of the agent.
        exposure: "yes" (as long as the work takes), "short" (a few minutes and a rinse) or "brief" (a damp wipe).
    """
    bears = material.may.get(agent, "no")
    allowed = _RANK[bears] >= _RANK[exposure]
    why = material.why.get(agent, "")
    if not allowed and not why:
        why = _WHY.get(bears, f"It bears it {bears} only.")
    return Answer(allowed, bears, why, "T" if agent in material.trade else "M")


def may_touch_part(
    material: MaterialCompatibility, finish: MaterialCompatibility | None, agent: str, exposure: str = "yes",
    bears_not: Mapping[str, str] = MappingProxyType({}),
) -> Answer:  # fmt: skip
    """Whether a part bears ``agent``: what it is made of and what lies on it must both bear it.

    Args:
        material, finish: entries of the catalogue; ``finish`` is ``None`` for a bare part.
        agent, exposure: as for :func:`may_touch`. bears_not: what the part itself must not meet, and why.
    """
    if agent in bears_not:
        return Answer(False, "no", bears_not[agent], "T")
    below = may_touch(material, agent, exposure)
    if finish is None or not below.allowed:
        return below
    above = may_touch(finish, agent, exposure)
    return below if above.allowed and _RANK[below.bears] < _RANK[above.bears] else above


@dataclass(frozen=True)
class Carried:
    """What a part carries, and whether that bears the agent: the pads of a body."""

    part: Part
    answer: Answer


def carried(
    family: Family, part: Part, materials: Mapping[str, MaterialCompatibility], agent: str, exposure: str
) -> list[Carried]:
    """What sits on a part and does not bear an agent.

    A bath reaches all of it; a wipe can be kept off it, and then it is a warning.

    Args:
        materials: of the catalogue. agent, exposure: as for :func:`may_touch`.
    """
    found = []
    for other in family.part:
        if part.key not in other.on or not other.materials:
            continue
        answers = [
            may_touch_part(materials[m], materials[f] if f else None, agent, exposure, other.bears_not)
            for m, f in surfaces(other)
        ]
        refused = [a for a in answers if not a.allowed]
        if refused:
            found.append(Carried(other, min(refused, key=lambda a: _RANK[a.bears])))
    return found
