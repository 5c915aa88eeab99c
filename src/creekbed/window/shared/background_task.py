"""Asks a device in a thread, so that a silent device does not stop the window."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QThread, Signal

from creekbed.core.errors import CreekbedError
from creekbed.window.shared.standstill import standstill


class Ask(QThread):
    """One question; ``answered`` carries what came, ``failed`` the problem."""

    answered = Signal(object)
    failed = Signal(object)
    _came = Signal(object)

    def __init__(self, question: Callable[[], Any], leave: Callable[[], None] | None = None):
        super().__init__()
        self.question = question
        self._leave = leave
        self._came.connect(self._take)

    def give_up(self) -> None:
        """Give up the question if possible, and wait for its end."""
        if self._leave is not None:
            self._leave()
        self.wait()

    def run(self) -> None:
        try:
            answer = self.question()
        except CreekbedError as problem:
            answer = problem
        self._came.emit(answer)

    def _take(self, answer: Any) -> None:
        standstill.after(lambda: self._tell(answer))

    def _tell(self, answer: Any) -> None:
        (self.failed if isinstance(answer, CreekbedError) else self.answered).emit(answer)
