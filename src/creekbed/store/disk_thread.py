"""Waiting for the disk in a thread of its own, so that a window stays alive while a disk is slow."""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from concurrent.futures import wait as wait_for
from time import monotonic
from typing import TypeVar

T = TypeVar("T")
AT_ONCE_S, LOOK_S = 0.03, 0.01
"""A disk that answers so soon is waited for without more ado; a slower one is looked at so often: house default."""


class DiskThread:
    """Has the disk do one thing after the other; who asks waits until it is done.

    Attributes:
        while_waiting: told for how many seconds a slow disk has been waited for, and whether it is for a note that
            nobody asked for; ``None`` waits without a word, in the thread that asks.
    """

    def __init__(self) -> None:
        self.while_waiting: Callable[[float, bool], None] | None = None
        self._pool: ThreadPoolExecutor | None = None
        self._under_way = 0
        self._lock = threading.Lock()

    @property
    def busy(self) -> bool:
        """Whether the disk is being waited for now."""
        return self._under_way > 0

    def do(self, work: Callable[[], T], *, note: bool = False) -> T:
        """Do a piece of work that waits for the disk; what comes of it, or what went wrong with it.

        It is never given up: whoever asks learns whether it is on disk.

        Args:
            note: nobody asked for it, so that people may go on with other things meanwhile.
        """
        if self.while_waiting is None:
            return work()
        with self._lock:  # a list may be brought beside the window
            if self._pool is None:
                self._pool = ThreadPoolExecutor(1, thread_name_prefix="disk")
            done = self._pool.submit(work)
            self._under_way += 1
        try:
            try:
                self._wait(done, note)
            finally:
                wait_for((done,))
            return done.result()
        finally:
            with self._lock:
                self._under_way -= 1

    def close(self) -> None:
        """End the thread when it is done with what it was given."""
        if self._pool is not None:
            self._pool.shutdown()
            self._pool = None

    def _wait(self, done: Future[T], note: bool) -> None:
        began = monotonic()
        wait_for((done,), AT_ONCE_S)
        while not done.done():
            if self.while_waiting is not None:
                self.while_waiting(monotonic() - began, note)
            wait_for((done,), LOOK_S)
