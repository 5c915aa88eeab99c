"""One search for a better plan: learn durations, improve the plan, simulate it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from creekbed.core.planning.chances import chances, work_of
from creekbed.core.planning.conflict import Conflict, conflict
from creekbed.core.planning.cp_neighbourhood import interrupt
from creekbed.core.planning.dispatch import dispatch_plan, repair_schedule, unplaced
from creekbed.core.planning.durations import Learned, Taken, learn
from creekbed.core.planning.lower_bounds import late_bound
from creekbed.core.planning.model import Chances, Plan, Planned, Problem
from creekbed.core.planning.optimiser import Improved, improve
from creekbed.core.planning.plan_checker import violations
from creekbed.core.planning.replanning import WORTH_MIN, giving_up, moved_cost
from creekbed.core.planning.requests import PlannerRequest
from creekbed.core.quick_dataclasses import dataclass

BEFORE = 1e-3
"""What is put before something else begins so little sooner, minutes."""
LOOSE_SHARE = 0.5
"""Share of the budget that is spent once more where what is next may be in the way of a departure: house default."""


@dataclass(frozen=True)
class PlanRequest(PlannerRequest):
    """A request for a better plan.

    Attributes:
        about: which state of the bench this is; an answer about another one is not used. shown: the plan people see.
        named: (job, operation) → (name of the operation, family, house minutes). day_start: minutes of the day now.
        records: durations to learn from; ``None``: keep to ``learned``. seconds: how long to look for a better plan.
        person: whose next thing may be given up for a departure, because it is they who are told; "": nobody's.
    """

    about: str
    problem: Problem
    shown: Plan
    named: Mapping[tuple[str, str], tuple[str, str, float]]
    day_start: float
    records: tuple[Taken, ...] | None
    learned: Learned
    seconds: float
    seed: int = 7
    person: str = ""

    def prepare(self) -> None:
        """Import the solver."""
        import ortools.sat.python.cp_model  # type: ignore[import-not-found,import-untyped,unused-ignore]  # noqa: F401

    def answer(self) -> PlanResult:
        """Improve the plan; see :func:`answer_request`."""
        return answer_request(self)

    def interrupt(self) -> None:
        """End what the solver solves just now."""
        interrupt()


@dataclass(frozen=True)
class PlanResult:
    """A better plan, with what is known of it.

    Attributes:
        plan: the best found, never worse than the one shown. cost: of it. bound: no plan costs less.
        late_bound: weighted minutes late that no plan can be under. proven: whether nothing better exists.
        conflict: where a wait cannot be ended in time, the smallest set of things that keeps it from that.
    """

    about: str
    plan: Plan
    cost: float
    bound: float
    late_bound: float
    proven: bool
    learned: Learned
    chances: Chances
    conflict: Conflict | None = None


def answer_request(task: PlanRequest) -> PlanResult:
    """Improve the plan of one state of the bench, simulate it, and name conflicts."""
    problem, shown = task.problem, task.shown
    learned = task.learned if task.records is None else learn(task.records)
    fresh = dispatch_plan(problem)
    start = min(
        (shown, fresh), key=lambda p: (unplaced(p), p.cost(problem) + moved_cost(problem, shown, p))
    )  # fmt: skip
    found = improve(problem, start, task.seconds, seed=task.seed, shown=shown)
    least = late_bound(problem)
    if found.plan.weighted_tardiness(problem) >= least + WORTH_MIN:
        found = _for_a_departure(task, found)
    work = work_of(found.plan.steps, task.named, task.day_start)
    lived = chances(problem, found.plan, learned, work)
    return PlanResult(
        task.about,
        found.plan,
        found.cost,
        found.bound,
        least,
        found.proven,
        learned,
        lived,
        conflict(problem) if found.plan.broken else None,
    )


def _for_a_departure(task: PlanRequest, found: Improved) -> Improved:
    """A plan that delays a preferred start where that avoids much lateness; the plan says so."""
    problem = task.problem
    pins = tuple(p for p in problem.pins if p.kind != "preferred" or p.person != task.person)
    if len(pins) == len(problem.pins):
        return found
    loose = replace(problem, pins=pins)
    other = improve(loose, found.plan, LOOSE_SHARE * task.seconds, seed=task.seed, shown=task.shown)
    late = found.plan.weighted_tardiness(problem)
    saved = late - other.plan.weighted_tardiness(problem)
    if saved < WORTH_MIN or unplaced(other.plan) > unplaced(found.plan):
        return found
    kept = repair_schedule(problem, _next_first(problem, other.plan), passed=0.0)
    lost = kept.weighted_tardiness(problem) - other.plan.weighted_tardiness(problem)
    if lost < min(saved, WORTH_MIN) and unplaced(kept) <= unplaced(found.plan) and not violations(problem, kept):
        return replace(found, plan=kept, cost=kept.cost(problem), proven=False)  # it was not that which was in the way
    made = giving_up(problem, other.plan)
    return replace(other, plan=made) if made.moved else found


def _next_first(problem: Problem, plan: Plan) -> Plan:
    """A plan with what is next put first; what lay there moves on when it is laid out again."""
    at = {(p.job, p.operation): p.at - BEFORE for p in problem.pins if p.kind == "preferred"}

    def put(step: Planned) -> Planned:
        start = at.get((step.job, step.operation), step.start)
        return replace(step, start=start, end=start + step.end - step.start)

    return replace(plan, steps=tuple(put(s) for s in plan.steps))
