"""Jobs, what belongs to them, and the hires they come from."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import bindparam, func, select

from creekbed.store.records import (
    AwaitedPart,
    Departure,
    Disinfection,
    Finding,
    FixedStart,
    Hire,
    Instrument,
    Job,
    Photo,
    SoundRecording,
    StepRecord,
    Wait,
)
from creekbed.store.tables import KINDS, TABLES

if TYPE_CHECKING:
    from creekbed.store.reader import Reader

_J, _I, _H, _D = TABLES[Job], TABLES[Instrument], TABLES[Hire], TABLES[Departure]
_W, _F, _P, _S = TABLES[Wait], TABLES[Finding], TABLES[Photo], TABLES[StepRecord]
_OPEN_OF = select(_J).where(_J.c.tag == bindparam("tag"), _J.c.state == "open").order_by(_J.c.id.desc()).limit(1)
_HERE_OF = select(_J).where(_J.c.tag == bindparam("tag"), _J.c.state != "gone").order_by(_J.c.id.desc()).limit(1)
_TAGS_HERE = select(_J.c.tag).where(_J.c.state.in_(("open", "ready")))
_READY = (
    select(_J, _I.c.family)
    .join(_I, _I.c.tag == _J.c.tag)
    .where(_J.c.state.in_(("ready", "gone")), _J.c.departure_id.in_(bindparam("departures", expanding=True)))
)
_SHUT = select(_J).where(_J.c.state == "open", _J.c.release_at > bindparam("after")).order_by(_J.c.id)
_RUNNING = select(_W).where(_W.c.ended_at.is_(None)).order_by(_W.c.id)
_BESIDE = (
    select(_W, _I.c.tag.label("of_tag"), _I.c.family.label("of_family"))
    .join(_J, _J.c.id == _W.c.job_id)
    .join(_I, _I.c.tag == _J.c.tag)
    .where(_W.c.ended_at.is_(None), _W.c.place == bindparam("place"), _W.c.job_id != bindparam("job_id"))
    .order_by(_W.c.id)
)
_HIRE_NOW = select(_H).where(_H.c.tag == bindparam("tag"), _H.c.back_at.is_(None)).order_by(_H.c.id.desc()).limit(1)
_OUT_WITH = select(_H.c.tag).where(_H.c.renter == bindparam("renter"), _H.c.back_at.is_(None)).limit(1)
_LAST_HIRES = select(_H).where(_H.c.tag == bindparam("tag")).order_by(_H.c.out_at.desc()).limit(bindparam("most"))
_FOUND_BEFORE = (
    select(_F)
    .join(_J, _J.c.id == _F.c.job_id)
    .where(_J.c.tag == bindparam("tag"), _F.c.check_key == bindparam("check"), _F.c.job_id <= bindparam("job_id"))
    .order_by(_F.c.at.desc())
    .limit(bindparam("most"))
)
_CLEANED_AT = (
    select(_S.c.job_id, func.min(_S.c.at))
    .where(_S.c.stage == "clean", _S.c.state == "done", _S.c.job_id.in_(bindparam("jobs", expanding=True)))
    .group_by(_S.c.job_id)
)
_STRINGS_FOUND = (
    select(_J.c.tag, _F.c.places, _F.c.at)
    .join(_J, _J.c.id == _F.c.job_id)
    .where(_F.c.check_key == "strings", _J.c.tag.in_(bindparam("tags", expanding=True)))
    .order_by(_F.c.at)
)
_UPCOMING = select(_D).where(_D.c.leaves_at > bindparam("now")).order_by(_D.c.leaves_at)
_BOOKED_FOR = (
    select(_J.c.tag).where(_J.c.departure_id == bindparam("departure_id"), _J.c.state != "gone").order_by(_J.c.tag)
)
_PACKED = (
    select(_P).where(_P.c.tag == bindparam("tag"), _P.c.about == bindparam("about")).order_by(_P.c.id.desc()).limit(1)
)


class Jobs:
    """Questions about jobs."""

    def __init__(self, reader: Reader):
        self._reader = reader

    def open_of(self, tag: str) -> Job | None:
        """The open job of an instrument, or ``None``."""
        return next(iter(self._reader.fetch(Job, _OPEN_OF, {"tag": tag})), None)

    def here_of(self, tag: str) -> Job | None:
        """The newest job of an instrument that has not left, or ``None``."""
        return next(iter(self._reader.fetch(Job, _HERE_OF, {"tag": tag})), None)

    def tags_here(self) -> frozenset[str]:
        """Tags of the instruments with a job that has not left."""
        return frozenset(tag for (tag,) in self._reader.rows(_TAGS_HERE))

    def in_states(self, states: Collection[str]) -> list[Job]:
        """The jobs in some states, by number."""
        return self._reader.all_of(Job, state=list(states))

    def tags_in(self, states: Collection[str] | None, ids: Collection[int] | None) -> list[tuple[int, str]]:
        """(number, tag) of the jobs in some states, or with these numbers: also of those that cannot be read."""
        which = _J.c.state.in_(list(states or ())) if ids is None else _J.c.id.in_(list(ids))
        return [(n, tag) for n, tag in self._reader.rows(select(_J.c.id, _J.c.tag).where(which).order_by(_J.c.id))]

    def numbers_of(self, tags: Collection[str]) -> list[int]:
        """The numbers of all jobs of some instruments."""
        return [n for (n,) in self._reader.rows(select(_J.c.id).where(_J.c.tag.in_(sorted(tags))))]

    def open_numbers(self) -> set[int]:
        """The numbers of all open jobs."""
        return {n for (n,) in self._reader.rows(select(_J.c.id).where(_J.c.state == "open"))}

    def of_rows(self, table: str, numbers: Collection[int]) -> set[int]:
        """The jobs that rows of a table belong to."""
        found = TABLES[KINDS[table]]
        return {n for (n,) in self._reader.rows(select(found.c.job_id).where(found.c.id.in_(sorted(numbers))))}

    def ready_for(self, departures: Sequence[int]) -> list[tuple[Job, str]]:
        """Jobs that are ready for one of some departures, or went out, with the key of their family."""
        found = self._reader.fetch_with(Job, _READY, {"departures": list(departures)})
        return [(job, row["family"]) for job, row in found]

    def with_case_shut(self, after: datetime) -> list[Job]:
        """Open jobs whose case must stay shut beyond a moment."""
        return self._reader.fetch(Job, _SHUT, {"after": after})

    def running_waits(self) -> list[Wait]:
        """Every wait that runs, by number."""
        return self._reader.fetch(Wait, _RUNNING)

    def waits_beside(self, place: str, job_id: int) -> list[tuple[Wait, str, str]]:
        """Waits of other jobs that run in a place, each with tag and family of its instrument."""
        found = self._reader.fetch_with(Wait, _BESIDE, {"place": place, "job_id": job_id})
        return [(wait, row["of_tag"], row["of_family"]) for wait, row in found]

    def booked_for(self, departure_id: int) -> tuple[str, ...]:
        """Tags of the instruments that are to go with a departure and have not left yet."""
        return tuple(tag for (tag,) in self._reader.rows(_BOOKED_FOR, {"departure_id": departure_id}))

    def departures_after(self, now: datetime) -> list[Departure]:
        """Departures that have not left, next first."""
        return self._reader.fetch(Departure, _UPCOMING, {"now": now})

    def opened_since(self, since: datetime) -> tuple[int, datetime | None]:
        """How many jobs were opened since a moment, and when the first of all was."""
        count = self._reader.value(select(func.count()).select_from(_J).where(_J.c.opened_at >= since))
        first = self._reader.value(select(func.min(_J.c.opened_at)))
        return int(count or 0), first

    def groups(self) -> set[str]:
        """Names of all groups that have hired or are waited for."""
        names = {n for (n,) in self._reader.rows(select(_H.c.group_name).distinct())}
        return {n for n in names | {n for (n,) in self._reader.rows(select(_J.c.next_group).distinct())} if n}

    def materials(self) -> set[str]:
        """Every material that a part of an instrument is recorded to be made of."""
        return {m for (made,) in self._reader.rows(select(_I.c.materials)) for m in made.values()}

    # --- hires --------------------------------------------------------------------------------------------------

    def hire_now(self, tag: str) -> Hire | None:
        """The hire that an instrument is out on, or ``None``."""
        return next(iter(self._reader.fetch(Hire, _HIRE_NOW, {"tag": tag})), None)

    def out_with(self, renter: str) -> str | None:
        """The tag of an instrument that a renter has now, or ``None``."""
        found: str | None = self._reader.value(_OUT_WITH, {"renter": renter})
        return found

    def last_hires(self, tag: str, most: int) -> list[Hire]:
        """The last hires of an instrument, newest first."""
        return self._reader.fetch(Hire, _LAST_HIRES, {"tag": tag, "most": most})

    # --- findings and photographs -------------------------------------------------------------------------------

    def found_before(self, tag: str, check: str, job_id: int, most: int) -> list[Finding]:
        """What a check found on an instrument up to a job, newest first."""
        return self._reader.fetch(Finding, _FOUND_BEFORE, {"tag": tag, "check": check, "job_id": job_id, "most": most})

    def cleaned_at(self, job_ids: Collection[int]) -> dict[int, datetime]:
        """When the first step of cleaning was done, of each of some jobs in which one was."""
        return dict(self._reader.rows(_CLEANED_AT, {"jobs": sorted(job_ids)}))

    def strings_found(self, tags: Collection[str]) -> list[tuple[str, dict[str, str], datetime]]:
        """(tag, string → what was found of it, when) of each look at the strings of some instruments, oldest first."""
        return [
            (tag, places or {}, at) for tag, places, at in self._reader.rows(_STRINGS_FOUND, {"tags": sorted(tags)})
        ]

    def packing_photo(self, tag: str, about: str) -> Photo | None:
        """The newest photograph about something of an instrument, or ``None``."""
        return next(iter(self._reader.fetch(Photo, _PACKED, {"tag": tag, "about": about})), None)

    def photo_names(self) -> set[str]:
        """Names of all photographs on record."""
        return {n for (n,) in self._reader.rows(select(_P.c.name))}

    def recording_names(self) -> set[str]:
        """Names of all sounds on record."""
        return {n for (n,) in self._reader.rows(select(TABLES[SoundRecording].c.name))}

    # --- plans around a job -------------------------------------------------------------------------------------

    def fixed_starts(self) -> list[FixedStart]:
        """Every step that was set to a time, in the order in which that was done."""
        return self._reader.readable(FixedStart)

    def awaited_parts(self) -> dict[int, tuple[AwaitedPart, ...]]:
        """Parts on their way, by job."""
        found: dict[int, tuple[AwaitedPart, ...]] = {}
        for part in self._reader.readable(AwaitedPart):
            found[part.job_id] = (*found.get(part.job_id, ()), part)
        return found

    def disinfections(self, job_id: int) -> list[Disinfection]:
        """What was disinfected in a job, in the order in which it was done."""
        return self._reader.all_of(Disinfection, job_id=job_id)
