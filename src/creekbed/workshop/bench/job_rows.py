"""The records of jobs, read one by one so that a damaged job does not hide the others."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from typing import Any

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.problems import DamagedCell
from creekbed.store.reader import Reader
from creekbed.store.records import ContentLine, Departure, Finding, Hire, Instrument, Job, Lot, Mark, StepRecord, Wait


@dataclass(frozen=True)
class JobRows:
    """One job as it is on record."""

    job: Job
    instrument: Instrument
    hire: Hire | None
    departure: Departure | None
    lines: tuple[ContentLine, ...]
    findings: tuple[Finding, ...]
    work: tuple[StepRecord, ...]
    waits: tuple[Wait, ...]
    marks: tuple[Mark, ...]

    def timed(self, since: datetime) -> bool:
        """Whether time alone may change how it looks after ``since``."""
        shut = self.job.release_at is not None and self.job.release_at > since
        return shut or any(w.ended_at is None for w in self.waits)


TABLES_OF_JOBS: tuple[type[Any], ...] = (ContentLine, Finding, StepRecord, Wait, Mark)
"""What is on record of a job row by row, in the order of :class:`JobRows`."""


def all_departures(records: Reader) -> dict[int, Departure]:
    """Every departure by number."""
    return {d.id: d for d in records.readable(Departure)}


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


def rows_of_jobs(
    records: Reader, departures: Mapping[int, Departure], *, states: Sequence[str] = ("open",),
    ids: Sequence[int] | None = None, broken: list[Broken] | None = None,
) -> list[JobRows]:  # fmt: skip
    """What is on record of the jobs in some states, or of those with these numbers.

    Args:
        broken: takes jobs of which something cannot be read, so that the others can.

    Raises:
        DamagedCell: something cannot be read, and there is no such list.
    """
    try:
        return _rows(records, departures, states, ids)
    except DamagedCell:
        if broken is None:
            raise
    found: list[JobRows] = []
    for n, tag in records.jobs.tags_in(states, ids):
        try:
            found += _rows(records, departures, states, [n])
        except DamagedCell as problem:
            broken.append(Broken(n, tag, problem.words()))
    return found


def _rows(
    records: Reader, departures: Mapping[int, Departure], states: Sequence[str], ids: Sequence[int] | None
) -> list[JobRows]:
    jobs = records.jobs.in_states(states) if ids is None else records.all_of(Job, id=list(ids))
    instruments = {i.tag: i for i in records.all_of(Instrument, tag=sorted({j.tag for j in jobs}))}
    hires = {h.id: h for h in records.all_of(Hire, id=[j.hire_id for j in jobs if j.hire_id is not None])}
    found = [records.by_job(kind, [j.id for j in jobs]) for kind in TABLES_OF_JOBS]
    lost = next((j.tag for j in jobs if j.tag not in instruments), None)
    if lost is not None:
        raise DamagedCell(f"the instrument {lost} is not on record")
    return [
        JobRows(
            job, instruments[job.tag], hires.get(job.hire_id or 0), departures.get(job.departure_id or 0),
            *(rows[job.id] for rows in found),
        )
        for job in jobs
    ]  # fmt: skip


def mixing_lots(records: Reader, catalogue: Catalogue) -> list[Lot]:
    """Lots of what is mixed and of what that is made from, with something in them."""
    items = {item for recipe in catalogue.house.recipe for item in (recipe.stock, recipe.product)}
    return records.stock.lots_of(items)


Earlier = tuple[tuple[str, str, datetime], ...]
"""Tag, step, when it was done in an earlier job."""


def earlier_work(records: Reader, catalogue: Catalogue, rows: Iterable[JobRows]) -> Earlier:
    """What was done in earlier jobs of the steps that are not due at every return."""
    keys = {key for steps in catalogue.seldom.values() for key in steps}
    current = {r.job.tag: r.job.id for r in rows if r.instrument.family in catalogue.seldom}
    if not current or not keys:
        return ()
    found = records.steps.done_before(current, keys)
    return tuple((tag, key, at) for tag, job_id, key, at in found if job_id < current[tag])


def days_since(earlier: Earlier, now: datetime) -> dict[str, dict[str, float]]:
    """Tag → step → whole days since it was last done."""
    found: dict[str, dict[str, float]] = {}
    for tag, key, at in earlier:
        days = float(int((now - at).total_seconds() / 86400))
        known = found.setdefault(tag, {})
        known[key] = min(days, known.get(key, days))
    return found
