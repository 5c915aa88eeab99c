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
from dataclasses import dataclass, replace

from creekbed.core.planning.dispatch import unplaced
from creekbed.core.planning.model import Person, Plan, Problem
from creekbed.core.planning.pins import lay_pins
from creekbed.core.planning.place_capacity import Piece
from creekbed.core.planning.schedule_builder import ScheduleBuilder
from creekbed.core.planning.schedule_report import plan_of
from creekbed.core.planning.timelines import NEVER, UNIT, PlaceTimeline, ScheduledOperation

Places = Mapping[int, tuple[int, int]]
"""Number of an operation → when it is better not begun before, and whose it better is."""

TAIL = 0.3
"""How much the longest way through a job counts beside its hands in the first order: house default, as it did best."""
FAR, MIXED = 12, 5
"""How far a job is moved at most; how many are mixed: house default."""
TO_ITSELF, TO_ITSELF_S = 70, 1.0
"""What is late is planned as if it had the bench to itself with so many operations and for so long at most: house
default."""
EVERY = 4
"""After so many jobs it is kept how the bench looks, so that an order that begins alike need not be laid in anew: house
default."""
SECOND_TRY = 0.5
"""Share of the time after which a search that has found nothing better begins again from the plan there is."""


class OrderScheduler:
    """Lays jobs in one after another, each whole; goes on from where an order begins to differ from the last one kept.

    Args:
        bench: what is laid in it is taken out. first: laid in before all others, at their times.
    """

    def __init__(self, bench: ScheduleBuilder, first: Places | None = None):
        self.bench = bench
        self._sequence: list[list[ScheduledOperation]] = [[] for _ in bench.by_job]
        for op in sorted(bench.order(), key=lambda o: -o.tail):
            self._sequence[op.job].append(op)
        self._kept: list[int] = []
        self._tried: list[int] = []
        self._saved: dict[int, _State] = {}
        """How the bench looked when so many jobs of the kept order were laid in."""
        self._fresh: dict[int, _State] = {}
        self._begin(first or {})
        self._saved[0] = _State.of(bench, [])

    def _begin(self, first: Places) -> None:
        bench = self.bench
        bench.turn_to(bench.problem)
        for n, (start, person) in first.items():
            bench.wished[n], bench.wished_by[n] = start, person
        lay_pins(bench)
        for n, (start, person) in sorted(first.items(), key=lambda row: row[1]):
            op = bench.ops[n]
            ready = bench.ready(op) if op.start < 0 else NEVER
            if ready < NEVER:
                bench.place(op, max(ready, start), prefer=person)

    def lay(self, order: Sequence[int]) -> None:
        """Lay in the jobs in this order, of each its longest way first.

        Args:
            order: numbers of the jobs that can go on, each once.
        """
        bench = self.bench
        same = next((n for n, (a, b) in enumerate(zip(order, self._kept, strict=False)) if a != b), len(self._kept))
        begin = max(n for n in self._saved if n <= same)
        waiting = self._saved[begin].restore(bench)
        self._tried, self._fresh = list(order), {}
        for n in range(begin, len(order)):
            if n % EVERY == 0 and n > begin:
                self._fresh[n] = _State.of(bench, waiting)
            waiting += self._laid(self._sequence[order[n]])
        moving = True
        while waiting and moving:
            still = self._laid(waiting)
            moving, waiting = len(still) < len(waiting), still

    def _laid(self, ops: list[ScheduledOperation]) -> list[ScheduledOperation]:
        """Lay these in where they can be; what cannot yet."""
        bench, still = self.bench, []
        for op in ops:
            if op.start < 0:
                ready = bench.ready(op)
                if ready >= NEVER or not bench.place(op, ready):
                    still.append(op)
        return still

    def keep(self) -> None:
        """Go on from the order that was laid in last."""
        same = next(
            (n for n, (a, b) in enumerate(zip(self._tried, self._kept, strict=False)) if a != b), len(self._kept)
        )
        self._saved = {n: state for n, state in self._saved.items() if n <= same} | self._fresh
        self._kept = self._tried

    def least_cost(self) -> float:
        """What the schedule costs at least, without what only a plan tells; infinite where something is not laid in."""
        bench, w = self.bench, self.bench.problem.weights
        finishes, late = [], 0.0
        for job, mine in zip(bench.jobs, bench.by_job, strict=True):
            if any(o.start < 0 for o in mine):
                return float("inf")
            finish = max([0.0, *((o.end + o.wait) / UNIT for o in mine), *(r.earliest for r in job.running)])
            finishes.append(finish)
            if job.due is not None and finish > job.due:
                late += job.weight * (finish - job.due)
        return w.late * late + w.finish * max(finishes, default=0.0) + w.completion * sum(finishes)


