"""Strings against worked examples, and settling against a general fit."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq, curve_fit

from creekbed.core.errors import BadInput
from creekbed.core.strings.settling import (
    DAY_MIN,
    Creep,
    first_day_cents,
    fit_creep,
    pitch_over_time,
    retune_times,
)  # fmt: skip
from creekbed.core.strings.tension import pitch_hz, plain_mass_kg_per_m, tension_elsewhere_n, tension_n


def test_plain_steel_e_string() -> None:
    """Steel 7850 kg/m³, 0.254 mm, E4 at 647.7 mm: 3.978e-4 kg/m, 72.5 N (Mersenne; charts print 16.2 lbf)."""
    mass = plain_mass_kg_per_m(7850, 0.254)
    assert mass == pytest.approx(3.978e-4, rel=1e-3)
    tension = tension_n(647.7, pitch_hz("E4"), mass)
    assert tension == pytest.approx(72.5, abs=0.1)
    assert tension / 4.4482216 == pytest.approx(16.3, abs=0.1)


def test_textbook_rope() -> None:
    """5.00 m, 40 g/m, 20 Hz: 1600 N (Young and Freedman, recalled)."""
    assert tension_n(5000, 20, 0.040) == pytest.approx(1600)


@pytest.mark.parametrize(
    ("note", "hz"),
    [
        ("A4", 440.0),
        ("E5", 659.255),
        ("D4", 293.665),
        ("G3", 195.998),
        ("C2", 65.406),
        ("F#3", 184.997),
        ("Bb3", 233.082),
    ],
)
def test_pitches(note: str, hz: float) -> None:
    """Equal temperament on A4 = 440 (ISO 16)."""
    assert pitch_hz(note) == pytest.approx(hz, abs=0.001)


def test_house_pitch() -> None:
    assert 1200 * math.log2(pitch_hz("A4", 441) / pitch_hz("A4")) == pytest.approx(3.930, abs=0.001)  # ISO 16


@pytest.mark.parametrize("note", ["A", "", "A44", "A#b4"])
def test_no_such_note(note: str) -> None:
    with pytest.raises(BadInput):
        pitch_hz(note)


@given(st.floats(10, 300), st.floats(200, 1100), st.floats(200, 1100), st.floats(60, 700), st.floats(60, 700))
def test_tension_elsewhere_is_mersenne_twice(stated: float, at: float, to: float, hz: float, hz2: float) -> None:
    mass = stated / (4 * (at / 1000) ** 2 * hz**2)
    assert tension_elsewhere_n(stated, at, to, hz, hz2) == pytest.approx(tension_n(to, hz2, mass))


def test_nothing_may_be_zero() -> None:
    with pytest.raises(BadInput):
        tension_n(0, 440, 0.001)
    with pytest.raises(BadInput):
        tension_elsewhere_n(58, 328, -1, 440, 440)
    with pytest.raises(BadInput):
        Creep(0, 5)
    with pytest.raises(BadInput):
        fit_creep(Creep(12, 5), [(5, 5, 3)])


@given(st.floats(2, 40), st.floats(1, 60), st.floats(1, 30))
def test_each_retune_comes_when_the_tolerance_is_reached(a: float, tau: float, tolerance: float) -> None:
    """The closed form against a root found by scipy."""
    law = Creep(a, tau)
    if tolerance / a > 6:
        return
    waits = retune_times(law, tolerance, 2)
    at = 0.0
    for wait in waits:
        root = brentq(lambda t, at=at: law.drop_cents(at, t) - tolerance, at, 1e9)
        assert wait == pytest.approx(min(root - at, 30 * 24 * 60), rel=1e-6)  # no forecast goes beyond a month
        at += wait
    assert waits[1] > waits[0] or waits[1] == 30 * 24 * 60


def test_fit_agrees_with_a_general_least_squares() -> None:
    """Without the house's weight the amount is what scipy's curve_fit finds for the same model."""
    rng = np.random.default_rng(3)
    truth = Creep(17.0, 5.0)
    rows = [(t, t + 20, truth.drop_cents(t, t + 20) + rng.normal(0, 0.3)) for t in (0.0, 20.0, 60.0, 130.0)]
    x = np.array([math.log((5 + e) / (5 + s)) for s, e, _ in rows])
    expected, _ = curve_fit(lambda x, a: a * x, x, [d for *_, d in rows])
    assert fit_creep(Creep(12, 5), rows, house_weight=0).a_cents == pytest.approx(expected[0], rel=1e-6)
    assert 12 < fit_creep(Creep(12, 5), rows).a_cents < 17.2


def test_one_odd_reading_does_not_throw_the_forecast() -> None:
    fitted = fit_creep(Creep(12, 5), [(0, 12, 60)])
    assert 12 < fitted.a_cents < 0.5 * (12 + 60 / math.log(17 / 5)) + 0.01
    assert fit_creep(Creep(12, 5), [(0, 12, -80)]).a_cents > 0  # went sharp: tuned by somebody, not a law


def test_no_readings_leave_the_house_law() -> None:
    law = Creep(12, 5)
    assert fit_creep(law, []) is law
    assert law.drop_cents(56, 56 + DAY_MIN) == pytest.approx(12 * math.log((5 + 56 + 1440) / 61))


@given(st.floats(2, 40), st.floats(1, 30), st.lists(st.floats(1, 200), max_size=4, unique=True), st.floats(5, 400))
def test_the_curve_is_the_law_between_retunes(a: float, tau: float, retunes: list[float], until: float) -> None:
    """Against the law summed step by step with numpy: between retunes the drop is the integral of a/(τ + t)."""
    law, at = Creep(a, tau), sorted(retunes)
    times, cents = pitch_over_time(law, at, until)
    assert times[0] == 0 and times[-1] == pytest.approx(until) and cents[0] == 0
    assert np.all(np.diff(times) >= 0) and np.all(cents <= 1e-9)
    for k in (len(times) // 3, len(times) - 1):
        last = max((t for t in at if t <= times[k] and t < until), default=0.0)
        grid = np.linspace(last, times[k], 4001)
        assert -cents[k] == pytest.approx(np.trapezoid(a / (tau + grid), grid), rel=1e-3, abs=1e-6)


def test_the_first_day() -> None:
    law = Creep(12, 5)
    assert first_day_cents(law, 55) == pytest.approx(12 * math.log((60 + 1440) / 60))
    assert first_day_cents(law, 500) < first_day_cents(law, 55)


@pytest.mark.parametrize(("retunes", "until"), [([], 0), ([], -5), ([20, 10], 60), ([5, 5], 60)])
def test_curves_that_cannot_be(retunes: list[float], until: float) -> None:
    with pytest.raises(BadInput):
        pitch_over_time(Creep(12, 5), retunes, until)


@pytest.mark.parametrize(
    ("typed", "same"),
    [
        ("a4", "A4"), ("B♭3", "A#3"), ("b♭3", "A#3"), ("f♯3", "F#3"), ("H3", "B3"), ("h3", "B3"), ("Es4", "D#4"),
        ("As3", "G#3"),
        ("Des4", "C#4"), ("Fis3", "F#3"), ("Ces4", "B3"), (" E 5 ", "E5"), ("A₄", "A4"), ("c♮4", "C4"), ("Hes3", "A#3"),
    ],
)  # fmt: skip
def test_notes_as_people_write_them(typed: str, same: str) -> None:
    """German: H is the English B, -is raises, -es lowers, As and Es are short (from memory)."""
    assert pitch_hz(typed) == pytest.approx(pitch_hz(same))


@pytest.mark.parametrize("typed", ["Cs4", "Hs3", "Bs3", "A", "4", "A44x", "", "Fes", "do4", "I4"])
def test_what_is_no_note(typed: str) -> None:
    with pytest.raises(BadInput, match="is not a note"):
        pitch_hz(typed)


def test_settling_tells_no_nonsense() -> None:
    """What holds for a month holds; a string that slips is no string that settles."""
    house = Creep(12.0, 5.0)
    assert Creep(0.01, 5.0).next_out(10.0, 5.0) == 10.0 + 30 * 24 * 60
    assert fit_creep(house, [(0.0, 12.0, 0.0)]).next_out(12.0, 4.0) < 1e5
    for drops, words in (
        ([(0.0, 12.0, 2e6)], "No string goes flat"), ([(0.0, 1e8, 16.0)], "more than a month"),
        ([(0.0, 12.0, 550.0)], "does not look like settling"), ([(12.0, 3.0, 5.0)], "later end"),
    ):  # fmt: skip
        with pytest.raises(BadInput, match=words):
            fit_creep(house, drops)
