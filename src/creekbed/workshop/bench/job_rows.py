"""What is on record of jobs, read row by row so that one that cannot be read takes no other with it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import BindParameter, Select, bindparam, inspect, select
from sqlalchemy.orm import Session

from creekbed.core.catalogue.load import Catalogue
from creekbed.core.turns import Turns
from creekbed.store.problems import DamagedCell
from creekbed.store.tables import Boat, ContentLine, Finding, Hire, Instrument, Job, Lot, Mark, Wait, Work


@dataclass(frozen=True)
class JobRows:
    """One job as it is on record."""

    job: Job
    instrument: Instrument
    hire: Hire | None
    boat: Boat | None
    lines: tuple[ContentLine, ...]
    findings: tuple[Finding, ...]
    work: tuple[Work, ...]
    waits: tuple[Wait, ...]
    marks: tuple[Mark, ...]

    def timed(self, since: datetime) -> bool:
        """Whether it may look another way a moment after ``since`` though nobody did anything."""
        shut = self.job.release_at is not None and self.job.release_at > since
        return shut or any(w.ended_at is None for w in self.waits)


TABLES_OF_JOBS: tuple[Any, ...] = (ContentLine, Finding, Work, Wait, Mark)
"""What is on record of a job row by row, in the order of :class:`JobRows`."""
_AMONG: BindParameter[Any] = bindparam("among", expanding=True)
_JOBS_BY_ID = select(Job).where(Job.id.in_(_AMONG)).order_by(Job.id)
_JOBS_IN_STATE = select(Job).where(Job.state.in_(_AMONG)).order_by(Job.id)
_INSTRUMENTS, _HIRES = select(Instrument).where(Instrument.tag.in_(_AMONG)), select(Hire).where(Hire.id.in_(_AMONG))
_OF_JOBS = {t: select(t).where(t.job_id.in_(_AMONG)).order_by(t.id) for t in TABLES_OF_JOBS}
_BOATS = select(Boat)
_SELDOM = (
    select(Job.tag, Job.id, Work.key, Work.at)
    .join(Work, Work.job_id == Job.id)
    .where(Job.tag.in_(_AMONG), Work.key.in_(bindparam("keys", expanding=True)), Work.state == "done")
)
_LOTS = select(Lot).where(Lot.item.in_(_AMONG), Lot.amount > 0).order_by(Lot.id)
# Questions that are asked at every action are put together once: that takes as long as asking them.
MOST_AT_ONCE = 500
"""So many values are asked for in one question."""


def _in_batches(session: Session, question: Select[Any], among: Sequence[Any]) -> Iterator[Any]:
    """What answers a question about some values, in the order of the question for each batch of them."""
    for n in range(0, len(among), MOST_AT_ONCE):
        yield from session.scalars(question, {"among": among[n : n + MOST_AT_ONCE]})


def sound(session: Session, table: Any, question: Select[Any], values: Mapping[str, Any] | None = None) -> list[Any]:
    """The rows of one table that answer a question; one that cannot be read is left out, and found by the daily read.

    Args:
        table: the class of the rows. values: for the question's open places.
    """
    try:
        return list(session.scalars(question, values or {}))
    except DamagedCell:
        found = []
        for key in session.execute(question.with_only_columns(*inspect(table).primary_key), values or {}).all():
            with suppress(DamagedCell):
                found.append(session.get(table, tuple(key)))
        return found


def all_boats(session: Session) -> dict[int, Boat]:
    """Every boat by id."""
    return {b.id: b for b in sound(session, Boat, _BOATS)}


def lots_of(session: Session, items: Sequence[str]) -> list[Lot]:
    """Lots of some supplies with something in them."""
    return sound(session, Lot, _LOTS, {"among": list(items)})


def rows_of(session: Session, table: Any, jobs: Sequence[int]) -> dict[int, tuple[Any, ...]]:
    """The rows of one table of :data:`TABLES_OF_JOBS` for each of some jobs."""
    found: dict[int, list[Any]] = {n: [] for n in jobs}
    for row in _in_batches(session, _OF_JOBS[table], jobs):
        found[row.job_id].append(row)
    return {n: tuple(rows) for n, rows in found.items()}


@dataclass(frozen=True)
class Broken:
    """A job that cannot be shown, and why; the others go on."""

    job_id: int
    tag: str
    why: str

    @property
    def words(self) -> str:
        """What a person is told."""
        return f"{self.tag} cannot be shown. {self.why}"


def rows_in_turns(
    session: Session, boats: Mapping[int, Boat], *, states: Sequence[str] = ("open",),
    ids: Sequence[int] | None = None, broken: list[Broken] | None = None,
) -> Turns[list[JobRows]]:  # fmt: skip
    """What is on record of the jobs in some states, or of those with these ids, a table at a time.

    Args:
        broken: takes jobs of which something cannot be read, so that the others can.

    Raises:
        DamagedCell: something cannot be read, and there is no such list.
    """
    try:
        return (yield from _rows(session, boats, states, ids))
    except DamagedCell:
        if broken is None:
            raise
    which = Job.state.in_(states) if ids is None else Job.id.in_(ids)
    found: list[JobRows] = []
    for n, tag in session.execute(select(Job.id, Job.tag).where(which).order_by(Job.id)).all():
        try:
            found += yield from _rows(session, boats, states, [n])
        except DamagedCell as problem:
            broken.append(Broken(n, tag, problem.words()))
    return found


def _rows(
    session: Session, boats: Mapping[int, Boat], states: Sequence[str], ids: Sequence[int] | None
) -> Turns[list[JobRows]]:
    if ids is None:
        jobs = list(session.scalars(_JOBS_IN_STATE, {"among": list(states)}))
    else:
        jobs = list(_in_batches(session, _JOBS_BY_ID, list(ids)))
    instruments = {i.tag: i for i in _in_batches(session, _INSTRUMENTS, sorted({j.tag for j in jobs}))}
    hires = {h.id: h for h in _in_batches(session, _HIRES, [j.hire_id for j in jobs if j.hire_id is not None])}
    yield
    found = []
    for table in TABLES_OF_JOBS:
        found.append(rows_of(session, table, [j.id for j in jobs]))
        yield
    lost = next((j.tag for j in jobs if j.tag not in instruments), None)
    if lost is not None:
        raise DamagedCell(f"the instrument {lost} is not on record")
    return [
        JobRows(
            job, instruments[job.tag], hires.get(job.hire_id or 0), boats.get(job.boat_id or 0),
            *(rows[job.id] for rows in found),
        )
        for job in jobs
    ]  # fmt: skip


def mixing_lots(session: Session, catalogue: Catalogue) -> list[Lot]:
    """Lots of what is mixed and of what that is made from, with something in them."""
    items = {item for recipe in catalogue.house.recipe for item in (recipe.stock, recipe.product)}
    return lots_of(session, sorted(items))


Earlier = tuple[tuple[str, str, datetime], ...]
"""Tag, step, when it was done in an earlier job."""


def earlier_work(session: Session, catalogue: Catalogue, rows: Iterable[JobRows]) -> Earlier:
    """What was done in earlier jobs of the steps that are not due at every return."""
    keys = {key for steps in catalogue.seldom.values() for key in steps}
    current = {r.job.tag: r.job.id for r in rows if r.instrument.family in catalogue.seldom}
    if not current or not keys:
        return ()
    found = session.execute(_SELDOM, {"among": sorted(current), "keys": sorted(keys)})
    return tuple((tag, key, at) for tag, job_id, key, at in found if job_id < current[tag])


def days_since(earlier: Earlier, now: datetime) -> dict[str, dict[str, float]]:
    """Tag → step → whole days since it was last done."""
    found: dict[str, dict[str, float]] = {}
    for tag, key, at in earlier:
        days = float(int((now - at).total_seconds() / 86400))
        known = found.setdefault(tag, {})
        known[key] = min(days, known.get(key, days))
    return found
