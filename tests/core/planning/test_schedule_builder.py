"""The first plan, judged by a checker that shares no code with it."""

from __future__ import annotations

import itertools
from collections.abc import Iterable

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from creekbed.core.planning.dispatch import dispatch_plan
from creekbed.core.planning.model import Operation, Pin, Plan, PlanJob, PlanPerson, Problem, RunningWait
from creekbed.core.planning.plan_checker import violations
from creekbed.core.planning.schedule_builder import ScheduleBuilder
from creekbed.core.planning.timelines import UNIT, PersonTimeline

OPEN = tuple((d * 1440.0 + a, d * 1440.0 + b) for d in range(30) for a, b in ((0.0, 240.0), (270.0, 540.0)))
EPS = 1e-6


def chain(*rows: tuple[float, float, float | None, str | None]) -> tuple[Operation, ...]:
    """Operations one after another: (hands, shortest wait, longest wait, place); each ends the wait before it."""
    made: list[Operation] = []
    for n, (hands, least, most, place) in enumerate(rows):
        before = made[-1] if made else None
        ends = before.key if before is not None and before.wait_min else None
        made.append(Operation(f"o{n}", hands, (before.key,) if before else (), least, most, place, ends))
    return tuple(made)


def plan_of(
    *jobs: PlanJob, windows: tuple[tuple[float, float], ...] = OPEN, tub: int = 2, **more: object
) -> tuple[Problem, Plan]:
    problem = Problem(jobs, {"tub": tub, "rack": 8}, windows, **more)  # type: ignore[arg-type]
    plan = dispatch_plan(problem)
    assert violations(problem, plan) == []
    return problem, plan


SOAK = chain((5, 0, None, None), (1, 10, 20, "tub"), (2, 30, None, "rack"), (6, 0, None, None))


def test_a_chain_takes_its_hands_and_waits() -> None:
    _, plan = plan_of(PlanJob("A", SOAK))
    assert plan.forecasts["A"].finish == pytest.approx(5 + 1 + 10 + 2 + 30 + 6)


def test_waits_overlap_with_other_hands() -> None:
    _, plan = plan_of(PlanJob("A", SOAK), PlanJob("B", SOAK))
    assert max(f.finish or 0 for f in plan.forecasts.values()) < 2 * 54  # not one after the other


def test_the_pressing_boat_goes_first() -> None:
    short = chain((30, 0, None, None))
    _, plan = plan_of(PlanJob("later", short, due=500), PlanJob("sooner", short, due=45))
    assert plan.steps[0].job == "sooner"
    assert plan.forecasts["sooner"].late_by == 0


def test_weight_counts() -> None:
    short = chain((30, 0, None, None))
    _, plan = plan_of(PlanJob("light", short, due=10), PlanJob("heavy", short, due=10, weight=5))
    assert plan.steps[0].job == "heavy"


def test_hands_are_kept_for_the_wait_that_must_end() -> None:
    """A long step may not begin while a mouthpiece lies in an agent that it bears for a few minutes only."""
    soaking = PlanJob(
        "A", (Operation("rinse", 2, (), ends="dip"),), due=400, running=(RunningWait("dip", "tub", 1, 6),)
    )
    long = PlanJob("B", chain((60, 0, None, None)), due=60)
    _, plan = plan_of(soaking, long)
    rinse = next(s for s in plan.steps if s.operation == "rinse")
    assert 1 <= rinse.start <= 6
    assert not plan.broken


def test_no_soak_is_begun_that_the_closing_would_break() -> None:
    _, plan = plan_of(PlanJob("A", SOAK[1:3]), windows=((0.0, 8.0), (900.0, 1400.0)))
    assert plan.steps[0].start >= 900


def test_a_limit_already_lost_is_ended_first_and_said() -> None:
    late = PlanJob("A", (Operation("rinse", 2, (), ends="dip"),), running=(RunningWait("dip", "tub", -30, -5),))
    _, plan = plan_of(late, PlanJob("B", chain((3, 0, None, None)), due=10))
    assert plan.steps[0].operation == "rinse"
    assert plan.broken == (("A", "dip", pytest.approx(5)),)


def test_one_tub_makes_one_soak_after_the_other() -> None:
    _, plan = plan_of(*(PlanJob(k, SOAK) for k in "ABC"), tub=1)
    starts = sorted(s.end for s in plan.steps if s.operation == "o1")
    assert all(b - a >= 10 for a, b in itertools.pairwise(starts))


def test_blocked_jobs_are_not_planned_and_say_why() -> None:
    _, plan = plan_of(PlanJob("A", SOAK, blocked="At the luthier"), PlanJob("B", SOAK))
    assert plan.forecasts["A"].blocked == "At the luthier" and plan.forecasts["A"].finish is None


def test_release_holds_back() -> None:
    _, plan = plan_of(PlanJob("A", SOAK, release=75))
    assert plan.steps[0].start == pytest.approx(75)


def test_what_is_in_hand_stays_in_hand() -> None:
    problem = Problem(
        (PlanJob("A", SOAK, due=9999), PlanJob("B", SOAK, due=20)), {"tub": 2, "rack": 8}, OPEN, (Pin("A", "o0"),)
    )
    plan = dispatch_plan(problem)
    assert (plan.steps[0].job, plan.steps[0].operation, plan.steps[0].start) == ("A", "o0", 0)


def test_nothing_to_do() -> None:
    _, plan = plan_of()
    assert plan.steps == ()


