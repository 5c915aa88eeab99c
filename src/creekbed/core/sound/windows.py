"""Which part of a recording holds a tone."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Real = NDArray[np.float64]
FRAME_S, ATTACK_S, LONGEST_S = 0.02, 0.05, 2.0
"""Frames in which loudness is looked at, what is left out after a beginning, and the longest part: house default."""
FADED_DB = 26.0
"""A tone is followed until it is so much softer than at its loudest: house default."""


def loudest_part(sound: Real, rate: float) -> slice:
    """The samples of the loudest tone: from a moment after its beginning until it has faded, at most two seconds.

    Args:
        sound: shape (N,), N at least 1. rate: samples per second.
    """
    size = max(int(FRAME_S * rate), 1)
    count = sound.size // size
    if count < 3:
        return slice(0, sound.size)
    power = (sound[: count * size].reshape(count, size) ** 2).mean(axis=1)
    top = int(power.argmax())
    begin = top + max(int(ATTACK_S / FRAME_S), 1)
    faint = power[top] / 10 ** (FADED_DB / 10)
    low = np.flatnonzero(power[top:] < faint)
    end = min(top + int(low[0]) if low.size else count, begin + int(LONGEST_S / FRAME_S))
    if end - begin < 5:  # hardly anything is left after the beginning: take it with it
        begin = top
        end = max(end, top + 5)
    return slice(begin * size, min(end * size, sound.size))
