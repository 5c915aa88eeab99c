"""What runs in the planner's own process: it answers requests, the most urgent first.

A more urgent request interrupts a less urgent one. This module imports little, so that the process is ready soon after
it is started.
"""

from __future__ import annotations

import _thread
import gc
import heapq
import multiprocessing
import os
import signal
import sys
import threading
import traceback
from dataclasses import field
from multiprocessing.connection import Connection, wait
from typing import Any, Protocol

from creekbed.core.quick_dataclasses import dataclass

REPLAN, QUESTION, SEARCH = 0, 1, 2
"""How urgent a request is; the least number goes first, and interrupts a greater one."""
NICE = 5
"""The window goes first on a machine that is short of cores."""
SWITCH_S = 0.0005
"""How long what is being answered may hold the interpreter while a more urgent request waits to be read, seconds: house
default.
"""
LOOK_S = 0.02
"""How often a request that is being prepared is asked whether it is to be left, seconds."""


class Answerable(Protocol):
    """A request: an immutable value that answers itself."""

    def prepare(self) -> None:
        """Import what answering needs."""
        ...

    def answer(self) -> Any:
        """Answer; it may be interrupted between two instructions."""
        ...

    def interrupt(self) -> None:
        """End what runs outside Python; called in another thread."""
        ...


class Interrupted(BaseException):
    """Leaves a request: something more urgent came, or nobody waits for the answer. No planner may catch it."""


@dataclass(frozen=True, order=True)
class _Asked:
    urgency: int
    number: int
    request: Answerable = field(compare=False)


class _Inbox:
    """Requests that wait: the most urgent first, among those the oldest."""

    def __init__(self) -> None:
        self._waiting: list[_Asked] = []
        self._dropped: set[int] = set()
        self._changed = threading.Condition()
        self.closed = False

    def put(self, urgency: int, number: int, request: Answerable | None) -> None:
        """Take in a request; ``None`` drops the one that has this number."""
        with self._changed:
            if request is None:
                self._dropped.add(number)
            else:
                heapq.heappush(self._waiting, _Asked(urgency, number, request))
            self._changed.notify()

    def close(self) -> None:
        """Nothing more comes."""
        with self._changed:
            self.closed = True
            self._changed.notify()

    def next(self) -> _Asked | None:
        """What to answer next; ``None``: nothing more comes."""
        with self._changed:
            while True:
                while self._waiting:
                    found = heapq.heappop(self._waiting)
                    if found.number not in self._dropped:
                        return found
                self._dropped.clear()
                if self.closed:
                    return None
                self._changed.wait()

    def pressing(self, asked: _Asked) -> bool:
        """Whether what is being answered is to be left."""
        # without the lock: it is asked in a signal's handler, and the main thread may hold the lock then
        return self.closed or asked.number in self._dropped or any(w.urgency < asked.urgency for w in self._waiting)


class _Server:
    """Answers in the main thread; another thread hears what comes and interrupts it.

    The interruption is a simulated signal: Python calls its handler in the main thread between two instructions, so
    that no planner needs to ask whether it is to stop. It raises only while a request is being answered.
    """

    def __init__(self, link: Connection):
        self.link, self.inbox = link, _Inbox()
        self._now: _Asked | None = None
        """What is being answered, and may be left."""
        self._imported: set[type[Any]] = set()
        """Kinds of request for which all is imported."""
        signal.signal(signal.SIGUSR1, self._leave)

    def run(self) -> None:
        """Answer until nothing more can come."""
        threading.Thread(target=self._listen, daemon=True).start()
        while (asked := self.inbox.next()) is not None:
            if asked.urgency == REPLAN:
                gc.disable()  # somebody waits; what is no longer needed is looked for while nobody does
            try:
                self.link.send((asked.number, self._answer(asked)))
            except (OSError, ValueError):
                return
            finally:
                gc.enable()

    def _answer(self, asked: _Asked) -> Any:
        """An answer; a fault as :class:`RuntimeError`, ``None`` where it was left."""
        try:
            if not self._prepared(asked):
                return None
            if type(asked.request) not in self._imported:
                self._imported.add(type(asked.request))
                gc.freeze()  # what was imported stays: it is not looked through again and again
            self._now = asked
            if self.inbox.pressing(asked):  # what came before it could be interrupted
                return None
            return asked.request.answer()
        except Interrupted:
            return None
        except Exception:  # noqa: BLE001  # whatever it is, it is told on the other side
            return RuntimeError(traceback.format_exc())
        finally:
            self._now = None

    def _prepared(self, asked: _Asked) -> bool:
        """Whether all is imported; an import cannot be interrupted, so it is done in a thread."""
        ready = threading.Thread(target=asked.request.prepare, daemon=True)
        ready.start()
        while True:
            ready.join(LOOK_S)
            if not ready.is_alive():
                return True
            if self.inbox.pressing(asked):
                return False

    def _leave(self, *_: object) -> None:
        now = self._now
        if now is not None and self.inbox.pressing(now):
            self._now = None
            raise Interrupted

    def _listen(self) -> None:
        while not self.inbox.closed:
            try:
                self.inbox.put(*self.link.recv())
            except (EOFError, OSError):
                self.inbox.close()
            now = self._now
            if now is not None and self.inbox.pressing(now):
                now.request.interrupt()
                _thread.interrupt_main(signal.SIGUSR1)


def serve(link: Connection) -> None:
    """Answer requests until the window has closed the link or has ended."""
    os.nice(NICE)
    parent = multiprocessing.parent_process()
    if parent is not None:
        threading.Thread(target=_leave_with, args=(parent.sentinel,), daemon=True).start()
    sys.setswitchinterval(SWITCH_S)
    _Server(link).run()


def _leave_with(sentinel: int) -> None:
    """End this process when the window's has ended."""
    wait([sentinel])
    os._exit(0)
