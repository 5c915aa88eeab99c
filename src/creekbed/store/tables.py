"""Tables of the records. Times are stored in UTC; amounts carry their unit in the name or in the catalogue."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, String, UniqueConstraint
from sqlalchemy import DateTime as SqlDateTime
from sqlalchemy.engine import Dialect
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column
from sqlalchemy.types import TypeDecorator, TypeEngine

from creekbed.store.problems import DamagedCell


def _careful(
    impl: TypeEngine[Any], dialect: Dialect, coltype: object, then: Callable[[Any], Any]
) -> Callable[[Any], Any]:
    """What reads a value of a column; one that cannot be read is told as such."""
    inner = impl.result_processor(dialect, coltype)

    def process(value: Any) -> Any:
        try:
            return then(inner(value) if inner is not None else value)
        except (ValueError, TypeError, RecursionError) as error:
            raise DamagedCell(f"“{str(value)[:40]}”") from error

    return process


class Json(TypeDecorator[Any]):
    """JSON of one kind, ``list`` or ``dict``; what is no such JSON is told as damaged."""

    impl = JSON
    cache_ok = True

    def __init__(self, kind: type[Any] = dict):
        super().__init__()
        self.kind = kind

    def result_processor(self, dialect: Dialect, coltype: object) -> Callable[[Any], Any]:
        def check(value: Any) -> Any:
            if value is not None and not isinstance(value, self.kind):
                raise TypeError
            return value

        return _careful(self.impl_instance, dialect, coltype, check)


class UtcDateTime(TypeDecorator[datetime]):
    """Aware datetimes outside, UTC without zone inside. A naive one is a mistake and is refused."""

    impl = SqlDateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("a time without zone cannot be stored")
        return value.astimezone(UTC).replace(tzinfo=None)

    def result_processor(self, dialect: Dialect, coltype: object) -> Callable[[Any], Any]:
        return _careful(self.impl_instance, dialect, coltype, lambda v: None if v is None else v.replace(tzinfo=UTC))


class Base(DeclarativeBase):
    type_annotation_map = {datetime: UtcDateTime, dict[str, Any]: Json(dict), list[Any]: Json(list)}


class Instrument(Base):
    __tablename__ = "instrument"
    tag: Mapped[str] = mapped_column(String(32), primary_key=True)
    family: Mapped[str]
    size: Mapped[str]
    serial: Mapped[str] = mapped_column(default="")
    materials: Mapped[dict[str, Any]] = mapped_column(default=dict)
    finishes: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    created_at: Mapped[datetime]


class Hire(Base):
    __tablename__ = "hire"
    id: Mapped[int] = mapped_column(primary_key=True)
    tag: Mapped[str] = mapped_column(ForeignKey("instrument.tag"), index=True)
    renter: Mapped[str]
    """A code the shop gives, never a name."""
    group_name: Mapped[str] = mapped_column(default="")
    out_at: Mapped[datetime]
    back_at: Mapped[datetime | None]
    contents_out: Mapped[list[Any]] = mapped_column(default=list)
    condition_out: Mapped[list[Any]] = mapped_column(default=list)
    """Rows of {zone, kind, size_mm} and of {check, value, unit, words} as it went out."""


class Boat(Base):
    __tablename__ = "boat"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    leaves_at: Mapped[datetime] = mapped_column(index=True)


class Job(Base):
    __tablename__ = "job"
    id: Mapped[int] = mapped_column(primary_key=True)
    tag: Mapped[str] = mapped_column(ForeignKey("instrument.tag"), index=True)
    hire_id: Mapped[int | None] = mapped_column(ForeignKey("hire.id"))
    boat_id: Mapped[int | None] = mapped_column(ForeignKey("boat.id"))
    state: Mapped[str] = mapped_column(default="open", index=True)
    """open, ready (tag printed) or gone."""
    opened_at: Mapped[datetime]
    ready_at: Mapped[datetime | None]
    release_at: Mapped[datetime | None]
    case_readings: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    """Rows of [time in UTC as ISO 8601, °C on the instrument], while its case is shut."""
    came_from: Mapped[str] = mapped_column(default="")
    next_group: Mapped[str] = mapped_column(default="")
    renter: Mapped[str] = mapped_column(default="", server_default="")
    """What is known of the next renter: young_child, beginner, same, or nothing."""
    weight: Mapped[float] = mapped_column(default=1.0)
    case_c: Mapped[float | None]
    schools: Mapped[dict[str, Any]] = mapped_column(default=dict)
    quarantine: Mapped[str] = mapped_column(default="")
    waiting_for: Mapped[str] = mapped_column(default="")
    """Why it cannot go on: at the specialist, part ordered; empty when it can."""
    back_at: Mapped[datetime | None]
    """When it is expected back from there, where that is known."""


class ContentLine(Base):
    __tablename__ = "content_line"
    __table_args__ = (UniqueConstraint("job_id", "item"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    item: Mapped[str]
    state: Mapped[str]
    reason: Mapped[str] = mapped_column(default="")


class Mark(Base):
    __tablename__ = "mark"
    id: Mapped[int] = mapped_column(primary_key=True)
    tag: Mapped[str] = mapped_column(ForeignKey("instrument.tag"), index=True)
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id"))
    zone: Mapped[str]
    kind: Mapped[str]
    size_mm: Mapped[float | None]
    seen_at: Mapped[datetime]
    status: Mapped[str] = mapped_column(default="", server_default="")
    """"repaired" for an old mark that is gone; else its size and the hire-out record tell."""


class Photo(Base):
    __tablename__ = "photo"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(64))
    """SHA-256 of the JPEG in the photos folder."""
    tag: Mapped[str] = mapped_column(String(32), ForeignKey("instrument.tag"), index=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    about: Mapped[str]
    """"packing", "mark:ID" or "check:KEY"."""
    width: Mapped[int]
    height: Mapped[int]
    taken_at: Mapped[datetime]


class Finding(Base):
    __tablename__ = "finding"
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    check: Mapped[str] = mapped_column("check_key")
    readings: Mapped[list[Any]] = mapped_column(default=list)
    choice: Mapped[str] = mapped_column(default="")
    places: Mapped[dict[str, Any]] = mapped_column(default=dict)
    band: Mapped[str]
    verdict: Mapped[str] = mapped_column(default="")
    reason: Mapped[str]
    overruled: Mapped[str] = mapped_column(default="")
    overrule_reason: Mapped[str] = mapped_column(default="")
    closed: Mapped[str] = mapped_column(default="")
    """How it was closed or why it was accepted; empty while open."""
    at: Mapped[datetime]
    person: Mapped[str]


class Work(Base):
    __tablename__ = "work"
    __table_args__ = (UniqueConstraint("job_id", "key"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    key: Mapped[str]
    what: Mapped[str]
    stage: Mapped[str]
    state: Mapped[str]
    """done, waived or failed."""
    reason: Mapped[str] = mapped_column(default="")
    at: Mapped[datetime]
    minutes: Mapped[float | None]
    data: Mapped[dict[str, Any]] = mapped_column(default=dict)
    person: Mapped[str]


class Wait(Base):
    __tablename__ = "wait"
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    key: Mapped[str]
    name: Mapped[str]
    place: Mapped[str]
    at_end: Mapped[str]
    started_at: Mapped[datetime]
    wet_since: Mapped[datetime | None]
    wet: Mapped[bool] = mapped_column(default=False)
    restarts: Mapped[int] = mapped_column(default=0)
    min_minutes: Mapped[float]
    max_minutes: Mapped[float | None]
    ended_at: Mapped[datetime | None] = mapped_column(index=True)
    ended_why: Mapped[str] = mapped_column(default="")
    detail: Mapped[str] = mapped_column(default="")
    weighings: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    """Rows of [time in UTC as ISO 8601, grams, step of the scale in grams]."""


class Disinfection(Base):
    """What was disinfected, with what, for how long, by whom: written when a contact time ends."""

    __tablename__ = "disinfection"
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    part: Mapped[str]
    agent: Mapped[str]
    lot: Mapped[str]
    strength_pct: Mapped[float | None]
    began_at: Mapped[datetime]
    """When the surface was last wetted after being dry."""
    ended_at: Mapped[datetime]
    required_min: Mapped[float]
    wet_min: Mapped[float]
    """Unbroken wet time, minutes."""
    restarts: Mapped[int]
    over_min: Mapped[float]
    """By how much the longest time was passed, minutes."""
    person: Mapped[str]


class AirReading(Base):
    """The storage room's air. Not journalled: it is no work at the bench."""

    __tablename__ = "air_reading"
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime] = mapped_column(index=True, unique=True)
    celsius: Mapped[float]
    humidity: Mapped[float]
    """Relative, 0 to 1."""
    source: Mapped[str]


