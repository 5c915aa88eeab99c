"""Pieces that many sentences are made of."""

from __future__ import annotations

from collections.abc import Sequence

FEW = 3
"""So many names are said; the others are counted: house default."""


def sentence(words: str) -> str:
    """The words with a capital letter at the beginning."""
    return words[:1].upper() + words[1:]


def listed(names: Sequence[str], most: int = FEW) -> str:
    """The first names, and how many more there are: "V-12, V-15, V-16 and 4 more"."""
    shown = ", ".join(names[:most])
    return f"{shown} and {len(names) - most} more" if len(names) > most else shown
