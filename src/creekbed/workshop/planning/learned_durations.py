"""How long things took here: records for the planner to learn from."""

from __future__ import annotations

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from creekbed.core.catalogue.load import Catalogue
from creekbed.core.planning.durations import LATEST, Taken
from creekbed.store.tables import Instrument, Job, Work


def house_minutes(catalogue: Catalogue, family: str, base: str) -> float | None:
    """The house default for a step of a family, minutes; ``None`` where the catalogue knows no such step."""
    known = catalogue.families.get(family)
    step = next((s for s in known.step if s.key == base), None) if known is not None else None
    return None if step is None else step.hands_min


def count(session: Session) -> int:
    """How many durations are on record."""
    return int(session.scalar(select(func.count()).select_from(Work).where(Work.minutes.is_not(None))) or 0)


def records(session: Session, catalogue: Catalogue) -> tuple[Taken, ...]:
    """The latest durations on record, oldest first: of steps that were taken up, and of steps done in one go."""
    query = (
        select(Work.key, Work.person, Work.at, Work.minutes, Work.data, Instrument.family)
        .join(Job, Job.id == Work.job_id)
        .join(Instrument, Instrument.tag == Job.tag)
        .where(Work.minutes.is_not(None), Work.state == "done")
        .order_by(Work.id.desc())
        .limit(LATEST)
    )
    found = []
    for key, person, at, minutes, data, family in session.execute(query):
        base = key.partition(".")[0]
        house = data.get("house_min") or house_minutes(catalogue, family, base)
        if house:
            found.append(Taken(base, family, person, at.toordinal(), float(minutes), float(house)))
    return tuple(reversed(found))
