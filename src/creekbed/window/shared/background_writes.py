"""Work that waits for the disk, in a thread of its own: a window that closes does not wait for it."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Signal
from shiboken6 import isValid

from creekbed.core.errors import CreekbedError
from creekbed.window.shared.standstill import standstill


class BackgroundWrites(QObject):
    """One piece of work at a time.

    Args:
        failed: told of what went wrong in words; any other fault is raised in the thread.
    """

    _came = Signal(object, object)

    def __init__(self, parent: QObject, failed: Callable[[CreekbedError], None]):
        super().__init__(parent)
        self._failed = failed
        self._work: threading.Thread | None = None
        self._then: Callable[[Any], None] | None = None
        self._came.connect(self._take)

    @property
    def busy(self) -> bool:
        """Whether work is under way."""
        return self._work is not None

    def start(self, work: Callable[[], Any], then: Callable[[Any], None]) -> bool:
        """Begin, unless work is under way; ``then`` gets what came of it, in the window's thread."""
        if self._work is not None:
            return False
        self._then = then
        self._work = threading.Thread(target=self._run, args=(work,), name="beside", daemon=True)
        self._work.start()
        return True

    def _run(self, work: Callable[[], Any]) -> None:
        try:
            answer = work()
        except CreekbedError as error:
            answer = error
        if isValid(self):
            try:
                self._came.emit(threading.current_thread(), answer)
            except RuntimeError:  # the window went at this very moment
                return

    def _take(self, thread: object, answer: Any) -> None:
        standstill.after(lambda: self._taken(thread, answer))

    def _taken(self, thread: object, answer: Any) -> None:
        if thread is not self._work or not isValid(self):
            return
        then, self._work, self._then = self._then, None, None
        if isinstance(answer, CreekbedError):
            self._failed(answer)
        elif then is not None:
            then(answer)
