"""Which agents must never meet: in one vessel, or one after the other on a part that was not rinsed."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from itertools import combinations

from creekbed.core.catalogue.models.agents import Agent, ForbiddenMix
from creekbed.core.quick_dataclasses import dataclass

UNKNOWN = "Nobody here knows what is in it. Unknown counts as unsafe with everything but water and a cloth."
UNKNOWN_DO = "Keep them apart. Read the label and enter what it holds first."


@dataclass(frozen=True)
class Clash:
    """Two agents that must not meet.

    Attributes:
        first, second: the agents as they were named. forms: what they would make.
        kind: "danger", "useless" (each undoes the other) or "unknown". do: what to do, also after it happened.
    """

    first: str
    second: str
    forms: str
    kind: str
    do: str
    mark: str
    source: str


def never_together(agents: Mapping[str, Agent], never: Iterable[ForbiddenMix], named: Iterable[str]) -> list[Clash]:
    """Every pair among the named agents that must not meet; an empty list means that nothing speaks against it.

    Args:
        agents, never: of the catalogue. named: keys of agents; one that is not known, or holds more than is known, is
            unsafe with every other but water and a cloth, and is told by itself too (``second`` is then empty).

    Returns:
        Dangers first, then what is not known, then what only makes useless.
    """
    rules = list(never)
    names = list(dict.fromkeys(named))
    found = [clash for a, b in combinations(names, 2) for clash in _between(agents, rules, a, b)]
    found += [Clash(a, "", UNKNOWN, "unknown", UNKNOWN_DO, "H", "house default") for a in names if _unknown(agents, a)]
    return sorted(found, key=lambda c: ("danger", "unknown", "useless").index(c.kind))


def _unknown(agents: Mapping[str, Agent], key: str) -> bool:
    return key not in agents or "unknown" in agents[key].holds


def _between(agents: Mapping[str, Agent], rules: list[ForbiddenMix], a: str, b: str) -> list[Clash]:
    first, second = agents.get(a), agents.get(b)
    clashes = []
    for rule in rules if first is not None and second is not None else ():
        assert first is not None and second is not None
        x, y = rule.between
        if (x in first.holds and y in second.holds) or (y in first.holds and x in second.holds):
            clashes.append(Clash(a, b, rule.forms, rule.kind, rule.do, rule.mark, rule.source))
    neutral = any(agent is not None and agent.neutral for agent in (first, second))
    if (_unknown(agents, a) or _unknown(agents, b)) and not neutral:
        clashes.append(Clash(a, b, UNKNOWN, "unknown", UNKNOWN_DO, "H", "house default"))
    return clashes
