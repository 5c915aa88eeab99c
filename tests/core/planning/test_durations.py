"""Durations learned from records, and the chances that come of them, against the outside."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from scipy import stats

from creekbed.core.planning.chances import chances, live_through, work_of
from creekbed.core.planning.dispatch import dispatch_plan
from creekbed.core.planning.durations import SPREAD, Learned, Taken, WorkKind, learn, left_min
from creekbed.core.planning.model import (
    Forecast,
    Operation,
    Pin,
    Plan,
    PlanJob,
    Planned,
    PlanPerson,
    Problem,
    RunningWait,
)

ALWAYS = ((0.0, 1e6),)

BEARINGS = (
    17.88, 28.92, 33.00, 41.52, 42.12, 45.60, 48.40, 51.84, 51.96, 54.12, 55.56, 67.80, 68.64, 68.64, 68.88, 84.12,
    93.12, 98.64, 105.12, 105.84, 127.92, 128.04, 173.40,
)  # fmt: skip
"""Millions of turns of 23 ball bearings: Lieblein and Zelen, Journal of Research NBS 57 (1956), as often reprinted."""


def taken(minutes: float, n: int = 0, **more: str) -> Taken:
    named = {"operation": "swab", "family": "flutes", "person": "A", **more}
    return Taken(named["operation"], named["family"], named["person"], n, minutes, 10.0)


def test_many_records_of_one_thing_are_what_they_are() -> None:
    """Log-normal of the bearings: μ 4.150, σ 0.522 (Lieblein and Zelen's data, by maximum likelihood)."""
    mu, sigma = np.log(BEARINGS).mean(), np.log(BEARINGS).std()
    assert (mu, sigma) == (pytest.approx(4.150, abs=5e-4), pytest.approx(0.522, abs=5e-4))
    rows = [replace(taken(x, n), house_min=60.0) for n in range(100) for x in BEARINGS]
    found = learn(rows)
    assert math.log(found.median("swab", "flutes", 60.0, "A")) == pytest.approx(mu, abs=0.03)
    assert found.spread["rest"] == pytest.approx(sigma, abs=0.01)
    assert found.records == 2300


def test_nothing_recorded_is_the_house_default() -> None:
    found = learn([])
    assert found.median("swab", "flutes", 7.0) == 7.0 and found.records == 0
    # how wide they spread is not sure either: Student's t with 6 degrees of freedom has 6/4 of the variance
    assert found.deviation("swab", "flutes") == pytest.approx(math.sqrt(1.5 * sum(v**2 for v in SPREAD.values())))


@pytest.mark.parametrize("wider", [0.7, 1.4])
def test_how_wide_durations_spread_here_is_learned(wider: float) -> None:
    """All spreads 0.7 or 1.4 times the house's: after 200 records most of it is known, drawn and told apart."""
    rng = np.random.default_rng(5)
    effects = {
        (k, n): rng.normal(0, wider * SPREAD[k]) for k in ("operation", "family", "person", "day") for n in range(12)
    }
    rows = []
    for _ in range(200):
        operation, family, person, day = (int(x) for x in rng.integers(0, (12, 4, 2, 8)))
        log = effects["operation", operation] + effects["person", person] + effects["day", day]
        log += effects["family", (operation + family) % 12] + rng.normal(0, wider * SPREAD["rest"])
        rows.append(Taken(f"o{operation}", f"f{family}", f"p{person}", day, 10 * math.exp(log), 10.0))
    found = learn(rows)
    assert found.spread["rest"] == pytest.approx(wider * SPREAD["rest"], rel=0.15) and found.sure > 200
    ratio = found.deviation("new", "new", "new") / math.sqrt(sum(v**2 for v in SPREAD.values()))
    assert (ratio > 1.2) if wider > 1 else (ratio < 0.9)


def test_records_move_it_bit_by_bit() -> None:
    medians = [learn([taken(20.0, k) for k in range(n)]).median("swab", "flutes", 10.0) for n in (0, 1, 3, 10, 40)]
    assert medians[0] == 10.0 and all(a < b for a, b in itertools.pairwise(medians)) and medians[-1] < 20.0
    other = learn([taken(20.0, k) for k in range(40)])
    assert 10.0 < other.median("swab", "oboes", 10.0) < other.median("swab", "flutes", 10.0)
    assert 10.0 < other.median("oil", "flutes", 10.0, "A") < 12.5  # the person is slower, the thing is another
    assert other.deviation("swab", "flutes", "A") < other.deviation("oil", "oboes", "B")


def test_against_generalised_least_squares() -> None:
    """Best linear unbiased prediction by its definition G Zᵀ V⁻¹ y, with the spreads that were found."""
    chance = np.random.default_rng(4)
    rows = [
        Taken(f"o{chance.integers(4)}", f"f{chance.integers(3)}", f"p{chance.integers(2)}", int(n // 6),
              float(10 * np.exp(0.4 * chance.standard_normal())), 10.0)
        for n in range(60)
    ]  # fmt: skip
    found = learn(rows)
    names = list(found.index)
    z = np.zeros((60, len(names)))
    for n, r in enumerate(rows):
        parts = (r.operation, f"{r.family}/{r.operation}", r.person, str(r.day))
        for name in zip(("operation", "family", "person", "day"), parts, strict=True):
            z[n, found.index[name]] = 1.0
    last = found.spread  # they have settled: another round would hardly change them
    g = np.diag([last[k] ** 2 for k, _ in names])
    v = z @ g @ z.T + last["rest"] ** 2 * np.eye(60)
    blup = g @ z.T @ np.linalg.solve(v, np.log([r.minutes / 10 for r in rows]))
    assert np.abs(found.mean - blup).max() < 0.02


def test_a_forgotten_step_is_not_believed() -> None:
    rows = [taken(10.0, n) for n in range(10)]
    assert learn([*rows, taken(900.0), taken(0.1)]).mean == pytest.approx(learn(rows).mean)


def test_what_is_left_of_what_is_in_hand() -> None:
    """The median of a log-normal above what has passed, by SciPy's own truncation."""
    law = stats.lognorm(s=0.4, scale=10.0)
    for passed in (0.5, 5.0, 12.0, 30.0):
        wanted = law.isf(law.sf(passed) / 2) - passed
        assert left_min(10.0, 0.4, passed) == pytest.approx(wanted, rel=1e-9)
    assert left_min(10.0, 0.4, 0.0) == 10.0
    assert left_min(10.0, 0.4, 1e6) > 0


def test_draws_are_what_the_law_says_and_the_same_luck_stays() -> None:
    found = learn([taken(12.0, n) for n in range(30)])
    work = [WorkKind("a/1", "swab", "flutes", "A", 0, 10.0), WorkKind("b/1", "oil", "oboes", "B", 0, 10.0)]
    drawn = found.draw(work, 20_000)
    for n, w in enumerate(work):
        logs = np.log(drawn[:, n] / w.house_min)
        assert logs.std() == pytest.approx(found.deviation(w.operation, w.family, w.person), rel=0.03)
        median = found.median(w.operation, w.family, 10.0, w.person)
        assert np.median(drawn[:, n]) == pytest.approx(median, rel=0.03)
    alone = found.draw(work[1:], 20_000)
    assert np.array_equal(alone[:, 0], drawn[:, 1])


# --- living through a plan ------------------------------------------------------------------------------------------


def chain(count: int = 10, minutes: float = 15.0) -> tuple[Operation, ...]:
    return tuple(Operation(f"o{k}", minutes, (f"o{k - 1}",) if k else ()) for k in range(count))


def named(problem: Problem) -> dict[tuple[str, str], tuple[str, str, float]]:
    return {(j.key, o.key): (o.key, "flutes", o.hands_min) for j in problem.jobs for o in j.operations}


def test_ten_steps_within_the_sum_of_their_medians() -> None:
    """Ten log-normal steps, median 15 min, σ 0.4: in 29 of a hundred within 150 min (by simulation, SciPy)."""
    problem = Problem((PlanJob("A", chain(), due=150.0),), {}, ALWAYS)
    plan = dispatch_plan(problem)
    known = Learned(spread={"operation": 0.0, "family": 0.0, "person": 0.0, "day": 0.0, "rest": 0.4}, sure=1e9)
    found = chances(problem, plan, known, work_of(plan.steps, named(problem)), times=20_000)
    apart = stats.lognorm(s=0.4, scale=15.0).rvs(size=(20_000, 10), random_state=1).sum(axis=1)
    assert found.in_time["A"] == pytest.approx(float((apart <= 150).mean()), abs=0.01)
    assert found.in_time["A"] == pytest.approx(0.29, abs=0.01)
    assert found.finish["A"] == pytest.approx(tuple(np.quantile(apart, (0.1, 0.5, 0.9))), rel=0.01)


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10**6), st.booleans())
@example(348, False)  # what ends a wait comes after another wait too: the first is not begun too soon
def test_at_usual_lengths_a_life_is_the_plan(seed: int, two: bool) -> None:
    from benchmarks.planning import bench

    problem = bench(6, seed, 2 if two else 1)
    plan = dispatch_plan(problem)
    usual = np.array([[s.end - s.start for s in plan.steps]])
    finish, called = live_through(problem, plan, usual)
    for key, times in finish.items():
        wanted = plan.forecasts[key].finish
        assert wanted is not None and times[0] <= wanted + 1.0  # nothing begins later than planned
    assert all(v[0] <= 0.3 for v in called.values())


