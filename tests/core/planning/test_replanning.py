"""Replanning: what people are set on stays, what moves says why, what several share is set up once."""

from __future__ import annotations

import itertools
import random
from dataclasses import replace

import pytest
from benchmarks.events import live
from benchmarks.planning import bench
from hypothesis import given, settings
from hypothesis import strategies as st

from creekbed.core.planning.dispatch import dispatch_plan, repair_schedule, unplaced
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
from creekbed.core.planning.optimiser import improve
from creekbed.core.planning.plan_checker import violations
from creekbed.core.planning.replanning import changes, keep, moved_cost, replan, with_preferred

DAY = ((0.0, 480.0), (1440.0, 9000.0))
TWO = (PlanPerson("A", DAY), PlanPerson("B", DAY))


def at(plan: Plan, job: str, operation: str) -> Planned:
    return next(s for s in plan.steps if (s.job, s.operation) == (job, operation))


@settings(max_examples=60)
@given(st.integers(0, 10**6))
def test_random_days_break_nothing(seed: int) -> None:
    wrong, happened, _ = live(seed)
    assert wrong == [] and happened["plans"] == 9


def test_the_same_bench_keeps_its_plan() -> None:
    problem = bench(20)
    shown = dispatch_plan(problem)
    again = repair_schedule(problem, shown)
    assert violations(problem, again) == [] and changes(problem, shown, again) == 0
    assert again.cost(problem) <= shown.cost(problem) + 1e-6


@pytest.mark.parametrize("seed", range(4))
def test_what_a_better_plan_found_is_not_lost(seed: int) -> None:
    problem = bench(12, seed)
    better = improve(problem, dispatch_plan(problem), 1.0).plan
    again = repair_schedule(problem, better, passed=0.0)
    assert violations(problem, again) == []
    assert {(s.job, s.operation, s.start, s.person) for s in again.steps} == {
        (s.job, s.operation, s.start, s.person) for s in better.steps
    }
    assert replan(problem, better).cost(problem) <= better.cost(problem) + 1e-6


def test_a_wait_that_is_ended_later_than_it_was_shown_to_be_keeps_its_place() -> None:
    """The plan hoped for a short stay in the tub; now its hands are away for a while: nobody else may be laid in."""
    a = PlanJob(
        "A", (Operation("wet", 2, wait_min=5, wait_max=60, place="tub"), Operation("rinse", 2, ("wet",), ends="wet"))
    )
    b = PlanJob(
        "B", (Operation("wet", 2, wait_min=5, wait_max=60, place="tub"), Operation("rinse", 2, ("wet",), ends="wet"))
    )
    problem = Problem((a, b), {"tub": 1}, DAY, people=(PlanPerson("A", DAY),))
    shown = dispatch_plan(problem)
    gap = replace(problem, people=(PlanPerson("A", ((0.0, 6.0), (30.0, 480.0))),))
    plan = repair_schedule(gap, shown, passed=0.0)
    assert violations(gap, plan) == [] and unplaced(plan) == 0


def test_next_stays_next_though_something_more_pressing_comes() -> None:
    calm = PlanJob("calm", (Operation("o", 10.0),), due=5000.0)
    problem = Problem((calm,), {}, DAY, people=(PlanPerson("A", DAY),))
    shown = replan(problem, None)
    walk_in = PlanJob("walk_in", (Operation("o", 5.0),), due=60.0)
    both = with_preferred(replace(problem, jobs=(calm, walk_in)), shown, 0.0)
    plan = replan(both, shown)
    assert at(plan, "calm", "o").start == 0.0 and plan.moved == ()
    hurry = with_preferred(replace(problem, jobs=(calm, replace(walk_in, due=6.0))), shown, 0.0)
    plan = replan(hurry, shown)
    assert at(plan, "walk_in", "o").start == 0.0
    assert [(m.job, m.why, m.by) for m in plan.moved] == [("calm", "departure", ("walk_in", "o"))]
    assert violations(hurry, plan) == []


