"""Asks a device in a thread of its own: one that is silent must not stop the window."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QThread, Signal

from creekbed.core.errors import CreekbedError


class Ask(QThread):
    """One question; ``answered`` carries what came, ``failed`` the problem."""

    answered = Signal(object)
    failed = Signal(object)

    def __init__(self, question: Callable[[], Any]):
        super().__init__()
        self.question = question

    def run(self) -> None:
        try:
            answer = self.question()
        except CreekbedError as problem:
            self.failed.emit(problem)
        else:
            self.answered.emit(answer)
