"""Sounds of instruments, made: for the simulated microphone, for trying a page without an instrument.

A tone is a sum of partials by the law of the pitch, each with its strength, beginning and decay, and the breath or bow
over it. Nothing here is meant to please an ear; it is meant to be as hard to measure as the real thing.

Source: Fletcher and Rossing, The Physics of Musical Instruments: stiff strings, closed and open tubes (from memory);
strengths, noises and times: house default.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

Real = NDArray[np.float64]
MOST_PARTIALS = 24


@dataclass(frozen=True)
class Timbre:
    """What tones of one kind of instrument are made of.

    Attributes:
        even_db: strength of even partials against odd ones. fall_db: how much weaker each octave of partials is.
        stretch: B of the partials. attack_s: how long a tone takes to be there. decay_s: until it has fallen by one
            e-fold, 0 for one that is held. breath_db: noise of breath or bow against the tone. vibrato_cents: its
            amplitude.
    """

    even_db: float = 0.0
    fall_db: float = 8.0
    stretch: float = 0.0
    attack_s: float = 0.03
    decay_s: float = 0.0
    breath_db: float = -40.0
    vibrato_cents: float = 0.0


TIMBRES = {
    "bowed": Timbre(fall_db=6.0, attack_s=0.06, breath_db=-32.0),
    "plucked": Timbre(fall_db=7.0, stretch=6e-5, attack_s=0.003, decay_s=0.9, breath_db=-60.0),
    "clarinet": Timbre(even_db=-22.0, fall_db=7.0, attack_s=0.04, breath_db=-38.0),
    "conical": Timbre(fall_db=5.0, attack_s=0.04, breath_db=-36.0),
    "brass": Timbre(fall_db=4.0, attack_s=0.05, breath_db=-42.0),
    "flute": Timbre(fall_db=14.0, attack_s=0.07, breath_db=-26.0),
}


@dataclass(frozen=True)
class Flaw:
    """What is wrong with a tone.

    Attributes:
        cents: how far it is off. speaks_s: how much longer it takes to speak. weaker_db: how much weaker it is.
        breath_db: how much more breath is in it. false_cents: how far its partials scatter off their law.
        buzz: how much of it something that rattles takes, 0 to 1. silent: only breath comes.
    """

    cents: float = 0.0
    speaks_s: float = 0.0
    weaker_db: float = 0.0
    breath_db: float = 0.0
    false_cents: float = 0.0
    buzz: float = 0.0
    silent: bool = False


SOUND = Flaw()
STUFFY = Flaw(speaks_s=0.18, weaker_db=9.0, breath_db=14.0)
"""As over a leaking pad."""


def tone(
    timbre: Timbre, hz: float, seconds: float, rate: float, random: np.random.Generator, *, flaw: Flaw = SOUND,
    glide_cents: Real | None = None, level: float = 0.2,
) -> Real:  # fmt: skip
    """One tone, shape (N,), between −1 and 1.

    Args:
        hz: of its first partial. seconds: how long. rate: samples per second.
        glide_cents: how far it is above ``hz`` at each sample, shape (N,); a flaw's cents come on top.
        level: root mean square where it is loudest.

    Raises:
        BadInput: a pitch or length that no instrument has.
    """
    count = int(seconds * rate)
    if not 15 <= hz <= 0.45 * rate or count < 8:
        raise BadInput("A tone needs a pitch that can be heard and a moment to sound.")
    at = np.arange(count) / rate
    cents = flaw.cents + (0.0 if glide_cents is None else glide_cents)
    if timbre.vibrato_cents:
        cents = cents + timbre.vibrato_cents * np.sin(2 * np.pi * (5.3 * at + random.random()))
    ratio = np.exp2(np.broadcast_to(np.asarray(cents, dtype=np.float64), at.shape) / 1200)
    turns = np.cumsum(ratio) / rate  # seconds at the pitch that was asked for
    sound = np.zeros(count)
    if not flaw.silent:
        k = np.arange(1.0, MOST_PARTIALS + 1)
        partials = k * hz * np.sqrt((1 + timbre.stretch * k * k) / (1 + timbre.stretch))
        k, partials = k[partials < 0.45 * rate], partials[partials < 0.45 * rate]
        partials = partials * np.exp2(flaw.false_cents * random.normal(size=k.size) / 1200)
        strength = 10 ** (-timbre.fall_db * np.log2(k) / 20) * np.exp(0.25 * random.normal(size=k.size))
        strength[1::2] *= 10 ** (timbre.even_db / 20)
        strength /= np.sqrt((strength**2).sum() / 2)
        for number, own, size in zip(k, partials, strength, strict=True):
            sound += size * _envelope(timbre, flaw, number, at) * np.sin(2 * np.pi * (own * turns + random.random()))
        if flaw.buzz:
            rattles = 0.5 + 0.5 * np.sign(np.sin(2 * np.pi * 0.5 * hz * turns))
            sound *= 1 - flaw.buzz * rattles * (0.6 + 0.4 * random.random(count))
    sound *= 10 ** (-flaw.weaker_db / 20)
    breath = 10 ** ((timbre.breath_db + flaw.breath_db) / 20) * coloured(count, random, 1500.0, rate)
    return np.asarray(level * (sound + breath * _envelope(replace(timbre, attack_s=0.02), SOUND, 1.0, at)))


def _envelope(timbre: Timbre, flaw: Flaw, number: float, at: Real) -> Real:
    """How strong a partial is over time: it comes, and it goes."""
    late = np.maximum(at - flaw.speaks_s, 0.0)
    comes = 1 - np.exp(-((late / (timbre.attack_s / 1.5)) ** 2))
    if timbre.decay_s:
        return np.asarray(comes * np.exp(-late / timbre.decay_s * (1 + 0.15 * (number - 1))))
    end = np.minimum(1.0, (at[-1] - at) / 0.03)
    return np.asarray(comes * end)


def coloured(count: int, random: np.random.Generator, middle_hz: float, rate: float) -> Real:
    """Noise with a broad hump and a mean square of 1, shape (count,): breath, or hair on a string."""
    spectrum = np.fft.rfft(random.normal(size=count))
    hz = np.maximum(np.fft.rfftfreq(count, 1 / rate), 1.0)
    spectrum *= 0.1 + np.exp(-0.5 * (np.log2(hz / middle_hz) / 1.2) ** 2)
    found = np.fft.irfft(spectrum, count)
    return np.asarray(found / max(float(np.sqrt((found**2).mean())), 1e-12))


def in_a_room(
    sound: Real, rate: float, random: np.random.Generator, *, echo_s: float = 0.25, echo_db: float = -20.0,
    noise: float = 3e-4, hum: float = 2e-4, hum_hz: float = 50.0,
) -> Real:  # fmt: skip
    """A sound as a microphone on the bench hears it, shape (N,).

    Args:
        echo_s: until what the walls send back has fallen by 60 dB. echo_db: of what they send back altogether.
        noise, hum: root mean square of the room's noise and of the mains.
    """
    heard = sound.copy()
    if echo_s > 0:
        length = max(int(echo_s * rate), 2)
        walls = random.normal(size=length) * 10 ** (-3 * np.arange(length) / length)
        walls[: int(0.003 * rate)] = 0.0
        walls *= 10 ** (echo_db / 20) / np.sqrt((walls**2).sum())
        size = 1 << (sound.size + length).bit_length()
        heard += np.fft.irfft(np.fft.rfft(sound, size) * np.fft.rfft(walls, size), size)[: sound.size]
    at = np.arange(sound.size) / rate
    for number, share in ((1, 1.0), (2, 0.4), (3, 0.5)):
        heard += hum * share * np.sqrt(2) * np.sin(2 * np.pi * (hum_hz * number * at + random.random()))
    return np.asarray(heard + noise * coloured(sound.size, random, 300.0, rate))
