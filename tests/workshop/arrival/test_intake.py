"""Booking in and the case."""

from __future__ import annotations

import math
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest

from creekbed.core.errors import BadInput, Refused
from creekbed.words.release import condition_words
from creekbed.workshop.arrival import intake
from creekbed.workshop.arrival.condition_marks import add_mark
from creekbed.workshop.arrival.scan import understand
from creekbed.workshop.bench import job_steps, waits
from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.release.release_check import release_check
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.departures import add_departure, coming_departures
from creekbed.workshop.shop.shop import Shop
from tests.conftest import MORNING, Hand


@pytest.mark.parametrize(("typed", "tag"), [("mh-0142", "MH-0142"), ("  MH-0142 ", "MH-0142"), ("A12", "A12")])
def test_tags_as_typed(typed: str, tag: str) -> None:
    assert intake.clean_tag(typed) == tag


@pytest.mark.parametrize(
    "text", ["", "  ", "MH-", "MH", "MH 0142", "MH-0142; DROP TABLE job", "40063813", "MH-0142-3-4-5", "é-12", "MH--12"]
)
def test_what_is_no_tag(text: str) -> None:
    with pytest.raises(BadInput) as caught:
        intake.clean_tag(text)
    assert "V-12" in caught.value.todo


def test_an_unknown_tag_is_made_on_the_spot(shop: Shop, hand: Hand) -> None:
    with pytest.raises(BadInput, match="new here"):
        intake.book_in(shop, "MH-0777")
    assert intake.find_instrument(shop, "MH-0777") is None
    job = hand.book("MH-0777", "violin", size="1/2")
    assert hand.view(job).instrument.size == "1/2"


