"""Times and lengths of time as the window shows them, in local time with tabular figures."""

from __future__ import annotations

from datetime import datetime, timedelta

from creekbed.core.hygiene.contact import Contact
from creekbed.words.plan import span
from creekbed.workshop.bench.wait_view import WaitView


def clock_words(at: datetime, now: datetime | None = None) -> str:
    """ "13:05" on the same day as ``now``, else "Fri 13:05"; always with the day when ``now`` is not given."""
    local = at.astimezone()
    same = now is not None and now.astimezone().date() == local.date()
    return f"{local:%H:%M}" if same else f"{local:%a %H:%M}"


def count_down(left: timedelta) -> str:
    """ "2:40" under ten minutes, "18 min" under an hour, then "1 h 05"."""
    seconds = max(0, int(left.total_seconds() + 0.999))
    if seconds < 600:
        return f"{seconds // 60}:{seconds % 60:02d}"
    return span(seconds / 60)


def left_words(wait: WaitView, state: Contact) -> str:
    """How a wait stands in one word: over, dry, due, or how long is left."""
    if state.over:
        return "over"
    return "dry" if wait.dry else "due" if state.may_end else count_down(state.remaining)


def in_words(at: datetime, now: datetime) -> str:
    """ "in 22 h 10", "left 5 min ago"."""
    minutes = (at - now).total_seconds() / 60
    return f"in {span(minutes)}" if minutes >= 0 else f"left {span(-minutes)} ago"
