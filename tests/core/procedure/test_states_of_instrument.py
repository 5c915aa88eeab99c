"""Every job follows the state of the instrument: whole jobs, walked by a judge that shares no code with the builder.

``JOBS=100000 python -m pytest tests/core/procedure/test_states_of_instrument.py`` walks as many; here it is a share.
"""

from __future__ import annotations

import itertools
import os
import random
from collections.abc import Iterator, Sequence
from dataclasses import replace

import pytest

from creekbed.core.catalogue.load import shipped
from creekbed.core.catalogue.models.family import Family
from creekbed.core.inspection.verdicts import Result
from creekbed.core.procedure.build import build
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.procedure.imagine import imagine
from creekbed.core.procedure.situation import Situation, asked_joints
from tests.worlds.hands_and_joints import strained, wrong_moves

CATALOGUE = shipped()
FAMILIES = sorted(CATALOGUE.families)
JOBS = int(os.environ.get("JOBS", "2400"))
RENTERS = ("", "same", "beginner", "young_child", "new_stock")


def any_order(steps: Sequence[BuiltStep], chance: random.Random) -> list[BuiltStep]:
    """The steps in one of the orders that they allow."""
    left, done, found = list(steps), set(), []
    while left:
        ready = [s for s in left if set(s.after) <= done]
        step = chance.choice(ready)
        left.remove(step)
        done.add(step.key)
        found.append(step)
    return found


def judged(family: Family, s: Situation, chance: random.Random) -> list[str]:
    """What is wrong with a job, in its own order and in another."""
    steps = build(CATALOGUE, s)
    joints = s.arrived if s.arrived is not None else {j.key for j in asked_joints(family)}
    told = wrong_moves(family.group, family.key, s, joints, steps)
    told += wrong_moves(family.group, family.key, s, joints, any_order(steps, chance))
    return told + strained(family.group, s, steps, "send_out")


def arrivals(family: Family) -> list[frozenset[str] | None]:
    """In one piece, in pieces, unsaid, and one joint or all but one together."""
    every = [j.key for j in asked_joints(family)]
    partly = [frozenset({j}) for j in every] + [frozenset(every) - {j} for j in every]
    possible = [p for p in partly if family.group not in ("saxophone", "bassoon", "trombone")]
    return list(dict.fromkeys([None, frozenset(), frozenset(every), *possible]))


def finding(family: Family, chance: random.Random) -> dict[str, object]:
    check = chance.choice(family.check)
    if check.kind == "measure":
        band = chance.choice(("green", "amber", "act"))
        return {"findings": {check.key: Result(band, "specialist", "", "", frozenset({band}))}}  # type: ignore[arg-type]
    option = chance.choice(check.options)
    result = Result(option.band, option.verdict, "", "", frozenset({option.key}))
    if check.kind == "choice":
        return {"findings": {check.key: result}}
    return {"findings": {check.key: result}, "places": {check.key: {chance.choice(check.places): option.key}}}


def drawn(family: Family, chance: random.Random) -> Situation:
    """Three things that are not as usual, and how it came in."""
    plain = imagine(CATALOGUE, family)
    policies, findings, places, contents = dict(plain.policies), {}, {}, {}
    renter = ""
    for _ in range(3):
        kind = chance.choice(("policy", "policy", "finding", "renter", "contents"))
        if kind == "policy":
            topic = chance.choice(list(CATALOGUE.topics_for(family)))
            policies[topic.key] = chance.choice(topic.choice).key
        elif kind == "finding":
            told = finding(family, chance)
            findings |= told["findings"]  # type: ignore[arg-type]
            places |= told.get("places", {})  # type: ignore[arg-type]
        elif kind == "renter":
            renter = chance.choice(RENTERS)
        elif family.item:
            contents[chance.choice(family.item).key] = chance.choice(("missing", "worn", "replaced", "waived"))
    return replace(
        plain, policies=policies, findings=findings, places=places, contents=contents, renter=renter,
        arrived=chance.choice(arrivals(family)), cloths_dry=chance.choice((None, frozenset())),
    )  # type: ignore[arg-type]  # fmt: skip


