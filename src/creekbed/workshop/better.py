"""A better plan of the bench than the first one, looked for a while, and how much better it could be at most."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta

from creekbed.core.planning.bound import late_bound
from creekbed.core.planning.engine import Improved, improve
from creekbed.core.planning.explain import gap_words
from creekbed.core.planning.first import first_plan
from creekbed.core.planning.model import Problem
from creekbed.workshop.bench import home
from creekbed.workshop.shop import Shop


@dataclass(frozen=True)
class Better:
    """The plan that is followed now, and the best that was found.

    Attributes:
        cost_now: of the plan that is followed, in minutes as :meth:`Plan.cost` counts them.
        found: the best plan with what is proven of it. words: how much better it could be.
        first: its first operations: (start, tag, what).
    """

    problem: Problem
    cost_now: float
    found: Improved
    words: str
    first: tuple[tuple[datetime, str, str], ...]


def better_plan(shop: Shop, seconds: float, *, stop: Callable[[], bool] = lambda: False, shown: int = 8) -> Better:
    """Look for a better plan of the bench as it stands; nothing is changed by it.

    Args:
        seconds: how long at most. stop: asked now and then. shown: how many operations are named.
    """
    view = home(shop)
    problem = view.problem
    now = view.plan.cost(problem)
    start = min((view.plan, first_plan(problem)), key=lambda p: (len(p.broken), p.cost(problem)))
    found = improve(problem, start, seconds, stop=stop)
    finishing = [f for f in found.plan.forecasts.values() if f.finish is not None]
    late = found.plan.weighted_tardiness(problem)
    words = gap_words(found.cost, found.bound, len(finishing), late, problem.weights.finish, late_bound(problem))
    by_tag = {v.tag: v for v in view.jobs}
    first = []
    for planned in found.plan.steps[:shown]:
        step = by_tag[planned.job].step(planned.operation)
        if step is not None:
            first.append((view.now + timedelta(minutes=planned.start), planned.job, step.step.what))
    return Better(problem, now, found, words, tuple(first))
