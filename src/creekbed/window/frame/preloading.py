"""Preloads what is wanted soon while the window is idle: modules in a thread, the rest in turns."""

from __future__ import annotations

import gc
from collections.abc import Callable, Collection
from importlib import import_module

from PySide6.QtCore import QObject, QThread, QTimer

from creekbed.core.turns import Turns
from creekbed.window.shared.turns import InTurns

AFTER_MS = 400
"""Pages are prepared this long after the bench is drawn, ms: house default."""


class Loading(QThread):
    """Loads modules one after another; left between two of them when it is asked to."""

    def __init__(self, parent: QObject, modules: Collection[str]):
        super().__init__(parent)
        self._modules = modules

    def run(self) -> None:
        for name in self._modules:
            if self.isInterruptionRequested():
                return
            import_module(name)


class Ahead(QObject):
    """Makes things before they are wanted.

    Args:
        modules: loaded first. make: what is made then. turns: does that.
    """

    def __init__(self, parent: QObject, modules: Collection[str], make: Callable[[], Turns[None]], turns: InTurns):
        super().__init__(parent)
        self._make, self._turns = make, turns
        self._closed = False
        self.done = False
        """Whether everything is ready."""
        self._loading = Loading(self, modules)
        self._loading.finished.connect(self._loaded)

    def start(self) -> None:
        """Begin in a moment; again, when every page was thrown away."""
        self.done = False
        QTimer.singleShot(AFTER_MS, self, self._begin)

    def stop(self) -> None:
        """Leave it; what is being loaded just now is waited for."""
        self.done = self._closed = True
        self._loading.requestInterruption()
        self._loading.wait()

    def _begin(self) -> None:
        if not self._closed and not self._loading.isRunning():
            self._loading.start(QThread.Priority.LowPriority)

    def _loaded(self) -> None:
        if not self._closed:
            self._turns.start(self._made())

    def _made(self) -> Turns[None]:
        yield from self._make()
        gc.freeze()  # all of that lives as long as the window: the collector need not look at it
        self.done = True