class Forecast(Base):
    """The chance that was given of making a boat. Not journalled: it is no work at the bench."""

    __tablename__ = "forecast"
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    boat_id: Mapped[int] = mapped_column(ForeignKey("boat.id"))
    at: Mapped[datetime]
    chance: Mapped[float]


class InHand(Base):
    __tablename__ = "in_hand"
    person: Mapped[str] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"))
    key: Mapped[str]
    since: Mapped[datetime]


class Lot(Base):
    __tablename__ = "lot"
    id: Mapped[int] = mapped_column(primary_key=True)
    item: Mapped[str] = mapped_column(index=True)
    lot: Mapped[str] = mapped_column(default="")
    amount: Mapped[float]
    strength_pct: Mapped[float | None]
    contact_min: Mapped[float | None]
    """Contact time that its label asks for."""
    made_at: Mapped[datetime]
    discard_at: Mapped[datetime | None]


class StockMove(Base):
    __tablename__ = "stock_move"
    id: Mapped[int] = mapped_column(primary_key=True)
    lot_id: Mapped[int] = mapped_column(ForeignKey("lot.id"), index=True)
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id"), index=True)
    amount: Mapped[float]
    why: Mapped[str]
    at: Mapped[datetime]


class SchoolChoice(Base):
    __tablename__ = "school_choice"
    topic: Mapped[str] = mapped_column(primary_key=True)
    choice: Mapped[str]
    at: Mapped[datetime]


