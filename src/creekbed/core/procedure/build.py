"""The steps of one job, built from family, materials, contents, findings, policy and what stands ready."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.conditions import Facts
from creekbed.core.catalogue.models.base import STAGES
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.steps import Step
from creekbed.core.catalogue.surfaces import UNKNOWN
from creekbed.core.conventions import quantities_in
from creekbed.core.hygiene.touch import may_touch_part
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.procedure.clean import clean_order
from creekbed.core.procedure.decide import decisions
from creekbed.core.procedure.forbidden import forbidden_by, hold_back
from creekbed.core.procedure.looks import MAIN, checks_by_look
from creekbed.core.procedure.moves import Move, Moves, make_moves, move_homes, move_rules, names_of
from creekbed.core.procedure.order import restrict, topological_order
from creekbed.core.procedure.situation import ASKED, Situation, due_facts, facts_of, is_due, policy_values
from creekbed.core.procedure.step_waits import LAST_RETUNE, retunes_wanted, until_holds, wait_of
from creekbed.core.procedure.step_words import (
    BlankWords,
    common_words,
    move_words,
    own_words,
    policy_words,
    send_words,
)
from creekbed.core.supplies.next_amount import next_amount


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
    chosen = catalogue.picked(family, situation.policies)
    facts = facts_of(family, situation, {topic: choice.key for topic, choice in chosen.items()})
    facts |= due_facts(family, situation, chosen)
    facts["strings.settling"] = _settling(family, situation)
    forbidden = forbidden_by(family, situation)
    decided = decisions(family, situation, facts, forbidden)
    facts |= decided.facts
    names = {
        topic: policy_words(catalogue.topics[topic], choice.name, situation.policies.get(f"{ASKED}{topic}", ""))
        for topic, choice in chosen.items()
    }
    moves = make_moves(family, facts, names)
    values = policy_values(chosen)
    keep = [s for s in family.step if _wanted(s, facts, situation, moves, values)]
    asked = checks_by_look(family, keep, facts)
    keep = [s for s in keep if s.kind != "look" or s.asks == MAIN or asked[s.key]]
    there = {s.key for s in keep}
    keep = [
        s if s.ends is None or s.ends in there else s.model_copy(update={"ends": None})
        for s in keep
        if s.ends is None or s.ends in there or s.anyway  # no wait, nothing to end
    ]
    shared = _shared_out(keep, moves)
    keep = [s for s in keep if s.kind not in MOVING[:-1] or shared[s.key]]
    pieces = {s.key: pieces_of(family, s, shared.get(s.key, ())) for s in keep}
    order = clean_order(keep, restrict(step_order(family, facts), [s.key for s in keep]), pieces)
    keys = {s.key: _keys(s, facts) for s in keep}
    common = common_words(catalogue, family, situation, chosen, moves) | decided.words
    common |= send_words(family, situation, forbidden)
    built: dict[str, BuiltStep] = {}
    for step in keep:
        before = tuple(k for a in sorted(order.after[step.key]) for k in keys[a])
        deeds = frozenset(k for a in order.deeds[step.key] for k in keys[a])
        previous: tuple[str, ...] = ()
        for key in keys[step.key]:
            value = key.partition(".")[2]
            words = common | own_words(catalogue, family, situation, step, value, chosen)
            if step.key in shared:
                words[LISTS.get(step.kind, "moves_list")] = names_of(shared[step.key], family)
            mine = tuple(move_words(m, words) for m in shared.get(step.key, ()))
            filled = _fill(step, key, before + previous, words, catalogue, situation, mine, pieces[step.key], deeds)
            built[key] = replace(filled, checks=asked.get(step.key, ()))
            previous = (key,)
    _retune_until_it_holds(family, situation, built)
    sends = next((s.key for s in keep if s.kind == "send"), "")
    return longest_wait_first(hold_back(built, {s.key: s.deeds for s in keep}, forbidden, sends))


LONG_WAIT_MIN = 60.0
"""From how long on a wait is begun as early as it may, minutes: house default."""


def longest_wait_first(built: Mapping[str, BuiltStep]) -> list[BuiltStep]:
    """The steps of a job in an order for one pair of hands: what leads to the longest wait begins first.

    Stages keep their order as far as the steps' own order leaves it free, and what leads to equally long waits keeps
    the order of the file. What begins a long wait itself is not put off to its stage: a sponge is washed as soon as it
    is off.
    """
    after = {key: set(step.after) for key, step in built.items()}
    rest = dict.fromkeys(built, 0.0)
    stages = {key: STAGES.index(step.stage) for key, step in built.items()}
    order = topological_order(after)
    for key in order:
        wait = built[key].wait
        if wait is not None and wait.min_minutes >= LONG_WAIT_MIN:
            stages[key] = max((stages[before] for before in built[key].after), default=0)
    for key in reversed(order):
        step = built[key]
        waits = step.wait.min_minutes if step.wait is not None else 0.0
        rest[key] = max(rest[key], waits)
        for before in step.after:
            wait = built[before].wait
            lag = wait.min_minutes if wait is not None and before not in step.deeds else 0.0
            rest[before] = max(rest[before], lag + rest[key])
    places = {key: (stages[key], -rest[key], n) for n, key in enumerate(built)}
    return [built[key] for key in topological_order(dict(sorted(after.items(), key=lambda row: places[row[0]])))]


def _settling(family: Family, situation: Situation) -> frozenset[str]:
    """Whether new strings want a last retune after the first two."""
    if family.stringed is None or not situation.places.get("strings"):
        return frozenset()
    return frozenset({"yes" if retunes_wanted(family.stringed, situation) >= LAST_RETUNE else "no"})


def _retune_until_it_holds(family: Family, situation: Situation, built: dict[str, BuiltStep]) -> None:
    """Add a retune for each that is done or forecast beyond the last of the data; what comes after waits for it."""
    model = built.get(f"retune_{LAST_RETUNE}")
    if model is None or family.stringed is None:
        return
    before, wanted = model, retunes_wanted(family.stringed, situation)
    for number in range(LAST_RETUNE + 1, wanted + 1):
        wait = None
        if number < wanted and model.wait is not None:
            wait = replace(model.wait, min_minutes=until_holds(family.stringed, situation, number))
        added = replace(before, key=f"retune_{number}", after=(before.key,), ends=before.key, wait=wait)
        for key, step in built.items():
            if before.key in step.after:
                built[key] = replace(step, after=(*step.after, added.key))
        built[added.key] = before = added


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


def _wanted(step: Step, facts: Facts, situation: Situation, moves: Moves, values: Mapping[str, Any]) -> bool:
    if not all(c.holds(facts) for c in step.when):
        return False
    if step.each is not None and not facts.get(step.each):
        return False
    if step.kind in ("apart", "together", "again") and not moves.of(step.kind):
        return False
    return is_due(step, situation, values)


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


def _keys(step: Step, facts: Mapping[str, frozenset[str]]) -> list[str]:
    if step.each is None:
        return [step.key]
    return [f"{step.key}.{value}" for value in sorted(facts[step.each])]


def _supplies(
    step: Step, words: Mapping[str, Any], situation: Situation, moves: tuple[Move, ...]
) -> tuple[tuple[str, float], ...]:
    """What a step takes from the shelf; what this instrument took before goes before the usual amount."""
    found = [(u.item, float(words.get(u.per, 1)) * u.amount) for u in step.supplies]
    if "string_stock" in words:
        found.append((str(words["string_stock"]), 1.0))
    found += [move.supply for move in moves if move.supply is not None]
    took = next_amount(situation.took.get(step.logs or "", ()))
    return tuple((item, round(took.likely, 2) if took and step.logs == item else amount) for item, amount in found)


def _fill(
    step: Step,
    key: str,
    after: tuple[str, ...],
    words: Mapping[str, Any],
    catalogue: Catalogue,
    situation: Situation,
    moves: tuple[Move, ...],
    pieces: frozenset[str],
    deeds: frozenset[str],
) -> BuiltStep:
    table = BlankWords(words)
    hands = step.hands_min + sum(rate * float(words.get(name, 0)) for name, rate in step.hands_per.items())
    hands = round(hands + sum(move.hands_min for move in moves), 2)
    refused = tuple(refusals(catalogue, situation, step.touches, step.agents, step.exposure))
    caution = " ".join([*(f"Stop: {r}" for r in reversed(refused)), step.caution])

    def said(text: str) -> str:
        return quantities_in(text.format_map(table) if "{" in text else text)

    return BuiltStep(
        key=key, base=step.key, stage=step.stage, kind=step.kind, what=said(step.what), amount=said(step.amount),
        how=said(step.how).strip(), caution=said(caution), reason=said(step.reason), part=step.part, agent=step.agent,
        agents=step.agents, touches=step.touches, exposure=step.exposure, moves=moves, path=step.path, sign=step.sign,
        place=step.place, skill=step.skill, hands_min=hands,
        setup_min=hands if step.kind == "mix" else min(step.setup_min, hands),
        wait=wait_of(step, catalogue, situation, words), ends=step.ends, after=after, deeds=deeds,
        tools=tuple(dict.fromkeys(tool.format_map(table) for tool in step.tools)),
        supplies=_supplies(step, words, situation, moves),
        policy=str(words.get("policy_name", "")) if step.policy else "", changes=step.changes, optional=step.optional,
        quarantine=step.quarantine, mark=step.mark, source=step.source, pieces=pieces, cleans=step.cleans,
        cloth=step.cloth.format_map(table), fresh=step.fresh, stuff=step.stuff.format_map(table),
        side=step.hands_side, blows=step.blows, bows=step.bows, wears=step.wears, through=step.through,
        dries=step.dries, wets=step.wets, tension=step.tension, takes=step.takes, logs=step.logs,
        pulls=_pulls(step, words), note=said(step.note), refused=refused,
    )  # fmt: skip


def _pulls(step: Step, words: Mapping[str, Any]) -> float:
    """How often a step draws its cloth through: as the policy says, else once; never where it has no path."""
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
    if not (touched := frozenset(parts)) or not (agents := tuple(agents)):
        return []
    found = []
    for part in (p for p in catalogue.families[situation.family].part if p.key in touched and p.materials):
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
