"""The plan that people see is one plan: for every window, for the shell, and for the next start."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

import pytest

from creekbed.core.planning.model import Plan
from creekbed.core.planning.plan_request import answer_request
from creekbed.core.planning.replanning import alike
from creekbed.core.planning.requests import ReplanRequest
from creekbed.workshop.bench import job_steps
from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.planning.bench_planner import SharedPlan
from creekbed.workshop.planning.plan_sharing import STALE, leave, take_up
from creekbed.workshop.planning.planner_worker import PlannerWorker
from creekbed.workshop.shop import staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand


@pytest.fixture
def other(shop: Shop, clock: HandClock) -> Iterator[Callable[[], Shop]]:
    """Opens the same shop at another window."""
    opened: list[Shop] = []

    def window() -> Shop:
        opened.append(Shop(shop.folder, clock, person="IW", catalogue=shop.catalogue))
        return opened[-1]

    yield window
    for each in opened:
        each.close()


@pytest.fixture
def busy(shop: Shop, hand: Hand) -> Shop:
    """Eight instruments, two people, and a plan that nobody would have made by the rule."""
    for n in range(8):
        hand.book(f"MH-03{n}0", family=("violin", "alto_saxophone", "flute", "trumpet")[n % 4])
    staff.add_worker(shop, "AB")
    plan, swap = home(shop).plan, {"MH-0310": "MH-0350", "MH-0350": "MH-0310"}
    assert shop.planner.shown is plan
    shop.planner.shown = replace(plan, steps=tuple(replace(s, job=swap.get(s.job, s.job)) for s in plan.steps))
    assert not alike(plan, home(shop).plan)  # two alike instruments have changed their places
    return shop


def kept(shop: Shop) -> dict[str, Any]:
    with shop.reading() as records:
        row = records.planning.shown_plan()
    assert row is not None
    return {"n": row.number, "at": row.at.isoformat(), "steps": row.steps, "known": row.assessment}


def spoil(shop: Shop, value: Any) -> None:
    with shop.noting() as change:
        row = change.planning.shown_plan()
        assert row is not None
        put = "UPDATE shown_plan SET number = ?, at = ?, steps = ?, assessment = ?"
        at = str(value.get("at", "never")).removesuffix("+00:00").replace("T", " ")
        steps, known = (json.dumps(value.get(k)) for k in ("steps", "known"))
        change.connection.exec_driver_sql(put, (value.get("n", row.number), at, steps, known))


def test_another_window_begins_with_the_same_plan(busy: Shop, other: Callable[[], Shop], clock: HandClock) -> None:
    mine = home(busy)
    assert leave(busy)
    clock.advance(minutes=0.5)
    theirs = home(other())
    assert alike(mine.plan, replace(theirs.plan, steps=theirs.plan.steps), within=1.1)
    fresh = other()
    fresh.planner.version = 99  # as if nothing were on record
    assert not alike(mine.plan, home(fresh).plan, within=1.1)


def test_it_is_gone_on_from_the_next_morning(busy: Shop, other: Callable[[], Shop], clock: HandClock) -> None:
    mine = home(busy)
    assert leave(busy)
    clock.advance(hours=22)
    later = home(other())
    assert later.next is not None and mine.next is not None
    assert (later.next.view.tag, later.next.step.step.key) == (mine.next.view.tag, mine.next.step.step.key)
    clock.advance(hours=STALE.total_seconds() / 3600)
    assert not take_up(other())


def test_what_is_on_record_is_not_written_again(busy: Shop, hand: Hand, clock: HandClock) -> None:
    home(busy)
    assert leave(busy) and not leave(busy)
    clock.advance(minutes=0.5)
    home(busy)
    assert not leave(busy)
    following = home(busy).next
    assert following is not None
    job_steps.take_up(busy, following.view.job.id, following.step.step.key)
    home(busy)
    assert not leave(busy)  # it was to be taken up just now
    hand.book("MH-0990")
    home(busy)
    assert leave(busy) and kept(busy)["n"] == 2


def test_a_newer_plan_is_taken_up_and_the_quicker_window_wins(busy: Shop, other: Callable[[], Shop]) -> None:
    second = other()
    home(second)
    home(busy)
    assert leave(busy)
    assert not leave(second)  # the first was quicker
    assert take_up(second) and not take_up(second)
    assert alike(home(busy).plan, home(second).plan, within=1.1)
    assert not leave(second) and kept(busy)["n"] == 1
    assert not take_up(busy)  # its own


def test_a_plan_that_is_worse_is_not_taken_up(busy: Shop, other: Callable[[], Shop]) -> None:
    second = other()
    better = home(second).plan
    home(busy)
    leave(busy)
    steps = kept(busy)["steps"]
    turned = [[*s[:2], 900.0 - s[2], 910.0 - s[2], s[4]] for s in steps]  # the last first
    spoil(busy, {**kept(busy), "n": 5, "steps": turned})
    assert take_up(second)
    assert alike(home(second).plan, better) and second.planner.offered is None
    assert leave(second) and kept(second)["n"] == 6  # and the others hear of the better one
    assert take_up(busy) and alike(home(busy).plan, better)


def test_what_is_known_of_a_plan_goes_with_it(busy: Shop, other: Callable[[], Shop]) -> None:
    task = busy.planner.task(home(busy).named, None, 0.3)
    assert task is not None and busy.planner.take(answer_request(task), 3)
    mine = home(busy)
    assert leave(busy) and not leave(busy)
    second = other()
    theirs = home(second)
    assert second.planner.stretches == 3 and second.planner.gap() == busy.planner.gap() != ""
    told = [{a.tag: a.chance for x in view.shipments for a in x.items} for view in (mine, theirs)]
    assert told[0] == told[1] and any(c is not None for c in told[0].values())
    thinker = PlannerWorker(second, (0.1, 0.1, 0.1))
    thinker.look(theirs)
    assert not thinker.thinking  # it has been thought about enough
    thinker.close()


def test_a_thought_counts_where_it_is_better_than_the_plan_that_came_meanwhile(
    busy: Shop, other: Callable[[], Shop], monkeypatch: pytest.MonkeyPatch
) -> None:
    second = other()
    view = home(second)
    task = second.planner.task(view.named, None, 0.3)
    assert task is not None
    thought = answer_request(task)
    monkeypatch.setattr(ReplanRequest, "_offer_is_better", lambda request: True)
    worse = tuple(replace(s, start=900.0 - s.start, end=900.0 - s.start) for s in view.plan.steps)
    second.planner.offered = SharedPlan(8, Plan(worse, {}), second.now)
    came = home(second, keep_it=True)
    assert came.plan.cost(came.problem) > thought.plan.cost(task.problem)
    assert second.planner.take(thought)
    task = second.planner.task(home(second).named, None, 0.1)
    assert task is not None
    late = replace(answer_request(task), plan=came.plan)  # no better than what came
    second.planner.offered = SharedPlan(9, thought.plan, second.now)
    home(second)
    assert not second.planner.take(late)


@pytest.mark.parametrize(
    "value",
    [
        {"n": 7},
        {"n": 7, "at": "noon", "steps": [["MH-0300", "contents", 0.0, 1.0, "IW"]]},
        {"n": 7, "at": "2026-11-19T09:00:00+00:00", "steps": [["MH-0300", "contents", "soon", 1.0, "IW"]]},
        {"n": 7, "at": "2026-11-19T09:00:00+00:00", "steps": "all"},
        {"n": 7, "at": "2026-11-19T09:00:00+00:00", "steps": []},
        {"n": 7, "at": "2026-11-19T19:00:00+00:00", "steps": [["MH-0300", "contents", 0.0, 1.0, "IW"]]},
        {"n": "seven"},
    ],
)
def test_a_record_that_cannot_be_read_is_left_alone(busy: Shop, other: Callable[[], Shop], value: Any) -> None:
    home(busy)
    leave(busy)
    spoil(busy, value)
    fresh = other()
    assert home(fresh).plan.steps and fresh.planner.told is None
    assert not take_up(fresh)


def test_what_it_names_that_is_gone_is_passed_by(busy: Shop, other: Callable[[], Shop]) -> None:
    home(busy)
    leave(busy)
    steps = [["XX-1", "contents", 0.0, 3.0, "IW"], ["MH-0300", "no_such_step", 0.0, 3.0, "ZZ"], *kept(busy)["steps"]]
    spoil(busy, {**kept(busy), "n": 9, "steps": [[*s[:4], "ZZ"] for s in steps]})
    view = home(other())
    assert {s.person for s in view.plan.steps} <= {"IW", "AB"} and "XX-1" not in {s.job for s in view.plan.steps}


def test_an_empty_bench_has_nothing_to_leave(shop: Shop, other: Callable[[], Shop]) -> None:
    assert not leave(shop)
    home(shop)
    assert leave(shop) and not take_up(other())
    assert home(other()).plan.steps == ()
