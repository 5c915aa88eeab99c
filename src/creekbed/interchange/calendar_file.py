"""Holidays from a calendar file (iCalendar, RFC 5545): its all-day events, with those that come again."""

from __future__ import annotations

from datetime import date, datetime, time, timedelta
from itertools import islice
from typing import Any

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

MOST_BYTES = 2_000_000
MOST_EVENTS = 2_000
MOST_DAYS = 500
"""Limits of a file: bytes, events in it, and stretches of days that come of it: house default."""
AHEAD = timedelta(days=730)
"""How far events that come again are followed: house default."""
EARLIEST = 1900
"""An event that began before this year is left out; what comes again is counted from its beginning: house default."""
UNREADABLE = (ValueError, TypeError, KeyError, IndexError, AttributeError, OverflowError)
"""What the libraries raise on files that are none."""
SLOW = ("YEARLY", "MONTHLY", "WEEKLY", "DAILY")
"""How often an all-day event can come again (RFC 5545, 3.3.10); by the hour makes no sense for it."""


@dataclass(frozen=True)
class Holiday:
    """Days off that a file names, the first and the last in them.

    Attributes:
        uid: of the event, with its date where it comes again; the same file read again gives the same.
    """

    uid: str
    name: str
    first: date
    last: date


@dataclass(frozen=True)
class CalendarFile:
    """What a file holds. ``timed``: events at a time of day, which are left out: they are not days off."""

    holidays: tuple[Holiday, ...]
    timed: int


def too_long() -> BadInput:
    """The file is longer than :data:`MOST_BYTES`."""
    return BadInput("That file is too long for a calendar.", todo=f"Up to {MOST_BYTES // 1_000_000} MB are read.")


def read_calendar(data: bytes, today: date) -> CalendarFile:
    """The days off of a calendar file from today on, two years ahead.

    Args:
        data: the file's bytes. today: local date.

    Raises:
        BadInput: it is no calendar file, is too long, or cannot be followed.
    """
    if len(data) > MOST_BYTES:
        raise too_long()
    from icalendar import Calendar  # only who brings a file needs this
    from icalendar.error import BrokenCalendarProperty

    try:
        events = list(islice(Calendar.from_ical(data).walk("VEVENT"), MOST_EVENTS + 1))
    except UNREADABLE as error:
        raise BadInput("That is no calendar file.", todo="Choose one that ends in .ics.") from error
    if len(events) > MOST_EVENTS:
        raise BadInput("There are too many events in that file.", todo=f"Up to {MOST_EVENTS} are read.")
    try:
        whole = [e for e in events if _is_whole(e)]
        found = _holidays(_followed(whole, today))
    except (*UNREADABLE, BrokenCalendarProperty) as error:
        raise BadInput("A date in that file cannot be understood.", todo="Save the calendar anew.") from error
    return CalendarFile(tuple(sorted(found, key=lambda h: (h.first, h.name))), len(events) - len(whole))


def _is_whole(event: Any) -> bool:
    """Whether an event lasts whole days."""
    start = event.get("DTSTART")
    return start is not None and not isinstance(start.dt, datetime | time) and start.dt.year >= EARLIEST


def _followed(events: list[Any], today: date) -> list[Any]:
    """Events, and their repetitions, from today on."""
    from icalendar import Calendar
    from recurring_ical_events import of

    calendar = Calendar()
    for event in events:
        _need_slow(event)
        calendar.add_component(event)
    return list(islice(of(calendar, components=["VEVENT"]).between(today, today + AHEAD), MOST_DAYS + 1))


def _need_slow(event: Any) -> None:
    """Refuse an event that comes again by the hour or oftener."""
    rule = event.get("RRULE")
    for one in rule if isinstance(rule, list) else [rule] if rule is not None else []:
        often = {str(f).upper() for f in one.get("FREQ", [])}
        steps = [int(n) for n in one.get("INTERVAL", [1])]
        if not often <= set(SLOW) or min(steps) < 1 or any(k in one for k in ("BYHOUR", "BYMINUTE", "BYSECOND")):
            raise BadInput("An event in that file comes again oftener than daily.", todo="Take it out of the file.")


def _holidays(events: list[Any]) -> list[Holiday]:
    if len(events) > MOST_DAYS:
        raise BadInput("There are too many days off in that file.", todo=f"Up to {MOST_DAYS} are taken.")
    found = []
    for event in events:
        first = event["DTSTART"].dt
        end = event.get("DTEND")
        last = end.dt - timedelta(days=1) if end is not None else first  # RFC 5545, 3.6.1: DTEND is the day after
        name = " ".join(str(event.get("SUMMARY", "")).split())[:80]
        uid = str(event.get("UID", "")) or name
        found.append(Holiday(f"{uid[:120]} {first.isoformat()}", name or "Closed", first, max(last, first)))
    return found
