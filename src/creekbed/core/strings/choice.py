"""Which strings suit an instrument: the tension of each at its length and pitch, beside what the house wants.

Tensions go by Mersenne's law from what the maker states at one length and pitch. What the house wants is the tension of
the family's own string at full size, less in proportion to a shorter length: house default.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.strings.plain_string import MATERIALS, bridge_load_n, diameter_for, plain_string
from creekbed.core.strings.tension import tension_elsewhere_n

Band = Literal["good", "slack", "too_slack", "tight", "too_tight"]
GOOD_SHARE, WORST_SHARE = 0.10, 0.20
"""A string suits within so much of what the house wants, and does not beyond so much: house default."""
FAR = math.log(2.0)
"""A string whose tension is off by more than a factor of two is not offered."""
LEAST_MARGIN_CENTS = 200.0
"""A plain string that breaks less than a tone above its pitch is warned of: house default."""


@dataclass(frozen=True)
class StatedString:
    """A string as its maker states it.

    Attributes:
        tension_n: at ``length_mm`` and ``hz``. plain: key of its material where it is a plain wire; "" where it is
            wound. amount: how many are on the shelf; ``None`` where nobody counted.
    """

    key: str
    name: str
    tension_n: float
    length_mm: float
    hz: float
    plain: str = ""
    amount: float | None = None


@dataclass(frozen=True)
class Wanted:
    """A string of an instrument: its length, its pitch, and what the house wants it to pull.

    Attributes:
        key, name: of the string. full_mm: length of the full size.
    """

    key: str
    name: str
    length_mm: float
    hz: float
    target_n: float
    full_mm: float


@dataclass(frozen=True)
class StringFit:
    """A string of the shelf at a length and pitch.

    Attributes:
        off: how far its tension is above what is wanted, as a share. margin_cents: how far above its pitch it breaks,
            for a plain one. stretch: B of its partials, for a plain one.
    """

    string: StatedString
    tension_n: float
    off: float
    band: Band
    margin_cents: float | None = None
    stretch: float | None = None

    @property
    def unfit(self) -> bool:
        """It is too slack or too tight to be put on."""
        return self.band in ("too_slack", "too_tight")


def target_n(stated_n: float, length_mm: float, full_mm: float) -> float:
    """What the house wants a string to pull at a size: the full size's tension, in proportion to the length.

    Raises:
        BadInput: any value zero or negative.
    """
    if min(stated_n, length_mm, full_mm) <= 0:
        raise BadInput("Tension and lengths must be more than 0.")
    return stated_n * length_mm / full_mm


def _band(off: float) -> Band:
    if abs(off) <= GOOD_SHARE:
        return "good"
    if abs(off) <= WORST_SHARE:
        return "tight" if off > 0 else "slack"
    return "too_tight" if off > 0 else "too_slack"


def fit_of(string: StatedString, wanted: Wanted) -> StringFit:
    """What a string does where it is wanted.

    Raises:
        BadInput: lengths, pitches or tensions that no string has.
    """
    tension = tension_elsewhere_n(string.tension_n, string.length_mm, wanted.length_mm, string.hz, wanted.hz)
    off = tension / wanted.target_n - 1
    margin = stretch = None
    if string.plain:
        material = MATERIALS[string.plain]
        diameter = diameter_for(material, tension, wanted.length_mm, wanted.hz)
        found = plain_string(material, diameter, wanted.length_mm, wanted.hz)
        margin, stretch = found.margin_cents, found.stretch
    return StringFit(string, tension, off, _band(off), margin, stretch)


def fits(shelf: Sequence[StatedString], wanted: Wanted) -> list[StringFit]:
    """The strings of a shelf that can be thought of, the nearest to what is wanted first."""
    found = [fit_of(s, wanted) for s in shelf]
    near = [f for f in found if abs(math.log(f.tension_n / wanted.target_n)) <= FAR]
    return sorted(near, key=lambda f: abs(math.log(f.tension_n / wanted.target_n)))


@dataclass(frozen=True)
class Ask:
    """What to order where nothing on the shelf suits.

    Attributes:
        tension_n: as a maker would state it at the full size's length and the same pitch. diameter_mm: of a plain
            string of the material that the family's own is of; ``None`` where that is wound.
    """

    tension_n: float
    diameter_mm: float | None


def ask_for(wanted: Wanted, plain: str = "") -> Ask:
    """The string that would pull just what the house wants."""
    stated = tension_elsewhere_n(wanted.target_n, wanted.length_mm, wanted.full_mm, wanted.hz, wanted.hz)
    diameter = None
    if plain:
        diameter = diameter_for(MATERIALS[plain], wanted.target_n, wanted.length_mm, wanted.hz)
    return Ask(stated, diameter)


@dataclass(frozen=True)
class StringSet:
    """What a set of strings does together.

    Attributes:
        total_n: along the neck. uneven: tension of the strongest over that of the weakest. bridge_n: what they press
            on the bridge together; ``None`` without an angle.
    """

    total_n: float
    uneven: float
    bridge_n: float | None


def whole_set(chosen: Sequence[StringFit], angle_deg: float | None = None) -> StringSet:
    """What the chosen strings do together.

    Args:
        angle_deg: that they make over the bridge, 90° to 180°, which is straight.

    Raises:
        BadInput: none is chosen, or an angle that is none over a bridge.
    """
    if not chosen:
        raise BadInput("No string is chosen.")
    pulls = [f.tension_n for f in chosen]
    bridge = None if angle_deg is None else sum(bridge_load_n(pull, angle_deg) for pull in pulls)
    return StringSet(sum(pulls), max(pulls) / min(pulls), bridge)
