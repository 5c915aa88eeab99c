"""A better plan of the bench than the one on show, looked for a while, and how much better it could be at most."""

from __future__ import annotations

from datetime import datetime, timedelta

from creekbed.core.planning.model import Problem
from creekbed.core.planning.plan_request import PlanRequest, PlanResult, answer_request
from creekbed.core.quick_dataclasses import dataclass
from creekbed.words.plan import gap_words
from creekbed.workshop.bench.bench_view import HomeView, home
from creekbed.workshop.planning import learned_durations
from creekbed.workshop.planning.explanations import told_conflict
from creekbed.workshop.shop.shop import Shop


@dataclass(frozen=True)
class Better:
    """The plan that is followed now, and the best that was found.

    Attributes:
        cost_now: of the plan that is followed, as :meth:`Plan.cost` counts it.
        less_late: weighted minutes by which the best plan is less late. sooner: minutes, all finishes together.
        thought: the best plan with what is proven of it, and the chances. words: how much better it could be.
        first: its first operations: (start, tag, what). conflict: what cannot all be kept, or "".
    """

    problem: Problem
    cost_now: float
    less_late: float
    sooner: float
    thought: PlanResult
    words: str
    first: tuple[tuple[datetime, str, str], ...]
    conflict: str = ""


def better_plan(shop: Shop, seconds: float, *, shown: int = 8) -> Better:
    """Look for a better plan of the bench as it stands; nothing is changed by it.

    Args:
        seconds: how long at most. shown: how many operations are named.
    """
    view = home(shop)
    task = _task(shop, view, seconds)
    found = answer_request(task)
    problem, now = task.problem, view.plan.cost(task.problem)
    finishing = [f for f in found.plan.forecasts.values() if f.finish is not None]
    late = found.plan.weighted_tardiness(problem)
    words = gap_words(found.cost, found.bound, len(finishing), late, problem.weights, found.late_bound)
    by_tag = {v.tag: v for v in view.jobs}
    first = []
    for planned in found.plan.steps[:shown]:
        step = by_tag[planned.job].step(planned.operation)
        if step is not None:
            first.append((view.now + timedelta(minutes=planned.start), planned.job, step.step.what))
    conflict = told_conflict(shop, view, found.conflict) if found.conflict is not None else ""
    ends = [sum(f.finish or 0.0 for f in p.forecasts.values()) for p in (view.plan, found.plan)]
    less_late = view.plan.weighted_tardiness(problem) - late
    return Better(problem, now, less_late, ends[0] - ends[1], found, words, tuple(first), conflict)


def thought_over(shop: Shop, seconds: float) -> HomeView:
    """The bench after the search that a window would do: learned durations, a better plan, chances.

    Args:
        seconds: how long at most.
    """
    shop.planner.take(answer_request(_task(shop, home(shop), seconds)))
    return home(shop)


def _task(shop: Shop, view: HomeView, seconds: float) -> PlanRequest:
    with shop.reading() as records:
        taken = learned_durations.taken(records, shop.catalogue)
    task = shop.planner.task(view.named, taken, seconds)
    assert task is not None
    return task