@dataclass(frozen=True)
class _State:
    """How a bench looks in the middle of being laid out."""

    ops: list[tuple[int, int, int]]
    busy: list[list[tuple[int, int]]]
    places: list[tuple[PlaceTimeline, dict[int, tuple[int, int]], dict[int, Piece]]]
    kept: dict[int, tuple[int, int, int]]
    waiting: list[ScheduledOperation]

    @staticmethod
    def of(bench: ScheduleBuilder, waiting: list[ScheduledOperation]) -> _State:
        """What it looks like now."""
        return _State(
            [(o.start, o.person, o.length) for o in bench.ops],
            [list(line.busy) for line in bench.lines],
            [(place, dict(place.held), dict(place.pieces)) for place in bench.places.values()],
            dict(bench.kept),
            list(waiting),
        )

    def restore(self, bench: ScheduleBuilder) -> list[ScheduledOperation]:
        """Have the bench look so again; what waits to be laid in."""
        for op, (start, person, length) in zip(bench.ops, self.ops, strict=True):
            op.start, op.person, op.length = start, person, length
        for line, busy in zip(bench.lines, self.busy, strict=True):
            line.busy = list(busy)
        for place, held, pieces in self.places:
            place.held, place.pieces = dict(held), dict(pieces)
        bench.kept = dict(self.kept)
        return list(self.waiting)


def schedule_in_order(bench: ScheduleBuilder, order: Sequence[int], first: Places | None = None) -> Plan:
    """A plan by laying in one job after another, of each its longest way first; what is pinned comes before.

    Args:
        order: numbers of the jobs that can go on, each once. first: laid in before all others, at their times.
    """
    OrderScheduler(bench, first).lay(order)
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

    def laid(layer: OrderScheduler, tried: Sequence[int], most: float) -> tuple[Plan | None, float]:
        """A plan and its cost; none where it costs more than that."""
        layer.lay(tried)
        if not worst and layer.least_cost() > most:
            return None, float("inf")
        plan = plan_of(bench)
        return plan, judge(plan) if unplaced(plan) <= worst else float("inf")

    alone = to_itself(problem, bench, best, min(TO_ITSELF_S, SECOND_TRY * (until - began)), chance)
    first: Places = {}
    for tried in _for_departures(bench, jobs, best, ways):
        for places in ({}, alone) if alone else ({},):
            if time.monotonic() >= until or stop():
                break
            plan, value = laid(OrderScheduler(bench, places), tried, top)
            if plan is not None and value < top - 1e-6:
                found, top, order, cost, first = plan, value, tried, value, places
    layer = OrderScheduler(bench, first)
    if cost < float("inf"):
        layer.lay(order)
        layer.keep()
    while time.monotonic() < until and not stop():
        if not again and found is best and time.monotonic() - began > SECOND_TRY * (until - began):
            order, again, cost, layer = _as_finished(bench, jobs, best), True, float("inf"), OrderScheduler(bench)
        tried = order if cost == float("inf") else _changed(order, chance)
        plan, value = laid(layer, tried, cost)
        if plan is not None and value <= cost:
            order, cost = tried, value
            layer.keep()
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


def by_departures(bench: ScheduleBuilder) -> Plan:
    """A plan at once: the job that is due first is laid in first, of each its longest way first."""

    def due(n: int) -> tuple[float, float]:
        job = bench.jobs[n]
        return (float("inf") if job.due is None else job.due, -job.weight)

    return schedule_in_order(bench, sorted((n for n, mine in enumerate(bench.by_job) if mine), key=due))


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
