"""Which drawing belongs to which name; made when first asked for, then kept."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

from creekbed.window.drawings import brass, saxophones, strings, woodwinds
from creekbed.window.drawings.pen import Drawing

DRAWINGS: dict[str, Callable[[], Drawing]] = {
    "saxophone": saxophones.saxophone, "soprano": saxophones.soprano, "baritone": saxophones.baritone,
    "clarinet": woodwinds.clarinet, "bass_clarinet": woodwinds.bass_clarinet, "oboe": woodwinds.oboe,
    "bassoon": woodwinds.bassoon, "flute": woodwinds.flute, "piccolo": woodwinds.piccolo,
    "trumpet": brass.trumpet, "cornet": brass.cornet, "euphonium": brass.euphonium, "tuba": brass.tuba,
    "trombone": brass.trombone, "horn": brass.horn, "violin": strings.violin, "viola": strings.viola,
    "cello": strings.cello, "double_bass": strings.double_bass, "acoustic_guitar": strings.acoustic_guitar,
    "electric_guitar": strings.electric_guitar, "bass_guitar": strings.bass_guitar, "bow": strings.bow,
}  # fmt: skip


@lru_cache(maxsize=64)
def drawing(name: str) -> Drawing | None:
    """The drawing of a family, or ``None`` for a family of the shop's own without one."""
    make = DRAWINGS.get(name)
    return make() if make is not None else None
