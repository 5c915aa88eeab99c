"""Long work in slices between the window's events, and waiting for answers without standing still."""

from __future__ import annotations

import time
from collections.abc import Callable
from concurrent.futures import Future
from contextlib import suppress
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

from creekbed.core.errors import CreekbedError
from creekbed.core.turns import Turns
from creekbed.window.shared.standstill import standstill

TURN_S = 0.004
"""How long a turn of work lasts, if what it does can be left then: house default."""
FIRST_MS = 1
"""Delay of the first turn, so that what began the work is painted before it."""


class InTurns(QObject):
    """Runs one piece of work in turns; a new one replaces the one under way.

    Args:
        failed: told of what went wrong; what is no :class:`CreekbedError` is a fault and raised.
    """

    _answered = Signal(object)
    """What the work waits for is there; sent from another thread."""

    def __init__(self, parent: QObject, failed: Callable[[CreekbedError], None]):
        super().__init__(parent)
        self._answered.connect(self._wake)
        self._failed = failed
        self._work: Turns[Any] | None = None
        self._then: Callable[[Any], None] | None = None
        self._inside: Turns[Any] | None = None
        self._waits_for: Future[Any] | None = None
        self._turn = QTimer(self)
        self._turn.timeout.connect(self._go_on)

    @property
    def busy(self) -> bool:
        """Whether work is under way."""
        return self._work is not None

    def start(self, work: Turns[Any], then: Callable[[Any], None] | None = None) -> None:
        """Begin; ``then`` gets what came of it."""
        self.drop()
        self._work, self._then = work, then
        self._turn.start(FIRST_MS)

    def drop(self) -> None:
        """Leave what is under way; nothing comes of it."""
        work, self._work, self._then, self._waits_for = self._work, None, None, None
        self._turn.stop()
        if work is not None and work is not self._inside:
            work.close()

    def _go_on(self) -> None:
        work, then = self._work, self._then
        if work is None or self._inside is not None:  # what it did has opened a dialog, which turns the window's loop
            return
        if standstill.lasts:
            self._turn.stop()
            standstill.after(self._resume)
            return
        if self._turn.interval():
            self._turn.setInterval(0)
        until = time.perf_counter() + TURN_S
        self._inside = work
        try:
            while self._work is work:  # it may drop itself
                waits_for = next(work)
                if waits_for is not None and not waits_for.done():
                    self._wait_for(waits_for)
                    return
                if time.perf_counter() >= until:
                    return
        except StopIteration as done:
            self._inside = None
            if self._work is work:
                self.drop()
                if then is not None:
                    then(done.value)
        except BaseException as error:
            if self._work is work:
                self.drop()
            if not isinstance(error, CreekbedError):
                raise
            self._failed(error)
        finally:
            self._inside = None

    def _wait_for(self, future: Future[Any]) -> None:
        """Pause until an answer is there; it comes from another thread."""
        self._turn.stop()
        self._waits_for = future

        def tell(done: Future[Any]) -> None:
            with suppress(RuntimeError):  # the window has gone meanwhile
                self._answered.emit(done)

        future.add_done_callback(tell)

    def _resume(self) -> None:
        if self._work is not None and self._waits_for is None:
            self._turn.start(0)

    def _wake(self, future: object) -> None:
        if self._work is not None and future is self._waits_for:
            self._waits_for = None
            self._turn.start(0)


def at_rest(owner: QObject) -> bool:
    """Whether no work in turns is under way in a window or on its pages."""
    return not any(work.busy for work in owner.findChildren(InTurns))
