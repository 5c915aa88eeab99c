"""Case thermometer, storage log, mixes between two stocks: calculus, arithmetic, simulation."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.climate.case_fit import fit_case
from creekbed.core.climate.journey import Leg, arrives, is_journey, parse_legs
from creekbed.core.climate.storage import MOULD_FROM, storage
from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.mixes import between, dilute, in_two_steps


def test_a_case_by_newtons_law() -> None:
    """31 to 21 °C in a room of 20 °C to within 0.5: calculus, ln 20 time constants."""
    minutes = [0.0, 10.0, 20.0, 40.0]
    fit = fit_case(minutes, [20 + 11 * math.exp(-m / 35.0) for m in minutes], 20.0, 40.0, u_c=0.02)
    assert fit.tau_min == pytest.approx(35.0, rel=0.05) and fit.low_min < 35.0 < fit.high_min
    assert fit.at(0.0) == pytest.approx(20 + 11 * math.exp(-40 / 35.0), abs=0.05)
    best, soon, late = fit.until(2.0)
    assert best == pytest.approx(35.0 * math.log(11 * math.exp(-40 / 35.0) / 2.0), rel=0.1) and soon < best < late
    assert fit.at_95(30.0)[0] < fit.at(30.0) < fit.at_95(30.0)[1]


def test_a_case_that_goes_away_from_the_room_is_none_in_it() -> None:
    for readings in ([8.0, 6.0, 4.0], [24.0, 27.0], [17.0, 26.0]):
        with pytest.raises(BadInput, match="goes away"):
            fit_case([10.0 * n for n in range(len(readings))], readings, 20.0, 40.0)


def test_a_journey_of_legs() -> None:
    """Newton's law leg by leg, by hand: 20 °C, one time constant at 0 °C, then half of one at 10 °C."""
    found = arrives(20.0, (Leg(40.0, 0.0), Leg(20.0, 10.0)), 40.0)
    first = 20 * math.exp(-1)
    assert found.celsius == pytest.approx(10 + (first - 10) * math.exp(-0.5))
    assert found.low_c < found.celsius < found.high_c and found.careful(20.0) == found.low_c
    assert parse_legs("2 h at −5 °C; 10 min at 12 °C") == (Leg(120.0, -5.0), Leg(10.0, 12.0))
    assert parse_legs("40 min in 100 °F then 1 h at 20 °C")[0].celsius == pytest.approx(37.78, abs=0.01)
    assert is_journey("2 h at 4 °C") and not is_journey("4 °C")
    for text in ("", "2 h", "at 4 °C", "2 h at 400 °C", "-2 h at 4 °C", "; ".join(["1 h at 4 °C"] * 20)):
        with pytest.raises(BadInput):
            arrives(20.0, parse_legs(text), 40.0)


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
    assert steps.between_pct == pytest.approx(0.5, rel=0.1) and steps.second.strength_pct == pytest.approx(
        0.05, rel=0.02
    )
    assert steps.first.stock_rounded_ml >= 5 and steps.second.stock_rounded_ml == pytest.approx(50.0, abs=3)
    assert steps.first.make_ml >= steps.second.stock_rounded_ml
    # in whole marks, by hand: 5 % of what is measured, twice
    made = 5.0 * steps.first.stock_rounded_ml / steps.first.make_ml * steps.second.stock_rounded_ml / 500.0
    assert steps.second.strength_pct == pytest.approx(made)
    with pytest.raises(Refused, match="not in two steps either"):
        in_two_steps(6.0, 0.00001, 500.0, 25.0)


def test_marks_too_coarse_are_refused_and_none_is_used_where_none_is_needed() -> None:
    """6 % to 0.01 % by 25 ml marks came out at 0.3 %: thirty times too strong."""
    with pytest.raises(Refused, match="marks 25 ml apart") as caught:
        dilute(6.0, 0.01, 500.0, 25.0)
    assert caught.value.fields["coarse"] and "two steps" in caught.value.todo
    nothing = between(6.0, 3.0, 3.0, 500.0, 25.0)
    assert nothing.stock_rounded_ml == 0.0 and nothing.strength_pct == pytest.approx(3.0)
    with pytest.raises(BadInput, match="at most 1000 l"):
        dilute(6.0, 3.0, 1e27)


def test_two_bottles_of_alcohol_shrink() -> None:
    """Alcohol and mass stay: 96 % and 30 % to 1 l of 70 % want 16.6 ml more than they make; the densities are
    those of the OIML tables (from memory, to 0.1 g/l), the two equations are solved by numpy."""
    rho = {96.0: 0.80742, 30.0: 0.96224, 70.0: 0.88551}
    first, second = np.linalg.solve([[96.0, 30.0], [rho[96.0], rho[30.0]]], [70.0 * 1000, rho[70.0] * 1000])
    mix = between(96.0, 30.0, 70.0, 1000.0, basis="v/v")
    assert (mix.stock_ml, mix.diluent_ml) == (pytest.approx(first, abs=0.2), pytest.approx(second, abs=0.2))
    assert first + second > 1010 and mix.shrinks == pytest.approx(first + second - 1000, abs=0.2)
    assert between(96.0, 30.0, 70.0, 1000.0).stock_ml == pytest.approx(606.06, abs=0.01)  # by volume alone: 1.2 % off
    marked = between(96.0, 30.0, 70.0, 1000.0, 25.0, basis="v/v")
    assert marked.stock_rounded_ml == 600.0 and marked.strength_pct == pytest.approx(70.1, abs=0.1)
    weak_first = between(30.0, 96.0, 70.0, 1000.0, 25.0, basis="v/v")
    assert weak_first.stock_rounded_ml == 425.0 and weak_first.strength_pct == pytest.approx(69.5, abs=0.2)
