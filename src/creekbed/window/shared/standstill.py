"""While the window waits for the records: what comes from elsewhere meanwhile is done after it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager

from PySide6.QtCore import QTimer


class Standstill:
    """Whether an action waits for the records now. It is not over, so nothing else may begin."""

    def __init__(self) -> None:
        self._depth = 0
        self._after: list[Callable[[], object]] = []

    @property
    def lasts(self) -> bool:
        """Whether an action waits now."""
        return self._depth > 0

    @contextmanager
    def of_an_action(self) -> Iterator[None]:
        """An action waits."""
        self._depth += 1
        try:
            yield
        finally:
            self._depth -= 1
            if not self._depth and self._after:
                QTimer.singleShot(0, self._catch_up)

    def after(self, act: Callable[[], object]) -> None:
        """Do something now, or when no action waits any more."""
        if self._depth:
            self._after.append(act)
        else:
            act()

    def _catch_up(self) -> None:
        while self._after and not self._depth:
            self._after.pop(0)()


standstill = Standstill()
"""The one of this program: all its windows wait for the same disk."""
