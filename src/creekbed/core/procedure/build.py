"""The steps of one job, built from family, materials, contents, findings, school and what stands ready."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from creekbed.core.catalogue.conditions import Facts
from creekbed.core.catalogue.load import Catalogue
from creekbed.core.catalogue.models import Choice, Family, Part, Recipe, Stage, Step, SwabPath, Topic
from creekbed.core.catalogue.surfaces import UNKNOWN, known_as
from creekbed.core.climate.breath import after_pulls_g, condensed_g, drying_minutes, learn_share
from creekbed.core.errors import CreekbedError
from creekbed.core.hygiene.baths import fill, jar_ml
from creekbed.core.hygiene.mixes import Mix, dilute
from creekbed.core.hygiene.touch import may_touch_part
from creekbed.core.inspection.valves import way_words
from creekbed.core.inspection.verdicts import Result
from creekbed.core.procedure.clean import clean_order
from creekbed.core.procedure.decide import decisions
from creekbed.core.procedure.moves import Move, Moves, make_moves, move_homes, move_rules, names_of
from creekbed.core.procedure.order import restrict, topological_order
from creekbed.core.strings.settling import Creep, fit_creep, retune_times
from creekbed.core.strings.tension import pitch_hz, tension_elsewhere_n


@dataclass(frozen=True)
class Situation:
    """Everything the steps of a job depend on.

    Attributes:
        family: key of the family. size: one of the family's sizes.
        materials: part → material, where the instrument's record says so. finishes: likewise.
        contents: item → "present", "missing", "worn", "replaced" or "waived"; an item not named is taken as present.
        findings: check → what it said; ``places`` for checks by place.
        places: check → place → answer.
        schools: topic → choice, as it stood when the job began.
        mixes_ready: products of recipes of which a usable mix stands ready.
        stock_pct: strength of the bottle in use for each stock supply, %.
        contact_min: product → contact time its label asks for, minutes.
        drops: retune readings (from_min, to_min, cents flat) since the newest string went on.
        renter: what is known of the next renter: "young_child", "beginner" or "same".
        lately: step → days since it was last done to this instrument, in an earlier job; "recork" and "rehair" count
            from when those were put on record.
        came: "hot" or "cold" where the inside of its case was beyond the house's limits.
        took: supply → how much of it this instrument took last time, in the supply's unit.
        breath_share: what share of the water that breath can leave is to be reckoned with (weighing teaches it).
        room_c: temperature of the room, °C; the house's if not read.
        air_way: the way of the air through this instrument's valves, where the shop has set it.
        cloths_dry: kinds of cloth of which a washed, dry one lies on the shelf; ``None``: of all.
    """

    family: str
    size: str
    materials: Mapping[str, str] = field(default_factory=dict)
    finishes: Mapping[str, str] = field(default_factory=dict)
    contents: Mapping[str, str] = field(default_factory=dict)
    findings: Mapping[str, Result] = field(default_factory=dict)
    places: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    schools: Mapping[str, str] = field(default_factory=dict)
    mixes_ready: frozenset[str] = frozenset()
    stock_pct: Mapping[str, float] = field(default_factory=dict)
    contact_min: Mapping[str, float] = field(default_factory=dict)
    drops: tuple[tuple[float, float, float], ...] = ()
    renter: str = ""
    lately: Mapping[str, float] = field(default_factory=dict)
    came: str = ""
    took: Mapping[str, float] = field(default_factory=dict)
    breath_share: float = learn_share(()).careful
    room_c: float | None = None
    cloths_dry: frozenset[str] | None = None
    air_way: tuple[int, ...] = ()

    def surface(self, part: Part) -> tuple[str, str]:
        """Material and finish of a part: as recorded, else the first it may have; "" where there is none."""
        material = known_as(self.materials.get(part.key, part.materials[0])) if part.materials else ""
        return material, self.finishes.get(part.key, part.finishes[0]) if part.finishes else ""


@dataclass(frozen=True)
class BuiltWait:
    """A wait as it will really run: minutes, place, wet or not, and what happens at its end."""

    name: str
    place: str
    where: str
    min_minutes: float
    max_minutes: float | None
    wet: bool
    at_end: str
    takes: int = 1
    alike: str = ""
    """How much of the place's room it takes, and with what it may share a vessel there; "": with nothing."""


