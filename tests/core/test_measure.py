"""Readings, bands and the decision under uncertainty."""

import math
from statistics import NormalDist

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from creekbed.core.errors import BadInput
from creekbed.core.measure import Reading, Scale, combine, decide

LEAN = Scale((-1.0, 1.0), (-3.0, 3.0))
CLEARANCE = Scale((4.0, None), (2.0, None))


def test_the_handbook_case_is_not_sure() -> None:
    """2.9° ± 0.4° (k = 2) against 3°: beyond with 31 %. House example; the chance is the normal distribution's."""
    decision = decide(Reading(2.9, 0.2, "degree"), LEAN)
    assert decision.band == "again"
    assert decision.p_act == pytest.approx(1 - NormalDist(2.9, 0.2).cdf(3.0), abs=1e-6)
    assert round(decision.p_act, 2) == 0.31


@pytest.mark.parametrize(
    ("value", "u", "band"),
    [
        (0.0, 0.2, "green"), (0.8, 0.2, "amber"), (2.0, 0.2, "amber"), (2.5, 0.2, "amber"), (2.7, 0.2, "again"),
        (3.3, 0.2, "again"), (3.5, 0.2, "act"), (-3.5, 0.2, "act"), (-2.8, 0.2, "again"), (3.0, 0.0, "amber"),
    ],
)  # fmt: skip
def test_bands_on_both_sides(value: float, u: float, band: str) -> None:
    assert decide(Reading(value, u, "degree"), LEAN).band == band


@pytest.mark.parametrize(
    ("value", "band"), [(5.0, "green"), (4.1, "amber"), (3.0, "amber"), (1.9, "again"), (1.0, "act")]
)
def test_one_sided_bands(value: float, band: str) -> None:
    assert decide(Reading(value, 0.15, "millimeter"), CLEARANCE).band == band


@given(st.floats(-10, 10), st.floats(0, 2))
def test_never_a_verdict_while_the_interval_crosses_the_act_limit(value: float, u: float) -> None:
    decision = decide(Reading(value, u, "degree"), LEAN)
    low, high = value - 2 * u, value + 2 * u
    crosses = low < -3 < high or low < 3 < high
    assert (decision.band == "again") == crosses
    if decision.band == "act":
        assert decision.p_act > 0.97
    if decision.band in ("green", "amber"):
        assert decision.p_act < 0.05


@given(st.floats(-8, 8), st.floats(0.01, 2))
def test_probability_agrees_with_scipy(value: float, u: float) -> None:
    """The chance of being beyond, against scipy.stats.norm."""
    expected = stats.norm.cdf(-3, value, u) + stats.norm.sf(3, value, u)
    assert decide(Reading(value, u, "degree"), LEAN).p_act == pytest.approx(expected, abs=1e-9)


def test_mean_widens_for_few_readings() -> None:
    """Two readings: t for one degree of freedom and 95.45 % is 13.97 (JCGM 100:2008, table G.2; scipy.stats.t)."""
    mean = combine([Reading(2.0, 0.0, "millimeter"), Reading(2.2, 0.0, "millimeter")])
    s = math.sqrt(0.02)
    t = stats.t.ppf(0.5 + 0.9545 / 2, 1)
    assert mean.value == pytest.approx(2.1)
    assert mean.expanded == pytest.approx(t * s / math.sqrt(2), rel=2e-3)


@pytest.mark.parametrize("n", [3, 4, 5, 6, 7, 8, 9])
def test_widening_is_students_t(n: int) -> None:
    readings = [Reading(float(k), 0.0, "millimeter") for k in range(n)]
    s = stats.tstd([r.value for r in readings])
    expected = stats.t.ppf(0.5 + 0.9545 / 2, n - 1) * s / math.sqrt(n)
    assert combine(readings).expanded == pytest.approx(expected, rel=4e-3)


def test_repeating_does_not_better_the_instrument() -> None:
    assert combine([Reading(2.0, 0.3, "millimeter")] * 20).u == pytest.approx(0.3)


def test_nonsense_is_refused() -> None:
    with pytest.raises(BadInput):
        Reading(math.nan, 0.1, "degree")
    with pytest.raises(BadInput):
        Reading(1.0, -0.1, "degree")
    with pytest.raises(BadInput):
        combine([])
    with pytest.raises(BadInput):
        combine([Reading(1, 0.1, "degree"), Reading(1, 0.1, "millimeter")])
    with pytest.raises(BadInput):
        Scale((0.0, 5.0), (1.0, 4.0))
