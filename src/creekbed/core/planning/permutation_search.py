"""Whole plans from an order of the jobs, and the search for a better order.

Each job is laid in whole, one after another, wherever hands and places take it soonest (serial schedule generation:
Kolisch, European Journal of Operational Research 90, 1996). A good order is found by moving one job, changing two, or
mixing a few, and keeping what is no worse. Where something is late, the search begins with what is late, or with the
boats, if that is better; else where short jobs come first: that is late at first, but what is late is soon mended, and
it ends lower than a search from an order that is never late. Where something is late and would be less late with the
bench to itself, orders are also tried in which it is laid in first, at the times it would have then.
"""

from __future__ import annotations

import random
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace

from creekbed.core.planning.dispatch import unplaced
from creekbed.core.planning.model import Person, Plan, Problem
from creekbed.core.planning.pins import lay_pins
from creekbed.core.planning.schedule_builder import ScheduleBuilder
from creekbed.core.planning.schedule_report import plan_of
from creekbed.core.planning.timelines import NEVER, UNIT, ScheduledOperation
from creekbed.core.turns import Turns, whole

Places = Mapping[int, tuple[int, int]]
"""Number of an operation → when it is better not begun before, and whose it better is."""

TAIL = 0.3
"""How much the longest way through a job counts beside its hands in the first order: house default, as it did best."""
FAR, MIXED = 12, 5
"""How far a job is moved at most; how many are mixed: house default."""
TO_ITSELF, TO_ITSELF_S = 70, 1.0
"""What is late is planned as if it had the bench to itself with so many operations and for so long at most: house
default."""
SECOND_TRY = 0.5
"""Share of the time after which a search that has found nothing better begins again from the plan there is."""


def schedule_in_order(bench: ScheduleBuilder, order: Sequence[int], first: Places | None = None) -> Plan:
    """A plan by laying in one job after another, of each its longest way first; what is pinned comes before.

    Args:
        order: numbers of the jobs that can go on, each once. first: laid in before all others, at their times.
    """
    return whole(schedule_in_order_in_turns(bench, order, first))


def schedule_in_order_in_turns(
    bench: ScheduleBuilder, order: Sequence[int], first: Places | None = None
) -> Turns[Plan]:
    """What :func:`schedule_in_order` makes, a little at a time."""
    bench.turn_to(bench.problem)
    first = first or {}
    for n, (start, person) in first.items():
        bench.wished[n], bench.wished_by[n] = start, person
    lay_pins(bench)
    rank = {n: k for k, n in enumerate(order)}
    for n, (start, person) in sorted(first.items(), key=lambda row: row[1]):
        op = bench.ops[n]
        ready = bench.ready(op) if op.start < 0 else NEVER
        if ready < NEVER:
            bench.place(op, max(ready, start), prefer=person)
        yield
    waiting = sorted((o for o in bench.order() if o.start < 0), key=lambda o: (rank[o.job], -o.tail))
    moving = True
    while waiting and moving:
        still: list[ScheduledOperation] = []
        for op in waiting:
            yield
            if op.start < 0:
                ready = bench.ready(op)
                if ready >= NEVER or not bench.place(op, ready):
                    still.append(op)
        moving, waiting = len(still) < len(waiting), still
    return plan_of(bench)


def better_order(
    problem: Problem,
    best: Plan,
    until: float,
    chance: random.Random,
    stop: Callable[[], bool],
    judge: Callable[[Plan], float],
) -> Plan:
    """The best plan of many orders of the jobs; the one there is where none is better.

    Args:
        until: moment of the monotonic clock at which it stops. judge: cost of a plan; smaller is better.
    """
    bench = ScheduleBuilder(problem)
    jobs = [n for n, mine in enumerate(bench.by_job) if mine]
    if len(jobs) < 2:
        return best
    began, top, worst = time.monotonic(), judge(best), unplaced(best)
    hands = [sum(o.length for o in mine) for mine in bench.by_job]
    ways = [max((o.tail for o in mine), default=0) for mine in bench.by_job]
    order = sorted(jobs, key=lambda n: hands[n] + TAIL * ways[n])
    found, again = best, False
    cost = float("inf")

    def laid(tried: Sequence[int], first: Places) -> tuple[Plan, float]:
        plan = schedule_in_order(bench, tried, first)
        return plan, judge(plan) if unplaced(plan) <= worst else float("inf")

    alone = to_itself(problem, bench, best, min(TO_ITSELF_S, SECOND_TRY * (until - began)), chance)
    first: Places = {}
    for tried in _for_departures(bench, jobs, best, ways):
        for places in ({}, alone) if alone else ({},):
            if time.monotonic() >= until or stop():
                break
            plan, value = laid(tried, places)
            if value < top - 1e-6:
                found, top, order, cost, first = plan, value, tried, value, places
    while time.monotonic() < until and not stop():
        if not again and found is best and time.monotonic() - began > SECOND_TRY * (until - began):
            order, again, cost, first = _as_finished(bench, jobs, best), True, float("inf"), {}
        tried = order if cost == float("inf") else _changed(order, chance)
        plan, value = laid(tried, first)
        if value <= cost:
            order, cost = tried, value
            if value < top - 1e-6:
                found, top = plan, value
    return found


