"""Whole plans from an order of the jobs, and the search for a better order.

Each job is laid in whole, one after another, wherever hands and places take it soonest (serial schedule generation:
Kolisch, European Journal of Operational Research 90, 1996). The search begins with short jobs first, what is late then
moved forward until it is in time. It goes on by moving one job, changing two, or mixing a few, and keeps what is no
worse than a few steps ago (late acceptance: Burke and Bykov, European Journal of Operational Research 258, 2017).
Where something is late in the plan there is, orders by departures are tried too. Where that would be less late with
the bench to itself, orders are also tried in which it is laid in first, at the times it would have then.
"""

from __future__ import annotations

import math
import random
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace

from creekbed.core.planning.dispatch import unplaced
from creekbed.core.planning.model import Plan, PlanPerson, Problem
from creekbed.core.planning.pins import lay_pins
from creekbed.core.planning.schedule_builder import ScheduleBuilder
from creekbed.core.planning.schedule_report import plan_of
from creekbed.core.planning.timelines import NEVER, UNIT, PlaceState, ScheduledOperation
from creekbed.core.quick_dataclasses import dataclass

Places = Mapping[int, tuple[int, int]]
"""Number of an operation → when it is better not begun before, and whose it better is."""

TAILS = (0.0, 0.1)
"""How much the longest way through a job counts beside its hands in the first orders: house default, as it did best."""
FORWARD, FORWARD_MOST = 1.5, 12
"""By how many places more a job that is still late is moved forward, and how often: house default."""
FAR, MIXED, BACK = (3, 6, 12, 25), 5, 5
"""How far a job is moved, or changed with another, at most, drawn each time; how many are mixed; with the cost how many
steps ago an order is compared: house default, as they did best."""
TO_ITSELF, TO_ITSELF_S = 70, 1.0
"""Most operations of a bench on which each late job is also planned as if it were alone, and the time for that: house
default."""
EVERY = 4
"""After how many jobs the state of the bench is kept each time, so that an order that begins alike need not be laid in
anew: house default."""
SECOND_TRY = 0.5
"""Share of the time after which a search that has found nothing better begins again from the plan there is."""


