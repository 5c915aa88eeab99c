"""Hears a running sound: whether somebody plays, at what pitch, and since when the same tone sounds.

A short window gives the pitch for a needle that follows the hand; as long as the tone stays the same, a longer one
gives the number that is kept.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.sound.fundamentals import Kind
from creekbed.core.sound.last_samples import LastSamples
from creekbed.core.sound.pitch import Pitch, pitch_of
from creekbed.core.sound.rasp import Rasp, rasp_of

Real = NDArray[np.float64]
State = Literal["dead", "quiet", "noise", "tone"]
SHORT_S, PERIODS = 0.06, 3.4
"""A needle's window lasts so long, or so many periods of the lowest pitch if that is longer: house default."""
LONG_S, KEPT_S = 1.0, 1.5
"""The longest window for the number that is kept, and how much sound is held, s: house default."""
LEAST_LONG_S, EVERY_S = 0.25, 0.2
"""The shortest such window, and how often it is worked out, s: house default."""
SAME_CENTS = 30.0
"""A tone that moves by no more from one window to the next is the same tone: house default."""
OVER_FLOOR_DB = 10.0
"""Somebody plays where the sound is so much over the quietest of the last seconds: house default."""
QUIETEST_DB = -75.0
"""Below that nobody plays, whatever the floor: house default."""
FLOOR_RISES_DB_S = 1.5
"""The floor follows a room that becomes louder so fast: house default."""
CLIPPED = 0.999
RISES_DB = 6.0
"""Over a window in which the sound rises by more, the tone is only beginning: its pitch is not believed."""


@dataclass(frozen=True, eq=False)
class Heard:
    """What is heard at a moment.

    Attributes:
        at_s: the middle of the window, s since listening began. state: "dead": not even noise, as of a muted
            microphone; "quiet"; "noise" without a pitch; "tone". level_db: of the window, against the end of the scale.
        over_db: over the room's floor. clipped: it is cut off. pitch: of the short window. since_s: when the tone
            began. kept: its pitch over as long as it has sounded the same, at most :data:`LONG_S`; worked out every
            :data:`EVERY_S` only. rasp: what sounds beside the partials of that, of strings only. unclear:
            it has sounded long enough, but no one pitch fits all of it.
    """

    at_s: float
    state: State
    level_db: float
    over_db: float = 0.0
    clipped: bool = False
    pitch: Pitch | None = None
    since_s: float = 0.0
    kept: Pitch | None = None
    rasp: Rasp | None = None
    unclear: bool = False


