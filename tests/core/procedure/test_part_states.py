"""Clean stays clean: whatever is found, decided or ruled, in whatever order the steps may be done.

The rules are checked on built jobs by :mod:`creekbed.core.procedure.states`, which reads only what a step does to its
parts; the orders are drawn here from what each step comes after, by one or two pairs of hands.
"""

from __future__ import annotations

import os
import random
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from creekbed.core.catalogue.load import shipped
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.parts import Check
from creekbed.core.inspection.verdicts import Result
from creekbed.core.planning.dispatch import dispatch_plan
from creekbed.core.planning.model import Operation, PlanJob, PlanPerson, Problem
from creekbed.core.planning.plan_checker import violations
from creekbed.core.procedure import clean
from creekbed.core.procedure.build import build
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.procedure.imagine import imagine
from creekbed.core.procedure.situation import Situation
from creekbed.core.procedure.states import Doing, Standing, as_it_came, broken, standing

CATALOGUE = shipped()
FAMILIES = sorted(CATALOGUE.families)
ALIKE = {"soprano_saxophone", "tenor_saxophone", "viola"}
"""Families whose steps are those of another, with other amounts."""


def situation(family: Family, **given: object) -> Situation:
    return replace(imagine(CATALOGUE, family), **given)  # type: ignore[arg-type]


def with_policy(family: Family, topic: str, choice: str) -> Situation:
    plain = imagine(CATALOGUE, family)
    return replace(plain, policies={**plain.policies, topic: choice})


def found(check: Check, answer: str) -> dict[str, object]:
    """The check with this answer, at every place where it has places."""
    if check.kind == "measure":
        facts: dict[str, object] = {"findings": {check.key: Result(answer, "bench", "", "", frozenset({answer}))}}  # type: ignore[arg-type]
        return facts
    option = next(o for o in check.options if o.key == answer)
    result = Result(option.band, option.verdict, "", "", frozenset({answer}))
    places = {check.key: dict.fromkeys(check.places, answer)} if check.kind == "places" else {}
    return {"findings": {check.key: result}, "places": places}


def answers(check: Check) -> list[str]:
    return ["green", "amber", "act"] if check.kind == "measure" else [o.key for o in check.options]


def singles(family: Family) -> Iterator[tuple[str, Situation]]:
    """Each single policy, finding, renter, "done lately", material and finish, one at a time."""
    yield "plain", situation(family)
    for topic in CATALOGUE.topics_for(family):
        for choice in topic.choice:
            yield f"{topic.key}={choice.key}", with_policy(family, topic.key, choice.key)
            if family.find_part("reed") is not None:
                same = with_policy(family, topic.key, choice.key)
                yield f"{topic.key}={choice.key}, same renter", replace(same, renter="same")
    for check in family.check:
        for answer in answers(check):
            yield f"{check.key}: {answer}", situation(family, **found(check, answer))
    for renter in ("young_child", "beginner", "same", "new_stock"):
        yield renter, situation(family, renter=renter)
    for step in family.step:
        if step.every_days or step.every_by:
            yield f"lately {step.key}", situation(family, lately={step.key: 1.0})
            policy = {t.key: c.key for t in CATALOGUE.topics_for(family) for c in t.choice if step.every_by in c.values}
            plain = situation(
                family, lately={s.every_of or s.key: 1.0 for s in family.step if s.every_days or s.every_by}
            )
            yield f"lately {step.key}, its calendar", replace(plain, policies={**plain.policies, **policy})
    for came in ("hot", "cold"):
        yield f"came {came}", situation(family, came=came)
    for days in (1.0, 20.0, 100.0):
        yield f"recorked {days:g} d", situation(family, lately={"recork": days, "cork_grease": days})
    yield "no dry cloth", situation(family, cloths_dry=frozenset())
    yield "a mix stands ready", situation(family, mixes_ready=frozenset({"peroxide_3_ml"}))
    for item in family.item:
        for state in ("missing", "worn", "replaced", "waived"):
            yield f"{item.key} {state}", situation(family, contents={item.key: state})


