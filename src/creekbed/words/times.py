"""Times and lengths of time in words, in local time with tabular figures."""

from __future__ import annotations

from datetime import datetime, timedelta

from creekbed.core.conventions import clock
from creekbed.core.hygiene.contact import Contact


def span(minutes: float) -> str:
    """A length of time as people say it: "8 min", "1 h 05", "2 days"."""
    whole = max(0, round(minutes))
    if whole < 60:
        return f"{whole} min"
    if whole < 36 * 60:
        return f"{whole // 60} h {whole % 60:02d}"
    return f"{round(whole / 1440)} days"


def clock_words(at: datetime, now: datetime | None = None) -> str:
    """ "13:05" on the same day as ``now``, else "Fri 13:05"; always with the day when ``now`` is not given."""
    same = now is not None and now.astimezone().date() == at.astimezone().date()
    return clock(at, "" if same else "%a ")


def count_down(left: timedelta) -> str:
    """ "2:40" under ten minutes, "18 min" under an hour, then "1 h 05"."""
    seconds = max(0, int(left.total_seconds() + 0.999))
    if seconds < 600:
        return f"{seconds // 60}:{seconds % 60:02d}"
    return span(seconds / 60)


def left_words(contact: Contact, dry: bool) -> str:
    """How a wait stands in one word: over, dry, due, or how long is left.

    Args:
        dry: whether the part was found dry by weight.
    """
    if contact.over:
        return "over"
    return "dry" if dry else "due" if contact.may_end else count_down(contact.remaining)


def in_words(at: datetime, now: datetime) -> str:
    """ "in 22 h 10", "left 5 min ago"."""
    minutes = (at - now).total_seconds() / 60
    return f"in {span(minutes)}" if minutes >= 0 else f"left {span(-minutes)} ago"
