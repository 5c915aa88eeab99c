"""How much room there is and when the bench is open, as the shop changes it."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.catalogue.load import shipped
from creekbed.core.catalogue.own import with_own_files
from creekbed.core.errors import BadInput
from creekbed.words.calendar import spans_words
from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.shop import bench_capacity as room
from creekbed.workshop.shop import staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand


@pytest.fixture
def own_shop(tmp_path: Path, clock: HandClock) -> Shop:
    """A shop whose catalogue can be changed."""
    return Shop(tmp_path / "shop", clock)


def test_a_tub_more_is_planned_with_at_once(own_shop: Shop) -> None:
    shop = own_shop
    try:
        before = home(shop).problem.capacity
        assert {r.key: r.capacity for r in room.rooms(shop)} == {p.key: p.capacity for p in shop.catalogue.house.place}
        assert room.change(shop, {"tub": 3, "rack": 8}, {}) == ["tub 3"]  # the rack is as it was
        assert home(shop).problem.capacity == {**before, "tub": 3}
        kept = with_own_files(shipped(), shop.own_folder)
        assert kept.problems == () or list(kept.problems) == []
        tub = next(p for p in kept.house.place if p.key == "tub")
        assert (tub.capacity, tub.mark, tub.holds) == (3, "S", 4)
        found = next(r for r in room.rooms(shop) if r.key == "tub")
        assert (found.capacity, found.ships) == (3, 2)
        assert room.change(shop, {"tub": 2}, {}) == ["tub 2"] and home(shop).problem.capacity == before
        assert "tub" not in (shop.own_folder / "overrides.toml").read_text("utf-8")
        assert room.change(shop, {"tub": 2}, {}) == []
    finally:
        shop.close()


def test_hours_as_they_are_typed(own_shop: Shop, clock: HandClock) -> None:
    shop = own_shop
    try:
        words = room.opening(shop)
        assert len(words) == 7 and words[6] == room.SHUT
        spans = len(staff.open_spans(shop, clock.now(), days=7))
        told = room.change(shop, {}, {5: "9-11:30", 6: "", 0: words[0]})
        assert told == ["Saturday 09:00-11:30"] or told == []  # as it ships already, where that is the house's Saturday
        room.change(shop, {}, {6: "10-12, 13:30 - 15"})
        assert room.opening(shop)[6] == "10:00-12:00, 13:30-15:00"
        assert len(staff.open_spans(shop, clock.now(), days=7)) >= spans + 2
        assert room.opening(shop)[0] == words[0]
        room.change(shop, {}, {6: "shut", 5: words[5]})
        assert room.opening(shop) == words
    finally:
        shop.close()


@pytest.mark.parametrize(
    ("rooms", "hours", "match"),
    [
        ({"tub": 0}, {}, "Tub: 0 is no room"), ({"rack": 61}, {}, "no room"), ({}, {0: "noon"}, "are no hours"),
        ({}, {0: "13-9"}, "end before"), ({}, {0: "8-12, 11-17"}, "one after the other"),
        ({}, {0: "8:75-12"}, "no hours"), ({"tub": 5}, dict.fromkeys(range(7), "shut"), "never be open"),
    ],
)  # fmt: skip
def test_what_cannot_be_changes_nothing(
    own_shop: Shop, rooms: dict[str, int], hours: dict[int, str], match: str
) -> None:
    shop = own_shop
    try:
        before = room.rooms(shop), room.opening(shop)
        with pytest.raises(BadInput, match=match):
            room.change(shop, rooms, hours)
        assert (room.rooms(shop), room.opening(shop)) == before
        assert not (shop.own_folder / "overrides.toml").exists()
    finally:
        shop.close()


@given(st.lists(st.integers(0, 24 * 60), min_size=2, max_size=8, unique=True).map(sorted))
def test_every_opening_is_read_as_it_is_written(minutes: list[int]) -> None:
    spans = [(a / 60, b / 60) for a, b in zip(minutes[::2], minutes[1::2], strict=False)]
    words = spans_words(spans)
    assert [tuple(round(h * 60) for h in s) for s in room.read_opening(words)] == [
        (round(a * 60), round(b * 60)) for a, b in spans
    ]


def test_who_works_here_no_more(shop: Shop, hand: Hand) -> None:
    staff.add_worker(shop, "TO 13-17", helper=True)
    staff.remove_worker(shop, "TO")
    assert [w.key for w in staff.workers(shop)] == ["IW"]


def test_what_is_this_shops_own_is_named(shop: Shop) -> None:
    assert room.own(shop) == []
    room.change(shop, {"tub": 7}, {6: "9-12"})
    assert room.own(shop) == ["tub 7", "Sunday 09:00-12:00"]
    room.change(shop, {"tub": next(r.ships for r in room.rooms(shop) if r.key == "tub")}, {6: "shut"})
    assert room.own(shop) == []
