"""What a shop's own strings teach: strings of another law than the house's, and what they do to the forecast."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.strings.forecast import DAY_MIN, Drop, Kind, forecast
from creekbed.core.strings.learned import MOST_TIMES, learned_times, times_of

A, TAU = 12.0, 5.0


def string(rng: np.random.Generator, times: float, tau: float = TAU) -> tuple[list[tuple[float, float, float]], float]:
    """Two readings of a string of this shop, a logarithm of its own constants, and how flat it goes the day after."""
    own = A * times * math.exp(0.3 * rng.normal())
    tau = tau * math.exp(0.3 * rng.normal())

    def drop(a: float, b: float) -> float:
        return own * math.log((tau + b) / (tau + a))

    spans = [(0.0, rng.uniform(10, 16)), (0.0, 0.0)]
    spans[1] = (spans[0][1], spans[0][1] + rng.uniform(30, 60))
    rows = [(a, b, drop(a, b) + 1.5 * rng.normal()) for a, b in spans]
    return rows, drop(spans[1][1], spans[1][1] + DAY_MIN)


def test_one_string_by_hand() -> None:
    """24 cents where the house says 12·ln(18/5) = 15.37: 1.561 times as much; u = 1.5/(18.74·1.281) = 0.0625."""
    found = times_of([(0.0, 13.0, 24.0)], A, TAU)
    assert found is not None
    assert found[0] == pytest.approx(24 / (12 * math.log(18 / 5)), rel=1e-9)
    assert found[1] == pytest.approx(1.5 / (A * found[0] * math.log(18 / 5)), rel=1e-9)


def test_nothing_read_teaches_nothing() -> None:
    assert learned_times([], A, TAU) == 1.0
    assert learned_times([[], [(5.0, 5.0, 3.0)], [(0.0, 12.0, -4.0)], [(0.0, 12.0, 300.0)]], A, TAU) == 1.0


def test_a_shop_whose_strings_creep_more_learns_it() -> None:
    rng = np.random.default_rng(1)
    strings = [string(rng, 1.7)[0] for _ in range(40)]
    assert learned_times(strings, A, TAU) == pytest.approx(1.7, rel=0.12)
    few = learned_times(strings[:1], A, TAU)
    assert 1.0 < few < 1.7  # one string moves it less


@given(st.lists(st.tuples(st.floats(0, 50), st.floats(0, 200), st.floats(-50, 200)), max_size=8))
def test_it_stays_within_what_strings_do(rows: list[tuple[float, float, float]]) -> None:
    assert 1 / MOST_TIMES <= learned_times([[row] for row in rows], A, TAU) <= MOST_TIMES


def test_what_was_learned_makes_the_forecast_better() -> None:
    """Strings of a shop that creep 1.8 times the house's: their first day is foreseen more exactly, as surely."""
    rng = np.random.default_rng(2)
    times = learned_times([string(rng, 1.8)[0] for _ in range(30)], A, TAU)
    off = {1.0: [], times: []}  # type: dict[float, list[float]]
    held = {1.0: 0, times: 0}
    for _ in range(40):
        rows, day = string(rng, 1.8)
        for t in off:
            ahead = forecast(
                Kind(A * t, TAU), tuple(Drop(*r) for r in rows[:1]), tolerance_cents=15, limit_cents=40,
                last_min=rows[1][1],
            )  # fmt: skip
            off[t].append(abs(math.log(ahead.first_day.median / day)))
            held[t] += ahead.first_day.low <= day <= ahead.first_day.high
    assert np.mean(off[times]) < 0.9 * np.mean(off[1.0])
    assert held[times] >= 37
