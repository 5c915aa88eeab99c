"""Cloths dry, wet and dirty; water that was weighed; what each slide takes; whose rule was followed."""

from __future__ import annotations

from datetime import timedelta

import pytest

from creekbed.core.errors import BadInput, Refused, StoreProblem
from creekbed.store.records import Departure, Job
from creekbed.workshop.bench import job_steps
from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.cleaning import cloths, shelf
from creekbed.workshop.inspection import air_way
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.conftest import Hand


def test_a_cloth_goes_from_the_shelf_to_the_basket_to_the_line(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.until(job, "cloths_swap")
    silk = shelf.counts(shop)["silk"]
    assert (silk.dry, silk.dirty, silk.hanging) == (shelf.AT_FIRST - 1, 1, 0)
    hand.until(job, "after_body")  # slim and body swab, fresh
    silk = shelf.counts(shop)["silk"]
    assert (silk.dry, silk.dirty) == (shelf.AT_FIRST - 3, 3)
    shelf.hang_up(shop, "silk")
    silk = shelf.counts(shop)["silk"]
    assert (silk.dirty, silk.hanging) == (0, 3) and silk.next_dry == shop.now + timedelta(hours=2)
    with pytest.raises(Refused, match="No silk lies in the basket"):
        shelf.hang_up(shop, "silk")
    clock.advance(minutes=119)
    assert shelf.counts(shop)["silk"].dry == shelf.AT_FIRST - 3
    clock.advance(minutes=2)
    assert shelf.counts(shop)["silk"].words() == f"{shelf.AT_FIRST} dry, 0 wet, 0 dirty"


def test_undo_puts_the_cloth_back(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "cloths_swap")
    shop.undo()
    assert shelf.counts(shop)["silk"] == shelf.Count()


def test_without_a_dry_cloth_the_wet_one_is_waited_for(shop: Shop, hand: Hand, clock: HandClock) -> None:
    shelf.count_again(shop, "silk", 0, 4)
    job = hand.book()
    view = hand.view(job)
    step = view.step("cloths_wash")
    assert step is not None and step.step.wait is not None and step.step.wait.min_minutes == 120
    assert step.step.wait.place == "line" and view.step("cloths_swap") is None
    assert home(shop).plan.forecasts["MH-0142"].finish is not None
    shelf.hang_up(shop, "silk")
    clock.advance(minutes=121)
    assert hand.view(job).step("cloths_swap") is not None and home(shop).job(job).step("cloths_swap") is not None  # type: ignore[union-attr]


def test_counting_again(shop: Shop) -> None:
    shelf.count_again(shop, "cotton", 3, 1)
    assert shelf.counts(shop)["cotton"].words() == "3 dry, 0 wet, 1 dirty"
    assert shelf.read_count("5 dry, 2 dirty") == (5, 2) and shelf.read_count(" 4 ") == (4, 0)
    for wrong in (("felt", 1, 1), ("silk", -1, 0), ("silk", 1, 999)):
        with pytest.raises(BadInput):
            shelf.count_again(shop, *wrong)
    for text in ("many", "", "-3 dry", "5 dry 2 wet"):
        with pytest.raises(BadInput):
            shelf.read_count(text)


def test_what_cannot_be_read_is_passed_by(shop: Shop) -> None:
    with shop.noting() as change:
        run = change.connection.exec_driver_sql
        run("INSERT INTO cloth_on_line (stuff, number, dry_at) VALUES ('silk', 2, 'soon')")
        run("INSERT INTO water_weighing (family, bound_g, found_g, at) VALUES ('clarinet', 1, 1, 'x')")
    assert shelf.counts(shop)["silk"] == shelf.Count()
    assert home(shop).jobs == ()


def test_weighing_teaches_the_next_wait(shop: Shop, hand: Hand) -> None:
    def wait(tag: str) -> float:
        step = hand.view(hand.book(tag)).step("after_air")
        assert step is not None and step.step.wait is not None
        return step.step.wait.min_minutes

    before = wait("MH-0142")
    for _ in range(6):
        shelf.weigh_water(shop, "alto_saxophone", 2.2, 4.4)  # spit on top: twice what breath can leave
    wetter = wait("MH-0150")
    for _ in range(30):
        shelf.weigh_water(shop, "alto_saxophone", 2.2, 0.4)
    drier = wait("MH-0163")
    assert drier < before < wetter
    assert shelf.weigh_played(shop, hand.view(hand.book("MH-0164")), "0.5 g").weighings == 37
    for family, bound, found in (("violin", 2.0, 1.0), ("clarinet", 0.0, 1.0), ("clarinet", 2.0, -1.0), ("gong", 1, 1)):
        with pytest.raises(BadInput):
            shelf.weigh_water(shop, family, bound, found)


def test_what_a_slide_took_is_offered_and_drawn(shop: Shop, hand: Hand) -> None:
    stock.book_in_stock(shop, "slide_liquid_ml", 20)
    job = hand.book("MH-0415", "trombone")
    hand.until(job, "bath_dry")
    hand.clock.advance(minutes=60)
    job_steps.finish_step(shop, job, "slide_two_part", took="0.4 ml")
    step = hand.view(job).step("slide_two_part")
    assert step is not None and step.work is not None and step.work.data["took_ml"] == pytest.approx(0.4)
    shop_took = hand.view(hand.book("MH-0416", "trombone")).step("slide_two_part")
    assert shop_took is not None and "note what this one takes" in shop_took.step.amount
    again = hand.view(job).step("slide_two_part")
    assert again is not None and "took 0.4 ml" in again.step.amount
    assert ("slide_liquid_ml", 0.4) in again.step.supplies
    for amount in (0.5, 0.3):
        with shop.act("step.done") as act:
            shelf.note_took(act, "MH-0415", "slide_liquid_ml", amount)
    step = hand.view(job).step("slide_two_part")
    assert step is not None and "took 0.3 ml, mostly 0.39: expect" in step.step.amount
    assert "(3 times on record)" in step.step.amount


def test_the_way_of_the_air_is_set_for_one_instrument(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0402", "trumpet")
    assert air_way.air_way(hand.view(job)) == (3, 2, 1)
    air_way.set_air_way(shop, hand.view(job), (1, 2, 3))
    assert air_way.air_way(hand.view(job)) == hand.view(job).situation.air_way == (1, 2, 3)
    other = hand.book("MH-0404", "trumpet")
    assert air_way.air_way(hand.view(other)) == (3, 2, 1)
    violin = hand.book("MH-0300", "violin")
    assert air_way.air_way(hand.view(violin)) == ()
    for view, way in ((hand.view(job), (1, 1, 2)), (hand.view(violin), (1, 2, 3))):
        with pytest.raises(BadInput):
            air_way.set_air_way(shop, view, way)


def test_one_dry_cloth_goes_to_the_first_boat(shop: Shop, hand: Hand) -> None:
    shelf.count_again(shop, "silk", 1, 3)
    later, sooner = hand.book("MH-0142"), hand.book("MH-0150")
    with shop.act("test") as act:
        late, soon = act.records.get(Job, later), act.records.get(Job, sooner)
        assert late is not None and soon is not None
        departures = [Departure(name=n, leaves_at=shop.now + timedelta(days=d)) for n, d in (("late", 5), ("soon", 2))]
        departures = [act.records.add(d) for d in departures]
        act.records.update(late, departure_id=departures[0].id)
        act.records.update(soon, departure_id=departures[1].id)
        act.words = "two boats"

    def swaps(job: int) -> bool:
        alone, known = hand.view(job), home(shop).job(job)
        assert known is not None and (known.step("cloths_swap") is None) == (alone.step("cloths_swap") is None)
        assert (alone.step("cloths_swap") is None) != (alone.step("cloths_wash") is None)
        return alone.step("cloths_swap") is not None

    assert swaps(sooner) and not swaps(later)
    hand.until(sooner, "cloths_swap")
    assert shelf.counts(shop)["silk"].dry == 0
    assert swaps(sooner) and not swaps(later), "what was done stays a step of its job"
    rows = cloths.wanted(shop, home(shop).jobs)
    assert [(v.tag, mine["silk"]) for v, mine in rows] == [("MH-0150", 2), ("MH-0142", 2)]
    found = cloths.how_far(shop, "silk", home(shop).jobs)
    assert (found.words(), found.urgent) == (
        "The open jobs want 4. The dry ones last until MH-0150 for the soon. Wash the 4 in the basket: "
        "they hang 2 h until they are dry.", True,
    )  # fmt: skip
    nothing = cloths.how_far(shop, "silk", ())
    assert (nothing.words(), nothing.urgent) == ("No open job wants one.", False)
    shelf.count_again(shop, "silk", 5, 0)
    enough = cloths.how_far(shop, "silk", home(shop).jobs)
    assert (enough.words(), enough.urgent, enough.short) == ("The open jobs want 5.", False, None)


def test_two_windows_lose_no_count(shop: Shop) -> None:
    """What is read, checked and stored is one action: a second window cannot store between."""
    other = Shop(shop.folder, shop.clock, person="TH", busy_ms=50)
    try:
        other.store.patience_s = 0.0
        with shop.act("test") as act:
            with pytest.raises(StoreProblem):
                shelf.count_again(other, "silk", 1, 1)
            act.words = "held"
        shelf.count_again(shop, "silk", 5, 2)
        shelf.hang_up(other, "silk")
        assert shelf.counts(shop)["silk"].words() == "5 dry, 2 wet, 0 dirty"
    finally:
        other.close()
