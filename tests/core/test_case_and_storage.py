"""Case thermometer, storage log, mixes between two stocks: calculus, arithmetic, simulation."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.climate.case_fit import fit_case
from creekbed.core.climate.storage import MOULD_FROM, storage
from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.mixes import between, dilute, in_two_steps


def test_a_case_by_newtons_law() -> None:
    """31 to 21 °C in a room of 20 °C to within 0.5: calculus, ln 20 time constants."""
    minutes = [0.0, 10.0, 20.0, 40.0]
    fit = fit_case(minutes, [20 + 11 * math.exp(-m / 35.0) for m in minutes], 20.0, 40.0, u_c=0.02)
    assert fit.tau_min == pytest.approx(35.0, rel=0.01) and fit.low_min < 35.0 < fit.high_min
    assert fit.at(0.0) == pytest.approx(20 + 11 * math.exp(-40 / 35.0), abs=0.05)
    best, soon, late = fit.until(0.5)
    assert best == pytest.approx(35.0 * math.log(11 * math.exp(-40 / 35.0) / 0.5), rel=0.02) and soon < best < late


def test_two_near_readings_say_little_and_say_so() -> None:
    near = fit_case([0.0, 2.0], [5.0, 5.4], 20.0, 40.0)
    far = fit_case([0.0, 40.0], [5.0, 14.4], 20.0, 40.0)
    assert near.high_min / near.low_min > 2 * far.high_min / far.low_min
    assert near.low_min < 40.0 < near.high_min


def test_the_interval_of_a_case_holds() -> None:
    """Of 300 cases with time constants about the house's, 90 to 99 of a hundred lie in the 95 % interval."""
    rng = np.random.default_rng(4)
    inside = 0
    for _ in range(300):
        tau = 40.0 * math.exp(rng.normal(0, 0.5))
        times = np.sort(rng.uniform(0, 60, int(rng.integers(2, 6))))
        seen = 20 - 14 * np.exp(-times / tau) + rng.normal(0, 0.3, len(times))
        fit = fit_case(times.tolist(), seen.tolist(), 20.0, 40.0)
        inside += fit.low_min <= tau <= fit.high_min
    assert 270 <= inside <= 297


@pytest.mark.parametrize(
    ("minutes", "celsius"),
    [
        ([0.0], [5.0]),
        ([0.0, 0.0], [5.0, 6.0]),
        ([5.0, 1.0], [5.0, 6.0]),
        ([0.0, 1.0], [5.0, math.nan]),
        ([0, 1], [5, 200]),
    ],
)
def test_readings_that_make_no_case(minutes: list[float], celsius: list[float]) -> None:
    with pytest.raises(BadInput):
        fit_case(minutes, celsius, 20.0, 40.0)


def test_hours_outside_by_hand() -> None:
    """A triangle from 50 to 80 % and back in 30 h: above 68 % for 2·15·12/30 = 12 h; above 60 % for 20 h."""
    log = storage([0, 7.5, 15, 22.5, 30], [20] * 5, [0.5, 0.65, 0.8, 0.65, 0.5])
    assert log.mould_h == pytest.approx(12.0) and log.longest_h == pytest.approx(12.0)
    assert log.damp_h == pytest.approx(20.0) and log.dry_h == pytest.approx(0.0, abs=1e-9)
    assert log.hours == 30 and log.mean_rh == pytest.approx(0.65) and log.risk == "watch"


def test_mould_needs_a_spell() -> None:
    days = [24.0 * n / 2 for n in range(10)]
    damp = storage(days, [18] * 10, [0.75] * 10)
    assert damp.risk == "act" and damp.longest_h == pytest.approx(108.0) and "Mould" in damp.words()
    good = storage(days, [18] * 10, [0.5] * 10)
    assert good.risk == "none" and good.words() == "The room is as it should be."
    dry = storage(days, [20] * 10, [0.25] * 10)
    assert "Too dry" in dry.words() and dry.dry_h == pytest.approx(dry.hours)


def test_a_gap_is_not_counted() -> None:
    log = storage([0, 6, 100, 106], [18] * 4, [0.75] * 4)
    assert log.hours == 12 and log.longest_h == 6


def test_a_window_left_open() -> None:
    """50 to 30 % at 20 °C: 9.2 to 6.2 % moisture (Wood Handbook, EMC table), three points in an hour."""
    log = storage([0, 1, 2], [21.1, 21.1, 21.1], [0.5, 0.3, 0.3])
    assert log.fastest_day == pytest.approx(3.0, abs=0.15) and "fast" in log.words()


@given(st.lists(st.floats(0, 1), min_size=2, max_size=40), st.floats(0.1, 11))
def test_hours_add_up(humidity: list[float], step: float) -> None:
    log = storage([n * step for n in range(len(humidity))], [20] * len(humidity), humidity)
    assert log.hours == pytest.approx(step * (len(humidity) - 1))
    assert -1e-6 <= log.longest_h <= log.mould_h + 1e-9 <= log.damp_h + 2e-9 <= log.hours + 1e-6
    assert -1e-6 <= log.dry_h <= log.hours + 1e-6 and 0 <= log.mean_rh <= 1 and MOULD_FROM > 0.6


def test_what_is_no_log() -> None:
    for rows in (([0], [20], [0.5]), ([0, 0], [20, 20], [0.5, 0.5]), ([0, 1], [20, 99], [0.5, 0.5])):
        with pytest.raises(BadInput):
            storage(*rows)


# --- mixes ----------------------------------------------------------------------------------------------------------


def test_between_two_bottles() -> None:
    """Alligation by hand: 6 % and 1 % to 3 %: 2 parts to 3."""
    mix = between(6.0, 1.0, 3.0, 500.0)
    assert (mix.stock_ml, mix.diluent_ml) == (pytest.approx(200.0), pytest.approx(300.0))
    assert between(6.0, 1.0, 3.0, 500.0, 30.0).strength_pct == pytest.approx((6 * 210 + 290) / 500)
    assert between(6.0, 0.0, 3.0, 500.0, 25.0) == dilute(6.0, 3.0, 500.0, 25.0)
    with pytest.raises(Refused):
        between(6.0, 4.0, 3.0, 500.0)


@given(st.floats(1, 100), st.floats(0.01, 0.99), st.floats(0.05, 0.95), st.floats(50, 5000))
def test_volume_and_what_is_in_it_are_conserved(strong: float, weak: float, at: float, make: float) -> None:
    second = weak * strong
    target = second + at * (strong - second)
    mix = between(strong, second, target, make)
    assert mix.stock_ml + mix.diluent_ml == pytest.approx(make)
    assert strong * mix.stock_ml + second * mix.diluent_ml == pytest.approx(target * make, rel=1e-9)


def test_a_strong_dilution_in_two_steps() -> None:
    """5 % to 0.05 % by a syringe of 1 ml marks: 1 + 9, twice."""
    steps = in_two_steps(5.0, 0.05, 500.0, 1.0)
    assert steps.between_pct == pytest.approx(0.5, rel=0.02) and steps.second.strength_pct == pytest.approx(
        0.05, rel=0.02
    )
    assert steps.first.stock_rounded_ml >= 5 and steps.second.stock_rounded_ml == pytest.approx(50.0, abs=1)
    assert steps.first.make_ml >= steps.second.stock_rounded_ml
