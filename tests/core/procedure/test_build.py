"""The steps of a job: built from what is known, in a safe order."""

from itertools import pairwise, product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.catalogue.load import shipped
from creekbed.core.catalogue.models.steps import STUFFS, Step
from creekbed.core.hygiene.touch import may_touch
from creekbed.core.inspection.verdicts import Result, judge_choice, judge_places, judge_reading
from creekbed.core.measure import Reading
from creekbed.core.procedure.build import build
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.procedure.compare import compare_policies
from creekbed.core.procedure.imagine import imagine
from creekbed.core.procedure.order import restrict, topological_order
from creekbed.core.procedure.situation import Situation
from creekbed.core.procedure.step_waits import creep_law

CATALOGUE = shipped()
EXPOSURE = {s.key: s.exposure for f in CATALOGUE.families.values() for s in f.step}
SAX, VIOLIN = CATALOGUE.families["alto_saxophone"], CATALOGUE.families["violin"]


def sax(pads: dict[str, str] | None = None, mouthpiece: str = "sound", **more: object) -> Situation:
    findings: dict[str, Result] = {
        "pads": judge_places(SAX.find_check("pads"), pads or {}),
        "mouthpiece": judge_choice(SAX.find_check("mouthpiece"), mouthpiece),
    }
    return Situation(
        "alto_saxophone", "alto", findings=findings, places={"pads": pads} if pads else {},
        stock_pct={"peroxide_6_ml": 6.0}, **more,  # type: ignore[arg-type]
    )  # fmt: skip


def violin(
    strings: dict[str, str] | None = None, clearance: float = 5.0, chin: str = "tight", **more: object
) -> Situation:
    findings = {
        "strings": judge_places(VIOLIN.find_check("strings"), strings or {}),
        "chin_rest": judge_choice(VIOLIN.find_check("chin_rest"), chin),
        "fine_tuner": judge_reading(VIOLIN.find_check("fine_tuner"), Reading(clearance, 0.1, "millimeter")),
    }
    size = str(more.pop("size", "4/4"))
    places = {"strings": strings} if strings else {}
    return Situation("violin", size, findings=findings, places=places, **more)  # type: ignore[arg-type]


def steps_of(situation: Situation) -> dict[str, BuiltStep]:
    return {s.key: s for s in build(CATALOGUE, situation)}


def must_come_before(steps: dict[str, BuiltStep], first: str, then: str) -> bool:
    """Whether the partial order itself forces it, not only the order shown."""
    seen, stack = set(), [then]
    while stack:
        for before in steps[stack.pop()].after:
            if before == first:
                return True
            if before not in seen:
                seen.add(before)
                stack.append(before)
    return False


@pytest.mark.parametrize(
    ("first", "then"),
    [  # common practice, no source
        ("contents", "apart"), ("apart", "look"), ("together", "play"), ("rinse", "pack"),
        ("after_body", "after_air"), ("after_air", "pack"), ("play", "after_apart"), ("after_apart", "after_neck"),
        ("neck_swab", "body_swab"), ("mouthpiece_swab", "neck_swab"),
        ("mouth_wash", "disinfect"),
        ("mix", "disinfect"), ("disinfect", "rinse"), ("body_swab", "body_air"), ("outside", "body_air"),
        ("hands", "rinse"), ("body_swab", "hands"), ("mouthpiece_swab", "mouth_wash"), ("cap_wash", "pack"),
        ("play", "pack"), ("descale", "disinfect"), ("look", "body_swab"), ("pads_blot", "body_air"),
    ],
)  # fmt: skip
def test_saxophone_order(first: str, then: str) -> None:
    steps = steps_of(sax({"G sharp": "sticks"}, "lime"))
    assert must_come_before(steps, first, then)


@pytest.mark.parametrize(
    ("first", "then"),
    [  # common practice, no source
        ("apart", "look"), ("apart", "bow_loosen"), ("dust_strings", "dust_body"), ("string_on.A", "string_on.G"),
        ("string_on.G", "hang"), ("hang", "retune_1"), ("retune_1", "retune_2"), ("retune_2", "play"), ("play", "pack"),
    ],
)  # fmt: skip
def test_violin_order(first: str, then: str) -> None:
    steps = steps_of(violin({"G": "worn", "A": "worn"}, clearance=1.0, chin="moves"))
    assert must_come_before(steps, first, then)


def test_one_string_at_a_time() -> None:
    """Common practice, from memory: with several to change, each waits for the one before."""
    steps = steps_of(violin(dict.fromkeys("GDAE", "worn")))
    strings = [k for k in steps if k.startswith("string_on")]
    assert len(strings) == 4
    for earlier, later in pairwise(strings):
        assert must_come_before(steps, earlier, later)


def test_what_was_not_found_is_not_done() -> None:
    keys = set(steps_of(sax()))
    assert not keys & {"pads_blot", "descale"}
    keys = set(steps_of(violin()))
    assert not keys & {"chin_tighten", "tuner_back", "hang", "retune_1", "string_on.A"}


