"""Steps, waits, joints, order rules, swab paths."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from creekbed.core.catalogue.conditions import Condition
from creekbed.core.catalogue.models.base import Deed, Entry, Key, Marked, Stage, Text


class WaitRule(Entry):
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
    rule: Literal["fixed", "label", "settle", "holds", "water"] = "fixed"
    """What gives its shortest time: itself, the agent's label, when the string is flat again, from when on a retune
    holds for a day, the water that playing left."""
    dries: bool = True
    """On the rack: whether the room's air makes it longer or shorter. What soaks in does not dry."""
    at_end: Text

    @model_validator(mode="after")
    def _order(self) -> WaitRule:
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
    """What is pressed or held at the same time: "the bridge key up"."""
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
    travels: bool = False
    """Whether it is always together when it comes in, as a ligature on its mouthpiece: nobody is asked."""
    arrives_with: Key | None = None
    """The joint that is together when this one is: the reed on its bocal."""
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
    policy: Key | None = None


class Order(Marked):
    """A rule that one thing comes before another, and why. Names are steps, or moves: ``reed_off``, ``bell_on``.

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


STUFFS = ("silk", "microfibre", "cotton")
"""What the cloths of the shop's shelf are of."""


class SwabPath(Entry):
    """The way of a cloth through a part: in at one end, out at the other."""

    enters: Text
    leaves: Text


class Step(Marked):
    """One step as it stands in a family's file; the builder turns it into steps of a job."""

    key: Key
    stage: Stage
    kind: Literal[
        "do", "contents", "look", "mix", "retune", "test", "pack", "apart", "together", "again", "hands", "send"
    ] = "do"
    """"again": taken apart again after it was played; "hands": hands washed, where dirty work ends; "send": sent out,
    because a finding forbids what comes next."""
    asks: Literal["apart", "joined", "together", "pitch", "retuned"] = "apart"
    """Of a look: the checks that it asks, by their state; "together": of what is joined, once it is so again."""
    does: tuple[Deed, ...] = ()
    """What it does that an open finding may forbid."""
    bows: bool = False
    """Whether a bow is drawn over its parts, and leaves rosin on them."""
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
    through: tuple[Key, ...] = ()
    """Further parts whose bores the cloth passes on its way: a pull through the whole tube."""
    wears: tuple[Key, ...] = ()
    """Parts that somebody wears meanwhile: a neck strap."""
    sign: Literal["", "twist", "pull", "lift", "hold", "never", "dry", "wet", "no_force"] = ""
    every_days: float | None = Field(default=None, gt=0)
    """It is left out when it was last done fewer days ago than this."""
    every_by: str = ""
    """Word of a policy that gives those days instead."""
    every_of: Key | None = None
    """The step whose last doing counts, where it is not this one's own."""
    place: Key | None = None
    skill: Key = "technician"
    hands_min: float = Field(gt=0, le=120)
    setup_min: float = Field(default=0.0, ge=0, le=60)
    """Minutes of the hands that set up what alike steps of other jobs share, such as filling a bath."""
    hands_per: dict[Key, float] = {}
    """Further minutes for each unit of a policy's value, e.g. ``{pulls = 0.8}``."""
    wait: WaitRule | None = None
    ends: Key | None = None
    """The step whose wait this step ends."""
    anyway: bool = False
    """Whether it is done also where there is no wait for it to end."""
    after: tuple[Key, ...] = ()
    when: tuple[Condition, ...] = ()
    each: str | None = None
    """Build one such step for every value of this fact, one after another."""
    policy: Key | None = None
    tools: tuple[Text, ...] = ()
    supplies: tuple[SupplyUse, ...] = ()
    changes: bool = False
    """Done after a test, it makes the test void."""
    optional: bool = False
    """Whether it may be left out where time is short; nothing later needs it."""
    quarantine: bool = False
    """Whether it is done while the instrument is in quarantine; other steps wait until that is lifted."""
    mends: bool = True
    """Whether doing it closes the finding that called for it."""
    cleans: Literal["", "wipe", "wash", "disinfect"] = ""
    """What is true of its parts when it is over: wiped clean, washed, or disinfected."""
    cloth: str = ""
    """What wipes the parts: the name of a cloth, or "paper", which is used once."""
    fresh: bool = False
    """Whether that cloth is taken washed and dry."""
    stuff: str = ""
    """What that cloth is of, where it is one of the shop's shelf: one of :data:`STUFFS`, or the word of a policy."""
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

    @model_validator(mode="after")
    def _known_stuff(self) -> Step:
        if self.stuff and self.stuff not in STUFFS and not self.stuff.startswith("{"):
            raise ValueError(f"no cloth of the shelf is of {self.stuff}")
        return self

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
    def deeds(self) -> frozenset[Deed]:
        """What it does that an open finding may forbid; what is blown is played."""
        return frozenset((*self.does, *(("play",) if self.blows else ())))

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