def schedule(steps: Sequence[BuiltStep], chance: random.Random, hands: int = 1) -> list[Doing]:
    """One way in which the steps may be done: any ready one next, by whoever is free; waits run out first.

    Only what a step comes after is kept, and that two hands do not work on one piece at once.
    """
    left = {s.key: s for s in steps}
    free = [0.0] * hands
    over: dict[str, float] = {}
    busy: list[tuple[float, float, frozenset[str]]] = []
    done: list[Doing] = []
    while left:
        ready = [s for s in left.values() if all(b in over for b in s.after) and (s.ends is None or s.ends in over)]
        assert ready, "nothing is ready"
        step = chance.choice(ready)
        who = chance.randrange(hands)
        at = max([free[who], *(over[b] for b in (*step.after, *((step.ends,) if step.ends else ())))])
        while later := [b for a, b, mine in busy if b > at and a < at + step.hands_min and mine & step.pieces]:
            at = max(later)
        end = at + step.hands_min
        done.append(Doing(step, at, end))
        busy.append((at, end, step.pieces))
        free[who] = end
        over[step.key] = end + (step.wait.min_minutes if step.wait else 0.0)
        del left[step.key]
    return done


def wrong(family: Family, s: Situation, chance: random.Random, ways: int = 2) -> list[str]:
    """What is broken in a few ways of doing the job, and what its headlines say that is not there."""
    steps = build(CATALOGUE, s)
    start = as_it_came(family, s.materials, s.contents)
    if told := said_of_others(family, steps):
        return told
    for n in range(ways):
        told = broken(family, schedule(steps, chance, 1 + n % 2), start)
        if told:
            return told
    return []


@pytest.mark.parametrize("key", [k for k in FAMILIES if k not in ALIKE])
def test_each_single_thing_keeps_clean_what_is_clean(key: str) -> None:
    """Every second finding, policy or missing piece by turns; all of them with ``EVERY_SINGLE=1``."""
    family = CATALOGUE.families[key]
    chance = random.Random(17)
    every = list(singles(family))
    tried = every if os.environ.get("EVERY_SINGLE") else every[FAMILIES.index(key) % 2 :: 2]
    bad = {name: told for name, s in tried if (told := wrong(family, s, chance))}
    assert not bad and len(tried) >= 10


def draw_situation(data: st.DataObject, family: Family) -> Situation:
    """Two things at once that are not as usual."""
    plain = imagine(CATALOGUE, family)
    policies, findings, places = dict(plain.policies), {}, {}
    contents: dict[str, str] = {}
    lately: dict[str, float] = {}
    renter = ""
    for _ in range(2):
        kind = data.draw(st.sampled_from(["policy", "finding", "renter", "lately", "contents"]))
        if kind == "policy":
            topic = data.draw(st.sampled_from(CATALOGUE.topics_for(family)))
            policies[topic.key] = data.draw(st.sampled_from(topic.choice)).key
        elif kind == "finding":
            check = data.draw(st.sampled_from(family.check))
            told: Mapping[str, Mapping[str, object]] = found(check, data.draw(st.sampled_from(answers(check))))  # type: ignore[assignment]
            findings |= told["findings"]
            places |= told.get("places", {})
        elif kind == "renter":
            renter = data.draw(st.sampled_from(["", "young_child", "beginner", "same"]))
        elif kind == "lately":
            key = data.draw(st.sampled_from([s.key for s in family.step] + ["recork"]))
            lately[key] = data.draw(st.sampled_from([0.5, 9.0, 45.0, 400.0]))
        elif family.item:
            item = data.draw(st.sampled_from(family.item))
            contents[item.key] = data.draw(st.sampled_from(["missing", "worn", "replaced", "waived"]))
    return replace(
        plain, policies=policies, findings=findings, places=places, renter=renter, lately=lately, contents=contents,
        cloths_dry=data.draw(st.sampled_from([None, frozenset()])),
    )  # type: ignore[arg-type]  # fmt: skip


@settings(max_examples=150, deadline=None)
@given(st.data())
def test_pairs_keep_it_too(data: st.DataObject) -> None:
    family = CATALOGUE.families[data.draw(st.sampled_from(FAMILIES))]
    s = draw_situation(data, family)
    assert wrong(family, s, random.Random(data.draw(st.integers(0, 10**6))), ways=6) == []


def as_job(steps: Sequence[BuiltStep], key: str = "A") -> PlanJob:
    """A built job as the planner sees it, skills left out."""
    keys = {s.key for s in steps}
    return PlanJob(key, tuple(
        Operation(
            s.key, s.hands_min, s.after, s.wait.min_minutes if s.wait else 0.0, s.wait.max_minutes if s.wait else None,
            s.wait.place if s.wait else None, s.ends if s.ends in keys else None, s.place, parts=s.pieces,
            deeds=s.deeds,
        ) for s in steps
    ))  # fmt: skip


PLACES = {p.key: p.capacity for p in CATALOGUE.house.place}
DAYS = tuple((d * 1440.0 + a, d * 1440.0 + b) for d in range(20) for a, b in ((0.0, 240.0), (270.0, 540.0)))


