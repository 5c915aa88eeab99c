"""A running sound: quiet, noise, tone; the needle's pitch, how late it is, and the number that is kept."""

from __future__ import annotations

import io

import numpy as np
import pytest
import soundfile
from numpy.typing import NDArray

from creekbed.core.errors import BadInput
from creekbed.core.sound.listening import Heard, Listener, heard_in
from tests.worlds import tones

RATE = 22_050.0
Real = NDArray[np.float64]


def in_a_row(*parts: Real) -> Real:
    return np.concatenate(parts)


def still(rng: np.random.Generator, seconds: float, size: float = 3e-4) -> Real:
    return size * rng.normal(size=int(seconds * RATE))


def played(rng: np.random.Generator, hz: float, seconds: float, *, kind: str = "harmonic", level: float = 0.1) -> Real:
    made = tones.tone(rng, hz, seconds, kind)
    heard = tones.heard(rng, made, 35.0, "pink")
    return level * heard / np.sqrt((heard**2).mean())


def test_quiet_then_a_tone_then_quiet() -> None:
    rng = np.random.default_rng(1)
    sound = in_a_row(still(rng, 0.6), played(rng, 220.0, 1.2), still(rng, 0.6))
    heard = list(heard_in(sound, RATE, "harmonic", 150.0, 900.0, long=True))
    assert {h.state for h in heard if h.at_s < 0.55 or h.at_s > 1.9} == {"quiet"}
    sounding = [h for h in heard if 0.75 < h.at_s < 1.75]
    assert all(h.state == "tone" and h.pitch is not None for h in sounding)
    assert all(abs(h.pitch.cents_from(220.0)) < 3 for h in sounding if h.pitch is not None)
    kept = [h.kept for h in heard if h.kept is not None]
    assert kept and abs(kept[-1].cents_from(220.0)) < 4 * kept[-1].u_cents + 0.01


def test_noise_has_no_pitch_and_a_muted_microphone_is_dead() -> None:
    rng = np.random.default_rng(2)
    sound = in_a_row(still(rng, 0.5), 0.1 * tones.noise(rng, int(RATE), "band"))
    states = [h.state for h in heard_in(sound, RATE, "harmonic", 150.0, 900.0)]
    assert states.count("noise") > 24  # of some 33 in a second
    assert "tone" not in states[:10]
    assert {h.state for h in heard_in(np.zeros(int(RATE)), RATE, "harmonic", 150.0, 900.0)} == {"dead"}


def test_what_is_cut_off_is_said() -> None:
    rng = np.random.default_rng(3)
    loud = np.clip(3.0 * played(rng, 300.0, 0.8, level=0.5), -1, 1)
    heard = list(heard_in(in_a_row(still(rng, 0.3), loud), RATE, "harmonic", 150.0, 900.0))
    assert any(h.clipped for h in heard) and not any(h.clipped for h in heard if h.at_s < 0.25)


def test_the_needle_is_no_later_than_its_window() -> None:
    """A pitch that rises by 100 cents a second: what is told for a moment is what sounded in the middle of its window,
    and that middle lies no more than 60 ms behind the newest sample."""
    rng = np.random.default_rng(4)
    at = np.arange(int(2 * RATE)) / RATE
    cents = 100.0 * at
    turns = np.cumsum(250.0 * np.exp2(cents / 1200)) / RATE
    sound = 0.1 * sum(np.sin(2 * np.pi * k * turns) / k for k in range(1, 9)) + still(rng, 2.0)
    listener = Listener(RATE, "harmonic", 180.0, 900.0)
    off, late = [], []
    for n in range(0, sound.size, 600):
        listener.push(sound[n : n + 600])
        heard = listener.hear(long=False)
        if heard is not None and heard.pitch is not None:
            off.append(heard.pitch.cents_from(250.0) - 100.0 * heard.at_s)
            late.append(listener.seconds - heard.at_s)
    assert len(off) > 50
    assert np.abs(np.median(off)) < 1.0 and np.quantile(np.abs(off), 0.95) < 3.0
    assert max(late) <= 0.06


@pytest.mark.parametrize("kind", ["OGG", "thin"])
def test_sound_that_was_stored_with_loss_keeps_its_pitch(kind: str) -> None:
    """Vorbis leaves holes in the noise and cuts it off above; a telephone has nothing above 4 kHz."""
    rng = np.random.default_rng(5)
    for hz in (146.8, 293.7, 440.0):
        sound = in_a_row(still(rng, 0.4), played(rng, hz, 1.0, level=0.15))
        if kind == "OGG":
            packed = io.BytesIO()
            soundfile.write(packed, sound, int(RATE), format="OGG", subtype="VORBIS")
            packed.seek(0)
            sound, _ = soundfile.read(packed)
        else:
            spectrum = np.fft.rfft(sound)
            spectrum[int(3400 / RATE * sound.size) :] = 0.0
            sound = np.fft.irfft(spectrum, sound.size)
        heard: list[Heard] = [h for h in heard_in(sound, RATE, "harmonic", 100.0, 900.0) if 0.6 < h.at_s < 1.3]
        right = [h for h in heard if h.pitch is not None and abs(h.pitch.cents_from(hz)) < 8]
        assert len(right) > 0.9 * len(heard)


def test_a_tone_that_is_held_for_half_a_minute_stays_one() -> None:
    rng = np.random.default_rng(7)
    listener = Listener(RATE, "harmonic", 150.0, 900.0)
    listener.push(still(rng, 0.5))
    listener.hear()
    turn = played(rng, 220.5, 1.0)  # a whole number of periods: it can be strung together
    states = []
    for _ in range(30):
        listener.push(turn)
        heard = listener.hear(long=False)
        assert heard is not None
        states.append(heard.state)
    assert set(states) == {"tone"}


def test_lost_samples_end_the_tone() -> None:
    rng = np.random.default_rng(6)
    listener = Listener(RATE, "harmonic", 150.0, 900.0)
    listener.push(in_a_row(still(rng, 0.3), played(rng, 220.0, 0.8)))
    listener.hear()
    listener.push(played(rng, 220.0, 0.2), lost=5000)
    heard = listener.hear()
    assert heard is not None and heard.kept is None
    assert listener.seconds == pytest.approx((0.3 + 0.8 + 0.2) + 5000 / RATE, abs=0.001)


def test_a_rate_that_cannot_hold_the_pitches() -> None:
    with pytest.raises(BadInput, match="too few"):
        Listener(8000.0, "harmonic", 100.0, 4500.0)
