"""The plan that people see: made anew at every event without reshuffling, improved in the background, never worse."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from creekbed.core.planning.dispatch import repair_schedule_in_turns, unplaced
from creekbed.core.planning.durations import Learned, Taken
from creekbed.core.planning.model import Chances, DelayedStart, Plan, Problem
from creekbed.core.planning.plan_words import gap_words
from creekbed.core.planning.replanning import keep_in_turns, moved_cost, replan_in_turns, with_next
from creekbed.core.turns import Turns

if TYPE_CHECKING:  # what belongs to thinking needs numpy: the window opens without
    from creekbed.core.planning.conflict import Conflict
    from creekbed.core.planning.plan_request import PlanRequest, PlanResult

Named = Mapping[tuple[str, str], tuple[str, str, float]]
"""(job, operation) → (name of the operation, family, house minutes)."""


SLIPPED_MIN = 5.0
"""By so many weighted minutes a plan may get later while nobody acts before a better one is looked for again: house
default."""
STILL_TOLD = timedelta(minutes=2)
"""So long after something has happened the chances from before are told still, while new ones are worked out: house
default."""


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


class BenchPlanner:
    """Keeps the plan on show from one event to the next.

    Attributes:
        hasty: whether the plan on show was only kept, and a better one not looked for.
        version: number of the last plan on record that was looked at here. told: the one this window goes on from.
        offered: a plan that another window has left since; looked at when the bench is planned next.
    """

    def __init__(self) -> None:
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

    def plan_in_turns(self, problem: Problem, now: datetime, *, keep_it: bool = False) -> Turns[Plan]:
        """The plan to show now; what was shown before is kept as far as it can be.

        Nothing is on show before its end, so it may be left at any turn.

        Args:
            keep_it: do with what was shown, laid out as the bench is now, if that can be; whether another is better
                is left for the next time, and :attr:`hasty` until then.
        """
        shown, at, offered = self.shown, self.at, self.offered
        if offered is not None and (yield from self._is_better(offered, problem, now)):
            shown, at = offered.plan, offered.at
        passed = _minutes(at, now)
        if shown is not None and self.problem is not None:  # what was in hand and is put aside is no more next
            aside = self.problem.in_hand - problem.in_hand
            shown = replace(shown, steps=tuple(s for s in shown.steps if (s.job, s.operation) not in aside))
        problem = with_next(problem, shown, passed)
        about = _about(problem)
        same = about == self._about and not self.hasty and at is self.at
        yield
        plan = None
        if keep_it and shown is not None:
            plan = yield from keep_in_turns(problem, shown, passed)
        hasty = plan is not None
        if plan is None:
            plan = yield from replan_in_turns(problem, shown, passed, same=same)
        if offered is not None and at is offered.at:
            self.told, self._another = offered, True
            self.known = offered.known or self.known
        if self._given_up:
            open_ = {j.key for j in problem.jobs}
            told = (m for m in self._given_up if m.job in open_ and (m.by is None or m.by[0] in open_))
            plan = replace(plan, moved=(*told, *plan.moved))
            self._given_up = ()
        if offered is self.offered:
            self.offered = None
        self.problem, self._about, self.shown, self.at, self.hasty = problem, about, plan, now, hasty
        return plan

    def _is_better(self, offered: SharedPlan, problem: Problem, now: datetime) -> Turns[bool]:
        """Whether to go on from what another window has left: unless this window's is worth changing that for.

        Never would both of two windows keep to their own.
        """
        if self.shown is None:
            return True
        theirs = yield from repair_schedule_in_turns(problem, offered.plan, passed=_minutes(offered.at, now))
        mine = yield from repair_schedule_in_turns(problem, self.shown, passed=_minutes(self.at, now))
        worth = mine.cost(problem) + moved_cost(problem, theirs, mine)
        return (unplaced(theirs), theirs.cost(problem)) <= (unplaced(mine), worth)

    # --- in the background --------------------------------------------------------------------------------------

    def about(self) -> str:
        """Which state of the bench the plan on show is for: two states with the same work, hands and places are one."""
        return self._about

    def task(
        self, named: Named, records: tuple[Taken, ...] | None, seconds: float, seed: int = 7, person: str = ""
    ) -> PlanRequest | None:
        """What to think about now; ``None`` while there is no plan.

        Args:
            person: who works here; what is next for them may be given up for a boat.
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
        """What came of thinking, as long as it is about this state of the bench."""
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
        """What cannot all be kept, as long as that is about this state of the bench."""
        known = self.known_now
        return known.conflict if known is not None else None

    def gap(self) -> str:
        """How much better the plan on show could at most be, in words; "" while nobody has looked."""
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


def _about(problem: Problem) -> str:
    """What tells one state of the bench from another; the minutes that pass, and who looks at it, do not."""
    jobs = [
        (j.key, j.due is None, j.weight, j.blocked, j.release > 0,
         tuple((o.key, o.release > 0) for o in j.operations), tuple(r.operation for r in j.running))
        for j in problem.jobs
    ]  # fmt: skip
    people = sorted(
        (w.key, sorted(w.skills), len(w.windows), round(sum(b - a for a, b in w.windows) / 30)) for w in problem.people
    )
    pins = sorted((q.job, q.operation, q.person) for q in problem.pins if q.kind != "next")
    state = repr((jobs, people, pins, sorted(problem.capacity.items()), sorted(problem.holds.items())))
    return hashlib.sha256(state.encode()).hexdigest()
