"""How instruments leave, and on which days the bench is shut or open otherwise."""

from __future__ import annotations

from dataclasses import field
from datetime import datetime
from typing import Any, ClassVar

from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.records.base import KEY, NEW, Versioned


@dataclass(frozen=True, slots=True, kw_only=True)
class DepartureKind(Versioned):
    """A way in which instruments leave the shop again and again, such as a van on Mondays.

    Attributes:
        rhythm: "weekly" or "dates". weekdays: 0 (Monday) to 6. every_weeks: 1 for each week, 2 for every second, and so
            on, counted from the week of ``first_on``. dates: ISO dates. minute: local time of day, minutes.
        on_closed: what happens on a day on which the shop is closed: "skip", "before" (the open day before) or "keep".
        dropped_at: since when it is no more.
    """

    TABLE: ClassVar[str] = "departure_kind"
    id: int = field(default=NEW, metadata=KEY)
    name: str
    rhythm: str
    weekdays: list[Any] = field(default_factory=list)
    every_weeks: int = 1
    first_on: str = ""
    dates: list[Any] = field(default_factory=list)
    minute: int
    on_closed: str = "skip"
    dropped_at: datetime | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ClosedDays(Versioned):
    """Days on which the shop is closed: a holiday, or a longer stretch.

    Attributes:
        first_on, last_on: ISO dates, both closed. yearly: on these dates of every year.
        uid: of the event in the calendar file from which it comes, or "".
    """

    TABLE: ClassVar[str] = "closed_days"
    id: int = field(default=NEW, metadata=KEY)
    name: str
    first_on: str
    last_on: str
    yearly: bool = False
    uid: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Season(Versioned):
    """Weeks in which the bench is open at other hours than usual.

    Attributes:
        first_on, last_on: ISO dates, both in it. yearly: on these dates of every year.
        hours: weekday "0" (Monday) to "6" → [[from, to] …], decimal hours of the local day; a day left out is shut.
    """

    TABLE: ClassVar[str] = "season"
    id: int = field(default=NEW, metadata=KEY)
    name: str
    first_on: str
    last_on: str
    yearly: bool = False
    hours: dict[str, Any] = field(default_factory=dict)
