"""Staff, policies, values and settings of the shop."""

from __future__ import annotations

from dataclasses import field
from datetime import datetime
from typing import Any, ClassVar

from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.records.base import INDEXED, KEY, NEW, Versioned


@dataclass(frozen=True, slots=True, kw_only=True)
class Person(Versioned):
    """Somebody who works at the bench.

    Attributes:
        initials: their key. helper: does only what needs no technician. from_hour, to_hour: local time of day between
            which they are there while the bench is open, decimal hours.
    """

    TABLE: ClassVar[str] = "person"
    initials: str = field(metadata=KEY)
    helper: bool = False
    from_hour: float = 0.0
    to_hour: float = 24.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Attendance(Versioned):
    """A stretch in which somebody is away though the bench is open, or stays though it is not: kind "away", "stays"."""

    TABLE: ClassVar[str] = "attendance"
    id: int = field(default=NEW, metadata=KEY)
    person: str = field(metadata=INDEXED)
    kind: str
    begins_at: datetime
    ends_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class PolicyChoice(Versioned):
    """Which choice of a topic the shop follows."""

    TABLE: ClassVar[str] = "policy_choice"
    topic: str = field(metadata=KEY)
    choice: str
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class PolicyRequest(Versioned):
    """What a group or teacher asks for instead of the shop's choice."""

    TABLE: ClassVar[str] = "policy_request"
    who: str = field(metadata=KEY)
    topic: str = field(metadata=KEY)
    choice: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PointPlacing(Versioned):
    """How well somebody places points in a picture: sum of squares in pixels², degrees of freedom."""

    TABLE: ClassVar[str] = "point_placing"
    person: str = field(metadata=KEY)
    squares: float
    free: int


@dataclass(frozen=True, slots=True, kw_only=True)
class HouseValue(Versioned):
    """A number that was measured here and holds from then on, such as how fast the tub cools."""

    TABLE: ClassVar[str] = "house_value"
    key: str = field(metadata=KEY)
    value: float
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnName(Versioned):
    """What words of the shop's lists mean: a family, and a size or ""."""

    TABLE: ClassVar[str] = "own_name"
    words: str = field(metadata=KEY)
    family: str
    size: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting(Versioned):
    """A setting of the window or the shop: ``value`` is {"v": value}."""

    TABLE: ClassVar[str] = "setting"
    key: str = field(metadata=KEY)
    value: dict[str, Any] = field(default_factory=dict)
