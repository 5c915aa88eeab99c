"""The plan that people see is one plan: for every window, for the shell, and for the next start."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

import pytest

from creekbed.core.planning.stability import alike
from creekbed.core.planning.thinking import think
from creekbed.store.tables import Setting
from creekbed.workshop import doing, locks, people
from creekbed.workshop.bench import home
from creekbed.workshop.clock import HandClock
from creekbed.workshop.seen import SETTING, STALE, leave, take_up
from creekbed.workshop.shop import Shop
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
    people.add_worker(shop, "AB")
    view = home(shop)
    last = next(v.job.id for v in view.jobs if v.tag == view.plan.of("IW")[-1].job)
    locks.lock(shop, last, "contents", "IW", shop.now)
    home(shop)
    locks.unlock(shop, last, "contents")
    home(shop)
    return shop


def kept(shop: Shop) -> dict[str, Any]:
    found: dict[str, Any] = shop.setting(SETTING)
    return found


def spoil(shop: Shop, value: Any) -> None:
    with shop.noting() as session:
        row = session.get(Setting, SETTING)
        assert row is not None
        row.value = {"v": value}


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
    doing.take_up(busy, following.view.job.id, following.step.step.key)
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
    before = second.planner.about()
    assert take_up(second) and not take_up(second)
    assert second.planner.about() != before  # what it thinks about now is another plan
    assert alike(home(busy).plan, home(second).plan, within=1.1)
    assert not leave(second) and kept(busy)["n"] == 1
    assert not take_up(busy)  # its own


def test_a_thought_about_the_plan_before_is_not_used(busy: Shop, other: Callable[[], Shop]) -> None:
    second = other()
    view = home(second)
    task = second.planner.task(view.named, None, 0.2)
    assert task is not None
    thought = think(task)
    home(busy)
    leave(busy)
    assert take_up(second) and not second.planner.take(thought)
    again = second.planner.task(home(second).named, None, 0.2)
    assert again is not None and second.planner.take(think(again))


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