def test_a_wait_that_must_be_ended_goes_before_and_says_so() -> None:
    long = PlanJob("long", (Operation("o", 30.0),))
    wet = PlanJob("wet", (Operation("rinse", 2.0, ends="dip"),), running=(RunningWait("dip", "tub", 1.0, 6.0),))
    problem = Problem((long, wet), {"tub": 1}, DAY, (Pin("long", "o", "A", "preferred"),), (PlanPerson("A", DAY),))
    plan = replan(problem, None)
    assert 1.0 <= at(plan, "wet", "rinse").start <= 6.0
    assert [(m.job, m.why, m.by) for m in plan.moved] == [("long", "must_end", ("wet", "rinse"))]
    short = replace(problem, jobs=(replace(long, operations=(Operation("o", 3.0),)), wet))
    plan = replan(short, None)
    assert at(plan, "long", "o").start == 0.0 and plan.moved == ()


def test_what_is_in_hand_stays_with_whoever_has_it() -> None:
    jobs = tuple(PlanJob(k, (Operation("o", 10.0), Operation("p", 5.0, ("o",)))) for k in "xyz")
    pins = (Pin("z", "o", "B", "in_hand"), Pin("x", "o", "A", "in_hand"))
    problem = Problem(jobs, {}, DAY, pins, TWO)
    for plan in (dispatch_plan(problem), improve(problem, dispatch_plan(problem), 1.0).plan):
        assert (at(plan, "z", "o").start, at(plan, "z", "o").person) == (0.0, "B")
        assert (at(plan, "x", "o").start, at(plan, "x", "o").person) == (0.0, "A")
        assert violations(problem, plan) == []


def test_next_waits_for_what_drags_on_without_a_word() -> None:
    jobs = (PlanJob("x", (Operation("o", 10.0),), due=60.0), PlanJob("y", (Operation("o", 10.0),), due=90.0))
    problem = Problem(jobs, {}, DAY, (Pin("x", "o", "A"),), (PlanPerson("A", DAY),))
    shown = replan(problem, None)
    assert at(shown, "y", "o").start == 10.0
    late = replace(
        problem, jobs=(replace(jobs[0], operations=(Operation("o", 6.0),), due=52.0), replace(jobs[1], due=82.0))
    )
    asked = with_preferred(late, shown, 8.0)
    assert [(p.job, p.kind, p.at) for p in asked.pins] == [("x", "in_hand", 0.0), ("y", "preferred", 6.0)]
    plan = replan(asked, shown, 8.0)
    assert at(plan, "y", "o").start == 6.0 and plan.moved == ()


def test_who_is_not_there_has_nothing_next() -> None:
    job = PlanJob("x", (Operation("o", 10.0),))
    problem = Problem((job,), {}, DAY, people=(PlanPerson("A", DAY),))
    shown = replan(problem, None)
    gone = replace(problem, people=(PlanPerson("A", ((60.0, 480.0),)),))
    assert with_preferred(gone, shown, 0.0).pins == () and len(with_preferred(problem, shown, 0.0).pins) == 1
    first = replace(problem, pins=(Pin("x", "o", "A", "fixed", 0.0),))
    assert len(with_preferred(first, shown, 0.0).pins) == 1


def test_what_is_set_to_a_time_begins_then() -> None:
    jobs = tuple(PlanJob(k, (Operation("o", 10.0),)) for k in "xyz")
    problem = Problem(jobs, {}, DAY, (Pin("y", "o", "A", "fixed", 60.0),), (PlanPerson("A", DAY),))
    plan = replan(problem, None)
    assert at(plan, "y", "o").start == 60.0
    assert sorted(at(plan, k, "o").start for k in "xz") == [0.0, 10.0]
    assert at(improve(problem, plan, 1.0).plan, "y", "o").start == 60.0


