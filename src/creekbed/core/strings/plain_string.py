"""A plain round string: what it pulls, how near it is to breaking, how stretched its partials are, what it does below.

Sources: Mersenne's law; Fletcher and Rossing, The Physics of Musical Instruments, chapter 2 (stiff string), from
memory; strength of music wire: ASTM A228 as tabled in Shigley's Mechanical Engineering Design, σ = 2211 MPa/d^0.145
with d in mm, 0.10 to 6.5 mm, from memory. The other materials are from memory; a maker's own numbers are better.
"""

from __future__ import annotations

import math

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.strings.tension import plain_mass_kg_per_m, tension_n

BENDS = 0.75
"""Where a string bends over nut, bridge or post it bears so much of what it bears straight: house default."""


@dataclass(frozen=True)
class StringMaterial:
    """What a plain string is made of.

    Attributes:
        density: kg/m³. stiffness_gpa: Young's modulus. strength_mpa: what it bears at 1 mm. thinner: exponent by which
            a thinner one bears more for its area.
    """

    name: str
    density: float
    stiffness_gpa: float
    strength_mpa: float
    thinner: float = 0.0

    def strength_at(self, diameter_mm: float) -> float:
        """Tensile strength of such a string, MPa."""
        return float(self.strength_mpa / diameter_mm**self.thinner)


MATERIALS = {
    "steel": StringMaterial("plain steel", 7850.0, 205.0, 2211.0, 0.145),
    "gut": StringMaterial("gut", 1300.0, 6.0, 320.0),
    "nylon": StringMaterial("nylon", 1140.0, 5.0, 480.0),
}


@dataclass(frozen=True)
class PlainString:
    """A plain string on an instrument.

    Attributes:
        tension_n: its pull. breaks_at_hz: the pitch at which it breaks, whatever its diameter but for its strength.
        margin_cents: how far that is above its pitch, where it bends; negative: it breaks before. stretch: B of its
            partials, f_n = n·f0·√(1 + B·n²).
    """

    tension_n: float
    breaks_at_hz: float
    margin_cents: float
    stretch: float

    @property
    def eighth_cents(self) -> float:
        """How far its eighth partial is sharp of eight times its first, cents."""
        return 600 * math.log2((1 + 64 * self.stretch) / (1 + self.stretch))


def plain_string(material: StringMaterial, diameter_mm: float, length_mm: float, hz: float) -> PlainString:
    """What a plain string does at a length and pitch.

    Raises:
        BadInput: a diameter that no string has, or a length or pitch of 0 or less.
    """
    if not 0.1 <= diameter_mm <= 3:
        raise BadInput("A plain string is 0.1 to 3 mm thick.")
    pull = tension_n(length_mm, hz, plain_mass_kg_per_m(material.density, diameter_mm))
    bears = BENDS * material.strength_at(diameter_mm) * 1e6
    breaks_at = math.sqrt(bears / material.density) / (2 * length_mm / 1000)
    stiff = math.pi**3 * material.stiffness_gpa * 1e9 * (diameter_mm / 1000) ** 4
    stretch = stiff / (64 * pull * (length_mm / 1000) ** 2)
    return PlainString(pull, breaks_at, 1200 * math.log2(breaks_at / hz), stretch)


def diameter_for(material: StringMaterial, tension: float, length_mm: float, hz: float) -> float:
    """The diameter that gives a tension, mm: Mersenne's law the other way round.

    Raises:
        BadInput: any value zero or negative.
    """
    if min(tension, length_mm, hz) <= 0:
        raise BadInput("Tension, length and pitch must be more than 0.")
    mass = tension / (4 * (length_mm / 1000) ** 2 * hz**2)
    return 1000 * math.sqrt(4 * mass / (math.pi * material.density))


def bridge_load_n(tension: float, angle_deg: float) -> float:
    """What a string presses on its bridge, N: 2·T·cos(θ/2) for the angle that it makes over it.

    Raises:
        BadInput: an angle that is none over a bridge, or a tension below 0.
    """
    if not (90 <= angle_deg <= 180 and tension >= 0):
        raise BadInput("The angle over a bridge lies between 90° and 180°, which is straight.")
    return 2 * tension * math.cos(math.radians(angle_deg) / 2)


def slack_mm(turns: float, post_mm: float, lock_mm: float = 0.0) -> float:
    """Length of string that goes round a post: turns·π·d, and what locks it, mm.

    Raises:
        BadInput: turns, a post or a lock below 0.
    """
    if min(turns, post_mm, lock_mm) < 0:
        raise BadInput("Turns and posts are not less than 0.")
    return turns * math.pi * post_mm + lock_mm
