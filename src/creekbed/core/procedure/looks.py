"""Which look asks which check: each in a state of the instrument in which it can be answered and does no harm."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from creekbed.core.catalogue.conditions import Facts
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.parts import Check
from creekbed.core.catalogue.models.steps import Step
from creekbed.core.procedure.situation import UNSAID

MAIN = "apart"
"""The look that asks whatever no other look of the family asks."""


def checks_by_look(family: Family, steps: Sequence[Step], facts: Facts) -> Mapping[str, tuple[str, ...]]:
    """Look → the checks that it asks, in the family's order.

    What wants a joined instrument is asked before it is taken apart where it came in so; else only when it was cleaned
    and put together. What must be read again after tuning is asked only where something was tuned.

    Args:
        steps: of the job. facts: as :func:`creekbed.core.procedure.situation.facts_of` gives them.
    """
    looks: dict[str, str] = {s.asks: s.key for s in steps if s.kind == "look"}
    asked: dict[str, list[str]] = {key: [] for key in looks.values()}
    for check in family.check:
        if not all(c.holds(facts) for c in check.when):
            continue
        look = looks.get(_asked_at(check, facts), "" if check.state == "retuned" else looks.get(MAIN, ""))
        if look:
            asked[look].append(check.key)
    return {key: tuple(checks) for key, checks in asked.items()}


def _asked_at(check: Check, facts: Facts) -> str:
    if check.state != "joined":
        return check.state
    came = facts.get("arrived.joints", frozenset())
    return "joined" if UNSAID not in came and came.issuperset(check.joints) else "together"