def test_hands_are_called_away_to_end_a_wait() -> None:
    wet = PlanJob("wet", (Operation("rinse", 2.0, ends="dip"),), running=(RunningWait("dip", "tub", 5.0, 12.0),))
    long = PlanJob("long", (Operation("o", 4.0),))
    problem = Problem((wet, long), {"tub": 1}, ALWAYS)
    plan = dispatch_plan(problem)
    first = [s.job for s in plan.steps].index("long")
    minutes = np.array([[2.0, 2.0], [2.0, 2.0]])
    minutes[1, first] = 30.0  # it drags on: the alarm rings meanwhile
    finish, called = live_through(problem, plan, minutes)
    assert finish["wet"] == pytest.approx([7.0, 14.0]) and called["wet", "dip"] == pytest.approx([0.0, 18.0])


def test_closing_time_is_kept_and_hours_are_those_of_the_person() -> None:
    day = ((0.0, 20.0), (100.0, 1000.0))
    problem = Problem((PlanJob("A", chain(2, 10.0), due=25.0),), {}, day, people=(PlanPerson("P", day),))
    plan = dispatch_plan(problem)
    finish, _ = live_through(problem, plan, np.array([[10.0, 10.0], [12.0, 10.0], [12.0, 3.0]]))
    assert finish["A"] == pytest.approx([20.0, 110.0, 103.0])


