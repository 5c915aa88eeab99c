"""Peaks of a spectrum over the floor of its noise, whatever that noise's colour."""

from __future__ import annotations

import math
from functools import cached_property, lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.fft import next_fast_len, rfft

from creekbed.core.quick_dataclasses import dataclass

Real = NDArray[np.float64]
SURE = 14.0
"""A peak so many times over the floor is a partial; noise alone makes one in a million: from −ln of its chance."""


@dataclass(frozen=True)
class Peaks:
    """Local maxima of a spectrum that are partials, by frequency.

    Attributes:
        hz: where they are, by a parabola, ascending. over: their power over the floor of the noise.
        floor: that floor, as the variance of white noise of its density.
        resolution_hz: what lies nearer together is one maximum.
    """

    hz: Real
    over: Real
    floor: Real
    resolution_hz: float

    @cached_property
    def all_gain(self) -> float:
        """What explaining the strongest of them would be worth; weak ones may be those of a window's own sides."""
        return float(np.log1p(np.sort(self.over)[-8:]).sum())

    def strongest(self, most: int) -> Real:
        """Frequencies of the strongest ones."""
        return self.hz[np.argsort(-self.over)[:most]]

    def apart(self, least_hz: float) -> Peaks:
        """Those without a stronger one so near: what stands round the partials of a vibrato is left out."""
        if not np.any(np.diff(self.hz) < least_hz):
            return self
        kept: list[int] = []
        for n in np.argsort(-self.over):
            if all(abs(self.hz[n] - self.hz[other]) >= least_hz for other in kept):
                kept.append(int(n))
        own = np.sort(kept)
        return Peaks(self.hz[own], self.over[own], self.floor[own], self.resolution_hz)

    def near(self, hz: Real, within: Real) -> tuple[NDArray[np.bool_], NDArray[np.intp]]:
        """Whether there is one within so many Hz of each frequency, and which is nearest; any shape."""
        right = np.clip(np.searchsorted(self.hz, hz), 1, max(self.hz.size - 1, 1))
        left = right - 1
        right = np.minimum(right, self.hz.size - 1)
        nearest = np.where(np.abs(self.hz[left] - hz) <= np.abs(self.hz[right] - hz), left, right)
        return np.abs(self.hz[nearest] - hz) <= within, nearest


