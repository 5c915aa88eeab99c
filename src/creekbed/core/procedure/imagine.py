"""A job that nobody has booked in: a situation from words, and its steps as plain values."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.models.base import MARK_WORDS
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.parts import Check
from creekbed.core.catalogue.surfaces import UNKNOWN, known_as
from creekbed.core.errors import BadInput
from creekbed.core.inspection.verdicts import Result, judge_choice, judge_places, judge_reading
from creekbed.core.measure import Reading
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.procedure.situation import Situation, asked_joints
from creekbed.core.units import parse_quantity


def find_family(catalogue: Catalogue, words: str) -> Family:
    """The family that is meant by its key or name, whatever the case of its letters.

    Raises:
        BadInput: none, with those that come near.
    """
    wanted = " ".join(words.replace("_", " ").lower().split())
    for family in catalogue.families.values():
        if wanted in (family.key.replace("_", " "), family.name.lower()):
            return family
    near = [f.name for f in catalogue.families.values() if wanted and wanted in f.name.lower()]
    raise BadInput(
        f"“{words.strip()[:40]}” is no family here.",
        todo=f"Perhaps: {', '.join(near)}." if near else "The command “families” lists them.",
    )


def imagine(
    catalogue: Catalogue,
    family: Family,
    *,
    size: str = "",
    policies: Mapping[str, str] | None = None,
    findings: Mapping[str, str] | None = None,
    materials: Mapping[str, str] | None = None,
    finishes: Mapping[str, str] | None = None,
    missing: Iterable[str] = (),
    renter: str = "",
    lately: Mapping[str, float] | None = None,
    dry_cloth: bool = True,
    came: str = "",
    arrived: str = "",
) -> Situation:
    """A situation from words.

    Args:
        size: one of the family's; the first if not given. policies: topic → choice.
        findings: check → what was found: a length with its unit ("3.4 mm"), an answer ("lime"), or places with
            answers ("G sharp: sticks, palm D: wet"). materials, finishes: part → what it is made of, what lies on it.
        missing: items of the case. renter: as in :class:`Situation`. lately: step → days since it was last done.
        came: "hot" or "cold" from the journey. arrived: "joined", "pieces", or the joints that were together, with
            commas; not given: nobody has said. dry_cloth: whether washed, dry cloths of the shop lie on the shelf.

    Raises:
        BadInput: something that the catalogue does not know.
    """
    if size and size not in family.sizes:
        raise BadInput(f"A {family.name} does not come in size {size}.", todo=f"Sizes: {', '.join(family.sizes)}.")
    topics = {t.key: {c.key for c in t.choice} for t in catalogue.topics_for(family)}
    for topic, choice in (policies or {}).items():
        _known("house rule", topic, topics)
        _known(f"choice of {topic}", choice, topics[topic])
    for what, given in (("materials", materials), ("finishes", finishes)):
        for part, value in (given or {}).items():
            found = family.find_part(part)
            _known("part", part, {p.key for p in family.part})
            also = (UNKNOWN,) if what == "materials" else ()
            _known(f"{what} of {part}", known_as(value), (*getattr(found, what), *also))
    for item in missing:
        _known("piece of the case", item, {i.key for i in family.item})
    results: dict[str, Result] = {}
    places: dict[str, Mapping[str, str]] = {}
    for key, words in (findings or {}).items():
        _known("check", key, {c.key for c in family.check})
        check = family.find_check(key)
        results[key], where = _result(check, words, size or family.sizes[0])
        if where:
            places[key] = where
    return Situation(
        family.key, size or family.sizes[0], materials=dict(materials or {}), finishes=dict(finishes or {}),
        contents=dict.fromkeys(missing, "missing"), findings=results, places=places,
        policies={topic: choice.key for topic, choice in catalogue.picked(family, policies or {}).items()},
        stock_pct={r.stock: 2 * r.target_pct for r in catalogue.house.recipe}, renter=renter, lately=dict(lately or {}),
        came=came, cloths_dry=None if dry_cloth else frozenset(), arrived=_joints(family, arrived),
    )  # fmt: skip


def _joints(family: Family, words: str) -> frozenset[str] | None:
    """The joints that were together when it came in, from words; ``None``: nobody has said."""
    asked = [j.key for j in asked_joints(family)]
    if words in ("", "joined", "pieces"):
        return None if not words else frozenset(asked if words == "joined" else ())
    given = [w.strip() for w in words.split(",")]
    for joint in given:
        _known("joint", joint, asked)
    return frozenset(given)


def _known(kind: str, key: str, names: Iterable[str]) -> None:
    known = sorted(names)
    if key not in known:
        raise BadInput(f"There is no {kind} “{key[:40]}”.", todo=f"There are: {', '.join(known)}.")


def _result(check: Check, words: str, size: str) -> tuple[Result, dict[str, str]]:
    if check.kind == "measure":
        value = parse_quantity(words, check.unit, what=check.name, minimum=check.range[0], maximum=check.range[1])
        return judge_reading(check, Reading(value, check.u, check.unit, "typed"), size), {}
    answers = {o.key for o in check.options}
    if check.kind == "choice":
        _known(f"answer of {check.key}", words.strip(), answers)
        return judge_choice(check, words.strip()), {}
    found: dict[str, str] = {}
    for pair in _pairs(words):
        place, _, answer = (p.strip() for p in pair.rpartition(":"))
        _known(f"place of {check.key}", place, check.places)
        _known(f"answer of {check.key}", answer, answers)
        found[place] = answer
    return judge_places(check, found), found


def _pairs(words: str) -> list[str]:
    """Split at the commas that end a pair; the names of places may hold commas themselves."""
    pairs, here = [], ""
    for piece in words.split(","):
        here = f"{here},{piece}" if here else piece
        if ":" in here:
            pairs.append(here.strip())
            here = ""
    return pairs + ([here.strip()] if here.strip() else [])


def step_table(step: BuiltStep) -> dict[str, Any]:
    """A built step as plain values, units in the keys."""
    wait = step.wait
    return {
        "key": step.key, "stage": step.stage, "kind": step.kind, "what": step.what, "amount": step.amount,
        "how": step.how, "caution": step.caution, "reason": step.reason, "part": step.part,
        "agents": list(step.agents), "from_end": step.path.enters if step.path else None,
        "to_end": step.path.leaves if step.path else None, "place": step.place, "skill": step.skill,
        "hands_min": step.hands_min,
        "wait": None if wait is None else {
            "name": wait.name, "place": wait.place, "min_min": wait.min_minutes, "max_min": wait.max_minutes,
            "wet": wait.wet, "at_end": wait.at_end,
        },
        "ends": step.ends, "after": list(step.after), "tools": list(step.tools),
        "supplies": [{"item": item, "amount": amount} for item, amount in step.supplies],
        "moves": [
            {"key": m.key, "part": m.part, "what": m.what, "how": m.how, "never": m.caution, "reason": m.reason,
             "mark": m.mark, "source": m.source}
            for m in step.moves
        ],
        "checks": list(step.checks), "held_by": list(step.held),
        "policy": step.policy, "mark": step.mark, "mark_words": MARK_WORDS[step.mark], "source": step.source,
    }  # fmt: skip


def family_table(catalogue: Catalogue, family: Family) -> dict[str, Any]:
    """What a family is, in short, as plain values."""
    return {
        "key": family.key, "name": family.name, "group": family.group, "sizes": list(family.sizes),
        "parts": [
            {"key": p.key, "name": p.name, "materials": list(p.materials), "finishes": list(p.finishes)}
            for p in family.part
        ],
        "case": [i.key for i in family.item], "checks": [c.key for c in family.check],
        "steps": len(family.step), "joints": len(family.joint), "orders": len(family.order),
        "policies": [t.key for t in catalogue.topics_for(family)],
        "sounds_semitones": family.sounds,
        "strings": [s.pitch for s in family.stringed.strings] if family.stringed else [],
        "string_length_mm": dict(family.stringed.length_mm) if family.stringed else {},
    }  # fmt: skip