class OrderScheduler:
    """Schedules jobs one after another in an order; reuses the part that the order shares with the last one kept.

    Args:
        bench: what is laid in it is taken out. first: laid in before all others, at their times.
    """

    def __init__(self, bench: ScheduleBuilder, first: Places | None = None):
        self.bench = bench
        self._sequence: list[list[ScheduledOperation]] = [[] for _ in bench.by_job]
        for op in sorted(bench.order, key=lambda o: -o.tail):
            self._sequence[op.job].append(op)
        self._soonest = [max((o.ready + o.tail for o in mine), default=0) / UNIT for mine in bench.by_job]
        """When each job could be finished if it had the bench to itself, at the soonest."""
        self._kept: list[int] = []
        self._tried: list[int] = []
        self._saved: dict[int, _State] = {}
        """The states of the bench after numbers of jobs of the kept order."""
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

    def lay(self, order: Sequence[int], most: float = math.inf) -> bool:
        """Lay in the jobs in this order, of each its longest way first.

        Args:
            order: numbers of the jobs that can go on, each once.
            most: what it may cost; it is left when it is known to cost more.

        Returns:
            Whether all were laid in, as far as they can be.
        """
        bench, weights = self.bench, self.bench.problem.weights
        same = next((n for n, (a, b) in enumerate(zip(order, self._kept, strict=False)) if a != b), len(self._kept))
        begin = max(n for n in self._saved if n <= same)
        waiting = self._saved[begin].restore(bench)
        self._tried, self._fresh = list(order), {}
        late, finished = (sum(x) for x in zip((0.0, 0.0), *(self._counted(j) for j in order[:begin]), strict=True))
        to_come = sum(self._soonest[j] for j in order[begin:])
        for n in range(begin, len(order)):
            if n % EVERY == 0 and n > begin:
                self._fresh[n] = _State.of(bench, waiting)
            job = order[n]
            waiting += self._all_laid(self._sequence[job])
            more, finish = self._counted(job)
            late, finished, to_come = late + more, finished + finish, to_come - self._soonest[job]
            if weights.late * late + weights.completion * (finished + to_come) > most:
                return False
        self._all_laid(waiting)
        return True

    def _counted(self, job: int) -> tuple[float, float]:
        """Weighted minutes late and the finish of a job that is laid in; 0 and its soonest where it is not."""
        mine, planned = self.bench.by_job[job], self.bench.jobs[job]
        if any(o.start < 0 for o in mine):
            return 0.0, self._soonest[job]
        finish = max([0.0, *((o.end + o.wait) / UNIT for o in mine), *(r.earliest for r in planned.running)])
        late = 0.0 if planned.due is None else planned.weight * max(0.0, finish - planned.due)
        return late, finish

    def _all_laid(self, ops: list[ScheduledOperation]) -> list[ScheduledOperation]:
        """Schedule these operations, in several passes if one makes another possible; returns those that are left."""
        left = len(ops) + 1
        while ops and len(ops) < left:
            left, ops = len(ops), self._laid(ops)
        return ops

    def _laid(self, ops: list[ScheduledOperation]) -> list[ScheduledOperation]:
        """Schedule these operations in one pass; returns those that are left."""
        bench, still = self.bench, []
        for op in ops:
            if op.start < 0:
                ready = bench.ready(op)
                if ready >= NEVER or not bench.place(op, ready):
                    still.append(op)
        return still

    def finishes(self) -> list[int]:
        """When each job is finished, by number, tenths of a minute; ``NEVER`` where it is not laid in."""
        return [
            NEVER if any(o.start < 0 for o in mine) else max((o.end + o.wait for o in mine), default=0)
            for mine in self.bench.by_job
        ]

    def keep(self) -> None:
        """Keep the last order as the one that later orders are compared with."""
        same = next(
            (n for n, (a, b) in enumerate(zip(self._tried, self._kept, strict=False)) if a != b), len(self._kept)
        )
        self._saved = {n: state for n, state in self._saved.items() if n <= same} | self._fresh
        self._kept = self._tried

    def least_cost(self) -> float:
        """What the schedule costs at least, without what only a plan tells; infinite where something is not laid in."""
        bench, w = self.bench, self.bench.problem.weights
        if any(o.start < 0 for o in bench.ops):
            return math.inf
        rows = [self._counted(n) for n in range(len(bench.jobs))]
        finishes = [finish for _, finish in rows]
        late = sum(minutes for minutes, _ in rows)
        return w.late * late + w.finish * max(finishes, default=0.0) + w.completion * sum(finishes)


@dataclass(frozen=True)
class _State:
    """A partial schedule."""

    ops: list[tuple[int, int, int]]
    busy: list[list[tuple[int, int]]]
    places: dict[str, PlaceState]
    wished: tuple[dict[int, int], dict[int, int]]
    kept: dict[int, tuple[int, int, int]]
    waiting: list[ScheduledOperation]

    @staticmethod
    def of(bench: ScheduleBuilder, waiting: list[ScheduledOperation]) -> _State:
        """The partial schedule as it is now."""
        return _State(
            [(o.start, o.person, o.length) for o in bench.ops],
            [list(line.busy) for line in bench.lines],
            {key: place.state() for key, place in bench.places.items()},
            (bench.wished, bench.wished_by),
            dict(bench.kept),
            list(waiting),
        )

    def restore(self, bench: ScheduleBuilder) -> list[ScheduledOperation]:
        """Restore the partial schedule; returns the operations that are left."""
        for op, (start, person, length) in zip(bench.ops, self.ops, strict=True):
            op.start, op.person, op.length = start, person, length
        for line, busy in zip(bench.lines, self.busy, strict=True):
            line.busy = list(busy)
        for key, state in self.places.items():
            bench.places[key].restore(state)
        bench.wished, bench.wished_by = self.wished
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
    if sum(bool(mine) for mine in bench.by_job) < 2:
        return best
    return _OrderSearch(bench, best, until, chance, stop, judge).run()


