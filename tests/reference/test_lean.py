"""Bridge lean from two lengths against exact angles and independent propagation of uncertainty."""

import math
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from uncertainties import ufloat, umath

from creekbed.core.errors import BadInput
from creekbed.core.inspection.geometry import lean_from_lengths


@pytest.mark.parametrize(
    ("height", "gap", "degrees"), [(30, 30 * math.tan(math.radians(3)), 3.0), (30, 0, 0.0), (28, -0.4887, -1.0)]
)
def test_angles(height: float, gap: float, degrees: float) -> None:
    """tan 3° = 0.052408, tan 1° = 0.017455 (trigonometry)."""
    assert lean_from_lengths(height, gap).value == pytest.approx(degrees, abs=1e-3)


@given(st.floats(15, 60), st.floats(-5, 5), st.floats(0.01, 0.6), st.floats(0.01, 0.6))
def test_uncertainty_agrees_with_the_uncertainties_package(height: float, gap: float, u_h: float, u_g: float) -> None:
    reading = lean_from_lengths(height, gap, u_h, u_g)
    expected = umath.degrees(umath.atan2(ufloat(gap, u_g), ufloat(height, u_h)))
    assert reading.value == pytest.approx(expected.nominal_value, abs=1e-9)
    assert reading.u == pytest.approx(expected.std_dev, rel=1e-6)


def test_uncertainty_agrees_with_monte_carlo() -> None:
    """JCGM 101: 40 000 draws of both lengths; the spread of the angle is the computed u within 3 %."""
    chance = random.Random(5)
    angles = [math.degrees(math.atan2(chance.gauss(1.6, 0.15), chance.gauss(30, 0.25))) for _ in range(40_000)]
    mean = sum(angles) / len(angles)
    spread = math.sqrt(sum((a - mean) ** 2 for a in angles) / (len(angles) - 1))
    assert lean_from_lengths(30, 1.6).u == pytest.approx(spread, rel=0.03)


@pytest.mark.parametrize(("height", "gap"), [(0, 1), (-3, 1), (10, 10), (10, -11), (float("nan"), 1)])
def test_lengths_that_cannot_be(height: float, gap: float) -> None:
    with pytest.raises(BadInput):
        lean_from_lengths(height, gap)
