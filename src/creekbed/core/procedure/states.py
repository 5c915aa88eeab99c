"""How every part and cloth stands at a moment, from what was done: mouth, water, hands, and where it lies.

A part comes in *as it came*: wet or dry, nobody knows, and somebody else's mouth and hands were on it. What is done to
it changes that, and so does what is done with it: it is played and is wet and mouthed again; it is wiped with a cloth
that wiped something as it came, and is soiled again. Nothing here is stored: it is told from what was done, in order.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import field, replace

from creekbed.core.catalogue.models.family import Family
from creekbed.core.hygiene.residue import WATERS
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.quick_dataclasses import dataclass

CLEAN_AS_IS = frozenset({"pad", "cork", "felt", "hair"})
"""Materials that cannot be disinfected and count as clean for what touches them: common practice, no source."""
WETTING = WATERS | {"soap", "peroxide", "vinegar", "mouthwash"}
LEVELS = ("as it came", "wiped", "washed", "disinfected")
"""How clean a part is, from the least to the most. "wiped": as far as its material allows."""
WORN = "a neck that wore it"
PAPER = "paper"
BOWED = ("strings", "body")
"""The parts on which a bow leaves rosin."""
BOW = "bow"
"""The part whose hair is tightened and loosened."""


@dataclass(frozen=True)
class PartState:
    """One part at a moment.

    Attributes:
        level: one of :data:`LEVELS`. mouthed: it was blown since it was last cleaned. wet: water is in or on it.
        soiled: what it was touched by that was not clean since it was last cleaned, or "".
        lies: where it lies, or "". tight: a bow whose hair is tightened. greased: grease was put on it in this job.
        touched: the step that touched it last. there: it belongs to the instrument now. rosin: a bow was drawn over it
            since it was wiped.
    """

    level: str = "as it came"
    mouthed: bool = False
    wet: bool = False
    soiled: str = ""
    lies: str = ""
    tight: bool = False
    greased: bool = False
    touched: str = ""
    there: bool = True
    rosin: bool = False

    @property
    def clean(self) -> bool:
        """Whether a clean hand or cloth stays clean when it touches the part."""
        return self.level != LEVELS[0] and not self.soiled

    @property
    def words(self) -> str:
        """How it stands, in a few words: "disinfected, wet, in the tub"."""
        said = [self.level]
        said += ["mouthed again"] if self.mouthed else []
        said += [f"touched by {self.soiled}"] if self.soiled else []
        said += ["wet" if self.wet else "dry"]
        said += ["tightened"] if self.tight else []
        said += ["rosin on it"] if self.rosin else []
        return ", ".join([*said, self.lies] if self.lies else said)


@dataclass(frozen=True)
class ClothState:
    """A cloth at a moment. soiled: it wiped something as it came. wet: from washing."""

    soiled: bool = False
    wet: bool = False


@dataclass(frozen=True)
class Doing:
    """A step that was done, or is planned: from when to when its hands were on it, minutes."""

    step: BuiltStep
    start: float
    end: float


@dataclass(frozen=True)
class Standing:
    """Everything at one moment.

    Attributes:
        parts: by key. cloths: by name. hands: "dirty", "clean". joined: moves on that have no off yet.
    """

    parts: Mapping[str, PartState]
    cloths: Mapping[str, ClothState] = field(default_factory=dict)
    hands: str = "dirty"
    joined: frozenset[str] = frozenset()


def as_it_came(
    family: Family, materials: Mapping[str, str] | None = None, contents: Mapping[str, str] | None = None
) -> Standing:
    """How everything stands when the case is opened.

    Args:
        materials: part → material where it is recorded. contents: item → state: what is missing or waived is not there,
            what was replaced is new.
    """
    made, ticked = materials or {}, contents or {}
    parts = {}
    for part in family.part:
        material = made.get(part.key, part.materials[0]) if part.materials else ""
        state = ticked.get(part.listed, "present")
        level = LEVELS[3] if part.own else LEVELS[1] if state == "replaced" or material in CLEAN_AS_IS else LEVELS[0]
        parts[part.key] = PartState(level, there=state not in ("missing", "waived"))
    return Standing(parts)


def standing(family: Family, doings: Sequence[Doing], at: float, start: Standing) -> Standing:
    """How everything stands at a moment.

    Args:
        doings: what was done, in any order; what is not over at the moment is left out. at: the moment, minutes.
        start: how it stood before, as :func:`as_it_came` tells it.
    """
    now = start
    for doing in sorted((d for d in doings if d.end <= at), key=lambda d: (d.end, d.start)):
        over = doing.step.wait is None or at >= _taken_up(doing, doings)
        now = after_step(family, now, doing.step, over=over)
    lies = dict.fromkeys(now.parts, "")
    for doing in (d for d in doings if d.end <= at and d.step.wait is not None):
        assert doing.step.wait is not None
        if at < _taken_up(doing, doings):
            for key in family.carried(doing.step.pieces):
                if key in lies:
                    lies[key] = doing.step.wait.where
    return replace(now, parts={key: replace(part, lies=lies[key]) for key, part in now.parts.items()})


def _taken_up(doing: Doing, doings: Sequence[Doing]) -> float:
    """When what a step laid down is taken up again: by the step that ends it, else when its wait is over."""
    ender = next((d for d in doings if d.step.ends == doing.step.key), None)
    assert doing.step.wait is not None
    return ender.start if ender is not None else doing.end + doing.step.wait.min_minutes


def after_step(family: Family, now: Standing, step: BuiltStep, *, over: bool = True) -> Standing:
    """How everything stands when a step is done.

    Args:
        over: whether the wait that it starts has run out too; before that nothing has dried.
    """
    parts, cloths = dict(now.parts), dict(now.cloths)
    hands = "clean" if step.kind == "hands" else now.hands
    touched = _touched(family, step)
    if step.cloth and step.cloth != PAPER:
        cloth = ClothState() if step.fresh else cloths.get(step.cloth, ClothState())
        if any(not parts[p].clean for p in touched if parts[p].there):
            cloth = replace(cloth, soiled=True)
        cloths[step.cloth] = cloth
    bad = _unclean(now, step)
    for key in step.wears:
        if key in parts:
            parts[key] = replace(parts[key], soiled=WORN)
    for key in touched:
        part = replace(parts[key], touched=step.key)
        if step.takes:
            part = PartState(level="disinfected", touched=step.key, there=step.takes == "new")
        else:
            part = _changed(part, step, bad, over)
        parts[key] = part
    for key in (k for k in BOWED if step.bows and k in parts):
        parts[key] = replace(parts[key], rosin=True)
    if step.tension:
        for key in (p for p in touched if p == BOW):
            parts[key] = replace(parts[key], tight=step.tension == "tightens")
    for move in step.moves:
        if move.agent == "cork_grease":
            parts[move.part] = replace(parts[move.part], greased=True)
    if any(not now.parts[p].clean and not parts[p].clean for p in touched):
        hands = "dirty" if step.side == "dirty" else hands
    return replace(now, parts=parts, cloths=cloths, hands=hands, joined=_joined(now.joined, step))


def _joined(joined: frozenset[str], step: BuiltStep) -> frozenset[str]:
    found = set(joined)
    for move in step.moves:
        name, _, which = move.key.rpartition("_")
        if which == "on":
            found.add(name)
        else:
            found.discard(name)
    return frozenset(found)


def _touched(family: Family, step: BuiltStep) -> list[str]:
    """The parts whose state a step changes: those it names, and those that its moves move."""
    named = {*step.touches, *(m.part for m in step.moves)}
    return [p.key for p in family.part if p.key in named]


def _unclean(now: Standing, step: BuiltStep) -> str:
    """What touches the parts in this step and is not clean: "a used swab", "unwashed hands"; or ""."""
    if step.cloth and step.cloth != PAPER and not step.fresh and now.cloths.get(step.cloth, ClothState()).soiled:
        return f"a used {step.cloth}"
    if now.hands == "dirty" and step.kind not in ("mix", "hands"):
        return "unwashed hands"
    return ""


def _changed(part: PartState, step: BuiltStep, bad: str, over: bool) -> PartState:
    """One part after a step."""
    level, soiled, mouthed = part.level, part.soiled, part.mouthed
    if step.cleans:
        reached = {"wipe": LEVELS[1], "wash": LEVELS[2], "disinfect": LEVELS[3]}[step.cleans]
        level = max(level, reached, key=LEVELS.index) if not (soiled or mouthed) or step.cleans != "wipe" else level
        if LEVELS.index(reached) >= LEVELS.index(part.level) or step.cleans == "wipe":
            soiled, mouthed = "", mouthed and step.cleans == "wipe" and part.level == LEVELS[3]
        level = level if level != LEVELS[0] else reached
    elif bad and part.clean:
        soiled = bad
    if step.blows:
        mouthed = True
    wet = part.wet
    if step.wets is not None:
        wet = step.wets
    elif step.blows or (step.exposure != "brief" and set(step.agents) & WETTING):
        wet = True
    if over and (step.dries or _rack_dries(step)):
        wet = False
    greased = part.greased or "cork_grease" in step.agents
    rosin = part.rosin and not step.cleans
    return replace(part, level=level, soiled=soiled, mouthed=mouthed, wet=wet, greased=greased, rosin=rosin)


def _rack_dries(step: BuiltStep) -> bool:
    """Whether its wait is one in which things dry."""
    return step.wait is not None and step.wait.place in ("rack", "line") and not step.wait.wet


# --- rules ----------------------------------------------------------------------------------------------------------


def broken(family: Family, doings: Sequence[Doing], start: Standing) -> list[str]:
    """Every rule of clean, dry and safe that an order of steps breaks, in words; empty where it keeps them.

    Args:
        doings: the whole job with its times. start: as :func:`as_it_came` tells it.

    Checked: nothing is used while it lies somewhere; nothing clean is touched by what is not; no used cloth follows a
    wash; nothing is packed wet, tight, soiled, as it came or mouthed; what is blown is disinfected before; each joint
    that is put on comes off again or stays in the case.
    """
    found = list(_out_of_reach(family, doings))
    now = start
    for doing in sorted(doings, key=lambda d: (d.end, d.start)):
        found += _wrong(family, now, doing.step)
        now = after_step(family, now, doing.step)
    return found


def _out_of_reach(family: Family, doings: Sequence[Doing]) -> Iterator[str]:
    lying = [d for d in doings if d.step.wait is not None and d.step.pieces]
    for down in lying:
        until = _taken_up(down, doings)
        for other in doings:
            if other is down or other.step.ends == down.step.key or not other.step.pieces & down.step.pieces:
                continue
            if other.start < until - 1e-6 and other.end > down.end + 1e-6:
                yield f"{other.step.key} uses what lies there from {down.step.key} on"


def _wrong(family: Family, now: Standing, step: BuiltStep) -> Iterator[str]:
    bad = _unclean(now, step)
    for key in _touched(family, step):
        part = now.parts[key]
        if not part.there:
            continue
        minds = part.level in LEVELS[2:] or step.side == "clean"
        if bad and minds and part.clean and step.cleans not in ("wash", "disinfect"):
            yield f"{step.key}: {key} is {part.level} and is touched by {bad}"
        if step.cloth == "" and step.blows and key in _mouths(family) and part.level != LEVELS[3]:
            yield f"{step.key}: {key} is blown {part.level}"
    cloth = now.cloths.get(step.cloth)
    if step.cloth and cloth is not None and cloth.wet and not step.fresh:
        yield f"{step.key}: {step.cloth} is wet"
    if step.kind == "pack":
        yield from _packed(family, now, step)


def _mouths(family: Family) -> set[str]:
    return {p.key for p in family.part if p.meets == "mouth" and not p.own}


def _packed(family: Family, now: Standing, step: BuiltStep) -> Iterator[str]:
    for part in family.part:
        state = now.parts[part.key]
        if part.own or not state.there:
            continue
        if state.wet:
            yield f"{part.key} is packed wet"
        if state.tight:
            yield f"{part.key} is packed tight"
        if state.soiled and part.meets:
            yield f"{part.key} is packed, touched by {state.soiled}"
        if state.level == LEVELS[0]:
            yield f"{part.key} is packed as it came"
        if state.mouthed:
            yield f"{part.key} is packed, mouthed since it was cleaned"
        if state.rosin:
            yield f"{part.key} is packed with rosin on it"
    left = now.joined - {m.key.removesuffix("_on") for m in step.moves if m.key.endswith("_on")}
    packed = {m.key.removesuffix("_off") for m in step.moves if m.key.endswith("_off")}
    for joint in sorted(left - packed):
        found = next((j for j in family.joint if j.key == joint), None)
        if found is not None and found.again and found.together == "together":
            yield f"{joint} was put on and never came off"
