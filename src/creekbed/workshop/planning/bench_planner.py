"""The plan that people see: made anew at every event without reshuffling, improved in the background, never worse."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime, timedelta
from typing import TYPE_CHECKING, Any, Protocol

from creekbed.core.errors import CreekbedError
from creekbed.core.planning.durations import Learned, Taken
from creekbed.core.planning.model import Chances, DelayedStart, Plan, Problem
from creekbed.core.planning.requests import ReplanRequest, ReplanResult, put_aside
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.turns import Turns
from creekbed.words.plan import gap_words

if TYPE_CHECKING:  # what belongs to thinking needs numpy: the window opens without
    from creekbed.core.planning.conflict import Conflict
    from creekbed.core.planning.plan_request import PlanRequest, PlanResult

Named = Mapping[tuple[str, str], tuple[str, str, float]]
"""(job, operation) → (name of the operation, family, house minutes)."""


SLIPPED_MIN = 5.0
"""How much later a plan may get while nobody acts before a better one is looked for again, weighted minutes: house
default."""
STILL_TOLD = timedelta(minutes=2)
"""How long the old chances are shown after an action, while new ones are computed: house default."""


@dataclass(frozen=True)
class PlanAssessment:
    """What is known of the plan on show beyond the plan: what came of thinking about it.

    Attributes:
        about: which state of the bench. at: when it was asked for. cost, late: of the plan then; ``late`` in weighted
            minutes. bound, late_bound: what no plan can be under. proven: whether nothing better exists.
        stretches: how many stretches of thinking this state of the bench has had.
    """

    about: str
    at: datetime
    cost: float
    late: float
    bound: float
    late_bound: float
    proven: bool
    chances: Chances
    conflict: Conflict | None = None
    stretches: int = 1


@dataclass(frozen=True)
class SharedPlan:
    """A plan that a window has left for the others: what number it has, when it was shown, what is known of it."""

    version: int
    plan: Plan
    at: datetime
    known: PlanAssessment | None = None


class Answers(Protocol):
    """Answers requests to the planner."""

    def ask(self, request: Any) -> Turns[Any]:
        """The answer to a request, waited for in turns.

        Raises:
            CreekbedError: there is none.
        """
        ...


class AtOnce:
    """Answers in this process: for a shell, and for a window without a planner process."""

    def ask(self, request: Any) -> Turns[Any]:
        """The answer."""
        yield None
        return request.answer()


class BenchPlanner:
    """Keeps the plan on show from one event to the next.

    Attributes:
        hasty: whether the plan on show was only kept, and a better one not looked for.
        version: number of the last plan on record that was looked at here. told: the one this window goes on from.
        offered: a plan that another window has left since; looked at when the bench is planned next.
    """

    def __init__(self) -> None:
        self.answers: Answers = AtOnce()
        """Who answers what is asked of the planner."""
        self.shown: Plan | None = None
        self.at: datetime | None = None
        self.problem: Problem | None = None
        self._about = ""
        self._asked_at: datetime | None = None
        self.learned = Learned()
        self.known: PlanAssessment | None = None
        self.hasty = False
        self.version = 0
        self.told: SharedPlan | None = None
        self.offered: SharedPlan | None = None
        self._given_up: tuple[DelayedStart, ...] = ()
        """What a thought has put off; told with the next plan on show."""
        self._another = False
        """Whether another window's plan has come since thinking was asked for."""

    def plan_in_turns(
        self, problem: Problem, now: datetime, *, revision: int = 0, keep_it: bool = False
    ) -> Turns[Plan]:
        """The plan to show now; what was shown before is kept as far as it can be.

        Nothing is on show before its end, so it may be left at any turn.

        Args:
            revision: which state of the records this is.
            keep_it: do with what was shown, repaired, if that can be; whether another is better is left for the next
                time, and :attr:`hasty` until then.
        """
        request = self.request(problem, now, revision=revision, keep_it=keep_it)
        offered = self.offered
        try:
            result = yield from self.answers.ask(request)
        except CreekbedError:  # no planner: the plan on show is repaired here
            result = replace(request, keep_it=True, offered=None).answer()
        return self.show(request, result, now, offered)

    def request(self, problem: Problem, now: datetime, *, revision: int = 0, keep_it: bool = False) -> ReplanRequest:
        """What to ask the planner about a bench."""
        offered = self.offered
        return ReplanRequest(
            revision, problem, self.shown, _minutes(self.at, now), put_aside(self.problem, problem),
            None if offered is None else offered.plan, _minutes(offered.at if offered is not None else None, now),
            keep_it, "" if self.hasty else self._about,
        )  # fmt: skip

    def show(
        self, request: ReplanRequest, result: ReplanResult, now: datetime, offered: SharedPlan | None = None
    ) -> Plan:
        """Have what the planner answered on show.

        Args:
            request: what was asked. offered: what another window had left when it was asked.
        """
        plan, problem = result.plan, replace(request.problem, pins=result.pins)
        if result.took_offer and offered is not None:
            self.told, self._another = offered, True
            self.known = offered.known or self.known
        if self._given_up:
            open_ = {j.key for j in problem.jobs}
            told = (m for m in self._given_up if m.job in open_ and (m.by is None or m.by[0] in open_))
            plan = replace(plan, moved=(*told, *plan.moved))
            self._given_up = ()
        if offered is self.offered:
            self.offered = None
        self.problem, self._about, self.shown, self.at = problem, result.about, plan, now
        self.hasty = result.hasty
        return plan

    # --- in the background --------------------------------------------------------------------------------------

    def about(self) -> str:
        """Which state of the bench the plan on show is for: two states with the same work, hands and places are one."""
        return self._about

    def task(
        self, named: Named, records: tuple[Taken, ...] | None, seconds: float, seed: int = 7, person: str = ""
    ) -> PlanRequest | None:
        """What to think about now; ``None`` while there is no plan.

        Args:
            person: who works here; what is next for them may be given up for a departure.
        """
        from creekbed.core.planning.plan_request import PlanRequest

        if self.problem is None or self.shown is None or self.at is None:
            return None
        self._asked_at, self._another = self.at, False
        local = self.at.astimezone()
        day_start = local.hour * 60.0 + local.minute
        return PlanRequest(
            self.about(), self.problem, self.shown, named, day_start, records, self.learned, seconds, seed, person
        )  # fmt: skip

    def take(self, thought: PlanResult, stretches: int = 1) -> bool:
        """Take on what came of thinking; an answer about another state of the bench is not used.

        Another window's plan may have come meanwhile: then the thought counts where it is better.

        Args:
            stretches: how many this state of the bench has had now.

        Returns:
            Whether there is something new to show.
        """
        if thought.learned.records != self.learned.records:
            self.learned = thought.learned
        problem, asked = self.problem, self._asked_at
        if thought.about != self.about() or problem is None or asked is None or self.shown is None:
            return False
        if self._another and thought.plan.against(problem).cost(problem) >= self.shown.cost(problem):
            return False
        self.shown, self.at = thought.plan, asked  # its times count from when it was asked for
        self._given_up = thought.plan.moved
        self.known = PlanAssessment(
            thought.about, asked, thought.cost, thought.plan.weighted_tardiness(problem), thought.bound,
            thought.late_bound, thought.proven, thought.chances, thought.conflict, stretches,
        )  # fmt: skip
        return True

    @property
    def known_now(self) -> PlanAssessment | None:
        """The result of the last search, if it is about this state of the bench."""
        return self.known if self.known is not None and self.known.about == self.about() else None

    @property
    def stretches(self) -> int:
        """How many stretches of thinking this state of the bench has had, here or at another window."""
        known = self.known_now
        return known.stretches if known is not None else 0

    @property
    def slipped(self) -> bool:
        """Whether the plan has become later since it was thought about, because time went on and nothing was done."""
        known, shown, problem = self.known_now, self.shown, self.problem
        if known is None or shown is None or problem is None:
            return False
        return shown.weighted_tardiness(problem) > known.late + SLIPPED_MIN

    @property
    def chances(self) -> Chances | None:
        """The chances of the plan on show; those of a little while ago until new ones come, ``None`` beyond."""
        known = self.known
        if known is None or (self.known_now is None and not (self.at and self.at - known.at < STILL_TOLD)):
            return None
        return known.chances

    @property
    def conflict(self) -> Conflict | None:
        """The conflict that the last search found, if it is about this state of the bench."""
        known = self.known_now
        return known.conflict if known is not None else None

    def gap(self) -> str:
        """How much better the plan on show could be at most, in words; "" before a search."""
        p, plan, known = self.problem, self.shown, self.known_now
        if p is None or plan is None or known is None:
            return ""
        finishing = [f for f in plan.forecasts.values() if f.finish is not None]
        if not finishing:
            return ""
        late = plan.weighted_tardiness(p)
        return gap_words(known.cost, known.bound, len(finishing), late, p.weights, known.late_bound)


def _minutes(since: datetime | None, now: datetime) -> float:
    return (now - since).total_seconds() / 60 if since is not None else 0.0
