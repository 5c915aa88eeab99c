"""The shop's calendar: when the bench is open, and on which days instruments leave. Days are local dates."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import date, datetime, time, timedelta
from typing import Literal

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

OnClosed = Literal["skip", "before", "keep"]
Spans = Sequence[Sequence[float]]
"""Hours of a day: (from, to) as decimal hours, ascending."""
EARLIER_MOST = 6
"""A departure on a closed day is brought forward by so many days at most, else it is skipped: house default."""
LONGEST_DAYS = 366
"""The longest stretch that can be closed, or have hours of its own, days: house default."""


@dataclass(frozen=True)
class DateRange:
    """A stretch of days, the first and the last in it.

    Attributes:
        yearly: it comes again on the same dates of every year, before and after.
    """

    first: date
    last: date
    yearly: bool = False

    def __post_init__(self) -> None:
        if self.last < self.first:
            raise BadInput("This ends before it begins.", todo="Look at the dates again.")
        if (self.last - self.first).days >= LONGEST_DAYS:
            raise BadInput("This is longer than a year.", todo="Look at the dates again.")

    def __contains__(self, day: date) -> bool:
        if not self.yearly:
            return self.first <= day <= self.last
        length = self.last - self.first
        begins = (_in_year(self.first, year) for year in (day.year - 1, day.year))
        return any(begin <= day <= begin + length for begin in begins)


def _in_year(day: date, year: int) -> date:
    """The same date in another year; 29 February is 1 March where there is none."""
    try:
        return day.replace(year=year)
    except ValueError:
        return date(year, 3, 1)


@dataclass(frozen=True)
class SeasonHours:
    """Days with opening hours of their own: weekday from 0 (Monday) → hours; a day that is left out is shut."""

    days: DateRange
    hours: Mapping[int, Spans]


@dataclass(frozen=True)
class ShopCalendar:
    """When the bench is open.

    Attributes:
        week: weekday from 0 (Monday) → usual hours. seasons: the first one that a day is in counts. closed: days off.
    """

    week: Mapping[int, Spans]
    seasons: tuple[SeasonHours, ...] = ()
    closed: tuple[DateRange, ...] = ()

    def hours_on(self, day: date) -> Spans:
        """The hours of a day; empty when the bench is shut."""
        if self.closed_on(day):
            return ()
        season = next((s for s in self.seasons if day in s.days), None)
        return (self.week if season is None else season.hours).get(day.weekday(), ())

    def closed_on(self, day: date) -> bool:
        """Whether a day is off; a weekday on which the bench is usually shut is not, as a van may come on it."""
        return any(day in off for off in self.closed)


@dataclass(frozen=True)
class Rhythm:
    """On which days something leaves.

    Attributes:
        weekdays: 0 (Monday) to 6, for a weekly one. every_weeks: 1 for each week, 2 for every second, and so on,
            counted from the week that ``first`` is in. first: not before this day. dates: for one on dates.
        on_closed: what happens on closed days.
    """

    weekdays: tuple[int, ...] = ()
    every_weeks: int = 1
    first: date | None = None
    dates: tuple[date, ...] = ()
    on_closed: OnClosed = "skip"

    def days(self, since: date, until: date) -> list[date]:
        """The days of the rhythm between two, both included, whatever is closed."""
        found = {d for d in self.dates if since <= d <= until}
        if self.weekdays:
            from dateutil.rrule import WEEKLY, rrule  # not while the application starts

            start = self.first if self.first is not None else since
            begin, end = (datetime.combine(d, time()) for d in (start, until))
            every = rrule(WEEKLY, interval=self.every_weeks, wkst=0, byweekday=self.weekdays, dtstart=begin, until=end)
            found |= {at.date() for at in every if since <= at.date()}
        return sorted(found)

    def leaving(self, since: date, until: date, calendar: ShopCalendar) -> list[tuple[date, date]]:
        """(day of the rhythm, day on which it leaves) between two days of the rhythm; what is skipped is left out."""
        moved = ((day, self.moved(day, calendar)) for day in self.days(since, until))
        return [(day, at) for day, at in moved if at is not None]

    def moved(self, day: date, calendar: ShopCalendar) -> date | None:
        """The day on which it leaves instead of a day of the rhythm; ``None``: it does not."""
        if self.on_closed == "keep" or not calendar.closed_on(day):
            return day
        if self.on_closed == "skip":
            return None
        earlier = (day - timedelta(days=n) for n in range(1, EARLIER_MOST + 1))
        return next((d for d in earlier if calendar.hours_on(d)), None)


def weekdays_of(days: Iterable[int]) -> tuple[int, ...]:
    """Weekdays in order, each once.

    Raises:
        BadInput: none, or a number that is no weekday.
    """
    found = tuple(sorted(set(days)))
    if not found or not all(0 <= d <= 6 for d in found):
        raise BadInput("No weekday was chosen.", todo="Choose at least one.")
    return found


def read_dates(text: str, today: date) -> tuple[date, ...]:
    """Dates as people type them, in order: "3 Dec, 14 Jan 2027", "2026-12-03; 14.1.2027".

    Args:
        today: a date without a year is the next one from here on.

    Raises:
        BadInput: one cannot be understood.
    """
    found = set()
    for part in (p.strip() for p in text.replace(";", ",").split(",")):
        if part:
            found.add(_read_date(part, today))
    return tuple(sorted(found))


def _read_date(text: str, today: date) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError:
        pass
    from dateutil.parser import parse  # not while the application starts

    found = []
    for guess in (datetime(today.year, 1, 1), datetime(today.year + 1, 2, 2)):  # what is not typed is taken from these
        try:
            found.append(parse(text, dayfirst=True, default=guess).date())
        except (ValueError, OverflowError):
            raise BadInput(f"“{text[:20]}” is no date.", todo="Such as 3 Dec or 14 Jan 2027.") from None
    first, second = found
    if (first.day, first.month) != (second.day, second.month):
        raise BadInput(f"“{text[:20]}” is no whole date.", todo="Such as 3 Dec or 14 Jan 2027.")
    return first if first.year == second.year or first >= today else second
