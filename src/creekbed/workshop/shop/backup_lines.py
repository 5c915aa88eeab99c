"""Backups in words, from their records."""

from __future__ import annotations

from creekbed.store.maintenance import Copy
from creekbed.words.backups import copy_holds, copy_lost, copy_title, copy_whole, size_words


def title_of(copy: Copy) -> str:
    """When a copy was made, and what it is."""
    return copy_title(copy.made_at, copy.kind)


def holds(copy: Copy) -> str:
    """What a copy holds."""
    facts = copy.facts
    return copy_holds(facts.jobs, facts.instruments, facts.entries, facts.last_at, whole=facts.whole)


def whole(copy: Copy) -> str:
    """Whether a copy was found whole."""
    return copy_whole(copy.facts.whole, copy.facts.wrong)


def lost(copy: Copy) -> str:
    """What would be lost by going back to a copy."""
    return copy_lost(copy.lost, copy.facts.last_at, other=copy.other)


def line_of(copy: Copy) -> str:
    """All of it in one line, its name first."""
    return "  ".join(
        w for w in (copy.name, copy.kind, size_words(copy.size), holds(copy), whole(copy), lost(copy)) if w
    )
