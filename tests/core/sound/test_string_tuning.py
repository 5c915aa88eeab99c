"""Tuning: pitches of the strings, which one sounds, what to do about it, when it holds, and what it was before."""

from __future__ import annotations

import numpy as np
import pytest

from creekbed.core.catalogue.load import shipped
from creekbed.core.errors import BadInput
from creekbed.core.sound.listening import heard_in
from creekbed.core.sound.string_tuning import StringReading, Tuner, advice_for, targets
from tests.core.sound.test_listening import RATE, in_a_row, played, still
from tests.worlds import tones


def of(family: str, *, pure_fifths: bool = False, a4: float = 440.0) -> Tuner:
    stringed = shipped().families[family].stringed
    assert stringed is not None
    return Tuner(targets(stringed, a4, pure_fifths=pure_fifths))


def test_pitches_of_open_strings() -> None:
    """ISO 16 and equal temperament; pure fifths of 3:2 lie 1.955 cents wider each: G −3.91, C −5.87 cents from A."""
    even = {k: s.target.hz for k, s in of("violin").states.items()}
    assert even["G"] == pytest.approx(195.998, abs=1e-3) and even["E"] == pytest.approx(659.255, abs=1e-3)
    pure = {k: s.target.hz for k, s in of("violin", pure_fifths=True).states.items()}
    assert 1200 * np.log2(pure["G"] / even["G"]) == pytest.approx(-3.910, abs=0.001)
    viola = of("viola", pure_fifths=True).states["C"].target.hz / of("viola").states["C"].target.hz
    assert 1200 * np.log2(viola) == pytest.approx(-5.865, abs=0.001)
    assert of("violin", a4=442.0).states["A"].target.hz == pytest.approx(442.0)
    with pytest.raises(BadInput, match="fifths"):
        of("acoustic_guitar", pure_fifths=True)


@pytest.mark.parametrize(
    ("cents", "said"),
    [(-250, "far_up"), (-40, "up"), (-9, "up_little"), (-2, "stop"), (2.9, "stop"), (9, "down_little"), (60, "down"),
     (180, "far_down")],
)  # fmt: skip
def test_what_to_do(cents: float, said: str) -> None:
    assert advice_for(StringReading(cents, 0.2, 0.0), steady=False) == said


def test_it_holds_only_beyond_doubt() -> None:
    assert advice_for(StringReading(2.0, 0.2, 0.0), steady=True) == "holds"
    assert advice_for(StringReading(2.0, 0.8, 0.0), steady=True) == "stop"


@pytest.mark.parametrize(("family", "kind"), [("violin", "harmonic"), ("acoustic_guitar", "stretched")])
def test_every_string_is_known_and_read(family: str, kind: str) -> None:
    rng = np.random.default_rng(7)
    tuner = of(family)
    wrong = {k: float(rng.uniform(-20, 20)) for k in tuner.states}
    sound = [still(rng, 0.4)]
    for key, state in tuner.states.items():
        hz = state.target.hz * 2 ** (wrong[key] / 1200)
        made = tones.tone(rng, hz, 0.9, kind, decay=2.0)
        wrong[key] = float(1200 * np.log2(made.first_hz / state.target.hz))
        sound += [0.15 * tones.heard(rng, made, 35.0, "pink") / np.sqrt((made.clean**2).mean()), still(rng, 0.3)]
    for heard in heard_in(in_a_row(*sound), RATE, "stretched", tuner.lowest_hz, tuner.highest_hz, long=True):
        tuner.hear(heard)
    for key, state in tuner.states.items():
        assert state.now is not None and state.found is not None, key
        assert abs(state.now.cents - wrong[key]) < 4 * state.now.u_cents + 0.3, key
    assert not tuner.all_hold


def test_what_was_found_is_kept_when_it_is_turned() -> None:
    """14 cents flat, turned while it sounds, then at rest: found says −14, now says 0 and holds."""
    rng = np.random.default_rng(8)
    tuner = of("violin")
    rest, turn = int(0.8 * RATE), int(0.7 * RATE)
    cents = np.concatenate([np.full(rest, -14.0), np.linspace(-14, 0, turn), np.full(2 * rest, 0.0)])
    turns = np.cumsum(440.0 * np.exp2(cents / 1200)) / RATE
    bowed = 0.1 * sum(np.sin(2 * np.pi * k * turns + k) / k for k in range(1, 11))
    said = []
    for heard in heard_in(
        in_a_row(still(rng, 0.4), bowed + still(rng, cents.size / RATE)[: cents.size]), RATE, "stretched",
        tuner.lowest_hz, tuner.highest_hz, long=True,
    ):  # fmt: skip
        tuner.hear(heard)
        if tuner.advice is not None and (not said or said[-1] != tuner.advice):
            said.append(tuner.advice)
    a = tuner.states["A"]
    assert a.found is not None and a.found.cents == pytest.approx(-14, abs=0.5)
    assert a.now is not None and a.now.cents == pytest.approx(0, abs=0.5) and a.holds
    assert said[0] == "up_little" and said[-1] == "holds" and "stop" in said


def test_a_new_string_far_flat_is_held_on_to() -> None:
    rng = np.random.default_rng(9)
    tuner = of("violin")
    flat = 440.0 * 2 ** (-620 / 1200)  # nearer to the D string
    sound = in_a_row(still(rng, 0.3), played(rng, flat, 0.8))
    tuner.hold("A")
    for heard in heard_in(sound, RATE, "stretched", tuner.lowest_hz, tuner.highest_hz, long=True):
        tuner.hear(heard)
    assert tuner.playing == "A" and tuner.advice == "far_up"
    assert tuner.states["A"].found is not None and tuner.states["A"].found.cents == pytest.approx(-620, abs=2)
    with pytest.raises(BadInput, match="no string"):
        tuner.hold("H")


def test_what_is_no_string_is_left_alone() -> None:
    tuner = of("acoustic_guitar")
    assert tuner.string_of(40.0) is None and tuner.string_of(1200.0) is None
    assert tuner.string_of(111.0) is not None


def test_a_false_string_is_a_suspicion() -> None:
    """Partials that lie off where a stiff string has them, as those of an uneven string do."""
    rng = np.random.default_rng(10)
    for false, told in ((0.0, False), (14.0, True)):
        tuner = of("acoustic_guitar")
        at = np.arange(int(1.2 * RATE)) / RATE
        k = np.arange(1.0, 11.0)
        hz = k * 196.0 * np.sqrt(1 + 6e-5 * k * k) * np.exp2(false * rng.normal(size=k.size) / 1200)
        pluck = sum(np.exp(-1.5 * at) * np.sin(2 * np.pi * f * at + n) / (n + 1) for n, f in enumerate(hz))
        for heard in heard_in(
            in_a_row(still(rng, 0.3), 0.2 * pluck), RATE, "stretched", tuner.lowest_hz, tuner.highest_hz, long=True
        ):
            tuner.hear(heard)
        assert (tuner.states["G3"].false_cents > 0) is told
