"""What sounds beside the partials of a string: how much, and whether it comes and goes with the string's own motion.

A string that touches a fret, a loose part that it shakes, rattles once or twice a period: noise in bursts. Noise of the
room, of a hand or of hair that is drawn evenly has no beat. A string that buzzes has much more of such noise than the
others of the same instrument; that is a suspicion, and the ear decides.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.fft import irfft, rfft, rfftfreq

from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.sound.pitch import Pitch

Real = NDArray[np.float64]
LOWEST_HZ, HIGHEST_HZ = 1500.0, 9000.0
"""Rattling is heard there, above the strong partials: house default."""
LINE_BINS, LINE_SHARE = 3.0, 0.002
"""So far around a partial nothing counts: bins of the window, and a share of its frequency: house default."""
BEATS = 3
"""Bursts come at the string's frequency or at twice or three times that."""
LEAST_BINS = 20
"""Fewer bins between the partials say nothing."""
LOUDER_DB, BEATING, LEAST_DB = 9.0, 0.25, -50.0
"""A string may buzz that has so much more of it than the others, of which so large a share beats, and so much against
its own tone: house default."""
LEAST_OTHERS = 2
"""So many other strings must have been heard."""


@dataclass(frozen=True)
class Rasp:
    """What sounds beside the partials.

    Attributes:
        level_db: its energy against that of the whole sound. beating: how much of it comes with the string's motion,
            0: evenly, to 1: in bursts; what chance makes of even noise is told off.
    """

    level_db: float
    beating: float


def rasp_of(sound: Real, rate: float, pitch: Pitch) -> Rasp | None:
    """What sounds beside the partials of a tone; ``None`` where they leave no room for it.

    Args:
        sound: shape (N,), one tone. rate: samples per second. pitch: of the same sound.
    """
    window = np.hanning(sound.size)
    whole = (sound - sound.mean()) * window
    spectrum, hz = rfft(whole), rfftfreq(sound.size, 1 / rate)
    band = (hz >= LOWEST_HZ) & (hz <= min(HIGHEST_HZ, 0.45 * rate))
    count = int(hz[-1] / pitch.f0_hz) + 2
    k = np.arange(1.0, count + 1)
    lines = k * pitch.f0_hz * np.sqrt(1 + max(pitch.stretch, 0.0) * k * k)
    heard = pitch.partials <= count  # of a false string they lie beside the law
    lines[pitch.partials[heard] - 1] *= np.exp2(pitch.off_cents[heard] / 1200)
    lines = np.sort(lines)
    after = np.minimum(np.searchsorted(lines, hz), count - 1)
    near = np.minimum(np.abs(hz - lines[after]), np.abs(hz - lines[np.maximum(after - 1, 0)]))
    between = band & (near > LINE_BINS * rate / sound.size + LINE_SHARE * hz)
    energy = float((whole**2).sum())
    if between.sum() < LEAST_BINS or energy <= 0:
        return None
    left = irfft(np.where(between, spectrum, 0.0), sound.size)
    power = left**2
    share = band.sum() / between.sum()  # the lines hide as much as lies beside them
    level = 10 * math.log10(max(share * float(power.sum()) / energy, 1e-20))
    phase = 2 * np.pi * pitch.hz * np.arange(sound.size) / rate
    beats = [abs(complex((power * np.exp(-1j * n * phase)).sum())) for n in range(1, BEATS + 1)]
    chance = math.sqrt(8 / between.sum())  # power of Gaussian noise in so many bins, two deviations
    return Rasp(level, max(0.0, max(beats) / max(float(power.sum()), 1e-300) - chance))


def buzzes_db(mine: Rasp | None, others: Sequence[Rasp | None]) -> float:
    """By how much a string rasps more than the others, dB, where that may be a buzz; 0 where it is none.

    Args:
        others: of the other strings of the same instrument; ``None``: not heard.
    """
    heard = [r.level_db for r in others if r is not None]
    if mine is None or len(heard) < LEAST_OTHERS or mine.beating < BEATING or mine.level_db < LEAST_DB:
        return 0.0
    more = mine.level_db - float(np.median(heard))
    return more if more >= LOUDER_DB else 0.0
