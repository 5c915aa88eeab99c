"""The time between two knocks in a sound, such as the snip of a thread and the thud of what hung on it.

Loudness is looked at in milliseconds. A knock is where it leaps over what was there before; it begins where it leaves
that, and how surely that is known follows from how fast it rises: a thud on foam swells.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.sound.last_samples import LastSamples

Real = NDArray[np.float64]
FRAME_S = 0.001
FIRST, BEFORE = 10, 20
"""The first frame in which a knock can be told, and how many frames before it say what was there: house default."""
LOWEST_HZ = 120.0
"""Hum, rumble and hands on the bench lie below: house default."""
LEAPS_DB, OVER_FLOOR_DB = 12.0, 15.0
"""A knock leaps by so much within :data:`RISES_S`, and stands so far over the quietest: house default."""
RISES_S, RINGS_S = 0.03, 0.07
"""A knock is at its loudest after so long at most; for so long its ringing and the room's echoes are no other knock:
house default."""
SOFTER_DB = 30.0
"""What is softer than the loudest by more is no knock of the fall: house default."""
LEAST_S, MOST_S = 0.08, 1.5
"""Two knocks of a fall lie so far apart: 5 cm take 0.1 s, and 25 cm with friction seldom more than 1 s."""
QUIET_S = 0.5
"""So long nothing else is heard before and after: house default."""
SHARE_OF_RISE = 0.25
"""Standard uncertainty of a beginning, as a share of the time in which it rises: house default."""


@dataclass(frozen=True)
class Fall:
    """The time between two knocks and its standard uncertainty, s."""

    time_s: float
    u_s: float


@dataclass(frozen=True)
class Knock:
    """A knock: when it begins, with its standard uncertainty, s; how loud it becomes, dB."""

    at_s: float
    u_s: float
    level_db: float


def knocks_in(sound: Real, rate: float) -> list[Knock]:
    """The knocks of a sound, shape (N,), in the order of time."""
    size = max(int(FRAME_S * rate), 1)
    if sound.size < 40 * size:
        return []
    clear = sosfilt(butter(2, LOWEST_HZ, "high", fs=rate, output="sos"), sound)
    frames = clear[: clear.size // size * size].reshape(-1, size)
    level = 10 * np.log10(np.maximum((frames**2).mean(axis=1), 1e-14))
    floor = float(np.quantile(level, 0.2))
    frame_s, rises, rings = size / rate, int(RISES_S / FRAME_S), int(RINGS_S / FRAME_S)
    found: list[Knock] = []
    usual = _before(level)
    leaps = np.flatnonzero(level[:-1] - usual[:-1] >= LEAPS_DB / 2)
    after = FIRST
    for n in leaps[leaps >= FIRST]:
        before, peak = float(usual[n]), int(n + np.argmax(level[n : n + rises]))
        if n < after or level[peak] - before < LEAPS_DB or level[peak] < floor + OVER_FLOOR_DB:
            continue
        begins = _begins(level, int(n), before)
        risen = begins + int(np.argmax(level[begins : peak + 1] >= level[peak] - 3.0))
        rise_s = max(risen - begins, 1) * frame_s
        found.append(Knock(begins * frame_s, math.hypot(frame_s / math.sqrt(12), SHARE_OF_RISE * rise_s), level[peak]))
        after = peak + rings
    loudest = max((k.level_db for k in found), default=0.0)
    return [k for k in found if k.level_db > loudest - SOFTER_DB]


def _before(level: Real) -> Real:
    """The usual level of the frames before each frame, shape (N,); the first has none."""
    known = np.concatenate([np.full(BEFORE, np.nan), level[:-1]])
    usual = np.full(level.size, np.inf)
    usual[1:] = np.nanmedian(sliding_window_view(known, BEFORE)[1:], axis=1)
    return usual


def _begins(level: Real, n: int, before: float) -> int:
    """The frame in which a knock that is noticed in frame ``n`` leaves what was there before it."""
    while n > 1 and level[n - 1] > before + 3.0:
        n -= 1
    return n


def fall_in(sound: Real, rate: float) -> Fall:
    """The time of the fall in a recording; problems as :func:`fall_of`."""
    return fall_of(knocks_in(sound, rate))


def fall_of(found: Sequence[Knock]) -> Fall:
    """The time between the two knocks of a fall.

    Raises:
        BadInput: not two knocks as far apart as those of a fall.
    """
    if not found:
        raise BadInput("No knock is heard.", todo="Put the microphone nearer, and let it fall again.")
    if len(found) == 1:
        raise BadInput("Only one knock is heard.", todo="Snip the thread close to the microphone; let it fall again.")
    if len(found) > 2:
        raise BadInput(f"{len(found)} knocks are heard.", todo="Keep still around the snip and the thud; again.")
    first, last = found
    fell = last.at_s - first.at_s
    if not LEAST_S <= fell <= MOST_S:
        raise BadInput("Those two knocks are none of a fall.", todo="5 to 25 cm, on to foam; again.")
    return Fall(fell, math.hypot(first.u_s, last.u_s))


class FallListener:
    """Takes sound in until the two knocks of a fall were heard, with quiet before and after.

    Attributes:
        fall: what was heard; ``None`` so far. problem: why what was heard is no fall, in words; "" so far.
    """

    def __init__(self, rate: float):
        self.rate = rate
        self.fall: Fall | None = None
        self.problem = ""
        self._held = LastSamples(int((MOST_S + 2 * QUIET_S) * rate))
        self._count = 0
        self._asked = 0.0

    @property
    def seconds(self) -> float:
        """How much sound was taken in, s."""
        return self._count / self.rate

    def push(self, samples: Real, lost: int = 0) -> None:
        """Take some sound in; what was heard before a gap is forgotten."""
        if lost:
            self._held.clear()
            self._count += lost
        self._held.push(samples)
        self._count += samples.size

    def hear(self) -> None:
        """Look for a fall that has ended."""
        if self.fall is not None or self.seconds - self._asked < 0.1:
            return
        self._asked = self.seconds
        sound = self._held.last(min(self._held.size, self._count))
        found = knocks_in(sound, self.rate)
        still = sound.size / self.rate - (found[-1].at_s if found else 0.0)
        if not found or still < QUIET_S:
            return
        try:
            self.fall, self.problem = fall_of(found), ""
        except BadInput as problem:
            if still > MOST_S or len(found) > 1:
                self.problem = problem.words(safe=False)
