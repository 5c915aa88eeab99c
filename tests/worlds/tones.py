"""Tones and noises that the estimator of pitch does not assume: decays, swells, vibrato, hum, noise of any colour."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Real = NDArray[np.float64]
RATE = 22_050.0
Noise = Literal["white", "pink", "brown", "band", "hum"]
Law = Literal["harmonic", "stretched", "odd"]
"""How the partials of a tone lie; one without its fundamental is harmonic too."""


@dataclass(frozen=True)
class Tone:
    """A tone and what it is made of.

    Attributes:
        hz: f0. stretch: B. numbers, amplitude: of the partials; amplitude is complex, at the middle of the window.
        clean: the samples without noise.
    """

    hz: float
    stretch: float
    numbers: Real
    amplitude: NDArray[np.complex128]
    clean: Real

    @property
    def first_hz(self) -> float:
        """Frequency of the first partial."""
        return self.hz * float(np.sqrt(1 + self.stretch))


def partial_hz(hz: float, stretch: float, numbers: Real) -> Real:
    """Frequencies k·f0·√(1 + B·k²): Fletcher and Rossing, The Physics of Musical Instruments (from memory)."""
    return np.asarray(numbers * hz * np.sqrt(1 + stretch * numbers**2))


def tone(
    rng: np.random.Generator, hz: float, seconds: float, kind: str, *, rate: float = RATE, decay: float = 0.0,
    swell: float = 0.0, vibrato_cents: float = 0.0, vibrato_hz: float = 5.5,
) -> Tone:  # fmt: skip
    """A tone of a kind, with partials of random strength and phase.

    Args:
        kind: "harmonic", "stretched", "odd" or "missing" (without its fundamental).
        decay: e-folds of the first partial over the window; higher ones decay faster. swell: growth of all of it.
        vibrato_cents: amplitude of a slow wave of the pitch.
    """
    n = int(seconds * rate)
    t = (np.arange(n) - (n - 1) / 2) / rate
    stretch = 10 ** rng.uniform(-5, -3.3) if kind == "stretched" else 0.0
    numbers = np.arange(1.0, 9.0) if kind != "odd" else np.arange(1.0, 16.0, 2.0)
    if kind == "missing":
        numbers = numbers[1:]
    frequency = partial_hz(hz, stretch, numbers)
    numbers, frequency = numbers[frequency < 0.42 * rate], frequency[frequency < 0.42 * rate]
    strength = numbers**-0.7 * np.exp(0.4 * rng.normal(size=numbers.size))
    amplitude = strength * np.exp(2j * np.pi * rng.random(numbers.size))
    wave = 0.0
    if vibrato_cents:
        depth = vibrato_cents * np.log(2) / 1200
        wave = depth / (2 * np.pi * vibrato_hz) * np.sin(2 * np.pi * vibrato_hz * t + rng.uniform(0, 2 * np.pi))
    clean = np.zeros(n)
    for k, f, a in zip(numbers, frequency, amplitude, strict=True):
        envelope = np.exp(-decay * (1 + 0.3 * (k - 1)) * (t / seconds + 0.5) + swell * t / seconds)
        clean += envelope * np.real(a * np.exp(2j * np.pi * f * (t + wave)))
    return Tone(hz, stretch, numbers, amplitude, clean)


def uneven_vibrato(rng: np.random.Generator, hz: float, seconds: float, cents: float, *, rate: float = RATE) -> Real:
    """A tone of eight partials whose vibrato changes its pace and its depth, as players' do (from memory)."""
    t = np.arange(int(seconds * rate)) / rate
    pace = rng.uniform(4.5, 6.5) * (1 + rng.uniform(-0.15, 0.15) * t / seconds)
    pace = pace * (1 + 0.05 * np.sin(2 * np.pi * rng.uniform(0.5, 2) * t + rng.uniform(0, 2 * np.pi)))
    depth = cents * np.log(2) / 1200 * (1 + rng.uniform(-0.4, 0.6) * t / seconds)
    swing = np.cos(2 * np.pi * np.cumsum(pace) / rate + rng.uniform(0, 2 * np.pi))
    phase = 2 * np.pi * np.cumsum(hz * (1 + depth * swing)) / rate
    clean = np.zeros(t.size)
    for k in range(1, 9):
        if k * hz < 0.42 * rate:
            clean += k**-0.7 * np.exp(0.4 * rng.normal()) * np.cos(k * phase + rng.uniform(0, 2 * np.pi))
    return clean


def noise(rng: np.random.Generator, n: int, colour: Noise, *, rate: float = RATE) -> Real:
    """Noise with a mean square of 1."""
    white = np.fft.rfft(rng.normal(size=n))
    f = np.fft.rfftfreq(n, 1 / rate)
    if colour == "pink":
        white *= 1 / np.sqrt(np.maximum(f, 20.0))
    elif colour == "brown":
        white *= 1 / np.maximum(f, 20.0)
    elif colour == "band":  # breath: a broad hump
        white *= 0.05 + np.exp(-((np.log(np.maximum(f, 1.0) / 1800)) ** 2))
    found = np.fft.irfft(white, n)
    if colour == "hum":  # the mains under plain noise
        t = np.arange(n) / rate
        found = found / found.std() + sum(
            1.5 / k * np.sin(2 * np.pi * 50 * k * t + rng.uniform(0, 2 * np.pi)) for k in (1, 2, 3, 5)
        )
    return np.asarray(found / np.sqrt(np.mean(found**2)))


