"""The last minutes of what a microphone heard, in memory only: nothing of it is written unless somebody asks."""

from __future__ import annotations

import threading
from collections import deque

import numpy as np
from numpy.typing import NDArray

from creekbed.devices.microphone import Block
from creekbed.devices.sound_file import sixteen_bits

LONGEST_S = 180.0
"""Longer than a play-test takes; at 48,000 samples of 16 bits in a second that is 17 MB: house default."""
LONGEST_GAP_S = 5.0
"""A longer loss is not filled with silence."""


class SoundMemory:
    """Remembers blocks as they come, from one thread; another may ask for the sound.

    Args:
        longest_s: what is older is forgotten, s.
    """

    def __init__(self, longest_s: float = LONGEST_S):
        self._longest_s = longest_s
        self._pieces: deque[NDArray[np.int16]] = deque()
        self._count = 0
        self._rate = 0.0
        self._lock = threading.Lock()

    @property
    def seconds(self) -> float:
        """How much is remembered, s."""
        return self._count / self._rate if self._rate else 0.0

    def push(self, block: Block) -> None:
        """Remember a block; samples that were lost before it are silence, so that the times stay true."""
        lost = min(block.lost, round(LONGEST_GAP_S * block.rate))
        with self._lock:
            if block.rate != self._rate:
                self._pieces.clear()
                self._count, self._rate = 0, block.rate
            if lost:
                self._put(np.zeros(lost, np.int16))
            self._put(sixteen_bits(block.samples))
            while self._count - self._pieces[0].size >= self._longest_s * self._rate:
                self._count -= self._pieces.popleft().size

    def _put(self, piece: NDArray[np.int16]) -> None:
        self._pieces.append(piece)
        self._count += piece.size

    def sound(self) -> tuple[NDArray[np.int16], float]:
        """What is remembered now, shape (N,), and its rate; nothing and 0 where nothing was heard."""
        with self._lock:
            pieces = list(self._pieces)
            rate = self._rate
        return (np.concatenate(pieces) if pieces else np.zeros(0, np.int16)), rate
