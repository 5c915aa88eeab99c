"""Cloths of the shelf in words."""

from __future__ import annotations

from creekbed.core.conventions import number


def count_words(dry: int, wet: int, dirty: int) -> str:
    """How many there are: "5 dry, 2 wet, 1 dirty"."""
    return f"{dry} dry, {wet} wet, {dirty} dirty"


def wanted_words(total: int, last: str, departure: str, dirty: int, dry_hours: float) -> str:
    """How far what lies dry lasts.

    Args:
        total: that the open jobs want. last: tag of the job that finds none; "" where there are enough. departure: by
            which that leaves, or "". dirty: in the basket. dry_hours: until one that is washed now is dry.
    """
    if not total:
        return "No open job wants one."
    said = f"The open jobs want {total}."
    if not last:
        return said
    said += f" The dry ones last until {last}{f' for the {departure}' if departure else ''}."
    if dirty:
        said += f" Wash the {dirty} in the basket: they hang {number(dry_hours)} h until they are dry."
    return said
