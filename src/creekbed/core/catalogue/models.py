"""Typed models of the catalogue. Every value carries its mark and source (see docs/sources.md)."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from creekbed.core.catalogue.conditions import Condition
from creekbed.core.errors import BadInput
from creekbed.core.measure import Scale

Mark = Literal["T", "P", "L", "H", "M", "S"]
MARK_WORDS: dict[str, str] = {
    "T": "fact of the trade",
    "P": "published",
    "L": "checked with a library",
    "H": "house default",
    "M": "from memory",
    "S": "the shop's own value",
}
Stage = Literal["book_in", "look_over", "clean", "fit_out", "settle", "after", "ready"]
STAGES: tuple[Stage, ...] = ("book_in", "look_over", "clean", "fit_out", "settle", "after", "ready")
Verdict = Literal["ready", "bench", "specialist", "retire"]
VERDICT_ORDER: tuple[Verdict, ...] = ("ready", "bench", "specialist", "retire")
Key = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]*$", max_length=48)]
Text = Annotated[str, Field(min_length=1, max_length=400)]


LARGEST = 1e7
"""No number of the trade is larger, in any of the units used here: house default."""


class Entry(BaseModel):
    """Base of everything read from a file: frozen, unknown keys are errors, and so are numbers that cannot be true."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    @model_validator(mode="before")
    @classmethod
    def _numbers(cls, table: Any) -> Any:
        if isinstance(table, dict):
            for name, value in table.items():
                field = cls.model_fields.get(name)
                if field is not None:
                    _believable(name, value, field.annotation in (bool, bool | None))
        return table


def _believable(name: str, value: Any, switch: bool) -> None:
    """Numbers that are finite and of a size that can be; true and false only where they are asked for.

    Raises:
        ValueError: one is not.
    """
    if isinstance(value, bool):
        if not switch:
            raise ValueError(f"{name}: true and false are no values here")
    elif isinstance(value, int | float):
        if not abs(value) <= LARGEST:  # nor what is no number
            raise ValueError(f"{name}: {value:.6g} cannot be true")
    elif isinstance(value, dict | list | tuple):  # tables in it that are entries see to themselves
        for inner in value.values() if isinstance(value, dict) else value:
            if not isinstance(inner, bool | dict):
                _believable(name, inner, switch)


class Marked(Entry):
    """A value or rule with where it comes from."""

    mark: Mark
    source: Text


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
    """So much narrower is one of several alike bores; ``tighter`` says which."""
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
    """It belongs to the bench, not to the instrument: the technician's own mouthpiece."""
    bears_not: dict[Key, Text] = {}
    """Agents that must not come to it whatever it is made of, and why: grease on a piston."""


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
        return self


class Wait(Entry):
    """What runs by itself after the hands let go."""

    name: Text
    place: Key
    min_minutes: float = Field(default=0.0, ge=0)
    max_minutes: float | None = Field(default=None, gt=0)
    wet: bool = False
    """Counted as wet time: drying out restarts it."""
    takes: Annotated[int, Field(ge=1, le=20)] = 1
    """How much of the place's room it takes."""
    alike: bool = False
    """Whether pieces of several jobs from the same step may share a vessel."""
    rule: Literal["fixed", "label", "settle", "water"] = "fixed"
    """What gives its shortest time: itself, the agent's label, the string's creep, the water that playing left."""
    at_end: Text

    @model_validator(mode="after")
    def _order(self) -> Wait:
        if self.max_minutes is not None and self.max_minutes < self.min_minutes:
            raise ValueError("the longest wait is shorter than the shortest")
        return self


class SupplyUse(Entry):
    item: Key
    amount: float = Field(gt=0)
    per: str = ""
    """Word of the step by which the amount is multiplied, e.g. ``pads_count``."""


Verb = Literal["twist", "slide", "draw", "unscrew", "lift", "unhook", "set", "case", "own"]


