"""Drying by weight at the bench: weighings on record, the wait ended by them, and not before."""

from __future__ import annotations

import math

import pytest

from creekbed.core.errors import BadInput, Refused
from creekbed.store.records import Wait
from creekbed.workshop.cleaning import drying
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand


@pytest.fixture
def airing(shop: Shop, hand: Hand) -> int:
    job = hand.book()
    hand.until(job, "body_air")
    with shop.reading() as session:
        return session.all_of(Wait, key="body_air", ended_at=None)[0].id


def weigh(
    shop: Shop, hand: Hand, wait: int, minutes: float, water_g: float, tau: float, times: int
) -> drying.DryingView:
    found = None
    for n in range(times):
        grams = 2450.0 + water_g * math.exp(-n * minutes / tau)
        found = drying.add_weighing(shop, wait, round(grams, 1))
        hand.clock.advance(minutes=minutes)
    assert found is not None
    return found


def test_weighed_dry_ends_the_wait(shop: Shop, hand: Hand, airing: int) -> None:
    view = weigh(shop, hand, airing, 2.0, 8.0, 4.0, 3)
    assert view.fit is None and view.words() == "1 more weighings, some minutes apart."
    with pytest.raises(Refused, match="do not say yet"):
        drying.end_dry(shop, airing)
    view = weigh(shop, hand, airing, 2.0, 8.0 * math.exp(-6 / 4), 4.0, 14)
    assert view.fit is not None and view.fit.is_dry and "Dry enough to case" in view.words()
    drying.end_dry(shop, airing)
    with shop.reading() as session:
        wait = session.get(Wait, airing)
        assert wait is not None and wait.ended_at is not None and wait.ended_why.startswith("weighed dry")
        assert len(wait.weighings) == 17
    with pytest.raises(Refused, match="over"):
        drying.add_weighing(shop, airing, 2450)


def test_still_wet_says_when(shop: Shop, hand: Hand, airing: int) -> None:
    view = weigh(shop, hand, airing, 3.0, 20.0, 60.0, 6)
    assert view.fit is not None and not view.fit.is_dry and "Dry in" in view.words()
    shop.undo()
    assert len(drying.drying_of(shop, airing).grams) == 5


def test_weights_that_are_none(shop: Shop, hand: Hand, airing: int) -> None:
    for grams in (0.0, -1.0, 1e6, math.nan):
        with pytest.raises(BadInput):
            drying.add_weighing(shop, airing, grams)
    for n in range(5):
        drying.add_weighing(shop, airing, 2450.0 + n)
        hand.clock.advance(minutes=3)
    assert "gains weight" in drying.drying_of(shop, airing).words()
    with pytest.raises(Refused):
        drying.drying_of(shop, 999)


def test_a_contact_time_is_not_weighed(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    with shop.reading() as session:
        wait = session.all_of(Wait, key="disinfect")[0].id
    with pytest.raises(Refused, match="nothing that dries"):
        drying.add_weighing(shop, wait, 20)
