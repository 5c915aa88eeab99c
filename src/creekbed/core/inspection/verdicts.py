"""From a check's result to a verdict with its reason, and from many verdicts to one."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping

from creekbed.core.catalogue.models.base import MARK_WORDS, VERDICT_ORDER, Verdict
from creekbed.core.catalogue.models.parts import Check
from creekbed.core.conventions import number
from creekbed.core.errors import BadInput
from creekbed.core.measure import Band, Reading, decide
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.units import show, with_doubt


@dataclass(frozen=True)
class Result:
    """What a check says.

    Attributes:
        band: green, amber, act or again.
        verdict: who may put it right; ``None`` while the reading decides nothing.
        reason: in words, with numbers.
        rule: the bands in words, with mark.
        facts: words that the step builder's conditions ask for.
    """

    band: Band
    verdict: Verdict | None
    reason: str
    rule: str
    facts: frozenset[str]


def rule_words(check: Check, size: str = "") -> str:
    """The bands of a check, for one size of instrument, in words, with mark and source."""
    b = check.bands_for(size)
    if b is not None:
        unit = check.unit
        text = f"good {_span(b.green_from, b.green_to, unit)}; act {_outside(b.amber_from, b.amber_to, unit)}"
        text += "; before cleaning that is for the bench" if check.cleaning_helps else ""
    else:
        text = "; ".join(f"{o.name}: {o.verdict if o.band != 'green' else 'good'}" for o in check.options)
    words = MARK_WORDS[check.mark]
    source = "" if check.source == words else f" ({check.source})"
    return f"{text}. {words.capitalize()}{source}."


def _span(low: float | None, high: float | None, unit: str) -> str:
    if low is None or high is None:
        return f"from {show(low, unit)}" if low is not None else f"up to {show(high or 0.0, unit)}"
    if low == -high:
        return f"within ±{show(high, unit)}"
    return f"{show(low, unit)} to {show(high, unit)}"


def _outside(low: float | None, high: float | None, unit: str) -> str:
    if low is not None and high is not None and low == -high:
        return f"beyond ±{show(high, unit)}"
    ends = ([f"under {show(low, unit)}"] if low is not None else []) + (
        [f"over {show(high, unit)}"] if high is not None else []
    )
    return " or ".join(ends)


def judge_reading(check: Check, reading: Reading, size: str = "", *, before_cleaning: bool = False) -> Result:
    """Verdict of a measured check.

    Args:
        check, reading: what was measured, in the check's unit. size: of the instrument, where bands differ by it.
        before_cleaning: it was read as it came in; where cleaning helps, it is cleaned before anybody else is asked.

    Raises:
        BadInput: the reading is outside what can be true, or the check is not a measured one.
    """
    bands = check.bands_for(size)
    if bands is None:
        raise BadInput(f"{check.name} is not measured on a scale.")
    low, high = check.range
    if not low <= reading.value <= high:
        raise BadInput(
            f"{show(reading.value, check.unit)} cannot be true for {check.name.lower()} "
            f"({show(low, check.unit)} to {show(high, check.unit)}).",
            todo="Measure again and look at the unit.",
        )
    decision = decide(reading, bands.scale())
    value = f"{with_doubt(reading.value, reading.expanded, check.unit)} (k = 2)"
    rule = rule_words(check, size)
    if decision.band == "again":
        chance = _percent(decision.p_act)
        return Result(
            "again", None,
            f"Not sure: {value} crosses the limit; the chance that it is beyond is {chance}. Measure again.",
            rule, frozenset({"again"}),
        )  # fmt: skip
    if decision.band == "act":
        verdict = "bench" if before_cleaning and check.cleaning_helps else check.verdict
        return Result("act", verdict, f"{value} is beyond the limit. {check.say_act}", rule, frozenset({"act"}))
    if decision.band == "amber":
        return Result("amber", "ready", f"{value} is near the limit. {check.say_amber}", rule, frozenset({"amber"}))
    return Result("green", "ready", f"{value} is good.", rule, frozenset({"green"}))


def judge_moved(check: Check, result: Result, reading: Reading, before: Reading) -> Result:
    """The verdict of a reading with how far it has moved since an earlier one.

    Args:
        result: of the reading by itself. reading, before: now, and the earlier one, in the check's unit.

    Returns:
        The same with the change and its doubt in words; what moved further than the check allows, beyond that doubt,
        is noted.
    """
    moved = reading.value - before.value
    doubt = 2 * math.hypot(reading.u, before.u)
    words = f"It has moved by {with_doubt(moved, doubt, check.unit)} (k = 2) since the first reading"
    words += f", {show(before.value, check.unit)}."
    if result.band == "green" and check.moved_amber and abs(moved) - doubt > check.moved_amber:
        return Result("amber", "ready", f"{words} {check.say_amber}", result.rule, frozenset({"amber"}))
    return Result(result.band, result.verdict, f"{result.reason} {words}", result.rule, result.facts)


def judge_by_eye(check: Check) -> Result:
    """The verdict of a measured check that somebody has looked at and not measured.

    Raises:
        BadInput: it is not told by eye.
    """
    if not check.by_eye:
        raise BadInput(f"{check.name} is not told by eye.", todo="Measure it.")
    return Result("green", "ready", "Sound, by eye: not measured.", rule_words(check), frozenset({"green"}))


def _percent(p: float) -> str:
    return "under 1 %" if p < 0.01 else "over 99 %" if p > 0.99 else f"{number(100 * p, 0)} %"


def judge_choice(check: Check, key: str) -> Result:
    """Verdict of a looked-at check with one answer.

    Raises:
        BadInput: an answer the check does not have.
    """
    option = next((o for o in check.options if o.key == key), None)
    if option is None or check.kind != "choice":
        raise BadInput(f"{check.name} has no answer “{key}”.")
    reason = f"{option.name.capitalize()}. {option.say}".strip()
    return Result(option.band, option.verdict, reason, rule_words(check), frozenset({option.key}))


def judge_places(check: Check, found: Mapping[str, str], more: Iterable[str] = ()) -> Result:
    """Verdict of a check with one answer for each place; places not named are good.

    Args:
        check: the check.
        found: place → answer key. more: further places than the check's usual ones.

    Raises:
        BadInput: a place or an answer the check does not have.
    """
    options = {o.key: o for o in check.options}
    places = tuple(dict.fromkeys((*check.places, *more)))
    for place, key in found.items():
        if place not in places or key not in options:
            raise BadInput(f"{check.name} does not know “{place}: {key}”.")
    rule = rule_words(check)
    if not found:
        return Result("green", "ready", "None found.", rule, frozenset({"none"}))
    by_option: dict[str, list[str]] = {}
    for place in places:
        if place in found:
            by_option.setdefault(found[place], []).append(place)
    reason = " ".join(f"{options[k].name.capitalize()}: {', '.join(v)}. {options[k].say}" for k, v in by_option.items())
    verdict = worst(options[k].verdict for k in by_option)
    band: Band = "act" if any(options[k].band == "act" for k in by_option) else "amber"
    return Result(band, verdict, reason, rule, frozenset(by_option))


def worst(verdicts: Iterable[Verdict]) -> Verdict:
    """The worst of several verdicts: retire > specialist > bench > ready."""
    return max(verdicts, key=VERDICT_ORDER.index, default="ready")
