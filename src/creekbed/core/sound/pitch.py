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
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.linalg import LinAlgError
from numpy.typing import NDArray
from scipy.fft import next_fast_len, rfft
from scipy.special import chdtri

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.sound.partials import MOST_DECAY, PartialFit, fit_partials
from creekbed.core.sound.peaks import SURE, Peaks, peaks_of

Real = NDArray[np.float64]
Kind = Literal["harmonic", "stretched", "odd"]
FEW_PERIODS = 12.0
"""A window of fewer periods leaves more than one fundamental to be tried: house default."""
LOWEST_HZ, HIGHEST_HZ = 24.0, 5000.0
"""Fundamentals that are looked for: below the lowest A of a piano to above its highest C: house default."""
MOST_PARTIALS = 32
"""More partials say hardly more: house default."""
CENTS = 1200 / math.log(2)
"""Cents of a ratio that is one e-fold."""
MOST_STRETCH = 0.02
"""Largest B that is believed; plain strings have 1e-5 to 1e-3 (Fletcher and Rossing, from memory)."""


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


def _partials_hz(f0: float, stretch: float, k: Real) -> Real:
    """Frequencies of partials by the law."""
    return np.asarray(k * f0 * np.sqrt(1 + stretch * k * k))


def _fundamentals(peaks: Peaks, kind: Kind, lowest: float, highest: float, limit: float) -> list[_Guess]:
    """Fundamentals that would explain the peaks, the most likely first."""
    strong = np.sort(peaks.strongest(8))
    between = (strong[None, :] - strong[:, None])[np.triu_indices(strong.size, 1)]
    tried = np.sort(np.concatenate([(strong[:, None] / np.arange(1, 14)).ravel(), between]))
    tried = tried[(tried >= lowest * 0.97) & (tried <= highest * 1.03) & (tried < limit)]
    if not tried.size:
        return []
    k = np.arange(1.0, MOST_PARTIALS + 1)
    hz = tried[:, None] * k
    drift = (0.003 + (0.0004 * k if kind == "stretched" else 0.0)) * hz
    there, which = peaks.near(hz, np.minimum(np.maximum(drift, 0.4 * peaks.resolution_hz), 0.25 * tried[:, None]))
    heard = there & (hz < limit)
    gain = np.where(heard, np.log1p(peaks.over[which]), 0.0).sum(axis=1)
    last = np.where(heard, k, 0.0).max(axis=1)
    found: dict[float, _Guess] = {}
    followed: list[float] = []
    for f in tried[np.argsort(0.5 * np.log1p(last) * np.log1p(last) - gain)]:
        if any(abs(f - other) < 0.0005 * f for other in followed):
            continue
        if len(followed) == FOLLOWED:
            break
        followed.append(float(f))
        guess = _followed(peaks, float(f), kind, limit)
        if guess is None or not lowest * 0.97 <= guess.f0 <= highest * 1.03:
            continue
        key = round(guess.f0 / peaks.resolution_hz, 1)
        if key not in found or guess.score > found[key].score:
            found[key] = guess
        if guess.explains > ENOUGH and guess.score > 0:
            break
    return sorted(found.values(), key=lambda g: -g.score)


FOLLOWED = 6
"""So many fundamentals are followed up through their partials: house default."""
WIDEST_GAP = 5
"""A tone lacks at most so many partials in a row: house default."""
OUT_OF_LINE = 0.012
"""A partial may lie so far from where the law has it, as those of false strings do: 20 cents, house default."""
ENOUGH = 0.97
"""One that explains so much of all peaks, and asks for few that are not there, needs no rival: house default."""


@dataclass(frozen=True)
class _Guess:
    """A fundamental, its partials, and how well they explain the peaks."""

    f0: float
    numbers: NDArray[np.int64]
    hz: Real
    score: float
    explains: float


