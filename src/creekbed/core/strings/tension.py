"""String tension (Mersenne's law) and pitch."""

from __future__ import annotations

import math
import re

from creekbed.core.errors import BadInput

_SEMITONE = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}


def pitch_hz(note: str, a4_hz: float = 440.0) -> float:
    """Frequency of a note such as ``"A4"`` or ``"F#3"`` in equal temperament, Hz (ISO 16 for A4 = 440).

    Raises:
        BadInput: not a note, or a reference pitch outside 380 to 480 Hz.
    """
    match = re.fullmatch(r"([A-G])([#b]?)(-?\d)", note)
    if match is None or not 380 <= a4_hz <= 480:
        raise BadInput(f"“{note}” at A4 = {a4_hz:g} Hz is not a note.")
    midi = _SEMITONE[match[1]] + {"": 0, "#": 1, "b": -1}[match[2]] + 12 * (int(match[3]) + 1)
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