@dataclass(frozen=True)
class BuiltStep:
    """One step of one job, all words filled in; ``after`` names keys within the same job."""

    key: str
    base: str
    stage: Stage
    kind: str
    what: str
    amount: str
    how: str
    caution: str
    reason: str
    part: str | None
    agent: str | None
    agents: tuple[str, ...]
    touches: tuple[str, ...]
    exposure: str
    moves: tuple[Move, ...]
    path: SwabPath | None
    sign: str
    place: str | None
    skill: str
    hands_min: float
    setup_min: float
    wait: BuiltWait | None
    ends: str | None
    after: tuple[str, ...]
    tools: tuple[str, ...]
    supplies: tuple[tuple[str, float], ...]
    school: str
    changes: bool
    optional: bool
    quarantine: bool
    mark: str
    source: str
    pieces: frozenset[str] = frozenset()
    """The pieces that are in somebody's hands meanwhile, and lie where its wait is."""
    cleans: str = ""
    cloth: str = ""
    fresh: bool = False
    side: str = "none"
    blows: bool = False
    dries: bool = False
    wets: bool | None = None
    tension: str = ""
    takes: str = ""
    logs: str | None = None
    pulls: float = 0.0
    """How often a cloth is drawn through."""
    note: str = ""

    @property
    def in_quarantine(self) -> bool:
        """Whether it may be done in quarantine: what treats it, and ticking what lies in the open case."""
        return self.quarantine or self.kind == "contents"


def build(catalogue: Catalogue, situation: Situation) -> list[BuiltStep]:
    """The steps of a job in a safe order.

    Args:
        catalogue: what the shop knows.
        situation: the job as it stands.

    Returns:
        Steps in an order that keeps every constraint; ``after`` holds the constraints themselves, so that
        a planner may choose another order among those allowed.

    Raises:
        KeyError: an unknown family.
    """
    family = catalogue.families[situation.family]
    chosen = catalogue.picked(family, situation.schools)
    facts = facts_of(family, situation, {topic: choice.key for topic, choice in chosen.items()})
    facts |= due_facts(family, situation, chosen)
    decided = decisions(family, situation, facts)
    facts |= decided.facts
    names = {
        topic: _school_words(catalogue.topics[topic], choice.name, situation.schools.get(f"{ASKED}{topic}", ""))
        for topic, choice in chosen.items()
    }
    moves = make_moves(family, facts, names)
    keep = [s for s in family.step if _wanted(s, facts, situation, moves, chosen)]
    there = {s.key for s in keep}
    keep = [
        s if s.ends is None or s.ends in there else s.model_copy(update={"ends": None})
        for s in keep
        if s.ends is None or s.ends in there or s.anyway  # no wait, nothing to end
    ]
    shared = _shared_out(keep, moves)
    keep = [s for s in keep if s.kind not in MOVING[:-1] or shared[s.key]]
    pieces = {s.key: pieces_of(family, s, shared.get(s.key, ())) for s in keep}
    after = clean_order(family, keep, restrict(step_order(family, facts), [s.key for s in keep]), pieces)
    keys = {s.key: _keys(s, facts) for s in keep}
    common = _common_words(catalogue, family, situation, chosen, moves) | decided.words
    built: dict[str, BuiltStep] = {}
    for step in keep:
        before = tuple(k for a in sorted(after[step.key]) for k in keys[a])
        previous: tuple[str, ...] = ()
        for key in keys[step.key]:
            value = key.partition(".")[2]
            words = common | _own_words(catalogue, family, situation, step, value, chosen)
            if step.key in shared:
                words[LISTS.get(step.kind, "moves_list")] = names_of(shared[step.key], family)
            mine = tuple(_move_words(m, words) for m in shared.get(step.key, ()))
            built[key] = _fill(step, key, before + previous, words, catalogue, situation, mine, pieces[step.key])
            previous = (key,)
    order = topological_order({k: set(s.after) for k, s in built.items()})
    return [built[k] for k in order]


def step_order(family: Family, facts: Facts) -> dict[str, set[str]]:
    """What each step of a family comes after, from the steps themselves and the order rules that hold.

    A rule that names a move holds between the steps in which the moves are made.
    """
    by_kind: dict[str, str] = {s.kind: s.key for s in family.step if s.kind in MOVING}
    after = {s.key: set(s.after) for s in family.step}

    homes = move_homes(family)
    for first, then in move_rules(family, facts):
        if first in homes and then in homes:
            continue
        before = by_kind.get(homes[first]) if first in homes else first
        later = by_kind.get(homes[then]) if then in homes else then
        if before is not None and later is not None and before != later:
            after[later].add(before)
    return after


