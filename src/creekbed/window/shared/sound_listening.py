"""Listens to the microphone in a thread of its own; a page takes what was heard when it draws."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable
from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QThread, Signal

from creekbed.core.errors import CreekbedError
from creekbed.core.sound.listening import Heard
from creekbed.devices.microphone import Block, Microphone
from creekbed.devices.sound_memory import SoundMemory

EVERY_S = 0.03
"""A new answer so often: house default."""
BEHIND_S = 0.15
"""So far behind the sound nothing is worked out until it is caught up: a needle that lags is worse than one that skips.
"""
CLOCKS_DIFFER = 1e-3
"""The clock of a sound card may be slower than the computer's by that share: far more than crystals are."""
WAITING = 400


class Listens(Protocol):
    """What hears a running sound: :class:`Listener`, or what cuts it into notes."""

    @property
    def seconds(self) -> float: ...

    def push(self, samples: NDArray[np.float64], lost: int = 0) -> None: ...

    def hear(self) -> Heard | None: ...


class SoundListening(QThread):
    """Hears a microphone until it is stopped.

    ``failed`` gives the problem that ended it; what was heard before can still be taken.

    Args:
        address: of the microphone. make: a listener for its rate. every: nothing is skipped, however late it gets: for
            notes that are judged, not for a needle. memory: remembers what was heard.
    """

    failed = Signal(object)

    def __init__(
        self, address: str, make: Callable[[float], Listens], *, every: bool = False, memory: SoundMemory | None = None
    ):
        super().__init__()
        self._memory = memory
        self._behind_s = float("inf") if every else BEHIND_S
        self.microphone = Microphone(address)
        self._make = make
        self._listener: Listens | None = None
        self._heard: deque[Heard] = deque(maxlen=WAITING)
        self._wanted = True
        self._next = 0.0
        self._begun: float | None = None

    def run(self) -> None:
        try:
            self.microphone.listen(self._told)
        except CreekbedError as problem:
            if self._wanted:
                self.failed.emit(problem)

    def _told(self, block: Block) -> bool:
        if self._listener is None:
            self._listener = self._make(block.rate)
        listener = self._listener
        listener.push(block.samples, block.lost)
        if self._memory is not None:
            self._memory.push(block)
        early = time.monotonic() - listener.seconds
        drift = CLOCKS_DIFFER * block.samples.size / block.rate
        self._begun = early if self._begun is None else min(self._begun + drift, early)
        if listener.seconds >= self._next and early - self._begun < self._behind_s:
            self._next = listener.seconds + EVERY_S
            heard = listener.hear()
            if heard is not None:
                self._heard.append(heard)
        return self._wanted

    def take(self) -> list[Heard]:
        """What was heard since this was asked last, the oldest first."""
        found = []
        while True:
            try:
                found.append(self._heard.popleft())
            except IndexError:
                return found

    def stop(self) -> None:
        """End it, and wait until the microphone is free."""
        self._wanted = False
        self.wait()
