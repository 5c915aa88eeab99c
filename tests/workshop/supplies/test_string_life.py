"""How long strings were on hire and how long they last, from the records of whole jobs."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pytest

from creekbed.store.records import Hire
from creekbed.words.strings import age_words, due_words, life_words
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies.string_life import string_lives
from tests.conftest import Hand


def restrung(hand: Hand, places: dict[str, str]) -> None:
    """A violin comes back, its strings are looked at, the worn ones replaced; it goes out again."""
    job = hand.book("MH-0300", "violin", departure_id=None)
    hand.until(job, "look", strings=places)
    for key in places:
        hand.until(job, f"string_on.{key}")
    with hand.shop.act("gone") as act:  # only the records count here
        from creekbed.store.records import Job

        act.records.update(act.records.get(Job, job), state="gone")
        act.words = "gone"


def on_hire(shop: Shop, clock: HandClock, days: float) -> None:
    start = clock.now()
    clock.advance(minutes=days * 1440)
    with shop.act("hire") as act:
        act.records.add(Hire(
            tag="MH-0300", renter="R-1", group_name="", out_at=start, back_at=clock.now(), contents_out=[],
            condition_out=[],
        ))  # fmt: skip
        act.words = "back"


def test_two_strings_through_three_hires(shop: Shop, hand: Hand, clock: HandClock) -> None:
    """A is put on, found worn after 100 days on hire (and 30 on the shelf), put on anew; D stays good."""
    assert string_lives(shop).ages == {}
    restrung(hand, {"A": "worn", "D": "worn"})
    on_hire(shop, clock, 60.0)
    restrung(hand, {})
    clock.advance(minutes=30 * 1440)  # on the shelf
    on_hire(shop, clock, 40.0)
    restrung(hand, {"A": "worn"})
    on_hire(shop, clock, 20.0)
    found = string_lives(shop)
    a, d = found.lives["violin", "A"], found.lives["violin", "D"]
    assert (a.worn, a.fine) == (1, 0) and (d.worn, d.fine) == (0, 1)
    assert a.median_days < d.median_days and found.lives["violin", "E"].worn == 0
    ages = found.ages["MH-0300"]
    assert ages["A"].hire_days == pytest.approx(20.0, abs=0.1) and ages["D"].hire_days == pytest.approx(120.0, abs=0.1)
    assert clock.now() - ages["D"].since > timedelta(days=149)


def test_in_words(shop: Shop, hand: Hand, clock: HandClock) -> None:
    found: Any = string_lives(shop)
    said = life_words(found.lives["violin", "A"])
    assert said.startswith("Lasts about 9 months on hire (") and said.endswith(" months), from memory.")
    restrung(hand, {"A": "worn"})
    on_hire(shop, clock, 60.0)
    restrung(hand, {})
    life = string_lives(shop).lives["violin", "A"]
    assert life_words(life).endswith("by 1 of this shop's.")
    assert age_words(130.0, clock.now()).endswith("4 months of that on hire.")
    assert due_words(life.chance_worn(30.0, 91.0)) == ""
    assert due_words(life.chance_worn(400.0, 91.0)).startswith("A new one now?")