def test_findings_add_their_steps() -> None:
    steps = steps_of(sax({"G sharp": "sticks", "palm D": "wet", "low B": "torn"}, "lime"))
    assert steps["pads_blot"].what == "Blot these pads: G sharp, palm D"
    assert steps["pads_blot"].supplies == (("pad_paper", 2.0),)
    assert "descale" in steps


def test_a_reed_that_is_not_there_is_not_taken_off() -> None:
    moves = [m.key for m in steps_of(sax(contents={"reed": "missing"}))["apart"].moves]
    assert "reed_off" not in moves
    assert moves.index("cap_off") < moves.index("ligature_off")


def test_no_plug_no_plug_step_but_its_order_stays() -> None:
    steps = steps_of(sax(contents={"end_plug": "missing"}))
    assert "plug_off" not in [m.key for m in steps["apart"].moves]
    on = [m.key for m in steps["together"].moves]
    assert "plug_on" not in on and on.index("strap_on") < on.index("neck_on")
    there = [m.key for m in steps_of(sax(contents={"end_plug": "replaced"}))["apart"].moves]
    assert there.index("neck_off") < there.index("plug_off")


def test_a_mix_that_stands_ready_is_not_made_again() -> None:
    assert "mix" in steps_of(sax())
    assert "mix" not in steps_of(sax(mixes_ready=frozenset({"peroxide_3_ml"})))


def test_the_mix_is_computed_from_the_bottle() -> None:
    """500 ml of 3 % from 6 %: 250 ml (arithmetic)."""
    assert "250 ml from the bottle" in steps_of(sax())["mix"].amount
    stronger = Situation("alto_saxophone", "alto", stock_pct={"peroxide_6_ml": 12.0})
    assert "125 ml from the bottle" in steps_of(stronger)["mix"].amount


def test_the_label_sets_the_contact_time_and_the_limit_yields() -> None:
    wait = steps_of(sax(contact_min={"peroxide_3_ml": 12.0}))["disinfect"].wait
    assert wait is not None and (wait.min_minutes, wait.max_minutes, wait.wet) == (12.0, 20.0, True)
    long = steps_of(sax(contact_min={"peroxide_3_ml": 30.0}))["disinfect"].wait
    assert long is not None and (long.min_minutes, long.max_minutes) == (30.0, 30.0)


@pytest.mark.parametrize(("choice", "words"), [("one", "1 slow pull"), ("two", "2 slow pulls"), ("by_hours", "2 to 5")])
def test_pulls_follow_the_policy(choice: str, words: str) -> None:
    step = steps_of(sax(policies={"sax_body_pulls": choice}))["body_swab"]
    assert words in step.what
    assert step.reason == CATALOGUE.topics["sax_body_pulls"].pick(choice).reason
    assert "pulls of the swab" in step.policy


def test_more_pulls_take_longer() -> None:
    minutes = [
        steps_of(sax(policies={"sax_body_pulls": c}))["body_swab"].hands_min
        for c in ("one", "two", "two_three", "by_hours")
    ]
    assert minutes == sorted(minutes) and minutes[0] < minutes[-1]


def test_bow_loosening_follows_the_policy() -> None:
    whats = {c: steps_of(violin(policies={"bow_loosening": c}))["bow_loosen"].what for c in ("turns", "hairs", "touch")}
    assert len(set(whats.values())) == 3
    assert "3 or 4 turns" in whats["turns"]


def test_effect_of_a_policy_before_it_is_chosen() -> None:
    effect = compare_policies(CATALOGUE, sax(policies={"sax_body_pulls": "two"}), "sax_body_pulls", "one")
    assert "Swab the body from the bell: 2 slow pulls" in effect.before
    assert "Swab the body from the bell: 1 slow pull" in effect.after
    assert "Swab the body from the bell with a fresh swab: 1 slow pull" in effect.after
    assert effect.minutes == pytest.approx(-1.6)
    assert effect.wait_minutes > 10  # less water out with the cloth, longer on the rack


def test_an_unknown_policy_falls_back_to_the_default() -> None:
    assert "2 slow pulls" in steps_of(sax(policies={"sax_body_pulls": "gone"}))["body_swab"].what


def test_string_tension_by_size() -> None:
    """58 N at 328 mm is 58·(283/328)² = 43.2 N at 283 mm, same pitch (Mersenne's law)."""
    assert "about 58 N" in steps_of(violin({"A": "worn"}))["string_on.A"].amount
    assert "about 43 N" in steps_of(violin({"A": "worn"}, size="1/2"))["string_on.A"].amount


def test_retunes_shift_with_what_was_read() -> None:
    plain = steps_of(violin({"A": "worn"}))["retune_1"].wait
    worse = steps_of(violin({"A": "worn"}, drops=((0.0, 12.0, 40.0),)))["retune_1"].wait
    assert plain is not None and worse is not None
    assert worse.min_minutes < plain.min_minutes  # it creeps more, so the tolerance is reached sooner


def test_creep_is_for_strings_only() -> None:
    with pytest.raises(ValueError, match="no strings"):
        creep_law(SAX, sax())


MADE = [p for p in SAX.part if p.materials]
MATERIALS = [dict(zip([p.key for p in MADE], choice, strict=True)) for choice in product(*(p.materials for p in MADE))]


