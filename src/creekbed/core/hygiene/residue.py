"""What is still on a part from the agents that came to it, and whether the next one may follow."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from creekbed.core.catalogue.models.agents import Agent, ForbiddenMix
from creekbed.core.hygiene.together import Clash, never_together
from creekbed.core.quick_dataclasses import dataclass

WATERS = frozenset({"cool_water", "lukewarm_water", "hot_water"})
"""Agents that rinse; a dry cloth does not."""


@dataclass(frozen=True)
class Use:
    """One use of agents: on which parts, and whether it ended with a rinse of its own."""

    parts: frozenset[str]
    agents: frozenset[str]
    rinses: bool = False


def rinses_off(agents: Mapping[str, Agent], used: frozenset[str]) -> bool:
    """Whether agents brought together rinse a part: water, and nothing that acts or is unknown besides."""
    return bool(used & WATERS) and all(a in agents and not agents[a].holds for a in used - WATERS)


def left_on(agents: Mapping[str, Agent], uses: Iterable[Use]) -> dict[str, set[str]]:
    """Part → agents that came to it and were not rinsed off since, in the order of the uses.

    Args:
        agents: of the catalogue; one that is not known stays until it is rinsed off. uses: what was done, in order.
    """
    left: dict[str, set[str]] = {}
    for use in uses:
        active = {a for a in use.agents if a not in agents or agents[a].holds}
        rinse = use.rinses or rinses_off(agents, use.agents)
        for part in use.parts:
            if rinse:
                left.pop(part, None)
            elif active:
                left.setdefault(part, set()).update(active - WATERS)
    return left


def clashes_with(
    agents: Mapping[str, Agent], never: Iterable[ForbiddenMix], uses: Iterable[Use], following: Use
) -> list[tuple[str, Clash]]:
    """What would meet on a part if the next use followed: (part, clash), dangers first.

    Args:
        agents, never: of the catalogue. uses: what was done, in order. following: what is about to be done.
    """
    rules, left = list(never), left_on(agents, uses)
    found = [
        (part, clash)
        for part in sorted(following.parts)
        for old in sorted(left.get(part, ()))
        for new in sorted(following.agents)
        if old != new
        for clash in never_together(agents, rules, (old, new))
    ]
    return sorted(found, key=lambda x: ("danger", "unknown", "useless").index(x[1].kind))