@pytest.mark.parametrize("key", FAMILIES)
def test_the_planners_own_plans_keep_it(key: str) -> None:
    """Two people, two jobs of the family side by side; each plan by the independent checker and by the states."""
    family = CATALOGUE.families[key]
    for n, (_, s) in enumerate(singles(family)):
        if n % 40:
            continue
        steps = build(CATALOGUE, s)
        people = tuple(PlanPerson(k, DAYS) for k in "XY")
        problem = Problem((as_job(steps, "A"), as_job(steps, "B")), PLACES, DAYS, people=people, spare=4.0)
        plan = dispatch_plan(problem)
        assert violations(problem, plan) == []
        assert all(f.finish is not None for f in plan.forecasts.values())
        by_key = {x.key: x for x in steps}
        start = as_it_came(family, s.materials, s.contents)
        for job in "AB":
            done = [Doing(by_key[p.operation], p.start, p.end) for p in plan.steps if p.job == job]
            assert broken(family, done, start) == []


# --- what goes wrong when one rule is taken away --------------------------------------------------------------------


def without(family: Family, **steps: dict[str, object] | None) -> Family:
    """The family with fields of single steps changed; ``None`` takes a step out."""
    made = []
    for step in family.step:
        if step.key not in steps:
            gone = {k for k, v in steps.items() if v is None}
            made.append(step.model_copy(update={"after": tuple(a for a in step.after if a not in gone)}))
        elif (change := steps[step.key]) is not None:
            made.append(step.model_copy(update=change))
    known = {s.key for s in made}
    order = tuple(
        o for o in family.order if not {o.first, o.then} & ({s.key for s in family.step} - known)
    )  # fmt: skip
    return family.model_copy(update={"step": tuple(made), "order": order})


def joint(family: Family, key: str, **change: object) -> Family:
    return family.model_copy(
        update={"joint": tuple(j.model_copy(update=change) if j.key == key else j for j in family.joint)}
    )


SAX, FLT, VLN, TPT, CLA = (CATALOGUE.families[k] for k in ("alto_saxophone", "flute", "violin", "trumpet", "clarinet"))
MUTATIONS: dict[str, tuple[Family, str]] = {
    "hands are not washed": (without(SAX, hands=None), "unwashed hands"),
    "no new reed comes": (without(SAX, reed_new=None, reed_out=None), "reed is packed"),
    "the cap is not washed": (without(SAX, cap_wash=None), "cap is packed as it came"),
    "the neck is swabbed with the used cloth": (without(SAX, after_neck={"fresh": False}), "used slim swab"),
    "the hired mouthpiece is not disinfected but blown": (
        without(SAX, play={"parts": ("neck", "mouthpiece")}), "packed, mouthed"
    ),
    "nothing airs after playing": (without(SAX, after_air=None), "packed wet"),
    "your own mouthpiece stays on": (joint(SAX, "own_mouthpiece", again=False, together="together"), ""),
    "the lip plate is not disinfected again": (without(FLT, after_lip=None, after_lip_rinse=None), "mouthed since"),
    "the lip plate is blown as it came": (
        without(FLT, lip_wash=None, lip_disinfect=None, lip_rinse=None), "is blown as it came"
    ),
    "the bow is cased tight": (without(VLN, after_bow={"tension": ""}), "bow is packed tight"),
    "the chin rest is not wiped": (without(VLN, skin_wipe=None, after_rosin={"parts": ()}), "chin_rest is packed"),
    "the slides go in wet": (without(TPT, bath_dry={"dries": False, "wait": None}, after_air=None), "packed wet"),
    "the swab of the clarinet is used twice": (without(CLA, after_joints={"fresh": False}), "used swab"),
}  # fmt: skip


@pytest.mark.parametrize("name", list(MUTATIONS))
def test_each_rule_is_needed(name: str) -> None:
    family, words = MUTATIONS[name]
    told = wrong_of(family)
    if words:
        assert any(words in line for line in told), told
    else:
        assert told == [] and not any(m.part == "own_mouthpiece" for m in moves_of(family, "again"))


def wrong_of(family: Family) -> list[str]:
    catalogue = replace(CATALOGUE, families={**CATALOGUE.families, family.key: family})
    s = imagine(catalogue, family)
    steps = build(catalogue, s)
    found_: list[str] = []
    for n in range(4):
        found_ += broken(family, schedule(steps, random.Random(n), 1 + n % 2), as_it_came(family, s.materials))
    return found_


