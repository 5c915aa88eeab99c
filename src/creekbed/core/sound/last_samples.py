"""The last samples of a running sound, without moving them all at each new block."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Real = NDArray[np.float64]


class LastSamples:
    """Holds the last ``size`` samples; before there are so many, silence stands in their place."""

    def __init__(self, size: int):
        self.size = size
        self._room = np.zeros(2 * size)
        self._end = size

    def push(self, samples: Real) -> None:
        """Add samples at the end."""
        samples = samples[-self.size :]
        if self._end + samples.size > self._room.size:
            keep = self.size - samples.size
            self._room[:keep] = self._room[self._end - keep : self._end] if keep else 0.0
            self._end = keep
        self._room[self._end : self._end + samples.size] = samples
        self._end += samples.size

    def last(self, count: int) -> Real:
        """A view of the last samples, at most ``size``, oldest first."""
        return self._room[self._end - count : self._end]

    def clear(self) -> None:
        """Silence instead of all that was heard."""
        self._room[:] = 0.0
        self._end = self.size
