"""Forecasts of settling strings: in worlds that obey other constants and other laws than they assume."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from creekbed.core.errors import BadInput
from creekbed.core.strings.forecast import Drop, Kind, forecast
from creekbed.core.strings.settling import LONGEST_MIN
from tests.worlds import settling

KIND = Kind(12.0, 5.0)


def _tried(case: settling.Settled) -> tuple[bool, bool]:
    """Whether the intervals of the next retune and of the first day hold for one string."""
    rows = tuple(Drop(*row) for row in case.rows)
    found = forecast(KIND, rows, tolerance_cents=settling.TOLERANCE_CENTS, limit_cents=settling.LIMIT_CENTS)
    return (
        found.next_min.low - 0.3 <= case.next_min <= found.next_min.high + 0.3,
        found.first_day.low <= case.day_cents <= found.first_day.high,
    )


def test_intervals_hold_for_strings_of_other_constants_and_laws() -> None:
    """95 % is meant; of 90 logarithms, two and three exponentials chance leaves 0.88 (binomial, 3 deviations)."""
    rng = np.random.default_rng(21)
    laws = (settling.logarithm, settling.two, settling.three)
    tried = [_tried(settling.settled(rng, laws[n % 3](rng))) for n in range(90)]
    assert np.mean([x for x, _ in tried]) >= 0.88 and np.mean([y for _, y in tried]) >= 0.88


def test_a_law_that_it_does_not_know_costs_little() -> None:
    """A power of time creeps on and on: its day is met less often, but not rarely."""
    rng = np.random.default_rng(22)
    tried = [_tried(settling.settled(rng, settling.power(rng))) for _ in range(40)]
    assert np.mean([x for x, _ in tried]) >= 0.8 and np.mean([y for _, y in tried]) >= 0.75


def test_exact_readings_of_a_logarithm_are_gone_on_from() -> None:
    """c = 12·ln(1 + t/5): the day after an hour brings 12·ln(1505/65) = 37.7 cents."""
    times = [0.0, 5.0, 12.0, 25.0, 60.0]
    rows = tuple(Drop(a, b, 12 * math.log((5 + b) / (5 + a)), 0.1) for a, b in pairwise(times))
    found = forecast(KIND, rows, tolerance_cents=8.0, limit_cents=40.0)
    assert found.first_day.median == pytest.approx(37.7, rel=0.2) and found.first_day.low < 37.7 < found.first_day.high
    assert found.laws["log"] > 0.3 > found.laws["two"]
    nothing = forecast(KIND, (), tolerance_cents=8.0, limit_cents=40.0)
    assert found.first_day.high - found.first_day.low < 0.3 * (nothing.first_day.high - nothing.first_day.low)


@settings(max_examples=25, deadline=None)
@given(st.lists(st.tuples(st.floats(1, 300), st.floats(-4, 80)), max_size=5), st.floats(2, 30), st.floats(5, 80))
def test_whatever_was_read_the_forecast_is_in_order(reads: list[tuple[float, float]], tol: float, limit: float) -> None:
    at, rows = 0.0, []
    for minutes, cents in reads:
        rows.append(Drop(at, at + minutes, cents))
        at += minutes
    found = forecast(KIND, tuple(rows), tolerance_cents=tol, limit_cents=limit)
    assert at <= found.next_min.low <= found.next_min.median <= found.next_min.high <= at + LONGEST_MIN + 1e-6
    assert 0 <= found.first_day.low <= found.first_day.median <= found.first_day.high < 5000
    assert 0 <= found.holds <= 1 and sum(found.laws.values()) == pytest.approx(1)
    low, middle, high = found.curve(np.linspace(at, at + 100, 9))
    assert np.all(low <= middle) and np.all(middle <= high) and np.all(np.diff(middle) >= -1e-9) and middle[0] == 0
    assert (
        forecast(KIND, tuple(rows), tolerance_cents=2 * tol, limit_cents=limit).next_min.median >= found.next_min.median
    )
    if found.holds < 0.8:
        assert found.good_from >= at


def test_a_peg_that_slips_is_suspected() -> None:
    slipping = (Drop(0, 10, 150.0), Drop(10, 25, 120.0), Drop(25, 60, 160.0))
    assert forecast(KIND, slipping, tolerance_cents=8.0, limit_cents=40.0).slips > 0.9
    assert forecast(KIND, (Drop(0, 10, 14.0),), tolerance_cents=8.0, limit_cents=40.0).slips < 0.1


@pytest.mark.parametrize(
    ("start", "end", "cents", "u"),
    [(0, 12, -100, 1.5), (0, 12, 700, 1.5), (12, 12, 5, 1.5), (-1, 5, 5, 1.5), (0, 1e6, 5, 1.5), (0, 12, 5, 0),
     (0, 12, math.nan, 1.5), (0, 12, 5, math.nan)],
)  # fmt: skip
def test_what_no_settling_string_shows_is_refused(start: float, end: float, cents: float, u: float) -> None:
    with pytest.raises(BadInput):
        Drop(start, end, cents, u)
