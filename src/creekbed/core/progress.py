"""How long work tells how far it is, and is told to stop."""

from __future__ import annotations

from collections.abc import Callable

from creekbed.core.errors import BadInput

Progress = Callable[[float], bool]
"""Told the share that is done, 0 to 1; false gives the work up."""


def advance(progress: Progress, done: float, whole: float) -> None:
    """Tell how far work that only looks at something is.

    Raises:
        BadInput: given up.
    """
    if not progress(min(done / whole, 1.0) if whole > 0 else 1.0):
        raise BadInput("Given up; nothing was changed.")


def untold(share: float) -> bool:
    """For work that nobody watches: it goes on."""
    return True
