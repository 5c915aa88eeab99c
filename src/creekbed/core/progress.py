"""How long work tells how far it is, and is told to stop."""

from __future__ import annotations

from collections.abc import Callable

Progress = Callable[[float], bool]
"""Told the share that is done, 0 to 1; false gives the work up."""


def untold(share: float) -> bool:
    """For work that nobody watches: it goes on."""
    return True
