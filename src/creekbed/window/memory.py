"""When memory is tidied: between actions, never in the middle of one."""

from __future__ import annotations

import gc

from PySide6.QtCore import QObject, QTimer

EVERY_MS, OLD_EVERY = 250, 240
"""So often young objects are looked at; one time in so many all that was made since start-up: house default."""


def settle_memory() -> None:
    """What start-up made lives as long as the window: the collector need not look at it again."""
    gc.collect()
    gc.freeze()


class Tidying(QObject):
    """Collects garbage in a turn of its own, in place of Python's collector, which strikes wherever work allocates."""

    def __init__(self, parent: QObject):
        super().__init__(parent)
        self._times = 0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.tidy)

    def start(self) -> None:
        """From now on garbage is collected here only."""
        gc.disable()
        self._timer.start(EVERY_MS)

    def stop(self) -> None:
        """Python's collector goes on by itself."""
        self._timer.stop()
        gc.enable()

    def tidy(self) -> None:
        """Collect what is young, from time to time all."""
        self._times += 1
        gc.collect(2 if self._times % OLD_EVERY == 0 else 1)