def heard(rng: np.random.Generator, made: Tone, snr_db: float, colour: Noise = "white", *, rate: float = RATE) -> Real:
    """A tone in noise.

    Args:
        snr_db: mean square of the tone over that of the noise.
    """
    sigma = np.sqrt(np.mean(made.clean**2) / 10 ** (snr_db / 10))
    return made.clean + sigma * noise(rng, made.clean.size, colour, rate=rate)


@dataclass(frozen=True)
class Sounded:
    """A window of sound, of which kind its partials are, and the pitch that it has."""

    sound: Real
    kind: Law
    hz: float


World = Callable[[np.random.Generator], Sounded]
KINDS = ("harmonic", "stretched", "odd", "missing")


def sounded(rng: np.random.Generator, colour: Noise, **how: float) -> Sounded:
    """A tone of any kind, pitch, length and loudness over a noise; arguments as for :func:`tone`."""
    kind = KINDS[rng.integers(4)]
    made = tone(rng, 2 ** rng.uniform(6, 10.5), float(rng.choice([0.3, 0.6, 1.2, 2.0])), kind, **how)
    law: dict[str, Law] = {"stretched": "stretched", "odd": "odd"}
    return Sounded(heard(rng, made, rng.uniform(5, 40), colour), law.get(kind, "harmonic"), made.first_hz)


def swaying(rng: np.random.Generator, cents: float) -> Sounded:
    """A tone with an uneven vibrato, in pink noise."""
    hz, seconds = 2 ** rng.uniform(6.5, 10.3), float(rng.choice([0.6, 1.2, 2.0]))
    clean = uneven_vibrato(rng, hz, seconds, cents)
    sigma = np.sqrt(np.mean(clean**2) / 10 ** (rng.uniform(10, 40) / 10))
    return Sounded(clean + sigma * noise(rng, clean.size, "pink"), "harmonic", hz)


WORLDS: dict[str, World] = {
    "steady, white noise": lambda r: sounded(r, "white"),
    "steady, pink noise": lambda r: sounded(r, "pink"),
    "steady, brown noise": lambda r: sounded(r, "brown"),
    "steady, breath": lambda r: sounded(r, "band"),
    "steady, hum of the mains": lambda r: sounded(r, "hum"),
    "fades by 3 e-folds": lambda r: sounded(r, "white", decay=3.0),
    "fades by 8 e-folds": lambda r: sounded(r, "white", decay=8.0),
    "fades by 3 e-folds, breath": lambda r: sounded(r, "band", decay=3.0),
    "swells": lambda r: sounded(r, "pink", swell=2.0),
    "vibrato of 5 cents": lambda r: sounded(r, "pink", vibrato_cents=5.0, vibrato_hz=float(r.uniform(4, 8))),
    "vibrato of 20 cents": lambda r: sounded(r, "pink", vibrato_cents=20.0, vibrato_hz=float(r.uniform(4, 8))),
    "uneven vibrato of 5 cents": lambda r: swaying(r, 5.0),
    "uneven vibrato of 20 cents": lambda r: swaying(r, 20.0),
}


def bound_hz(made: Tone, snr_db: float, *, free_stretch: bool, rate: float = RATE) -> float:
    """Least standard deviation that an unbiased estimate of the first partial can have in white noise, Hz.

    The exact bound of Cramér and Rao for steady partials whose strengths and phases are unknown: Kay 1993, Fundamentals
    of Statistical Signal Processing: Estimation Theory, chapter 3; worked out on the samples themselves.

    Args:
        free_stretch: B is unknown too.
    """
    n = made.clean.size
    t = np.arange(n) - (n - 1) / 2
    root = np.sqrt(1 + made.stretch * made.numbers**2)
    by_hz, by_stretch, others = np.zeros(n), np.zeros(n), []
    for k, r, a in zip(made.numbers, root, made.amplitude, strict=True):
        w = 2 * np.pi * made.hz * k * r / rate
        c, s = np.cos(w * t), np.sin(w * t)
        others += [c, s]
        by_omega = -(a.real * s + a.imag * c) * t
        by_hz += by_omega * 2 * np.pi * k * r / rate
        by_stretch += by_omega * np.pi * made.hz * k**3 / r / rate
    rows = np.stack([by_hz, *([by_stretch] if free_stretch else []), *others], axis=1)
    sizes = np.linalg.norm(rows, axis=0)
    rows = rows / sizes
    sigma2 = np.mean(made.clean**2) / 10 ** (snr_db / 10)
    covariance = np.linalg.inv(rows.T @ rows) / np.outer(sizes, sizes) * sigma2
    first = np.sqrt(1 + made.stretch)
    by = np.array([first, made.hz / (2 * first)]) if free_stretch else np.array([first])
    return float(np.sqrt(by @ covariance[: by.size, : by.size] @ by))
