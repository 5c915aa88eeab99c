"""Inspection: from readings to verdicts, overrides, closing findings."""

from __future__ import annotations

import re
from collections.abc import Mapping
from datetime import datetime
from typing import Any

from creekbed.core.catalogue.models.base import VERDICT_ORDER
from creekbed.core.catalogue.models.parts import Check
from creekbed.core.conventions import clock
from creekbed.core.errors import BadInput, Refused
from creekbed.core.inspection.geometry import lean_from_lengths
from creekbed.core.inspection.verdicts import (
    Result,
    judge_by_eye,
    judge_choice,
    judge_moved,
    judge_places,
    judge_reading,
)
from creekbed.core.local import next_weekday
from creekbed.core.measure import Reading, combine
from creekbed.core.units import parse_quantity
from creekbed.store.records import Finding, StepRecord
from creekbed.workshop.arrival.intake import need_job, need_reason
from creekbed.workshop.bench.job_situation import BY_EYE, measured
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.inspection.answers import earlier_rows, was_cleaned, worked_since
from creekbed.workshop.shop.shop import Act, Shop


def typed_reading(check: Check, text: str, second: str = "") -> Reading:
    """A reading from what was typed: one value, or height and gap where the check takes two lengths.

    Raises:
        BadInput: not a quantity, the wrong kind of unit, or beyond what can be true.
    """
    if check.two_lengths and second.strip():
        height = parse_quantity(text, "millimeter", what="The height", minimum=0.0, maximum=200.0)
        gap = parse_quantity(second, "millimeter", what="The gap", minimum=-100.0, maximum=100.0)
        return lean_from_lengths(height, gap)
    low, high = check.range
    value = parse_quantity(text, check.unit, what=check.name, minimum=low, maximum=high)
    return Reading(value, check.u, check.unit, "typed")


def record_reading(shop: Shop, job_id: int, check_key: str, reading: Reading, *, again: bool = False) -> Result:
    """Record a measurement; with ``again`` it is averaged with the readings before it.

    What was read before work was done on the instrument is not averaged with what is read after it: it is kept beside
    it, as an earlier answer.

    Raises:
        BadInput: the check is not measured so, or the value cannot be true.
    """
    with shop.act("check.reading") as act:
        view, check = _open(shop, act, job_id, check_key)
        if reading.unit != check.unit:
            raise BadInput(f"{check.name} is not measured in {reading.unit}.")
        old = view.findings.get(check_key)
        rows: list[Any] = [{"value": reading.value, "u": reading.u, "unit": reading.unit, "how": reading.how}]
        what: dict[str, Any] = {"readings": rows}
        if again and old is not None and not worked_since(old, view.all_work):
            rows[:0], what["earlier"] = old.readings, old.earlier
        mean = combine([Reading(r["value"], r["u"], r["unit"], r["how"]) for r in rows])
        result = judge_reading(check, mean, view.instrument.size, before_cleaning=not was_cleaned(view.all_work))
        first = view.findings.get(check.against or "")
        before = measured(first) if first is not None else None
        if before is not None:
            result = judge_moved(check, result, mean, before)
        _store(act, shop, view, check, result, **what)
        return result


def record_choice(shop: Shop, job_id: int, check_key: str, choice: str) -> Result:
    """Record what was seen.

    Raises:
        BadInput: an answer the check does not have.
    """
    with shop.act("check.choice") as act:
        view, check = _open(shop, act, job_id, check_key)
        result = judge_choice(check, choice)
        _store(act, shop, view, check, result, choice=choice)
        option = next(o for o in check.options if o.key == choice)
        if option.quarantine:
            act.records.update(view.job, quarantine=f"Quarantine: {option.name}")
            act.words = f"{view.tag}: {check.name.lower()}: {option.name}"  # what to do about it is said by itself
            act.notes.append(option.say)
        return result


def record_by_eye(shop: Shop, job_id: int, check_key: str) -> Result:
    """Record that a measured check was looked at and is sound: no number, and no start of a trend.

    Raises:
        BadInput: this check is not told by eye.
    """
    with shop.act("check.by_eye") as act:
        view, check = _open(shop, act, job_id, check_key)
        result = judge_by_eye(check)
        _store(act, shop, view, check, result, choice=BY_EYE)
        return result


def record_places(shop: Shop, job_id: int, check_key: str, places: Mapping[str, str]) -> Result:
    """Record what was found at which place; nothing found is a good result.

    Raises:
        BadInput: a place or an answer the check does not have.
    """
    with shop.act("check.places") as act:
        view, check = _open(shop, act, job_id, check_key)
        table = shop.catalogue.leak_table(view.family) if check.key == "pads" else None
        more = [p.name for p in table.pads] if table is not None else []
        result = judge_places(check, places, more)
        _store(act, shop, view, check, result, places=dict(places))
        return result


def unlooked(view: JobView) -> list[Check]:
    """Checks of the look that is open which eyes can answer and that are not done yet."""
    look = view.look
    asked = view.needed_at(look.step) if look is not None else ()
    return [c for c in asked if (c.kind != "measure" or c.by_eye) and c.key not in view.findings]


def sound_answer(check: Check) -> str:
    """The answer of a check by choice that finds nothing."""
    return next(o.key for o in check.options if o.band == "green")


