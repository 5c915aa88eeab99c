"""Least squares on all partials of a tone together, and one law through them: f_k = k·f0·√(1 + B·k²).

Source: Fletcher and Rossing, The Physics of Musical Instruments (from memory) for the law of stretched partials.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.linalg import LinAlgError
from numpy.typing import NDArray
from scipy.fft import next_fast_len, rfft
from scipy.special import chdtri

from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.sound.fundamentals import MOST_STRETCH, Kind, law, partials_hz, prior
from creekbed.core.sound.partials import MOST_DECAY, PartialFit, fit_partials
from creekbed.core.sound.peaks import SURE

Real = NDArray[np.float64]
FADES, FADING_PERIODS = 2.0, 60.0
"""A tone that fades by more e-folds in its window, one of them within fewer periods, has partials whose peaks are so
broad that they are not found by themselves: house default."""


@dataclass(frozen=True)
class ToneFit:
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

    def fades_early(self, rate: float) -> bool:
        """Whether its strongest partial is gone so early in the window that others have no peak of their own."""
        fades = -float(self.fit.poles.real[self.fit.strength().argmax()])
        return fades * self.fit.size > FADES and self.f0 / rate < FADING_PERIODS * fades

    def stands_out(self) -> bool:
        """Whether its strongest partial is more than what noise does in one of a hundred windows, of any colour."""
        over = self.fit.strength() * self.fit.size / (2 * self.noise)
        return bool(over.max() > math.log(50 * self.fit.size))


def fit_tone(
    sound: Real, rate: float, kind: Kind, numbers: NDArray[np.int64], hz: Real, decay: Real | None = None,
) -> ToneFit | None:  # fmt: skip
    """Least squares on all partials together, from where their peaks are; ``None`` where it leads away.

    Args:
        decay: e-folds per sample of each partial to begin with; none where it is not given.
    """
    n, k = sound.size, numbers.astype(float)
    omega, decay = 2 * np.pi * hz / rate, np.zeros(k.size) if decay is None else decay
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
        if turn == MOST_TURNS - 1 or (np.abs(decays).max() * n < 3 * NEAR and _is_near(fit, moves, decays)):
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


def completed(sound: Real, rate: float, kind: Kind, found: ToneFit, limit: float) -> ToneFit:
    """With the partials that show no peak of their own, because others lie too near in so short a window or sound.

    Args:
        sound: shape (N,). rate: samples per second. found: of the partials that do. limit: of partials, Hz.
    """
    for _ in range(2):
        k = np.arange(1, found.numbers[-1] + 4)
        hz = partials_hz(found.f0, max(found.stretch, 0.0), k)
        k, hz = k[hz < limit], hz[hz < limit]
        if np.array_equal(k, found.numbers) or np.any(np.diff(hz) * sound.size < 1.2 * rate):
            return found
        omega = 2 * np.pi * hz / rate
        known = np.isin(k, found.numbers)
        omega[known] = found.omega[np.isin(found.numbers, k)]
        decay = _decays_at(k, found)
        try:
            fit = fit_partials(sound, omega, decay)
        except LinAlgError:
            return found
        noise = _noise_near(sound - fit.sound(), omega, 2 * np.pi * found.f0 / rate)
        there = np.abs(fit.amplitude) ** 2 > SURE * fit.amplitude_variance(noise)
        if not there.any() or np.array_equal(k[there], found.numbers):
            return found
        common = int(np.gcd.reduce(k[there]))
        more = fit_tone(sound, rate, kind, k[there] // common, omega[there] * rate / (2 * np.pi), decay[there])
        if more is None or evidence(more, kind) <= evidence(found, kind):
            return found
        found = more
    return found


def _decays_at(k: NDArray[np.int64], found: ToneFit) -> Real:
    """Decays of partials, e-folds per sample: as found where they were fitted, else on a line through those."""
    own, fades = found.numbers.astype(float), -found.fit.poles.real
    slope = float(np.polyfit(own, fades, 1)[0]) if own.size > 1 else 0.0
    beyond = np.maximum(k - own[-1], 0.0) * max(slope, 0.0)
    decays: Real = np.clip(np.interp(k, own, fades) + beyond, 0.0, MOST_DECAY / found.fit.size)
    return decays


def _by_law(
    numbers: NDArray[np.int64], omega: Real, covariance: Real, kind: Kind, fit: PartialFit, noise: Real, left: float,
    rate: float,
) -> ToneFit:  # fmt: skip
    """f0 and B by generalised least squares on the frequencies of the partials."""
    k = numbers.astype(float)
    weight = np.linalg.inv(covariance)
    f0, stretch = law(k, omega * rate / (2 * np.pi), 1 / np.diag(covariance) / k**2, kind)
    free = kind == "stretched" and k.size >= 2
    if free and k.size < 4:
        stretch = 1e-5
    for _ in range(8):
        root = np.sqrt(1 + stretch * k * k)
        design = 2 * np.pi * (k * root)[:, None] / rate
        if free:
            design = np.column_stack([design, np.pi * f0 * k**3 / root / rate])
        left_over = omega - 2 * np.pi * partials_hz(f0, stretch, k) / rate
        spread = np.linalg.inv(design.T @ weight @ design)
        step = spread @ (design.T @ weight @ left_over)
        f0 += float(step[0])
        if free:
            stretch += float(step[1])
            if not -0.01 < stretch < 10 * MOST_STRETCH:
                raise LinAlgError("no string is so stretched")
        if abs(step[0]) < 1e-9 * f0:
            break
    off = omega - 2 * np.pi * partials_hz(f0, stretch, k) / rate
    u_off = np.sqrt(np.maximum(np.diag(covariance), 0.0))
    freedom = k.size - spread.shape[0]
    if freedom:  # partials that do not follow the law say less of it (Birge 1932)
        scatter = float(off @ weight @ off)
        if scatter > chdtri(freedom, 0.01):
            spread = spread * scatter / freedom
    return ToneFit(f0, stretch, spread, numbers, fit, noise, left, omega, off, u_off)


MOST_TURNS, NEAR = 8, 0.1
"""Rounds at most, and how far off a partial may be for the last, radians over the window."""


def _limited(values: Real, most: float) -> Real:
    return np.minimum(np.maximum(values, -most), most)


def _is_near(fit: PartialFit, moves: Real, decays: Real) -> bool:
    """Whether another round would move nothing that counts.

    What this one leaves of a frequency is cubic in how far that moved; where the decay moved too, it is their product,
    since a tone that fades or swells weighs one half of the window more.
    """
    moved, faded = np.abs(moves) * fit.size / 2, np.abs(decays) * fit.size / 2
    left = moved**3 / 6 + moved * faded
    if left.max() < NEAR**3 / 48:
        return True
    noise = np.full(moved.size, fit.left * fit.size / max(fit.size - 4 * moved.size, 1))
    u = np.sqrt(np.maximum(np.diag(fit.frequency_covariance(noise)), 0.0)) * fit.size / 2
    return bool(np.all(left < 0.1 * u))


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


def evidence(found: ToneFit, kind: Kind) -> float:
    """Log of how likely a fit is, by the criterion of Schwarz and how many of its partials are missing."""
    n = found.fit.size
    return float(
        -0.5 * n * math.log(max(found.left, 1e-300)) - 2 * found.numbers.size * math.log(n)
        + 3 * prior(found.numbers, kind)
    )  # fmt: skip
