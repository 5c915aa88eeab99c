"""Which copies are kept by their age: every day for a week, then one a week, then one a month."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from datetime import datetime

DAYS, WEEKS, MONTHS = 7, 4, 12
"""Copies of the last seven days with a copy are kept, the newest of four weeks, of twelve months: house default."""


def kept(times: Sequence[datetime]) -> set[datetime]:
    """The times of the copies to keep.

    Weeks are those of ISO 8601, days and months those of UTC. A period without a copy does not count, so that a shop
    that was shut for a month loses nothing.

    Args:
        times: of all good copies, in any order.
    """
    newest = sorted(times, reverse=True)
    days = list(dict.fromkeys(t.date() for t in newest))[:DAYS]
    found = {t for t in newest if t.date() in days}
    found |= _newest_of(newest, [t.isocalendar()[:2] for t in newest], WEEKS)
    return found | _newest_of(newest, [(t.year, t.month) for t in newest], MONTHS)


def _newest_of(times: Sequence[datetime], periods: Sequence[Hashable], most: int) -> set[datetime]:
    """The newest time of each of the last periods; times are newest first."""
    first: dict[Hashable, datetime] = {}
    for time, period in zip(times, periods, strict=True):
        first.setdefault(period, time)
    return set(list(first.values())[:most])
