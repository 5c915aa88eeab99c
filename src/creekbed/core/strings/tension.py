"""String tension (Mersenne's law) and pitch."""

from __future__ import annotations

import math
import re
from itertools import pairwise
from typing import TYPE_CHECKING

from creekbed.core.conventions import number
from creekbed.core.errors import BadInput

if TYPE_CHECKING:
    from creekbed.core.catalogue.models.family import StringedData

_SEMITONE = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11, "H": 11}
"""In German H is what English calls B; a B alone is always the English one here."""
_SIGNS = {"": 0, "#": 1, "♯": 1, "b": -1, "♭": -1, "♮": 0, "is": 1, "es": -1, "s": -1}
_NOTE = re.compile(r"([A-Ha-h])(#|♯|b|♭|♮|is|es|s)?\s*(-?[0-9])")
_SUBSCRIPTS = str.maketrans("₀₁₂₃₄₅₆₇₈₉−", "0123456789-")


def pitch_hz(note: str, a4_hz: float = 440.0) -> float:
    """Frequency of a note such as ``"A4"``, ``"f#3"``, ``"B♭3"``, or German ``"H3"``, ``"Es4"``, ``"Fis3"``, Hz.

    In equal temperament (ISO 16 for A4 = 440). The octave's number is that of A4 (Young 1939).

    Raises:
        BadInput: not a note, or a reference pitch outside 380 to 480 Hz.
    """
    if not 380 <= a4_hz <= 480:
        raise BadInput(f"A4 = {number(a4_hz)} Hz is no pitch anybody tunes to.", todo="It lies between 380 and 480 Hz.")
    match = _NOTE.fullmatch(note.strip().translate(_SUBSCRIPTS))
    sign = (match[2] or "") if match is not None else ""
    if match is None or (sign == "s" and match[1].upper() not in "AE"):  # As and Es; all others are Des, Ges, ...
        raise BadInput(
            f"“{note[:20]}” is not a note.", todo="Type a letter, a sign if it has one, and the octave: A4, F#3, B♭3."
        )
    midi = _SEMITONE[match[1].upper()] + _SIGNS[sign] + 12 * (int(match[3]) + 1)
    return float(a4_hz * 2 ** ((midi - 69) / 12))


def tension_n(length_mm: float, frequency_hz: float, kg_per_m: float) -> float:
    """Tension T = 4·L²·f²·μ in N (Mersenne's law).

    Args:
        length_mm: vibrating length, mm. frequency_hz: pitch, Hz. kg_per_m: mass per length, kg/m.

    Raises:
        BadInput: any of them zero or negative.
    """
    if min(length_mm, frequency_hz, kg_per_m) <= 0:
        raise BadInput("Length, pitch and mass of a string must be more than 0.")
    return 4 * (length_mm / 1000) ** 2 * frequency_hz**2 * kg_per_m


def plain_mass_kg_per_m(density_kg_m3: float, diameter_mm: float) -> float:
    """Mass per length of a plain round string, kg/m: μ = ρ·π·d²/4."""
    return density_kg_m3 * math.pi * (diameter_mm / 1000) ** 2 / 4


def tension_elsewhere_n(stated_n: float, stated_mm: float, length_mm: float, stated_hz: float, hz: float) -> float:
    """Tension of a string at another length and pitch from the tension its maker states, N.

    From Mersenne's law with the same μ: T2 = T1·(L2/L1)²·(f2/f1)².

    Raises:
        BadInput: any value zero or negative.
    """
    if min(stated_n, stated_mm, length_mm, stated_hz, hz) <= 0:
        raise BadInput("Tension, lengths and pitches must be more than 0.")
    return stated_n * (length_mm / stated_mm) ** 2 * (hz / stated_hz) ** 2


def lies_in_fifths(stringed: StringedData) -> bool:
    """Whether each string lies a fifth over the one before, as bowed ones do but for double basses."""
    hz = [pitch_hz(s.pitch) for s in stringed.strings]
    return len(hz) > 1 and all(abs(12 * math.log2(b / a) - 7) < 0.1 for a, b in pairwise(hz))
