"""A better order of the bench, from the records, and what is said of it."""

from __future__ import annotations

import random
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from creekbed.core.planning.dispatch import dispatch_plan
from creekbed.core.planning.model import Problem, Weights
from creekbed.core.planning.optimiser import improve
from creekbed.core.planning.permutation_search import schedule_in_order
from creekbed.core.planning.plan_checker import violations
from creekbed.core.planning.schedule_builder import ScheduleBuilder
from creekbed.words.plan import gap_words
from creekbed.workshop.planning.better_plan import better_plan
from creekbed.workshop.planning.planning_input import WEIGHTS
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand
from tests.core.planning.test_plan_search import benches


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
        (1000.0, 936.0, 0.48, "At most 1 min earlier"), (1000.0, 953.0, 0.48, "by a minute"),
    ],
)  # fmt: skip
def test_how_much_better(cost: float, bound: float, late: float, words: str) -> None:
    assert words in gap_words(cost, bound, 6, late, Weights(), 0.0 if late < 1 else 2.0)


@settings(max_examples=80, deadline=None)
@given(benches(), st.randoms(use_true_random=False))
def test_a_plan_that_is_less_late_is_always_the_better_one(problem: Problem, chance: random.Random) -> None:
    asked = replace(problem, weights=WEIGHTS)
    laid = ScheduleBuilder(asked)
    order = list(range(len(laid.jobs)))
    chance.shuffle(order)
    one, other = dispatch_plan(asked), schedule_in_order(laid, order)
    less = other.weighted_tardiness(asked) - one.weighted_tardiness(asked)
    if abs(less) >= 1.0:
        assert (other.cost(asked) > one.cost(asked)) == (less > 0)


@settings(max_examples=10, deadline=None)
@given(benches())
def test_nothing_is_later_for_something_else_to_be_sooner(problem: Problem) -> None:
    asked = replace(problem, weights=WEIGHTS)
    plan = dispatch_plan(asked)
    if any(f.finish is None for f in plan.forecasts.values()) or plan.broken:
        return
    found = improve(asked, plan, 0.5)
    assert violations(asked, found.plan) == []
    assert found.plan.weighted_tardiness(asked) <= plan.weighted_tardiness(asked) + 1e-6
    light = replace(problem, weights=Weights(late=0.0))  # who looks at early finishes only may be later
    assert improve(light, plan, 0.2).plan.cost(light) <= plan.cost(light) + 1e-6
