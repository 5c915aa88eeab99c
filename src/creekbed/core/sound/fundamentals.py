"""Which fundamental explains the peaks of a spectrum best, and which of them are its partials."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.sound.peaks import Peaks

Real = NDArray[np.float64]
Kind = Literal["harmonic", "stretched", "odd"]
MOST_PARTIALS = 32
"""More partials say hardly more: house default."""
MOST_STRETCH = 0.02
"""Largest B that is believed; plain strings have 1e-5 to 1e-3 (Fletcher and Rossing, from memory)."""


def partials_hz(f0: float, stretch: float, k: Real) -> Real:
    """Frequencies of partials by the law, Hz.

    Args:
        f0: Hz. stretch: B. k: numbers of the partials, shape (K,).
    """
    return np.asarray(k * f0 * np.sqrt(1 + stretch * k * k))


def fundamentals(peaks: Peaks, kind: Kind, lowest: float, highest: float, limit: float) -> list[Guess]:
    """Fundamentals that would explain the peaks, the most likely first.

    Args:
        peaks: of the spectrum. kind: of the partials. lowest, highest: fundamentals that are looked for, Hz.
        limit: partials above it are not looked for, Hz.
    """
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
    found: dict[float, Guess] = {}
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
        if guess.explains > ENOUGH and guess.score > 0 and guess.numbers[0] == 1:
            break
    return sorted(found.values(), key=lambda g: -g.score)


FOLLOWED = 6
"""So many fundamentals are followed up through their partials: house default."""
WIDEST_GAP = 5
"""A tone lacks at most so many partials in a row: house default."""
OUT_OF_LINE = 0.012
"""A partial may lie so far from where the law has it, as those of false strings do: 20 cents, house default."""
DOUBT = 1.5
"""What each partial must explain to count for a fundamental: a peak of noise that lies where an octave lower has a
partial would else speak for that, once in ten thousand tones: house default.
"""
ENOUGH = 0.97
"""One that is heard itself, explains so much of all peaks, and asks for few that are not there, needs no rival: house
default."""


@dataclass(frozen=True)
class Guess:
    """A fundamental, its partials, and how well they explain the peaks."""

    f0: float
    numbers: NDArray[np.int64]
    hz: Real
    score: float
    explains: float


def _followed(peaks: Peaks, f0: float, kind: Kind, limit: float) -> Guess | None:
    """The partials of a fundamental that are there, followed upward."""
    stretch, numbers, found, over = 0.0, np.empty(0), np.empty(0), np.empty(0)
    for most in (4, 8, 16, MOST_PARTIALS) if kind == "stretched" else (8, MOST_PARTIALS):
        k = np.arange(1.0, most + 1)
        hz = partials_hz(f0, stretch, k)
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
        f0, stretch = law(numbers, found, np.minimum(over, 1e6), kind)
    if not numbers.size:
        return None
    whole = numbers.astype(np.int64)
    common = int(np.gcd.reduce(whole))  # 2, 4, 6 of one fundamental are 1, 2, 3 of another
    whole //= common
    gain = float(np.log1p(over).sum())
    few_missing = whole.size >= (0.4 if kind == "odd" else 0.7) * whole[-1]
    explains = gain / peaks.all_gain if few_missing else 0.0
    score = gain - DOUBT * whole.size + prior(whole, kind)
    return Guess(f0 * common, whole, found, 3 * score, explains)


def prior(numbers: NDArray[np.int64], kind: Kind) -> float:
    """Log of how likely it is that just these partials are there: house default."""
    k = np.arange(1, numbers[-1] + 1)
    expected = np.where(k % 2 == 1, 0.85, 0.15 if kind == "odd" else 0.8)
    there = np.zeros(k.size, dtype=bool)
    there[numbers - 1] = True
    return float(np.where(there, np.log(expected), np.log(1 - expected)).sum())


def law(k: Real, hz: Real, weight: Real, kind: Kind) -> tuple[float, float]:
    """f0 and B by weighted least squares on (f_k/k)² = f0²·(1 + B·k²).

    Args:
        k: numbers of the partials. hz: where they are. weight: one over the variance of each; all of shape (K,).
    """
    ratio = hz / k
    w = weight * k * k
    if kind != "stretched" or k.size < 4:
        return float((w * ratio).sum() / w.sum()), 0.0
    x, y = k * k, ratio**2
    mx, my = (w * x).sum() / w.sum(), (w * y).sum() / w.sum()
    slope = (w * (x - mx) * (y - my)).sum() / max(float((w * (x - mx) ** 2).sum()), 1e-30)
    stretch = min(max(slope / max(my - slope * mx, 1e-30), 0.0), MOST_STRETCH)
    return math.sqrt(float((w * y).sum() / (w * (1 + stretch * x)).sum())), float(stretch)