def test_new_work_of_a_job_comes_before_what_needs_it() -> None:
    jobs = tuple(PlanJob(k, (Operation("o", 10.0), Operation("pack", 5.0, ("o",)))) for k in "xyz")
    problem = Problem(jobs, {}, DAY, people=(PlanPerson("A", DAY),))
    shown = dispatch_plan(problem)
    found = replace(
        jobs[0], operations=(*jobs[0].operations[:1], Operation("mend", 8.0, ("o",)), Operation("pack", 5.0, ("mend",)))
    )  # fmt: skip
    more = replace(problem, jobs=(found, *jobs[1:]))
    plan = repair_schedule(more, shown)
    assert violations(more, plan) == [] and unplaced(plan) == 0
    order = [(s.job, s.operation) for s in plan.steps if s.operation != "mend"]
    assert order == [(s.job, s.operation) for s in shown.steps]


def test_a_plan_that_moves_much_must_be_better_by_as_much() -> None:
    jobs = tuple(PlanJob(k, (Operation("o", 10.0),)) for k in "xyz")
    problem = Problem(jobs, {}, DAY, people=(PlanPerson("A", DAY),))
    shown = Plan(tuple(Planned(k, "o", 10.0 * n, 10.0 * n + 10, "A") for n, k in enumerate("xyz")), {})
    turned = Plan(tuple(Planned(k, "o", 10.0 * n, 10.0 * n + 10, "A") for n, k in enumerate("zyx")), {})
    assert changes(problem, shown, turned) == 3 and changes(problem, shown, shown) == 0
    assert moved_cost(problem, shown, turned) == 3 * problem.weights.moved and moved_cost(problem, None, turned) == 0
    given = Plan(tuple(replace(s, person="B") for s in shown.steps), {})
    assert changes(problem, shown, given) == 3


# --- set up once ----------------------------------------------------------------------------------------------------


def mixed(count: int, keeps: float = 480.0) -> tuple[PlanJob, ...]:
    """Jobs that each need a mix: 6 min to make, nothing where one stands."""
    return tuple(
        PlanJob(f"j{n}", (Operation("mix", 6.0, shares="mix", again_min=0.0, keeps_min=keeps),
                      Operation("dip", 2.0, ("mix",)), Operation("dry", 3.0, ("dip",))))
        for n in range(count)
    )  # fmt: skip


def test_one_mix_does_for_all() -> None:
    problem = Problem(mixed(4), {}, DAY, people=(PlanPerson("A", DAY),))
    plan = dispatch_plan(problem)
    assert violations(problem, plan) == []
    lengths = sorted(s.end - s.start for s in plan.steps if s.operation == "mix")
    assert lengths == [0.0, 0.0, 0.0, 6.0]
    assert max(f.finish or 0 for f in plan.forecasts.values()) == pytest.approx(6 + 4 * 5)


def test_a_mix_that_has_gone_stale_is_made_again() -> None:
    problem = Problem(mixed(4, keeps=4.0), {}, DAY, people=(PlanPerson("A", DAY),))
    plan = dispatch_plan(problem)
    assert violations(problem, plan) == []
    stale = replace(plan, steps=tuple(
        replace(s, start=s.start + 50, end=s.end + 50) if s.job == "j3" else s for s in plan.steps
    ))  # fmt: skip
    if any(s.job == "j3" and s.operation == "mix" and s.end == s.start for s in plan.steps):
        assert any("another length" in v for v in violations(problem, stale))