def peaks_of(sound: Real, rate: float, lowest_hz: float = 0.0) -> Peaks:
    """The maxima of the spectrum of a window of sound that stand out of the floor of its noise."""
    n = sound.size
    size = next_fast_len(2 * n if n < LONG else n + 1, real=True)
    spectrum = rfft(sound.astype(np.float32) * _hann(n), size)  # short numbers: peaks are only begun from
    power = (spectrum.real**2 + spectrum.imag**2).astype(np.float64)
    power = power[: _end(power)]
    floor = _floor(power, max(40, int(100 * n / rate)) * size // n)
    over = power / floor
    uneven = _unevenness(over)
    if uneven > 1:
        floor, over = floor * uneven, over / uneven
    high = np.flatnonzero(over[1:-1] > SURE) + 1
    high = high[high * rate / size > 0.9 * lowest_hz]
    tops = high[(over[high] > over[high - 1]) & (over[high] >= over[high + 1])]
    if n < LONG:  # by a parabola
        a, b, c = (np.log(over[tops + i] + 1e-30) for i in (-1, 0, 1))
        aside = 0.5 * (a - c) / np.minimum(a - 2 * b + c, -1e-12)
    else:  # by the ratio of the two strongest bins, which is exact for this window
        a, b, c = (np.sqrt(over[tops + i]) for i in (-1, 0, 1))
        ratio = np.maximum(a, c) / b
        aside = np.where(c >= a, 1.0, -1.0) * (2 * ratio - 1) / (ratio + 1)
    hz = (tops + np.minimum(np.maximum(aside, -0.5), 0.5)) * rate / size
    own = ~_beside_stronger(hz, over[tops], rate / n)
    return Peaks(hz[own], over[tops][own], floor[tops][own] * (8 / 3 / n), rate / n)


NOTHING = 1e-8
"""Above the highest frequency with so much of the strongest one's power nothing is looked for: house default."""


def _end(power: Real) -> int:
    """The bin up to which a spectrum has something in it: what is stored with loss, or resampled, ends abruptly.

    A stretch that holds such an end has no floor of its own, so all of its noise would stand out.
    """
    there = np.flatnonzero(power > NOTHING * power.max())
    return max(int(there[-1]) + 2 if there.size else 0, power.size // 8, min(64, power.size))


EVEN, PLAIN = 4.0, 2.5
"""Four of five maxima of plain noise lie below 2.5 times its floor, and below 4 in the shortest windows: from 10,000
windows of white noise."""


def _unevenness(over: Real) -> float:
    """How many times higher the maxima of this noise are than those of plain noise; 1 where they are not.

    What was stored with loss has holes in its noise, and sharp maxima between them.
    """
    inner = over[1:-1]
    tops = inner[(inner > over[:-2]) & (inner >= over[2:])]
    if tops.size < 40:
        return 1.0
    most = float(np.partition(tops, int(0.8 * tops.size))[int(0.8 * tops.size)])
    return most / PLAIN if most > EVEN else 1.0


SIDES = 12.0
"""So many bins from a peak the window's own sides still count."""


def _beside_stronger(hz: Real, over: Real, bin_hz: float) -> NDArray[np.bool_]:
    """Which peaks are but the sides of others: they fall with the sixth power of the distance, 31 dB at the first."""
    found = np.zeros(hz.size, dtype=bool)
    for step in range(1, min(5, hz.size)):
        apart = np.minimum((hz[step:] - hz[:-step]) / bin_hz, SIDES)
        weaker = np.where(apart < SIDES, 4 * apart**6, np.inf)
        found[step:] |= over[:-step] > weaker * over[step:]
        found[:-step] |= over[step:] > weaker * over[:-step]
    return found


LONG = 6000
"""A window of more samples is not padded before its spectrum: enough bins lie on each partial."""


@lru_cache(maxsize=8)
def _hann(n: int) -> Real:
    return np.hanning(n + 2)[1:-1].astype(np.float32)


def _floor(power: Real, least: int) -> Real:
    """Level of the noise at each bin: the lower quarter of stretches of the spectrum, between them lines in log-log.

    The second round works on a spectrum that the first has made about even, so that steep noise is followed too.
    """
    edges, middle, grid = _stretches(power.size, least)
    tiny = float(power.max()) * 1e-14 + 1e-300
    level = np.zeros(power.size)
    for _ in range(2):
        flat = power * np.exp(-level)
        # the quarter point of exponential power is its mean times −ln(3/4)
        parts = [np.partition(flat[a:b], (b - a) // 4)[(b - a) // 4] / 0.28768 for a, b in edges]
        found = np.log(np.maximum(parts, tiny)) if not level.any() else np.log(np.maximum(parts, 1e-12))
        if found.size > 1:
            first = found[0] + (found[1] - found[0]) / (middle[1] - middle[0]) * (grid[0] - middle[0])
            level = level + np.interp(grid, np.concatenate([grid[:1], middle]), np.concatenate([[first], found]))
        else:
            level = level + found[0]
    return np.maximum(np.exp(level), tiny)


@lru_cache(maxsize=16)
def _stretches(size: int, least: int) -> tuple[list[tuple[int, int]], Real, Real]:
    """Bounds of stretches that grow with frequency, and the logarithms of their middles and of all bins."""
    bounds = [1]
    while bounds[-1] < size:
        bounds.append(min(bounds[-1] + max(least, int(0.35 * bounds[-1])), size))
    if len(bounds) > 2 and bounds[-1] - bounds[-2] < least // 2:
        del bounds[-2]
    edges = list(pairwise(bounds))
    middle = np.log([math.sqrt(a * b) for a, b in edges])
    return edges, middle, np.log(np.maximum(np.arange(size), 1.0))