def _wanted(step: Step, facts: Facts, situation: Situation, moves: Moves, chosen: Mapping[str, Choice]) -> bool:
    if not all(c.holds(facts) for c in step.when):
        return False
    if step.each is not None and not facts.get(step.each):
        return False
    if step.kind in ("apart", "together", "again") and not moves.of(step.kind):
        return False
    return _is_due(step, situation, school_values(chosen))


def _is_due(step: Step, situation: Situation, values: Mapping[str, Any]) -> bool:
    days = float(values.get(step.every_by, step.every_days or 0.0)) if step.every_by else step.every_days
    return situation.lately.get(step.every_of or step.key, float("inf")) >= (days or 0.0)


def due_facts(family: Family, situation: Situation, chosen: Mapping[str, Choice]) -> dict[str, frozenset[str]]:
    """Of what is done every so many days, whether it is due: ``due.bath`` is yes or no."""
    values = school_values(chosen)
    return {
        f"due.{s.key}": frozenset({"yes" if _is_due(s, situation, values) else "no"})
        for s in family.step
        if s.every_days or s.every_by
    }


LISTS = {"apart": "off_list", "together": "on_list", "again": "again_list", "pack": "pack_list"}
"""The word that stands for the pieces that a step moves, by kind of step."""
MOVING = ("apart", "together", "again", "pack")
"""Kinds of steps that are made of moves."""


def pieces_of(family: Family, step: Step, moves: Iterable[Move]) -> frozenset[str]:
    """The pieces that a step touches: those of its parts, and those that its moves move."""
    return family.pieces((*step.touches, *(m.part for m in moves)))


def _shared_out(steps: Sequence[Step], moves: Moves) -> dict[str, tuple[Move, ...]]:
    """Step → the moves that it makes: those that it names, or all of its kind that no other step names."""
    every = (*moves.off, *moves.on, *moves.again, *moves.pack)
    named = {name: s.key for s in steps for name in s.makes}
    found: dict[str, tuple[Move, ...]] = {}
    for step in steps:
        mine = moves.of(step.kind)
        if mine:
            found[step.key] = tuple(m for m in mine if m.key not in named)
        elif step.makes:
            phase = moves.phase(step.makes, after_play=step.stage in ("after", "ready"))
            found[step.key] = tuple(m for m in (phase or every) if m.key in step.makes)
    return found


def school_values(chosen: Mapping[str, Choice]) -> dict[str, Any]:
    """The words and numbers that the chosen schools bring."""
    return {name: value for choice in chosen.values() for name, value in choice.values.items()}


@dataclass(frozen=True)
class Due:
    """Care that is due again and again: what, how often, by whom."""

    what: str
    every_days: float
    who: str
    mark: str


def intervals(catalogue: Catalogue, family: Family, schools: Mapping[str, str]) -> list[Due]:
    """The family's care intervals, as the chosen schools have them."""
    values = school_values(catalogue.picked(family, schools))
    return [
        Due(i.what, float(values.get(i.by, i.every_days)) if i.by else i.every_days, i.who, i.mark)
        for i in family.interval
    ]


def facts_of(family: Family, situation: Situation, schools: Mapping[str, str]) -> dict[str, frozenset[str]]:
    """Everything that conditions may ask: contents, findings, materials, finishes, schools, renter, mixes."""
    facts = {f"contents.{i.key}": frozenset({situation.contents.get(i.key, "present")}) for i in family.item}
    facts |= {f"contents.{key}": frozenset({"none"}) for key in family.omitted}
    for check, result in situation.findings.items():
        facts[f"finding.{check}"] = result.facts
    for check, places in situation.places.items():
        facts[f"finding.{check}_bad"] = frozenset(places)
    for part in family.part:
        for kind, what in zip(("material", "finish"), situation.surface(part), strict=True):
            if what:
                facts[f"{kind}.{part.key}"] = frozenset({what})
    for topic, choice in schools.items():
        facts[f"school.{topic}"] = frozenset({choice})
    for product in situation.mixes_ready:
        facts[f"mix.{product.removesuffix('_ml')}"] = frozenset({"ready"})
    facts["case.came"] = frozenset({situation.came} if situation.came else ())
    facts["renter"] = frozenset({situation.renter} if situation.renter else ())
    return facts


def _keys(step: Step, facts: Mapping[str, frozenset[str]]) -> list[str]:
    if step.each is None:
        return [step.key]
    return [f"{step.key}.{value}" for value in sorted(facts[step.each])]


