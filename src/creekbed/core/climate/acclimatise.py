"""How long a case from heat or cold must wait (Newton's law of cooling)."""

from __future__ import annotations

import math

from creekbed.core.climate.air import dew_point_c
from creekbed.core.conventions import temperature
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass


@dataclass(frozen=True)
class Acclimatise:
    """Answer to "may I open this case?".

    Attributes:
        minutes: wait until the instrument is within tolerance of the room and above its dew point.
        dew_point_c: dew point of the room's air, °C.
        condenses: the instrument is now colder than the dew point: opened, it would gather water.
        minutes_to_dew: wait until it is no longer colder than the dew point.
    """

    minutes: float
    dew_point_c: float
    condenses: bool
    minutes_to_dew: float


def minutes_until(start_c: float, room_c: float, target_gap_c: float, tau_min: float) -> float:
    """Minutes until |T − T_room| falls to ``target_gap_c``: t = τ·ln(|T0 − T_room|/gap), Newton cooling.

    Args:
        start_c, room_c: temperatures, °C.
        target_gap_c: remaining difference that is good enough, °C, more than 0.
        tau_min: time constant of the case, minutes, more than 0.

    Raises:
        BadInput: a gap or a time constant of zero or less.
    """
    if not target_gap_c > 0 or not tau_min > 0:
        raise BadInput("Tolerance and time constant must be more than 0.")
    gap = abs(start_c - room_c)
    return 0.0 if gap <= target_gap_c else tau_min * math.log(gap / target_gap_c)


def acclimatise(case_c: float, room_c: float, room_rh: float, tau_min: float, tolerance_c: float = 3.0) -> Acclimatise:
    """How long an instrument at ``case_c`` must wait in the room.

    Args:
        case_c: temperature on the instrument, °C, −40 to 70.
        room_c: room, °C.
        room_rh: relative humidity of the room, 0 to 1.
        tau_min: time constant of the closed case, minutes.
        tolerance_c: difference that no longer matters, °C.

    Raises:
        BadInput: a temperature that no case has.
    """
    if not -40 <= case_c <= 70:
        raise BadInput(f"{temperature(case_c)} is no temperature a case comes back with.", todo="Read the probe again.")
    dew = dew_point_c(room_c, room_rh)
    to_tolerance = minutes_until(case_c, room_c, tolerance_c, tau_min)
    to_dew = 0.0
    if case_c < dew and dew < room_c:
        to_dew = minutes_until(case_c, room_c, room_c - dew, tau_min)
    return Acclimatise(max(to_tolerance, to_dew), dew, case_c < dew, to_dew)