def _followed(peaks: Peaks, f0: float, kind: Kind, limit: float) -> _Guess | None:
    """The partials of a fundamental that are there, followed upward."""
    stretch, numbers, found, over = 0.0, np.empty(0), np.empty(0), np.empty(0)
    for most in (4, 8, 16, MOST_PARTIALS) if kind == "stretched" else (8, MOST_PARTIALS):
        k = np.arange(1.0, most + 1)
        hz = _partials_hz(f0, stretch, k)
        k, hz = k[hz < limit], hz[hz < limit]
        if not k.size:
            break
        drift = OUT_OF_LINE * hz
        there, which = peaks.near(hz, np.minimum(np.maximum(drift, 0.4 * peaks.resolution_hz), 0.35 * f0))
        if not there.any():
            continue
        numbers, found, over = k[there], peaks.hz[which[there]], peaks.over[which[there]]
        gap = np.flatnonzero(np.diff(numbers) > WIDEST_GAP)
        if gap.size:  # one peak far above all others is noise, or nothing of this tone
            numbers, found, over = numbers[: gap[0] + 1], found[: gap[0] + 1], over[: gap[0] + 1]
        f0, stretch = _law(numbers, found, np.minimum(over, 1e6), kind)
    if not numbers.size:
        return None
    whole = numbers.astype(np.int64)
    common = int(np.gcd.reduce(whole))  # 2, 4, 6 of one fundamental are 1, 2, 3 of another
    whole //= common
    gain, prior = float(np.log1p(over).sum()), _prior(whole, kind)
    few_missing = whole.size >= (0.4 if kind == "odd" else 0.7) * whole[-1]
    explains = gain / peaks.all_gain if few_missing else 0.0
    return _Guess(f0 * common, whole, found, 3 * (gain + prior), explains)


def _prior(numbers: NDArray[np.int64], kind: Kind) -> float:
    """Log of how likely it is that just these partials are there: house default."""
    k = np.arange(1, numbers[-1] + 1)
    expected = np.where(k % 2 == 1, 0.85, 0.15 if kind == "odd" else 0.8)
    there = np.zeros(k.size, dtype=bool)
    there[numbers - 1] = True
    return float(np.where(there, np.log(expected), np.log(1 - expected)).sum())


def _law(k: Real, hz: Real, weight: Real, kind: Kind) -> tuple[float, float]:
    """f0 and B by weighted least squares on (f_k/k)² = f0²·(1 + B·k²)."""
    ratio = hz / k
    w = weight * k * k
    if kind != "stretched" or k.size < 4:
        return float((w * ratio).sum() / w.sum()), 0.0
    x, y = k * k, ratio**2
    mx, my = (w * x).sum() / w.sum(), (w * y).sum() / w.sum()
    slope = (w * (x - mx) * (y - my)).sum() / max(float((w * (x - mx) ** 2).sum()), 1e-30)
    stretch = min(max(slope / max(my - slope * mx, 1e-30), 0.0), MOST_STRETCH)
    return math.sqrt(float((w * y).sum() / (w * (1 + stretch * x)).sum())), float(stretch)


@dataclass(frozen=True)
class _Refined:
    """Least squares on all partials of a tone.

    Attributes:
        covariance: of f0 and, where it is free, B. noise: near each partial. left: mean square of the residual.
        omega: of each partial, rad/sample. off: how far that lies from the law. u_off: its standard uncertainty.
    """

    f0: float
    stretch: float
    covariance: Real
    numbers: NDArray[np.int64]
    fit: PartialFit
    noise: Real
    left: float
    omega: Real
    off: Real
    u_off: Real

    def stands_out(self) -> bool:
        """Whether its strongest partial is more than what noise does in one of a hundred windows, of any colour."""
        over = self.fit.strength() * self.fit.size / (2 * self.noise)
        return bool(over.max() > math.log(50 * self.fit.size))


def _refined(sound: Real, rate: float, kind: Kind, numbers: NDArray[np.int64], hz: Real) -> _Refined | None:
    """Least squares on all partials together, from where their peaks are; ``None`` where it leads away."""
    n, k = sound.size, numbers.astype(float)
    omega, decay = 2 * np.pi * hz / rate, np.zeros(k.size)
    for turn in range(MOST_TURNS):
        if not omega[0] > 0 or omega[-1] >= np.pi or np.any(np.diff(omega) * n < 2):
            return None
        try:
            fit = fit_partials(sound, omega, decay)
        except LinAlgError:
            return None
        off = fit.off()
        moves = _limited(off.imag, 3.0 / n)
        strength = fit.strength()
        sure = strength > 1e-4 * strength.max()
        decays = _limited(np.where(sure, -off.real, 0.0), 4.0 / n)
        if turn == MOST_TURNS - 1 or (np.abs(decays).max() * n < 3 * NEAR and _is_near(fit, moves)):
            break
        omega = omega + moves
        decay = np.minimum(np.maximum(decay + decays, -4.0 / n), MOST_DECAY / n)
    residual = sound - fit.sound()
    noise = _noise_near(residual, omega, 2 * np.pi * hz[0] / numbers[0] / rate)
    covariance = fit.frequency_covariance(noise)
    try:
        return _by_law(numbers, omega + moves, covariance, kind, fit, noise, float((residual**2).mean()), rate)
    except LinAlgError:
        return None


