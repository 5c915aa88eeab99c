"""The planner beside the window: it answers requests, and looks for better plans while nobody asks.

An answer about another state of the bench than the one on show is dropped. While there is no planner, the window says
so and why, and the plan on show is only repaired.
"""

from __future__ import annotations

from concurrent.futures import Future
from typing import TYPE_CHECKING, Any

from creekbed.core.planning.requests import ReplanRequest
from creekbed.core.turns import Turns
from creekbed.words.planner import LOOKING, UNAVAILABLE
from creekbed.workshop.bench.bench_view import HomeView
from creekbed.workshop.planning import learned_durations
from creekbed.workshop.planning.planner_process import PlannerProcess, PlannerUnavailable
from creekbed.workshop.planning.planner_server import QUESTION, REPLAN, SEARCH
from creekbed.workshop.shop.shop import Shop

if TYPE_CHECKING:  # it needs numpy: the window opens without
    from creekbed.core.planning.plan_request import PlanResult

STRETCHES_S = (0.3, 2.0, 4.0, 4.0, 4.0, 4.0)
"""How long each stretch looks for a better plan; after the last, or when nothing better exists, it rests: house
default."""
RELEARN_AFTER = 5
"""After this many new records, durations are learned anew: house default."""
DEADLINE_S, SLACK_S = 8.0, 20.0
"""An urgent request is given up after this time, and a search when it takes this much longer than asked for: house
default."""


class PlannerWorker:
    """Answers the requests of one shop in its own process, and looks for better plans there between requests.

    Args:
        shop: whose bench. stretches: how long each stretch of searching is, seconds.
    """

    def __init__(self, shop: Shop, stretches: tuple[float, ...] = STRETCHES_S):
        self.shop, self.stretches = shop, stretches
        self.process = PlannerProcess()
        self._search: Future[PlanResult | None] | None = None
        self._about, self._done = "", 0
        self._fault_about = ""
        """The bench about which searching went wrong: that one is not searched again."""

    # --- what is asked ------------------------------------------------------------------------------------------

    def ask(self, request: Any) -> Turns[Any]:
        """The answer to an urgent request; it is waited for in turns.

        Raises:
            PlannerUnavailable: there is no answer. RuntimeError: a fault in answering.
        """
        urgency = REPLAN if isinstance(request, ReplanRequest) else QUESTION
        while True:
            seconds = DEADLINE_S + getattr(request, "seconds", 0.0)
            future = self.process.submit(request, urgency=urgency, seconds=seconds)
            try:
                while not future.done():
                    yield future
            finally:
                if not future.done():  # whoever asked has gone
                    self.process.drop(future)
            answer = future.result()
            if answer is not None:
                return answer  # else it was left for something more urgent: it is asked again

    # --- better plans -------------------------------------------------------------------------------------------

    def look(self, home: HomeView) -> None:
        """The bench was drawn: look for a better plan, unless all has been looked at."""
        planner = self.shop.planner
        if planner.about() != self._about or planner.slipped:
            self._about, self._done = planner.about(), 0
        if not planner.slipped:
            self._done = max(self._done, planner.stretches)  # another window may have looked
        rests = self.process.rests or self._about == self._fault_about or self._done >= len(self.stretches)
        if rests or self._search is not None or not home.plan.steps:
            return
        with self.shop.reading() as records:
            learned = self.shop.planner.learned.records
            fresh = learned_durations.count(records) - learned >= (RELEARN_AFTER if learned else 1)
            taken = learned_durations.taken(records, self.shop.catalogue) if fresh else None
        seconds = self.stretches[self._done]
        task = self.shop.planner.task(home.named, taken, seconds, seed=7 + self._done, person=self.shop.person)
        if task is not None:
            self._search = self.process.submit(task, urgency=SEARCH, seconds=2 * seconds + SLACK_S)

    def poll(self) -> bool:
        """Take in an answer that has come; whether there is something new to show.

        Raises:
            RuntimeError: a fault in searching.
        """
        self.process.check()
        if self._search is None or not self._search.done():
            return False
        search, self._search = self._search, None
        try:
            found = search.result()
        except PlannerUnavailable:
            return False  # the bench works on without
        except RuntimeError:
            self._fault_about = self._about
            raise
        if found is None:
            return False  # something more urgent was asked: it is looked for again
        if found.about == self._about:
            self._done = len(self.stretches) if found.proven else self._done + 1
        return self.shop.planner.take(found, self._done)

    @property
    def may_go_on(self) -> bool:
        """Whether the process has ended and may be started again now."""
        return self.process.may_start_again

    @property
    def words(self) -> str:
        """What it is doing, for the page of the plan."""
        if self._about and self._about == self._fault_about:
            return UNAVAILABLE["fault"]
        if self.process.why and not self.process.runs:
            return UNAVAILABLE[self.process.why]
        return LOOKING if self.thinking else ""

    @property
    def thinking(self) -> bool:
        """Whether a better plan is being looked for now."""
        return self._search is not None

    def close(self) -> None:
        """Stop at once; what is being looked for is dropped."""
        self.process.close()
        self._search = None