def to_itself(problem: Problem, bench: ScheduleBuilder, plan: Plan, seconds: float, chance: random.Random) -> Places:
    """Where what is late in a plan would lie best if it had the bench to itself; empty where that makes it no sooner.

    The latest are looked at first, as many as can be planned exactly. Hands that are busy with something else now come
    to it after that; waits of other jobs are left to whoever lays the rest in.
    """
    from creekbed.core.planning.cp_neighbourhood import solve

    late = {k: f.late_by for k, f in plan.forecasts.items() if f.late_by > 0}
    chosen, size = [], 0
    for job in sorted(problem.jobs, key=lambda j: -late.get(j.key, 0.0) * j.weight):
        if job.key in late and size + len(job.operations) <= TO_ITSELF:
            chosen.append(job)
            size += len(job.operations)
    if not chosen:
        return {}
    mine = {j.key for j in chosen}
    busy = [0.0] * len(problem.hands)
    for op in (o for o in bench.ops if bench.is_held(o) and bench.jobs[o.job].key not in mine):
        who = bench.who(bench.pinned[op.n], op)
        if who is not None:
            busy[who] = max(busy[who], op.full / UNIT)
    people = tuple(_after(p, till) for p, till in zip(problem.hands, busy, strict=True))
    pins = tuple(p for p in problem.pins if p.job in mine)
    small = replace(problem, jobs=tuple(chosen), people=people, pins=pins)
    alone = ScheduleBuilder(small)
    schedule_in_order(alone, range(len(alone.by_job)))
    if any(o.start < 0 for o in alone.ops):
        return {}
    free = {o.n for o in alone.ops if o.n not in alone.pinned}
    found, _, _ = solve(alone, free, seconds, chance.randrange(1_000_000))
    best = found if found is not None else plan_of(alone)
    if best.weighted_tardiness(small) >= sum(late[j.key] * j.weight for j in chosen) - 1e-6:
        return {}
    hands = {p.key: n for n, p in enumerate(bench.people)}
    return {bench.number[s.job, s.operation]: (round(s.start * UNIT), hands[s.person]) for s in best.steps}


def _after(person: Person, busy: float) -> Person:
    """Somebody whose hands are busy till then."""
    return replace(person, windows=tuple((max(a, busy), b) for a, b in person.windows if b > busy))


def by_departures_in_turns(bench: ScheduleBuilder) -> Turns[Plan]:
    """A plan at once: the job that is due first is laid in first, of each its longest way first."""

    def due(n: int) -> tuple[float, float]:
        job = bench.jobs[n]
        return (float("inf") if job.due is None else job.due, -job.weight)

    return schedule_in_order_in_turns(bench, sorted((n for n, mine in enumerate(bench.by_job) if mine), key=due))


def _for_departures(bench: ScheduleBuilder, jobs: list[int], plan: Plan, ways: Sequence[int]) -> Iterator[list[int]]:
    """Orders for a bench on which something is late: what is late first; by boats; by what is left till them."""
    late = {n for n in jobs if plan.forecasts[bench.jobs[n].key].late_by > 0}
    if not late:
        return
    due = [float("inf") if j.due is None else j.due * UNIT for j in bench.jobs]
    finished = _as_finished(bench, jobs, plan)
    yield sorted(finished, key=lambda n: n not in late)
    yield sorted(finished, key=lambda n: due[n])
    yield sorted(jobs, key=lambda n: due[n] - ways[n])


def _as_finished(bench: ScheduleBuilder, jobs: list[int], plan: Plan) -> list[int]:
    """The jobs in the order in which a plan finishes them."""

    def finish(n: int) -> float:
        at = plan.forecasts[bench.jobs[n].key].finish
        return float("inf") if at is None else at

    return sorted(jobs, key=finish)


def _changed(order: Sequence[int], chance: random.Random) -> list[int]:
    """One job elsewhere, two changed, or a few neighbours mixed."""
    made, kind, count = list(order), chance.random(), len(order)
    if kind < 0.6:
        at = chance.randrange(count)
        job = made.pop(at)
        made.insert(max(0, at + chance.choice((-1, 1)) * chance.randint(1, FAR)), job)
    elif kind < 0.9:
        a, b = chance.randrange(count), chance.randrange(count)
        made[a], made[b] = made[b], made[a]
    else:
        at = chance.randrange(max(1, count - MIXED))
        few = made[at : at + MIXED]
        chance.shuffle(few)
        made[at : at + MIXED] = few
    return made