def moves_of(family: Family, kind: str) -> list[Any]:
    catalogue = replace(CATALOGUE, families={**CATALOGUE.families, family.key: family})
    return [m for s in build(catalogue, imagine(catalogue, family)) if s.kind == kind for m in s.moves]


def test_without_the_rule_of_reach_a_contact_time_is_broken(monkeypatch: pytest.MonkeyPatch) -> None:
    """With the order of what lies somewhere taken away, some way of doing the job reaches into the tub or the rack."""
    monkeypatch.setattr(clean, "_reach", lambda *given: iter(()))
    assert any("lies there" in line for line in wrong_of(SAX) + wrong_of(TPT) + wrong_of(CLA))


def test_without_the_rule_of_wash_a_used_cloth_follows_it(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(clean, "_rules", lambda *given: iter(()))
    assert any("is touched by" in line for line in wrong_of(SAX) + wrong_of(TPT) + wrong_of(CLA))


# --- states at a moment ---------------------------------------------------------------------------------------------


def by_list(family: Family, **given: object) -> tuple[list[Doing], Standing]:
    """The job done one step after the other, each as soon as it may be."""
    s = situation(family, **given)
    at, done = 0.0, []
    over: dict[str, float] = {}
    for step in build(CATALOGUE, s):
        at = max([at, *(over[b] for b in step.after)])
        done.append(Doing(step, at, at + step.hands_min))
        at += step.hands_min
        over[step.key] = at + (step.wait.min_minutes if step.wait else 0.0)
    return done, as_it_came(family, s.materials, s.contents)


def at_end_of(done: list[Doing], key: str) -> float:
    return next(d.end for d in done if d.step.key == key)


def test_a_mouthpiece_told_from_moment_to_moment() -> None:
    done, start = by_list(SAX)

    def words(at: float) -> str:
        return standing(SAX, done, at, start).parts["mouthpiece"].words

    assert start.parts["mouthpiece"].words == "as it came, dry"
    assert words(at_end_of(done, "mouth_wash")) == "washed, wet"
    assert words(at_end_of(done, "disinfect") + 5.0) == "washed, wet, in the tub"
    assert words(at_end_of(done, "rinse") + 5.0) == "disinfected, wet, on the rack"
    assert words(at_end_of(done, "rinse") + 31.0) == "disinfected, dry"
    assert words(1e9) == "disinfected, dry"


def test_a_body_is_wet_until_it_has_aired() -> None:
    done, start = by_list(SAX)
    end = at_end_of(done, "after_air")
    wait = next(d.step.wait for d in done if d.step.key == "after_air")
    assert wait is not None and wait.min_minutes >= 15.0
    played = standing(SAX, done, at_end_of(done, "play"), start)
    assert played.parts["body"].wet and played.parts["body"].mouthed
    assert standing(SAX, done, end + wait.min_minutes - 1.0, start).parts["body"].wet
    dry = standing(SAX, done, end + wait.min_minutes, start).parts["body"]
    assert not dry.wet and not dry.mouthed and dry.level == "wiped"


def test_hands_and_joints_are_told_too() -> None:
    done, start = by_list(CLA)
    before = standing(CLA, done, at_end_of(done, "outside"), start)
    after = standing(CLA, done, at_end_of(done, "hands"), start)
    assert (before.hands, after.hands) == ("dirty", "clean")
    assert "middle" in standing(CLA, done, at_end_of(done, "play"), start).joined
    assert standing(CLA, done, 1e9, start).joined <= {"spacer", "ligature", "screws", "cap", "mouthpiece_slot"}


# --- words ----------------------------------------------------------------------------------------------------------

CLOTHS = ("swab", "silk", "rag", "feather", "cotton bud", "brush rod", "snake", "strip", "paper")
OF_OTHERS = {"first_steps", "play_bench_bow", "case_mend", "send_out", "grip_ease"}
"""What a card is about, and what belongs to the bench, is not the step's own."""
KEPT = {"case", "bag", "reed_case"}
"""What a headline may name as the place into which something goes."""


def said_of_others(family: Family, steps: Sequence[BuiltStep]) -> list[str]:
    """Headlines that name a cloth or a part which their step does not have."""
    names = {p.key: p.name.lower() for p in family.part}
    told_wrong = []
    for step in (s for s in steps if s.key not in OF_OTHERS):
        said = f"{step.what} {step.amount}".lower()
        have = " ".join((step.cloth, *step.tools, *(i for i, _ in step.supplies))).lower().replace("_", " ")
        for cloth in CLOTHS:
            if re.search(rf"\b{cloth}s?\b", said) and cloth.split()[-1] not in have:
                told_wrong.append(f"{step.key} says {cloth}, has {have}")
        if step.kind in ("contents", "look"):
            continue
        mine = {*step.touches, *(m.part for m in step.moves)} | family.carried(step.pieces)
        told = " ".join(names[k] for k in mine)
        for part, name in names.items():
            if part not in mine | KEPT and name not in told and re.search(rf"\b{re.escape(name)}\b", said):
                told_wrong.append(f"{step.key} says {name}")
    return told_wrong


# --- decided, not always done ---------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("policy", "felt", "lately", "greased"),
    [
        ("by_feel", "fine", {}, False),
        ("by_feel", "dry", {}, True),
        ("by_feel", "creaks", {}, True),
        ("by_feel", "greasy", {}, False),
        ("by_feel", "torn", {}, False),
        ("by_feel", "fine", {"recork": 10.0}, True),  # new cork: once or twice a week in its first month
        ("by_feel", "fine", {"recork": 10.0, "cork_grease": 2.0}, False),
        ("by_feel", "fine", {"recork": 40.0}, False),
        ("weekly", "fine", {"cork_grease": 8.0}, True),
        ("weekly", "fine", {"cork_grease": 3.0}, False),
        ("weekly", "greasy", {"cork_grease": 8.0}, False),
        ("by_age", "fine", {"cork_grease": 3.0}, False),
        ("by_age", "fine", {"cork_grease": 61.0}, True),  # later about every two months
        ("by_age", "dry", {"cork_grease": 3.0}, True),
    ],
)
def test_cork_grease_is_decided(policy: str, felt: str, lately: dict[str, float], greased: bool) -> None:
    """Which corks, how much or none: common practice, no source."""
    plain = situation(SAX, **found(SAX.find_check("cork_feel"), felt), lately=lately)
    steps = [s.key for s in build(CATALOGUE, replace(plain, policies={**plain.policies, "cork_grease": policy}))]
    assert ("cork_grease" in steps) == greased
    assert ("neck_cork_wipe" in steps) == (felt == "greasy")


