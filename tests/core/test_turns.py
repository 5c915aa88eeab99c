"""Long work in short turns: it may be left at any of them, and in turns it finds what it finds at once."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from benchmarks.planning import bench
from hypothesis import given, settings
from hypothesis import strategies as st

from creekbed.core.planning.dispatch import (
    dispatch_in_turns,
    dispatch_plan,
    repair_schedule,
    repair_schedule_in_turns,
    unplaced,
)
from creekbed.core.planning.explanations import answer_in_turns, hold_of, holds, instead, instead_in_turns
from creekbed.core.planning.model import Operation, Person, Plan, PlanJob, Planned, Problem
from creekbed.core.planning.plan_checker import violations
from creekbed.core.planning.remedies import first_of_all
from creekbed.core.planning.replanning import alike, changes, keep, replan, replan_in_turns
from creekbed.core.turns import Turns, whole

DAY = ((0.0, 480.0), (1440.0, 9000.0))


def in_turns(work: Turns[Any]) -> tuple[Any, int]:
    """What came of it, and in how many turns."""
    turns = 0
    while True:
        try:
            next(work)
        except StopIteration as done:
            return done.value, turns
        turns += 1


def test_whole_gives_what_is_returned_and_raises_what_is_raised() -> None:
    def work(bad: bool) -> Turns[int]:
        yield
        if bad:
            raise ValueError("no")
        return 7

    assert whole(work(False)) == 7
    with pytest.raises(ValueError, match="no"):
        whole(work(True))


@settings(max_examples=12, deadline=None)
@given(st.integers(2, 14), st.integers(0, 10**6))
def test_in_turns_as_at_once(jobs: int, seed: int) -> None:
    """Every planner finds in turns what it finds at once, in at least a turn for each operation."""
    problem = bench(jobs, seed)
    size = sum(len(j.operations) for j in problem.jobs)
    shown = dispatch_plan(problem)
    made, turns = in_turns(dispatch_in_turns(problem))
    assert made == shown and turns >= size / 2
    made, turns = in_turns(repair_schedule_in_turns(problem, shown, passed=3.0))
    assert made == repair_schedule(problem, shown, passed=3.0) and turns > 1
    made, _ = in_turns(replan_in_turns(problem, shown, 3.0))
    assert made == replan(problem, shown, 3.0)
    step = shown.steps[-1]
    made, _ = in_turns(instead_in_turns(problem, shown, step.job, step.operation, step.person))
    assert made == instead(problem, shown, step.job, step.operation, step.person)


def test_what_is_left_half_way_spoils_nothing() -> None:
    problem = bench(10)
    shown = dispatch_plan(problem)
    for leave_after in (1, 5, 40):
        work = replan_in_turns(problem, shown, 2.0)
        for _ in range(leave_after):
            next(work)
        work.close()
    assert replan(problem, shown, 2.0) == replan(problem, dispatch_plan(bench(10)), 2.0)


def test_an_answer_in_turns_is_never_worse_than_the_plan_there_is() -> None:
    problem = bench(12)
    shown = dispatch_plan(problem)
    other = first_of_all(shown.steps[-1].job)(problem)
    made = whole(answer_in_turns(other, shown))
    assert violations(other, made) == [] and made.cost(other) <= repair_schedule(other, shown).cost(other) + 1e-6


# --- the plan that is kept -----------------------------------------------------------------------------------------


@settings(max_examples=25, deadline=None)
@given(st.integers(3, 14), st.integers(0, 10**6), st.floats(0.0, 60.0))
def test_what_is_kept_may_be_followed_and_is_the_plan_that_was_shown(jobs: int, seed: int, passed: float) -> None:
    problem = bench(jobs, seed)
    shown = dispatch_plan(problem)
    done = {(s.job, s.operation) for s in shown.steps if s.end <= passed}
    left = tuple(
        replace(j, operations=tuple(o for o in j.operations if (j.key, o.key) not in done)) for j in problem.jobs
    )
    now = replace(problem, jobs=left, pins=())
    kept = keep(now, shown, passed)
    assert kept is not None and violations(now, kept) == []
    assert unplaced(kept) <= unplaced(shown) and len(kept.steps) == sum(len(j.operations) for j in left)
    if not passed:
        assert alike(shown, kept) and changes(now, shown, kept) == 0


def test_nothing_is_kept_where_most_is_new_or_something_fails() -> None:
    old = PlanJob("old", (Operation("o", 10.0),), due=500.0)
    problem = Problem((old,), {"tub": 1}, DAY, people=(Person("A", DAY),))
    shown = dispatch_plan(problem)
    one = PlanJob("one", (Operation("o", 10.0),))
    few = replace(problem, jobs=(old, one))
    kept = keep(few, shown)
    assert kept is not None and {s.job for s in kept.steps} == {"old", "one"}
    many = replace(problem, jobs=(old, one, PlanJob("two", (Operation("o", 10.0),))))
    assert keep(many, shown) is None
    wet = PlanJob(
        "wet",
        (Operation("in", 2, wait_min=10, wait_max=20, place="bath"), Operation("out", 2, ("in",), ends="in")),
    )
    shut = replace(problem, jobs=(old, replace(wet, operations=wet.operations[:1])), capacity={"bath": 0})
    assert unplaced(dispatch_plan(shut)) > 0 and keep(shut, shown) is None  # there is no bath: a plan must say so


def test_alike_is_the_same_hands_at_the_same_time() -> None:
    problem = bench(6)
    plan = dispatch_plan(problem)
    assert alike(plan, plan)
    later = tuple(replace(s, start=s.start + 0.1, end=s.end + 0.1) for s in plan.steps)
    assert alike(plan, replace(plan, steps=later))
    first, *others = plan.steps
    for other in (replace(first, start=first.start + 1.0), replace(first, person="somebody else")):
        assert not alike(plan, replace(plan, steps=(other, *others)))
    assert not alike(plan, Plan(tuple(others), plan.forecasts))
    ready = Planned("J", "mix", 3.0, 3.0, "A")  # set up by another
    assert alike(Plan((first, ready), {}), Plan((first, replace(ready, start=9.0, end=9.0)), {}))


def test_what_holds_one_operation_is_what_is_told_of_all() -> None:
    problem = bench(8)
    plan = dispatch_plan(problem)
    every = holds(problem, plan)
    for job, operation in list(every)[::7]:
        assert hold_of(problem, plan, job, operation) == every[job, operation]
    assert hold_of(problem, plan, "nobody", "o") is None
