"""How far to push a mouthpiece, a barrel or a slide in, or to pull it out, so that a wind instrument lies on its pitch.

A tube that is longer by x sounds lower by 1200·log2(1 + x/L) cents, where L is its speaking length for that note: half
a wave of the note, or a quarter in a closed cylinder; on brass the whole tube, half a wave of its lowest mode, for
every note. What suits the note in the middle of the scale suits the scale best.

Source: standing waves in tubes (Fletcher and Rossing, The Physics of Musical Instruments, recalled). Ends and bells
make each tube a little longer than it measures; by how much is left in the doubt (house default).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from statistics import median

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.sound.tuning import ZERO_C

SOUND_0C = 331.3
"""Speed of sound in dry air at 0 °C, m/s (published, from memory)."""
U_MODEL = 0.15
"""Relative standard uncertainty of the length that a tube has for a note: house default."""
ALIGNED_CENTS = 5.0
"""An instrument that lies no further off needs no pull: house default."""
LONGEST_MM = 25.0
"""More than that no joint is pulled or pushed: something else is wrong. House default."""


@dataclass(frozen=True)
class Move:
    """How far a joint is moved.

    Attributes:
        mm: positive out, negative in. u_mm: standard uncertainty.
    """

    mm: float
    u_mm: float


def move_for(
    lies_cents: float, u_lies_cents: float, notes_hz: Sequence[float], *, quarter: bool = False,
    lowest_mode_hz: float | None = None, legs: int = 1, celsius: float = 20.0,
) -> Move:  # fmt: skip
    """How far a joint is moved so that an instrument lies on its pitch.

    Args:
        lies_cents: above its pitch as a whole, with its standard uncertainty; the warmth of the air is allowed for.
        notes_hz: of the scale, sounding. quarter: a closed cylinder. lowest_mode_hz: of a brass tube, sounding.
        legs: tubes that a slide draws out at once. celsius: of the air in it.

    Raises:
        BadInput: no notes, or a pitch, an uncertainty or a temperature that cannot be.
    """
    if not notes_hz or min(notes_hz) <= 0 or (lowest_mode_hz is not None and lowest_mode_hz <= 0):
        raise BadInput("A pitch is more than 0 Hz.")
    if not (u_lies_cents >= 0 and math.isfinite(lies_cents)) or legs < 1 or not -30 <= celsius <= 60:
        raise BadInput("That is no tuning.")
    sound = SOUND_0C * math.sqrt((celsius + ZERO_C) / ZERO_C)
    hz = median(notes_hz) if lowest_mode_hz is None else lowest_mode_hz
    length_mm = 1000 * sound / ((4 if quarter else 2) * hz)
    mm = length_mm * math.expm1(lies_cents * math.log(2) / 1200) / legs
    u_mm = math.hypot(length_mm / legs * math.log(2) / 1200 * u_lies_cents, U_MODEL * mm)
    return Move(mm, u_mm)


def worth_it(lies_cents: float, u_lies_cents: float, move: Move) -> bool:
    """Whether it lies off beyond doubt and by more than anybody hears, and a joint can be moved so far."""
    return abs(lies_cents) > max(ALIGNED_CENTS, 2 * u_lies_cents) and abs(move.mm) <= LONGEST_MM
