"""Hands go from one instrument to the next: what they touched last is known over all jobs."""

from __future__ import annotations

from datetime import timedelta

from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.cleaning import hand_washing
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand


def words(shop: Shop, hand: Hand, job: int, key: str) -> str:
    step = hand.view(job).step(key)
    assert step is not None
    return hand_washing.hands_words(shop, home(shop).jobs, step)


def test_dirty_work_on_another_instrument_asks_for_clean_hands(shop: Shop, hand: Hand, clock: HandClock) -> None:
    clean, other = hand.book("MH-0142"), hand.book("MH-0150")
    hand.until(clean, "hands")
    assert words(shop, hand, clean, "cloths_swap") == ""
    hand.until(other, "look")
    said = words(shop, hand, clean, "cloths_swap")
    assert said == "Wash them first, fresh gloves: MH-0150, touched last, is as it came in."
    assert words(shop, hand, other, "hands") == "", "the step that washes them does not ask for it"
    shop.person = "TH"
    assert words(shop, hand, clean, "cloths_swap") == "", "other hands were not on it"
    shop.person = "IW"
    hand_washing.washed(shop)
    assert words(shop, hand, clean, "cloths_swap") == ""
    clock.advance(minutes=5)
    hand.until(other, "body_swab")
    assert "MH-0150" in words(shop, hand, clean, "cloths_swap")
    hand.until(other, "hands")
    assert words(shop, hand, clean, "cloths_swap") == ""


def test_work_that_was_left_out_dirties_nothing(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "look")
    view = hand.view(job)
    looked = view.step("look")
    assert looked is not None and looked.work is not None
    assert hand_washing.dirty_from([view], "IW", None) == view.tag
    assert hand_washing.dirty_from([view], "IW", looked.work.at + timedelta(seconds=1)) == ""
    for step in view.steps:
        if step.work is not None:
            object.__setattr__(step.work, "state", "waived")
    assert hand_washing.dirty_from([view], "IW", None) == ""


def test_a_time_that_cannot_be_read_is_passed_by(shop: Shop) -> None:
    with shop.noting() as change:
        change.connection.exec_driver_sql("INSERT INTO hand_wash (person, at) VALUES ('IW', 'soon')")
    assert hand_washing.last_washed(shop, "IW") is None
    hand_washing.washed(shop)
    assert hand_washing.last_washed(shop, "IW") == shop.now
