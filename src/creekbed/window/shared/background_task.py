"""Asks a device in a thread, so that a silent device does not stop the window."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QThread, Signal

from creekbed.core.errors import CreekbedError


class Ask(QThread):
    """One question; ``answered`` carries what came, ``failed`` the problem."""

    answered = Signal(object)
    failed = Signal(object)

    def __init__(self, question: Callable[[], Any], leave: Callable[[], None] | None = None):
        super().__init__()
        self.question = question
        self._leave = leave

    def give_up(self) -> None:
        """Give up the question if possible, and wait for its end."""
        if self._leave is not None:
            self._leave()
        self.wait()

    def run(self) -> None:
        try:
            answer = self.question()
        except CreekbedError as problem:
            self.failed.emit(problem)
        else:
            self.answered.emit(answer)