class Joint(Marked):
    """How one piece leaves another, told once: the moves apart and together are both made from it.

    ``verb`` gives the words of both moves (see ``core/procedure/moves.py``); "set" is turned round, as with a
    plug that goes in when the neck comes off; "own" has its words in ``off`` and ``on``.
    """

    key: Key
    piece: Key
    """The part that moves."""
    of: Text
    """What it leaves, in words: "the lower joint"."""
    verb: Verb
    off: str = ""
    on: str = ""
    lead: str = ""
    """The end that comes out first, and so goes in last."""
    trail: str = ""
    hold: str = ""
    """What is pressed or held meanwhile: "the bridge key up"."""
    grip: str = ""
    never: str = ""
    """Where never to grip, what never to do."""
    turn: str = ""
    line_up: str = ""
    """How it must stand when it is on."""
    off_note: str = ""
    on_note: str = ""
    reason: str = ""
    on_reason: str = ""
    """Why it goes on as it does; the reason for taking it off is not repeated."""
    on_turn: str = ""
    """The turn that puts it on, where it is not the one that takes it off."""
    on_agent: Key | None = None
    """Brought to the piece before it goes on."""
    on_supply: Key | None = None
    on_amount: float = Field(default=0.0, ge=0)
    mirror: bool = True
    """Whether its place in putting together is the reverse of its place in taking apart."""
    arrives: bool = True
    """Whether it may be together when it comes in; a strap is only hooked on to play."""
    together: Literal["together", "pack", "never"] = "together"
    """When it goes back: with the others, only into the case, or it stays off."""
    again: bool = True
    """Whether it comes off again for the case after the instrument was played."""
    sign: Literal["twist", "pull", "lift", "hold", "no_force"] = "twist"
    hands_min: float = Field(default=0.5, gt=0, le=30)
    when: tuple[Condition, ...] = ()
    when_on: tuple[Condition, ...] = ()
    """Further conditions for putting it on."""
    when_off: tuple[Condition, ...] = ()
    """Further conditions for taking it off when it comes in."""
    school: Key | None = None


class Order(Marked):
    """One thing before another, and why. Names are steps, or moves: ``reed_off``, ``bell_on``.

    Between two moves off it holds in reverse for the moves on, where both joints are mirrored.
    """

    first: Key
    then: Key
    why: Text
    when: tuple[Condition, ...] = ()
    mirror: bool = True

    @property
    def key(self) -> str:
        """Its name among the entries of a family."""
        return f"{self.first}_before_{self.then}"


class SwabPath(Entry):
    """The way of a cloth through a part: in at one end, out at the other."""

    enters: Text
    leaves: Text


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
    """Word of a school that gives the days instead."""
    who: Literal["the renter", "the bench", "a specialist"]


class Transposition(Marked):
    """How it sounds against how it is written."""

    sounds: int = Field(ge=-36, le=24)
    """Semitones from the written to the sounding note."""
    low: Annotated[str, Field(pattern=r"^[A-G][#b]?\d$")]
    high: Annotated[str, Field(pattern=r"^[A-G][#b]?\d$")]


