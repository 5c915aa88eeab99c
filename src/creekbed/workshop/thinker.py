"""Thinks about the bench in a process of its own while people work: a better plan, the chances, what was learned.

The process shares nothing with the window, so neither waits for the other. What it answers about a bench that has
changed meanwhile is not used.
"""

from __future__ import annotations

import multiprocessing
import os
import threading
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing.connection import wait

from creekbed.core.planning.thinking import Task, Thought, think
from creekbed.workshop import pace
from creekbed.workshop.bench import HomeView
from creekbed.workshop.shop import Shop

STRETCHES_S = (0.3, 2.0, 4.0, 4.0, 4.0, 4.0)
"""How long each stretch looks for a better plan; after the last, or when nothing better exists, it rests: house
default."""
RELEARN_AFTER = 5
"""So many new records, and durations are learned anew: house default."""


def _settle_in() -> None:
    """The window goes first on a machine that is short of cores, and its end, however it comes, is the end of this."""
    os.nice(10)
    parent = multiprocessing.parent_process()
    if parent is not None:
        threading.Thread(target=_leave_with, args=(parent.sentinel,), daemon=True).start()


def _leave_with(sentinel: int) -> None:
    wait([sentinel])
    os._exit(0)


class Thinker:
    """One thought at a time, about the plan on show."""

    def __init__(self, shop: Shop, stretches: tuple[float, ...] = STRETCHES_S):
        self.shop, self.stretches = shop, stretches
        self._pool: ProcessPoolExecutor | None = None
        self._future: Future[Thought] | None = None
        self._about, self._done = "", 0
        self._broken = False

    def look(self, home: HomeView) -> None:
        """The bench was drawn: think about it, unless all has been thought."""
        planner = self.shop.planner
        if planner.about() != self._about or planner.slipped:
            self._about, self._done = planner.about(), 0
        if not planner.slipped:
            self._done = max(self._done, planner.stretches)  # another window may have thought about it
        if self._broken or self._future is not None or self._done >= len(self.stretches) or not home.plan.steps:
            return
        with self.shop.reading() as session:
            learned = self.shop.planner.learned.records
            fresh = pace.count(session) - learned >= (RELEARN_AFTER if learned else 1)
            records = pace.records(session, self.shop.catalogue) if fresh else None
        task = self.shop.planner.task(home.named, records, self.stretches[self._done], seed=7 + self._done)
        if task is not None:
            self._submit(task)

    def _submit(self, task: Task) -> None:
        try:
            if self._pool is None:
                spawn = multiprocessing.get_context("spawn")  # a copy of a process with a window is not safe to run
                self._pool = ProcessPoolExecutor(1, mp_context=spawn, initializer=_settle_in)
            self._future = self._pool.submit(think, task)
        except (BrokenProcessPool, OSError, NotImplementedError):  # a machine that allows no second process
            self._broken = True

    def poll(self) -> bool:
        """Take in an answer that has come; whether there is something new to show."""
        if self._future is None or not self._future.done():
            return False
        future, self._future = self._future, None
        try:
            thought = future.result()
        except BrokenProcessPool:
            self._broken = True  # the bench works on without; the next start tries again
            return False
        if thought.about == self._about:
            self._done = len(self.stretches) if thought.proven else self._done + 1
        return self.shop.planner.take(thought, self._done)

    @property
    def thinking(self) -> bool:
        """Whether a better plan is being looked for now."""
        return self._future is not None

    def close(self) -> None:
        """Stop at once; what is being thought is dropped."""
        if self._pool is not None:
            workers = list(getattr(self._pool, "_processes", {}).values())
            self._pool.shutdown(wait=False, cancel_futures=True)
            for worker in workers:
                worker.terminate()
            self._pool = None
        self._future = None
