"""Backups in words."""

from __future__ import annotations

from datetime import datetime

from creekbed.core.conventions import clock, number


def copy_title(made_at: datetime | None, kind: str) -> str:
    """When a copy was made, and what it is."""
    return f"{_when(made_at)}, {kind}"


def copy_holds(jobs: int, instruments: int, entries: int, last_at: datetime | None, *, whole: bool) -> str:
    """What a copy holds."""
    if not entries and not whole:
        return "Nothing in it can be read."
    last = f"; last action {_when(last_at)}" if last_at is not None else ""
    return f"{_count(jobs, 'job')}, {_count(instruments, 'instrument')}, {_count(entries, 'action')}{last}."


def copy_whole(whole: bool, wrong: str) -> str:
    """Whether a copy was found whole; ``wrong``: what is wrong with it."""
    return "Read through now: whole." if whole else f"Not whole: {wrong}."


def copy_lost(lost: int | None, last_at: datetime | None, *, other: bool) -> str:
    """What would be lost by going back to a copy.

    Args:
        lost: actions; ``None``: not known. last_at: of its last action. other: whether it tells another story.
    """
    if other:
        return "It tells another story than what is here now."
    if lost is None:
        return ""
    if not lost:
        return "Nothing that is on record now would be missing."
    since = f" since {_when(last_at)}" if last_at is not None else ""
    return f"{_count(lost, 'action')}{since} would be missing."


def size_words(size_bytes: int) -> str:
    """How much room it takes."""
    return f"{number(size_bytes / 1e6, 1)} MB"


def _when(at: datetime | None) -> str:
    return clock(at, "%a %d %b %Y, ") if at is not None else ""


def _count(n: int, what: str) -> str:
    return f"{n:,} {what}" if n == 1 else f"{n:,} {what}s"