def test_somebody_else_takes_over_what_would_wait_till_tomorrow() -> None:
    """P goes at 20; where the first piece drags on, Q does the second, but not where Q cannot."""
    hours, always = ((0.0, 20.0), (1000.0, 2000.0)), ((0.0, 2000.0),)
    steps = (Planned("A", "o0", 0.0, 10.0, "P"), Planned("A", "o1", 10.0, 20.0, "P"))
    plan = Plan(steps, {"A": Forecast(20.0)})
    usual, slow = [10.0, 10.0], [15.0, 10.0]
    for skill, wanted in (("", [20.0, 25.0]), ("strings", [20.0, 1010.0])):
        job = PlanJob("A", tuple(replace(o, skill=skill) for o in chain(2, 10.0)))
        people = (PlanPerson("P", hours), PlanPerson("Q", always, frozenset({"winds"})))
        finish, _ = live_through(Problem((job,), {}, hours, people=people), plan, np.array([usual, slow]))
        assert finish["A"] == pytest.approx(wanted)


def test_what_is_in_hand_and_what_stands_ready() -> None:
    share = {"shares": "mix", "again_min": 0.0, "keeps_min": 400.0}
    jobs = (
        PlanJob("A", (Operation("mix", 6.0, **share),), due=5.0),
        PlanJob("B", (Operation("mix", 6.0, **share),), due=50.0),
    )  # type: ignore[arg-type]
    problem = Problem(jobs, {}, ALWAYS, (Pin("A", "mix"),))
    plan = dispatch_plan(problem)
    assert sorted(s.end - s.start for s in plan.steps) == [0.0, 6.0]
    known = Learned(spread=dict.fromkeys(SPREAD, 0.0))
    found = chances(problem, plan, known, work_of(plan.steps, named(problem)), times=50)
    assert found.in_time == {"A": 0.0, "B": 1.0} and found.finish["B"][0] == pytest.approx(6.0)


def test_work_knows_its_day() -> None:
    steps = [Planned("A", "o0", 10.0, 20.0, "P"), Planned("A", "o1", 700.0, 720.0, "P")]
    rows = work_of(steps, {("A", "o0"): ("swab", "f", 9.0), ("A", "o1"): ("oil", "f", 9.0)}, day_start=900.0)
    assert [(w.key, w.operation, w.day) for w in rows] == [("A/o0", "swab", 0), ("A/o1", "oil", 1)]


def test_chances_come_true_in_simulated_shops() -> None:
    """Thirty shops with paces of their own: what is given on average is what is made, and more is made of more.

    ``benchmarks.chances`` tries many more.
    """
    from benchmarks.chances import shop

    found = [r for seed in range(100, 130) for r in shop(seed)]
    given, made = np.mean([c for c, _ in found]), np.mean([m for _, m in found])
    assert len(found) > 200 and abs(given - made) < 0.08
    bands = [[m for c, m in found if low <= c < low + 0.25] for low in (0.0, 0.25, 0.5, 0.75)]
    shares = [float(np.mean(b)) for b in bands]
    assert shares == sorted(shares) and shares[0] < 0.25 and shares[-1] > 0.75
