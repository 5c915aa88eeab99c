"""Doing the steps of a job; what each person has in hand."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import replace
from datetime import datetime
from typing import Any

from creekbed.core.errors import Refused
from creekbed.core.hygiene.residue import WATERS, left_on
from creekbed.core.procedure.build import build
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.units import parse_quantity
from creekbed.store.records import Finding, InHand, Job, Playing, StepRecord, StringDrop
from creekbed.workshop.arrival.intake import need_job, need_reason
from creekbed.workshop.bench.job_situation import hung_at
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.bench.settling import has_new_strings
from creekbed.workshop.bench.step_needs import (
    need_borne,
    need_checks,
    need_contents,
    need_rinsed,
    ready_step,
    uses_of_parts,
)
from creekbed.workshop.bench.waits import drying_factor, end_waits_of, new_wait, note_vessel
from creekbed.workshop.cleaning.cloths import cloth_in, used
from creekbed.workshop.cleaning.shelf import note_took, stuff_of, take
from creekbed.workshop.cleaning.trays import keep_tray
from creekbed.workshop.inspection.answers import earlier_rows
from creekbed.workshop.release.packing import need_packed
from creekbed.workshop.release.release_check import test_name
from creekbed.workshop.shop.shop import Act, Shop
from creekbed.workshop.supplies.stock import MixPlan, draw_supplies, make_mix, plan_mix_in

MOST_TOOK_ML = 50.0
"""The most lubricant that a slide takes at once, ml: house default."""


def take_up(shop: Shop, job_id: int, key: str) -> None:
    """Start a step; what was in hand before is paused.

    Raises:
        Refused: the step is not ready.
    """
    with shop.act("take_up") as act:
        view = need_job(shop, act.records, job_id, act.now)
        step = ready_step(view, key, act)
        _set_in_hand(shop, act, job_id, key)
        act.tag, act.words = view.tag, f"{view.tag}: taken up: {step.step.what}"


def put_aside(shop: Shop) -> None:
    """Pause what is in hand.

    Raises:
        Refused: nothing was.
    """
    with shop.act("put_aside") as act:
        held = act.records.get(InHand, shop.person)
        if held is None:
            raise Refused("Nothing is in hand.")
        job = act.records.get(Job, held.job_id)
        act.records.remove(held)
        act.tag = job.tag if job is not None else ""
        act.words = f"{act.tag}: put aside"


def _set_in_hand(shop: Shop, act: Act, job_id: int, key: str) -> None:
    act.records.put(InHand(person=shop.person, job_id=job_id, key=key, since=act.now))


def finish_step(
    shop: Shop,
    job_id: int,
    key: str,
    *,
    mix: MixPlan | None = None,
    cents: str = "",
    strings: Mapping[str, Mapping[str, float]] | None = None,
    playing: Mapping[str, Any] | None = None,
    took: str = "",
    closes: bool | None = None,
    nothing_presses: bool | None = None,
    latches_hold: bool | None = None,
    packed: Collection[str] | None = None,
) -> int | None:
    """Finish a step: supplies are taken from stock, its wait starts, the wait that it ends is over.

    Args:
        mix: for a mix step, the mix as made; the house's recipe if not given.
        cents: for a retune, how flat the string was, as typed; may stay empty. strings: for a retune or a test, what
            was heard of each string, as :func:`creekbed.workshop.bench.tuning.readings_of` gives it. playing: for a
            test, what was heard of its notes, as :func:`creekbed.workshop.inspection.playing.kept` gives it.
        took: for a lubricant that is noted for each instrument, how much it took, as typed; may stay empty.
        closes, nothing_presses: for repacking, what was seen. latches_hold: every latch and zip was tugged while it
            stood, and it was lifted a hand's breadth with a hand beneath. packed: the pieces that were put in, one by
            one; not given: nobody was asked.

    Returns:
        The number of the lot that a mix step made.

    Raises:
        Refused: something comes before it, a wait is not over, contents or checks are missing, stock is short.
        BadInput: a reading that cannot be true.
    """
    with shop.act("step.done") as act:
        view = need_job(shop, act.records, job_id, act.now)
        step = ready_step(view, key, act).step
        data: dict[str, Any] = {}
        if step.kind == "contents":
            need_contents(view)
        elif step.kind == "look":
            need_checks(view, step)
        elif step.kind == "send":
            raise Refused("Say to whom it goes.", todo="Use “Send out …”.")
        elif step.kind == "mix":
            data = _mix(shop, act, view, mix)
        elif step.kind == "retune":
            data = _retune(view, cents, act)
            step = _with_reading(shop, view, step, data, act.now)
            _note_drop(act, view, data)
        if strings:
            data["strings"] = {string: dict(read) for string, read in strings.items()}
        need_rinsed(shop, view, step)
        need_borne(shop, view, step)
        if playing:
            _note_playing(shop, act, view, key, playing)
        if step.kind == "pack":
            pieces = None if packed is None else need_packed(view, packed)
            data = _packed(closes, nothing_presses, latches_hold) | ({} if pieces is None else {"pieces": pieces})
        step, used_up = _used_up(shop, act, view, step, took)
        data |= used_up
        draw_supplies(shop, act, step.supplies, f"{view.tag}: {step.key}", job_id)
        end_waits_of(shop, act, view, step)
        _record(shop, act, view, step, "done", "", data)
        if step.wait is not None:
            act.records.add(new_wait(shop, view, step, act, drying_factor(shop, step, act)))
            note_vessel(shop, act, view, step)
        act.tag, act.words = view.tag, f"{view.tag}: {step.what}"
        return data.get("lot") if step.kind == "mix" else None


def _packed(closes: bool | None, nothing_presses: bool | None, latches_hold: bool | None) -> dict[str, Any]:
    """The answers about the packed case.

    Raises:
        Refused: it does not close, something presses, or its latches were not tried.
    """
    if not (closes and nothing_presses):
        raise Refused(
            "The lid must close without force, with nothing pressing on the instrument.", todo="Repack it, then say so."
        )
    if not latches_hold:
        raise Refused(
            "A lid closes by itself; latches do not.",
            todo="Tug each latch and zip while it stands, lift it a hand's breadth, then say so.",
        )
    return {"closes": True, "nothing_presses": True, "latches_hold": True}


def _used_up(shop: Shop, act: Act, view: JobView, step: BuiltStep, took: str) -> tuple[BuiltStep, dict[str, Any]]:
    """Count the cloth, the lubricant and the tray that a step takes; the step with what it took, and what is noted."""
    data: dict[str, Any] = {}
    taken = None
    if step.bores:
        taken = cloth_in(act.records, shop, view.family, step.bores, step.cloth)
    if taken is not None:
        data = {"cloth": taken[0].cloth.key, "pulls": step.pulls}
        used(act, taken[0], fresh=step.fresh)
    stuff = stuff_of(step, taken[0].cloth.stuff if taken is not None else "")
    if stuff:
        take(act, stuff)
    if step.logs is not None and took.strip():
        amount = parse_quantity(took, "milliliter", what="What it took", minimum=0.0, maximum=MOST_TOOK_ML)
        note_took(act, view.tag, step.logs, amount)
        data["took_ml"] = amount
        step = replace(step, supplies=tuple((i, amount if i == step.logs else a) for i, a in step.supplies))
    if step.kind == "apart":
        keep_tray(act, view)
    return step, data


def _mix(shop: Shop, act: Act, view: JobView, mix: MixPlan | None) -> dict[str, Any]:
    recipe = shop.catalogue.house.recipe[0]
    plan = mix or plan_mix_in(act.records, shop, recipe)
    made = make_mix(shop, act, plan, view.job.id)
    return {
        "stock_ml": plan.bottle_ml, "diluent_ml": plan.mix.diluent_rounded_ml,
        "strength_pct": made.strength_pct, "lot": made.id,
    }  # fmt: skip


def _retune(view: JobView, text: str, act: Act) -> dict[str, Any]:
    if not text.strip():
        return {}
    cents = parse_quantity(text, "cent", what="How flat it was", minimum=-100.0, maximum=600.0)
    hung = hung_at(view.all_work)
    if hung is None:
        return {"cents": None}
    # a retune that was skipped turned no peg: what was read since then came since the one before
    tuned = [w.at for w in view.all_work if w.state == "done" and w.key.startswith(("string_on", "retune_"))]
    start = (max([hung, *tuned]) - hung).total_seconds() / 60
    end = (act.now - hung).total_seconds() / 60
    if end - start < 0.5:
        return {"cents": None}
    from creekbed.core.strings.forecast import Drop  # the window opens without it

    Drop(start, end, cents)  # what no settling string shows is refused here, where it can be read again
    return {"cents": cents, "from_min": start, "to_min": end}


def _note_drop(act: Act, view: JobView, data: Mapping[str, Any]) -> None:
    """What was read of the new strings teaches of the next ones."""
    if data.get("cents") is not None:
        act.records.add(StringDrop(
            job_id=view.job.id, family=view.family.key, from_min=data["from_min"], to_min=data["to_min"],
            cents=data["cents"], at=act.now,
        ))  # fmt: skip


def retune_again(shop: Shop, job_id: int, text: str) -> None:
    """Retune new strings once more than the steps ask, so that they hold the better.

    Args:
        text: how flat they were, as typed; may stay empty.

    Raises:
        Refused: no new strings hang, or a planned retune is still to do. BadInput: a reading that cannot be true.
    """
    with shop.act("step.done") as act:
        view = need_job(shop, act.records, job_id, act.now)
        if not has_new_strings(view) or any(s.step.kind == "retune" for s in view.open_steps):
            raise Refused("The retunes of its steps come first.", todo="Do the next step.")
        data = _retune(view, text, act)
        _note_drop(act, view, data)
        number = 1 + max(int(w.key.removeprefix("retune_")) for w in view.all_work if w.key.startswith("retune_"))
        act.records.add(
            StepRecord(
                job_id=job_id, key=f"retune_{number}", what="Retuned once more", stage="settle", state="done",
                at=act.now, data=data, person=shop.person,
            )
        )  # fmt: skip
        act.tag, act.words = view.tag, f"{view.tag}: retuned once more"


def _with_reading(shop: Shop, view: JobView, step: BuiltStep, data: dict[str, Any], now: datetime) -> BuiltStep:
    """The same step with the wait that follows from the retune and what was read before it."""
    hung = hung_at(view.all_work)
    if hung is None:
        return step
    situation = replace(view.situation, retuned_min=(*view.situation.retuned_min, (now - hung).total_seconds() / 60))
    if data.get("cents") is not None:
        drop = (float(data["from_min"]), float(data["to_min"]), float(data["cents"]))
        situation = replace(situation, drops=(*situation.drops, drop))
    return next(s for s in build(shop.catalogue, situation) if s.key == step.key)


def _record(
    shop: Shop, act: Act, view: JobView, step: BuiltStep, state: str, reason: str, data: dict[str, Any]
) -> None:
    """Put on record that a step is done or skipped; whoever had it in hand has it no longer."""
    held, last = act.records.steps.hand_of(shop.person)
    since, minutes = _clear_hand(act, held, view.job.id, step.key), None
    if since is not None:
        minutes = round((act.now - since).total_seconds() / 60, 2)
    elif held is None and last is not None and state == "done":
        minutes = _in_one_go(act, step, last)
    if minutes is not None:
        data = {**data, "house_min": step.hands_min}
    if step.policy:
        data = {**data, "policy": step.policy}
    for old in view.all_work:
        if old.key == step.key:  # a failed try before
            act.records.remove(old)
    act.records.add(
        StepRecord(
            job_id=view.job.id, key=step.key, what=step.what, stage=step.stage, state=state, reason=reason,
            at=act.now, minutes=minutes, data=data, person=shop.person,
        )
    )  # fmt: skip


ONE_GO = 3.0
"""A step that is done without having been taken up counts as begun when the last one was done, if it then took no more
than so many times the house default, and no less than its part: house default."""


def _in_one_go(act: Act, step: BuiltStep, since: datetime) -> float | None:
    """Minutes since this person finished something, where that is a believable length for the step."""
    if not step.hands_min:
        return None
    minutes = (act.now - since).total_seconds() / 60
    return round(minutes, 2) if 1 / ONE_GO <= minutes / step.hands_min <= ONE_GO else None


def _clear_hand(act: Act, held: InHand | None, job_id: int, key: str) -> datetime | None:
    """Put down what somebody holds, if it is this step; since when it was held then."""
    if held is None or held.job_id != job_id or held.key != key:
        return None
    act.records.remove(held)
    return held.since


def waive_step(shop: Shop, job_id: int, key: str, reason: str) -> None:
    """Skip a step, for a reason. Contents, inspection and repacking cannot be skipped.

    Raises:
        BadInput: no reason. Refused: this one cannot be left out, or its turn has not come.
    """
    reason = need_reason(reason)
    with shop.act("step.waive") as act:
        view = need_job(shop, act.records, job_id, act.now)
        found = ready_step(view, key, act)
        if found.step.kind in ("contents", "look", "pack", "send"):
            raise Refused("This step cannot be skipped.")
        if found.step.tension == "loosens" or (found.step.stage == "after" and not found.step.optional):
            raise Refused(
                "What was played is not put away as it is: this step cannot be skipped.",
                todo="Further pulls and pads may be, when time is short.",
            )
        if found.step.ends is not None and found.step.agent is not None:
            raise Refused("What was laid in must be taken out and rinsed.")
        left = left_on(shop.catalogue.agents, uses_of_parts(view))
        if set(found.step.agents) & WATERS and any(left.get(part) for part in found.step.touches):
            raise Refused("What was brought to it must be rinsed off.", todo="Do the rinse.")
        end_waits_of(shop, act, view, found.step)
        _record(shop, act, view, found.step, "waived", reason, {})
        act.tag, act.words = view.tag, f"{view.tag}: skipped: {found.step.what} ({reason})"


def _note_playing(shop: Shop, act: Act, view: JobView, key: str, playing: Mapping[str, Any]) -> None:
    act.records.add(Playing(job_id=view.job.id, tag=view.tag, key=key, at=act.now, person=shop.person, **playing))


def fail_test(shop: Shop, job_id: int, key: str, words: str, playing: Mapping[str, Any] | None = None) -> None:
    """The play-test failed: it becomes a finding that somebody must close before the test is done again.

    Args:
        playing: what was heard of its notes, as :func:`creekbed.workshop.inspection.playing.kept` gives it.

    Raises:
        BadInput: no words. Refused: this step is no test, or its turn has not come.
    """
    words = need_reason(words)
    with shop.act("test.failed") as act:
        view = need_job(shop, act.records, job_id, act.now)
        step = ready_step(view, key, act).step
        if step.kind != "test":
            raise Refused("This step is no test.")
        reason = f"{test_name(key)}: {words}"
        failed: dict[str, Any] = {
            "band": "act",
            "verdict": "specialist",
            "reason": reason,
            "at": act.now,
            "person": shop.person,
        }
        finding = view.findings.get(key)
        if finding is None:
            act.records.add(Finding(job_id=job_id, check=key, **failed))
        else:
            earlier = earlier_rows(finding, view.all_work, act.now)
            act.records.update(finding, overruled="", overrule_reason="", closed="", earlier=earlier, **failed)
        if playing:
            _note_playing(shop, act, view, key, playing)
        _clear_hand(act, act.records.get(InHand, shop.person), job_id, key)
        act.tag, act.words = view.tag, f"{view.tag}: {test_name(key).lower()} failed: {words}"