class Step(Marked):
    """One step as it stands in a family's file; the builder turns it into steps of a job."""

    key: Key
    stage: Stage
    kind: Literal["do", "contents", "look", "mix", "retune", "test", "pack", "apart", "together", "again", "hands"] = (
        "do"
    )
    """"again": taken apart again after it was played; "hands": hands washed, where dirty work ends."""
    what: Text
    amount: str = ""
    how: str = ""
    caution: str = ""
    reason: Text
    part: Key | None = None
    parts: tuple[Key, ...] = ()
    """Further parts that it touches."""
    agent: Key | None = None
    also: tuple[Key, ...] = ()
    """Further agents that it brings to the same parts."""
    exposure: Literal["yes", "short", "brief"] = "yes"
    rinses: bool = False
    """Whether the step itself ends with a rinse, so that the next agent finds nothing of this one."""
    bath_l: float | None = Field(default=None, gt=0, le=500)
    """Water of a bath, l; the house's taps and temperature say how much of it is hot."""
    path: SwabPath | None = None
    sign: Literal["", "twist", "pull", "lift", "hold", "never", "dry", "wet", "no_force"] = ""
    every_days: float | None = Field(default=None, gt=0)
    """Left out when it was last done less than so many days ago."""
    every_by: str = ""
    """Word of a school that gives those days instead."""
    every_of: Key | None = None
    """The step whose last doing counts, where it is not this one's own."""
    place: Key | None = None
    skill: Key = "technician"
    hands_min: float = Field(gt=0, le=120)
    setup_min: float = Field(default=0.0, ge=0, le=60)
    """Minutes of the hands that set up what alike steps of other jobs share, such as filling a bath."""
    hands_per: dict[Key, float] = {}
    """Further minutes for each unit of a school's value, e.g. ``{pulls = 0.8}``."""
    wait: Wait | None = None
    ends: Key | None = None
    """The step whose wait this step ends."""
    anyway: bool = False
    """It is done also where there is no wait for it to end."""
    after: tuple[Key, ...] = ()
    when: tuple[Condition, ...] = ()
    each: str | None = None
    """Build one such step for every value of this fact, one after another."""
    school: Key | None = None
    tools: tuple[Text, ...] = ()
    supplies: tuple[SupplyUse, ...] = ()
    changes: bool = False
    """Done after a test, it makes the test void."""
    optional: bool = False
    """It may be left out where time is short; nothing later needs it."""
    quarantine: bool = False
    """It is done while the instrument is in quarantine; whatever else is open waits until that is lifted."""
    mends: bool = True
    """Whether doing it closes the finding that called for it."""
    cleans: Literal["", "wipe", "wash", "disinfect"] = ""
    """What is true of its parts when it is over: wiped clean, washed, or disinfected."""
    cloth: str = ""
    """What wipes the parts: the name of a cloth, or "paper", which is used once."""
    fresh: bool = False
    """Whether that cloth is taken washed and dry."""
    side: Literal["", "dirty", "clean", "none"] = ""
    """Whether hands do it before or after they were washed; "": as its stage says."""
    blows: bool = False
    """Whether breath goes through its parts."""
    dries: bool = False
    """Whether its parts are dry when it is over."""
    wets: bool | None = None
    """Whether it leaves its parts wet; not said: as its agents do."""
    tension: Literal["", "tightens", "loosens"] = ""
    """What it does to a bow's hair."""
    note: str = ""
    """A line beneath the step: how much to expect, how to tell."""
    makes: tuple[Key, ...] = ()
    """Moves that are made here, and not with the others of their kind: the mouthpiece off before a whole-tube pull."""
    takes: Literal["", "out", "new"] = ""
    """"out": its parts are thrown away; "new": new ones take their place."""
    logs: Key | None = None
    """The supply of which it is noted how much this instrument took, and offered the next time."""

    @property
    def touches(self) -> tuple[str, ...]:
        """All parts that it touches, the one it is about first."""
        return (*((self.part,) if self.part else ()), *self.parts)

    @property
    def hands_side(self) -> str:
        """With hands before ("dirty") or after ("clean") they were washed, or either ("none")."""
        if self.side:
            return self.side
        if self.kind in ("mix", "hands"):
            return "none"
        return "dirty" if self.stage in ("book_in", "look_over", "clean") else "clean"

    @property
    def agents(self) -> tuple[str, ...]:
        """All agents that it brings to them."""
        return (*((self.agent,) if self.agent else ()), *self.also)


class Breath(Marked):
    """What playing leaves in a bore.

    Attributes:
        litres_min: air that is used, litres a minute. tau_min: time constant of the swabbed bore's drying, minutes.
        pull_takes: share of the water that one pull of a dry cloth takes out.
    """

    litres_min: float = Field(gt=0, le=200)
    tau_min: float = Field(gt=0, le=600)
    pull_takes: float = Field(default=0.6, ge=0, lt=1)


class Dip(Marked):
    """How a corked mouthpiece stands in a jar, its cork above the liquid.

    Attributes:
        jar_mm: inner diameter of the jar. level_mm: height of the liquid, below the cork. solid_mm: diameter of a rod
            that displaces as much as the mouthpiece's walls. most: so many stand side by side.
    """

    jar_mm: float = Field(gt=0, le=500)
    level_mm: float = Field(gt=0, le=500)
    solid_mm: float = Field(gt=0, le=100)
    most: int = Field(default=4, ge=1, le=12)


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
    """Word of the school that says how often the cloth is drawn through the wettest bore."""
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


class Choice(Entry):
    key: Key
    name: Text
    reason: Text
    values: dict[Key, float | str] = {}
    mark: Mark = "T"


class Topic(Marked):
    """A question on which practitioners disagree; the shop picks one answer."""

    key: Key
    name: Text
    families: tuple[Key, ...]
    """Families or whole groups."""
    default: Key
    default_why: Text
    choice: tuple[Choice, ...]
    hygiene: bool = False
    """A matter of hygiene, chemistry or safety: no group or teacher overrides it."""

    @model_validator(mode="after")
    def _default_exists(self) -> Topic:
        if self.default not in {c.key for c in self.choice}:
            raise ValueError(f"default {self.default!r} is not among the choices")
        return self

    def pick(self, key: str) -> Choice:
        """The choice named, or the default where the shop's file names one that is gone."""
        named = {c.key: c for c in self.choice}
        return named.get(key, named[self.default])


