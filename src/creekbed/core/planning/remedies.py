"""The cheapest set of changes that would make a late job be in time, found by asking the planner.

Each option is the bench a little different: hours, room, a later departure for another, a step left out.
Sets are tried in order of their cost, so the first that helps is the cheapest that the planner finds.
"""

from __future__ import annotations

import heapq
import itertools
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial

from creekbed.core.planning.explanations import PlanComparison, answer_beside, compare
from creekbed.core.planning.model import Operation, Plan, PlanPerson, Problem
from creekbed.core.quick_dataclasses import dataclass

AT_MOST, TRIED = 3, 60
"""Most changes in one remedy, and most remedies tried, so that the answer comes while one waits: house default."""


@dataclass(frozen=True)
class RemedyOption:
    """One thing that could be changed.

    Attributes:
        kind: "hours", "break", "room", "later", "skip" or "first". what: which person, place, job or operation.
        minutes: how much, where that can be said. cost: how dear it is, in minutes of the shop's.
        change: the bench with it.
    """

    kind: str
    what: str
    minutes: float
    cost: float
    change: Callable[[Problem], Problem]


@dataclass(frozen=True)
class Remedy:
    """A set of changes with which a job is in time, and the plan then."""

    options: tuple[RemedyOption, ...]
    cost: float
    beside: PlanComparison


def longer_hours(person: str, window: int, minutes: float) -> Callable[[Problem], Problem]:
    """Somebody stays on after one of their windows."""
    return partial(_longer_hours, person=person, window=window, minutes=minutes)


def _longer_hours(problem: Problem, *, person: str, window: int, minutes: float) -> Problem:
    def stay(p: PlanPerson) -> PlanPerson:
        rows = list(p.windows)
        if p.key == person and window < len(rows):
            a, b = rows[window]
            rows[window] = (a, b + minutes)
            if window + 1 < len(rows) and rows[window + 1][0] <= b + minutes:
                rows[window : window + 2] = [(a, max(rows[window + 1][1], b + minutes))]
        return replace(p, windows=tuple(rows))

    return replace(problem, people=tuple(stay(p) for p in problem.hands))


def more_room(place: str) -> Callable[[Problem], Problem]:
    """The remedy of one more of a place."""
    return partial(_more_room, place=place)


def _more_room(problem: Problem, *, place: str) -> Problem:
    return replace(problem, capacity={**problem.capacity, place: problem.capacity.get(place, 0) + 1})


def later_departure(job: str, due: float | None) -> Callable[[Problem], Problem]:
    """Another job goes with a later departure."""
    return partial(_later_departure, job=job, due=due)


def _later_departure(problem: Problem, *, job: str, due: float | None) -> Problem:
    return replace(problem, jobs=tuple(replace(j, due=due) if j.key == job else j for j in problem.jobs))


def first_of_all(job: str) -> Callable[[Problem], Problem]:
    """A job goes before all others."""
    return partial(_first_of_all, job=job)


def _first_of_all(problem: Problem, *, job: str) -> Problem:
    jobs = tuple(replace(j, weight=j.weight * 1e3) if j.key == job else j for j in problem.jobs)
    return replace(problem, jobs=jobs)


def left_out(job: str, operation: str) -> Callable[[Problem], Problem]:
    """An operation is left out; what came after it comes after what was before it."""
    return partial(_left_out, job=job, operation=operation)


def _left_out(problem: Problem, *, job: str, operation: str) -> Problem:
    jobs = []
    for j in problem.jobs:
        gone = next((o for o in j.operations if o.key == operation), None) if j.key == job else None
        if gone is None:
            jobs.append(j)
            continue
        operations = tuple(_without(o, gone) for o in j.operations if o.key != operation)
        jobs.append(replace(j, operations=operations))
    return replace(problem, jobs=tuple(jobs))


def _without(operation: Operation, gone: Operation) -> Operation:
    """An operation that comes after what was before the one that is gone."""
    after = [b for a in operation.after for b in (gone.after if a == gone.key else (a,))]
    ends = None if operation.ends == gone.key else operation.ends
    deeds = operation.deeds | (gone.deeds - operation.waits_for)
    return replace(operation, after=tuple(dict.fromkeys(after)), deeds=deeds & set(after), ends=ends)


def breaks_and_evenings(problem: Problem, until: float, step_min: float = 60.0) -> list[RemedyOption]:
    """Options of hours until a moment: breaks worked through, and staying on in the evening."""
    found = []
    for person in problem.hands:
        for n, (a, b) in enumerate(person.windows):
            if a >= until:
                break
            following = person.windows[n + 1][0] if n + 1 < len(person.windows) else None
            if following is not None and following - b <= 120:
                if b < until:
                    found.append(
                        RemedyOption(
                            "break",
                            person.key,
                            following - b,
                            1.5 * (following - b),
                            longer_hours(person.key, n, following - b),
                        )
                    )
                continue
            for k in (1, 2):
                if b < until:
                    more = k * step_min
                    found.append(RemedyOption("hours", person.key, more, more, longer_hours(person.key, n, more)))
    return found


def remedies(
    problem: Problem,
    plan: Plan,
    job: str,
    options: Sequence[RemedyOption],
    *,
    wanted: int = 2,
    stop: Callable[[], bool] = lambda: False,
) -> list[Remedy]:
    """The cheapest sets of changes with which a job is in time.

    What they make others late by is part of their cost.

    Args:
        wanted: so many sets, none of which holds another. stop: asked between two tries.

    Returns:
        The cheapest first; empty where nothing that was tried helps.
    """
    late = {k: f.late_by for k, f in plan.forecasts.items()}
    weights = {j.key: j.weight for j in problem.jobs}
    heap: list[tuple[float, int, tuple[int, ...]]] = []
    count = itertools.count()
    rows = sorted(options, key=lambda o: o.cost)
    for n, option in enumerate(rows):
        heapq.heappush(heap, (option.cost, next(count), (n,)))
    found: list[Remedy] = []
    helped: list[set[int]] = []
    for _ in range(TRIED):
        if not heap or len(found) > wanted or stop():
            break
        cost, _, chosen = heapq.heappop(heap)
        if any(h <= set(chosen) for h in helped):
            continue
        other = problem
        for n in chosen:
            other = rows[n].change(other)
        made = answer_beside(other, plan)
        forecast = made.forecasts.get(job)
        if forecast is not None and forecast.finish is not None and forecast.late_by <= 0:
            others = sum(
                weights[k] * max(0.0, f.late_by - late.get(k, 0.0)) for k, f in made.forecasts.items() if k != job
            )
            found.append(Remedy(tuple(rows[n] for n in chosen), cost + others, compare(problem, plan, other, made)))
            helped.append(set(chosen))
        elif len(chosen) < AT_MOST:
            for n in range(chosen[-1] + 1, len(rows)):
                if not any((rows[n].kind, rows[n].what) == (rows[m].kind, rows[m].what) for m in chosen):
                    heapq.heappush(heap, (cost + rows[n].cost, next(count), (*chosen, n)))
    return sorted(found, key=lambda r: r.cost)[:wanted]