def test_only_the_dry_corks_are_greased() -> None:
    result = Result("amber", "ready", "", "", frozenset({"dry", "torn"}))
    places = {"mouthpiece": "dry", "lower joint": "torn"}
    s = situation(CLA, findings={"corks": result}, places={"corks": places})
    step = next(x for x in build(CATALOGUE, s) if x.key == "cork_grease")
    assert step.what.endswith("the corks: mouthpiece") and "torn" not in step.what


@pytest.mark.parametrize("key", FAMILIES)
def test_a_beginner_changes_something(key: str) -> None:
    family = CATALOGUE.families[key]
    plain = [s.what for s in build(CATALOGUE, situation(family))]
    assert plain != [s.what for s in build(CATALOGUE, situation(family, renter="beginner"))]


def test_a_cracked_bow_is_neither_rosined_nor_tightened_nor_cased() -> None:
    told = {
        **found(VLN.find_check("cracks"), "tip")["findings"],
        **found(VLN.find_check("bow_speaks"), "silent")["findings"],
    }  # type: ignore[dict-item]
    steps = {s.key: s for s in build(CATALOGUE, situation(VLN, findings=told))}
    assert not {"bow_rosin", "play", "after_bow"} & set(steps) and "play_bench_bow" in steps and "bow_out" in steps
    assert not any(m.key == "bow_on" for m in steps["pack"].moves)


def test_a_bridge_is_read_again_after_anything_that_tunes() -> None:
    assert "bridge_again" not in {s.key for s in build(CATALOGUE, situation(VLN))}
    for check, answer in (("strings", "worn"), ("fine_tuner", "act"), ("pegs", "slips"), ("tuner_ends", "nearly_out")):
        s = situation(VLN, **found(VLN.find_check(check), answer))
        assert "bridge_again" in {x.key for x in build(CATALOGUE, s)}, check


STUMBLES = re.compile(r"\bthe (your|the)\b|\.\.|  |[.?!] [a-z]|[{}]|\bNone\b| ,|\(\)")


@pytest.mark.parametrize("family", FAMILIES)
def test_no_sentence_stumbles(family: str) -> None:
    """What is put together from pieces reads as if one person had written it."""
    for step in build(CATALOGUE, situation(CATALOGUE.families[family])):
        moves = [words for m in step.moves for words in (m.what, m.how, m.caution, m.reason)]
        for words in (step.what, step.how, step.caution, step.reason, step.note, step.amount, *moves):
            assert not STUMBLES.search(words), words
