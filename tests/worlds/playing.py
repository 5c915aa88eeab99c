"""Players on instruments that the play-test does not assume: tones with formants, jitter and breath, in another room.

Nothing here is shared with the synthesiser that ships. A tone is filtered pulses, as of a reed or lips, not a sum of
partials; a room is a few combs; faults come as a leak makes them: less drive, a late start, wind beside it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, lfilter, sosfilt

from tests.worlds import tones

Real = NDArray[np.float64]
RATE = 22_050


@dataclass(frozen=True)
class Style:
    """How somebody plays, and on what.

    Attributes:
        odd: a closed cylinder, whose pulses come as half waves. lies: of the whole instrument, cents. scatter: of each
            note, cents. loud_db: from note to note. lead_s: from breath to tone. wind: of the breath, a share of the
            tone. slurs: how many notes of a hundred are slurred.
    """

    odd: bool = False
    lies: float = 0.0
    scatter: float = 4.0
    loud_db: float = 1.2
    lead_s: float = 0.03
    wind: float = 0.02
    slurs: float = 0.1


@dataclass(frozen=True)
class Ill:
    """What is wrong with one note: cents off, later by seconds, weaker by dB, wind as a share; or no tone at all."""

    cents: float = 0.0
    late_s: float = 0.0
    weaker_db: float = 0.0
    wind: float = 0.0
    silent: bool = False


def pulses(rng: np.random.Generator, hz: float, count: int, odd: bool) -> Real:
    """Pulses of a valve that opens once a period, a little unevenly, and what a bore makes of them; mean square 1."""
    walk = np.cumsum(rng.normal(size=count)) * 0.15 / np.sqrt(RATE)
    walk -= np.linspace(walk[0], walk[-1], count)
    phase = np.cumsum(hz * np.exp2(walk / 12) / RATE)
    turn = phase % 1.0
    if odd:
        wave = np.tanh(4 * np.sin(2 * np.pi * turn)) + 0.04 * np.cos(4 * np.pi * turn)
    else:
        wave = np.exp(-turn * 5) - np.exp(-5) * turn
    wave = lfilter([1.0], [1.0, -0.55], wave - wave.mean())
    for middle, width in ((900.0, 500.0), (2100.0, 900.0)):  # formants
        top = min(middle + width / 2, 0.45 * RATE)
        wave = wave + 0.6 * sosfilt(butter(1, [middle - width / 2, top], "band", fs=RATE, output="sos"), wave)
    return np.asarray(wave / np.sqrt((wave**2).mean()))


def wind(rng: np.random.Generator, count: int) -> Real:
    """Breath: noise of a broad band, mean square 1."""
    found = sosfilt(butter(1, [400.0, 5000.0], "band", fs=RATE, output="sos"), rng.normal(size=count))
    return np.asarray(found / np.sqrt((found**2).mean()))


def one_note(rng: np.random.Generator, hz: float, seconds: float, style: Style, ill: Ill | None, begin: bool) -> Real:
    """A note with its breath; ``begin``: it is tongued, not slurred."""
    ill = ill or Ill()
    count = int(seconds * RATE)
    at = np.arange(count) / RATE
    start = (style.lead_s + ill.late_s) if begin else ill.late_s
    rises = 1 / (1 + np.exp(-(at - start - 0.02) / 0.006))
    ends = np.minimum(1.0, (seconds - at) / 0.04)
    blown = np.minimum(1.0, at / 0.01) * ends
    cents = style.lies + rng.normal(0, style.scatter) + ill.cents
    tone = np.zeros(count)
    if not ill.silent:
        tone = pulses(rng, hz * 2 ** (cents / 1200), count, style.odd) * rises * ends
        tone *= 10 ** ((rng.normal(0, style.loud_db) - ill.weaker_db) / 20)
    share = style.wind + ill.wind
    return np.asarray(0.12 * (tone + share * wind(rng, count) * blown))


def performance(
    rng: np.random.Generator, hz: Sequence[float], style: Style, ills: Mapping[int, Ill] | None = None
) -> Real:
    """Notes one after another in a room, shape (N,), at :data:`RATE`."""
    ills = ills or {}
    parts = [np.zeros(int(0.4 * RATE))]
    slurred = False
    for n, f in enumerate(hz):
        parts.append(one_note(rng, f, rng.uniform(0.5, 0.8), style, ills.get(n), not slurred))
        slurred = rng.random() < style.slurs
        if not slurred:
            parts.append(np.zeros(int(rng.uniform(0.12, 0.3) * RATE)))
    parts.append(np.zeros(int(0.5 * RATE)))
    sound = np.concatenate(parts)
    for delay, back in ((0.0237, 0.10), (0.0411, 0.08), (0.0673, 0.05)):  # three walls
        late = int(delay * RATE)
        sound[late:] += back * sound[:-late]
    hum = 2e-4 * np.sin(2 * np.pi * 50 * np.arange(sound.size) / RATE)
    return np.asarray(sound + hum + 2e-4 * lfilter([1.0], [1.0, -0.9], rng.normal(size=sound.size)))


def open_string(
    rng: np.random.Generator,
    hz: float,
    plucked: bool,
    false: float = 0.0,
    seconds: float = 1.2,
    pulsed_db: float = -99.0,
) -> Real:
    """An open string that sounds, at :data:`RATE`.

    Args:
        false: cents by which its partials scatter. pulsed_db: noise of the hair in the string's own beat, as a bow
            makes on a sound string too, against the string.
    """
    at = np.arange(int(seconds * RATE)) / RATE
    k = np.arange(1.0, 15.0)
    stretch = 10 ** rng.uniform(-5, -3.7) if plucked else 0.0
    own = tones.partial_hz(hz, stretch, k) / np.sqrt(1 + stretch) * np.exp2(false * rng.normal(size=k.size) / 1200)
    own = own[own < 0.45 * RATE]
    fade = rng.uniform(0.8, 2.5) if plucked else 0.0
    wobble = 1.0 if plucked else 1 + 0.05 * np.sin(2 * np.pi * rng.uniform(3, 6) * at)
    sound = sum(
        (n + 1) ** -0.8 * np.exp(0.3 * rng.normal()) * np.exp(-fade * (1 + 0.1 * n) * at)
        * np.sin(2 * np.pi * (f * at + rng.random()))
        for n, f in enumerate(own)
    )  # fmt: skip
    sound = np.asarray(sound * wobble)
    hair = tones.noise(rng, at.size, "pink") * (0.003 if plucked else 0.02)
    if pulsed_db > -90:
        sound = sound + rattle(rng, hz, sound, pulsed_db)
    return np.asarray(0.12 * (sound / np.sqrt((sound**2).mean()) + hair))


def rattle(rng: np.random.Generator, hz: float, sound: Real, level_db: float) -> Real:
    """What a loose part adds to a string: a burst once a period where the string throws it, now stronger, now weaker.

    Args:
        level_db: of all of it, against the string.
    """
    throws = np.sqrt(np.maximum(sosfilt(butter(2, 8.0, fs=RATE, output="sos"), sound**2), 1e-12))
    made = np.zeros(sound.size)
    for start in np.flatnonzero(np.diff(np.floor(hz * np.arange(sound.size) / RATE + rng.random()))):
        size = min(int(rng.uniform(0.0006, 0.002) * RATE) + 4, sound.size - start)
        burst = rng.normal(size=size) * np.exp(-3 * np.arange(size) / size)
        made[start : start + size] += throws[start] * rng.normal(1, 0.35) * burst
    made = sosfilt(butter(1, [1800.0, 6000.0], "band", fs=RATE, output="sos"), made)
    return np.asarray(made * 10 ** (level_db / 20) * np.sqrt((sound**2).mean() / max((made**2).mean(), 1e-20)))


OPEN_STRINGS = {
    "violin": {"G": 195.998, "D": 293.665, "A": 440.0, "E": 659.255},
    "acoustic_guitar": {"E2": 82.407, "A2": 110.0, "D3": 146.832, "G3": 195.998, "B3": 246.942, "E4": 329.628},
}
"""Pitches at A4 = 440 Hz, Hz: ISO 16, equal temperament."""


def strings_played(family: str, cents: dict[str, Sequence[float]], seed: int = 1) -> Real:
    """Each string by turns, at one deviation after another, each for a second; in a room's noise."""
    rng = np.random.default_rng(seed)
    parts = [2e-4 * rng.normal(size=RATE // 2)]
    for key, hz in OPEN_STRINGS[family].items():
        for off in cents.get(key, ()):
            made = tones.tone(rng, hz * 2 ** (off / 1200), 1.0, "harmonic", rate=RATE)
            parts += [0.12 * made.clean / np.sqrt((made.clean**2).mean()), np.zeros(RATE // 4)]
    sound = np.concatenate(parts)
    return sound + 2e-4 * rng.normal(size=sound.size)
