"""Chances in words, and how often they came true."""

from __future__ import annotations

from datetime import datetime

from creekbed.core.conventions import number
from creekbed.words.phrases import sentence
from creekbed.words.times import clock_words


def odds(chance: float) -> str:
    """A chance as people say it."""
    if chance >= 0.985:
        return "as good as sure"
    if chance <= 0.015:
        return "hardly a chance"
    return f"{number(round(10 * chance) if 0.05 < chance < 0.95 else round(10 * chance, 1))} in 10"


def makes_it(chance: float) -> str:
    """That a job is ready in time with this chance."""
    return f"{sentence(odds(chance))} that it makes it."


def calls_away(chance: float) -> str:
    """That its waits end while hands are at other work, with this chance."""
    return f"{sentence(odds(chance))} that it calls hands away from other work."


def tested_words(band: str) -> str:
    """How far chances like this one came true; ``band``: as :func:`band_words` gives it."""
    return f"Here, {band}."


def band_words(given: int, mean: float, came_true: int) -> str:
    """What came of the forecasts that gave about the same chance.

    Args:
        given: how many there were. mean: of their chances, 0 to 1. came_true: how many jobs were ready in time.
    """
    return f"of {given} given about {round(10 * mean)} in 10, {came_true} were ready in time"


def untested_words(tried: int) -> str:
    """What is said of a chance like which none was put to the test.

    Args:
        tried: how many other chances were.
    """
    return f"Tested here on {tried} others, on none like it." if tried else "No chance was put to the test here yet."


def ready_between(low: datetime, high: datetime) -> str:
    """The interval that holds a job's finish in eight of ten simulated days."""
    return f"Ready between {clock_words(low)} and {clock_words(high)}, eight times in ten."
