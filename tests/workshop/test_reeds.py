"""The bench's own reeds: rest, cleaning as a batch with its longest time, and their end."""

from __future__ import annotations

import pytest

from creekbed.core.errors import BadInput, Refused
from creekbed.workshop import reeds
from creekbed.workshop.clock import HandClock
from creekbed.workshop.shop import Shop


def test_the_one_that_rested_longest_is_next(shop: Shop, clock: HandClock) -> None:
    first, second = reeds.add_reed(shop, "clarinet"), reeds.add_reed(shop, "clarinet")
    reeds.add_reed(shop, "saxophone")
    assert reeds.next_reed(shop, "clarinet") == first
    reeds.play(shop, first.id)
    assert reeds.next_reed(shop, "clarinet") == second  # never played goes before what was
    clock.advance(hours=2)
    reeds.play(shop, second.id)
    assert reeds.next_reed(shop, "clarinet") is None and "rests, 22 h more" in reeds.reeds(shop)[0].state(shop.now)
    clock.advance(hours=23)
    taken = reeds.next_reed(shop, "clarinet")
    assert taken is not None and taken.id == first.id
    assert reeds.next_reed(shop, "oboe") is None
    with pytest.raises(BadInput):
        reeds.add_reed(shop, "violas")


def test_cleaning_by_uses_and_by_week(shop: Shop, clock: HandClock) -> None:
    often, seldom = reeds.add_reed(shop, "clarinet").id, reeds.add_reed(shop, "oboe").id
    reeds.play(shop, seldom)
    for _ in range(reeds.CLEAN_AFTER):
        reeds.play(shop, often)
        clock.advance(hours=25)
    with pytest.raises(Refused, match="clean it first"):
        reeds.play(shop, often)
    clock.advance(days=3)
    lying = reeds.lay_in(shop)
    assert set(lying.reeds) == {often, seldom}  # a week since it was first played
    with pytest.raises(Refused, match="lies in already"):
        reeds.lay_in(shop)
    with pytest.raises(Refused, match="Not yet"):
        reeds.take_out(shop)
    clock.advance(minutes=31)
    assert reeds.next_reed(shop, "clarinet") is None
    assert "past the longest" not in reeds.take_out(shop)
    assert all(r.cleanings == 1 and r.fresh_uses == 0 and not r.rested(shop.now) for r in reeds.reeds(shop))
    clock.advance(hours=25)
    reeds.play(shop, often)
    assert reeds.bath(shop) is None
    with pytest.raises(Refused, match="No reed"):
        reeds.lay_in(shop)
    with pytest.raises(Refused, match="No reed lies"):
        reeds.take_out(shop)


def test_past_the_longest_time_is_said_and_on_record(shop: Shop, clock: HandClock) -> None:
    reed = reeds.add_reed(shop, "bassoon").id
    for _ in range(reeds.CLEAN_AFTER):
        reeds.play(shop, reed)
    reeds.lay_in(shop)
    with pytest.raises(Refused, match="lies in peroxide"):
        reeds.play(shop, reed)
    lying = reeds.bath(shop)
    assert lying is not None
    clock.advance(minutes=43)
    assert lying.at(shop.now).presses(shop.now)
    clock.advance(minutes=12)
    assert "10 min past the longest time" in reeds.take_out(shop)


def test_a_reed_comes_to_its_end(shop: Shop, clock: HandClock) -> None:
    reed = reeds.add_reed(shop, "clarinet").id
    for n in range(reeds.LASTS):
        if n and n % reeds.CLEAN_AFTER == 0:
            reeds.lay_in(shop)
            clock.advance(minutes=35)
            reeds.take_out(shop)
        reeds.play(shop, reed)
    assert reeds.reeds(shop)[0].worn and reeds.next_reed(shop, "clarinet") is None
    with pytest.raises(Refused, match="throw it away"):
        reeds.play(shop, reed)
    reeds.throw_away(shop, reed)
    assert reeds.reeds(shop) == []
    with pytest.raises(BadInput):
        reeds.throw_away(shop, reed)


def test_the_batch_keeps_true_time_when_the_clock_is_set(shop: Shop, clock: HandClock) -> None:
    reed = reeds.add_reed(shop, "oboe").id
    for _ in range(reeds.CLEAN_AFTER):
        reeds.play(shop, reed)
    reeds.lay_in(shop)
    shop.look_at_clock()
    clock.step(hours=-2)
    assert "was set back" in shop.look_at_clock()
    lying = reeds.bath(shop)
    assert lying is not None and not lying.at(shop.now).may_end