def test_closed_bench_waits_for_the_morning() -> None:
    _, plan = plan_of(PlanJob("A", SOAK), windows=((600.0, 900.0), (2000.0, 2400.0)))
    assert plan.steps[0].start == pytest.approx(600)


def test_hours_of_a_person() -> None:
    line = PersonTimeline(PlanPerson("A", ((0.0, 100.0), (150.0, 300.0))))
    starts = [line.next(at * UNIT, length * UNIT) / UNIT for at, length in ((10, 20), (90, 20), (310, 5), (0, 500))]
    assert starts == [10, 150, 310, 300]  # beyond the last hours, time counts as open


def test_tails_follow_the_longest_way() -> None:
    job = PlanJob(
        "A",
        (
            Operation("a", 5),
            Operation("b", 1, ("a",), 30, None, "rack"),
            Operation("c", 9, ("a",)),
            Operation("d", 2, ("b", "c")),
        ),
    )
    laid = ScheduleBuilder(Problem((job,), {"rack": 1}, OPEN))
    assert {o.op.key: o.tail / UNIT for o in laid.ops} == {"a": 38, "b": 33, "c": 11, "d": 2}


def test_against_every_order_of_small_benches() -> None:
    """Total tardiness of one machine: p 121,79,147,83,130, d 260,266,266,336,337: 370 (Pinedo, Scheduling).

    The rule is a heuristic: it must be within a third of the best of all 120 orders.
    """
    rows = ((121, 260), (79, 266), (147, 266), (83, 336), (130, 337))

    def tardiness(order: Iterable[tuple[int, int]]) -> int:
        at = late = 0
        for hands, due in order:
            at += hands
            late += max(0, at - due)
        return late

    best = min(tardiness(o) for o in itertools.permutations(rows))
    assert best == 370
    problem, plan = plan_of(
        *(PlanJob(f"J{n}", chain((p, 0, None, None)), due=d) for n, (p, d) in enumerate(rows)), windows=((0.0, 9999.0),)
    )
    assert best <= plan.weighted_tardiness(problem) <= best * 4 / 3


@st.composite
def benches(draw: st.DrawFn) -> Problem:
    jobs = []
    for n in range(draw(st.integers(1, 7))):
        rows: list[Operation] = []
        for k in range(draw(st.integers(1, 6))):
            hands = draw(st.floats(0.5, 20))
            least = draw(st.sampled_from([0.0, 0.0, 8.0, 30.0]))
            limited = least == 8.0
            after = [o.key for o in rows if draw(st.booleans())]
            ends = None
            if rows and rows[-1].wait_max is not None:
                ends = rows[-1].key
                after = [*{*after, ends}]
            last = k == 5
            place = None if not least or last else "tub" if limited else "rack"
            rows.append(
                Operation(
                    f"o{k}",
                    hands,
                    tuple(after),
                    0.0 if last else least,
                    25.0 if limited and not last else None,
                    place,
                    ends,
                )
            )
        if rows[-1].wait_max is not None:
            rows.append(Operation("end", 1.0, (rows[-1].key,), ends=rows[-1].key))
        due = draw(st.none() | st.floats(-50, 3000))
        jobs.append(
            PlanJob(f"J{n}", tuple(rows), due, draw(st.floats(0.5, 5)), draw(st.sampled_from([0.0, 0.0, 40.0])))
        )
    shift = draw(st.floats(0, 400))
    windows = tuple((max(0.0, a - shift), b - shift) for a, b in OPEN if b - shift > 0)
    return Problem(tuple(jobs), {"tub": draw(st.integers(1, 2)), "rack": draw(st.integers(1, 8))}, windows)


@settings(max_examples=250)
@given(benches())
def test_every_plan_is_feasible(problem: Problem) -> None:
    plan = dispatch_plan(problem)
    assert violations(problem, plan) == []
    assert plan.broken == ()  # nothing runs yet, so no limit need ever be lost
    for job in problem.jobs:
        forecast = plan.forecasts[job.key]
        assert forecast.finish is not None
        shortest = max(
            (o.tail / UNIT for o in ScheduleBuilder(problem).ops if o.job == problem.jobs.index(job)), default=0.0
        )
        assert forecast.finish >= shortest - 0.1 * len(job.operations) - EPS
        if job.due is not None:
            assert forecast.late_by == pytest.approx(max(0.0, forecast.finish - job.due))


def test_one_wait_is_not_ended_at_the_cost_of_another() -> None:
    """Two waits with limits: ending the one that may still wait would lose the other. Hands stand still a moment."""
    windows = ((0.0, 240.0),)
    pressing = PlanJob(
        "A",
        (Operation("soak", 1.0, wait_min=8.0, wait_max=25.0, place="tub"),
         Operation("rinse", 1.0, after=("soak",), wait_min=30.0, place="rack", ends="soak")),
        due=None,
    )  # fmt: skip
    patient = PlanJob(
        "B",
        (Operation("soak", 1.0, wait_min=8.0, wait_max=25.0, place="tub"),
         Operation("rinse", 5.0, after=("soak",), ends="soak")),
        due=None,
    )  # fmt: skip
    airing = PlanJob("C", (Operation("air", 1.0, wait_min=30.0, place="rack"),), due=None)
    for order in ((pressing, patient, airing), (airing, patient, pressing), (patient, airing, pressing)):
        plan = dispatch_plan(Problem(order, {"tub": 2, "rack": 1}, windows))
        assert plan.broken == ()
