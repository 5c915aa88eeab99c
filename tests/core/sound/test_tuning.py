"""Names of pitches, the air's warmth, and which part of a recording is listened to."""

from __future__ import annotations

import numpy as np
import pytest

from creekbed.core.errors import BadInput
from creekbed.core.sound.tuning import nearest_note, warmth_cents
from creekbed.core.sound.windows import loudest_part
from creekbed.core.strings.tension import pitch_hz


def test_a_cent_is_a_hundredth_of_a_semitone() -> None:
    """441 over 440 Hz: 3.930 cents (arithmetic)."""
    found = nearest_note(441.0)
    assert found.name == "A4" and found.cents == pytest.approx(3.930, abs=0.001)
    assert nearest_note(442.0, 442.0).cents == pytest.approx(0)


@pytest.mark.parametrize("note", ["A0", "E1", "C4", "F#3", "B♭2", "E♭5", "G#4", "C8"])
def test_each_note_is_nearest_to_itself(note: str) -> None:
    found = nearest_note(pitch_hz(note, 415.0), 415.0)
    assert found.name == note and abs(found.cents) < 1e-6


def test_warm_air_is_sharp() -> None:
    """15 to 25 °C: 29.5 cents (c goes as the root of T, acoustics text)."""
    assert warmth_cents(25, 15) == pytest.approx(29.5, abs=0.1) and warmth_cents(20) == 0
    assert warmth_cents(21) == pytest.approx(3.0, abs=0.1)


@pytest.mark.parametrize("wrong", [0.0, -3.0, float("nan"), float("inf")])
def test_what_is_no_pitch_or_no_air(wrong: float) -> None:
    with pytest.raises(BadInput):
        nearest_note(wrong)
    with pytest.raises(BadInput):
        warmth_cents(90)


def test_the_loudest_tone_without_its_beginning() -> None:
    rate, rng = 8000, np.random.default_rng(0)
    t = np.arange(3 * rate) / rate
    tone = np.where(t > 1.0, np.exp(-2 * (t - 1)) * np.sin(2 * np.pi * 300 * t), 0.0)
    part = loudest_part(tone + 1e-3 * rng.normal(size=t.size), rate)
    assert 1.04 <= part.start / rate <= 1.12 and 2.0 < part.stop / rate < 2.8
    short = loudest_part(np.sin(t[:900] * 2000), rate)
    assert 0 <= short.start < short.stop <= 900
