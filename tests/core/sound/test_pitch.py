"""Pitch near the limit: its error against the bound of Cramér and Rao, its intervals in worlds not assumed."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from creekbed.core.errors import BadInput
from creekbed.core.sound.pitch import pitch_of
from creekbed.core.sound.wandering import _swing, middle_of_vibrato, middle_of_wandering
from tests.worlds.tones import RATE, Noise, bound_hz, heard, noise, swaying, tone

KINDS = ("harmonic", "stretched", "odd", "missing")


def _as(kind: str) -> str:
    """How the estimator is told: a fundamental that is missing is nothing that one knows before."""
    return "harmonic" if kind == "missing" else kind


def test_the_bound_is_the_published_one() -> None:
    """var f0 = 24σ²/((2π/fs)²·N³·Σk²A_k²) for long windows: Nehorai and Porat 1986; Kay 1993."""
    rng = np.random.default_rng(1)
    made = tone(rng, 196.0, 1.0, "harmonic")
    n = made.clean.size
    sigma2 = np.mean(made.clean**2) / 100
    weight = (made.numbers**2 * np.abs(made.amplitude) ** 2).sum()
    published = math.sqrt(24 * sigma2 / ((2 * math.pi / RATE) ** 2 * n**3 * weight))
    assert bound_hz(made, 20.0, free_stretch=False) == pytest.approx(published, rel=0.01)


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize(("hz", "seconds"), [(27.5, 0.15), (41.2, 0.5), (110.0, 0.1), (440.0, 1.0), (1760.0, 0.3)])
def test_its_error_is_that_of_the_bound(kind: str, hz: float, seconds: float) -> None:
    """Root mean square over 25 tones at 5 to 40 dB, in units of the bound: its own deviation is 0.14."""
    rng = np.random.default_rng(int(hz * 100))
    errors = []
    for _ in range(25):
        made = tone(rng, hz * 2 ** rng.uniform(-0.05, 0.05), seconds, kind)
        snr = rng.uniform(5, 40)
        found = pitch_of(heard(rng, made, snr), RATE, _as(kind))  # type: ignore[arg-type]
        assert found is not None and abs(found.cents_from(made.first_hz)) < 50
        errors.append((found.hz - made.first_hz) / bound_hz(made, snr, free_stretch=kind == "stretched"))
    assert math.sqrt(np.mean(np.square(errors))) < 1.4


@pytest.mark.parametrize("colour", ["white", "pink", "brown", "band", "hum"])
@pytest.mark.parametrize("decay", [0.0, 3.0])
def test_its_interval_holds_in_noise_of_any_colour(colour: Noise, decay: float) -> None:
    """95 % is meant; of 72 tones of all kinds, chance leaves 0.87 to 1 (binomial, ± 3 deviations); of a
    thousand decaying ones in a steep hump of noise 0.91 hold.
    """
    rng = np.random.default_rng(7)
    inside = []
    for n in range(72):
        kind = KINDS[n % 4]
        made = tone(rng, 2 ** rng.uniform(6.0, 10.5), float(rng.choice([0.3, 0.6, 1.2])), kind, decay=decay)
        found = pitch_of(heard(rng, made, rng.uniform(8, 40), colour), RATE, _as(kind))  # type: ignore[arg-type]
        assert found is not None
        inside.append(abs(found.hz - made.first_hz) < 1.96 * found.u_hz)
    assert (0.82 if decay else 0.87) <= np.mean(inside)


def test_a_tone_that_swells_is_followed_to_the_end() -> None:
    """Root mean square of the error in its own standard uncertainties: 1 is meant; 80 tones leave 0.84 to 1.16."""
    rng = np.random.default_rng(3)
    errors = []
    for _ in range(80):
        made = tone(rng, 2 ** rng.uniform(6.5, 10.5), 2.0, "harmonic", swell=2.0)
        found = pitch_of(heard(rng, made, rng.uniform(30, 50), "white"), RATE)
        assert found is not None
        errors.append((found.hz - made.first_hz) / found.u_hz)
    assert 0.8 < math.sqrt(np.mean(np.square(errors))) < 1.2


def test_no_octave_is_mistaken() -> None:
    """120 tones of all kinds, 27 Hz to 4.2 kHz, 0.1 to 2 s with four periods at least, 3 to 40 dB."""
    rng = np.random.default_rng(11)
    wrong = []
    for n in range(120):
        kind = KINDS[n % 4]
        hz = 2 ** rng.uniform(math.log2(27), math.log2(1800 if kind == "missing" else 4200))
        seconds = max(10 ** rng.uniform(-1, 0.3), 4 / hz)
        made, snr = tone(rng, hz, seconds, kind), rng.uniform(3, 40)
        found = pitch_of(heard(rng, made, snr), RATE, _as(kind))  # type: ignore[arg-type]
        if found is None or abs(found.cents_from(made.first_hz)) > 60:
            wrong.append((kind, hz, seconds, snr, found))
    assert not wrong


def test_a_stretched_string_taken_for_a_harmonic_one_comes_out_sharp() -> None:
    """G3 of a plain string of 0.017 in, B = 1.07e-4, 8 partials: by 1.8 cents (direct calculation)."""
    t = np.arange(int(RATE)) / RATE
    k = np.arange(1, 9)
    f = 196.0 * k * np.sqrt(1 + 1.07e-4 * k**2)
    sound = np.sum(np.cos(2 * np.pi * np.outer(t, f)) / k, axis=1) + 1e-3 * np.random.default_rng(0).normal(size=t.size)
    first = 196.0 * math.sqrt(1 + 1.07e-4)
    plain, stretched = pitch_of(sound, RATE, "harmonic"), pitch_of(sound, RATE, "stretched")
    assert plain is not None and stretched is not None
    assert 1.3 < plain.cents_from(first) < 2.3
    assert abs(stretched.cents_from(first)) < 0.01
    assert stretched.stretch == pytest.approx(1.07e-4, abs=4 * stretched.u_stretch)


@pytest.mark.parametrize("depth", [4.0, 15.0])
def test_a_vibrato_is_told_and_widens_the_interval(depth: float) -> None:
    rng = np.random.default_rng(3)
    told, inside = [], []
    for _ in range(25):
        made = tone(rng, 2 ** rng.uniform(7.5, 9.5), 1.0, "harmonic", vibrato_cents=depth)
        found = pitch_of(heard(rng, made, 30.0, "pink"), RATE)
        assert found is not None
        told.append(found.wander_cents)
        inside.append(abs(found.cents_from(made.first_hz)) < 1.96 * found.u_cents)
    assert np.mean(inside) >= 0.9
    assert np.median(told) == pytest.approx(depth / math.sqrt(2), rel=0.35)  # the deviation of a sine wave


def test_a_steady_tone_is_not_called_unsteady() -> None:
    rng = np.random.default_rng(4)
    called = 0
    for n in range(100):
        kind = KINDS[n % 4]
        made = tone(rng, 2 ** rng.uniform(6, 10.5), 0.8, kind)
        found = pitch_of(heard(rng, made, rng.uniform(5, 40), "pink"), RATE, _as(kind))  # type: ignore[arg-type]
        called += found is not None and found.wander_cents > 0
    assert called <= 2  # of a hundred


@pytest.mark.parametrize("colour", ["white", "pink", "band"])
def test_noise_alone_has_no_pitch(colour: Noise) -> None:
    rng = np.random.default_rng(5)
    heard_something = sum(pitch_of(noise(rng, int(0.4 * RATE), colour), RATE) is not None for _ in range(80))
    assert heard_something <= 3
    assert pitch_of(np.zeros(8000), RATE) is None


@settings(max_examples=25, deadline=None)
@given(st.floats(60, 2000), st.floats(1e-6, 1e6), st.integers(0, 2**32 - 1))
def test_what_does_not_change_a_pitch(hz: float, factor: float, seed: int) -> None:
    """Louder or softer, upside down, backwards: the same; at twice the rate an octave higher."""
    rng = np.random.default_rng(seed)
    sound = heard(rng, tone(rng, hz, 0.4, "harmonic"), 25.0)
    one = pitch_of(sound, RATE)
    assert one is not None
    for other in (sound * factor, -sound, sound[::-1]):
        found = pitch_of(other, RATE)
        assert found is not None and found.hz == pytest.approx(one.hz, abs=0.2 * one.u_hz)
    found = pitch_of(sound, 2 * RATE)
    assert found is not None and found.hz == pytest.approx(2 * one.hz, abs=0.4 * one.u_hz)


def test_a_partial_out_of_line_is_seen() -> None:
    """A false string: its third partial is 12 cents sharp."""
    t = np.arange(int(0.8 * RATE)) / RATE
    f = 293.7 * np.arange(1, 8)
    f[2] *= 2 ** (12 / 1200)
    sound = np.sum(np.cos(2 * np.pi * np.outer(t, f)) / np.arange(1, 8), axis=1)
    found = pitch_of(sound + 0.02 * np.random.default_rng(1).normal(size=t.size), RATE, "stretched")
    assert found is not None
    by_number = dict(zip(found.partials.tolist(), found.off_cents, strict=True))
    assert by_number[3] == pytest.approx(12, abs=3) and abs(by_number[5]) < 3


@pytest.mark.parametrize(
    ("sound", "rate"),
    [
        (np.zeros(300), RATE), (np.full(9000, np.nan), RATE), (np.ones((4000, 2)), RATE), (np.ones(9000), 10.0),
        (np.array([]), RATE), (np.full(9000, np.inf), RATE),
    ],
)  # fmt: skip
def test_what_is_no_sound_is_refused(sound: np.ndarray, rate: float) -> None:
    with pytest.raises(BadInput):
        pitch_of(sound, rate)


@pytest.mark.parametrize("cents", [5.0, 20.0])
def test_the_middle_of_an_uneven_vibrato_is_found(cents: float) -> None:
    """Every tone is heard, within a tenth of how far it swings; of 24 intervals of 95 % chance leaves 20."""
    rng = np.random.default_rng(33)
    inside, told = [], []
    for n in range(24):
        case = swaying(rng, cents)
        found = pitch_of(case.sound, RATE)
        assert found is not None and abs(found.cents_from(case.hz)) < 0.1 * cents, n
        told.append(found.wander_cents)
        inside.append(abs(found.hz - case.hz) < 1.96 * found.u_hz)
    assert np.mean(inside) >= 20 / 24
    assert np.median(told) == pytest.approx(cents / math.sqrt(2), rel=0.4)


def parts_of(rng: np.random.Generator, sways: Callable[[np.ndarray], np.ndarray], seconds: float) -> tuple[Any, Any]:
    """Pitches of parts that overlap by half, each a mean over 60 ms, with noise of a cent."""
    at = np.arange(0.06, seconds, 0.03)
    within = np.linspace(-0.03, 0.03, 13)
    hz = 440 * 2 ** (sways(at[:, None] + within).mean(axis=1) / 1200)
    return at, hz * (1 + 0.0002 * rng.normal(size=at.size))


def test_a_swing_whose_pace_changes_is_told_by_its_halves() -> None:
    """One sine does not follow it; a mean over all that it did would know the middle ten times less well."""
    rng = np.random.default_rng(35)
    errors, told = [], []
    for _ in range(20):
        turns = rng.uniform(0, 2 * np.pi)
        at, hz = parts_of(rng, lambda t, turns=turns: 15 * np.sin(2 * np.pi * (4.5 * t + 0.55 * t**2) + turns), 2.0)  # type: ignore[misc]
        assert _swing(at, hz) is None
        found = middle_of_vibrato(at, hz)
        assert found is not None
        errors.append(1200 * math.log2(found[0] / 440))
        told.append(1200 / math.log(2) * found[1] / 440)
    assert np.mean(np.abs(errors) < 1.96 * np.array(told)) >= 0.85
    assert np.median(told) < 0.3 * 1200 / math.log(2) * middle_of_wandering(hz)[1] / 440


def test_what_drifts_is_no_vibrato() -> None:
    rng = np.random.default_rng(36)
    for sways in (lambda t: 10 * t, lambda t: 30 * (t - 0.4) ** 2, lambda t: 8 * np.sin(2 * np.pi * t)):
        at, hz = parts_of(rng, sways, 1.2)
        assert middle_of_vibrato(at, hz) is None
    at, hz = parts_of(rng, lambda t: 10 * np.sin(2 * np.pi * 3.5 * t), 0.36)  # less than a turn: hardly known
    found = middle_of_vibrato(at, hz)
    assert found is None or abs(found[0] - 440) < 2 * found[1] > 0.4


def test_what_lies_beside_the_partials_of_a_vibrato_is_no_lower_tone() -> None:
    """In two seconds of it each partial is a row of peaks, a few hertz apart."""
    rng = np.random.default_rng(34)
    for n in range(12):
        made = tone(rng, 2 ** rng.uniform(6.3, 8.0), 2.0, KINDS[n % 2], vibrato_cents=20.0, vibrato_hz=7.0)
        found = pitch_of(heard(rng, made, 34.0), RATE, KINDS[n % 2])  # type: ignore[arg-type]
        assert found is not None and abs(found.cents_from(made.first_hz)) < 4, n
