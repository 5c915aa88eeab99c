"""Jobs and what belongs to them."""

from __future__ import annotations

from dataclasses import field
from datetime import datetime
from typing import Any, ClassVar

from creekbed.core.conventions import clock
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.records.base import INDEXED, KEY, NEW, Versioned, refers


@dataclass(frozen=True, slots=True, kw_only=True)
class Job(Versioned):
    """What is done to an instrument between two hires.

    Attributes:
        state: open, ready (tag printed) or gone. release_at: when its case may be opened.
        case_readings: rows of [time in UTC as ISO 8601, °C on the instrument] while its case is shut.
        renter: what is known of the next renter: young_child, beginner, same, or nothing.
        weight: how much its lateness counts. case_c: °C on the instrument as it came.
        policies: topic → choice as they stood when it was booked in.
        waiting_for: why it cannot go on, such as "At the luthier"; empty when it can.
        back_at: when it is expected back from there.
        machine: whose clock ``release_at`` was told by.
        joined: joints that were together when its case was opened; ``None``: nobody has said.
    """

    TABLE: ClassVar[str] = "job"
    id: int = field(default=NEW, metadata=KEY)
    tag: str = field(metadata=refers("instrument.tag", index=True))
    hire_id: int | None = field(default=None, metadata=refers("hire.id"))
    departure_id: int | None = field(default=None, metadata=refers("departure.id", index=True))
    state: str = field(default="open", metadata=INDEXED)
    opened_at: datetime
    ready_at: datetime | None = None
    release_at: datetime | None = None
    case_readings: list[Any] = field(default_factory=list)
    came_from: str = ""
    next_group: str = ""
    renter: str = ""
    weight: float = 1.0
    case_c: float | None = None
    policies: dict[str, Any] = field(default_factory=dict)
    quarantine: str = ""
    waiting_for: str = ""
    back_at: datetime | None = None
    machine: str = ""
    joined: list[Any] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ContentLine(Versioned):
    """A piece of the case as it was ticked: present, missing, worn, replaced, waived or surplus."""

    TABLE: ClassVar[str] = "content_line"
    UNIQUE: ClassVar[tuple[str, ...]] = ("job_id", "item")
    id: int = field(default=NEW, metadata=KEY)
    job_id: int = field(metadata=refers("job.id", index=True))
    item: str
    state: str
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark(Versioned):
    """A mark of wear or damage.

    Attributes:
        status: "repaired" for an old mark that is gone; else its size and the record of the hire tell.
    """

    TABLE: ClassVar[str] = "mark"
    id: int = field(default=NEW, metadata=KEY)
    tag: str = field(metadata=refers("instrument.tag", index=True))
    job_id: int | None = field(default=None, metadata=refers("job.id", index=True))
    zone: str
    kind: str
    size_mm: float | None = None
    seen_at: datetime
    status: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Photo(Versioned):
    """A photograph of a job.

    Attributes:
        name: SHA-256 of the JPEG in the photos folder. about: "packing", "mark:ID" or "check:KEY".
    """

    TABLE: ClassVar[str] = "photo"
    id: int = field(default=NEW, metadata=KEY)
    name: str = field(metadata={"length": 64})
    tag: str = field(metadata=refers("instrument.tag", index=True, length=32))
    job_id: int = field(metadata=refers("job.id", index=True))
    about: str
    width: int
    height: int
    taken_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class SoundRecording(Versioned):
    """A sound that was kept with a job.

    Attributes:
        name: SHA-256 of the FLAC in the sounds folder. about: "tuning" or "playing". key: the step for which somebody
            listened. size: bytes.
    """

    TABLE: ClassVar[str] = "recording"
    id: int = field(default=NEW, metadata=KEY)
    name: str = field(metadata={"length": 64})
    tag: str = field(metadata=refers("instrument.tag", index=True, length=32))
    job_id: int = field(metadata=refers("job.id", index=True))
    about: str
    key: str = ""
    seconds: float
    rate: float
    size: int
    made_at: datetime
    person: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding(Versioned):
    """What a check found.

    Attributes:
        readings: rows of {value, u, unit, how}. places: place → what was found there.
        closed: how it was closed or why it was accepted; empty while open.
        earlier: what the check found earlier in this job, mostly before work, the oldest first: rows of ``readings``,
            ``choice``, ``places``, ``band``, ``verdict``, ``reason``, ``overruled``, ``overrule_reason``, ``closed``,
            ``person``, ``at``.
    """

    TABLE: ClassVar[str] = "finding"
    id: int = field(default=NEW, metadata=KEY)
    job_id: int = field(metadata=refers("job.id", index=True))
    check: str = field(metadata={"column": "check_key"})
    readings: list[Any] = field(default_factory=list)
    choice: str = ""
    places: dict[str, Any] = field(default_factory=dict)
    band: str
    verdict: str = ""
    reason: str
    overruled: str = ""
    overrule_reason: str = ""
    closed: str = ""
    earlier: list[Any] = field(default_factory=list)
    at: datetime
    person: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StepRecord(Versioned):
    """A step of a job that was done, waived or failed.

    Attributes:
        what: its words when it was done. minutes: how long it took, where that is known. data: what was noted with it.
    """

    TABLE: ClassVar[str] = "step_record"
    UNIQUE: ClassVar[tuple[str, ...]] = ("job_id", "key")
    INDEXES: ClassVar[dict[str, tuple[str, ...]]] = {"ix_step_record_person": ("person", "id")}
    id: int = field(default=NEW, metadata=KEY)
    job_id: int = field(metadata=refers("job.id", index=True))
    key: str
    what: str
    stage: str
    state: str
    reason: str = ""
    at: datetime
    minutes: float | None = None
    data: dict[str, Any] = field(default_factory=dict)
    person: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Wait(Versioned):
    """A wait that a step began: a contact time, drying, airing, settling.

    Attributes:
        wet_since: when a contact time last began anew; ``None`` while the surface is dry.
        weighings: rows of [time in UTC as ISO 8601, grams, step of the scale in grams].
        machine: whose clock it was begun by.
    """

    TABLE: ClassVar[str] = "wait"
    id: int = field(default=NEW, metadata=KEY)
    job_id: int = field(metadata=refers("job.id", index=True))
    key: str
    name: str
    place: str
    at_end: str
    started_at: datetime
    wet_since: datetime | None = None
    wet: bool = False
    restarts: int = 0
    min_minutes: float
    max_minutes: float | None = None
    ended_at: datetime | None = field(default=None, metadata=INDEXED)
    ended_why: str = ""
    detail: str = ""
    weighings: list[Any] = field(default_factory=list)
    machine: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Disinfection(Versioned):
    """What was disinfected, with what, for how long, by whom: written when a contact time ends.

    Attributes:
        began_at: when the surface was last wetted after being dry. wet_min: unbroken wet time, minutes.
        over_min: by how much the longest time was passed, minutes.
    """

    TABLE: ClassVar[str] = "disinfection"
    id: int = field(default=NEW, metadata=KEY)
    job_id: int = field(metadata=refers("job.id", index=True))
    part: str
    agent: str
    lot: str
    strength_pct: float | None = None
    began_at: datetime
    ended_at: datetime
    required_min: float
    wet_min: float
    restarts: int
    over_min: float
    person: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Playing(Versioned):
    """A play-test by sound.

    Attributes:
        key: the step that it was done for. a4_hz: what it was measured against. warmth_cents: what was allowed for.
        lies_cents, u_lies_cents: where the instrument lay as a whole. notes: written note → {"off", "u": cents against
            that, "faults": list}; "off" is missing where it stayed silent.
    """

    TABLE: ClassVar[str] = "playing"
    INDEXES: ClassVar[dict[str, tuple[str, ...]]] = {"ix_playing_tag": ("tag", "id")}
    id: int = field(default=NEW, metadata=KEY)
    job_id: int = field(metadata=refers("job.id", index=True))
    tag: str
    key: str
    at: datetime
    person: str
    a4_hz: float
    warmth_cents: float
    lies_cents: float
    u_lies_cents: float
    notes: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class InHand(Versioned):
    """The step that somebody has in hand."""

    TABLE: ClassVar[str] = "in_hand"
    person: str = field(metadata=KEY)
    job_id: int = field(metadata=refers("job.id"))
    key: str
    since: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class TagPrint(Versioned):
    """A ready tag as it was printed: its facts."""

    TABLE: ClassVar[str] = "tag_print"
    id: int = field(default=NEW, metadata=KEY)
    job_id: int = field(metadata=refers("job.id", index=True))
    at: datetime
    person: str
    facts: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Tray(Versioned):
    """The tray that keeps the small parts of a job."""

    TABLE: ClassVar[str] = "tray"
    job_id: int = field(metadata=refers("job.id", key=True))
    letter: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FixedStart(Versioned):
    """A step that somebody set to begin at a time."""

    TABLE: ClassVar[str] = "fixed_start"
    UNIQUE: ClassVar[tuple[str, ...]] = ("job_id", "key")
    id: int = field(default=NEW, metadata=KEY)
    job_id: int = field(metadata=refers("job.id", index=True))
    key: str
    person: str
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class AwaitedPart(Versioned):
    """A part on its way.

    Attributes:
        key: the step that cannot be done without it. item: the piece of the case that it replaces, or "".
        at: when it comes.
    """

    TABLE: ClassVar[str] = "awaited_part"
    id: int = field(default=NEW, metadata=KEY)
    job_id: int = field(metadata=refers("job.id", index=True))
    key: str
    what: str
    item: str = ""
    at: datetime

    @property
    def words(self) -> str:
        """What comes, and when."""
        return f"{self.what}, {clock(self.at, '%a ')}"