def mix_for(recipe: Recipe, stock_pct: Mapping[str, float]) -> Mix | None:
    """The mix that a recipe makes from the bottle in use; ``None`` when no bottle is known."""
    strength = stock_pct.get(recipe.stock)
    if strength is None or strength < recipe.target_pct:
        return None
    return dilute(strength, recipe.target_pct, recipe.make_ml, recipe.graduation_ml)


def _common_words(
    catalogue: Catalogue, family: Family, situation: Situation, chosen: Mapping[str, Choice], moves: Moves
) -> dict[str, Any]:
    words = school_values(chosen)
    limits = catalogue.house.limits
    for recipe in catalogue.house.recipe:
        mix = mix_for(recipe, situation.stock_pct)
        words |= {
            "target": f"{recipe.target_pct:g}",
            "make_ml": f"{recipe.make_ml:g}",
            "dose_ml": f"{recipe.dose_ml:g}",
        }
        words["stock_ml"] = f"{mix.stock_rounded_ml:g}" if mix else "?"
    words |= _water_words(water_of(catalogue, family, situation, words))
    words |= {
        "name": family.noun,
        "size": situation.size,
        "joinings": len(moves.on),
        "cold_words": COLD_WORDS if situation.came == "cold" else "",
        "dip_level": _dip_words(family),
        "valve_words": way_words(situation.air_way or family.air_way) if family.air_way else "",
        "reed_strength": "2, no harder" if situation.renter in ("beginner", "young_child") else "2",
        "took_words": _took_words(family, situation),
        "bath_c": f"{limits.bath_c:g}",
        "detergent": f"{limits.detergent_ml_per_l:g}",
    }
    for check in family.check:
        bench = {o.key for o in check.options if o.verdict == "bench"}
        found = situation.places.get(check.key, {})
        mended = [place for place, answer in found.items() if answer in bench]
        words |= {f"{check.key}_list": ", ".join(mended), f"{check.key}_count": len(mended)}
        for option in check.options if found else ():
            words[f"{check.key}_{option.key}"] = ", ".join(p for p, answer in found.items() if answer == option.key)
    return words


COLD_WORDS = "Wood from the cold is not blown before it has the room's warmth."
"""From memory."""


def _dip_words(family: Family) -> str:
    """How much liquid stands below the cork, for one mouthpiece and for as many as the jar takes."""
    dip = family.dip
    if dip is None:
        return ""
    one, many = (jar_ml(dip.jar_mm, dip.level_mm, [dip.solid_mm] * n) for n in (1, dip.most))
    return (
        f"In a jar {dip.jar_mm:g} mm wide, {dip.level_mm:g} mm high: {one:.0f} ml with one in it, "
        f"{many:.0f} ml with {dip.most}."
    )


def _took_words(family: Family, situation: Situation) -> str:
    """How much of what is noted for each instrument it took last time."""
    for step in family.step:
        if step.logs is not None and step.logs in situation.took:
            return f"last time this one took {situation.took[step.logs]:g} ml; note what it takes now"
    return "a little at a time; note what this one takes"


def _own_words(
    catalogue: Catalogue, family: Family, situation: Situation, step: Step, value: str, chosen: Mapping[str, Choice]
) -> dict[str, Any]:
    words: dict[str, Any] = {"value": value}
    if step.school is not None and step.school in chosen:
        words["school_reason"] = chosen[step.school].reason
        who = situation.schools.get(f"{ASKED}{step.school}", "")
        words["school_name"] = _school_words(catalogue.topics[step.school], chosen[step.school].name, who)
    if step.bath_l is not None:
        words |= _bath_words(catalogue, step.bath_l)
        words["bath_soap"] = round(step.bath_l * catalogue.house.limits.detergent_ml_per_l, 1)
    if family.stringed is not None and value:
        spec = next(s for s in family.stringed.strings if s.key == value)
        supply = catalogue.supplies[spec.stock]
        a4 = catalogue.house.limits.a4_hz
        hz = pitch_hz(spec.pitch, a4)
        tension = 0.0
        if supply.string is not None:
            tension = tension_elsewhere_n(
                supply.string.tension_n,
                supply.string.length_mm,
                family.stringed.length_mm[situation.size],
                pitch_hz(supply.string.pitch),
                hz,
            )
        words |= {
            "string_name": spec.name,
            "string_pitch": f"{spec.pitch} ({hz:.1f} Hz at A4 = {a4:g})",
            "string_tension": f"{tension:.0f}",
            "string_state": situation.places.get("strings", {}).get(value, "worn"),
            "string_stock": spec.stock,
        }
    return words


