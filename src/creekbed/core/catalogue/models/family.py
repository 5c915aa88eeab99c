"""A family of instruments."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Literal

from pydantic import Field

from creekbed.core.catalogue.conditions import Condition
from creekbed.core.catalogue.models.base import Key, Marked, Text
from creekbed.core.catalogue.models.parts import CaseItem, Check, Fault, Interval, Part, Wear
from creekbed.core.catalogue.models.steps import Breath, Dip, Joint, Order, Step


class TunedAt(Marked):
    """What is moved to tune a wind instrument."""

    what: Text
    """"the barrel", as it is told to somebody."""
    legs: int = Field(default=1, ge=1, le=2)
    """Tubes that it draws out at once."""
    lowest_mode: Annotated[str, Field(pattern=r"^[A-G][#b]?\d$")] | None = None
    """Of brass: the sounding note of its open tube's lowest mode."""


class Transposition(Marked):
    """How it sounds against how it is written."""

    sounds: int = Field(ge=-36, le=24)
    """Semitones from the written to the sounding note."""
    partials: Literal["harmonic", "odd"] = "harmonic"
    """Of its tones: a closed cylinder has odd ones."""
    scale: tuple[Annotated[str, Field(pattern=r"^[A-G][#b]?\d$")], ...] = ()
    """Written notes of the play-test by sound; none: those of its table of pads."""
    tuned: TunedAt | None = None
    """Where it is tuned; ``None``: the reed and the player do it."""
    low: Annotated[str, Field(pattern=r"^[A-G][#b]?\d$")]
    high: Annotated[str, Field(pattern=r"^[A-G][#b]?\d$")]


class StringSpec(Marked):
    key: Text
    name: Text
    pitch: Annotated[str, Field(pattern=r"^[A-G][#b]?\d$")]
    stock: Key


class StringedData(Marked):
    """Strings of a family: pitches, and vibrating length by size in mm."""

    strings: tuple[StringSpec, ...]
    sounds: int = 0
    """Semitones from the written to the sounding note."""
    length_mm: dict[str, float]
    creep_cents: float = Field(gt=0)
    creep_tau_min: float = Field(gt=0)
    tolerance_cents: float = Field(gt=0)
    first_day_cents: float = Field(gt=0)
    holds_from_min: float = Field(gt=0)
    """Minutes since it was hung from which a retune of a new string holds for a renter's first day, before anything was
    read of it."""
    life_days: float | None = Field(default=None, gt=0)
    """Days on hire until half of the strings are found worn."""


class Family(Marked):
    """One kind of instrument, whole: put together from shared files, its group's file and its own entries."""

    key: Key
    name: Text
    group: Key
    group_name: Text
    sizes: tuple[Text, ...] = Field(min_length=1)
    zones: tuple[Text, ...] = Field(min_length=1)
    case_minutes: float = Field(gt=0)
    """Time constant of the closed case, minutes (Newton cooling)."""
    drawing: Key
    tells: Text
    """One line by which a newcomer knows it."""
    voice: Transposition | None = None
    stringed: StringedData | None = None
    breath: Breath | None = None
    dip: Dip | None = None
    air_way: tuple[int, ...] = ()
    """Casings of the valves in the order in which the air meets them; a shop may set another for one instrument."""
    pulls_by: str = ""
    """Word of the policy that says how often the cloth is drawn through the wettest bore."""
    part: tuple[Part, ...] = Field(min_length=1)
    joint: tuple[Joint, ...] = ()
    item: tuple[CaseItem, ...] = ()
    check: tuple[Check, ...] = ()
    step: tuple[Step, ...] = Field(min_length=1)
    order: tuple[Order, ...] = ()
    wear: tuple[Wear, ...] = ()
    fault: tuple[Fault, ...] = ()
    interval: tuple[Interval, ...] = ()
    omitted: tuple[Key, ...] = ()
    """Pieces of the case that the shop hires without."""

    @property
    def noun(self) -> str:
        """Its name inside a sentence: "alto saxophone", but "B flat clarinet"."""
        return self.name if self.name[1:2] == " " else self.name.lower()

    @property
    def conditions(self) -> list[Condition]:
        """Every condition that a step, a joint or an order rule puts."""
        found = [c for s in self.step for c in s.when] + [c for o in self.order for c in o.when]
        found += [c for k in self.check for c in k.when]
        return found + [c for j in self.joint for c in (*j.when, *j.when_on, *j.when_off)]

    @property
    def sounds(self) -> int | None:
        """Semitones from the written to the sounding note; ``None`` where nothing is said."""
        if self.voice is not None:
            return self.voice.sounds
        return None if self.stringed is None else self.stringed.sounds

    def size_words(self, size: str) -> str:
        """A size; "" where there is but one, or where it says no more than the family's name."""
        return size if len(self.sizes) > 1 and size.lower() != self.name.lower() else ""

    def find_part(self, key: str) -> Part | None:
        """The part with this key, or ``None``."""
        return next((p for p in self.part if p.key == key), None)

    def pieces(self, keys: Iterable[str]) -> frozenset[str]:
        """The pieces that are in somebody's hands, or lie somewhere, when these parts do: what they sit on."""
        found: set[str] = set()
        for key in keys:
            part = self.find_part(key)
            found |= self.pieces(part.on) if part is not None and part.on else {key}
        return frozenset(found)

    def carried(self, pieces: Iterable[str]) -> frozenset[str]:
        """These pieces with everything that sits on them."""
        mine = frozenset(pieces)
        return mine | {p.key for p in self.part if p.on and self.pieces(p.on) & mine}

    def find_check(self, key: str) -> Check:
        """The check with this key."""
        return next(c for c in self.check if c.key == key)