class _OrderSearch:
    """One search for a better order; arguments as for :func:`better_order`."""

    def __init__(
        self, bench: ScheduleBuilder, best: Plan, until: float, chance: random.Random,
        stop: Callable[[], bool], judge: Callable[[Plan], float],
    ):  # fmt: skip
        self.bench, self.best, self.chance, self.stop, self.judge = bench, best, chance, stop, judge
        self.began, self.until = time.monotonic(), until
        self.jobs = [n for n, mine in enumerate(bench.by_job) if mine]
        self.found, self.top, self.worst = best, judge(best), unplaced(best)
        self.order: list[int] = []
        self.cost = math.inf
        """Cost of the order that the search goes on from."""
        self.costs = [math.inf] * BACK
        """Costs of the last orders that it went on from: an order no worse than the oldest of them is accepted."""
        self.scheduler = OrderScheduler(bench)

    @property
    def over(self) -> bool:
        """Whether the time is up."""
        return time.monotonic() >= self.until or self.stop()

    def run(self) -> Plan:
        """The best plan that is found."""
        if self.over:
            return self.best
        self._begin()
        again, turn = False, 0
        while not self.over:
            if not again and self.found is self.best and time.monotonic() - self.began > SECOND_TRY * self._budget:
                again = True
                self._go_on_from(_as_finished(self.bench, self.jobs, self.best), OrderScheduler(self.bench))
            tried, turn = _changed(self.order, self.chance), turn + 1
            most = max(self.cost, self.costs[turn % BACK])
            plan, value = self._laid(self.scheduler, tried, most)
            if plan is not None and value <= most:
                self.order, self.cost = tried, value
                self.scheduler.keep()
                if value < self.top - 1e-6:
                    self.found, self.top = plan, value
            self.costs[turn % BACK] = min(self.cost, self.costs[turn % BACK])
        return self.found

    @property
    def _budget(self) -> float:
        return self.until - self.began

    def _begin(self) -> None:
        """Begin with the best of a few orders: short jobs first, with what is late moved forward; or by departures."""
        bench, jobs = self.bench, self.jobs
        hands = [sum(o.length for o in mine) for mine in bench.by_job]
        ways = [max((o.tail for o in mine), default=0) for mine in bench.by_job]
        starts: list[tuple[list[int], Places]] = []
        for share in TAILS:
            if not starts or not self.over:
                by_length = sorted(jobs, key=lambda n: hands[n] + share * ways[n])
                starts.append((in_time(self.scheduler, by_length, lambda: self.over), {}))
        seconds = min(TO_ITSELF_S, SECOND_TRY * self._budget)
        alone = to_itself(bench.problem, bench, self.best, seconds, self.chance)
        for order in _for_departures(bench, jobs, self.best, ways):
            starts += [(order, {}), (order, alone)] if alone else [(order, {})]
        best: tuple[float, list[int], OrderScheduler] | None = None
        for order, places in starts:
            if best is not None and self.over:
                break
            scheduler = OrderScheduler(bench, places)
            plan, value = self._laid(scheduler, order, math.inf)
            if plan is not None and value < self.top - 1e-6:
                self.found, self.top = plan, value
            if best is None or value < best[0]:
                best = value, order, scheduler
        assert best is not None
        self._go_on_from(best[1], best[2])

    def _go_on_from(self, order: list[int], scheduler: OrderScheduler) -> None:
        """Search from this order."""
        self.order, self.scheduler = order, scheduler
        _, self.cost = self._laid(scheduler, order, math.inf)
        self.costs = [self.cost] * BACK
        scheduler.keep()

    def _laid(self, scheduler: OrderScheduler, order: Sequence[int], most: float) -> tuple[Plan | None, float]:
        """A plan and its cost; none where it costs more than that."""
        if not self.worst and (not scheduler.lay(order, most) or scheduler.least_cost() > most):
            return None, math.inf
        if self.worst:
            scheduler.lay(order)
        plan = plan_of(self.bench)
        return plan, self.judge(plan) if unplaced(plan) <= self.worst else math.inf


