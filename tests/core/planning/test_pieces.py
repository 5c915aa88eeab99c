"""Pieces of an instrument as something that a plan can run out of: one pair of hands, or one place, at a time."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from creekbed.core.planning.dispatch import dispatch_plan, repair_schedule
from creekbed.core.planning.lower_bounds import lower_bound
from creekbed.core.planning.model import Operation, Pin, Plan, PlanJob, Planned, PlanPerson, Problem, RunningWait
from creekbed.core.planning.optimiser import improve
from creekbed.core.planning.piece_conflicts import kept_from, rivals
from creekbed.core.planning.plan_checker import violations
from tests.core.planning.test_plan_search import benches

MOUTH, BODY = frozenset({"mouthpiece"}), frozenset({"body"})
OPEN = ((0.0, 600.0), (1440.0, 9000.0))
SWAB = Operation("swab", 2.0, parts=MOUTH)
DIP = Operation("dip", 1.0, wait_min=10.0, wait_max=20.0, place="tub", parts=MOUTH)
RINSE = Operation("rinse", 1.5, ("dip",), 30.0, None, "rack", "dip", parts=MOUTH)
WIPE = Operation("wipe", 4.0, parts=BODY)


def bench(*operations: Operation, people: int = 1, **more: Any) -> Problem:
    hands = tuple(PlanPerson(str(n), OPEN) for n in range(people))
    return Problem((PlanJob("A", operations, **more),), {"tub": 2, "rack": 8}, OPEN, people=hands)


def plan_of(problem: Problem, **starts: float) -> Plan:
    """A plan as it was written down."""
    operations = {o.key: o for o in problem.jobs[0].operations}
    steps = [Planned("A", k, at, at + operations[k].hands_min, "0") for k, at in starts.items()]
    return Plan(tuple(sorted(steps, key=lambda s: s.start)), {})


def test_a_swab_in_the_middle_of_a_contact_time_is_no_plan() -> None:
    problem = bench(SWAB, DIP, RINSE)
    wrong = violations(problem, plan_of(problem, dip=0.0, swab=4.0, rinse=12.0))
    assert wrong == ["A swab uses what lies somewhere since dip"]
    assert violations(problem, plan_of(problem, swab=0.0, dip=2.0, rinse=13.0)) == []


def test_nor_is_one_on_the_rack() -> None:
    problem = bench(DIP, RINSE, SWAB)
    assert violations(problem, plan_of(problem, dip=0.0, rinse=12.0, swab=20.0))
    assert violations(problem, plan_of(problem, dip=0.0, rinse=12.0, swab=43.5)) == []


def test_two_people_do_not_work_on_one_piece_at_once() -> None:
    problem = bench(replace(SWAB, parts=BODY), WIPE, people=2)
    steps = (Planned("A", "swab", 0.0, 2.0, "0"), Planned("A", "wipe", 1.0, 5.0, "1"))
    assert violations(problem, Plan(steps, {})) == ["A swab and wipe use one piece at once"]
    assert violations(problem, dispatch_plan(problem)) == []
    other = bench(SWAB, WIPE, people=2)
    assert dispatch_plan(other).forecasts["A"].finish == pytest.approx(4.0)


def test_what_is_done_to_what_lies_there_is_its_own_work() -> None:
    turn = Operation("turn", 1.0, ("air",), parts=BODY)
    air = Operation("air", 0.5, (), 30.0, 60.0, "rack", parts=BODY)
    fetch = Operation("fetch", 0.5, ("turn",), ends="air", parts=BODY)
    assert rivals((air, turn, fetch)) == [0, 0, 0]
    problem = bench(replace(air, wait_min=5.0), turn, fetch)
    assert violations(problem, plan_of(problem, air=0.0, turn=6.0, fetch=8.0)) == []


def test_what_lies_there_now_is_left_alone_until_it_is_taken_up() -> None:
    running = (RunningWait("dip", "tub", 6.0, 16.0, parts=MOUTH),)
    operations = (replace(RINSE, after=()), replace(SWAB, after=()))
    problem = bench(*operations, running=running)
    plan = dispatch_plan(problem)
    assert violations(problem, plan) == []
    assert violations(problem, plan_of(problem, swab=0.0, rinse=6.0)) == ["A swab uses what lies somewhere since dip"]
    assert kept_from(operations, running[0]) == [1]
    alone = bench(SWAB, running=(RunningWait("air", "rack", 25.0, parts=MOUTH),))
    assert dispatch_plan(alone).steps[0].start == pytest.approx(25.0, abs=0.2)
    assert violations(alone, dispatch_plan(alone)) == []


def test_a_pin_into_the_contact_time_is_put_behind_it() -> None:
    problem = replace(bench(SWAB, DIP, RINSE), pins=(Pin("A", "swab", "0", "fixed", 5.0),))
    plan = dispatch_plan(problem)
    assert violations(problem, plan) == []
    late = next(s.start for s in plan.steps if s.operation == "swab")
    assert late >= 5.0 - 0.2


def test_the_bound_knows_of_pieces() -> None:
    """Two people, one body: 10 minutes in all, and 30 on the rack, one after another."""
    one = replace(WIPE, hands_min=10.0, wait_min=30.0, place="rack")
    problem = bench(one, replace(one, key="again"), people=2)
    loose = bench(replace(one, parts=frozenset()), replace(one, key="again", parts=frozenset()), people=2)
    assert dispatch_plan(problem).forecasts["A"].finish == pytest.approx(80.0)
    assert dispatch_plan(loose).forecasts["A"].finish == pytest.approx(40.0)
    assert lower_bound(loose) < lower_bound(problem) <= dispatch_plan(problem).cost(problem)
    best = improve(problem, dispatch_plan(problem), 5.0)
    assert best.proven and best.plan.forecasts["A"].finish == pytest.approx(80.0)


@st.composite
def with_parts(draw: Any) -> Problem:
    """Benches whose work has pieces, some of it in no order but that no piece is in two places."""
    problem: Problem = draw(benches())
    chance = draw(st.randoms(use_true_random=False))
    jobs = []
    for job in problem.jobs:
        held = {(p.job, p.operation) for p in problem.pins}
        pieces = ("upper", "lower", "bell")
        operations = [
            replace(
                o,
                after=o.after if o.ends or (job.key, o.key) in held or chance.random() < 0.5 else (),
                parts=frozenset(chance.sample(pieces, chance.randint(0, 2))),
            )
            for o in job.operations
        ]
        running = tuple(replace(r, parts=frozenset(chance.sample(pieces, 1))) for r in job.running)
        jobs.append(replace(job, operations=tuple(operations), running=running))
    return replace(problem, jobs=tuple(jobs))


@settings(max_examples=150, deadline=None)
@given(with_parts())
def test_no_plan_has_a_piece_in_two_places(problem: Problem) -> None:
    plan = dispatch_plan(problem)
    if all(f.finish is not None for f in plan.forecasts.values()) and not plan.broken:
        assert violations(problem, plan) == []
        assert lower_bound(problem) <= plan.cost(problem) + 1e-6
        again = repair_schedule(problem, plan, passed=0.0)
        assert again.broken or violations(problem, replace(again, moved=again.moved)) == []


@settings(max_examples=12, deadline=None)
@given(with_parts())
def test_better_plans_have_none_either(problem: Problem) -> None:
    plan = dispatch_plan(problem)
    if all(f.finish is not None for f in plan.forecasts.values()) and not plan.broken:
        best = improve(problem, plan, 0.6)
        assert violations(problem, best.plan) == []
        assert lower_bound(problem) - 1e-6 <= best.cost <= plan.cost(problem) + 1e-6


def test_a_piece_is_free_when_the_hands_that_take_it_up_really_begin() -> None:
    """Hands of no whole number of tenths begin within their first tenth: until then the piece still lies there."""
    upper = frozenset({"upper"})
    soaks = PlanJob(
        "soaks",
        (
            Operation("in", 1.0, wait_min=10, wait_max=25, place="tub", parts=upper),
            Operation("out", 12.25, ("in",), ends="in"),
            Operation("in_too", 1.0, wait_min=10, wait_max=25, place="tub", parts=upper),
            Operation("out_too", 1.0, ("in_too",), ends="in_too"),
        ),
    )
    hours = ((0.0, 400.0),)
    problem = Problem((soaks,), {"tub": 2}, hours, people=(PlanPerson("A", hours), PlanPerson("B", hours)))
    assert violations(problem, dispatch_plan(problem)) == []
    assert violations(problem, improve(problem, dispatch_plan(problem), 0.5).plan) == []
