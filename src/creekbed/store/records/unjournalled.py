"""What is no work at the bench, and the journal itself: no journal keeps changes of it."""

from __future__ import annotations

from dataclasses import field
from datetime import datetime
from typing import Any, ClassVar

from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.records.base import INDEXED, KEY, NEW, UNIQUE, Record, refers


@dataclass(frozen=True, slots=True, kw_only=True)
class AirReading(Record):
    """The storage room's air; ``humidity`` is relative, 0 to 1."""

    TABLE: ClassVar[str] = "air_reading"
    JOURNALLED: ClassVar[bool] = False
    id: int = field(default=NEW, metadata=KEY)
    at: datetime = field(metadata={**INDEXED, **UNIQUE})
    celsius: float
    humidity: float
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ForecastRecord(Record):
    """The chance that was given of making a departure."""

    TABLE: ClassVar[str] = "forecast"
    JOURNALLED: ClassVar[bool] = False
    id: int = field(default=NEW, metadata=KEY)
    job_id: int = field(metadata=refers("job.id", index=True))
    departure_id: int = field(metadata=refers("departure.id"))
    at: datetime
    chance: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownPlan(Record):
    """The plan on show: one row.

    Attributes:
        number: how many plans there have been. at: when it was shown. steps: rows of [tag, step, start and end in
            minutes from then, initials]. assessment: what is known of it beyond the plan.
    """

    TABLE: ClassVar[str] = "shown_plan"
    JOURNALLED: ClassVar[bool] = False
    id: int = field(default=1, metadata=KEY)
    number: int
    at: datetime
    steps: list[Any] = field(default_factory=list)
    assessment: dict[str, Any] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ClockAnchor(Record):
    """Where a machine last saw the time, so that a clock that was set can be told from a long pause.

    Attributes:
        machine: which one. checksum: of its time and boot, so that a value that changed by itself is no clock that was
            set. at_most: other machine → how far this clock can be ahead of its, seconds.
    """

    TABLE: ClassVar[str] = "clock_anchor"
    JOURNALLED: ClassVar[bool] = False
    machine: str = field(metadata=KEY)
    utc: datetime
    boot_id: str
    boot_seconds: float
    checksum: str = ""
    at_most: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class JournalEntry(Record):
    """The journal: append-only, one row for each action.

    Attributes:
        undoes: number of the entry that this one took back. changes: see :mod:`creekbed.store.journal`.
        seat: at which window it was done. digest, chain: see :mod:`creekbed.store.chain`.
        erased: entries from which this one erased a renter: number → digest of what they say since.
    """

    TABLE: ClassVar[str] = "journal"
    JOURNALLED: ClassVar[bool] = False
    INDEXES: ClassVar[dict[str, tuple[str, ...]]] = {
        "ix_journal_tag": ("tag", "id"), "ix_journal_undoes": ("undoes",), "ix_journal_action": ("action", "id"),
        "ix_journal_person": ("person", "seat", "id"),
    }  # fmt: skip
    id: int = field(default=NEW, metadata=KEY)
    at: datetime
    person: str
    action: str
    words: str
    tag: str = ""
    undoes: int | None = None
    undoable: bool = True
    changes: list[Any] = field(default_factory=list)
    seat: str = ""
    digest: str = ""
    chain: str = ""
    erased: dict[str, Any] = field(default_factory=dict)