def brute_force(problem: Problem) -> float:
    """The least cost for one pair of hands without waits: every order that the jobs allow, laid out by hand."""
    pieces = [(j, o) for j in problem.jobs for o in j.operations]
    best = float("inf")
    for order in set(itertools.permutations([j.key for j, _ in pieces])):
        at_, clock, made = {j.key: 0 for j in problem.jobs}, 0.0, -1e9
        finish = {}
        for key in order:
            job = next(j for j in problem.jobs if j.key == key)
            o = job.operations[at_[key]]
            at_[key] += 1
            stands = o.shares and made <= clock <= made + o.keeps_min
            clock += o.again_min if stands else o.hands_min
            if o.shares and not stands:
                made = clock
            finish[key] = clock
        late = sum(j.weight * max(0.0, finish[j.key] - j.due) for j in problem.jobs if j.due is not None)
        w = problem.weights
        best = min(best, w.late * late + w.finish * clock + w.completion * sum(finish.values()))
    return best


@pytest.mark.parametrize("seed", range(12))
def test_small_benches_with_shared_setting_up_equal_brute_force(seed: int) -> None:
    chance = random.Random(seed)
    keeps = chance.choice((5.0, 20.0, 480.0))
    jobs = tuple(
        replace(j, due=chance.choice((None, 12.0, 25.0)), weight=chance.choice((1.0, 2.0)), operations=tuple(
            replace(o, hands_min=float(chance.randint(1, 9)) if not o.shares else o.hands_min) for o in j.operations
        ))
        for j in mixed(3, keeps)
    )  # fmt: skip
    problem = Problem(jobs, {}, DAY, people=(PlanPerson("A", DAY),), weights=Weights())
    best = improve(problem, dispatch_plan(problem), 20.0)
    assert violations(problem, best.plan) == [] and best.cost == pytest.approx(brute_force(problem), abs=1e-3)


def test_setting_up_is_no_slower_the_second_time() -> None:
    with pytest.raises(ValueError, match="no slower"):
        Operation("mix", 3.0, shares="mix", again_min=4.0)


def test_what_slides_into_a_break_lets_others_go_before() -> None:
    """Nobody began for a moment: the long piece no more fits before the break, the short one behind it still does."""
    jobs = (
        PlanJob("a", (Operation("o", 30.0),)),
        PlanJob("long", (Operation("o", 30.0),), due=400.0),
        PlanJob("short", (Operation("o", 10.0),), due=105.0),
    )
    hours = ((0.0, 60.0), (90.0, 480.0))
    problem = Problem(jobs, {}, hours, people=(PlanPerson("A", hours),))
    starts = {"a": 0.0, "long": 30.0, "short": 90.0}
    steps = tuple(Planned(k, "o", s, s + (10.0 if k == "short" else 30.0), "A") for k, s in starts.items())
    shown = Plan(steps, {})
    assert violations(problem, shown) == []
    later = replace(
        problem, people=(PlanPerson("A", ((0.0, 59.5), (89.5, 479.5))),), windows=((0.0, 59.5), (89.5, 479.5)),
        jobs=(jobs[0], replace(jobs[1], due=399.5), replace(jobs[2], due=104.5)),
    )  # fmt: skip
    assert repair_schedule(later, shown, passed=0.5).weighted_tardiness(later) > 10
    plan = replan(later, shown, 0.5, same=True)
    assert plan.weighted_tardiness(later) == 0.0 and at(plan, "short", "o").end <= 59.5


def slid(problem: Problem, minutes: float) -> Problem:
    """The same bench a little later, when nobody has begun anything."""

    def windows(rows: tuple[tuple[float, float], ...]) -> tuple[tuple[float, float], ...]:
        return tuple((max(a - minutes, 0.0), b - minutes) for a, b in rows if b > minutes)

    jobs = tuple(replace(j, due=None if j.due is None else j.due - minutes) for j in problem.jobs)
    people = tuple(replace(p, windows=windows(p.windows)) for p in problem.people)
    return replace(problem, jobs=jobs, people=people, windows=windows(problem.windows))