def _completed(sound: Real, rate: float, kind: Kind, found: _Refined, limit: float) -> _Refined:
    """With the partials that show no peak of their own, because others lie too near in so short a window."""
    for _ in range(2):
        k = np.arange(1, found.numbers[-1] + 4)
        hz = _partials_hz(found.f0, max(found.stretch, 0.0), k)
        k, hz = k[hz < limit], hz[hz < limit]
        if np.array_equal(k, found.numbers) or np.any(np.diff(hz) * sound.size < 1.2 * rate):
            return found
        omega = 2 * np.pi * hz / rate
        known = np.isin(k, found.numbers)
        omega[known] = found.omega[np.isin(found.numbers, k)]
        try:
            fit = fit_partials(sound, omega, np.zeros(k.size))
        except LinAlgError:
            return found
        noise = _noise_near(sound - fit.sound(), omega, 2 * np.pi * found.f0 / rate)
        there = np.abs(fit.amplitude) ** 2 > SURE * fit.amplitude_variance(noise)
        if not there.any() or np.array_equal(k[there], found.numbers):
            return found
        common = int(np.gcd.reduce(k[there]))
        more = _refined(sound, rate, kind, k[there] // common, omega[there] * rate / (2 * np.pi))
        if more is None or _evidence(more, kind) <= _evidence(found, kind):
            return found
        found = more
    return found


def _by_law(
    numbers: NDArray[np.int64], omega: Real, covariance: Real, kind: Kind, fit: PartialFit, noise: Real, left: float,
    rate: float,
) -> _Refined:  # fmt: skip
    """f0 and B by generalised least squares on the frequencies of the partials."""
    k = numbers.astype(float)
    weight = np.linalg.inv(covariance)
    f0, stretch = _law(k, omega * rate / (2 * np.pi), 1 / np.diag(covariance) / k**2, kind)
    free = kind == "stretched" and k.size >= 2
    if free and k.size < 4:
        stretch = 1e-5
    for _ in range(8):
        root = np.sqrt(1 + stretch * k * k)
        design = 2 * np.pi * (k * root)[:, None] / rate
        if free:
            design = np.column_stack([design, np.pi * f0 * k**3 / root / rate])
        left_over = omega - 2 * np.pi * _partials_hz(f0, stretch, k) / rate
        spread = np.linalg.inv(design.T @ weight @ design)
        step = spread @ (design.T @ weight @ left_over)
        f0 += float(step[0])
        if free:
            stretch += float(step[1])
            if not -0.01 < stretch < 10 * MOST_STRETCH:
                raise LinAlgError("no string is so stretched")
        if abs(step[0]) < 1e-9 * f0:
            break
    off = omega - 2 * np.pi * _partials_hz(f0, stretch, k) / rate
    u_off = np.sqrt(np.maximum(np.diag(covariance), 0.0))
    freedom = k.size - spread.shape[0]
    if freedom:  # partials that do not follow the law say less of it (Birge 1932)
        scatter = float(off @ weight @ off)
        if scatter > chdtri(freedom, 0.01):
            spread = spread * scatter / freedom
    return _Refined(f0, stretch, spread, numbers, fit, noise, left, omega, off, u_off)


MOST_TURNS, NEAR = 8, 0.1
"""Rounds at most, and how far off a partial may be for the last, radians over the window."""


def _limited(values: Real, most: float) -> Real:
    return np.minimum(np.maximum(values, -most), most)


def _is_near(fit: PartialFit, moves: Real) -> bool:
    """Whether another round would move nothing that counts: what this one leaves is cubic in how far it moved."""
    moved = np.abs(moves) * fit.size / 2
    if moved.max() < NEAR / 2:
        return True
    noise = np.full(moved.size, fit.left * fit.size / max(fit.size - 4 * moved.size, 1))
    u = np.sqrt(np.maximum(np.diag(fit.frequency_covariance(noise)), 0.0)) * fit.size / 2
    return bool(np.all(moved**3 / 6 < 0.1 * u))


def _noise_near(residual: Real, omega: Real, spacing: float) -> Real:
    """Variance of white noise with the density that is left near each partial.

    Each partial that was fitted has taken four numbers, so two bins' worth of the noise, with it.
    """
    n = residual.size
    size = next_fast_len(n, real=True)
    spectrum = rfft(residual, size)
    power = (spectrum.real**2 + spectrum.imag**2) / n
    sums = np.concatenate([[0.0], np.cumsum(power)])
    centre, bins = omega * size / (2 * np.pi), size / n
    reach = min(max(16.0, 0.5 * spacing * n / (2 * np.pi)), 40.0) * bins
    low = np.clip(np.ceil(centre - reach), 1, power.size).astype(np.intp)
    high = np.clip(np.floor(centre + reach) + 1, 1, power.size).astype(np.intp)
    taken = np.searchsorted(centre, centre + reach) - np.searchsorted(centre, centre - reach)
    left = (high - low) / bins - 2 * taken
    found: Real = (sums[high] - sums[low]) / bins / np.maximum(left, 1.0)
    whole = sums[-1] / bins / max(power.size / bins - 2 * omega.size, 1.0)
    return np.maximum(np.where(left > 4, found, whole), 1e-300)


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
    limit = 0.48 * rate
    guesses = _fundamentals(peaks, kind, lowest_hz, highest_hz, limit)
    few = bool(guesses) and guesses[0].f0 * sound.size / rate < FEW_PERIODS
    found: list[_Refined] = []
    for guess in guesses[: 3 if few else 1]:
        refined = _refined(sound, rate, kind, guess.numbers, guess.hz)
        if refined is not None and few:
            refined = _completed(sound, rate, kind, refined, limit)
        if refined is not None and lowest_hz * 0.94 <= refined.f0 <= highest_hz * 1.06 and refined.stands_out():
            found.append(refined)
    if not found:
        return None
    best = max(found, key=lambda r: _evidence(r, kind))
    return _if_it_wanders(_as_pitch(best, energy), best, peaks, sound, rate, kind)


def _if_it_wanders(pitch: Pitch, fit: _Refined, peaks: Peaks, sound: Real, rate: float, kind: Kind) -> Pitch:
    """The pitch as it is; where much is left around its partials and its parts differ, the mean of its parts."""
    _, which = peaks.near(fit.omega * rate / (2 * np.pi), np.array(0.0))
    weight = (fit.numbers * np.abs(fit.fit.amplitude)) ** 2
    if (weight * fit.noise).sum() < MUCH_LEFT * (weight * peaks.floor[which]).sum():
        return pitch
    count = int(min(sound.size / rate / PART_S, sound.size * fit.f0 / rate / 6, MOST_PARTS))
    if count < 3:
        return pitch
    edges = np.linspace(0, sound.size, count + 1).astype(int)
    hz = fit.omega * rate / (2 * np.pi)
    parts = []
    for a, b in pairwise(edges):
        part = sound[a:b]
        near = peaks_of(part, rate)
        there, at = near.near(hz, 0.04 * hz) if near.hz.size else (np.zeros(hz.size, bool), np.zeros(hz.size, int))
        found = _refined(part, rate, kind, fit.numbers[there], near.hz[at[there]]) if there.any() else None
        if found is not None and abs(math.log2(found.f0 / fit.f0)) < 0.05:
            parts.append((found.f0 * math.sqrt(1 + max(found.stretch, 0.0)), found.covariance[0, 0]))
    if len(parts) < 3:
        return pitch
    at_hz, variance = np.array(parts).T
    if ((at_hz - at_hz.mean()) ** 2 / variance).sum() < chdtri(len(parts) - 1, 0.001):
        return pitch
    spread = float(at_hz.std(ddof=1))
    sway = at_hz - at_hz.mean()
    turns = 1 + int((sway[1:] * sway[:-1] < 0).sum())  # parts that hang together count as one
    mean = float(at_hz.mean())
    return replace(
        pitch, hz=mean, u_hz=math.hypot(pitch.u_hz, spread / math.sqrt(turns)),
        f0_hz=mean / math.sqrt(1 + max(pitch.stretch, 0.0)), wander_cents=CENTS * spread / mean,
    )  # fmt: skip


MUCH_LEFT = 4.0
"""So many times the floor of the noise left around the partials raises the question whether the pitch is steady."""
PART_S, MOST_PARTS = 0.07, 12
"""Shortest part of a sound that is looked at by itself, s, and how many at most: house default."""


def _evidence(found: _Refined, kind: Kind) -> float:
    """Log of how likely a fit is, by the criterion of Schwarz and how many of its partials are missing."""
    n = found.fit.size
    return float(
        -0.5 * n * math.log(max(found.left, 1e-300)) - 2 * found.numbers.size * math.log(n)
        + 3 * _prior(found.numbers, kind)
    )  # fmt: skip


def _as_pitch(found: _Refined, energy: float) -> Pitch:
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
