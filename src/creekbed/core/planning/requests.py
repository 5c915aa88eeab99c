"""What is asked of the planner, and what it answers: immutable values that can go to another process and back.

A request says which state of the bench it is about (``revision``), and its answer is of use for that state only.
"""

from __future__ import annotations

import hashlib
import time
from collections.abc import Collection, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from creekbed.core.planning.dispatch import dispatch_plan, repair_schedule, unplaced
from creekbed.core.planning.explanations import Hold, PlanComparison, TimeBreakdown, beside, hold_of, instead, path
from creekbed.core.planning.model import Forecast, Pin, Plan, PlanPerson, Problem
from creekbed.core.planning.replanning import keep, moved_cost, replan, with_preferred
from creekbed.core.quick_dataclasses import dataclass

if TYPE_CHECKING:
    from creekbed.core.planning.remedies import Remedy, RemedyOption


class PlannerRequest:
    """What the requests have in common."""

    def prepare(self) -> None:
        """Import what answering needs, before it may be interrupted: an import must not be."""
        import creekbed.core.planning.permutation_search
        import creekbed.core.planning.plan_checker
        import creekbed.core.planning.remedies  # noqa: F401

    def interrupt(self) -> None:
        """End what runs outside Python; called in another thread."""


@dataclass(frozen=True)
class ReplanResult:
    """The plan to show now.

    Attributes:
        pins: of the bench that was planned, with what each person was shown to do next.
        about: fingerprint of the bench. hasty: whether the plan was only repaired, and a better one not looked for.
        took_offer: whether it goes on from the plan of another window.
    """

    pins: tuple[Pin, ...]
    about: str
    plan: Plan
    hasty: bool
    took_offer: bool


@dataclass(frozen=True)
class ReplanRequest(PlannerRequest):
    """The plan to show after something has happened.

    Attributes:
        shown: the plan that people see, and passed: minutes since then. aside: what was in hand and is put aside.
        offered: the plan that another window has left, with its minutes. keep_it: repair what was shown, if that can
            be; whether another is better is left for the next request.
        about: fingerprint of the bench that the plan on show is for, "" where it was hasty.
    """

    revision: int
    problem: Problem
    shown: Plan | None
    passed: float
    aside: frozenset[tuple[str, str]] = frozenset()
    offered: Plan | None = None
    offered_passed: float = 0.0
    keep_it: bool = False
    about: str = ""

    def answer(self) -> ReplanResult:
        """Plan."""
        shown, passed, took = self.shown, self.passed, False
        if self.offered is not None and self._offer_is_better():
            shown, passed, took = self.offered, self.offered_passed, True
        if shown is not None and self.aside:
            shown = replace(shown, steps=tuple(s for s in shown.steps if (s.job, s.operation) not in self.aside))
        problem = with_preferred(self.problem, shown, passed)
        about = fingerprint(problem)
        plan = keep(problem, shown, passed) if self.keep_it and shown is not None else None
        hasty = plan is not None
        if plan is None:
            plan = replan(problem, shown, passed, same=about == self.about and not took)
        return ReplanResult(problem.pins, about, plan, hasty, took)

    def _offer_is_better(self) -> bool:
        """Whether to go on from another window's plan: unless this window's is worth changing that for.

        Two windows that both kept to their own would never agree.
        """
        assert self.offered is not None
        if self.shown is None:
            return True
        theirs = repair_schedule(self.problem, self.offered, passed=self.offered_passed)
        mine = repair_schedule(self.problem, self.shown, passed=self.passed)
        worth = mine.cost(self.problem) + moved_cost(self.problem, theirs, mine)
        return (unplaced(theirs), theirs.cost(self.problem)) <= (unplaced(mine), worth)


@dataclass(frozen=True)
class WhyRequest(PlannerRequest):
    """Why an operation begins when it does, and what would come of doing it first."""

    revision: int
    problem: Problem
    plan: Plan
    job: str
    operation: str
    person: str
    held: bool = False
    """In hand: it is not asked what would come of doing it first."""

    def answer(self) -> tuple[Hold | None, PlanComparison | None]:
        """What keeps it, and the plan with it first."""
        hold = hold_of(self.problem, self.plan, self.job, self.operation)
        if self.held:
            return hold, None
        return hold, instead(self.problem, self.plan, self.job, self.operation, self.person)


@dataclass(frozen=True)
class CompareRequest(PlannerRequest):
    """The plan of a bench that is a little different, beside the plan there is."""

    revision: int
    problem: Problem
    plan: Plan
    other: Problem

    def answer(self) -> PlanComparison:
        """Both side by side."""
        return beside(self.problem, self.plan, self.other)


@dataclass(frozen=True)
class LateRequest(PlannerRequest):
    """Where the time of a late job goes, and when it would be ready if it had the bench to itself."""

    revision: int
    problem: Problem
    plan: Plan
    job: str

    def answer(self) -> tuple[TimeBreakdown, Forecast]:
        """Its time, and its forecast alone."""
        mine = tuple(j for j in self.problem.jobs if j.key == self.job)
        always = tuple(PlanPerson(p.key, ((0.0, 1e6),), p.skills) for p in self.problem.people)
        alone = dispatch_plan(replace(self.problem, jobs=mine, people=always, pins=()))
        return path(self.problem, self.plan, self.job), alone.forecasts[self.job]


@dataclass(frozen=True)
class RemediesRequest(PlannerRequest):
    """The cheapest changes with which a late job is in time.

    Attributes:
        seconds: how long is looked at most.
    """

    revision: int
    problem: Problem
    plan: Plan
    job: str
    options: Sequence[RemedyOption]
    seconds: float

    def answer(self) -> list[Remedy]:
        """The cheapest first."""
        from creekbed.core.planning.remedies import remedies

        until = time.monotonic() + self.seconds
        return remedies(self.problem, self.plan, self.job, self.options, stop=lambda: time.monotonic() > until)


Request = ReplanRequest | WhyRequest | CompareRequest | LateRequest | RemediesRequest


def fingerprint(problem: Problem) -> str:
    """What tells one state of the bench from another; the minutes that pass, and who looks at it, do not."""
    jobs = [
        (j.key, j.due is None, j.weight, j.blocked, j.release > 0,
         tuple((o.key, o.release > 0) for o in j.operations), tuple(r.operation for r in j.running))
        for j in problem.jobs
    ]  # fmt: skip
    people = sorted(
        (w.key, sorted(w.skills), len(w.windows), round(sum(b - a for a, b in w.windows) / 30)) for w in problem.people
    )
    pins = sorted((q.job, q.operation, q.person) for q in problem.pins if q.kind != "preferred")
    state = repr((jobs, people, pins, sorted(problem.capacity.items()), sorted(problem.holds.items())))
    return hashlib.sha256(state.encode()).hexdigest()


def put_aside(before: Problem | None, now: Problem) -> frozenset[tuple[str, str]]:
    """What was in hand and is not any more."""
    held: Collection[tuple[str, str]] = before.in_hand if before is not None else frozenset()
    return frozenset(held) - frozenset(now.in_hand)
