"""Work that is done in turns: it yields wherever it may be left for a while, and returns what came of it.

Between two turns whoever does it may see to other things, such as a window to its keys. Work that waits for an answer
from elsewhere yields the future of that answer. It shows nothing before its end, so that it may be dropped at any turn.
"""

from __future__ import annotations

from collections.abc import Generator
from concurrent.futures import Future, wait
from typing import Any, TypeVar

T = TypeVar("T")
Turns = Generator[Future[Any] | None, None, T]


def whole(work: Turns[T]) -> T:
    """Do all of it at once, waiting for what it waits for; what it raises is raised here."""
    while True:
        try:
            waits_for = next(work)
        except StopIteration as done:
            found: T = done.value
            return found
        if waits_for is not None:
            wait([waits_for])
