"""Improves a plan, never makes it worse, and bounds how good a plan can be.

Whole plans are made anew from other orders of the jobs, and the better one is kept. Then a few jobs, or a stretch of
time, are set free and planned anew by constraint programming around what stays, starting from what there is (large
neighbourhood search: Shaw 1998).
"""

from __future__ import annotations

import random
import time
from collections.abc import Callable, Iterable
from itertools import islice

from creekbed.core.planning.cp_neighbourhood import solve
from creekbed.core.planning.dispatch import DispatchRule
from creekbed.core.planning.lower_bounds import lower_bound
from creekbed.core.planning.model import Plan, Problem
from creekbed.core.planning.permutation_search import better_order
from creekbed.core.planning.plan_checker import violations
from creekbed.core.planning.reduce_switching import reduce_switching
from creekbed.core.planning.replanning import moved_cost
from creekbed.core.planning.schedule_builder import ScheduleBuilder
from creekbed.core.planning.schedule_report import plan_of
from creekbed.core.planning.timelines import UNIT
from creekbed.core.quick_dataclasses import dataclass

FREE_OPERATIONS, EXACT, WHOLE = 30, 70, 120
"""How many operations a neighbourhood sets free at most; up to how many all are, for the whole budget, and up to how
many for half of it first: house default, as it did best on the benchmark."""
ORDERS_SHARE = 0.85
"""Share of the budget in which whole plans are made anew from other orders: house default, as it did best on the
benchmark."""
GATHER_SHARE = 0.25
"""Share of the budget in which work on the same instrument is brought together: house default."""
LATE_SHARE = 0.5
"""Share of the neighbourhoods that are around a late job, while there is one: house default."""
ROUND_S = 0.25
"""How long one neighbourhood is looked at: house default, likewise."""


@dataclass(frozen=True)
class Improved:
    """A plan with what is known of how good it is.

    Attributes:
        plan: the best found. cost: of it. bound: no plan costs less. proven: whether nothing better exists.
        rounds: neighbourhoods that were tried.
    """

    plan: Plan
    cost: float
    bound: float
    proven: bool
    rounds: int

    @property
    def gap(self) -> float:
        """By what share of its cost it could at most be better."""
        return max(0.0, 1 - self.bound / self.cost) if self.cost > 0 else 0.0


def improve(
    problem: Problem,
    start: Plan,
    seconds: float,
    *,
    seed: int = 7,
    stop: Callable[[], bool] = lambda: False,
    shown: Plan | None = None,
) -> Improved:
    """A better plan than a given one, by local search; never a worse one.

    Args:
        seconds: budget. seed: of the choice of neighbourhoods. stop: asked between them.
        shown: the plan that people see; each change of what they do next counts against another plan.

    Reference:
        P. Shaw, CP 1998 (large neighbourhood search); solver: OR-Tools CP-SAT.
    """
    chance = random.Random(seed)
    began = time.monotonic()
    bench = ScheduleBuilder(problem)

    def judge(plan: Plan) -> float:
        return plan.cost(problem) + moved_cost(problem, shown, plan)

    best, cost = start, judge(start)
    bound = lower_bound(problem)
    bench.take_in(best)
    if violations(problem, plan_of(bench)):  # from another planner, whose times lie between the tenths
        bench.clear()
        DispatchRule(bench).run()
    if any(o.start < 0 for o in bench.ops) or not bench.ops:
        return Improved(best, start.cost(problem), bound, False, 0)
    whole = len(bench.ops) <= WHOLE
    if whole:
        share = 1.0 if len(bench.ops) <= EXACT else 0.5
        found, proven, solver_bound = solve(bench, {o.n for o in bench.ops} - _pinned(bench), seconds * share, seed)
        if found is not None and judge(found) < cost - 1e-9 and not violations(problem, found):
            best, cost = found, judge(found)
            bench.take_in(best)
        bound = max(bound, min(solver_bound, best.cost(problem)))
        if proven or share == 1.0:
            best = _tidy(problem, best, time.monotonic() + GATHER_SHARE * seconds, stop, judge)
            return Improved(best, best.cost(problem), bound, _reached(best.cost(problem), bound), 1)
    gathering = GATHER_SHARE if problem.weights.change else 0.0
    ordered = better_order(problem, best, began + (ORDERS_SHARE - gathering) * seconds, chance, stop, judge)
    if ordered is not best and not violations(problem, ordered):
        best, cost = ordered, judge(ordered)
        bench.take_in(best)
    neighbourhoods = _Neighbourhoods(bench, chance, seed, stop, judge, bound)
    best, more = neighbourhoods.improved(best, began + seconds * (1 - gathering))
    rounds = int(whole) + more
    best = _tidy(problem, best, began + seconds, stop, judge)
    cost = best.cost(problem)
    return Improved(best, cost, bound, _reached(cost, bound), rounds)