class Listener:
    """Takes a sound in, piece by piece, and says what is heard now.

    Args:
        rate: samples per second. kind: of the partials. lowest_hz, highest_hz: fundamentals that are looked for.

    Raises:
        BadInput: a rate that cannot hold those pitches.
    """

    def __init__(self, rate: float, kind: Kind, lowest_hz: float, highest_hz: float):
        if not (0 < lowest_hz < highest_hz < rate / 2):
            raise BadInput(f"{rate:.0f} samples a second are too few for {highest_hz:.0f} Hz.")
        self.rate, self.kind = rate, kind
        self.lowest_hz, self.highest_hz = lowest_hz, highest_hz
        self.short = int(rate * max(SHORT_S, PERIODS / lowest_hz))
        self._ring = LastSamples(int(rate * KEPT_S))
        self._taken = 0
        self._floor_db: float | None = None
        self._floor_at = 0.0
        self._since = 0
        self._last_hz = 0.0
        self._missed = 0
        self._kept_at = 0

    def push(self, samples: Real, lost: int = 0) -> None:
        """Take some sound in; what was lost before it ends the tone."""
        if lost:
            self._ring.clear()
            self._last_hz = 0.0
            self._taken += lost
            self._since = self._taken
        self._ring.push(samples)
        self._taken += samples.size

    @property
    def seconds(self) -> float:
        """How much sound was taken in, s."""
        return self._taken / self.rate

    def hear(self, *, long: bool = True) -> Heard | None:
        """What is heard now; ``None`` before there is a whole window.

        Args:
            long: also the pitch over a longer window.
        """
        if self._taken < self.short:
            return None
        window = self._ring.last(self.short)
        at = (self._taken - self.short / 2) / self.rate
        power = float((window**2).mean())
        level = 10 * np.log10(power) if power > 0 else -200.0
        if level < -120:
            return self._without("dead", at, level, 0.0)
        over = self._over(level, at)
        clipped = bool((np.abs(window) >= CLIPPED).sum() >= 3)
        if level < QUIETEST_DB or over < OVER_FLOOR_DB:
            return self._without("quiet", at, level, over)
        half = self.short // 2
        before, after = (float((part**2).mean()) for part in (window[:half], window[half:]))
        beginning = after > before * 10 ** (RISES_DB / 10)
        pitch = None if beginning else self._pitch(window)
        if pitch is None:
            return self._without("tone" if beginning else "noise", at, level, over, clipped)
        another = not self._last_hz or abs(1200 * np.log2(pitch.hz / self._last_hz)) > SAME_CENTS
        self._last_hz, self._missed = pitch.hz, 0
        if another:  # its first window may hold the end of the tone before: it is believed when the next one agrees
            self._since = self._taken - self.short
            self._kept_at = 0
            return Heard(at, "tone", level, over, clipped)
        kept, rasp, unclear = self._kept() if long else (None, None, False)
        return Heard(at, "tone", level, over, clipped, pitch, self._since / self.rate, kept, rasp, unclear)

    def _without(self, state: State, at: float, level: float, over: float, clipped: bool = False) -> Heard:
        self._missed += 1
        if state in ("dead", "quiet") or self._missed > 2:
            self._last_hz = 0.0
        return Heard(at, state, level, over, clipped)

    def _over(self, level: float, at: float) -> float:
        """How far a level is over the room's, dB; the room's is the quietest, and rises slowly."""
        if self._floor_db is None:
            self._floor_db = min(level, -45.0)
        else:  # under a tone that is held nobody hears the room
            rises = 0.0 if self._last_hz else FLOOR_RISES_DB_S * max(at - self._floor_at, 0.0)
            self._floor_db = min(level, self._floor_db + rises)
        self._floor_at = at
        return level - self._floor_db

    def _pitch(self, window: Real) -> Pitch | None:
        found = pitch_of(window, self.rate, self.kind, lowest_hz=self.lowest_hz, highest_hz=self.highest_hz)
        return found if found is not None and found.snr_db > 0 else None

    def _kept(self) -> tuple[Pitch | None, Rasp | None, bool]:
        """Pitch and rasp of all of the tone, and whether it has none; nothing between two times."""
        length = min(self._taken - self._since - self.short // 2, int(LONG_S * self.rate))
        if length < LEAST_LONG_S * self.rate or self._taken - self._kept_at < EVERY_S * self.rate:
            return None, None, False
        self._kept_at = self._taken
        window = self._ring.last(length)
        kept = self._pitch(window)
        if kept is None or self.kind != "stretched":
            return kept, None, kept is None
        return kept, rasp_of(window, self.rate, kept), False


def heard_in(
    sound: Real,
    rate: float,
    kind: Kind,
    lowest_hz: float,
    highest_hz: float,
    *,
    hop_s: float = 0.03,
    long: bool = False,
) -> Iterator[Heard]:
    """What is heard in a recording, every ``hop_s``; by the short window only unless ``long``.

    Raises:
        BadInput: as :class:`Listener`.
    """
    listener = Listener(rate, kind, lowest_hz, highest_hz)
    hop = max(int(hop_s * rate), 1)
    for start in range(0, sound.size, hop):
        listener.push(sound[start : start + hop])
        heard = listener.hear(long=long)
        if heard is not None:
            yield heard
