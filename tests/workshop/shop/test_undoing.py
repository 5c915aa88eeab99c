"""Undo: one's own by person and window; what stands in the way is named, and what is older and apart is not blocked."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from creekbed.core.errors import Refused
from creekbed.store.records import ForecastRecord, Job
from creekbed.store.sqlite.damage import find
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps
from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.planning.forecast_calibration import keep
from creekbed.workshop.shop import staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.departures import add_departure
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.conftest import Hand


@pytest.fixture
def three(tmp_path: Path, clock: HandClock) -> Iterator[tuple[Shop, Shop, Shop]]:
    """Two windows of IW, and one of TO, on one shop."""
    shops = tuple(Shop(tmp_path / "shop", clock, person=who) for who in ("IW", "IW", "TO"))
    stock.book_in_stock(shops[0], "soap_ml", 100)
    yield shops  # type: ignore[misc]
    for shop in shops:
        shop.close()


def test_a_booking_whose_chance_was_noted_goes_with_it(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    view = home(shop)
    with shop.noting() as session:
        session.add(ForecastRecord(job_id=job, departure_id=view.shipments[0].departure.id, at=shop.now, chance=0.5))
    keep(shop, view)
    assert shop.undo().words.startswith("Undone: Booked in MH-0142")
    with shop.reading() as session:
        assert session.count(Job) == 0
        assert session.count(ForecastRecord) == 0
    assert find(shop.folder) == []
    shop.undo()  # and what is before it


def test_what_another_has_done_since_is_named_and_blocks_nothing_else(three: tuple[Shop, Shop, Shop]) -> None:
    one, _, other = three
    hand = Hand(one, one.clock)  # type: ignore[arg-type]
    older = hand.book("MH-0300", "violin")
    job = hand.book("MH-0142")
    staff.add_worker(one, "TO")
    intake.tick_rest(other, job)
    assert one.undo().words == "Undone: TO works at the bench as technician"
    with pytest.raises(Refused, match="since then TO has done this: “MH-0142: the other") as caught:
        one.undo()
    assert "Undo again takes back “Booked in MH-0300" in caught.value.todo
    assert one.undo().words == "Undone: Booked in MH-0300, violin"
    with one.reading() as session:
        assert session.get(Job, older) is None and session.get(Job, job) is not None
    other.undo()
    add_departure(one, "Friday boat", one.now.replace(hour=20))
    one.undo()
    assert one.undo().words.startswith("Undone: Booked in MH-0142")  # nothing stands in its way any more
    assert find(one.folder) == []


def test_two_windows_with_the_same_initials_undo_each_their_own(three: tuple[Shop, Shop, Shop]) -> None:
    one, second, _ = three
    assert one.seat != second.seat
    add_departure(one, "Boat of the first", one.now.replace(hour=20))
    add_departure(second, "Boat of the second", one.now.replace(hour=21))
    assert "the first" in one.undo().words and "the second" in second.undo().words
    add_departure(second, "Boat of the second", one.now.replace(hour=21))
    with pytest.raises(Refused, match="at another window"):
        one.undo(second.last_done.entry)  # type: ignore[union-attr]


def test_a_window_that_was_closed_and_opened_again_goes_on_with_its_own(tmp_path: Path, clock: HandClock) -> None:
    first = Shop(tmp_path / "shop", clock)
    add_departure(first, "Friday boat", first.now.replace(hour=20))
    first.close()
    again = Shop(tmp_path / "shop", clock)
    assert "Friday boat" in again.undo().words
    again.close()


def test_what_was_done_in_a_shell_is_no_windows_own(tmp_path: Path, clock: HandClock) -> None:
    shell = Shop(tmp_path / "shop", clock, kind="shell")
    add_departure(shell, "Friday boat", shell.now.replace(hour=20))
    window = Shop(tmp_path / "shop", clock)
    assert window.undoable() == []
    shell.close()
    window.close()


def test_nobody_pulls_a_step_from_under_another(three: tuple[Shop, Shop, Shop]) -> None:
    one, _, other = three
    clock = one.clock
    assert isinstance(clock, HandClock)
    hand = Hand(one, clock)
    job = hand.book("MH-0142")
    hand.do(job, "contents")
    clock.advance(minutes=5)
    theirs = Hand(other, clock)
    theirs.do(job, theirs.view(job).open_steps[0].step.key)
    with pytest.raises(Refused, match="since then TO has done this"):
        one.undo()
    assert hand.view(job).step("contents").work is not None  # type: ignore[union-attr]


def test_one_chosen_from_the_list(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    intake.tick_item(shop, job, "neck", "present")
    ticked = shop.last_done
    add_departure(shop, "Late boat", shop.now.replace(hour=22))
    assert ticked is not None and shop.undo(ticked.entry).words == "Undone: MH-0142: neck present"
    with pytest.raises(Refused, match="already"):
        shop.undo(ticked.entry)
    intake.tick_item(shop, job, "cap", "missing")
    first = shop.last_done
    intake.tick_item(shop, job, "cap", "present")
    assert first is not None
    with pytest.raises(Refused, match="After it you have done this"):
        shop.undo(first.entry)
    with pytest.raises(Refused, match="cannot be taken back"):
        shop.undo(10_000)


def test_a_boat_that_something_goes_with_stays(three: tuple[Shop, Shop, Shop]) -> None:
    one, _, other = three
    departure = add_departure(one, "Friday boat", one.now.replace(hour=20))
    intake.book_in(other, "MH-0142", family="violin", departure_id=departure)
    with pytest.raises(Refused, match="TO has done this: “Booked in MH-0142"):
        one.undo()
    job_steps.take_up(other, 1, "contents")
    assert find(one.folder) == []