class Agent(Marked):
    key: Key
    name: Text
    caution: str = ""
    holds: tuple[Key, ...] = ()
    """What is active in it; empty: nothing that could clash. "unknown": more than anybody here knows."""
    neutral: bool = False
    """It is water or a dry cloth: also what nobody knows may meet it."""


class Product(Marked):
    """A kind of product by the names that people use: what is active in it."""

    key: Key
    name: Text
    names: tuple[Text, ...] = ()
    holds: tuple[Key, ...] = ()
    agent: Key | None = None
    """The agent of the bench that it is, for what it may touch."""


class Ingredient(Marked):
    """An ingredient as labels name it, and what is active in it; empty: nothing."""

    key: Key
    names: tuple[Text, ...]
    holds: tuple[Key, ...] = ()


class ForbiddenMix(Marked):
    """Two active ingredients that must not meet, what they would form, and what to do if they did."""

    key: Key
    between: tuple[Key, Key]
    forms: Text
    kind: Literal["danger", "useless"]
    do: Text


class MaterialCompatibility(Entry):
    """What one material or finish bears. A missing agent means no; "label": only as the product's label says."""

    key: Key
    name: Text
    kind: Literal["material", "finish"] = "material"
    may: dict[Key, Literal["yes", "short", "brief", "cool", "label", "no"]]
    why: dict[Key, str] = {}
    trade: tuple[Key, ...] = ()
    """Agents whose cell is a fact of the trade; the others are from memory."""
    source: Text


NOTE = r"^[A-G]#?\d$"


class LeakPad(Entry):
    """One pad of a woodwind, for finding leaks by playing."""

    key: Key
    name: Text
    part: Key
    vents: Annotated[str, Field(pattern=NOTE.replace("$", "$|^register$"))]
    """The note that sounds when it is the first open hole; or "register"."""
    rests: Literal["open", "closed"]
    often: float = Field(gt=0)
    """How often it leaks, against the others."""

    @property
    def register(self) -> bool:
        """Whether it is a register or octave pad: closed for every note that does not open it."""
        return self.vents == "register"


class PlayedNote(Entry):
    """One fingering: a written note, or words for a special one."""

    key: Text
    of: Annotated[str, Field(pattern=NOTE)] | None = None
    opens: tuple[Key, ...] = ()

    @model_validator(mode="after")
    def _placed(self) -> PlayedNote:
        if self.of is None and not re.match(NOTE, self.key):
            raise ValueError("a fingering in words needs “of”, the note it is a fingering of")
        return self


class LeakTable(Marked):
    """Which pads must be closed for which note, for one group of families."""

    key: Key
    pads: tuple[LeakPad, ...] = Field(min_length=2)
    scale: tuple[Text, ...] = Field(min_length=3)
    """The notes to begin with, from the top down."""
    notes: tuple[PlayedNote, ...] = Field(min_length=3)

    @model_validator(mode="after")
    def _whole(self) -> LeakTable:
        pads, notes = {p.key for p in self.pads}, {n.key for n in self.notes}
        for note in self.notes:
            if set(note.opens) - pads:
                raise ValueError(f"{note.key} opens a pad that is not there")
        if set(self.scale) - notes:
            raise ValueError("the scale has a note that is not there")
        return self

    def pad(self, key: str) -> LeakPad:
        """The pad with this key."""
        return next(p for p in self.pads if p.key == key)


class StringSupply(Entry):
    """Tension that a string is stated to have, and where."""

    tension_n: float = Field(gt=0)
    length_mm: float = Field(gt=0)
    pitch: str


class Supply(Marked):
    key: Key
    name: Text
    unit: Text
    reorder_at: float = Field(ge=0)
    string: StringSupply | None = None
    agent: Key | None = None


class Recipe(Marked):
    """A mix that the house makes: from a stock supply to a target strength."""

    key: Key
    name: Text
    stock: Key
    product: Key
    agent: Key
    target_pct: float = Field(gt=0, le=100)
    make_ml: float = Field(gt=0)
    dose_ml: float = Field(gt=0)
    """How much of the mix one part takes."""
    graduation_ml: float = Field(gt=0)
    basis: Literal["w/v", "v/v"] = "w/v"
    """What its per cent are of: mass in volume, or volume in volume, as alcohol is."""
    keeps_hours: float = Field(gt=0)
    contact_min: float = Field(gt=0)
    caution: Text


