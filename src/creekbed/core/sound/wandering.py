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

    A sine of the rate that fits best, by least squares; its four numbers leave few parts to tell how well it does, so
    the interval is widened as Student's t has it.

    Args:
        at_s, at_hz: middles, s, and pitches, Hz, of parts that overlap by half, in order of time; shape (N,).

    Returns:
        Both in Hz.
    """
    freedom = at_hz.size // 2 - 4  # they overlap by half
    if freedom < 2:
        return None
    best: tuple[float, float, float] | None = None
    for turns in VIBRATO_HZ:
        wave = 2 * np.pi * turns * at_s
        rows = np.column_stack([np.ones(at_s.size), np.cos(wave), np.sin(wave)])
        found, _, rank, _ = np.linalg.lstsq(rows, at_hz, rcond=None)
        left = float(((at_hz - rows @ found) ** 2).sum())
        if rank == 3 and (best is None or left < best[0]):
            best = left, float(found[0]), float(np.linalg.inv(rows.T @ rows)[0, 0])
    if best is None or best[0] > SWINGS_LEFT * float(((at_hz - at_hz.mean()) ** 2).sum()):
        return None
    left, middle, share = best
    # half as many parts are free, and as many tell the middle: the two halvings cancel
    return middle, math.sqrt(share * left / freedom) * float(stdtrit(freedom, 0.975)) / 1.96
