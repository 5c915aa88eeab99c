"""From a check's result to a verdict with its reason."""

from typing import Any

import pytest

from creekbed.core.catalogue.load import shipped
from creekbed.core.errors import BadInput
from creekbed.core.inspection.verdicts import judge_choice, judge_places, judge_reading, rule_words, worst
from creekbed.core.measure import Reading

SAX, VIOLIN = shipped().families["alto_saxophone"], shipped().families["violin"]


def degrees(value: float, u: float = 0.2) -> Reading:
    return Reading(value, u, "degree")


@pytest.mark.parametrize(
    ("value", "band", "verdict", "words"),
    [
        (0.2, "green", "ready", "is good"), (2.0, "amber", "ready", "watch it"), (5.0, "act", "specialist", "luthier"),
        (-5.0, "act", "specialist", "Never straighten"), (2.9, "again", None, "31 %"),
    ],
)  # fmt: skip
def test_bridge_lean(value: float, band: str, verdict: str | None, words: str) -> None:
    result = judge_reading(VIOLIN.find_check("bridge_lean"), degrees(value))
    assert (result.band, result.verdict) == (band, verdict)
    assert words in result.reason
    assert "House" in result.rule or "house" in result.rule


def test_the_reason_states_the_coverage_factor() -> None:
    assert "(k = 2)" in judge_reading(VIOLIN.find_check("bridge_lean"), degrees(0.2)).reason


def test_near_tuner_is_mended_at_the_bench() -> None:
    result = judge_reading(VIOLIN.find_check("fine_tuner"), Reading(1.1, 0.15, "millimeter"))
    assert result.verdict == "bench" and "retune at the peg" in result.reason


def test_worn_cork_goes_to_the_repairer() -> None:
    check = SAX.find_check("neck_cork")
    assert judge_reading(check, Reading(3.4, 0.25, "millimeter")).verdict == "specialist"
    assert judge_reading(check, Reading(7.5, 0.25, "millimeter")).band == "green"
    assert judge_reading(check, Reading(8.6, 0.25, "millimeter")).band == "amber"


def test_a_value_that_cannot_be() -> None:
    with pytest.raises(BadInput, match="cannot be true"):
        judge_reading(VIOLIN.find_check("bridge_lean"), degrees(80))
    with pytest.raises(BadInput, match="not measured"):
        judge_reading(VIOLIN.find_check("chin_rest"), degrees(1))


def test_choices() -> None:
    check = SAX.find_check("mouthpiece")
    assert judge_choice(check, "chipped").verdict == "retire"
    assert judge_choice(check, "lime").facts == frozenset({"lime"})
    with pytest.raises(BadInput):
        judge_choice(check, "melted")
    with pytest.raises(BadInput):
        judge_choice(SAX.find_check("pads"), "sticks")


def test_places() -> None:
    check = SAX.find_check("pads")
    assert judge_places(check, {}).band == "green"
    both = judge_places(check, {"low B": "torn", "G sharp": "sticks"})
    assert both.verdict == "specialist" and both.band == "act"
    assert "G sharp" in both.reason and "low B" in both.reason
    with pytest.raises(BadInput):
        judge_places(check, {"middle Z": "torn"})
    with pytest.raises(BadInput):
        judge_places(check, {"low B": "melted"})


def test_the_worst_finding_wins() -> None:
    assert worst(["ready", "specialist", "bench"]) == "specialist"
    assert worst(["retire", "specialist"]) == "retire"
    assert worst([]) == "ready"


def test_rules_name_bands_and_source() -> None:
    words = rule_words(SAX.find_check("neck_cork"))
    assert "6.5 mm to 8.5 mm" in words and "under 5 mm or over 11 mm" in words and "1/4 to 1/3 inch" in words
    assert rule_words(VIOLIN.find_check("fine_tuner")) == "good from 4 mm; act under 2 mm. House default."


def measured_checks() -> list[Any]:
    found = []
    for family in shipped().families.values():
        for check in family.check:
            for size in family.sizes if check.bands_by else family.sizes[:1]:
                if check.bands_for(size) is not None:
                    found.append(pytest.param(check, size, id=f"{family.key}-{check.key}-{size}"))
    return found


@pytest.mark.parametrize(("check", "size"), measured_checks())
def test_every_measured_check_at_below_and_beyond_each_limit(check: Any, size: str) -> None:
    """A sound one is green; then on each limit, either side of it, and with uncertainty across it (JCGM 106)."""
    bands, u = check.bands_for(size), check.u
    assert judge_reading(check, Reading(bands.good(), u, check.unit), size).band == "green"
    sure = 1e-6
    for limit, outward, inside, outside in (
        (bands.green_to, 1, "green", "amber"), (bands.green_from, -1, "green", "amber"),
        (bands.amber_to, 1, "amber", "act"), (bands.amber_from, -1, "amber", "act"),
    ):  # fmt: skip
        if limit is None:
            continue
        step = 1e-3 * max(abs(limit), 1.0)
        if check.range[0] <= limit + outward * step <= check.range[1]:
            beyond = judge_reading(check, Reading(limit + outward * step, sure, check.unit), size)
            acts = outside == "act" or check.verdict == "ready"  # some are measured only to be put right on the spot
            assert beyond.band == outside and (beyond.verdict == check.verdict) == acts
        assert judge_reading(check, Reading(limit - outward * step, sure, check.unit), size).band == inside
        on_it = judge_reading(check, Reading(limit, 0.0, check.unit), size)
        assert on_it.band == inside
        across = judge_reading(check, Reading(limit, u, check.unit), size)
        assert across.band == ("again" if outside == "act" else "amber")
        if outside == "act":
            assert across.verdict is None and "Measure again" in across.reason
            far = limit + outward * (2 * u + step)
            if check.range[0] <= far <= check.range[1]:
                assert judge_reading(check, Reading(far, u, check.unit), size).band == "act"


def looked_at_checks() -> list[Any]:
    return [
        pytest.param(check, id=f"{family.key}-{check.key}")
        for family in shipped().families.values()
        for check in family.check
        if check.kind != "measure"
    ]


@pytest.mark.parametrize("check", looked_at_checks())
def test_every_answer_of_every_looked_at_check(check: Any) -> None:
    for option in check.options:
        if check.kind == "choice":
            result = judge_choice(check, option.key)
            assert (result.band, result.verdict) == (option.band, option.verdict)
        else:
            result = judge_places(check, {check.places[-1]: option.key})
            assert (result.band, result.verdict) == (option.band, option.verdict)
            assert check.places[-1] in result.reason
        assert option.band == "green" or option.say, "a finding says what to do"
    if check.kind == "choice":
        assert sum(o.band == "green" for o in check.options) == 1
