"""May this agent touch this material?"""

from __future__ import annotations

from dataclasses import dataclass

from creekbed.core.catalogue.models import Bearing

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


def may_touch(material: Bearing, agent: str, exposure: str = "yes") -> Answer:
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


def may_touch_part(material: Bearing, finish: Bearing | None, agent: str, exposure: str = "yes") -> Answer:
    """Whether a part bears ``agent``: what it is made of and what lies on it must both bear it.

    Args:
        material, finish: entries of the catalogue; ``finish`` is ``None`` for a bare part.
        agent, exposure: as for :func:`may_touch`.
    """
    below = may_touch(material, agent, exposure)
    if finish is None or not below.allowed:
        return below
    above = may_touch(finish, agent, exposure)
    return below if above.allowed and _RANK[below.bears] < _RANK[above.bears] else above
