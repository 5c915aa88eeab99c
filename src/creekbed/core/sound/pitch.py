"""Pitch of a tone with its standard uncertainty, near the limit that noise sets.

First the partials are found as peaks over the floor of the spectrum, and the fundamental that explains them best; then
least squares on all partials together gives the frequency of each, and one law through them the pitch:
f_k = k·f0·√(1 + B·k²) (Fletcher and Rossing, The Physics of Musical Instruments, from memory). What is left of the
sound says how much noise there is around each partial, and so how sure the pitch is. The bound that no unbiased
estimate can beat is that of Cramér and Rao (Kay 1993; Nehorai and Porat 1986 for harmonic tones).
"""

from __future__ import annotations

import math
from dataclasses import field, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import chdtri

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.sound.fundamentals import Kind, fundamentals
from creekbed.core.sound.peaks import Peaks, peaks_of
from creekbed.core.sound.tone_fit import ToneFit, completed, evidence, fit_tone
from creekbed.core.sound.wandering import middle_of_vibrato, middle_of_wandering

Real = NDArray[np.float64]
FEW_PERIODS = 12.0
"""A window of fewer periods leaves more than one fundamental to be tried: house default."""
LOWEST_HZ, HIGHEST_HZ = 24.0, 5000.0
"""Fundamentals that are looked for: below the lowest A of a piano to above its highest C: house default."""
NEAREST = 0.6
"""Partials of one tone lie at least its fundamental apart; peaks nearer than so much of the lowest are no two of them:
house default."""
CENTS = 1200 / math.log(2)
"""Cents of a ratio that is one e-fold."""


@dataclass(frozen=True)
class Pitch:
    """A tone's pitch.

    Attributes:
        hz: frequency of the first partial, f0·√(1 + B). u_hz: its standard uncertainty.
        f0_hz, stretch: of the law of the partials. u_stretch: standard uncertainty of B, 0 where it is given.
        partials: numbers of the partials that were heard. level: their amplitudes, in the sound's own unit.
        off_cents: how far each lies from the law. u_off_cents: standard uncertainty of that.
        snr_db: energy of the partials over that of all else.
        wander_cents: standard deviation of the pitch over the window where it is not steady, 0 where nothing speaks
            against it.
    """

    hz: float
    u_hz: float
    f0_hz: float
    stretch: float
    u_stretch: float
    partials: NDArray[np.int64] = field(repr=False)
    level: Real = field(repr=False)
    off_cents: Real = field(repr=False)
    u_off_cents: Real = field(repr=False)
    snr_db: float = 0.0
    wander_cents: float = 0.0

    @property
    def u_cents(self) -> float:
        """Standard uncertainty, cents."""
        return CENTS * self.u_hz / self.hz

    def cents_from(self, hz: float) -> float:
        """How far above another frequency it is, cents."""
        return 1200 * math.log2(self.hz / hz)


def pitch_of(
    sound: Real, rate: float, kind: Kind = "harmonic", *, lowest_hz: float = LOWEST_HZ, highest_hz: float = HIGHEST_HZ,
) -> Pitch | None:  # fmt: skip
    """The pitch of a window of sound that holds one tone; ``None`` where there is none over the noise.

    Args:
        sound: shape (N,), any unit. rate: samples per second.
        kind: of its partials: "harmonic" (winds, bowed strings), "stretched" (plucked strings), "odd" (clarinets).
        lowest_hz, highest_hz: fundamentals that are looked for.

    Raises:
        BadInput: shorter than two of the lowest periods, a sample that is no number, or a rate that cannot be.
    """
    sound = np.asarray(sound, dtype=np.float64)
    if not (1000 <= rate <= 400_000 and 0 < lowest_hz < highest_hz):
        raise BadInput("A sound needs a rate of 1 to 400 kHz and a range of pitches.")
    if sound.ndim != 1 or sound.size * lowest_hz < 2 * rate or not np.isfinite(sound).all():
        raise BadInput("The sound is too short for so low a pitch, or is damaged.", todo="Record it again, longer.")
    sound = sound - sound.mean()
    energy = float((sound**2).mean())
    if energy <= 0:
        return None
    peaks = peaks_of(sound, rate, lowest_hz)
    if not peaks.hz.size:
        return None
    fit = _best_fit(sound, peaks, rate, kind, lowest_hz, highest_hz)
    sways = fit is None or _much_is_left(fit, peaks, rate)
    if sways and sound.size > 2 * MIDDLE_S * rate:
        # in a long window each partial of a pitch that sways is a row of peaks; in a short one it is one
        part = _loudest(sound, int(MIDDLE_S * rate))
        short = _best_fit(part, peaks_of(part, rate, lowest_hz), rate, kind, lowest_hz, highest_hz)
        if short is not None and (fit is None or abs(math.log2(short.f0 / fit.f0)) > 0.06):
            fit, energy = short, float((part**2).mean())
    if fit is None:
        return None
    pitch = _as_pitch(fit, energy)
    return _of_its_parts(pitch, fit, sound, rate, kind) if sways else pitch


