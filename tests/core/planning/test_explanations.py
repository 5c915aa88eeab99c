"""Why a plan is as it is, what would help, and what cannot be together."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
from benchmarks.planning import bench

from creekbed.core.planning.chances import live_through
from creekbed.core.planning.conflict import ConflictPart, conflict
from creekbed.core.planning.dispatch import dispatch_plan, repair_schedule
from creekbed.core.planning.explanations import Hold, beside, hold_of, holds, instead, path, reason
from creekbed.core.planning.model import Operation, Pin, PlanJob, PlanPerson, Problem, RunningWait, Weights
from creekbed.core.planning.optimiser import improve
from creekbed.core.planning.permutation_search import schedule_in_order
from creekbed.core.planning.plan_checker import violations
from creekbed.core.planning.remedies import (
    RemedyOption,
    breaks_and_evenings,
    first_of_all,
    later_departure,
    left_out,
    longer_hours,
    more_room,
    remedies,
)
from creekbed.core.planning.schedule_builder import ScheduleBuilder

DAY = ((0.0, 240.0), (270.0, 480.0), (1440.0, 9000.0))
ONE = (PlanPerson("IW", DAY),)


def soak(key: str, latest: float, hands: float = 2.0) -> PlanJob:
    return PlanJob(key, (Operation("rinse", hands, ends="dip"),), running=(RunningWait("dip", "tub", -1.0, latest),))


# --- why -------------------------------------------------------------------------------------------------------------


def test_what_keeps_each_operation() -> None:
    a = PlanJob("A", (Operation("wet", 5, wait_min=30, place="tub"), Operation("rinse", 5, ("wet",), ends="wet")))
    b = PlanJob("B", (Operation("wet", 5, wait_min=30, place="tub"),))
    late = PlanJob("C", (Operation("long", 230.0),))
    cold = PlanJob("D", (Operation("o", 1.0),), release=100.0)
    problem = Problem((a, b, late, cold), {"tub": 1}, DAY, people=ONE)
    plan = dispatch_plan(problem)
    found = holds(problem, plan)
    kinds = {k: h.kind for k, h in found.items()}
    assert kinds["A", "rinse"] == "wait" and kinds["D", "o"] in ("release", "hands")
    assert kinds["C", "long"] in ("hours", "hands")
    first = next(iter(plan.steps))
    assert kinds[first.job, first.operation] == "now"
    full = replace(problem, jobs=(a, b))
    place = max(holds(full, dispatch_plan(full)).values(), key=lambda h: h.minutes if h.kind == "place" else 0.0)
    assert (place.kind, place.place) == ("place", "tub") and len(place.by) == 1 and place.minutes > 20


def test_the_path_to_a_finish_adds_up() -> None:
    problem = bench(25)
    plan = dispatch_plan(problem)
    for job in problem.jobs:
        found = path(problem, plan, job.key)
        finish = plan.forecasts[job.key].finish
        assert finish is not None and sum(found.spent.values()) == pytest.approx(finish, abs=1.5)
    with pytest.raises(KeyError):
        path(problem, plan, "nobody")


def test_reasons_of_the_first() -> None:
    def why(*jobs: PlanJob, pins: tuple[Pin, ...] = ()) -> str:
        problem = Problem(jobs, {"tub": 2, "rack": 4}, DAY, pins, ONE)
        plan = dispatch_plan(problem)
        return reason(problem, plan, plan.steps[0]).kind

    calm = PlanJob("calm", (Operation("o", 9.0),), due=3000.0)
    assert why(calm) == "only"
    assert why(calm, PlanJob("soon", (Operation("o", 9.0),), due=30.0)) == "least_slack"
    assert why(calm, PlanJob("lost", (Operation("o", 9.0),), due=1.0)) == "late"
    assert why(calm, soak("wet", 9.0)) == "must_end"
    assert why(calm, PlanJob("dry", (Operation("o", 1.0, wait_min=60.0, place="rack"),), 200.0)) == "starts_wait"
    assert why(calm, pins=(Pin("calm", "o", "IW"),)) == "in_hand"
    assert why(calm, pins=(Pin("calm", "o", "IW", "fixed"),)) == "fixed"
    short = PlanJob("short", (Operation("o", 2.0),))
    assert why(PlanJob("long", (Operation("o", 50.0),)), short) == "short_way"


def test_why_not_the_other() -> None:
    soon, calm = PlanJob("soon", (Operation("o", 10.0),), due=12.0), PlanJob("calm", (Operation("o", 10.0),), due=500.0)
    problem = Problem((soon, calm), {}, DAY, people=ONE)
    plan = dispatch_plan(problem)
    other = instead(problem, plan, "calm", "o", "IW")
    assert other.costs == pytest.approx(100 * 8.0) and other.late == pytest.approx(8.0)
    assert [(s.job, s.later, s.late_by) for s in other.shifts] == [("soon", 10.0, 8.0), ("calm", -10.0, 0.0)]
    same = instead(problem, plan, "soon", "o", "IW")
    assert same.costs == 0 and same.shifts == ()


def test_another_bench_beside_this_one() -> None:
    problem = bench(10)
    plan = dispatch_plan(problem)
    more = beside(problem, plan, replace(problem, people=(*problem.people, PlanPerson("C", problem.windows))))
    assert more.costs < 0


def test_what_is_set_to_a_time_is_tried_at_that_time() -> None:
    """The plan there is would do without what was set, and cost less; it is not what was asked."""
    problem = bench(10)
    plan = dispatch_plan(problem)
    early = next(s for s in plan.steps if s.end > s.start)
    locked = replace(problem, pins=(Pin(early.job, early.operation, early.person, "fixed", 100.0),))
    tried = beside(problem, plan, locked)
    moved = next(s for s in tried.plan.steps if (s.job, s.operation) == (early.job, early.operation))
    assert moved.start >= 100.0 and moved.person == early.person and violations(locked, tried.plan) == []
    other = next(p.key for p in problem.people if p.key != early.person and not p.skills)
    given = replace(problem, pins=(Pin(early.job, early.operation, other, "fixed", early.start),))
    there = next(
        s for s in beside(problem, plan, given).plan.steps if (s.job, s.operation) == (early.job, early.operation)
    )
    assert there.person == other
    as_planned = replace(problem, pins=(Pin(early.job, early.operation, early.person, "fixed", early.start),))
    assert beside(problem, plan, as_planned).costs <= 0


def chained(*pins: Pin, fillers: int = 4) -> Problem:
    """Two steps one after the other, and long work for the same hands."""
    one = PlanJob("one", (Operation("first", 5.0), Operation("then", 5.0, ("first",))), due=400.0)
    others = tuple(PlanJob(f"long{n}", (Operation("o", 25.0),), due=500.0) for n in range(fillers))
    day = ((0.0, 240.0), (270.0, 1e5))
    return Problem((one, *others), {}, day, pins, (PlanPerson("A", day), PlanPerson("B", day)))


@pytest.mark.parametrize("at", [20.0, 61.5, 130.0, 238.0])
def test_what_comes_after_something_open_is_set_to_a_time_too(at: float) -> None:
    """Hands are kept for it: nothing else reaches into its time, however it is laid out (arithmetic)."""
    free = dispatch_plan(chained())
    problem = chained(Pin("one", "then", "A", "fixed", at))
    begins = 270.0 if at > 235 else at  # it does not fit before the break
    for plan in (
        dispatch_plan(problem), repair_schedule(problem, free), repair_schedule(problem, free, passed=0.0),
        schedule_in_order(ScheduleBuilder(problem), [4, 3, 2, 1, 0]), beside(chained(), free, problem).plan,
        improve(problem, dispatch_plan(problem), 0.3).plan,
    ):  # fmt: skip
        step = next(s for s in plan.steps if s.operation == "then")
        assert step.start == pytest.approx(begins) and step.person == "A" and violations(problem, plan) == []


def test_steps_set_together_stay_together_if_the_first_is_a_little_late() -> None:
    """What comes before is over at 20.2, a moment after the time that all three were set to (arithmetic)."""
    keys = ("a", "b", "c")
    one = PlanJob(
        "one",
        (
            Operation("first", 5.2, wait_min=15.0, place="rack"),
            *(Operation(k, 5.0, (before,)) for before, k in itertools.pairwise(("first", *keys))),
        ),
        due=400.0,
    )
    others = tuple(PlanJob(f"long{n}", (Operation("o", 6.0),), due=500.0) for n in range(9))
    day = ((0.0, 1e5),)
    pins = tuple(Pin("one", k, "A", "fixed", 20.0) for k in keys)
    problem = Problem((one, *others), {"rack": 2}, day, pins, (PlanPerson("A", day),))
    free = dispatch_plan(replace(problem, pins=()))
    for plan in (dispatch_plan(problem), repair_schedule(problem, free), repair_schedule(problem, free, passed=0.0)):
        at = [next(s.start for s in plan.steps if s.operation == k) for k in keys]
        assert at == pytest.approx([20.2, 25.2, 30.2]) and violations(problem, plan) == []


def test_what_comes_before_it_is_done_by_then() -> None:
    """It is due last of all, and still is begun in time for what was set."""
    problem = chained(Pin("one", "then", "A", "fixed", 20.0), fillers=8)
    plan = dispatch_plan(problem)
    assert next(s for s in plan.steps if s.operation == "first").end <= 20.0


def test_no_hands_are_kept_for_what_cannot_begin_then() -> None:
    """It was set to a time that has passed: nobody stands idle till what comes before it is over."""
    long = PlanJob("one", (Operation("first", 40.0), Operation("then", 5.0, ("first",))), due=400.0)
    free = chained(fillers=1)
    free = replace(free, jobs=(long, *free.jobs[1:]))
    problem = replace(free, pins=(Pin("one", "then", "A", "fixed", 0.0),))
    for plan in (dispatch_plan(problem), repair_schedule(problem, dispatch_plan(free))):
        assert min(s.start for s in plan.steps if s.person == "A") == 0.0
        assert next(s for s in plan.steps if s.operation == "then").person == "A"


def test_the_checker_sees_what_begins_before_its_time_or_in_other_hands() -> None:
    free = dispatch_plan(chained())
    begin = next(s for s in free.steps if s.operation == "then")
    other = "B" if begin.person == "A" else "A"
    late = chained(Pin("one", "then", begin.person, "fixed", begin.start + 30.0))
    assert any("was set to" in v for v in violations(late, free))
    given = chained(Pin("one", "then", other, "fixed", begin.start))
    assert violations(given, free) == [f"one then was given to {other}, {begin.person} does it"]
    assert violations(chained(Pin("one", "then", "", "fixed", begin.start)), free) == []


def test_what_was_set_says_so_and_lives_through_it() -> None:
    problem = chained(Pin("one", "then", "A", "fixed", 100.0))
    plan = dispatch_plan(problem)
    assert hold_of(problem, plan, "one", "then") == Hold("set", 100.0)
    assert path(problem, plan, "one").spent["set"] == pytest.approx(95.0, abs=25.1)
    quick = np.full((1, len(plan.steps)), 0.1)
    finish, _ = live_through(problem, plan, quick)
    assert finish["one"][0] == pytest.approx(100.1)


def test_what_is_in_hand_has_begun_whatever_was_set() -> None:
    pins = (Pin("long0", "o", "A", "in_hand"), Pin("long0", "o", "A", "fixed", 60.0))
    for problem in (chained(*pins), chained(*pins[::-1])):
        plan = dispatch_plan(problem)
        assert next(s for s in plan.steps if s.job == "long0").start == 0.0 and violations(problem, plan) == []


def test_who_does_not_come_any_more_has_nothing_set() -> None:
    problem = chained(Pin("one", "then", "A", "fixed", 60.0))
    gone = replace(problem, people=(PlanPerson("A", ()), problem.people[1]))
    plan = dispatch_plan(gone)
    step = next(s for s in plan.steps if s.operation == "then")
    assert step.person == "B" and step.start == pytest.approx(60.0) and violations(gone, plan) == []


def test_a_wait_that_runs_is_ended_in_time_whatever_was_set() -> None:
    soaks = PlanJob("wet", (Operation("rinse", 2.0, ends="soak"),), running=(RunningWait("soak", "tub", 0.0, 30.0),))
    day = ((0.0, 1e4),)
    problem = Problem((soaks,), {"tub": 1}, day, (Pin("wet", "rinse", "A", "fixed", 200.0),), (PlanPerson("A", day),))
    plan = dispatch_plan(problem)
    assert plan.steps[0].start <= 30.0 and plan.broken == () and violations(problem, plan) == []


def test_hands_that_are_free_sooner_are_told() -> None:
    """Nothing keeps it: the plan leaves a gap."""
    problem = chained(fillers=0)
    plan = dispatch_plan(problem)
    later = replace(
        plan,
        steps=tuple(replace(s, start=s.start + 40, end=s.end + 40) if s.operation == "then" else s for s in plan.steps),
    )
    assert hold_of(problem, later, "one", "then") == Hold("free", pytest.approx(40.0))


def test_a_place_is_full_of_what_lies_there_already() -> None:
    """A running wait has the only tub for half an hour."""
    there = PlanJob("there", (), running=(RunningWait("soak", "tub", 30.0, None),))
    comes = PlanJob("comes", (Operation("lay", 2.0, (), 10.0, None, "tub"),))
    day = ((0.0, 1e4),)
    problem = Problem((there, comes), {"tub": 1}, day, people=(PlanPerson("A", day),))
    found = hold_of(problem, dispatch_plan(problem), "comes", "lay")
    assert found is not None and (found.kind, found.place, found.by) == ("place", "tub", ("there",))
    wide = replace(problem, capacity={"tub": 2})
    plan = dispatch_plan(problem).against(wide)
    held = hold_of(wide, plan, "comes", "lay")
    assert held is not None and held.kind == "free"


# --- what would help -------------------------------------------------------------------------------------------------


def test_the_cheapest_change_is_found() -> None:
    """Two hours of work each, due at the close of the afternoon: only an hour longer helps, and half would not."""
    jobs = (PlanJob("A", (Operation("o", 230.0),), due=541.0), PlanJob("B", (Operation("o", 230.0),), due=541.0))
    problem = Problem(jobs, {}, DAY, people=ONE)
    plan = dispatch_plan(problem)
    late = next(k for k, f in plan.forecasts.items() if f.late_by > 0)
    options = [*breaks_and_evenings(problem, 541.0), RemedyOption("first", late, 0.0, 1.0, first_of_all(late))]
    found = remedies(problem, plan, late, options)
    assert found and found[0].cost == min(r.cost for r in found)
    kinds = [[o.kind for o in r.options] for r in found]
    assert kinds[0] in (["break"], ["hours"])
    for remedy in found:
        other = problem
        for option in remedy.options:
            other = option.change(other)
        assert violations(other, remedy.beside.plan) == []
        assert remedy.beside.plan.forecasts[late].late_by == 0
    assert remedies(problem, plan, late, [], wanted=1) == []
    assert remedies(problem, plan, late, options, stop=lambda: True) == []


def test_what_changes_do() -> None:
    problem = Problem((PlanJob("A", (Operation("a", 1), Operation("b", 2, ("a",)), Operation("c", 3, ("b",))), 9.0),),
                      {"tub": 1}, DAY, people=ONE)  # fmt: skip
    assert longer_hours("IW", 0, 30.0)(problem).people[0].windows[0] == (0.0, 480.0)
    assert longer_hours("IW", 1, 60.0)(problem).people[0].windows[1] == (270.0, 540.0)
    assert longer_hours("XX", 1, 60.0)(problem) == problem
    assert more_room("tub")(problem).capacity == {"tub": 2}
    assert later_departure("A", None)(problem).jobs[0].due is None
    rest = left_out("A", "b")(problem).jobs[0].operations
    assert [(o.key, o.after) for o in rest] == [("a", ()), ("c", ("a",))]


# --- what cannot be together ----------------------------------------------------------------------------------------


def test_two_waits_for_one_pair_of_hands() -> None:
    problem = Problem((soak("A", 3, 4), soak("B", 3, 4), soak("C", 50)), {"tub": 3}, DAY, people=ONE)
    found = conflict(problem)
    assert found is not None and {(p.kind, p.what) for p in found.parts} == {("limit", "A"), ("limit", "B")}
    assert set(found.mends) == set(found.parts)
    assert conflict(replace(problem, people=(*ONE, PlanPerson("TO", DAY)))) is None


def test_closing_time_and_what_is_in_hand() -> None:
    long = PlanJob("L", (Operation("x", 30.0),))
    held = Problem((soak("A", 10), long), {"tub": 3}, DAY, (Pin("L", "x", "IW"),), ONE)
    assert conflict(held) is not None
    assert {(p.kind, p.what) for p in conflict(held).parts} == {("limit", "A"), ("in_hand", "IW")}  # type: ignore[union-attr]
    shut = Problem((soak("A", 10),), {"tub": 3}, ((60.0, 900.0),), people=(PlanPerson("IW", ((60.0, 900.0),)),))
    assert {p.kind for p in conflict(shut).parts} == {"limit", "hours"}  # type: ignore[union-attr]
    assert conflict(Problem((long,), {"tub": 3}, DAY, people=ONE)) is None


def test_a_place_that_the_next_bath_needs() -> None:
    """A's rinse must go on into a one-place sink bath at once, where B lies until later."""
    a = PlanJob(
        "A", (Operation("move", 2.0, wait_min=10.0, wait_max=20.0, place="bath", ends="dip"),
              Operation("lift", 2.0, ("move",), ends="move")), running=(RunningWait("dip", "tub", -1.0, 5.0),),
    )  # fmt: skip
    b = PlanJob("B", (Operation("lift", 2.0, ends="soak"),), running=(RunningWait("soak", "bath", 40.0, 60.0),))
    problem = Problem((a, b), {"tub": 1, "bath": 1}, DAY, people=ONE)
    found = conflict(problem)
    assert found is not None and ConflictPart("place", "bath") in found.parts
    assert ConflictPart("place", "bath") in found.mends


def test_more_hands_never_make_it_worse() -> None:
    """Graham's anomaly (SIAM Journal on Applied Mathematics 17, 1969): a fourth pair of hands makes a list's plan last
    longer, 15 instead of 12; the plan there is still holds then, so the answer is no worse."""
    lengths = {1: 3, 2: 2, 3: 2, 4: 2, 5: 4, 6: 4, 7: 4, 8: 4, 9: 9}
    after = {9: (1,), 5: (4,), 6: (4,), 7: (4,), 8: (4,)}
    job = PlanJob("T", tuple(
        Operation(f"t{k}", float(h), tuple(f"t{b}" for b in after.get(k, ()))) for k, h in lengths.items()
    ))  # fmt: skip
    problem = Problem((job,), {}, DAY, people=tuple(PlanPerson(p, DAY) for p in "ABC"), weights=Weights(0.0, 1.0, 0.0))
    plan = dispatch_plan(problem)
    more = beside(problem, plan, replace(problem, people=(*problem.people, PlanPerson("D", DAY))))
    assert more.costs <= 0
