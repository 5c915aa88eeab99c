"""Bench reeds in words."""

from __future__ import annotations

from creekbed.core.conventions import number

STATES = {"worn": "throw it away", "clean": "clean it first", "ready": "ready"}
"""How a bench reed stands → what is done with it."""


def reed_words(state: str, rests_h: float = 0.0) -> str:
    """How a bench reed stands.

    Args:
        state: of :data:`STATES`, or "rests". rests_h: how long it still has to, h.
    """
    return f"rests, {number(rests_h, 0)} h more" if state == "rests" else STATES[state]


def too_long(over_min: float) -> str:
    """How far a bath was over its longest time, to stand after another word; "" for less than half a minute."""
    return f", {number(over_min, 0)} min past the longest time: look at each tip" if over_min >= 0.5 else ""


def after_bath(over_min: float) -> str:
    """What is done with reeds that come out of peroxide."""
    return f"Soak them in clean water, rinse several times, dry them flat. Throw the peroxide away{too_long(over_min)}."
