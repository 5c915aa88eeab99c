"""Work on one instrument brought together, so that people put it aside less often for another."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from dataclasses import replace

from creekbed.core.planning.dispatch import repair_schedule, unplaced
from creekbed.core.planning.model import Plan, Planned, Problem
from creekbed.core.planning.schedule_builder import ScheduleBuilder

REACH = 10
"""How many pieces of work are looked back over for the same instrument: house default."""
MOMENT = 1e-3
"""Puts something just behind or before another in the order, minutes."""


def reduce_switching(
    problem: Problem, best: Plan, until: float, stop: Callable[[], bool], judge: Callable[[Plan], float]
) -> Plan:
    """The plan with work on the same instrument done in one go where that costs nothing that counts for more.

    Args:
        until: moment of the monotonic clock at which it stops. judge: cost of a plan; smaller is better.
    """
    bench = ScheduleBuilder(problem)
    top, worst = judge(best), unplaced(best)
    tried: set[tuple[tuple[str, str], tuple[str, str], bool]] = set()
    moving = True
    while moving:
        moving = False
        for step, beside, behind in list(_apart(problem, best)):
            key = ((step.job, step.operation), (beside.job, beside.operation), behind)
            if key in tried:
                continue
            if time.monotonic() >= until or stop():
                return best
            tried.add(key)
            at = beside.end - MOMENT if behind else beside.start - MOMENT
            made = repair_schedule(problem, _with_start(best, step, at), bench)
            value = judge(made)
            if unplaced(made) <= worst and value < top - 1e-6:
                best, top, moving = made, value, True
                break
    return best


def _apart(problem: Problem, plan: Plan) -> Iterator[tuple[Planned, Planned, bool]]:
    """Work that is begun again after something else: (what is moved, to what, whether behind it)."""
    pinned = {(p.job, p.operation) for p in problem.pins}
    for person in problem.hands:
        mine = [s for s in plan.of(person.key) if s.end > s.start]
        for n, step in enumerate(mine):
            earlier = mine[max(0, n - REACH) : n]
            before = next((s for s in reversed(earlier) if s.job == step.job), None)
            if before is None or before is mine[n - 1]:
                continue
            if (step.job, step.operation) not in pinned:
                yield step, before, True
            if (before.job, before.operation) not in pinned:
                yield before, step, False


def _with_start(plan: Plan, step: Planned, at: float) -> Plan:
    """The plan with one piece of work at another place in the order."""
    moved = replace(step, start=at, end=at + step.end - step.start)
    rest = (s for s in plan.steps if s is not step)
    return replace(plan, steps=tuple(sorted((*rest, moved), key=lambda s: (s.start, s.end))))
