"""The planner's own process, as the window sees it: asked, heard, ended, started again.

Everything that is asked and answered is an immutable value. The process shares nothing with the window, so neither
waits for the other. A process that crashes, hangs, or takes more than a gigabyte is ended, and started again after a
while that grows.
"""

from __future__ import annotations

import itertools
import multiprocessing
import os
import threading
from collections import deque
from concurrent.futures import Future
from dataclasses import dataclass
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from time import monotonic
from typing import Any

from creekbed.core.errors import CreekbedError
from creekbed.words.planner import SAFE, TODO, UNAVAILABLE
from creekbed.workshop.planning.planner_server import REPLAN, Answerable, serve

AGAIN_S = (2.0, 15.0, 60.0, 300.0)
"""A process that has ended is started again after this time; longer the oftener it has ended: house default."""
MOST_BYTES = 1_000_000_000
"""A process that takes more memory is started again: house default."""


class PlannerUnavailable(CreekbedError):
    """The planner cannot answer now; ``fields["why"]`` is a key of :data:`words.planner.UNAVAILABLE`."""

    def __init__(self, why: str):
        super().__init__(UNAVAILABLE[why], safe=SAFE, todo=TODO, why=why)


@dataclass
class _Pending:
    """A request that is on its way."""

    future: Future[Any]
    until: float


class PlannerProcess:
    """The process: started when first asked, and again after it has ended.

    Attributes:
        why: why there is none, a key of :data:`words.planner.UNAVAILABLE`; "" while there is one, or none was wanted.
    """

    def __init__(self) -> None:
        self.why = ""
        self._process: BaseProcess | None = None
        self._link: Connection | None = None
        self._outbox: deque[Any] = deque()
        self._sending = threading.Condition()
        self._pending: dict[int, _Pending] = {}
        self._lock = threading.RLock()
        """Held while the process, its link and what is pending change: two threads see its end."""
        self._numbers = itertools.count(1)
        self._ended = 0
        self._again_at = 0.0

    @property
    def runs(self) -> bool:
        """Whether there is a process."""
        return self._process is not None

    @property
    def pid(self) -> int | None:
        """Its number on this machine."""
        return self._process.pid if self._process is not None else None

    @property
    def rests(self) -> bool:
        """Whether it has ended and is not to be started again yet."""
        return self._process is None and self._ended > 0 and monotonic() < self._again_at

    @property
    def may_start_again(self) -> bool:
        """Whether it has ended and may be started again now."""
        return self._process is None and self._ended > 0 and monotonic() >= self._again_at

    def submit(self, request: Answerable, *, urgency: int, seconds: float) -> Future[Any]:
        """Ask; the future raises :class:`PlannerUnavailable` where there is no answer.

        Args:
            urgency: :data:`REPLAN`, :data:`QUESTION` or :data:`SEARCH`. seconds: when the process counts as hanging.
        """
        future: Future[Any] = Future()
        if self.rests or not self._start():
            future.set_exception(PlannerUnavailable(self.why or "start"))
            return future
        with self._lock:
            number = next(self._numbers)
            self._pending[number] = _Pending(future, monotonic() + seconds)
        self._put((urgency, number, request))
        return future

    def drop(self, future: Future[Any]) -> None:
        """Cancel a request."""
        with self._lock:
            number = next((n for n, p in self._pending.items() if p.future is future), None)
            if number is not None:
                del self._pending[number]
        if number is not None:
            self._put((REPLAN, number, None))

    def check(self) -> None:
        """End a process that hangs or takes too much memory."""
        with self._lock:
            link, now = self._link, monotonic()
            late = any(p.until < now for p in self._pending.values())
        if link is None:
            return
        if late:
            self._rest("hang", link)
        elif _resident_bytes(self.pid) > MOST_BYTES:
            self._rest("memory", link)

    def close(self) -> None:
        """End the process at once; what it was asked is not answered."""
        with self._lock:
            self._end("crash")
            self._ended, self.why = 0, ""

    def _start(self) -> bool:
        with self._lock:
            if self._process is not None:
                return True
            spawn = multiprocessing.get_context("spawn")  # a copy of a process with a window is not safe to run
            try:
                mine, theirs = spawn.Pipe()
                process = spawn.Process(target=serve, args=(theirs,), name="planner", daemon=True)
                process.start()
            except OSError:  # a machine that allows no second process just now
                self._rest("start", None)
                return False
            theirs.close()  # so that its end is heard of
            self._process, self._link, self._outbox, self.why = process, mine, deque(), ""
        threading.Thread(target=self._send, args=(mine, self._outbox), name="to planner", daemon=True).start()
        threading.Thread(target=self._hear, args=(mine,), name="from planner", daemon=True).start()
        return True

    def _put(self, message: Any) -> None:
        with self._sending:
            self._outbox.append(message)
            self._sending.notify()

    def _send(self, link: Connection, outbox: deque[Any]) -> None:
        """Send what is asked, in a thread: a full pipe must not hold the window."""
        while True:
            with self._sending:
                while not outbox:
                    if self._link is not link:
                        return
                    self._sending.wait()
                asked = outbox.popleft()
            try:
                link.send(asked)
            except (OSError, ValueError):
                return

    def _hear(self, link: Connection) -> None:
        """Receive answers, in a thread."""
        while True:
            try:
                number, answer = link.recv()
            except (EOFError, OSError):
                self._rest("crash", link)
                return
            with self._lock:
                pending = self._pending.pop(number, None)
                self._ended = 0
            if pending is not None:
                if isinstance(answer, RuntimeError):
                    pending.future.set_exception(answer)
                else:
                    pending.future.set_result(answer)

    def _rest(self, why: str, link: Connection | None) -> None:
        """End the process of this link, or note its end; it is started again after a while."""
        with self._lock:
            if self._link is not link:  # somebody has seen it before
                return
            self.why = why
            self._again_at = monotonic() + AGAIN_S[min(self._ended, len(AGAIN_S) - 1)]
            self._ended += 1
            self._end(why)

    def _end(self, why: str) -> None:
        process, self._process, self._link = self._process, None, None
        with self._sending:
            self._sending.notify_all()
        if process is not None and process.pid is not None:
            process.kill()
            process.join()
        left, self._pending = list(self._pending.values()), {}
        for pending in left:
            pending.future.set_exception(PlannerUnavailable(why))


def _resident_bytes(pid: int | None) -> int:
    """How much memory a process takes; 0 where that cannot be told."""
    try:
        with open(f"/proc/{pid}/statm") as file:
            return int(file.read().split()[1]) * os.sysconf("SC_PAGE_SIZE")
    except (OSError, ValueError, IndexError):
        return 0
