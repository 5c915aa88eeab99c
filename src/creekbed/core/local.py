"""Local clock times of a date, by the offset that holds on that date: daylight saving begins and ends between them.

A local time that does not exist, because clocks go forward then, is the moment as many minutes after the change; one
that comes twice is its first (the rule of PEP 495 for ``fold=0``).
"""

from __future__ import annotations

import re
from datetime import date, datetime, time, timedelta

from creekbed.core.errors import BadInput

_CLOCK = re.compile(r"([0-9]{1,2})(?:[:.]([0-9]{2}))?")


def at_hour(day: date, hour: float) -> datetime:
    """The moment at which the clocks of a date show an hour.

    Args:
        hour: decimal hour of the day, 0 to 24; 24 is the midnight that ends it.
    """
    minutes = round(hour * 60)
    days, minutes = divmod(minutes, 24 * 60)
    return datetime.combine(day + timedelta(days=days), time(minutes // 60, minutes % 60)).astimezone()


def read_clock(text: str) -> int:
    """A time of day as typed, "8:30", "8.30" or "8", as minutes since midnight.

    Raises:
        BadInput: it is none.
    """
    found = _CLOCK.fullmatch(text.strip())
    hour, minute = (int(found[1]), int(found[2] or 0)) if found is not None else (24, 0)
    if hour > 23 or minute > 59:
        raise BadInput(f"“{text[:16]}” is no time of day." if text.strip() else "At what time?", todo="Such as 8:30.")
    return hour * 60 + minute


def midnight(now: datetime, days: int = 0) -> datetime:
    """The midnight that begins the local day of a moment, or that of a day so many days later."""
    return at_hour(now.astimezone().date() + timedelta(days=days), 0.0)


def next_clock(now: datetime, hour: int, minute: int) -> datetime:
    """The next moment at which clocks show a time of day, now included."""
    today = now.astimezone().date()
    for day in range(3):
        at = at_hour(today + timedelta(days=day), hour + minute / 60)
        if at >= now:
            return at
    raise AssertionError("a time of day comes every day")


def next_weekday(now: datetime, weekday: int, hour: int, minute: int) -> datetime:
    """The next moment after now at which clocks show a time of day on a weekday (0 = Monday)."""
    today = now.astimezone().date()
    ahead = (weekday - today.weekday()) % 7
    at = at_hour(today + timedelta(days=ahead), hour + minute / 60)
    return at if at > now else at_hour(today + timedelta(days=ahead + 7), hour + minute / 60)