def rest_is_sound(shop: Shop, job_id: int) -> list[str]:
    """Everything that is looked at and was not done yet is sound; what can be told by eye is recorded as told so.

    Other measured checks stay to be measured, and so does what cannot be looked at yet.

    Returns:
        Names of the checks that were recorded.

    Raises:
        Refused: nothing is left to say so of.
    """
    with shop.act("check.rest") as act:
        view = need_job(shop, act.records, job_id, act.now)
        left = unlooked(view)
        if not left:
            raise Refused("Every check that is looked at is done.", todo="Measure what is left.")
        for check in left:
            if check.kind == "measure":
                _store(act, shop, view, check, judge_by_eye(check), choice=BY_EYE)
            elif check.kind == "choice":
                answer = sound_answer(check)
                _store(act, shop, view, check, judge_choice(check, answer), choice=answer)
            else:
                _store(act, shop, view, check, judge_places(check, {}))
        names = [c.name for c in left]
        act.tag, act.words = view.tag, f"{view.tag}: looked at and sound: {', '.join(n.lower() for n in names)}"
        return names


def _open(shop: Shop, act: Act, job_id: int, key: str) -> tuple[JobView, Check]:
    view = need_job(shop, act.records, job_id, act.now)
    check = next((c for c in view.family.check if c.key == key), None)
    if check is None:
        raise BadInput(f"A {view.family.noun} has no check “{key}”.")
    return view, check


def _store(act: Act, shop: Shop, view: JobView, check: Check, result: Result, **what: Any) -> None:
    before = view.findings.get(check.key)
    what.setdefault("earlier", earlier_rows(before, view.all_work, act.now))
    found = Finding(
        job_id=view.job.id, check=check.key, band=result.band, verdict=result.verdict or "", reason=result.reason,
        at=act.now, person=shop.person, **what,
    )  # fmt: skip
    if before is None:
        act.records.add(found)
    else:
        act.records.replace(before, found)
    act.tag, act.words = view.tag, f"{view.tag}: {check.name.lower()}: {result.reason}"


def overrule(shop: Shop, job_id: int, check_key: str, verdict: str, reason: str) -> None:
    """Override a verdict; both verdicts stay on record.

    Raises:
        BadInput: no reason, or no such verdict. Refused: nothing was recorded yet.
    """
    reason = need_reason(reason)
    if verdict not in VERDICT_ORDER:
        raise BadInput(f"“{verdict}” is no verdict.")
    with shop.act("check.overrule") as act:
        view, check = _open(shop, act, job_id, check_key)
        finding = view.findings.get(check_key)
        if finding is None:
            raise Refused(f"{check.name} has not been done yet.")
        act.records.update(finding, overruled=verdict, overrule_reason=reason, closed="")
        act.tag, act.words = view.tag, f"{view.tag}: {check.name.lower()} overruled to {verdict}: {reason}"


def close_finding(shop: Shop, job_id: int, check_key: str, how: str) -> None:
    """Close or accept a finding: mended elsewhere, part replaced, accepted as it is.

    Raises:
        BadInput: no words. Refused: nothing is open.
    """
    how = need_reason(how)
    with shop.act("check.close") as act:
        view = need_job(shop, act.records, job_id, act.now)
        finding = view.findings.get(check_key)
        if finding is None or finding.closed:
            raise Refused("There is nothing open to close.")
        act.records.update(finding, closed=how)
        act.tag, act.words = view.tag, f"{view.tag}: {check_key.replace('_', ' ')} closed: {how}"


_DAY = r"(mon|tue|wed|thu|fri|sat|sun)[a-z]*"
_BACK = re.compile(rf"(.+?),\s*(?:back\s+)?{_DAY}(?:\s+([0-9]{{1,2}}):([0-5][0-9]))?", re.IGNORECASE)
_DAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")


def read_back(text: str, now: datetime) -> tuple[str, datetime | None]:
    """Read to whom something goes and when it is expected back: "luthier, Tue 14:00" is the next Tuesday at that time.

    Without a time it is the morning, at nine; without a day nothing is known.
    """
    found = _BACK.fullmatch(text.strip())
    if found is None:
        return text.strip(), None
    to, day, hour, minute = found.groups()
    at = next_weekday(now, _DAYS.index(day.lower()), min(int(hour or 9), 23), int(minute or 0))
    return to.strip(), at


def send_out(shop: Shop, job_id: int, to: str, back_at: datetime | None = None) -> None:
    """The instrument goes to a specialist; its job stands still until it is back.

    Args:
        back_at: when it is expected back; the plan counts on it from then on.

    Raises:
        BadInput: nobody named, or a time that has passed.
    """
    to = need_reason(to)
    if back_at is not None and back_at <= shop.now:
        raise BadInput("It cannot be back before it has gone.", todo="Look at the day again.")
    with shop.act("send_out") as act:
        view = need_job(shop, act.records, job_id, act.now)
        act.records.update(view.job, waiting_for=f"At the {to}", back_at=back_at)
        for sent in (s.step for s in view.open_steps if s.step.kind == "send"):
            act.records.add(
                StepRecord(
                    job_id=job_id, key=sent.key, what=sent.what, stage=sent.stage, state="done", at=act.now,
                    data={"to": to}, person=shop.person,
                )
            )  # fmt: skip
        back = f", back {clock(back_at, '%a ')}" if back_at is not None else ""
        act.tag, act.words = view.tag, f"{view.tag}: sent to the {to}{back}"


def back_from(shop: Shop, job_id: int, what_was_done: str) -> None:
    """Book an instrument back from the specialist: its open specialist findings are closed with what was done.

    Raises:
        BadInput: no words. Refused: it was not away.
    """
    what = need_reason(what_was_done)
    with shop.act("back") as act:
        view = need_job(shop, act.records, job_id, act.now)
        if not view.job.waiting_for:
            raise Refused("It was not away.")
        act.records.update(view.job, waiting_for="", back_at=None)
        for finding in view.findings.values():
            if (finding.overruled or finding.verdict) == "specialist" and not finding.closed:
                act.records.update(finding, closed=what)
        act.tag, act.words = view.tag, f"{view.tag}: back: {what}"
