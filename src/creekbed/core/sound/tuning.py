"""What a pitch is called, and how far the air's warmth moves it."""

from __future__ import annotations

import math

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

NAMES = ("C", "C#", "D", "E♭", "E", "F", "F#", "G", "G#", "A", "B♭", "B")
ZERO_C = 273.15
CLOCK_CENTS = 0.05
"""Standard uncertainty of a pitch by the clock of what records: 50 millionths either way, evenly (common practice for
crystals, no source)."""


@dataclass(frozen=True)
class Note:
    """The nearest note of equal temperament.

    Attributes:
        name: with its octave, that of A4 (Young 1939). hz: its frequency. cents: how far above it a pitch is.
    """

    name: str
    hz: float
    cents: float


def nearest_note(hz: float, a4_hz: float = 440.0) -> Note:
    """The note that a pitch is nearest to, in equal temperament (ISO 16 for A4 = 440).

    Raises:
        BadInput: a pitch or a reference of 0 or less.
    """
    if not (hz > 0 and a4_hz > 0 and math.isfinite(hz)):
        raise BadInput("A pitch is more than 0 Hz.")
    semitones = 12 * math.log2(hz / a4_hz)
    whole = round(semitones)
    number = 69 + whole
    return Note(
        f"{NAMES[number % 12]}{number // 12 - 1}", a4_hz * 2 ** (whole / 12), 100 * (semitones - whole)
    )  # fmt: skip


UNWARMED_C = 20.0
"""Air at which winds are tuned, °C: common practice, no source."""


def warmth_cents(celsius: float, at_c: float = UNWARMED_C) -> float:
    """How far a wind instrument rises when its air is so warm instead of ``at_c``: the speed of sound goes as √T.

    Source: c ∝ √T of an ideal gas, T in K; about 3 cents a degree near room temperature. The instrument's own growth,
    which takes off less than a tenth of that, is left out.

    Raises:
        BadInput: a temperature at which nobody plays.
    """
    if not (-30 <= celsius <= 60 and -30 <= at_c <= 60):
        raise BadInput("Air for playing lies between −30 and 60 °C.")
    return 600 * math.log2((celsius + ZERO_C) / (at_c + ZERO_C))
