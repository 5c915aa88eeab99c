"""Thinks about the bench in a process of its own while people work: a better plan, the chances, what was learned.

The process shares nothing with the window, so neither waits for the other. What it answers about a bench that has
changed meanwhile is not used.
"""

from __future__ import annotations

import multiprocessing
import os
import threading
import traceback
from multiprocessing.connection import Connection, wait
from multiprocessing.process import BaseProcess
from time import monotonic

from creekbed.core.planning.plan_request import PlanRequest, PlanResult, answer_request
from creekbed.workshop.bench.bench_view import HomeView
from creekbed.workshop.planning import learned_durations
from creekbed.workshop.shop.shop import Shop

STRETCHES_S = (0.3, 2.0, 4.0, 4.0, 4.0, 4.0)
"""How long each stretch looks for a better plan; after the last, or when nothing better exists, it rests: house
default."""
AGAIN_S = (2.0, 15.0, 60.0, 300.0)
"""A process that has ended is started again after so long; longer the oftener it has ended running: house default."""
RELEARN_AFTER = 5
"""So many new records, and durations are learned anew: house default."""


def _serve(link: Connection) -> None:
    """Think about what comes, in the process of its own, until nothing more can come.

    The window goes first on a machine that is short of cores, and its end, however it comes, is the end of this.
    """
    os.nice(10)
    parent = multiprocessing.parent_process()
    if parent is not None:
        threading.Thread(target=_leave_with, args=(parent.sentinel,), daemon=True).start()
    while True:
        try:
            task = link.recv()
        except (EOFError, OSError):
            return
        try:
            answer: PlanResult | RuntimeError = answer_request(task)
        except Exception:  # noqa: BLE001  # whatever it is, it is told on the other side
            answer = RuntimeError(traceback.format_exc())
        link.send(answer)


def _leave_with(sentinel: int) -> None:
    wait([sentinel])
    os._exit(0)


class _Question:
    """A thought that is asked for; it is sent, and its answer heard, in a thread: a full pipe must not hold the window.

    Attributes:
        answer: what came of it, a fault in thinking, or ``None``: the process has ended. done: whether that is known.
    """

    def __init__(self, link: Connection, task: PlanRequest):
        self.answer: PlanResult | RuntimeError | None = None
        self.done = False
        threading.Thread(target=self._ask, args=(link, task), name="thought", daemon=True).start()

    def _ask(self, link: Connection, task: PlanRequest) -> None:
        try:
            link.send(task)
            self.answer = link.recv()
        except (EOFError, OSError):
            pass
        finally:
            self.done = True


class PlannerWorker:
    """One thought at a time, about the plan on show."""

    def __init__(self, shop: Shop, stretches: tuple[float, ...] = STRETCHES_S):
        self.shop, self.stretches = shop, stretches
        self._process: BaseProcess | None = None
        self._link: Connection | None = None
        self._question: _Question | None = None
        self._about, self._done = "", 0
        self._ended = 0
        """How often running the process has ended by itself."""
        self._again_at = 0.0
        self._fault_about = ""
        """The bench about which thinking went wrong: that one is not thought about again."""

    def look(self, home: HomeView) -> None:
        """The bench was drawn: think about it, unless all has been thought."""
        planner = self.shop.planner
        if planner.about() != self._about or planner.slipped:
            self._about, self._done = planner.about(), 0
        if not planner.slipped:
            self._done = max(self._done, planner.stretches)  # another window may have thought about it
        rests = self.asleep or self._about == self._fault_about or self._done >= len(self.stretches)
        if rests or self._question is not None or not home.plan.steps:
            return
        with self.shop.reading() as records:
            learned = self.shop.planner.learned.records
            fresh = learned_durations.count(records) - learned >= (RELEARN_AFTER if learned else 1)
            taken = learned_durations.taken(records, self.shop.catalogue) if fresh else None
        task = self.shop.planner.task(
            home.named, taken, self.stretches[self._done], seed=7 + self._done, person=self.shop.person
        )
        if task is not None:
            self._submit(task)

    def _submit(self, task: PlanRequest) -> None:
        if self._link is None:
            spawn = multiprocessing.get_context("spawn")  # a copy of a process with a window is not safe to run
            try:
                self._link, theirs = spawn.Pipe()
                self._process = spawn.Process(target=_serve, args=(theirs,), name="thinking", daemon=True)
                self._process.start()
            except OSError:  # a machine that allows no second process just now
                self._rest()
                return
            theirs.close()  # so that its end is heard of
        self._question = _Question(self._link, task)

    def poll(self) -> bool:
        """Take in an answer that has come; whether there is something new to show.

        Raises:
            RuntimeError: a fault in thinking.
        """
        if self._question is None or not self._question.done:
            return False
        thought, self._question = self._question.answer, None
        if thought is None:
            self._rest()  # the bench works on without
            return False
        self._ended = 0
        if isinstance(thought, RuntimeError):
            self._fault_about = self._about
            raise thought
        if thought.about == self._about:
            self._done = len(self.stretches) if thought.proven else self._done + 1
        return self.shop.planner.take(thought, self._done)

    def _rest(self) -> None:
        """The process has ended: it is started again in a while."""
        self._end()
        self._again_at = monotonic() + AGAIN_S[min(self._ended, len(AGAIN_S) - 1)]
        self._ended += 1

    @property
    def asleep(self) -> bool:
        """Whether the process has ended and is not to be started again yet."""
        return self._ended > 0 and monotonic() < self._again_at

    @property
    def may_go_on(self) -> bool:
        """Whether the process has ended and may be started again now."""
        return self._ended > 0 and self._process is None and not self.asleep

    @property
    def words(self) -> str:
        """What it is doing, for the page of the plan."""
        if self.thinking:
            return "Looking for a better plan …"
        if self._process is None and self._ended > 0:
            return "Better plans are not being looked for just now; that is started again soon."
        if self._about and self._about == self._fault_about:
            return "Better plans are not being looked for: looking made a mistake. The plan holds."
        return ""

    @property
    def thinking(self) -> bool:
        """Whether a better plan is being looked for now."""
        return self._question is not None

    def close(self) -> None:
        """Stop at once; what is being thought is dropped. Who still hears from the process hears that it has ended."""
        self._end()

    def _end(self) -> None:
        if self._process is not None and self._process.pid is not None:
            self._process.kill()
            self._process.join()
        self._process = self._link = self._question = None
