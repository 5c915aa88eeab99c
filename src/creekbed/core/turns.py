"""Long work in short turns, so that whoever shows what comes of it can see to other things between two of them.

Such work is a generator: it yields wherever it may be left for a while, or for good, and returns what came of it. What
it reads must not change meanwhile, and it changes nothing that others see before its end.
"""

from __future__ import annotations

from collections.abc import Generator
from typing import TypeVar

T = TypeVar("T")
Turns = Generator[None, None, T]


def whole(work: Turns[T]) -> T:
    """Do all of it at once; what it raises is raised here."""
    while True:
        try:
            next(work)
        except StopIteration as done:
            found: T = done.value
            return found