@pytest.mark.parametrize("key", FAMILIES)
def test_triples_of_rules_findings_renters_and_arrivals(key: str) -> None:
    family, chance = CATALOGUE.families[key], random.Random(f"states {key}")
    for _ in range(max(JOBS // len(FAMILIES), 1)):
        s = drawn(family, chance)
        assert judged(family, s, chance) == [], s


def moving_topics(family: Family) -> list[str]:
    """Topics that change which moves are made, or their order."""
    asked = {c.fact for o in family.order for c in o.when} | {
        c.fact for j in family.joint for c in (*j.when, *j.when_on, *j.when_off)
    }
    asked |= {c.fact for s in family.step if s.makes for c in s.when}
    return [t.key for t in CATALOGUE.topics_for(family) if f"policy.{t.key}" in asked]


def combinations(family: Family) -> Iterator[tuple[dict[str, str], frozenset[str] | None]]:
    topics = moving_topics(family)
    choices = [[c.key for c in CATALOGUE.topics[t].choice] for t in topics]
    for picked in itertools.product(*choices):
        for arrived in arrivals(family):
            yield dict(zip(topics, picked, strict=True)), arrived


@pytest.mark.parametrize("key", ["alto_saxophone", "clarinet"])
def test_every_combination_of_rules_that_touch_moves(key: str) -> None:
    """All of them, however it came in: nothing is turned while it holds something loose, or moved in its case."""
    family = CATALOGUE.families[key]
    plain = imagine(CATALOGUE, family)
    chance = random.Random(3)
    every = list(combinations(family))
    part = every if JOBS > 10000 else chance.sample(every, 500)
    bad = {}
    for policies, arrived in part:
        s = replace(plain, policies={**plain.policies, **policies}, arrived=arrived)
        if told := judged(family, s, chance):
            bad[str(policies), str(arrived)] = told[:2]
    assert not bad and len(every) >= 384


# --- what goes wrong when one rule is taken away --------------------------------------------------------------------


def without_orders(key: str, *pairs: tuple[str, str]) -> Family:
    """The family without these order rules."""
    family = CATALOGUE.families[key]
    kept = tuple(o for o in family.order if (o.first, o.then) not in pairs)
    assert len(kept) < len(family.order)
    return family.model_copy(update={"order": kept})


def with_check(key: str, check: str, **change: object) -> Family:
    family = CATALOGUE.families[key]
    return family.model_copy(
        update={"check": tuple(c.model_copy(update=change) if c.key == check else c for c in family.check)}
    )


def with_step(key: str, step: str, **change: object) -> Family:
    family = CATALOGUE.families[key]
    return family.model_copy(
        update={"step": tuple(s.model_copy(update=change) if s.key == step else s for s in family.step)}
    )


def forbids_nothing(key: str, check: str) -> Family:
    family = CATALOGUE.families[key]
    found = family.find_check(check)
    options = tuple(o.model_copy(update={"forbids": ()}) for o in found.options)
    return with_check(key, check, options=options, forbids=())


WHOLE = {"sax_whole": "whole", "reed_off": "capped"}
OFF = {"reed_off": "mouthpiece_off"}
MUTATIONS: dict[str, tuple[Family, dict[str, object], str]] = {
    "neck before the body is out of its case": (
        without_orders(
            "alto_saxophone", ("body_off", "neck_off"), ("body_off", "mouthpiece_off"), ("body_off", "cap_off")
        ),
        {"policies": {"reed_off": "capped"}}, "in the case",
    ),
    "ligature loosened before the mouthpiece is off": (
        without_orders("clarinet", ("mouthpiece_off", "screws_off"), ("own_mouthpiece_off", "own_screws_off")),
        {"policies": OFF}, "is loose",
    ),
    "an empty ligature that is not snugged": (
        without_orders("alto_saxophone", ("snug_off", "mouthpiece_off"), ("reed_off", "snug_off")),
        {"policies": {"ligature_off": "stays"}}, "is loose",
    ),
    "joined checks asked apart": (
        with_check("clarinet", "bridge", state="apart"), {"arrived": frozenset()}, "bridge is asked",
    ),
    "whole swab before the look": (
        without_orders("alto_saxophone", ("look_joined", "whole_swab")),
        {"policies": WHOLE, "arrived": frozenset({"neck", "mouthpiece"})}, "neck_cork is asked",
    ),
    "lean read slack": (with_check("violin", "bridge_lean", state="apart"), {}, "before it is at pitch"),
    "rosin wiped before the bench's bow plays": (
        with_step("violin", "after_rosin", after=("after_bow",)), {"contents": {"bow": "missing"}}, "rosin",
    ),
    "the slide tried with its bell on": (
        without_orders("trombone", ("lift_proof", "together")), {}, "with bell or mouthpiece on",
    ),
    "a fallen post forbids nothing": (
        forbids_nothing("violin", "sound_post"), {"finding": ("sound_post", "fallen")}, "may be done",
    ),
    "a dented slide forbids nothing": (
        forbids_nothing("trombone", "slide_dents"), {"finding": ("slide_dents", "any")}, "may be done",
    ),
    "a cracked bow forbids nothing": (forbids_nothing("bow", "cracks"), {"finding": ("cracks", "tip")}, "may be done"),
}  # fmt: skip


@pytest.mark.parametrize("name", list(MUTATIONS))
def test_each_rule_is_needed(name: str) -> None:
    family, given, words = MUTATIONS[name]
    catalogue = replace(CATALOGUE, families={**CATALOGUE.families, family.key: family})
    s = imagine(catalogue, family)
    findings = {}
    if "finding" in given:
        check, answer = given["finding"]  # type: ignore[misc]
        option = next(o for o in family.find_check(check).options if o.key == answer)
        findings = {check: Result(option.band, option.verdict, "", "", frozenset({answer}))}
    policies = {**s.policies, **given.get("policies", {})}  # type: ignore[dict-item]
    s = replace(
        s, policies=policies, findings=findings, contents=given.get("contents", {}), arrived=given.get("arrived"),
    )  # type: ignore[arg-type]  # fmt: skip
    joints = s.arrived if s.arrived is not None else {j.key for j in asked_joints(family)}
    told: list[str] = []
    for n in range(12):
        steps = build(catalogue, s)
        told += wrong_moves(family.group, family.key, s, joints, any_order(steps, random.Random(n)))
        told += strained(family.group, s, steps, "send_out")
    assert any(words in line for line in told), told


# --- single facts ---------------------------------------------------------------------------------------------------


def keys(family: str, **given: object) -> list[str]:
    return [s.key for s in build(CATALOGUE, imagine(CATALOGUE, CATALOGUE.families[family], **given))]  # type: ignore[arg-type]


def test_cracks_are_looked_for_before_the_hair_is_tightened() -> None:
    for key in ("violin", "cello", "double_bass", "bow"):
        steps = build(CATALOGUE, imagine(CATALOGUE, CATALOGUE.families[key]))
        look = next(s for s in steps if s.key == "look")
        order = [c for c in look.checks if c in ("cracks", "hair", "bow_camber", "bow_speaks", "bow_relaxes")]
        assert order == ["cracks", "hair", "bow_camber", "bow_speaks", "bow_relaxes"]
        cracked = build(CATALOGUE, imagine(CATALOGUE, CATALOGUE.families[key], findings={"cracks": "tip"}))
        asked = {c for s in cracked for c in s.checks}
        assert "cracks" in asked and not asked & {"hair", "bow_camber", "bow_speaks", "bow_relaxes"}


def test_sending_out_comes_after_all_that_can_be_done_and_before_what_cannot() -> None:
    steps = build(CATALOGUE, imagine(CATALOGUE, CATALOGUE.families["violin"], findings={"sound_post": "fallen"}))
    at = [s.key for s in steps].index("send_out")
    assert {s.key for s in steps if s.held} == {"tune", "play"} and not any(s.held for s in steps[:at])
    assert "luthier" in steps[at].what and "Ease all strings" in steps[at].how
    assert "send_out" not in keys("violin")


def test_a_closed_finding_forbids_nothing() -> None:
    s = imagine(CATALOGUE, CATALOGUE.families["violin"], findings={"sound_post": "fallen"})
    assert not any(x.held for x in build(CATALOGUE, replace(s, closed=frozenset({"sound_post"}))))


def test_every_specialist_finding_says_what_it_forbids_or_is_known_to_forbid_nothing() -> None:
    """Each answer that sends it out either forbids something, or stands here as one that does not."""
    harmless = {
        "pads", "neck_swing", "bridge", "reed", "mouthpiece", "compression", "valve_return", "red_rot", "linkage",
        "electronics", "fret_ends", "smell", "blow", "dents", "friction", "hair", "string_height", "nut_height", "leak",
        "leak_upper", "leak_lower", "leak_wing", "leak_boot", "leak_long", "action", "relief", "neck_cork", "lift",
    }  # fmt: skip
    for family in CATALOGUE.families.values():
        for check in family.check:
            for option in check.options:
                if option.verdict in ("specialist", "retire"):
                    assert option.forbids or check.key in harmless, (family.key, check.key, option.key)
            if check.kind == "measure" and check.verdict in ("specialist", "retire"):
                assert check.forbids or check.key in harmless, (family.key, check.key)


def test_new_stock_is_not_returned() -> None:
    for key in ("alto_saxophone", "clarinet", "oboe", "bassoon"):
        new = keys(key, renter="new_stock")
        assert "commission" in new and not {"reed_out", "patch_off"} & set(new)


def test_a_double_bass_has_machine_heads() -> None:
    family = CATALOGUE.families["double_bass"]
    assert family.find_check("pegs").name == "Machine heads"
    assert not {c.key for c in family.check} & {"fine_tuner", "tuner_ends"}


def test_tuning_comes_before_what_is_read_at_pitch_and_played() -> None:
    for key in ("violin", "viola", "cello", "double_bass", "acoustic_guitar", "bass_guitar"):
        order = keys(key)
        assert order.index("look") < order.index("tune") < order.index("look_tuned") < order.index("play")
    again = keys("violin", findings={"fine_tuner": "1 mm"})
    assert again.index("tuner_back") < again.index("bridge_again") < again.index("play")


def test_a_dented_slide_is_not_drawn() -> None:
    steps = build(CATALOGUE, imagine(CATALOGUE, CATALOGUE.families["trombone"], findings={"slide_dents": "any"}))
    asked = {c for s in steps for c in s.checks}
    assert not asked & {"lift", "friction"} and next(s for s in steps if s.key == "slide_apart").held