@pytest.mark.parametrize(
    "more",
    [
        {"family": "kazoo"}, {"family": "violin", "size": "5/4"}, {"materials": {"mouthpiece": "chocolate"}},
        {"materials": {"scroll": "cork"}}, {"case_c": 300.0}, {"departure_id": 99}, {"weight": 0.0}, {"weight": -1.0},
        {"returned_at": MORNING + timedelta(days=2)},
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_whole(shop: Shop, more: dict[str, object]) -> None:
    with pytest.raises(BadInput):
        intake.book_in(shop, "MH-0777", **{"family": "alto_saxophone", **more})  # type: ignore[arg-type]
    assert intake.find_instrument(shop, "MH-0777") is None  # not half made either


def test_twice_is_refused_and_says_so(shop: Shop, hand: Hand) -> None:
    hand.book()
    with pytest.raises(Refused, match="booked in already"):
        hand.book()


def test_the_hire_comes_to_its_end(shop: Shop, hand: Hand, hired: Callable[..., None]) -> None:
    hired("MH-0142")
    view = hand.view(hand.book())
    assert view.hire is not None and view.hire.back_at == MORNING
    assert view.job.came_from == "R-041"


def test_back_before_it_went_out(shop: Shop, hired: Callable[..., None]) -> None:
    hired("MH-0142")
    with pytest.raises(BadInput, match="before it went out"):
        intake.book_in(shop, "MH-0142", returned_at=MORNING - timedelta(days=300))


def test_cold_case_must_stand_closed(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book(case_c=4.0)
    assert shop.last_done is not None and "gather water" in shop.last_done.notes[0]
    view = hand.view(job)
    assert view.step("contents").state == "waiting"  # type: ignore[union-attr]
    assert view.job.release_at is not None  # τ·ln(16/3): Newton cooling
    waited = (view.job.release_at - MORNING).total_seconds() / 60
    assert waited == pytest.approx(45 * math.log(16 / 3), abs=0.01)
    with pytest.raises(Refused, match="Not yet"):
        job_steps.take_up(shop, job, "contents")
    clock.advance(minutes=80)
    assert hand.view(job).step("contents").state == "ready"  # type: ignore[union-attr]


def test_the_shut_case_is_a_wait_like_any_other(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book(case_c=4.0)
    clock.advance(minutes=15)
    wait = home(shop).waits[0]
    assert (wait.tag, wait.place, wait.at_end) == ("MH-0142", "shelf", "Open the case")
    left = wait.contact.remaining
    shop.look_at_clock()
    clock.step(hours=-2)
    assert "true time" in shop.look_at_clock() or shop.look_at_clock() == ""
    assert home(shop).waits[0].contact.remaining == left  # moving the clock does not stretch it
    with pytest.raises(BadInput):
        waits.open_case_early(shop, wait.job_id, "")
    waits.open_case_early(shop, wait.job_id, "it feels like the room")
    assert home(shop).waits == () and hand.view(job).step("contents").state == "ready"  # type: ignore[union-attr]
    shop.undo()
    assert home(shop).waits[0].contact.remaining == left


def test_room_warm_case_waits_for_nothing(hand: Hand) -> None:
    assert hand.view(hand.book(case_c=21.0)).job.release_at is None


def test_contents_against_what_went_out(shop: Shop, hand: Hand, hired: Callable[..., None]) -> None:
    hired("MH-0142", contents=["neck", "mouthpiece", "end_plug"])
    job = hand.book()
    assert {i.key for i in intake.expected_items(hand.view(job))} == {"neck", "mouthpiece", "end_plug"}
    intake.tick_rest(shop, job)
    assert {k: v.state for k, v in hand.view(job).lines.items()} == dict.fromkeys(
        ["neck", "mouthpiece", "end_plug"], "present"
    )
    with pytest.raises(Refused, match="ticked already"):
        intake.tick_rest(shop, job)


def line(hand: Hand, job: int, key: str) -> tuple[bool, str]:
    found = next(x for x in release_check(hand.view(job)) if x.key == key)
    return found.holds, condition_words(found)


def test_a_missing_safety_part_blocks_until_replaced(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    intake.tick_item(shop, job, "end_plug", "missing")
    assert line(hand, job, "safety")[0] is False and "end plug" in line(hand, job, "safety")[1]
    intake.replace_item(shop, job, "end_plug")
    assert line(hand, job, "safety")[0]
    assert shop.last_done is not None and "order more" in shop.last_done.notes[0]  # 1 left of 2


def test_or_waived_with_a_reason(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    intake.tick_item(shop, job, "end_plug", "missing")
    with pytest.raises(BadInput, match="reason"):
        intake.waive_item(shop, job, "end_plug", "  ")
    intake.waive_item(shop, job, "end_plug", "the renter has one")
    assert line(hand, job, "safety")[0]
    assert hand.view(job).lines["end_plug"].reason == "the renter has one"


def test_a_missing_comfort_part_is_no_safety_matter(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    intake.tick_item(shop, job, "strap", "missing")
    assert line(hand, job, "safety")[0]
    intake.tick_rest(shop, job)
    assert not line(hand, job, "contents")[0]


def test_what_cannot_be_replaced(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    with pytest.raises(Refused, match="not missing or worn"):
        intake.replace_item(shop, job, "end_plug")
    intake.tick_item(shop, job, "neck", "missing")
    with pytest.raises(Refused, match="kept in stock"):
        intake.replace_item(shop, job, "neck")
    with pytest.raises(BadInput):
        intake.tick_item(shop, job, "anchor", "present")
    with pytest.raises(BadInput):
        intake.tick_item(shop, job, "neck", "lost")
    with pytest.raises(Refused):
        intake.waive_item(shop, job, "cap", "some reason")


def test_stock_at_nought(shop: Shop, hand: Hand) -> None:
    for n in range(3):
        job = hand.book(f"MH-080{n}")
        intake.tick_item(shop, job, "end_plug", "missing")
        if n < 2:
            intake.replace_item(shop, job, "end_plug")
    with pytest.raises(Refused, match="1 pieces are needed, 0 are left"):
        intake.replace_item(shop, job, "end_plug")
    assert hand.view(job).lines["end_plug"].state == "missing"


def test_marks(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    add_mark(shop, job, "bell", "dent", 9.0)
    for zone, kind, size in (
        ("roof", "dent", 1.0),
        ("bell", "smell", 1.0),
        ("bell", "dent", 0.0),
        ("bell", "dent", -2.0),
        ("bell", "dent", 9e9),
    ):
        with pytest.raises(BadInput):
            add_mark(shop, job, zone, kind, size)


def test_departures(shop: Shop, clock: HandClock) -> None:
    add_departure(shop, "Friday boat", clock.now() + timedelta(hours=2))
    for name, at in (
        ("", clock.now() + timedelta(hours=2)),
        ("late", clock.now()),
        ("far", clock.now() + timedelta(days=900)),
    ):
        with pytest.raises(BadInput):
            add_departure(shop, name, at)
    assert [b.name for b in coming_departures(shop)] == ["Friday boat"]
    clock.advance(hours=3)
    assert coming_departures(shop) == []


@pytest.mark.parametrize(
    ("code", "kind", "key"),
    [
        ("mh-0142", "job", "MH-0142"),
        ("MH-0999", "new", "MH-0999"),
        ("SU-REED-ALTO-2", "supply", "reed_alto_2"),
        ("su-soap_ml", "supply", "soap_ml"),
    ],
)
def test_what_a_scan_means(shop: Shop, hand: Hand, code: str, kind: str, key: str) -> None:
    hand.book()
    found = understand(shop, code)
    assert (found.kind, found.key) == (kind, key)


def test_a_scan_of_something_else(shop: Shop) -> None:
    for code in ("4006381333931", "SU-UNKNOWN", "", "https:"):
        with pytest.raises(BadInput, match="no code of this shop"):
            understand(shop, code)


def test_quarantine_stops_the_job(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    intake.set_quarantine(shop, job, "mould")
    assert shop.last_done is not None and "FFP2" in shop.last_done.notes[0]
    with pytest.raises(Refused, match="Quarantine: mould"):
        job_steps.take_up(shop, job, "contents")
    assert not line(hand, job, "free")[0]
    intake.set_quarantine(shop, job, "")
    job_steps.take_up(shop, job, "contents")


def test_a_piece_that_comes_back_alone_is_ticked_with_the_rest(shop: Shop, hand: Hand, hired: Any) -> None:
    hired("MH-0190")
    assert "mouthpiece" in {i.key for i in intake.pieces_out(shop, "MH-0190")}
    intake.part_alone(shop, "MH-0190", "mouthpiece")
    assert "mouthpiece" not in {i.key for i in intake.pieces_out(shop, "MH-0190")}
    with pytest.raises(BadInput, match="back already"):
        intake.part_alone(shop, "MH-0190", "mouthpiece")
    with pytest.raises(BadInput):
        intake.part_alone(shop, "MH-0190", "gong")
    job = hand.book("MH-0190")
    assert hand.view(job).lines["mouthpiece"].state == "present"
    assert intake.pieces_out(shop, "MH-0190") == []
    with pytest.raises(Refused, match="not out on hire"):
        intake.part_alone(shop, "MH-0190", "neck")


def test_a_piece_alone_can_be_taken_back(shop: Shop, hired: Any) -> None:
    hired("MH-0191")
    intake.part_alone(shop, "MH-0191", "strap")
    shop.undo()
    assert "strap" in {i.key for i in intake.pieces_out(shop, "MH-0191")}
