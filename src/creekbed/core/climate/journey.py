"""How warm a closed case is after a journey of several legs: vehicle, outside, hall, each with its air and its time."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence

from creekbed.core.climate.case_fit import TAU_SPREAD
from creekbed.core.conventions import number, temperature
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.units import parse_quantity, show

MOST_LEGS, LONGEST_MIN = 12, 7 * 24 * 60.0
"""House default."""


@dataclass(frozen=True)
class Leg:
    """A time, minutes, in air of a temperature, °C."""

    minutes: float
    celsius: float


@dataclass(frozen=True)
class Arrival:
    """Temperature of the instrument in its case at the end of a journey, °C, with its 95 % interval."""

    celsius: float
    low_c: float
    high_c: float

    def careful(self, room_c: float) -> float:
        """The end of the interval that lies farther from the room: what a wait goes by, °C."""
        return max((self.low_c, self.high_c), key=lambda c: abs(c - room_c))

    def words(self) -> str:
        """ "By its journey about 3 °C (−1 to 8 °C)." """
        now, low, high = (show(x, "degC", 0) for x in (self.celsius, self.low_c, self.high_c))
        return f"By its journey about {now} ({low} to {high}, 95 %)."


def arrives(start_c: float, legs: Sequence[Leg], tau_min: float) -> Arrival:
    """Where a case comes to over its legs (Newton's law, leg by leg).

    Args:
        start_c: of the instrument at the beginning, °C. legs: in their order. tau_min: time constant of the case.

    Returns:
        The interval comes from how far a case's time constant may lie from the house's (:data:`TAU_SPREAD`).

    Raises:
        BadInput: no leg, too many, or one that cannot be.
    """
    if not 1 <= len(legs) <= MOST_LEGS or not tau_min > 0:
        raise BadInput(f"A journey has 1 to {MOST_LEGS} legs.", todo="Leave out short ones.")
    for leg in legs:
        if not (0 < leg.minutes <= LONGEST_MIN and -50 <= leg.celsius <= 80):
            raise BadInput(
                f"A leg of {number(leg.minutes)} min at {temperature(leg.celsius)} cannot be.",
                todo="Type it like 40 min at −5 °C.",
            )
    paces = [tau_min * math.exp(TAU_SPREAD * z) for z in (-1.96, -1.0, -0.5, 0.0, 0.5, 1.0, 1.96)]
    ends = [_after(start_c, legs, tau) for tau in paces]
    return Arrival(_after(start_c, legs, tau_min), min(ends), max(ends))


def _after(start_c: float, legs: Sequence[Leg], tau_min: float) -> float:
    now = start_c
    for leg in legs:
        now = leg.celsius + (now - leg.celsius) * math.exp(-leg.minutes / tau_min)
    return now


_LEG = re.compile(r"\s*(?P<time>.+?)\s+(?:at|in)\s+(?P<air>.+?)\s*")


def parse_legs(text: str) -> tuple[Leg, ...]:
    """Legs as people type them: "2 h at −5 °C; 10 min at 12 °C".

    Raises:
        BadInput: a leg that is not a time and a temperature.
    """
    found = []
    for piece in re.split(r";|,\s+|\bthen\b", text):
        if not piece.strip():
            continue
        match = _LEG.fullmatch(piece)
        if match is None:
            raise BadInput(
                f"“{piece.strip()[:40]}” is no leg of a journey.", todo="Type legs like 2 h at −5 °C; 10 min at 12 °C."
            )
        found.append(
            Leg(
                parse_quantity(match["time"], "minute", what="How long", minimum=0.1, maximum=LONGEST_MIN),
                parse_quantity(match["air"], "degC", what="The air there", minimum=-50, maximum=80),
            )
        )
    if not found:
        raise BadInput("There is no leg.", todo="Type legs like 2 h at −5 °C; 10 min at 12 °C.")
    return tuple(found)


def is_journey(text: str) -> bool:
    """Whether somebody typed legs rather than one temperature."""
    return any(_LEG.fullmatch(piece) for piece in re.split(r";|,\s+|\bthen\b", text))