@given(
    st.sampled_from(MATERIALS),
    st.dictionaries(st.sampled_from(SAX.find_check("pads").places), st.sampled_from(["sticks", "wet", "torn"])),
    st.sampled_from(["sound", "lime", "scratched", "chipped"]),
    st.sampled_from(["one", "two", "two_three", "by_hours"]),
    st.dictionaries(
        st.sampled_from([i.key for i in SAX.item]),
        st.sampled_from(["present", "missing", "worn", "replaced", "waived"]),
    ),
    st.booleans(),
)  # fmt: skip
def test_any_saxophone_job_is_safe_and_in_order(
    materials: dict[str, str], pads: dict[str, str], mouthpiece: str, policy: str, contents: dict[str, str], ready: bool
) -> None:
    mixes = frozenset({"peroxide_3_ml"}) if ready else frozenset()
    situation = sax(
        pads, mouthpiece, materials=materials, contents=contents, policies={"sax_body_pulls": policy}, mixes_ready=mixes
    )
    check_job(build(CATALOGUE, situation), materials)


@given(
    st.dictionaries(st.sampled_from("GDAE"), st.sampled_from(["worn", "missing"])), st.sampled_from(["tight", "moves"]),
    st.floats(0, 20), st.sampled_from(VIOLIN.sizes), st.sampled_from(["turns", "hairs", "touch"]),
    st.dictionaries(st.sampled_from([i.key for i in VIOLIN.item]), st.sampled_from(["present", "missing", "replaced"])),
)  # fmt: skip
def test_any_violin_job_is_safe_and_in_order(
    strings: dict[str, str], chin: str, clearance: float, size: str, policy: str, contents: dict[str, str]
) -> None:
    situation = violin(strings, clearance, chin, size=size, policies={"bow_loosening": policy}, contents=contents)
    steps = build(CATALOGUE, situation)
    check_job(steps, {})
    wet = {"cool_water", "hot_water", "soap", "alcohol", "peroxide", "vinegar"}
    assert not any(
        s.agent in wet for s in steps if s.pieces & {"body", "bow"}
    )  # dry cleaning only: common practice, no source


def check_job(steps: list[BuiltStep], materials: dict[str, str]) -> None:
    """Order kept, nothing left blank, no harm, one pack at the very end."""
    place = {s.key: n for n, s in enumerate(steps)}
    for step in steps:
        assert all(place[before] < place[step.key] for before in step.after)
        assert step.what and "{" not in step.what + step.amount + step.how + step.reason + step.caution
        assert step.hands_min > 0
        if step.ends is not None:
            assert place[step.ends] < place[step.key]
        if step.agent is not None and step.part in materials:
            assert may_touch(CATALOGUE.materials[materials[step.part]], step.agent, EXPOSURE[step.base]).allowed
    assert steps[-1].kind == "pack"
    asked = [c for s in steps if s.kind == "look" for c in s.checks]
    assert asked and len(asked) == len(set(asked))


def test_topological_order_names_the_cycle() -> None:
    with pytest.raises(ValueError, match=r"a after b after a|b after a after b"):
        topological_order({"a": {"b"}, "b": {"a"}, "c": set()})


@given(st.integers(2, 9), st.data())
def test_restricting_keeps_every_order_that_was_forced(n: int, data: st.DataObject) -> None:
    keys = [f"k{i}" for i in range(n)]
    after = {k: {keys[j] for j in range(i) if data.draw(st.booleans())} for i, k in enumerate(keys)}
    keep = {k for k in keys if data.draw(st.booleans())}

    def forced(relation: dict[str, set[str]], late: str) -> set[str]:
        found: set[str] = set()
        stack = list(relation[late])
        while stack:
            key = stack.pop()
            if key not in found:
                found.add(key)
                stack += relation[key]
        return found

    left = restrict(after, keep)
    for key in keep:
        assert forced(left, key) == forced(after, key) & keep


@pytest.mark.parametrize("cloth", ["microfibre", "jersey", "dusting"])
def test_a_fresh_cloth_says_what_it_is_of(cloth: str) -> None:
    """Each that lies on the shop's shelf; what is drawn through a bore is told by the pull-through that is taken."""
    for family in CATALOGUE.families.values():
        policies = (
            {"cleaning_cloth": cloth} if "cleaning_cloth" in {t.key for t in CATALOGUE.topics_for(family)} else {}
        )
        for step in build(CATALOGUE, imagine(CATALOGUE, family, policies=policies)):
            if not step.fresh:
                assert not step.stuff
            elif step.path is None and step.cloth not in ("brush rod", "stuffer"):  # tools, not of the shelf
                assert step.stuff in STUFFS, (family.key, step.key, step.cloth)
                named = [s for s in STUFFS if s in step.cloth]
                assert not named or named == [step.stuff]


def test_a_cloth_of_what_nobody_knows_is_refused() -> None:
    step = next(s for s in SAX.step if s.stuff)
    with pytest.raises(ValueError, match="no cloth of the shelf is of felt"):
        Step.model_validate({**step.model_dump(), "stuff": "felt"})
