"""Backups in words."""

from __future__ import annotations

from datetime import datetime

from creekbed.core.conventions import clock, number
from creekbed.store.maintenance import Copy


def title_of(copy: Copy) -> str:
    """When a copy was made, and what it is."""
    return f"{_when(copy.made_at)}, {copy.kind}"


def holds(copy: Copy) -> str:
    """What a copy holds."""
    if not copy.facts.entries and not copy.facts.whole:
        return "Nothing in it can be read."
    last = f"; last action {_when(copy.facts.last_at)}" if copy.facts.last_at is not None else ""
    return (
        f"{_count(copy.facts.jobs, 'job')}, {_count(copy.facts.instruments, 'instrument')}, "
        f"{_count(copy.facts.entries, 'action')}{last}."
    )


def whole(copy: Copy) -> str:
    """Whether a copy was found whole."""
    return "Read through now: whole." if copy.facts.whole else f"Not whole: {copy.facts.wrong}."


def lost(copy: Copy) -> str:
    """What would be lost by going back to a copy."""
    if copy.other:
        return "It tells another story than what is here now."
    if copy.lost is None:
        return ""
    if not copy.lost:
        return "Nothing that is on record now would be missing."
    since = f" since {_when(copy.facts.last_at)}" if copy.facts.last_at is not None else ""
    return f"{_count(copy.lost, 'action')}{since} would be missing."


def line_of(copy: Copy) -> str:
    """All of it in one line, its name first."""
    size = f"{number(copy.size / 1e6, 1)} MB"
    return "  ".join(w for w in (copy.name, copy.kind, size, holds(copy), whole(copy), lost(copy)) if w)


def _when(at: datetime | None) -> str:
    return clock(at, "%a %d %b %Y, ") if at is not None else ""


def _count(n: int, what: str) -> str:
    return f"{n:,} {what}" if n == 1 else f"{n:,} {what}s"