def _bath_words(catalogue: Catalogue, volume_l: float) -> dict[str, str]:
    """How much hot and cold makes a bath of the house's temperature from the house's taps."""
    limits = catalogue.house.limits
    try:
        bath = fill(volume_l, limits.bath_c, limits.tap_hot_c, limits.tap_cold_c)
    except CreekbedError:  # the shop's own numbers: its taps cannot make its bath
        return {"bath_hot_l": "?", "bath_cold_l": "?", "scald_s": "seconds"}
    scald = "more than five minutes" if bath.scald_s is None else f"{bath.scald_s:.0f} s"
    return {"bath_hot_l": f"{bath.hot_l:.1f}", "bath_cold_l": f"{bath.cold_l:.1f}", "scald_s": scald}


def _move_words(move: Move, words: Mapping[str, Any]) -> Move:
    table = _Blank(words)
    return replace(
        move, what=move.what.format_map(table), how=move.how.format_map(table),
        caution=move.caution.format_map(table), reason=move.reason.format_map(table),
    )  # fmt: skip


ASKED = "asked:"
"""Before a topic in a job's schools: who asked for that choice, where it is not the house's own."""


def _school_words(topic: Topic, choice: str, who: str = "") -> str:
    return f"{topic.name}: {choice.lower()}" + (f", as {who} asks" if who else "")


class _Blank(dict[str, Any]):
    def __missing__(self, key: str) -> str:
        return ""


def _fill(
    step: Step,
    key: str,
    after: tuple[str, ...],
    words: Mapping[str, Any],
    catalogue: Catalogue,
    situation: Situation,
    moves: tuple[Move, ...],
    pieces: frozenset[str],
) -> BuiltStep:
    table = _Blank(words)
    hands = step.hands_min + sum(rate * float(words.get(name, 0)) for name, rate in step.hands_per.items())
    supplies = [(u.item, float(words.get(u.per, 1)) * u.amount) for u in step.supplies]
    if "string_stock" in words:
        supplies.append((str(words["string_stock"]), 1.0))
    supplies += [move.supply for move in moves if move.supply is not None]
    supplies = [(item, situation.took.get(item, amount) if step.logs == item else amount) for item, amount in supplies]
    hands += sum(move.hands_min for move in moves)
    caution = step.caution
    for refused in refusals(catalogue, situation, step.touches, step.agents, step.exposure):
        caution = f"Stop: {refused} {caution}"
    return BuiltStep(
        key=key,
        base=step.key,
        stage=step.stage,
        kind=step.kind,
        what=step.what.format_map(table),
        amount=step.amount.format_map(table),
        how=step.how.format_map(table).strip(),
        caution=caution.format_map(table),
        reason=step.reason.format_map(table),
        part=step.part,
        agent=step.agent,
        agents=step.agents,
        touches=step.touches,
        exposure=step.exposure,
        moves=moves,
        path=step.path,
        sign=step.sign,
        place=step.place,
        skill=step.skill,
        hands_min=round(hands, 2),
        setup_min=round(hands, 2) if step.kind == "mix" else min(step.setup_min, round(hands, 2)),
        wait=_wait(step, catalogue, situation, words),
        ends=step.ends,
        after=after,
        tools=tuple(dict.fromkeys(tool.format_map(table) for tool in step.tools)),
        supplies=tuple(supplies),
        school=str(words.get("school_name", "")) if step.school else "",
        changes=step.changes,
        optional=step.optional,
        quarantine=step.quarantine,
        mark=step.mark,
        source=step.source,
        pieces=pieces,
        cleans=step.cleans,
        cloth=step.cloth.format_map(table),
        fresh=step.fresh,
        side=step.hands_side,
        blows=step.blows,
        dries=step.dries,
        wets=step.wets,
        tension=step.tension,
        takes=step.takes,
        logs=step.logs,
        pulls=_pulls(step, words),
        note=step.note.format_map(table),
    )


def _pulls(step: Step, words: Mapping[str, Any]) -> float:
    """How often a step draws its cloth through: as the school says, else once; never where it has no path."""
    if step.path is None:
        return 0.0
    told = [float(words.get(name, 0)) for name in step.hands_per if name.endswith("pulls")]
    return max(told, default=1.0) or 1.0


