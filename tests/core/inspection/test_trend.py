"""The pace of a measured value, and when it passes its limit: against published and general-purpose fits."""

from __future__ import annotations

import math
from datetime import timedelta
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from creekbed.core.errors import BadInput
from creekbed.core.inspection.trend import FARTHEST_DAYS, crossing, fit_line, trend
from creekbed.core.measure import Reading, Scale
from creekbed.workshop.inspection.trends import check_history
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand

RISING = Scale(green=(None, 1.0), amber=(None, 3.0))

H3_T = [21.521, 22.012, 22.512, 23.003, 23.507, 23.999, 24.513, 25.002, 25.503, 26.010, 26.511]
H3_B = [-0.171, -0.169, -0.166, -0.159, -0.164, -0.165, -0.156, -0.157, -0.159, -0.161, -0.160]


def test_the_line_of_the_guide() -> None:
    """JCGM 100:2008, H.3: y1 = −0.1712(29) at 20 °C, y2 = 0.00218(67); readings recalled, results as published."""
    line = fit_line(H3_T, H3_B, [1e-4] * 11)  # weights alike: the Birge ratio finds the scatter by itself
    value, u = line.at(20.0)
    assert (round(value, 4), round(u, 4)) == (-0.1712, 0.0029)
    assert (round(line.slope, 5), round(line.u_slope, 5)) == (0.00218, 0.00067)


@given(
    st.lists(st.tuples(st.floats(0, 1000), st.floats(-5, 5)), min_size=4, max_size=12, unique_by=lambda r: round(r[0]))
)
def test_against_scipy(rows: list[tuple[float, float]]) -> None:
    """Alike weights and scatter that fills them: scipy.stats.linregress."""
    t, y = zip(*rows, strict=True)
    line, theirs = fit_line(t, y, [1e-9] * len(t)), stats.linregress(t, y)
    assert line.slope == pytest.approx(theirs.slope, rel=1e-6, abs=1e-9)
    assert line.at(0.0)[0] == pytest.approx(theirs.intercept, rel=1e-6, abs=1e-6)
    assert line.u_slope == pytest.approx(theirs.stderr, rel=1e-5, abs=1e-9)
    assert line.at(0.0)[1] == pytest.approx(theirs.intercept_stderr, rel=1e-5, abs=1e-9)


def test_readings_that_agree_too_well_keep_their_uncertainty() -> None:
    line = fit_line([0, 100, 200], [1.0, 1.0, 1.0], [0.3, 0.3, 0.3])
    assert line.u_value == pytest.approx(0.3 / math.sqrt(3)) and not line.goes


def test_what_makes_no_line() -> None:
    for days, values, us, words in (
        ([0.0], [1.0], [0.1], "two readings"), ([1.0, 1.0], [1.0, 2.0], [0.1, 0.1], "one moment"),
        ([0.0, 1.0], [1.0, 2.0], [0.1, 0.0], "uncertainty"), ([0.0, 1.0], [1.0, math.nan], [0.1, 0.1], "uncertainty"),
    ):  # fmt: skip
        with pytest.raises(BadInput, match=words):
            fit_line(days, values, us)


def test_when_it_passes_the_limit() -> None:
    """A clean line of 1 a year from 1.0: 3.0 is reached after two years; by similar triangles."""
    days = [0.0, 180.0, 365.25, 500.0]
    line = fit_line(days, [1 + d / 365.25 for d in days], [0.05] * 4)
    found = crossing(line, RISING, 500.0)
    assert found is not None and found.limit == 3.0 and found.day == pytest.approx(730.5)
    assert 600 < found.soonest < 730.5 < found.latest < 1000


def test_no_crossing_where_none_is_told() -> None:
    days = [0.0, 180.0, 365.25, 500.0]
    flat = fit_line(days, [1.0, 1.02, 0.99, 1.0], [0.1] * 4)
    falling = fit_line(days, [2.0, 1.5, 1.0, 0.6], [0.05] * 4)
    slow = fit_line(days, [1 + 0.1 * d / 365.25 for d in days], [0.001] * 4)
    assert crossing(flat, RISING, 500.0) is None and crossing(slow, RISING, 500.0) is None
    assert crossing(falling, RISING, 500.0) is None  # toward the side that has no limit
    past = fit_line(days, [1 + 3 * d / 365.25 for d in days], [0.05] * 4)
    found = crossing(past, RISING, 500.0)
    assert found is not None and found.day == 500.0


def test_the_interval_holds_what_it_says() -> None:
    """Of 400 instruments that wear at a steady pace, 90 of a hundred or more pass within the interval."""
    rng = np.random.default_rng(5)
    days = np.array([0.0, 200.0, 260.0, 470.0, 540.0])
    asked = inside = 0
    for _ in range(400):
        pace, u = float(rng.uniform(0.6, 2.0)) / 365.25, 0.12
        values = 1.0 + pace * days + rng.normal(0, u, len(days))
        found = crossing(fit_line(days, values, [u] * len(days)), RISING, 540.0)
        truth = max(2.0 / pace, 540.0)
        if found is not None and truth < 540 + FARTHEST_DAYS:
            asked += 1
            inside += found.soonest - 2 <= truth <= found.latest + 2
    assert asked > 300 and inside / asked > 0.9


def test_few_readings_or_near_ones_tell_no_pace() -> None:
    def of(days: list[float]) -> Any:
        return trend(days, [Reading(1.0 + d / 100, 0.1, "degree") for d in days], RISING, 400.0, 0.1)

    assert of([0.0, 300.0]).line is None and of([0.0, 10.0, 30.0]).line is None and of([0.0, 100.0, 300.0]).line


def test_an_instrument_that_leans_more_with_each_hire(shop: Shop, hand: Hand, hired: Any) -> None:
    def out(value: float, days: float) -> None:
        row = {"check": "bridge_lean", "value": value, "unit": "degree", "band": "green", "words": ""}
        hired("MH-0701", "violin", [row], out_at=shop.now - timedelta(days=days))

    out(0.2, 900)
    out(1.1, 500)
    out(1.9, 120)
    job = hand.book("MH-0701", "violin")
    view = hand.view(job)
    check = next(c for c in view.checks if c.key == "bridge_lean")
    found = check_history(shop, view, check)
    assert found is not None and len(found.seen) == 3 and found.trend.crossing is not None
    assert "It rises 0.8° ± " in found.words() and "At this pace it passes 3°" in found.words()
    assert "The luthier takes about 21 days: send it " in found.words()
    other = next(c for c in view.checks if c.kind != "measure")
    assert check_history(shop, view, other) is None
