"""Garbage collection between actions, never during one.

Measured with ``benchmarks.blocking``, 70 jobs, 30 things that happen at random: 3 pauses over 50 ms, the longest 64 ms;
with Python's own collector ("plain") 12, the longest 234 ms.
"""

from __future__ import annotations

import gc
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

EVERY_MS, OLD_EVERY, ALL_EVERY = 100, 300, 36_000
"""How often young objects are collected; every how many times old ones too; and every how many times all, when nobody
is at the window: house default."""


def settle_memory() -> None:
    """Exclude all objects that exist now from later collections."""
    gc.collect()
    gc.freeze()


class Tidying(QObject):
    """Collects garbage between actions, in place of Python's collector, which runs wherever code allocates.

    What has outlived a look at old objects is looked at again only when nobody is at the window: on a full bench that
    takes longer than a hand should wait.

    Args:
        idle: whether nobody is at the window.
    """

    def __init__(self, parent: QObject, idle: Callable[[], bool]):
        super().__init__(parent)
        self._idle = idle
        self._times, self._all_at = 0, ALL_EVERY
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.tidy)

    def start(self) -> None:
        """From now on garbage is collected here only, and what there is by now is looked at when nobody waits."""
        gc.disable()
        gc.freeze()
        self._timer.start(EVERY_MS)

    def stop(self) -> None:
        """Python's collector goes on by itself."""
        self._timer.stop()
        gc.unfreeze()
        gc.enable()

    def tidy(self) -> None:
        """Collect young objects, sometimes old ones, rarely all."""
        self._times += 1
        if self._times % OLD_EVERY:
            gc.collect(1)
            return
        if self._times >= self._all_at and self._idle():
            self._all_at = self._times + ALL_EVERY
            gc.unfreeze()
        settle_memory()
