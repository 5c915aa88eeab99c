"""Sitting down by key: Ctrl+1 to Ctrl+9 are the people who work here, in the order of their initials."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QKeySequence, QShortcut

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

MOST = 9


def seat_key(frame: Frame, person: str) -> str:
    """The key of a person, "Ctrl+2"; "" beyond the ninth."""
    people = _people(frame)
    at = people.index(person) + 1 if person in people else MOST + 1
    return f"Ctrl+{at}" if at <= MOST else ""


def add_seat_keys(frame: Frame) -> None:
    """Listen to the keys in a window."""
    for n in range(1, MOST + 1):
        QShortcut(QKeySequence(f"Ctrl+{n}"), frame, partial(_sit, frame, n))


def _people(frame: Frame) -> list[str]:
    from creekbed.workshop.shop.staff import workers

    return sorted(w.key for w in workers(frame.shop))


def _sit(frame: Frame, n: int) -> None:
    if frame.shop is None:
        return
    people = _people(frame)
    if n > len(people):
        frame.say(f"{len(people)} work here: {', '.join(people)}. Nobody has Ctrl+{n}.", warn=True)
    elif people[n - 1] == frame.shop.person:
        frame.say(f"{people[n - 1]} works at this window already.")
    else:
        frame.sit_down(people[n - 1])
