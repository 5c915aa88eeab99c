"""The pitch of a tone that is not steady, from the pitches of its parts."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy.special import stdtrit

Real = NDArray[np.float64]
VIBRATO_HZ = np.linspace(3.0, 9.0, 25)
"""Rates of a vibrato that are tried; players' are 4 to 8 Hz (common practice, no source)."""
SWINGS_LEFT = 0.2
"""A swing that leaves more of how the pitch wanders is no vibrato: house default."""
LEAST_TURNS = 1.2
"""A sine of fewer turns would follow any slow change: house default."""
LEAST_FREEDOM = 4
"""So many more parts than numbers of a sine are wanted: house default."""
MANY, FEW = 0.3, 4.0
"""How much of the scatter of parts that overlap by half stays in their middle: MANY + FEW / their number.

The frequency of a part leans on its ends, in opposite ways, so neighbours err against each other: −1/4 of one error is
in the next, which gives √(1 − 2/4) = 0.71 for noise; what the sine does not follow evens out more, the more parts there
are. As found in tones with even and uneven vibrato: house default."""
BENT = 0.002
"""The least that a part's bend leaves uncertain of the middle, of how far the pitch swings to one side. As found in
tones with even vibrato, which a sine follows exactly: house default."""


def middle_of_wandering(at_hz: Real) -> tuple[float, float]:
    """The mean pitch of parts that wander, and its standard uncertainty, Hz; parts that hang together count as one.

    Args:
        at_hz: pitches of the parts in order of time, Hz, shape (N,), N at least 2.
    """
    sway = at_hz - at_hz.mean()
    turns = 1 + int((sway[1:] * sway[:-1] < 0).sum())
    return float(at_hz.mean()), float(at_hz.std(ddof=1)) / math.sqrt(turns)


def middle_of_vibrato(at_s: Real, at_hz: Real) -> tuple[float, float] | None:
    """The pitch about which a vibrato swings, and its standard uncertainty; ``None`` where it is no steady swing.

    A sine of the rate that fits best, by least squares. Where its pace changes too much for one sine, one is fitted to
    each half, and the mean of their middles is told.

    Args:
        at_s, at_hz: middles, s, and pitches, Hz, of parts that overlap by half, in order of time; shape (N,).

    Returns:
        Both in Hz.
    """
    freedom = at_hz.size - 4
    if freedom < LEAST_FREEDOM:
        return None
    found = _swing(at_s, at_hz)
    if found is None:
        return _of_halves(at_s, at_hz)
    left, middle, share, depth = found
    stays = MANY + FEW / at_hz.size
    u = stays * math.sqrt(share * left / freedom) * float(stdtrit(freedom, 0.975)) / 1.96
    return middle, math.hypot(u, BENT * depth)


def _swing(at_s: Real, at_hz: Real) -> tuple[float, float, float, float] | None:
    """What the best sine leaves, Hz², its middle, Hz, the share of a part's variance that this has, its depth, Hz."""
    best: tuple[float, float, float, float] | None = None
    for rate in VIBRATO_HZ[VIBRATO_HZ * (at_s[-1] - at_s[0]) >= LEAST_TURNS]:
        wave = 2 * np.pi * rate * at_s
        rows = np.column_stack([np.ones(at_s.size), np.cos(wave), np.sin(wave)])
        found, _, rank, _ = np.linalg.lstsq(rows, at_hz, rcond=None)
        left = float(((at_hz - rows @ found) ** 2).sum())
        if rank == 3 and (best is None or left < best[0]):
            share = float(np.linalg.inv(rows.T @ rows)[0, 0])
            best = left, float(found[0]), share, math.hypot(found[1], found[2])
    if best is None or best[0] > SWINGS_LEFT * float(((at_hz - at_hz.mean()) ** 2).sum()):
        return None
    return best


def _of_halves(at_s: Real, at_hz: Real) -> tuple[float, float] | None:
    middle = at_hz.size // 2
    first, then = middle_of_vibrato(at_s[:middle], at_hz[:middle]), middle_of_vibrato(at_s[middle:], at_hz[middle:])
    if first is None or then is None:
        return None
    return (first[0] + then[0]) / 2, math.hypot(first[1], then[1]) / 2
