"""Instruments, hires and departures."""

from __future__ import annotations

from dataclasses import field
from datetime import datetime
from typing import Any, ClassVar

from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.records.base import INDEXED, KEY, NEW, Versioned, refers


@dataclass(frozen=True, slots=True, kw_only=True)
class Instrument(Versioned):
    """An instrument of the fleet.

    Attributes:
        materials, finishes: part → key of the catalogue. air_way: valve casings in the order in which the air meets
            them, where the shop has set it for this instrument. bought_on: ISO date, or "". cost: what it was bought
            for, in the shop's own money. standing: "resting", "retired", or "" while it is in use; standing_why: why.
    """

    TABLE: ClassVar[str] = "instrument"
    tag: str = field(metadata={"key": True, "length": 32})
    family: str
    size: str
    serial: str = ""
    materials: dict[str, Any] = field(default_factory=dict)
    finishes: dict[str, Any] = field(default_factory=dict)
    air_way: list[Any] = field(default_factory=list)
    created_at: datetime
    bought_on: str = ""
    cost: float | None = None
    standing: str = ""
    standing_why: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Hire(Versioned):
    """One hire of an instrument.

    Attributes:
        renter: a code that the shop gives, never a name. contents_out: items of the case as it went out.
        condition_out: rows of {zone, kind, size_mm} and of {check, value, unit, words} as it went out.
        due_on: ISO date by which it should be back, or "".
    """

    TABLE: ClassVar[str] = "hire"
    id: int = field(default=NEW, metadata=KEY)
    tag: str = field(metadata=refers("instrument.tag", index=True))
    renter: str
    group_name: str = ""
    out_at: datetime
    back_at: datetime | None = None
    contents_out: list[Any] = field(default_factory=list)
    condition_out: list[Any] = field(default_factory=list)
    due_on: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Departure(Versioned):
    """When instruments leave the shop together.

    Attributes:
        kind_id: of what it is one, if of anything; day: the ISO date of that rhythm for which it stands.
        off: why it does not take place: "calendar" (kind or calendar have no such day), "person" (somebody said so), or
            "" as long as it does.
        single: a due time that a job has by itself; nothing leaves together then.
    """

    TABLE: ClassVar[str] = "departure"
    INDEXES: ClassVar[dict[str, tuple[str, ...]]] = {"ix_departure_kind": ("kind_id", "day")}
    id: int = field(default=NEW, metadata=KEY)
    name: str
    leaves_at: datetime = field(metadata=INDEXED)
    kind_id: int | None = field(default=None, metadata=refers("departure_kind.id"))
    day: str = ""
    off: str = ""
    single: bool = False
