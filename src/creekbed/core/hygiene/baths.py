"""A bath of water: hot and cold, how long it stays useful, what tops it up, what it scalds; a jar for pistons."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

from creekbed.core.catalogue.models.agents import MaterialCompatibility
from creekbed.core.conventions import millimetres, temperature
from creekbed.core.errors import BadInput, Refused
from creekbed.core.quick_dataclasses import dataclass

SCALDS = ((49.0, 300.0), (54.0, 30.0), (60.0, 6.0), (66.0, 2.0))
"""Water temperature, °C, and seconds to a deep scald of adult skin: consumer-safety guidance, from memory."""


@dataclass(frozen=True)
class BathState:
    """How a bath is filled.

    Attributes:
        hot_l, cold_l: litres of each. Cold goes in first. target_c: what it comes out at, °C.
        scald_s: seconds to a scald of the hot water that is handled; ``None`` where it takes longer than 5 minutes.
    """

    hot_l: float
    cold_l: float
    target_c: float
    scald_s: float | None


def fill(volume_l: float, target_c: float, hot_c: float, cold_c: float, ceiling_c: float | None = None) -> BathState:
    """Litres of hot and cold water for a bath: V_hot = V·(T − T_cold)/(T_hot − T_cold).

    Args:
        volume_l: of the bath. target_c: wanted. hot_c, cold_c: from the taps, °C.
        ceiling_c: the warmest that what goes in bears, °C; ``None``: no limit.

    Raises:
        BadInput: volumes or temperatures that cannot be.
        Refused: warmer than what goes in bears, or not between the two taps.

    Reference:
        conservation of heat; the heat capacity of water changes by less than 0.3 % from 10 to 60 °C.
    """
    if not 0 < volume_l <= 1000:
        raise BadInput("A bath holds more than 0 and at most 1000 l.", todo="Say how much water.")
    if any(not 0 <= c <= 100 for c in (target_c, hot_c, cold_c)) or hot_c <= cold_c:
        raise BadInput("Tap water is 0 to 100 °C, and the hot tap the hotter one.", todo="Measure both again.")
    if ceiling_c is not None and target_c > ceiling_c:
        raise Refused(
            f"{temperature(target_c)} is too warm for what goes in: it bears {temperature(ceiling_c)}.",
            todo="Make the bath cooler.",
        )
    if not cold_c <= target_c <= hot_c:
        raise Refused(
            f"{temperature(target_c)} cannot be mixed from {temperature(cold_c)} and {temperature(hot_c)}.",
            todo="It lies between the two taps only.",
        )
    hot = volume_l * (target_c - cold_c) / (hot_c - cold_c)
    return BathState(hot, volume_l - hot, target_c, scald_seconds(hot_c))


def warmest_c(material: MaterialCompatibility, lukewarm_c: float, cool_c: float) -> float | None:
    """The warmest bath that a material or finish bears, °C; ``None``: any.

    Args:
        material: of the catalogue. lukewarm_c, cool_c: warmest water that counts as lukewarm, and as cool.

    Raises:
        Refused: it must not go into water at all.
    """
    if material.may.get("hot_water", "no") != "no":
        return None
    if material.may.get("lukewarm_water", "no") not in ("no", "brief"):
        return lukewarm_c
    if material.may.get("cool_water", "no") in ("yes", "cool", "short"):
        return cool_c
    why = material.why.get("cool_water", "")
    raise Refused(f"{material.name.capitalize()} must not go into a bath. {why}".strip(), todo="Damp cloth only.")


def time_constant_min(start_c: float, now_c: float, room_c: float, minutes: float) -> float:
    """Time constant of a bath from one reading: τ = t/ln((T0 − T_room)/(T − T_room)), minutes.

    Raises:
        BadInput: it has not cooled, or is at the room's temperature already: that tells nothing.
    """
    if not minutes > 0 or not room_c < now_c < start_c:
        raise BadInput("That reading tells nothing yet.", todo="Read it again when it has cooled by a degree or more.")
    return minutes / math.log((start_c - room_c) / (now_c - room_c))


def scald_seconds(celsius: float) -> float | None:
    """Seconds to a scald in water of this temperature; ``None`` below 49 °C, where it takes longer than 5 minutes.

    Between the published points the logarithm of the time is taken to fall in a line.
    """
    if celsius < SCALDS[0][0]:
        return None
    for (c0, s0), (c1, s1) in pairwise(SCALDS):
        if celsius <= c1:
            share = (celsius - c0) / (c1 - c0)
            return math.exp(math.log(s0) + share * (math.log(s1) - math.log(s0)))
    return SCALDS[-1][1]


def temperature_after(start_c: float, room_c: float, tau_min: float, minutes: float) -> float:
    """Temperature of a standing bath, °C: Newton's law of cooling.

    Raises:
        BadInput: a time constant of zero or less, or a time before it was filled.
    """
    if not tau_min > 0 or minutes < 0:
        raise BadInput("The time constant must be more than 0, and the time not before the filling.")
    return room_c + (start_c - room_c) * math.exp(-minutes / tau_min)


def useful_minutes(start_c: float, lowest_c: float, room_c: float, tau_min: float) -> float:
    """Minutes until a bath falls to the lowest useful temperature; infinite where it never does.

    Raises:
        BadInput: a time constant of zero or less.
    """
    if not tau_min > 0:
        raise BadInput("The time constant must be more than 0.")
    if start_c <= lowest_c:
        return 0.0
    if room_c >= lowest_c:
        return math.inf
    return tau_min * math.log((start_c - room_c) / (lowest_c - room_c))


def top_up_l(volume_l: float, now_c: float, target_c: float, hot_c: float) -> float:
    """Litres to take out, and as much hot water to put in, that bring a bath back: V·(T − T_now)/(T_hot − T_now).

    Raises:
        Refused: the hot water is no hotter than what is wanted.

    Reference:
        conservation of heat at the same volume.
    """
    if now_c >= target_c:
        return 0.0
    if hot_c <= target_c:
        raise Refused(
            f"Water of {temperature(hot_c)} does not bring a bath to {temperature(target_c)}.",
            todo="Run the tap hotter.",
        )
    return volume_l * (target_c - now_c) / (hot_c - now_c)


WIDER = (1.0, 1.0, 2.0, 2.1547, 2.4142, 2.7013, 3.0, 3.0, 3.3048, 3.6131, 3.8130)
"""How many times as wide as one of n equal circles is the smallest circle around them all, n = 0 to 10: Graham et al.
1998, "Dense packings of congruent circles in a circle"."""


def narrowest_jar_mm(pistons_mm: Sequence[float]) -> float:
    """The narrowest round jar in which pistons stand side by side, mm.

    Exact for one, for two, and for any that are alike; others are taken to be as wide as the widest.

    Raises:
        BadInput: more than ten.
    """
    wide = sorted(pistons_mm, reverse=True)
    if len(wide) >= len(WIDER):
        raise BadInput("So many do not stand in one jar.", todo="Take fewer at once.")
    if len(wide) == 2:
        return wide[0] + wide[1]
    return WIDER[len(wide)] * wide[0] if wide else 0.0


def jar_ml(jar_mm: float, level_mm: float, pistons_mm: Sequence[float]) -> float:
    """Liquid that stands at a level in a round jar with pistons standing in it, ml: π·h·(D² − Σd²)/4.

    Args:
        jar_mm: inner diameter. level_mm: height of the liquid, below the felts. pistons_mm: diameters of the pistons.

    Raises:
        BadInput: measures that cannot be, or pistons that do not fit side by side (:func:`narrowest_jar_mm`).
    """
    if not (0 < jar_mm <= 500 and 0 < level_mm <= 1000) or any(not 0 < d <= 100 for d in pistons_mm):
        raise BadInput("Measure the jar's inside, the height and the pistons again.")
    needs = narrowest_jar_mm(pistons_mm)
    if needs > jar_mm:
        raise BadInput(
            f"Those pistons do not fit into a jar {millimetres(jar_mm)} wide: they need {millimetres(needs, 1)}.",
            todo="Take a wider jar, or fewer at once.",
        )
    return math.pi * level_mm * (jar_mm**2 - sum(d * d for d in pistons_mm)) / 4000.0