def in_time(scheduler: OrderScheduler, order: list[int], over: Callable[[], bool] = lambda: False) -> list[int]:
    """An order with the late jobs moved forward: each before the jobs that are finished when it is due.

    What is late again is moved farther. The best of the orders that were tried is given back.
    """
    jobs = scheduler.bench.jobs
    due = [math.inf if j.due is None else j.due * UNIT for j in jobs]
    pushed = [0] * len(jobs)
    best, least = order, math.inf
    for _ in range(FORWARD_MOST):
        scheduler.lay(order)
        scheduler.keep()
        cost = scheduler.least_cost()
        if cost < least or least == math.inf:
            best, least = order, cost
        finish = scheduler.finishes()
        late = [n for n in order if finish[n] > due[n]]
        if not late or over():
            break
        place = {n: float(k) for k, n in enumerate(order)}
        for n in late:
            pushed[n] += 1
            before = next((k for k, m in enumerate(order) if finish[m] >= due[n]), len(order))
            place[n] = min(place[n], before) - FORWARD * pushed[n]
        order = sorted(order, key=lambda n: place[n])
    return best


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


def _after(person: PlanPerson, busy: float) -> PlanPerson:
    """Somebody whose hands are busy till then."""
    return replace(person, windows=tuple((max(a, busy), b) for a, b in person.windows if b > busy))


def by_departures(bench: ScheduleBuilder) -> Plan:
    """A plan at once: the job that is due first is laid in first, of each its longest way first."""

    def due(n: int) -> tuple[float, float]:
        job = bench.jobs[n]
        return (math.inf if job.due is None else job.due, -job.weight)

    return schedule_in_order(bench, sorted((n for n, mine in enumerate(bench.by_job) if mine), key=due))


def _for_departures(bench: ScheduleBuilder, jobs: list[int], plan: Plan, ways: Sequence[int]) -> Iterator[list[int]]:
    """Orders for a bench on which something is late: what is late first; by departures; by what is left till them."""
    late = {n for n in jobs if plan.forecasts[bench.jobs[n].key].late_by > 0}
    if not late:
        return
    due = [math.inf if j.due is None else j.due * UNIT for j in bench.jobs]
    finished = _as_finished(bench, jobs, plan)
    yield sorted(finished, key=lambda n: n not in late)
    yield sorted(finished, key=lambda n: due[n])
    yield sorted(jobs, key=lambda n: due[n] - ways[n])


def _as_finished(bench: ScheduleBuilder, jobs: list[int], plan: Plan) -> list[int]:
    """The jobs in the order in which a plan finishes them."""

    def finish(n: int) -> float:
        at = plan.forecasts[bench.jobs[n].key].finish
        return math.inf if at is None else at

    return sorted(jobs, key=finish)


def _changed(order: Sequence[int], chance: random.Random) -> list[int]:
    """One job elsewhere, two changed, or a few neighbours mixed."""
    made, kind, count = list(order), chance.random(), len(order)
    at = chance.randrange(count)
    to = min(max(at + chance.choice((-1, 1)) * chance.randint(1, chance.choice(FAR)), 0), count - 1)
    if kind < 0.6:
        made.insert(to, made.pop(at))
    elif kind < 0.9:
        made[at], made[to] = made[to], made[at]
    else:
        at = min(at, max(count - MIXED, 0))
        few = made[at : at + MIXED]
        chance.shuffle(few)
        made[at : at + MIXED] = few
    return made
