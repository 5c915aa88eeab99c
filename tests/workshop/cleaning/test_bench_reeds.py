"""The bench's own reeds: rest, cleaning as a batch with its longest time, and their end."""

from __future__ import annotations

import pytest

from creekbed.core.errors import BadInput, Refused
from creekbed.workshop.cleaning import bench_reeds
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop


def test_the_one_that_rested_longest_is_next(shop: Shop, clock: HandClock) -> None:
    first, second = bench_reeds.add_reed(shop, "clarinet"), bench_reeds.add_reed(shop, "clarinet")
    bench_reeds.add_reed(shop, "saxophone")
    assert bench_reeds.next_reed(shop, "clarinet") == first
    bench_reeds.play(shop, first.id)
    assert bench_reeds.next_reed(shop, "clarinet") == second  # never played goes before what was
    clock.advance(hours=2)
    bench_reeds.play(shop, second.id)
    assert bench_reeds.next_reed(shop, "clarinet") is None and "rests, 22 h more" in bench_reeds.reeds(shop)[0].state(
        shop.now
    )
    clock.advance(hours=23)
    taken = bench_reeds.next_reed(shop, "clarinet")
    assert taken is not None and taken.id == first.id
    assert bench_reeds.next_reed(shop, "oboe") is None
    with pytest.raises(BadInput):
        bench_reeds.add_reed(shop, "violas")


def test_cleaning_by_uses_and_by_week(shop: Shop, clock: HandClock) -> None:
    often, seldom = bench_reeds.add_reed(shop, "clarinet").id, bench_reeds.add_reed(shop, "oboe").id
    bench_reeds.play(shop, seldom)
    for _ in range(bench_reeds.CLEAN_AFTER):
        bench_reeds.play(shop, often)
        clock.advance(hours=25)
    with pytest.raises(Refused, match="clean it first"):
        bench_reeds.play(shop, often)
    clock.advance(days=3)
    lying = bench_reeds.lay_in(shop)
    assert set(lying.reeds) == {often, seldom}  # a week since it was first played
    with pytest.raises(Refused, match="lies in already"):
        bench_reeds.lay_in(shop)
    with pytest.raises(Refused, match="Not yet"):
        bench_reeds.take_out(shop)
    clock.advance(minutes=31)
    assert bench_reeds.next_reed(shop, "clarinet") is None
    assert bench_reeds.take_out(shop) == 0
    assert all(r.cleanings == 1 and r.fresh_uses == 0 and not r.rested(shop.now) for r in bench_reeds.reeds(shop))
    clock.advance(hours=25)
    bench_reeds.play(shop, often)
    assert bench_reeds.bath(shop) is None
    with pytest.raises(Refused, match="No reed"):
        bench_reeds.lay_in(shop)
    with pytest.raises(Refused, match="No reed lies"):
        bench_reeds.take_out(shop)


def test_past_the_longest_time_is_said_and_on_record(shop: Shop, clock: HandClock) -> None:
    reed = bench_reeds.add_reed(shop, "bassoon").id
    for _ in range(bench_reeds.CLEAN_AFTER):
        bench_reeds.play(shop, reed)
    bench_reeds.lay_in(shop)
    with pytest.raises(Refused, match="lies in peroxide"):
        bench_reeds.play(shop, reed)
    lying = bench_reeds.bath(shop)
    assert lying is not None
    clock.advance(minutes=43)
    assert lying.at(shop.now).presses(shop.now)
    clock.advance(minutes=12)
    assert bench_reeds.take_out(shop) == pytest.approx(10, abs=0.1)


def test_a_reed_comes_to_its_end(shop: Shop, clock: HandClock) -> None:
    reed = bench_reeds.add_reed(shop, "clarinet").id
    for n in range(bench_reeds.LASTS):
        if n and n % bench_reeds.CLEAN_AFTER == 0:
            bench_reeds.lay_in(shop)
            clock.advance(minutes=35)
            bench_reeds.take_out(shop)
        bench_reeds.play(shop, reed)
    assert bench_reeds.reeds(shop)[0].worn and bench_reeds.next_reed(shop, "clarinet") is None
    with pytest.raises(Refused, match="throw it away"):
        bench_reeds.play(shop, reed)
    bench_reeds.throw_away(shop, reed)
    assert bench_reeds.reeds(shop) == []
    with pytest.raises(BadInput):
        bench_reeds.throw_away(shop, reed)


def test_the_batch_keeps_true_time_when_the_clock_is_set(shop: Shop, clock: HandClock) -> None:
    reed = bench_reeds.add_reed(shop, "oboe").id
    for _ in range(bench_reeds.CLEAN_AFTER):
        bench_reeds.play(shop, reed)
    bench_reeds.lay_in(shop)
    shop.look_at_clock()
    clock.step(hours=-2)
    assert "was set back" in shop.look_at_clock()
    lying = bench_reeds.bath(shop)
    assert lying is not None and not lying.at(shop.now).may_end


def test_hours_of_playing_end_a_reed_too(shop: Shop, clock: HandClock) -> None:
    """As long as a play-test takes where nobody says; longer where somebody does; what nobody plays is refused."""
    reed = bench_reeds.add_reed(shop, "clarinet").id
    usual = bench_reeds.usual_minutes(shop, "clarinet")
    assert usual > 0 and bench_reeds.usual_minutes(shop, "violin") == 0
    bench_reeds.play(shop, reed)
    assert bench_reeds.reeds(shop)[0].minutes == usual
    for wrong in (0.0, -1.0, 500.0):
        with pytest.raises(BadInput):
            bench_reeds.play(shop, reed, wrong)
    bench_reeds.play(shop, reed, 200.0)
    shop.undo()
    assert bench_reeds.reeds(shop)[0].minutes == usual
    for _ in range(2):
        clock.advance(hours=25)
        bench_reeds.play(shop, reed, 200.0)
    clock.advance(hours=25)
    assert bench_reeds.reeds(shop)[0].worn and bench_reeds.next_reed(shop, "clarinet") is None
