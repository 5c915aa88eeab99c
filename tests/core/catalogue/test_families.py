"""Every family: no cycle, no forbidden contact, no required step lost, mirrored moves, under every policy."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from itertools import cycle, product
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.catalogue.load import shipped
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.surfaces import surfaces
from creekbed.core.hygiene.touch import may_touch_part
from creekbed.core.procedure.build import build
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.procedure.compare import compare_policies, everything_out, telling
from creekbed.core.procedure.imagine import imagine
from creekbed.core.procedure.situation import Situation

CATALOGUE = shipped()
FAMILIES = sorted(CATALOGUE.families)


def family(key: str) -> Family:
    return CATALOGUE.families[key]


def situation(f: Family, which: int = 0, found: bool = True, **more: Any) -> Situation:
    base = imagine(CATALOGUE, f, policies=more.pop("policies", {}), renter=more.pop("renter", ""))
    results, places = everything_out(f, which) if found else ({}, {})
    return Situation(**{**base.__dict__, "findings": results, "places": places, **more})


def made_of(f: Family) -> Iterator[tuple[dict[str, str], dict[str, str]]]:
    """All combinations of material and finish of one part at a time with all others first, and all at once by rank."""
    several = [p for p in f.part if len(surfaces(p)) > 1]
    for part in several:
        for material, finish in surfaces(part):
            yield {part.key: material}, ({part.key: finish} if finish else {})
    yield from all_at_once(f)


def all_at_once(f: Family) -> Iterator[tuple[dict[str, str], dict[str, str]]]:
    """Every material and finish of every part at least once, all parts changing together."""
    several = [p for p in f.part if len(surfaces(p)) > 1]
    for rank in range(max((len(surfaces(p)) for p in several), default=1)):
        picked = {p.key: surfaces(p)[rank % len(surfaces(p))] for p in several}
        yield {k: m for k, (m, _) in picked.items()}, {k: f for k, (_, f) in picked.items() if f}


def contacts(steps: list[BuiltStep]) -> Iterator[tuple[str, str, str, str]]:
    """Every (step, part, agent, exposure) of a job, moves included."""
    for step in steps:
        yield from ((step.key, part, agent, step.exposure) for part, agent in product(step.touches, step.agents))
        yield from ((m.key, m.part, m.agent, "yes") for m in step.moves if m.agent)


def assert_safe(f: Family, steps: list[BuiltStep], materials: Mapping[str, str], finishes: Mapping[str, str]) -> None:
    for where, key, agent, exposure in contacts(steps):
        part = f.find_part(key)
        assert part is not None
        if not part.materials:
            continue
        material = CATALOGUE.materials[materials.get(key, part.materials[0])]
        lies = finishes.get(key, part.finishes[0] if part.finishes else "")
        finish = CATALOGUE.materials[lies] if lies else None
        assert may_touch_part(material, finish, agent, exposure).allowed, (f.key, where, key, agent, material.key, lies)
    assert not any("Stop:" in s.caution for s in steps)


def assert_in_order(steps: list[BuiltStep]) -> None:
    place = {s.key: n for n, s in enumerate(steps)}
    for step in steps:
        assert all(place[before] < place[step.key] for before in step.after)
        assert step.ends is None or place[step.ends] < place[step.key]
        text = step.what + step.amount + step.how + step.caution + step.reason + "".join(step.tools)
        assert "{" not in text and "$" not in text and "?" not in step.amount, (step.key, text)
        assert step.hands_min > 0
        assert all("{" not in m.what + m.how + m.caution + m.reason and m.what for m in step.moves)
    assert steps[0].kind == "contents" and steps[-1].kind == "pack"


POLICIES = [(f, t.key, c.key) for f in FAMILIES for t in CATALOGUE.topics_for(family(f)) for c in t.choice]


@pytest.mark.parametrize("key", FAMILIES)
def test_no_step_brings_harm_whatever_it_is_made_of(key: str) -> None:
    """Family × material × finish × finding, under the default policies."""
    f = family(key)
    turns = cycle(product((0, 1, 2), ("", "same")))
    for (materials, finishes), (which, renter) in zip(made_of(f), turns, strict=False):
        s = situation(f, which, renter=renter, materials=materials, finishes=finishes)
        steps = build(CATALOGUE, s)
        assert_safe(f, steps, materials, finishes)
        assert_in_order(steps)


@pytest.mark.parametrize("key", FAMILIES)
def test_no_step_brings_harm_under_any_policy(key: str) -> None:
    """Family × policy × material × finish, everything found."""
    f = family(key)
    made = cycle(all_at_once(f))
    for topic in CATALOGUE.topics_for(f):
        for choice, (materials, finishes) in zip(topic.choice, made, strict=False):
            s = situation(f, policies={topic.key: choice.key}, renter="same", materials=materials, finishes=finishes)
            assert_safe(f, build(CATALOGUE, s), materials, finishes)


@given(st.data())
def test_any_job_of_any_family_is_safe_and_in_order(data: st.DataObject) -> None:
    f = family(data.draw(st.sampled_from(FAMILIES)))
    policies = {t.key: data.draw(st.sampled_from([c.key for c in t.choice])) for t in CATALOGUE.topics_for(f)}
    picked = {p.key: data.draw(st.sampled_from(surfaces(p))) for p in f.part if p.materials}
    materials = {k: m for k, (m, _) in picked.items()}
    finishes = {k: lies for k, (_, lies) in picked.items() if lies}
    contents = {i.key: data.draw(st.sampled_from(["present", "missing", "replaced", "waived"])) for i in f.item}
    lately = {s.key: data.draw(st.sampled_from([1.0, 40.0, 400.0])) for s in f.step if s.every_days or s.every_by}
    s = situation(
        f, data.draw(st.integers(0, 3)), data.draw(st.booleans()), policies=policies, materials=materials,
        finishes=finishes, contents=contents, lately=lately,
        renter=data.draw(st.sampled_from(["", "young_child", "beginner", "same"])),
    )  # fmt: skip
    steps = build(CATALOGUE, s)
    assert_safe(f, steps, materials, finishes)
    assert_in_order(steps)


@pytest.mark.parametrize(("key", "topic", "choice"), POLICIES)
def test_no_required_step_is_lost_under_any_policy(key: str, topic: str, choice: str) -> None:
    """Whatever the policy: contents, apart, look, a wash of what touched a mouth, drying, together, play, pack."""
    f = family(key)
    steps = build(CATALOGUE, situation(f, found=False, policies={topic: choice}))
    kinds = Counter(s.kind for s in steps)
    assert kinds["contents"] == kinds["pack"] == 1 and kinds["look"] >= 1 and kinds["test"] >= 1
    assert kinds["apart"] == (1 if f.joint else 0)
    if f.find_part("mouthpiece"):
        washed = [s for s in steps if s.part == "mouthpiece" and "soap" in s.agents]
        sanitised = [s for s in steps if s.base in ("disinfect", "sanitise_spray", "sanitise_soap")]
        assert len(washed) == 1 and len(sanitised) == 1
        assert steps.index(washed[0]) < steps.index(sanitised[0])
    if f.find_part("lip_plate"):
        assert any(s.base == "lip_disinfect" for s in steps)
    assert_in_order(steps)


@pytest.mark.parametrize(
    ("topic", "choice"), [(t.key, c.key) for t in CATALOGUE.topics.values() for c in t.choice if c.key != t.default]
)
def test_every_policy_changes_something(topic: str, choice: str) -> None:
    """A choice that changed no step, no order and no interval of any of its families would be no choice."""
    changed = [
        not compare_policies(CATALOGUE, s, topic, choice).nothing
        for f in CATALOGUE.families_of(CATALOGUE.topics[topic])
        for _, s in telling(CATALOGUE, f, {})
    ]
    assert any(changed), (topic, choice)


@pytest.mark.parametrize(("key", "topic", "choice"), POLICIES)
def test_putting_together_mirrors_taking_apart(key: str, topic: str, choice: str) -> None:
    """Where both joints are mirrored and a rule of taking apart orders them, the reverse holds together."""
    f = family(key)
    steps = build(CATALOGUE, situation(f, found=False, policies={topic: choice}))
    joints = {j.key: j for j in f.joint}
    for rule in f.order:
        first, then = joints.get(rule.first.removesuffix("_off")), joints.get(rule.then.removesuffix("_off"))
        names = rule.first.endswith("_off") and rule.then.endswith("_off")
        if not names or first is None or then is None or not (rule.mirror and first.mirror and then.mirror):
            continue
        if any(c.fact == f"policy.{topic}" and choice not in c.words for c in rule.when):
            continue
        if any(c.fact.startswith("policy.") and c.fact != f"policy.{topic}" for c in rule.when):
            continue
        for kind in ("together", "pack"):
            on = [m.key for s in steps if s.kind == kind for m in s.moves]
            if f"{first.key}_on" in on and f"{then.key}_on" in on:
                assert on.index(f"{then.key}_on") < on.index(f"{first.key}_on"), rule.key


@pytest.mark.parametrize("key", ["clarinet", "bass_clarinet", "oboe", "bassoon", "trumpet", "tuba", "trombone"])
def test_where_all_is_mirrored_the_whole_order_is(key: str) -> None:
    f = family(key)
    steps = build(CATALOGUE, situation(f, found=False))
    off = [m.key[:-4] for s in steps if s.kind == "apart" for m in s.moves]
    on = [m.key[:-3] for s in steps if s.kind == "together" for m in s.moves]
    ordered = {(o.first[:-4], o.then[:-4]) for o in f.order if o.mirror and o.first.endswith("_off") and not o.when}
    for first, then in ordered:
        if first in on and then in on:
            assert off.index(first) < off.index(then) and on.index(then) < on.index(first)


@pytest.mark.parametrize("key", FAMILIES)
def test_both_moves_of_a_joint_say_the_same_grip(key: str) -> None:
    """Made from one description: what is held, gripped and never done is told both ways."""
    f = family(key)
    steps = build(CATALOGUE, situation(f, found=False))
    moves = {m.key: m for s in steps for m in s.moves}
    for joint in f.joint:
        both = [moves[n] for n in (f"{joint.key}_off", f"{joint.key}_on") if n in moves]
        for move in both:
            assert joint.grip in move.how and joint.hold in move.how and joint.never in move.caution


@pytest.mark.parametrize("key", FAMILIES)
def test_a_caution_stands_once_in_a_job(key: str) -> None:
    """Cautions are told where they apply, not papered over every step."""
    f = family(key)
    for which in range(3):
        steps = build(CATALOGUE, situation(f, which))
        said = Counter(s.caution for s in steps if s.caution and s.base != "string_on")
        assert [text for text, n in said.items() if n > 1] == []


@pytest.mark.parametrize("key", FAMILIES)
def test_waits_have_a_place_and_an_end(key: str) -> None:
    places = {p.key for p in CATALOGUE.house.place}
    for step in build(CATALOGUE, situation(family(key), renter="same")):
        if step.wait is not None:
            assert step.wait.place in places and step.wait.at_end and step.wait.min_minutes > 0
            assert step.wait.max_minutes is None or step.wait.max_minutes >= step.wait.min_minutes
            assert not step.wait.wet or step.wait.max_minutes, "what is wet has a longest time"


def test_every_topic_of_the_trade_is_there() -> None:
    """Thirty-five questions on which practitioners disagree, each with at least two answers and a reason."""
    assert len(CATALOGUE.topics) >= 35
    for topic in CATALOGUE.topics.values():
        assert len(topic.choice) >= 2 and topic.default_why and all(c.reason for c in topic.choice)


def test_the_counts(record_testsuite_property: Any, capsys: pytest.CaptureFixture[str]) -> None:
    """Counts for the test report; each must be there, and each value marked."""
    fs = list(CATALOGUE.families.values())
    marked = [x for f in fs for x in (*f.item, *f.check, *f.step, *f.joint, *f.order, *f.wear, *f.fault, *f.interval)]
    marks = Counter(x.mark for x in marked) + Counter(s.mark for s in CATALOGUE.supplies.values())
    counts = {
        "families": len(fs), "parts": sum(len(f.part) for f in fs), "steps": sum(len(f.step) for f in fs),
        "joints": sum(len(f.joint) for f in fs),
        "constraints": sum(len(f.order) + sum(len(s.after) for s in f.step) for f in fs),
        "cautions": len({s.caution for f in fs for s in f.step if s.caution}),
        **{f"values marked {mark}": n for mark, n in sorted(marks.items())},
    }  # fmt: skip
    for name, count in counts.items():
        record_testsuite_property(name, count)
        assert count > 0
    with capsys.disabled():
        print("\nCatalogue: " + ", ".join(f"{n} {name}" for name, n in counts.items()))


def test_what_may_be_left_out_is_for_looks_or_done_by_time_alone() -> None:
    seen = set()
    for family in CATALOGUE.families.values():
        for step in (s for s in family.step if s.optional):
            seen.add(step.key)
            assert step.kind == "do" and not step.changes and step.ends is None
            assert step.stage in ("clean", "fit_out", "after") and not any(
                c.startswith("contents.") for c in map(str, step.when)
            )
            assert step.agent not in ("peroxide", "sanitiser", "alcohol", "vinegar"), step.key
    assert {"outside_polish", "polish", "brush_rod", "stuffers", "piston_jar"} <= seen


@pytest.mark.parametrize("key", [k for k in FAMILIES if k not in ("soprano_saxophone", "tenor_saxophone")])
def test_what_has_a_longest_time_is_ended_by_a_step(key: str) -> None:
    found = family(key)
    picks: list[dict[str, str]] = [{}]
    picks += [{t: c.key} for t, topic in CATALOGUE.topics.items() if found in CATALOGUE.families_of(topic)
              for c in topic.choice]  # fmt: skip
    ways = [(policies, False, "") for policies in picks]
    ways += [({}, out, renter) for out, renter in ((True, ""), (False, "same"), (True, "same"))]
    for policies, out, renter in ways:
        steps = build(CATALOGUE, situation(found, found=out, policies=policies, renter=renter))
        ended = {s.ends for s in steps}
        for step in steps:
            if step.wait is not None and step.wait.max_minutes is not None:
                assert step.key in ended, f"nothing ends {step.key} in time"
        assert all(s.ends is None or s.ends in {x.key for x in steps} for s in steps)


def test_a_size_is_named_where_it_says_more_than_the_name() -> None:
    families = shipped().families
    assert families["flute"].size_words("flute") == "" and families["flute"].size_words("curved head") == "curved head"
    assert families["violin"].size_words("3/4") == "3/4" and families["alto_saxophone"].size_words("alto") == ""
