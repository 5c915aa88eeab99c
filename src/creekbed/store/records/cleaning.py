"""Baths, reeds, cloths, water, lubricant, hands, products."""

from __future__ import annotations

from dataclasses import field
from datetime import datetime
from typing import Any, ClassVar

from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.records.base import INDEXED, KEY, NEW, Versioned, refers


@dataclass(frozen=True, slots=True, kw_only=True)
class Bath(Versioned):
    """A bath as it was filled, or topped up last; temperatures in °C.

    Attributes:
        since: when it stood at ``start_c``. target_c: what it is brought back to. tau_min: how fast it cools, minutes.
        emptied_at: ``None`` while it runs.
    """

    TABLE: ClassVar[str] = "bath"
    id: int = field(default=NEW, metadata=KEY)
    volume_l: float
    target_c: float
    hot_c: float
    cold_c: float
    room_c: float
    lowest_c: float
    start_c: float
    tau_min: float
    filled_at: datetime
    since: datetime
    emptied_at: datetime | None = field(default=None, metadata=INDEXED)
    machine: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ReedBath(Versioned):
    """Reeds that lie in peroxide together; ``ended_at`` is ``None`` while they do."""

    TABLE: ClassVar[str] = "reed_bath"
    id: int = field(default=NEW, metadata=KEY)
    since: datetime
    ended_at: datetime | None = None
    machine: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class BenchReed(Versioned):
    """A reed of the bench.

    Attributes:
        id: its number on the case. group_name: of the families that it is for. uses: since it was new; minutes: how
            long it was played in all. fresh_uses: since it was cleaned. last_at: when it was played last. first_at:
            when it was first played since cleaning. bath_id: the bath that it lies in.
    """

    TABLE: ClassVar[str] = "bench_reed"
    id: int = field(default=NEW, metadata=KEY)
    group_name: str
    uses: int = 0
    fresh_uses: int = 0
    last_at: datetime | None = None
    first_at: datetime | None = None
    cleanings: int = 0
    minutes: float = 0.0
    bath_id: int | None = field(default=None, metadata=refers("reed_bath.id"))


@dataclass(frozen=True, slots=True, kw_only=True)
class ClothRecord(Versioned):
    """A pull-through as the shop has it.

    Attributes:
        key: of the catalogue, or one of the shop's own. name … weight_mm: the shop's own measures; ``None``: as
            shipped. phi: packing fraction, where it was calibrated. uses: since its wash. washes: so far.
    """

    TABLE: ClassVar[str] = "cloth"
    key: str = field(metadata=KEY)
    name: str | None = None
    width_mm: float | None = None
    thickness_mm: float | None = None
    groups: list[Any] | None = None
    wash_after: int | None = None
    lasts: int | None = None
    stuff: str | None = None
    cord_mm: float | None = None
    weight_mm: float | None = None
    phi: float | None = None
    uses: int = 0
    washes: int = 0
    washed_at: datetime | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ClothCount(Versioned):
    """How many cloths of a stuff lie dry and dirty; those that hang wet are :class:`ClothOnLine`."""

    TABLE: ClassVar[str] = "cloth_count"
    stuff: str = field(metadata=KEY)
    dry: int
    dirty: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class ClothOnLine(Versioned):
    """Washed cloths of a stuff that hang until they are dry."""

    TABLE: ClassVar[str] = "cloth_on_line"
    id: int = field(default=NEW, metadata=KEY)
    stuff: str
    number: int
    dry_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterWeighing(Versioned):
    """Water in a played bore: what breath can leave at most (``bound_g``), and what was weighed (``found_g``)."""

    TABLE: ClassVar[str] = "water_weighing"
    id: int = field(default=NEW, metadata=KEY)
    family: str = field(metadata=INDEXED)
    bound_g: float
    found_g: float
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class StringDrop(Versioned):
    """How flat the new strings of a job were before a retune, cents, from and to minutes since they were tuned up."""

    TABLE: ClassVar[str] = "string_drop"
    id: int = field(default=NEW, metadata=KEY)
    job_id: int = field(metadata=refers("job.id", index=True))
    family: str
    from_min: float
    to_min: float
    cents: float
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class LubricantTaken(Versioned):
    """How much of a supply an instrument took last, and the times before, the oldest first; in the supply's unit."""

    TABLE: ClassVar[str] = "lubricant_taken"
    tag: str = field(metadata=refers("instrument.tag", key=True))
    supply: str = field(metadata=KEY)
    amount: float
    earlier: list[float] = field(default_factory=list)


@dataclass(frozen=True, slots=True, kw_only=True)
class HandWash(Versioned):
    """When somebody last said that their hands are washed."""

    TABLE: ClassVar[str] = "hand_wash"
    person: str = field(metadata=KEY)
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnProduct(Versioned):
    """A product that the shop entered, by the ingredients on its label."""

    TABLE: ClassVar[str] = "own_product"
    name: str = field(metadata=KEY)
    ingredients: str
