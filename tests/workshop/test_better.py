"""A better order of the bench, from the records, and what is said of it."""

from __future__ import annotations

import pytest

from creekbed.core.planning.check import violations
from creekbed.core.planning.explain import gap_words
from creekbed.workshop.better import better_plan
from creekbed.workshop.shop import Shop
from tests.conftest import Hand


def test_a_better_order_keeps_everything(shop: Shop, hand: Hand) -> None:
    for tag, family in (("MH-0142", "alto_saxophone"), ("MH-0207", "violin"), ("MH-0404", "trumpet")):
        hand.book(tag, family)
    started = hand.book("MH-0143")
    hand.until(started, "disinfect", mouthpiece="sound")
    found = better_plan(shop, 1.5)
    assert violations(found.problem, found.thought.plan) == []
    assert found.thought.cost <= found.cost_now + 1e-6 and found.thought.bound <= found.thought.cost + 1e-6
    assert found.first and found.first[0][0] >= shop.now and found.words.startswith(("At most", "Nothing better"))
    assert all(0 <= c <= 1 for c in found.thought.chances.in_time.values()) and found.conflict == ""


def test_an_empty_bench(shop: Shop) -> None:
    found = better_plan(shop, 0.5)
    assert found.first == () and found.cost_now == 0 and "proven" in found.words


@pytest.mark.parametrize(
    ("cost", "bound", "late", "words"),
    [
        (100.0, 100.0, 0.0, "proven"), (1000.0, 840.0, 0.0, "At most 10 min earlier"),
        (1000.0, 750.0, 5.0, "At most 3 min less late"), (1000.0, 750.0, 2.5, "cannot be less late"),
    ],
)  # fmt: skip
def test_how_much_better(cost: float, bound: float, late: float, words: str) -> None:
    assert words in gap_words(cost, bound, 6, late, 10.0, 2.0)
