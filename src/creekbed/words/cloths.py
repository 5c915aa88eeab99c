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


def taken_words(name: str, fit: str, share: float, *, to_wash: bool, narrowest: str = "") -> str:
    """Which cloth a step takes: "Silk for clarinets, passes (75 % of the bore)".

    Args:
        share: of the bore, 0 to 1. narrowest: the part whose bore that is, where it passes several.
    """
    bore = f"the narrowest bore: {narrowest}" if narrowest else "the bore"
    return f"{name}, {fit} ({share:.0%} of {bore}){', wash it first' if to_wash else ''}"


def wash_it(name: str, uses: int) -> str:
    """That a cloth has been used often enough."""
    return f"{name}: {uses} uses, wash it"
