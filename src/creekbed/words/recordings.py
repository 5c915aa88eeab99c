"""Sounds that are kept with a job, in words."""

from __future__ import annotations

from datetime import datetime

from creekbed.core.conventions import clock
from creekbed.words.phrases import sentence

ABOUT = {"tuning": "tuning", "playing": "play-test"}
"""What somebody listened to → words."""


def length_words(seconds: float) -> str:
    """How long a sound is: "42 s", "2 min 05 s"."""
    whole = max(1, round(seconds))
    return f"{whole} s" if whole < 60 else f"{whole // 60} min {whole % 60:02d} s"


def recording_words(about: str, made_at: datetime, seconds: float) -> str:
    """What a sound is: "Play-test, 30 Nov 2026 14:05, 42 s"."""
    return f"{sentence(ABOUT.get(about, about))}, {clock(made_at, '%d %b %Y ')}, {length_words(seconds)}"
