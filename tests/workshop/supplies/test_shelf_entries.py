"""What the shop says of its supplies: place, put aside, from when they are ordered, and what the fleet proposes."""

from __future__ import annotations

from datetime import timedelta

import pytest

from creekbed.core.errors import BadInput
from creekbed.store.records import Instrument, Job
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from creekbed.workshop.supplies.shelf_entries import (
    ENOUGH_JOBS,
    LEAD_DAYS,
    RETURNS_A_YEAR,
    proposed,
    put_aside,
    set_minimums,
    set_place,
)
from tests.conftest import MORNING, Hand


def view(shop: Shop, item: str) -> stock.StockView:
    return next(v for v in stock.stock_list(shop) if v.supply.key == item)


def fleet(shop: Shop, family: str, count: int) -> None:
    with shop.act("made") as act:
        for n in range(count):
            act.records.add(Instrument(tag=f"{family[:3].upper()}-{n:03d}", family=family, size="", created_at=MORNING))


def test_what_lies_aside_is_never_short(shop: Shop) -> None:
    stock.count_stock(shop, "pad_paper", 0.0, "drawer")
    assert view(shop, "pad_paper").short
    put_aside(shop, ["pad_paper", "bore_oil_ml"] if "bore_oil_ml" in shop.catalogue.supplies else ["pad_paper"])
    assert view(shop, "pad_paper").aside and not view(shop, "pad_paper").short
    shop.undo()
    assert view(shop, "pad_paper").short
    put_aside(shop, ["pad_paper"])
    put_aside(shop, ["pad_paper"], aside=False)
    assert view(shop, "pad_paper").short


def test_the_shops_own_minimum_holds_everywhere(shop: Shop, hand: Hand) -> None:
    stock.count_stock(shop, "pad_paper", 30.0, "drawer")
    set_minimums(shop, {"pad_paper": 29.0})
    assert view(shop, "pad_paper").minimum == 29 and not view(shop, "pad_paper").short
    job = hand.book()
    with shop.act("drawn") as act:
        stock.draw_supplies(shop, act, [("pad_paper", 1.0)], "blotting", job)
        assert any("order more" in note for note in act.notes)
    assert view(shop, "pad_paper").short
    set_minimums(shop, {"pad_paper": 0.0})  # never
    assert not view(shop, "pad_paper").short
    set_minimums(shop, {"pad_paper": None})
    assert view(shop, "pad_paper").minimum == view(shop, "pad_paper").supply.reorder_at


def test_places_are_the_shops_words(shop: Shop) -> None:
    set_place(shop, ["pad_paper", "soap_ml"], "  drawer 3 ")
    assert view(shop, "soap_ml").place == "drawer 3"
    set_place(shop, ["soap_ml"], "")
    assert view(shop, "soap_ml").place == "" and view(shop, "pad_paper").place == "drawer 3"
    for wrong in ([], ["kazoo"]):
        with pytest.raises(BadInput):
            set_place(shop, wrong, "drawer")
    with pytest.raises(BadInput):
        set_minimums(shop, {"pad_paper": -1.0})


def test_proposals_grow_with_the_fleet_and_are_one_action(shop: Shop) -> None:
    assert proposed(shop) == {}
    fleet(shop, "alto_saxophone", 3)
    few = proposed(shop)
    assert few and all(p.amount > 0 and not p.from_records for p in few.values())
    fleet(shop, "trumpet", 200)
    many = proposed(shop)
    assert set(few) < set(many) and "pad_paper" not in set(many) - set(few)
    shared = [k for k in few if many[k].a_year > few[k].a_year]
    assert shared and all(many[k].amount >= few[k].amount for k in shared)
    set_minimums(shop, {k: p.amount for k, p in many.items()})
    assert all(view(shop, k).minimum == p.amount for k, p in many.items())
    shop.undo()
    assert all(view(shop, k).minimum == view(shop, k).supply.reorder_at for k in many)


def test_what_a_year_takes_follows_from_a_plain_job(shop: Shop) -> None:
    """One instrument, two returns: twice what a plain job takes (arithmetic)."""
    from creekbed.core.procedure.build import build
    from creekbed.core.procedure.imagine import imagine

    fleet(shop, "violin", 1)
    catalogue = shop.catalogue
    taken: dict[str, float] = {}
    mixes = {r.product for r in catalogue.house.every_recipe}
    for step in build(catalogue, imagine(catalogue, catalogue.families["violin"])):
        for item, amount in step.supplies:
            taken[item] = taken.get(item, 0.0) + amount
    found = proposed(shop)
    for item, amount in taken.items():
        if item not in mixes and item not in {r.stock for r in catalogue.house.every_recipe}:
            assert found[item].a_year == pytest.approx(RETURNS_A_YEAR * amount)
            assert found[item].amount >= amount  # one job is always served
    assert not set(found) & mixes, "of a mix its bottle is ordered"


def test_after_half_a_year_the_records_tell_how_often_they_come_back(shop: Shop) -> None:
    fleet(shop, "violin", 10)

    def jobs(count: int, first_days: float) -> None:
        with shop.act("made") as act:
            for n in range(count):
                at = shop.now - timedelta(days=first_days * (1 - n / count))
                act.records.add(Job(tag=f"VIO-{n % 10:03d}", state="gone", opened_at=at))

    jobs(ENOUGH_JOBS, 30)  # a month of many returns is no year
    assert not next(iter(proposed(shop).values())).from_records
    jobs(60, 365)
    one = next(iter(proposed(shop).values()))
    assert one.from_records and one.returns == pytest.approx(8, rel=0.05)  # 80 jobs of 10 violins in a year
    assert f"an order takes {LEAD_DAYS:g} days" in one.words("pieces") and "last year" in one.words("pieces")
