"""Parts, case items, checks, and what wears."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from creekbed.core.catalogue.conditions import Condition
from creekbed.core.catalogue.models.base import Deed, Entry, Key, Marked, Text, Verdict
from creekbed.core.errors import BadInput
from creekbed.core.measure import Scale


class Bore(Marked):
    """The hole that a cloth passes: clear widths at both ends, and what stands into it."""

    wide_mm: float = Field(gt=0, le=600)
    narrow_mm: float = Field(gt=0, le=600)
    in_way_mm: float = Field(default=0.0, ge=0)
    in_way: str = ""
    length_mm: float = Field(default=0.0, ge=0)
    closed: bool = False
    """Closed at its far end: no cloth leaves there, it comes back the way it went."""
    tighter_mm: float = Field(default=0.0, ge=0)
    """How much narrower one of several alike bores is, mm; ``tighter`` says which."""
    tighter: str = ""

    @model_validator(mode="after")
    def _possible(self) -> Bore:
        if self.narrow_mm > self.wide_mm:
            raise ValueError("the narrow end is wider than the wide end")
        if self.in_way_mm + self.tighter_mm >= self.narrow_mm:
            raise ValueError("what stands in the bore closes it")
        return self


class Part(Entry):
    key: Key
    name: Text
    materials: tuple[Key, ...] = ()
    """Materials this part may be made of; the first is assumed until the instrument's record says otherwise."""
    finishes: tuple[Key, ...] = ()
    """What may lie on the material; again the first is assumed."""
    ends: tuple[Text, ...] = ()
    """Names of its two ends, the wide one first where they differ."""
    bore: Bore | None = None
    count: int = Field(default=1, ge=1)
    on: tuple[Key, ...] = ()
    """The pieces that it sits on and goes with: the pads on the body."""
    meets: Literal["", "mouth", "skin", "closes"] = ""
    """Whom it touches: a mouth; chin, neck or hand; or what closes round a part that touches a mouth."""
    item: Key | None = None
    """The piece of the case that it is, where that has another name."""
    own: bool = False
    """Whether it belongs to the bench, not to the instrument: the technician's own mouthpiece."""
    bears_not: dict[Key, Text] = {}
    """Agents that must not come to it whatever it is made of, and why: grease on a piston."""

    @property
    def listed(self) -> Key:
        """Its key in the list of contents, where it stands there."""
        return self.item or self.key


class CaseItem(Marked):
    key: Key
    name: Text
    kind: Literal["safety", "instrument", "comfort"]
    stock: Key | None = None
    """Supply that replaces it when missing."""
    why: str = ""


class Bands(Entry):
    """Green and amber bands; an end that is not given has no limit. Beyond amber the check acts."""

    green_from: float | None = None
    green_to: float | None = None
    amber_from: float | None = None
    amber_to: float | None = None

    @model_validator(mode="after")
    def _nested(self) -> Bands:
        try:
            self.scale()
        except BadInput as error:
            raise ValueError(str(error)) from error
        return self

    def good(self) -> float:
        """A value well inside: the middle of the green band, or off its one limit."""
        low, high = self.green_from, self.green_to
        if low is not None and high is not None:
            return (low + high) / 2
        return 0.3 * (high or 0.0) if low is None else 1.3 * low

    def scale(self) -> Scale:
        """The same as a scale that decides."""
        return Scale((self.green_from, self.green_to), (self.amber_from, self.amber_to))


class Option(Entry):
    """One answer of a check that is looked at rather than measured."""

    key: Key
    name: Text
    band: Literal["green", "amber", "act"]
    verdict: Verdict = "ready"
    say: str = ""
    quarantine: bool = False
    """Whether the instrument goes into quarantine with it."""
    forbids: tuple[Deed, ...] = ()
    """What must not be done while this is open."""


class Check(Marked):
    """A check: measured on a scale, chosen from answers, or answers for each of several places."""

    key: Key
    name: Text
    kind: Literal["measure", "choice", "places"]
    how: Text
    why: Text
    part: Key | None = None
    unit: str = ""
    u: float = Field(default=0.0, ge=0)
    """Standard uncertainty of one reading by the usual method, in ``unit``."""
    range: tuple[float, float] = (0.0, 1000.0)
    """Values outside this cannot be true."""
    display: tuple[float, float] = (0.0, 10.0)
    """Ends of the drawn scale."""
    bands: Bands | None = None
    bands_by: dict[str, Bands] = {}
    """Bands by size, where they differ; ``bands`` holds for the others."""
    two_lengths: bool = False
    ways: tuple[Literal["caliper", "photo", "leak", "pull", "drop", "valves", "notes"], ...] = ()
    """How else than by typing its answer may come."""
    optional: bool = False
    """Done when there is reason to; looking over is whole without it."""
    state: Literal["apart", "joined", "pitch", "retuned"] = "apart"
    """In what state of the instrument it is made: as it lies apart on the mat, joined, strung and at pitch, or when
    strings were tuned again since."""
    joints: tuple[Key, ...] = ()
    """The joints that must be together for it."""
    by_eye: bool = False
    """Whether "sound, by eye" is an answer where nobody needs the number."""
    against: Key | None = None
    """The check whose reading this one is held against: by how much it has moved since."""
    moved_amber: float = Field(default=0.0, ge=0)
    """By how much it may have moved from that, in ``unit``, before it is noted."""
    forbids: tuple[Deed, ...] = ()
    """What must not be done while a reading beyond the limit is open."""
    cleaning_helps: bool = False
    """Whether dirt and old lubricant show in what is measured, so that cleaning brings it back."""
    when: tuple[Condition, ...] = ()
    """What must be there for it to be done at all."""
    verdict: Verdict = "specialist"
    trade: str = ""
    say_amber: str = ""
    say_act: str = ""
    options: tuple[Option, ...] = ()
    places: tuple[Text, ...] = ()

    def bands_for(self, size: str) -> Bands | None:
        """The bands for one size of instrument."""
        return self.bands_by.get(size, self.bands)

    @model_validator(mode="after")
    def _whole(self) -> Check:
        if self.kind == "measure" and (self.bands is None or not self.unit):
            raise ValueError("a measured check needs bands and a unit")
        if self.kind != "measure" and not self.options:
            raise ValueError("a looked-at check needs options")
        if self.kind == "places" and not self.places:
            raise ValueError("a check by places needs places")
        if self.state == "joined" and not self.joints:
            raise ValueError("a check of what is joined names its joints")
        return self


class Wear(Marked):
    """What wears, how it shows, how long it lasts."""

    key: Key
    name: Text
    sign: Text
    lasts: str = ""
    then: Text


class Fault(Marked):
    """A usual fault: how it shows, what it comes from, who mends it."""

    key: Key
    sign: Text
    cause: Text
    who: Text


class Interval(Marked):
    """What is due how often, and by whom."""

    key: Key
    what: Text
    every_days: float = Field(gt=0)
    by: str = ""
    """Word of a policy that gives the days instead."""
    who: Literal["the renter", "the bench", "a specialist"]