def refusals(
    catalogue: Catalogue, situation: Situation, parts: Iterable[str], agents: Iterable[str], exposure: str
) -> list[str]:
    """Why these agents must not come to these parts of this instrument; empty when they may.

    Args:
        parts, agents: keys. exposure: as for :func:`creekbed.core.hygiene.touch.may_touch`.
    """
    family = catalogue.families[situation.family]
    found = []
    for part in (p for p in family.part if p.key in set(parts) and p.materials):
        material, finish = situation.surface(part)
        if material not in catalogue.materials:
            continue
        for agent in agents:
            below, above = catalogue.materials[material], catalogue.materials.get(finish)
            answer = may_touch_part(below, above, agent, exposure, part.bears_not)
            if not answer.allowed and material == UNKNOWN:
                who = f"Nobody here knows what the {part.name} is made of"
                found.append(f"{who}: {catalogue.agents[agent].name} must not come to it.")
            elif not answer.allowed:
                name = (above or below).name
                found.append(f"{name} must not meet {catalogue.agents[agent].name}. {answer.why}")
    return found


def creep_law(family: Family, situation: Situation) -> Creep:
    """The creep law for this job: the house's, adapted by the retunes read so far.

    Raises:
        ValueError: a family without strings.
    """
    if family.stringed is None:
        raise ValueError(f"{family.name} has no strings")
    house = Creep(family.stringed.creep_cents, family.stringed.creep_tau_min)
    return fit_creep(house, situation.drops)


@dataclass(frozen=True)
class Water:
    """What the play-test leaves in the bore.

    Attributes:
        bound_g: that breath can leave at most, by moist air. found_g: to be reckoned with. left_g: after the school's
            pulls. minutes: on the rack until no more is left than may be. pulls: of a dry cloth.
    """

    bound_g: float
    found_g: float
    left_g: float
    minutes: float
    pulls: float


def water_of(catalogue: Catalogue, family: Family, situation: Situation, values: Mapping[str, Any]) -> Water | None:
    """What the play-test of a job leaves in the bore; ``None`` where nothing is blown.

    Args:
        values: the words and numbers that the chosen schools bring.
    """
    play = next((s for s in family.step if s.blows), None)
    if play is None or family.breath is None:
        return None
    limits, breath = catalogue.house.limits, family.breath
    room = limits.room_c if situation.room_c is None else min(max(situation.room_c, -10.0), 45.0)
    bound = condensed_g(breath.litres_min * play.hands_min, room)
    found = bound * situation.breath_share
    pulls = float(values.get(family.pulls_by, 1.0)) if family.pulls_by else 1.0
    left = after_pulls_g(found, pulls, breath.pull_takes)
    minutes = drying_minutes(left, limits.dry_left_g, breath.tau_min, LEAST_AIR_MIN)
    return Water(bound, found, left, minutes, pulls)


def _water_words(water: Water | None) -> dict[str, str]:
    if water is None:
        return {}
    left = "less than 0.1" if water.left_g < 0.1 else f"about {water.left_g:.1f}"
    return {
        "water_g": f"{water.bound_g:.1f}", "water_found_g": f"{water.found_g:.1f}", "water_left_g": left,
        "water_min": f"{water.minutes:.0f}", "water_pulls": f"{water.pulls:g}",
    }  # fmt: skip


LEAST_AIR_MIN = 15.0
"""However little water is reckoned with, a played bore airs so long before it is cased, minutes: house default."""


def _wait(step: Step, catalogue: Catalogue, situation: Situation, words: Mapping[str, Any]) -> BuiltWait | None:
    wait = step.wait
    if wait is None:
        return None
    minutes, longest = wait.min_minutes, wait.max_minutes
    if wait.rule == "label":
        for use in step.supplies:
            recipe = next((r for r in catalogue.house.recipe if r.product == use.item), None)
            if recipe is not None:
                minutes = situation.contact_min.get(use.item, recipe.contact_min)
        longest = max(longest, minutes) if longest is not None else None
    elif wait.rule == "settle":
        family = catalogue.families[situation.family]
        law = creep_law(family, situation)
        assert family.stringed is not None
        times = retune_times(law, family.stringed.tolerance_cents, 2)
        minutes = float(round(times[0 if step.key == "hang" else 1]))
    elif wait.rule == "water":
        minutes = max(minutes, float(words.get("water_min", 0.0)))
    where = next(p.where for p in catalogue.house.place if p.key == wait.place)
    alike = f"{step.key}/{step.agent or ''}" if wait.alike else ""
    return BuiltWait(wait.name, wait.place, where, minutes, longest, wait.wet, wait.at_end, wait.takes, alike)