class Setting(Base):
    __tablename__ = "setting"
    key: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[dict[str, Any]] = mapped_column(default=dict)


class TagPrint(Base):
    __tablename__ = "tag_print"
    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), index=True)
    at: Mapped[datetime]
    person: Mapped[str]
    facts: Mapped[dict[str, Any]] = mapped_column(default=dict)


class ClockAnchor(Base):
    """Where time was last seen, so that a moved clock can be told from a long pause. Not journalled."""

    __tablename__ = "clock_anchor"
    id: Mapped[int] = mapped_column(primary_key=True)
    utc: Mapped[datetime]
    boot_id: Mapped[str]
    boot_seconds: Mapped[float]
    checksum: Mapped[str] = mapped_column(default="", server_default="")
    """Of the other three, so that a value that changed by itself is no clock that was set."""


class Entry(Base):
    """The journal: append-only (triggers refuse change and removal), one row for each use case."""

    __tablename__ = "journal"
    __table_args__ = (Index("ix_journal_tag", "tag"), Index("ix_journal_undoes", "undoes"))
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    person: Mapped[str]
    action: Mapped[str]
    words: Mapped[str]
    tag: Mapped[str] = mapped_column(default="")
    undoes: Mapped[int | None]
    undoable: Mapped[bool] = mapped_column(default=True)
    changes: Mapped[list[Any]] = mapped_column(default=list)
    seat: Mapped[str] = mapped_column(default="", server_default="")
    """At which window it was done: undo is one's own."""
    digest: Mapped[str] = mapped_column(default="", server_default="")
    chain: Mapped[str] = mapped_column(default="", server_default="")
    """Checksums, see :mod:`creekbed.store.chain`."""
    erased: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    """Entries from which this one erased a renter: number → digest of what they say since."""


UNJOURNALLED = {"journal", "clock_anchor", "alembic_version", "air_reading", "forecast"}