@dataclass(frozen=True)
class _Neighbourhoods:
    """Plans some operations anew around the others, again and again."""

    bench: ScheduleBuilder
    chance: random.Random
    seed: int
    stop: Callable[[], bool]
    judge: Callable[[Plan], float]
    bound: float

    def improved(self, best: Plan, until: float) -> tuple[Plan, int]:
        """The best plan, and how many neighbourhoods were tried.

        Args:
            best: laid in already. until: moment of the monotonic clock at which it stops.
        """
        problem, cost = self.bench.problem, self.judge(best)
        rounds, size = 0, 4
        while time.monotonic() < until and not self.stop():
            free = _neighbourhood(self.bench, self.chance, size)
            left = max(until - time.monotonic(), 0.1)
            found, proven, _ = solve(self.bench, free, min(ROUND_S, left), self.seed + rounds)
            rounds += 1
            if found is not None and self.judge(found) < cost - 1e-6 and not violations(problem, found):
                best, cost = found, self.judge(found)
            self.bench.take_in(best)
            size = min(size + 1, 10) if proven else max(size - 1, 2)
            if _reached(cost, self.bound):
                break
        return best, rounds


def _tidy(problem: Problem, best: Plan, until: float, stop: Callable[[], bool], judge: Callable[[Plan], float]) -> Plan:
    """The plan with less switching between instruments, where that counts."""
    if not problem.weights.change:
        return best
    tidy = reduce_switching(problem, best, until, stop, judge)
    return best if violations(problem, tidy) else tidy


def _reached(cost: float, bound: float) -> bool:
    """Whether a plan costs no more than what is proven, but for the rounding of large numbers."""
    return cost <= bound + 1e-6 + 1e-12 * cost


def _neighbourhood(bench: ScheduleBuilder, chance: random.Random, size: int) -> set[int]:
    """Operations to set free: a late job with what is done around it, a few jobs beside one another, or a stretch."""
    late = [n for n, mine in enumerate(bench.by_job) if mine and _late(bench, n)]
    if late and chance.random() < LATE_SHARE:
        job = chance.choice(late)
        mine = bench.by_job[job]
        last = max(o.end for o in mine)
        near_it = sorted(
            (o for o in bench.ops if o.job != job and o.start < last),
            key=lambda o: min(abs(o.start - m.start) for m in mine) * chance.uniform(0.5, 1.5),
        )
        return _whole(bench, (o.n for o in (*mine, *near_it)))
    if chance.random() < 0.5:
        finish = [(float(max(o.end for o in mine)), n) for n, mine in enumerate(bench.by_job) if mine]
        finish.sort()
        first = chance.randrange(len(finish))
        near = sorted(finish, key=lambda row: abs(row[0] - finish[first][0]) * chance.uniform(0.5, 1.5))
        chosen = [n for _, n in near[:size]]
        return _whole(bench, (o.n for n in chosen for o in bench.by_job[n]))
    middle = chance.choice(bench.ops).start
    near_ops = sorted(bench.ops, key=lambda o: abs(o.start - middle))
    return _whole(bench, (o.n for o in near_ops[: 6 * size]))


def _late(bench: ScheduleBuilder, job: int) -> bool:
    due = bench.jobs[job].due
    return due is not None and max(o.end + o.wait for o in bench.by_job[job]) > due * UNIT


def _whole(bench: ScheduleBuilder, numbers: Iterable[int]) -> set[int]:
    """The first of these operations that a neighbourhood has room for, without pinned ones."""
    return set(islice(numbers, FREE_OPERATIONS)) - _pinned(bench)


def _pinned(bench: ScheduleBuilder) -> set[int]:
    """What stays where it is."""
    return {n for n in bench.pinned if bench.ops[n].start >= 0}