def test_what_has_slipped_a_little_is_finished_in_the_break() -> None:
    hours = ((0.0, 30.0), (60.0, 480.0))
    job = PlanJob("x", (Operation("a", 20.0), Operation("b", 10.0, ("a",))), due=100.0)
    problem = Problem((job,), {}, hours, people=(PlanPerson("A", hours),), grace=2.0)
    shown = dispatch_plan(problem)
    assert at(shown, "x", "b").end == 30.0
    later = slid(problem, 1.5)
    kept = keep(later, shown, 1.5)
    assert kept is not None and at(kept, "x", "b").start == 20.0 and violations(later, kept) == []
    assert violations(replace(later, grace=0.0), kept) == ["x b is outside the hours"]
    assert at(dispatch_plan(later), "x", "b").start == 58.5  # nothing is planned so from the first
    too_late = slid(problem, 2.5)
    kept = keep(too_late, shown, 2.5)
    assert kept is not None and at(kept, "x", "b").start == 57.5
    begun_there = replace(kept, steps=tuple(replace(s, start=27.6, end=37.6) for s in kept.steps if s.operation == "b"))
    assert "x b is outside the hours" in violations(replace(too_late, grace=20.0), begun_there)


def test_what_lies_behind_something_late_moves_on_with_it() -> None:
    """A wait is ended in the midst of other work: that reservation moves too, or the work before it would not fit."""
    wet = PlanJob(
        "wet",
        (Operation("in", 2.0, wait_min=10.0, wait_max=40.0, place="tub"), Operation("out", 3.0, ("in",), ends="in")),
    )
    work = PlanJob("work", tuple(Operation(f"o{n}", 7.0, (f"o{n - 1}",) if n else ()) for n in range(5)))
    problem = Problem((wet, work), {"tub": 1}, DAY, people=(PlanPerson("A", DAY),))
    starts = {("wet", "in"): (0.0, 2.0), ("work", "o0"): (2.0, 9.0), ("work", "o1"): (9.0, 16.0),
              ("wet", "out"): (16.0, 19.0), ("work", "o2"): (19.0, 26.0), ("work", "o3"): (26.0, 33.0),
              ("work", "o4"): (33.0, 40.0)}  # fmt: skip
    shown = Plan(tuple(Planned(j, o, a, b, "A") for (j, o), (a, b) in starts.items()), {})
    assert violations(problem, shown) == []
    for passed in (0.03, 0.4, 5.0):
        kept = keep(slid(problem, passed), shown, passed)
        assert kept is not None
        assert [(s.job, s.operation, s.start) for s in kept.steps] == [(j, o, a) for (j, o), (a, _) in starts.items()]
    done = replace(
        problem,
        jobs=(replace(wet, operations=wet.operations[1:], running=(RunningWait("in", "tub", 8.0, 38.0),)), work),
    )
    kept = keep(done, shown, 2.0)
    assert kept is not None and at(kept, "wet", "out").start == 14.0  # all goes as planned: nothing moves


def test_a_running_wait_is_ended_when_it_was_shown_to_be() -> None:
    job = PlanJob("wet", (Operation("out", 3.0, ends="in"),), running=(RunningWait("in", "tub", 0.0, 60.0),))
    work = PlanJob("work", (Operation("o", 20.0),))
    problem = Problem((job, work), {"tub": 1}, DAY, people=(PlanPerson("A", DAY),))
    steps = (Planned("work", "o", 0.0, 20.0, "A"), Planned("wet", "out", 20.0, 23.0, "A"))
    kept = keep(problem, Plan(steps, {}))
    assert kept is not None and kept.steps == steps
    pressing = replace(problem, jobs=(replace(job, running=(RunningWait("in", "tub", 0.0, 12.0),)), work))
    kept = keep(pressing, Plan(steps, {}))
    assert kept is not None and at(kept, "wet", "out").start <= 12.0


@pytest.mark.parametrize("seed", [967, 7401, 9062])
def test_what_another_has_set_up_is_not_taken_in_the_break(seed: int) -> None:
    """It takes no time, so it was put into the minutes that only what has begun may run into."""
    assert live(seed)[0] == []
