"""Cross-checks: every name exists, no order contradicts itself, no agent comes where it harms."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import combinations, product

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.conditions import Condition
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.steps import Step
from creekbed.core.catalogue.surfaces import surfaces
from creekbed.core.errors import BadData
from creekbed.core.hygiene.residue import rinses_off
from creekbed.core.hygiene.together import never_together
from creekbed.core.hygiene.touch import may_touch_part
from creekbed.core.procedure.build import step_order
from creekbed.core.procedure.decide import FACTS
from creekbed.core.procedure.looks import MAIN
from creekbed.core.procedure.moves import move_orders, off_name, on_name
from creekbed.core.procedure.order import topological_order
from creekbed.core.procedure.situation import UNSAID, Situation, facts_of


def check_catalogue(catalogue: Catalogue) -> None:
    """Check all families and topics.

    Raises:
        BadData: the first thing wrong.
    """
    groups = {f.group for f in catalogue.families.values()}
    for topic in catalogue.topics.values():
        for name in topic.families:
            if name not in groups and name not in catalogue.families:
                raise _bad("policies.toml", topic.key, f"family “{name}” does not exist.")
    for supply in catalogue.supplies.values():
        if supply.agent is not None and supply.agent not in catalogue.agents:
            raise _bad("supplies.toml", supply.key, f"agent “{supply.agent}” does not exist.")
    for material in catalogue.materials.values():
        for agent in (*material.may, *material.why, *material.trade):
            if agent not in catalogue.agents:
                raise _bad("materials.toml", material.key, f"agent “{agent}” does not exist.")
    held = {word for agent in catalogue.agents.values() for word in agent.holds}
    held |= {word for sold in catalogue.products.values() for word in sold.holds}
    held |= {word for ingredient in catalogue.ingredients.values() for word in ingredient.holds}
    for sold in catalogue.products.values():
        if sold.agent is not None and sold.agent not in catalogue.agents:
            raise _bad("products.toml", sold.key, f"agent “{sold.agent}” does not exist.")
    for never in catalogue.never.values():
        for word in never.between:
            if word not in held:
                raise _bad("never.toml", never.key, f"no agent holds “{word}”.")
    for table in catalogue.leaks.values():
        for family in (f for f in catalogue.families.values() if catalogue.leak_table(f) is table):
            for pad in table.pads:
                if family.find_part(pad.part) is None:
                    raise _bad("leaks.toml", table.key, f"a {family.noun} has no part “{pad.part}”.")
    for family in catalogue.families.values():
        check_family(family, catalogue)


def check_family(family: Family, catalogue: Catalogue) -> None:
    """Check one family against the catalogue it lives in.

    Raises:
        BadData: the first thing wrong.
    """
    for kind, key, names in _references(family, catalogue):
        if key not in names:
            raise _bad(family.key, key, f"{kind} “{key}” does not exist.")
    steps = {s.key: s for s in family.step}
    made_here = {r.product for r in catalogue.house.recipe}
    mixes = {s.key for s in family.step if s.kind == "mix"}
    for step in family.step:
        if any(use.item in made_here for use in step.supplies) and not mixes & set(step.after):
            raise _bad(family.key, step.key, f"{step.key} uses a mix, but comes after no step that makes it.")
        if step.ends and steps[step.ends].wait is None:
            raise _bad(family.key, step.key, f"{step.key} ends {step.ends}, which has no wait.")
        if step.path is not None:
            _check_path(family, step)
    for kind in ("contents", "pack"):
        if sum(s.kind == kind for s in family.step) != 1:
            raise _bad(family.key, kind, f"a family needs exactly one step of kind “{kind}”.")
    looks = [s.asks for s in family.step if s.kind == "look"]
    if MAIN not in looks or len(looks) != len(set(looks)):
        raise _bad(family.key, "look", "a family needs exactly one look for each state, and one for what lies apart.")
    if family.joint and not any(s.kind == "apart" for s in family.step):
        raise _bad(family.key, "joint", "there are joints, but no step of kind “apart”.")
    _check_orders(family, catalogue)
    for step in family.step:
        for part, agent in product(step.touches, step.agents):
            _guard(family, catalogue, part, agent, step.exposure, step.when, step.key)
    _check_rinses(family, catalogue)
    for joint in family.joint:
        if joint.on_agent is not None:
            _guard(family, catalogue, joint.piece, joint.on_agent, "yes", joint.when, joint.key)


def _bad(file: str, key: str, what: str) -> BadData:
    name = file if file.endswith(".toml") else f"family {file}"
    return BadData(f"{name}: {what}", todo="Mend the file; the rest works on.", file=name, key=key, line=0)


def _references(family: Family, catalogue: Catalogue) -> Iterator[tuple[str, str, Iterable[str]]]:
    """Every name that an entry of the family uses, with where it must exist."""
    steps, parts = {s.key for s in family.step}, {p.key for p in family.part}
    places = {p.key for p in catalogue.house.place}
    topics = {t.key for t in catalogue.topics_for(family)}
    moves = {name(j.key) for j in family.joint for name in (off_name, on_name)}
    for part in family.part:
        yield from (("material", m, catalogue.materials) for m in (*part.materials, *part.finishes))
    for item in family.item:
        if item.stock:
            yield "supply", item.stock, catalogue.supplies
    joints = {j.key for j in family.joint}
    for check in family.check:
        if check.part:
            yield "part", check.part, parts
        if check.against:
            yield "check", check.against, {c.key for c in family.check}
        yield from (("joint", joint, joints) for joint in check.joints)
    for joint in family.joint:
        yield "part", joint.piece, parts
        if joint.arrives_with:
            yield "joint", joint.arrives_with, joints
        if joint.on_agent:
            yield "agent", joint.on_agent, catalogue.agents
        if joint.on_supply:
            yield "supply", joint.on_supply, catalogue.supplies
        if joint.policy:
            yield "topic", joint.policy, topics
    for rule in family.order:
        yield "step or move", rule.first, steps | moves
        yield "step or move", rule.then, steps | moves
    for step in family.step:
        if step.every_of:
            yield "step", step.every_of, steps
        yield from (("step", other, steps) for other in step.after + ((step.ends,) if step.ends else ()))
        yield from (("part", part, parts) for part in step.touches)
        yield from (("agent", agent, catalogue.agents) for agent in step.agents)
        yield from (("supply", use.item, catalogue.supplies) for use in step.supplies)
        if step.policy:
            yield "topic", step.policy, topics
        if step.wait:
            yield "place", step.wait.place, places
        if step.place:
            yield "place", step.place, places
    for wear in family.wear:
        yield "part", wear.key.partition("__")[0], parts
    facts = _fact_names(family, catalogue)
    for condition in family.conditions:
        yield "fact", condition.fact, facts
        kind, _, name = condition.fact.partition(".")
        if kind == "policy" and name in topics:
            choices = {c.key for c in catalogue.topics[name].choice}
            yield from (("choice", word, choices) for word in condition.words)
        if condition.fact == "arrived.joints":
            yield from (("joint", word, joints | {UNSAID}) for word in condition.words)


def _fact_names(family: Family, catalogue: Catalogue) -> set[str]:
    names = {f"contents.{key}" for key in (*(i.key for i in family.item), *family.omitted)} | {
        "renter",
        "case.came",
        "arrived.joints",
    }
    names |= {f"finding.{c.key}" for c in family.check} | {f"finding.{c.key}_bad" for c in family.check}
    names |= {f"material.{p.key}" for p in family.part} | {f"finish.{p.key}" for p in family.part}
    names |= {f"policy.{t.key}" for t in catalogue.topics_for(family)}
    names |= {f"due.{s.key}" for s in family.step if s.every_days or s.every_by} | set(FACTS)
    return names | {f"mix.{r.product.removesuffix('_ml')}" for r in catalogue.house.recipe}


def _check_path(family: Family, step: Step) -> None:
    """A cloth goes in at the wide end, where the ends differ."""
    part = family.find_part(step.part or "")
    assert step.path is not None
    if part is None or {step.path.enters, step.path.leaves} - set(part.ends):
        raise _bad(
            family.key, step.key, f"{step.key} goes from {step.path.enters} to {step.path.leaves}: no such ends."
        )
    bore = part.bore
    if bore is not None and bore.wide_mm > bore.narrow_mm and step.path.enters != part.ends[0]:
        raise _bad(family.key, step.key, f"{step.key} enters at the narrow end.")


def _check_rinses(family: Family, catalogue: Catalogue) -> None:
    """Where two agents of a family must never meet and come to one part, each is rinsed off."""
    rinsing = [s for s in family.step if rinses_off(catalogue.agents, frozenset(s.agents))]
    rinsed = {before for s in rinsing for before in s.after}
    rinsed |= {s.key for s in family.step if s.rinses}
    for one, two in combinations([s for s in family.step if s.agents], 2):
        if not set(one.touches) & set(two.touches):
            continue
        pairs = ((a, b) for a in one.agents for b in two.agents)
        found = (c for p in pairs for c in never_together(catalogue.agents, catalogue.never.values(), p))
        clashes = [c for c in found if c.kind != "useless"]
        for step in (one, two):
            if clashes and step.key not in rinsed:
                raise _bad(
                    family.key, step.key,
                    f"{step.key} is not rinsed off, and {clashes[0].first} with {clashes[0].second} makes "
                    f"{clashes[0].forms}.",
                )  # fmt: skip


_SOUND: set[str] = set()
"""Order rules that were found without contradiction: an own value seldom changes them, and looking takes long."""
MOST_SOUND = 200


def _check_orders(family: Family, catalogue: Catalogue) -> None:
    """Check that the order has no contradiction under any policy that it depends on."""
    asked = {c.fact.partition(".")[2] for o in family.order for c in o.when if c.fact.startswith("policy.")}
    topics = [t for t in catalogue.topics_for(family) if t.key in asked]
    drawn = repr((
        family.order, family.joint, [(s.key, s.kind, s.after) for s in family.step],
        [(t.key, [c.key for c in t.choice]) for t in topics],
    ))  # fmt: skip
    if drawn in _SOUND:
        return
    plain = facts_of(family, Situation(family.key, family.sizes[0]), {})
    whole = _with_every_joint(family)
    seen: set[tuple[bool, ...]] = set()
    for picked in product(*([c.key for c in t.choice] for t in topics)):
        facts = plain | {f"policy.{t.key}": frozenset({c}) for t, c in zip(topics, picked, strict=True)}
        holding = tuple(all(c.holds(facts) for c in o.when) for o in family.order)
        if holding in seen:  # an order depends on nothing else
            continue
        seen.add(holding)
        try:
            topological_order(step_order(family, facts))
            move_orders(whole, facts)
        except ValueError as error:
            raise _bad(family.key, "order", str(error)) from error
    if len(_SOUND) >= MOST_SOUND:
        _SOUND.clear()
    _SOUND.add(drawn)


def _with_every_joint(family: Family) -> Family:
    joints = tuple(j.model_copy(update={"when": (), "when_on": (), "when_off": ()}) for j in family.joint)
    return family.model_copy(update={"joint": joints})


def _guard(
    family: Family,
    catalogue: Catalogue,
    key: str,
    agent: str,
    exposure: str,
    when: Iterable[Condition],
    name: str,
) -> None:
    """Check that no step or move brings an agent to a material or finish of a part that does not bear it."""
    part = family.find_part(key)
    assert part is not None
    for material, finish in surfaces(part):
        facts = {f"material.{key}": frozenset({material}), f"finish.{key}": frozenset({finish} if finish else ())}
        if not all(c.holds(facts) for c in when if c.fact in facts):
            continue
        above = catalogue.materials[finish] if finish else None
        answer = may_touch_part(catalogue.materials[material], above, agent, exposure, part.bears_not)
        if not answer.allowed:
            what = (above or catalogue.materials[material]).name
            raise _bad(family.key, name, f"{name} brings {agent} to {what} ({part.name}): {answer.why}")