def _best_fit(
    sound: Real, peaks: Peaks, rate: float, kind: Kind, lowest_hz: float, highest_hz: float
) -> ToneFit | None:
    """Least squares from the most likely fundamentals, and the best of them."""
    if not peaks.hz.size:
        return None
    limit = 0.48 * rate
    guesses = fundamentals(peaks.apart(NEAREST * lowest_hz), kind, lowest_hz, highest_hz, limit)
    few = bool(guesses) and guesses[0].f0 * sound.size / rate < FEW_PERIODS
    found: list[ToneFit] = []
    for guess in guesses[: 3 if few else 1]:
        fit = fit_tone(sound, rate, kind, guess.numbers, guess.hz)
        if fit is not None and (few or fit.fades_early(rate)):
            fit = completed(sound, rate, kind, fit, limit)
        if fit is not None and lowest_hz * 0.94 <= fit.f0 <= highest_hz * 1.06 and fit.stands_out():
            found.append(fit)
    return max(found, key=lambda fit: evidence(fit, kind), default=None)


def _loudest(sound: Real, size: int) -> Real:
    """The loudest stretch of so many samples, by halves of it."""
    sums = np.concatenate([[0.0], np.cumsum(sound**2)])
    begins = np.arange(0, sound.size - size + 1, max(size // 2, 1))
    begin = int(begins[np.argmax(sums[begins + size] - sums[begins])])
    part: Real = sound[begin : begin + size] - sound[begin : begin + size].mean()
    return part


def _much_is_left(fit: ToneFit, peaks: Peaks, rate: float) -> bool:
    """Whether the sound holds much more round the partials than noise: then the pitch may not be steady."""
    _, which = peaks.near(fit.omega * rate / (2 * np.pi), np.array(0.0))
    weight = (fit.numbers * np.abs(fit.fit.amplitude)) ** 2
    return bool((weight * fit.noise).sum() >= MUCH_LEFT * (weight * peaks.floor[which]).sum())


def _of_its_parts(pitch: Pitch, fit: ToneFit, sound: Real, rate: float, kind: Kind) -> Pitch:
    """The pitch as it is; where its parts differ from each other or from the whole, the middle of its parts."""
    count = int(min(sound.size / rate / PART_S, sound.size * fit.f0 / rate / 6, MOST_PARTS))
    if count < 3:
        return pitch
    edges = np.linspace(0, sound.size, 2 * count + 1).astype(int)  # halves overlap: no harmonic of a swing is lost
    hz = fit.omega * rate / (2 * np.pi)
    parts, middles = [], []
    for a, b in zip(edges, edges[2:], strict=False):
        part = sound[a:b]
        near = peaks_of(part, rate)
        there, at = near.near(hz, 0.04 * hz) if near.hz.size else (np.zeros(hz.size, bool), np.zeros(hz.size, int))
        found = fit_tone(part, rate, kind, fit.numbers[there], near.hz[at[there]]) if there.any() else None
        if found is not None and abs(math.log2(found.f0 / fit.f0)) < 0.05:
            parts.append((found.f0 * math.sqrt(1 + max(found.stretch, 0.0)), found.covariance[0, 0]))
            middles.append((a + b) / 2 / rate)
    if len(parts) < 5:
        return pitch
    at_hz, variance = np.array(parts).T
    spread = float(at_hz.std(ddof=1))
    apart = slice(None, None, 2)
    if ((at_hz - at_hz.mean()) ** 2 / variance)[apart].sum() < chdtri(len(parts) // 2, 0.001):
        mean, u = float(at_hz.mean()), spread / math.sqrt(at_hz.size / 2)
        if abs(mean - pitch.hz) < 3 * math.hypot(u, pitch.u_hz):
            return pitch
        return replace(pitch, hz=mean, u_hz=u, f0_hz=mean / math.sqrt(1 + max(pitch.stretch, 0.0)))
    swing = middle_of_vibrato(np.array(middles), at_hz)
    mean, u = swing or middle_of_wandering(at_hz)
    return replace(
        pitch, hz=mean, u_hz=u if swing else math.hypot(pitch.u_hz, u),
        f0_hz=mean / math.sqrt(1 + max(pitch.stretch, 0.0)), wander_cents=CENTS * spread / mean,
    )  # fmt: skip


MUCH_LEFT = 4.0
"""So many times the floor of the noise left around the partials raises the question whether the pitch is steady."""
MIDDLE_S = 0.3
"""Length of the stretch by which the fundamental of a long tone that sways is found, s: house default."""
PART_S, MOST_PARTS = 0.06, 32
"""Shortest part of a sound that is looked at by itself, s, and how many at most: house default."""


def _as_pitch(found: ToneFit, energy: float) -> Pitch:
    """What is told of a tone; ``energy``: mean square of the sound."""
    root = math.sqrt(1 + found.stretch)
    by = np.array([root, found.f0 / (2 * root)])[: found.covariance.shape[0]]
    u = math.sqrt(max(float(by @ found.covariance @ by), 0.0))
    by_law = found.omega - found.off
    return Pitch(
        hz=found.f0 * root, u_hz=u, f0_hz=found.f0, stretch=found.stretch,
        u_stretch=math.sqrt(max(float(found.covariance[-1, -1]), 0.0)) if found.covariance.shape[0] > 1 else 0.0,
        partials=found.numbers, level=np.abs(found.fit.amplitude), off_cents=CENTS * found.off / by_law,
        u_off_cents=CENTS * found.u_off / by_law,
        snr_db=10 * math.log10(max(energy - found.left, 1e-300) / max(found.left, 1e-300)),
    )  # fmt: skip
