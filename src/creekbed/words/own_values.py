"""Names of the numbers that a shop may change."""

from __future__ import annotations

BANDS = {"green_from": "good from", "green_to": "good up to", "amber_from": "watch from", "amber_to": "watch up to"}
"""Limit of a check → words."""
STRINGED = {"tolerance_cents": "tolerance of pitch", "first_day_cents": "drift in the first day"}
"""Number of a family with strings → words."""
WAITS = {"min_minutes": "shortest wait", "max_minutes": "longest wait"}
"""Number of a wait → words."""
CASE = "closed case, time constant"


def strings_name(name: str) -> str:
    """Of a key of :data:`STRINGED`."""
    return f"strings: {STRINGED[name]}"


def length_name(size: str) -> str:
    """Of the vibrating length of a size."""
    return f"vibrating length, {size}"


def hands_name(step: str) -> str:
    """Of the minutes of hands of a step."""
    return f"{step}: hands"


def every_name(what: str) -> str:
    """Of how often something is done."""
    return f"{what}: every"
