"""Moist air and cooling against psychrolib, published values and a numeric solution."""

import math

import psychrolib
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from creekbed.core.climate.acclimatise import acclimatise, minutes_until
from creekbed.core.climate.air import dew_point_c, saturation_pressure_pa
from creekbed.core.errors import BadInput

psychrolib.SetUnitSystem(psychrolib.SI)


@pytest.mark.parametrize(
    ("celsius", "rh", "dew"),
    [(20, 0.5, 9.272), (24, 0.6, 15.763), (33, 0.7, 26.792), (5, 0.8, 1.841)],  # psychrolib (ASHRAE Fundamentals 2017)
)
def test_dew_points(celsius: float, rh: float, dew: float) -> None:
    assert dew_point_c(celsius, rh) == pytest.approx(dew, abs=0.002)


def test_saturation_pressure() -> None:
    """20 °C: 2338.8 Pa (ASHRAE); 2339.2 Pa by IAPWS-IF97, so within 1 Pa."""
    assert saturation_pressure_pa(20) == pytest.approx(2338.8, abs=1.0)


@given(st.floats(-40, 90))
def test_saturation_pressure_agrees_with_psychrolib(celsius: float) -> None:
    assert saturation_pressure_pa(celsius) == pytest.approx(psychrolib.GetSatVapPres(celsius), rel=2e-4)


@given(st.floats(-10, 60), st.floats(0.05, 1.0))
def test_dew_point_agrees_with_psychrolib(celsius: float, rh: float) -> None:
    assert dew_point_c(celsius, rh) == pytest.approx(psychrolib.GetTDewPointFromRelHum(celsius, rh), abs=0.02)


@pytest.mark.parametrize(("celsius", "rh"), [(20, 0), (20, 1.2), (200, 0.5), (-90, 0.5)])
def test_air_that_cannot_be(celsius: float, rh: float) -> None:
    with pytest.raises(BadInput):
        dew_point_c(celsius, rh)
    with pytest.raises(BadInput):
        saturation_pressure_pa(400)


def test_cooling_to_half_a_degree() -> None:
    """31 to 21 °C within 0.5 °C takes ln 20 = 2.996 time constants (calculus)."""
    assert minutes_until(31, 21, 0.5, 1.0) == pytest.approx(2.996, abs=5e-4)


@pytest.mark.parametrize(("start", "room", "tau"), [(4, 20, 45), (-8, 21, 30), (38, 20, 40)])
def test_cooling_agrees_with_a_numeric_solution(start: float, room: float, tau: float) -> None:
    """dT/dt = (T_room − T)/τ solved by scipy: at the computed time the gap is the tolerance."""
    minutes = minutes_until(start, room, 3.0, tau)
    solution = solve_ivp(lambda t, y: (room - y) / tau, (0, minutes), [start], rtol=1e-9, atol=1e-9)
    assert abs(solution.y[0, -1] - room) == pytest.approx(3.0, abs=1e-5)


def test_cold_case_gathers_water() -> None:
    answer = acclimatise(4, 20, 0.5, 45)
    assert answer.condenses
    assert answer.minutes == pytest.approx(45 * math.log(16 / 3))
    assert answer.minutes_to_dew == pytest.approx(45 * math.log(16 / (20 - 9.272)), rel=1e-3)
    assert answer.minutes >= answer.minutes_to_dew


def test_damp_room_waits_for_the_dew_point() -> None:
    """At 95 % the dew point is within a degree of the room: the tolerance alone would be too short."""
    answer = acclimatise(4, 20, 0.95, 45)
    assert answer.minutes == answer.minutes_to_dew > 45 * math.log(16 / 3)


def test_warm_case_only_waits_for_the_tolerance() -> None:
    answer = acclimatise(33, 20, 0.5, 45)
    assert not answer.condenses and answer.minutes == pytest.approx(45 * math.log(13 / 3))
    assert acclimatise(21, 20, 0.5, 45).minutes == 0


def test_no_such_temperature() -> None:
    for case in (-60, 90):
        with pytest.raises(BadInput):
            acclimatise(case, 20, 0.5, 45)
    with pytest.raises(BadInput):
        minutes_until(4, 20, 0, 45)
