"""Work in turns, what is asked of the planner, and the plan that is kept."""

from __future__ import annotations

import threading
from concurrent.futures import Future
from dataclasses import replace
from multiprocessing.reduction import ForkingPickler
from typing import Any

import pytest
from benchmarks.planning import bench
from hypothesis import given, settings
from hypothesis import strategies as st

from creekbed.core.planning.dispatch import dispatch_plan, repair_schedule, unplaced
from creekbed.core.planning.explanations import answer_beside, hold_of, holds, instead
from creekbed.core.planning.model import Operation, Pin, Plan, PlanJob, Planned, PlanPerson, Problem
from creekbed.core.planning.plan_checker import violations
from creekbed.core.planning.remedies import RemedyOption, first_of_all
from creekbed.core.planning.replanning import alike, changes, keep, replan
from creekbed.core.planning.requests import (
    CompareRequest,
    LateRequest,
    RemediesRequest,
    ReplanRequest,
    WhyRequest,
    fingerprint,
    put_aside,
)
from creekbed.core.turns import Turns, whole

DAY = ((0.0, 480.0), (1440.0, 9000.0))


def test_whole_gives_what_is_returned_and_raises_what_is_raised() -> None:
    def work(bad: bool) -> Turns[int]:
        yield None
        if bad:
            raise ValueError("no")
        return 7

    assert whole(work(False)) == 7
    with pytest.raises(ValueError, match="no"):
        whole(work(True))


def test_whole_waits_for_an_answer_from_elsewhere() -> None:
    future: Future[int] = Future()

    def work() -> Turns[int]:
        threading.Thread(target=future.set_result, args=(41,)).start()
        while not future.done():
            yield future
        return future.result() + 1

    assert whole(work()) == 42


# --- what is asked of the planner ------------------------------------------------------------------------------------


def travelled(value: Any) -> Any:
    """As it arrives in another process."""
    return ForkingPickler.loads(ForkingPickler.dumps(value))


def requests(problem: Problem, plan: Plan) -> list[Any]:
    """One request of each kind."""
    step = plan.steps[-1]
    taken_first = RemedyOption("first", step.job, 0.0, 1.0, first_of_all(step.job))
    return [
        ReplanRequest(1, problem, plan, 3.0),
        ReplanRequest(1, problem, plan, 3.0, keep_it=True),
        WhyRequest(1, problem, plan, step.job, step.operation, step.person),
        WhyRequest(1, problem, plan, step.job, step.operation, step.person, held=True),
        CompareRequest(1, problem, plan, first_of_all(step.job)(problem)),
        LateRequest(1, problem, plan, step.job),
        RemediesRequest(1, problem, plan, step.job, [taken_first], 30.0),
    ]


@settings(max_examples=8, deadline=None)
@given(st.integers(2, 9), st.integers(0, 10**6))
def test_a_request_that_has_travelled_is_answered_the_same(jobs: int, seed: int) -> None:
    """Requests and answers go to another process and back: nothing in them may be lost or depend on this one."""
    problem = bench(jobs, seed)
    plan = dispatch_plan(problem)
    for here in requests(problem, plan):
        there = travelled(here)
        answer, other = here.answer(), there.answer()
        if isinstance(here, RemediesRequest):  # the options hold functions: what they do is compared
            assert [(r.cost, r.beside) for r in answer] == [(r.cost, r.beside) for r in other]
        else:
            assert answer == other == travelled(answer)


def test_the_answers_are_those_of_the_planner() -> None:
    problem = bench(9)
    plan = dispatch_plan(problem)
    step = plan.steps[-1]
    again, kept, why, held, beside, (way, alone), _ = (r.answer() for r in requests(problem, plan))
    assert again.plan == replan(replace(problem, pins=again.pins), plan, 3.0, same=False) and not again.hasty
    assert kept.plan == keep(replace(problem, pins=kept.pins), plan, 3.0) and kept.hasty
    assert why == (
        hold_of(problem, plan, step.job, step.operation),
        instead(problem, plan, step.job, step.operation, step.person),
    )
    assert held == (why[0], None)
    assert violations(first_of_all(step.job)(problem), beside.plan) == []
    finish = plan.forecasts[step.job].finish
    assert alone.finish is not None and finish is not None and alone.finish <= finish
    assert sum(way.spent.values()) == pytest.approx(finish, abs=1.5)  # the minutes of its time, each rounded up


def test_the_better_of_two_plans_goes_on_the_offered_one_where_they_are_alike() -> None:
    """Two windows that both kept to their own would never agree."""
    problem = bench(8)
    mine = dispatch_plan(problem)
    same = ReplanRequest(1, problem, mine, 0.0, offered=mine).answer()
    assert same.took_offer
    empty = ReplanRequest(1, problem, None, 0.0, offered=mine).answer()
    assert empty.took_offer and alike(empty.plan, mine)
    late = replace(mine, steps=tuple(replace(s, start=s.start + 3000, end=s.end + 3000) for s in mine.steps))
    assert not ReplanRequest(1, problem, mine, 0.0, offered=late).answer().took_offer


def test_a_bench_is_the_same_while_only_minutes_pass() -> None:
    problem = bench(5)
    first, *others = problem.jobs
    later = replace(problem, jobs=tuple(replace(j, due=None if j.due is None else j.due - 7) for j in problem.jobs))
    assert fingerprint(problem) == fingerprint(later)
    assert fingerprint(problem) != fingerprint(replace(problem, jobs=tuple(others)))
    assert fingerprint(problem) != fingerprint(replace(problem, jobs=(replace(first, blocked=True), *others)))
    operation = first.operations[0].key
    held = replace(problem, pins=(Pin(first.key, operation, "IW"),))
    assert put_aside(held, problem) == {(first.key, operation)} and put_aside(None, problem) == frozenset()


def test_an_answer_is_never_worse_than_the_plan_there_is() -> None:
    problem = bench(12)
    shown = dispatch_plan(problem)
    other = first_of_all(shown.steps[-1].job)(problem)
    made = answer_beside(other, shown)
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
    problem = Problem((old,), {"tub": 1}, DAY, people=(PlanPerson("A", DAY),))
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