class BenchPlace(Marked):
    key: Key
    name: Text
    where: Text
    """As people say where something is: "in the tub"."""
    capacity: int = Field(ge=1, le=1000)
    """How much room it has, in units of what usually lies there: tubs, pegs, widths of a rack."""
    holds: int = Field(default=1, ge=1, le=20)
    """So many small alike pieces share one unit of it: mouthpieces in a tub."""


class Hours(Marked):
    """Opening of the bench by weekday (0 = Monday): local times of day as decimal hours."""

    open: dict[str, tuple[tuple[float, float], ...]]

    @model_validator(mode="after")
    def _of_a_week(self) -> Hours:
        for day, spans in self.open.items():
            if day not in ("0", "1", "2", "3", "4", "5", "6"):
                raise ValueError(f"“{day[:20]}” is no day of the week, 0 (Monday) to 6")
            last = 0.0
            for start, end in spans:
                if not last <= start < end <= 24:
                    raise ValueError(f"{start:g} to {end:g} is no opening, or comes before the one before it")
                last = end
        return self


class Limits(Marked):
    """House numbers that belong to no family."""

    room_c: float = Field(ge=-20, le=60)
    room_rh: float = Field(gt=0, le=1)
    acclimatise_tolerance_c: float = Field(gt=0)
    a4_hz: float = Field(ge=380, le=480)
    rewet_every_min: float = Field(gt=0)
    bath_c: float = Field(gt=0, le=45)
    """Warmest bath, °C."""
    detergent_ml_per_l: float = Field(gt=0)
    bath_useful_c: float = Field(gt=0, le=45)
    """Coolest bath that still cleans, °C."""
    lukewarm_c: float = Field(gt=0, le=45)
    cool_c: float = Field(gt=0, le=45)
    """Warmest water that counts as lukewarm, and as cool, °C."""
    tub_tau_min: float = Field(gt=0)
    """Time constant with which a tub cools until one was measured, minutes."""
    tap_hot_c: float = Field(gt=0, le=95)
    tap_cold_c: float = Field(ge=0, le=40)
    hot_case_c: float = Field(ge=20, le=70)
    cold_case_c: float = Field(ge=-30, le=20)
    """Inside of a case above and below which seams, cracks and finish are looked at without being asked, °C."""
    dry_left_g: float = Field(gt=0)
    """Water that may be left in something that is cased, g."""


class FairWear(Marked):
    """What a hire may leave without being charged: a kind of mark up to a size, on some zones or on all."""

    kind: Text
    up_to_mm: float | None = Field(default=None, gt=0)
    """None: of any size."""
    zones: tuple[Text, ...] = ()
    """None named: on every zone."""


class Cloth(Marked):
    """A pull-through of the shop, reused and washed."""

    key: Key
    name: Text
    width_mm: float = Field(gt=0, le=2000)
    thickness_mm: float = Field(gt=0, le=20)
    groups: tuple[Key, ...] = Field(min_length=1)
    """Groups of families whose joints it is for."""
    kind: str = ""
    """As steps name it: "slim swab"; several kinds of one family are told apart by it."""
    stuff: Literal["silk", "cotton", "microfibre", "chamois", "bristle"] = "silk"
    cord_mm: float = Field(default=0.0, ge=0, le=5000)
    """Length of its cord; 0: not measured."""
    weight_mm: float = Field(default=0.0, ge=0, le=100)
    """Width of the weight on its cord; 0: it has none, or it was not measured."""
    wash_after: int = Field(gt=0)
    """Uses after which it is washed."""
    lasts: int = Field(gt=0)
    """Washes after which it is replaced."""


class House(Entry):
    place: tuple[BenchPlace, ...]
    fair_wear: tuple[FairWear, ...] = ()
    recipe: tuple[Recipe, ...]
    """Mixes that steps ask for."""
    cloth: tuple[Cloth, ...] = ()
    bench_recipe: tuple[Recipe, ...] = ()
    """Mixes that are made at the bench only: no step waits for them."""
    hours: Hours
    limits: Limits

    @property
    def every_recipe(self) -> tuple[Recipe, ...]:
        """All mixes that the house makes."""
        return self.recipe + self.bench_recipe
