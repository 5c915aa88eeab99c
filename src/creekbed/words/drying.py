"""What is said of parts that dry: in the room's air, and by their weight."""

from __future__ import annotations

from creekbed.core.conventions import temperature


def weighings_missing(count: int) -> str:
    """How many weighings are needed before they say anything."""
    return f"{count} more weighings, some minutes apart."


def dry_by_weight(left_g: float, weighings: int) -> str:
    """Why a drying may end, for the record."""
    return f"weighed dry, {left_g:.2g} g left ({weighings} weighings)"


def damp_by_weight(name: str) -> str:
    """Why a drying may not end."""
    return f"{name}: by its weight it is not dry yet."


def room_dries(celsius: float, humidity: float, slower: bool) -> str:
    """That the room's air counts; ``humidity``: 0 to 1."""
    word = "slower" if slower else "faster"
    return f"The room stands at {temperature(celsius, 0)} and {humidity:.0%}: it dries {word}, that is counted"


def past_longest(late: str) -> str:
    """Why a wait ended late, for the record; ``late``: how far, in words."""
    return f"{late} past its longest time"


def look_at_part(name: str, late: str) -> str:
    """What to do after a wait that ended past its longest time."""
    return f"{name}: ended {late} past the longest time; it is on record. Look at the part."


def other_vessel(tag: str, forms: str) -> str:
    """Why a part must not go into the same water; ``forms``: what would form."""
    return f"Not into the water of {tag}: {forms.rstrip('.')}. Take another vessel"
