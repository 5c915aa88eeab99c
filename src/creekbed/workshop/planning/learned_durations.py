"""How long things took here: records for the planner to learn from."""

from __future__ import annotations

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.planning.durations import LATEST, Taken
from creekbed.store.reader import Reader


def house_minutes(catalogue: Catalogue, family: str, base: str) -> float | None:
    """The house default for a step of a family, minutes; ``None`` where the catalogue knows no such step."""
    known = catalogue.families.get(family)
    step = next((s for s in known.step if s.key == base), None) if known is not None else None
    return None if step is None else step.hands_min


def count(records: Reader) -> int:
    """How many durations are on record."""
    return records.steps.timed_count()


def taken(records: Reader, catalogue: Catalogue) -> tuple[Taken, ...]:
    """The latest durations on record, oldest first: of steps that were taken up, and of steps done in one go."""
    found = []
    for key, person, at, minutes, data, family in records.steps.durations(LATEST):
        base = key.partition(".")[0]
        house = data.get("house_min") or house_minutes(catalogue, family, base)
        if house:
            found.append(Taken(base, family, person, at.toordinal(), float(minutes), float(house)))
    return tuple(reversed(found))
