"""Doing the job: steps, waits, and what is in whose hands."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.contact import Contact
from creekbed.core.hygiene.residue import WATERS, Use, clashes_with, left_on
from creekbed.core.hygiene.together import never_together
from creekbed.core.planning.plan_words import span
from creekbed.core.procedure.build import BuiltStep, build, refusals
from creekbed.core.units import parse_quantity
from creekbed.store.tables import Disinfection, Finding, InHand, Instrument, Job, Lot, StockMove, Wait, Work
from creekbed.workshop.arrival.intake import expected_items, need_job, need_reason
from creekbed.workshop.bench.job_view import JobView, StepView, wait_view
from creekbed.workshop.cleaning.cloths import cloth_for, used
from creekbed.workshop.cleaning.dryness import is_damp
from creekbed.workshop.cleaning.shelf import note_took, stuff_of, take
from creekbed.workshop.cleaning.trays import keep_tray
from creekbed.workshop.release.release_check import test_name
from creekbed.workshop.shop.room_climate import air_now
from creekbed.workshop.shop.shop import Act, Shop
from creekbed.workshop.supplies.stock import MixPlan, draw_from_lots, make_mix, plan_mix

MOST_TOOK_ML = 50.0
"""No slide takes more lubricant at once, ml: house default."""


def take_up(shop: Shop, job_id: int, key: str) -> None:
    """Take a step in hand; what was in hand before is put aside.

    Raises:
        Refused: the step is not ready.
    """
    with shop.act("take_up") as act:
        view = need_job(shop, act.session, job_id, act.now)
        step = _ready_step(view, key, act)
        _set_in_hand(shop, act, job_id, key)
        act.tag, act.words = view.tag, f"{view.tag}: taken up: {step.step.what}"


def put_aside(shop: Shop) -> None:
    """Nothing is in hand now.

    Raises:
        Refused: nothing was.
    """
    with shop.act("put_aside") as act:
        held = act.session.get(InHand, shop.person)
        if held is None:
            raise Refused("Nothing is in hand.")
        job = act.session.get(Job, held.job_id)
        act.session.delete(held)
        act.tag = job.tag if job is not None else ""
        act.words = f"{act.tag}: put aside"


def _set_in_hand(shop: Shop, act: Act, job_id: int, key: str) -> None:
    held = act.session.get(InHand, shop.person)
    if held is None:
        act.session.add(InHand(person=shop.person, job_id=job_id, key=key, since=act.now))
    else:
        held.job_id, held.key, held.since = job_id, key, act.now


def _ready_step(view: JobView, key: str, act: Act) -> StepView:
    if view.blocked:
        raise Refused(f"{view.tag} cannot go on. {view.blocked}.", todo="Lift that first.")
    step = view.step(key)
    if step is None:
        raise Refused("This step does not belong to the job any more.", todo="Look at what comes next.")
    if step.work is not None:
        raise Refused("This step is done already.", todo="Look at what comes next.")
    if view.kept_back(step.step):
        raise Refused(
            f"{view.tag} is in quarantine.",
            todo=f"First: {view.treatment}." if view.treatment else "When what runs is over, look again, then lift it.",
        )
    if step.state == "later":
        missing = [b.step.what for b in view.steps if b.step.key in step.step.after and b.work is None]
        raise Refused("Something comes before it.", todo=f"First: {missing[0]}." if missing else "")
    if step.state == "waiting" and step.until is not None:
        left = (step.until - act.now).total_seconds() / 60
        part = next((p for p in step.parts if p.at > act.now), None)
        if part is not None:
            raise Refused(f"It waits for this: {part.words}.",
                          todo="When that is here, say so.")  # fmt: skip
        dried = any(w.dry for w in view.waits if w.key in (step.step.ends, *step.step.after))
        if dried:
            raise Refused("It has dried; the contact time starts again.", todo="Wet it again.")
        raise Refused(
            f"Not yet: {span(left)} are missing.",
            todo="A contact time cannot be cut short; a drying time can, with a reason.",
        )
    return step


def finish_step(
    shop: Shop,
    job_id: int,
    key: str,
    *,
    mix: MixPlan | None = None,
    cents: str = "",
    took: str = "",
    closes: bool | None = None,
    nothing_presses: bool | None = None,
    latches_hold: bool | None = None,
) -> int | None:
    """A step is done: supplies are drawn, its wait starts, the wait it ends is over.

    Args:
        mix: for a mix step, the mix as made; the house's recipe if not given.
        cents: for a retune, how flat the string was, as typed; may stay empty.
        took: for a lubricant that is noted for each instrument, how much it took, as typed; may stay empty.
        closes, nothing_presses: for repacking, what was seen. latches_hold: every latch and zip was tugged while it
            stood, and it was lifted a hand's breadth with a hand beneath.

    Returns:
        The number of the lot that a mix step made.

    Raises:
        Refused: something comes before it, a wait is not over, contents or checks are missing, stock is short.
        BadInput: a reading that cannot be true.
    """
    with shop.act("step.done") as act:
        view = need_job(shop, act.session, job_id, act.now)
        step = _ready_step(view, key, act).step
        data: dict[str, Any] = {}
        if step.kind == "contents":
            _need_contents(view)
        elif step.kind == "look":
            _need_checks(view)
        elif step.kind == "mix":
            data = _mix(shop, act, view, mix)
        elif step.kind == "retune":
            data = _retune(view, step, cents, act)
            step = _with_reading(shop, view, step, data)
        _need_rinsed(shop, view, step)
        _need_borne(shop, view, step)
        if step.kind == "pack":
            if not (closes and nothing_presses):
                raise Refused(
                    "The lid must close without force, with nothing pressing on the instrument.",
                    todo="Repack it, then say so.",
                )
            if not latches_hold:
                raise Refused(
                    "A lid closes by itself; latches do not.",
                    todo="Tug each latch and zip while it stands, lift it a hand's breadth, then say so.",
                )
            data = {"closes": True, "nothing_presses": True, "latches_hold": True}
        taken = cloth_for(shop, view.family, step.part, step.cloth) if step.path is not None and step.part else None
        if taken is not None:
            data = {**data, "cloth": taken[0].cloth.key, "pulls": step.pulls}
            used(shop, act, taken[0], fresh=step.fresh)
        stuff = stuff_of(step, taken[0].cloth.stuff if taken is not None else "")
        if stuff:
            take(shop, act, stuff)
        if step.logs is not None and took.strip():
            amount = parse_quantity(took, "milliliter", what="What it took", minimum=0.0, maximum=MOST_TOOK_ML)
            note_took(shop, act, view.tag, step.logs, amount)
            data = {**data, "took_ml": amount}
            step = replace(step, supplies=tuple((i, amount if i == step.logs else a) for i, a in step.supplies))
        if step.kind == "apart":
            keep_tray(shop, act, view)
        for item, amount in step.supplies:
            draw_from_lots(shop, act, item, amount, f"{view.tag}: {step.key}", job_id)
        _end_waits(shop, act, view, step)
        _record(shop, act, view, step, "done", "", data)
        if step.wait is not None:
            act.session.add(_new_wait(view, step, act, _slower(shop, step, act)))
            _note_vessel(shop, act, view, step)
        _clear_hand(act.session, shop.person, job_id, key)
        act.tag, act.words = view.tag, f"{view.tag}: {step.what}"
        return data.get("lot") if step.kind == "mix" else None


def _uses(view: JobView) -> list[Use]:
    """What was brought to the parts of this instrument in this job, in the order in which it was done."""
    known = {s.key: s for s in view.family.step}
    uses = []
    for work in (w for w in view.all_work if w.state == "done"):  # in the order in which it was done
        done = known.get(work.key.partition(".")[0])
        if done is not None and done.agents:
            uses.append(Use(frozenset(done.touches), frozenset(done.agents), done.rinses))
    return uses


def _need_rinsed(shop: Shop, view: JobView, step: BuiltStep) -> None:
    """No agent follows another on a part where the two must never meet, unless it was rinsed between."""
    uses = _uses(view)
    following = Use(frozenset(step.touches), frozenset(step.agents))
    agents, never = shop.catalogue.agents, shop.catalogue.never.values()
    clashes = [c for c in clashes_with(agents, never, uses, following) if c[1].kind != "useless"]
    if clashes:
        part, clash = clashes[0]
        found = view.family.find_part(part)
        name = found.name if found is not None else part
        raise Refused(
            f"On the {name} there is still {agents[clash.first].name}: with {agents[clash.second].name} it makes "
            f"{clash.forms}.",
            todo="Rinse the part with plenty of cool water first, and do the rinsing step.",
        )


def _need_borne(shop: Shop, view: JobView, step: BuiltStep) -> None:
    """Nothing comes to a part that does not bear it; so it is with a material that has no entry."""
    found = refusals(shop.catalogue, view.situation, step.touches, step.agents, step.exposure)
    if found:
        raise Refused(found[0], todo="Leave the step out and say why, or say at “Made of” what the part is made of.")


def _need_contents(view: JobView) -> None:
    left = [i.name for i in expected_items(view) if i.key not in view.lines]
    if left:
        raise Refused(f"Not ticked yet: {', '.join(left)}.", todo="Tick each piece, or “The rest is here”.")


def _need_checks(view: JobView) -> None:
    missing = [c.name for c in view.needed if c.key not in view.findings]
    if missing:
        raise Refused(f"Not looked at yet: {', '.join(missing)}.", todo="Do each check.")
    unsure = [f for f in view.findings.values() if f.band == "again" and not f.overruled]
    if unsure:
        names = ", ".join(view.family.find_check(f.check).name for f in unsure)
        raise Refused(f"Not sure yet: {names}.", todo="Measure again, or decide with a reason.")


def _mix(shop: Shop, act: Act, view: JobView, mix: MixPlan | None) -> dict[str, Any]:
    recipe = shop.catalogue.house.recipe[0]
    plan = mix or plan_mix(shop, recipe)
    made = make_mix(shop, act, plan, view.job.id)
    return {
        "stock_ml": plan.bottle_ml, "diluent_ml": plan.mix.diluent_rounded_ml,
        "strength_pct": made.strength_pct, "lot": made.id,
    }  # fmt: skip


def _retune(view: JobView, step: BuiltStep, text: str, act: Act) -> dict[str, Any]:
    if not text.strip():
        return {}
    cents = parse_quantity(text, "cent", what="How flat it was", minimum=-100.0, maximum=600.0)
    times = sorted(
        (w.at for w in view.all_work if w.key.startswith("string_on") or w.key in ("hang", "retune_1")), reverse=True
    )
    first = [w.at for w in view.all_work if w.key == "hang"]
    if not first:
        return {"cents": None}
    start = (times[0] - first[0]).total_seconds() / 60
    end = (act.now - first[0]).total_seconds() / 60
    if end - start < 0.5:
        return {"cents": None}
    return {"cents": cents, "from_min": start, "to_min": end}


def _with_reading(shop: Shop, view: JobView, step: BuiltStep, data: dict[str, Any]) -> BuiltStep:
    """The same step with the wait that follows from what was just read."""
    if data.get("cents") is None:
        return step
    drop = (float(data["from_min"]), float(data["to_min"]), float(data["cents"]))
    situation = replace(view.situation, drops=(*view.situation.drops, drop))
    return next(s for s in build(shop.catalogue, situation) if s.key == step.key)


def _record(
    shop: Shop, act: Act, view: JobView, step: BuiltStep, state: str, reason: str, data: dict[str, Any]
) -> None:
    held = act.session.get(InHand, shop.person)
    minutes = None
    if held is not None and held.job_id == view.job.id and held.key == step.key:
        minutes = round((act.now - held.since).total_seconds() / 60, 2)
    elif held is None and state == "done":
        minutes = _in_one_go(shop, act, step)
    if minutes is not None:
        data = {**data, "house_min": step.hands_min}
    if step.school:
        data = {**data, "school": step.school}
    for old in view.all_work:
        if old.key == step.key:  # a failed try before
            act.session.delete(old)
            act.session.flush()
    act.session.add(
        Work(
            job_id=view.job.id, key=step.key, what=step.what, stage=step.stage, state=state, reason=reason,
            at=act.now, minutes=minutes, data=data, person=shop.person,
        )
    )  # fmt: skip


ONE_GO = 3.0
"""A step that is done without having been taken up counts as begun when the last one was done, if it then took no more
than so many times the house default, and no less than its part: house default."""


def _in_one_go(shop: Shop, act: Act, step: BuiltStep) -> float | None:
    """Minutes since this person finished something, where that is a believable length for the step."""
    last = select(Work.at).where(Work.person == shop.person, Work.state == "done").order_by(Work.id.desc()).limit(1)
    since = act.session.scalar(last)
    if since is None or not step.hands_min:
        return None
    minutes = (act.now - since).total_seconds() / 60
    return round(minutes, 2) if 1 / ONE_GO <= minutes / step.hands_min <= ONE_GO else None


def _end_waits(shop: Shop, act: Act, view: JobView, step: BuiltStep) -> None:
    """The wait that a step ends is over, and so is any whose time had run out before this step could begin."""
    running = select(Wait).where(Wait.job_id == view.job.id, Wait.ended_at.is_(None))
    for row in act.session.scalars(running):
        contact = wait_view(row, view.tag, act.now).contact
        if row.key != step.ends and not (row.key in step.after and contact.may_end):
            continue
        if is_damp(shop.catalogue, row):
            raise Refused(
                f"{row.name}: by its weight it is not dry yet.", todo="Weigh it again, or end the wait with a reason."
            )
        row.ended_at, row.ended_why = act.now, "done"
        if row.wet:
            _evidence(act, view, row, contact, shop.person)
        if contact.over > timedelta(0):
            late = span(contact.over.total_seconds() / 60)
            row.ended_why = f"{late} past its longest time"
            act.notes.append(f"{row.name}: ended {late} past the longest time; it is on record. Look at the part.")


def _evidence(act: Act, view: JobView, wait: Wait, contact: Contact, person: str) -> None:
    """Put on record what was disinfected, with what, how long and by whom."""
    wetted = view.step(wait.key)
    if wetted is None or wait.wet_since is None:
        return
    step = wetted.step
    items = [item for item, _ in step.supplies]
    query = (
        select(Lot).join(StockMove, StockMove.lot_id == Lot.id)
        .where(StockMove.job_id == view.job.id, Lot.item.in_(items), StockMove.amount < 0)
        .order_by(StockMove.id.desc())
    )  # fmt: skip
    lot = act.session.scalars(query).first() if items else None
    part = view.family.find_part(step.part or "")
    act.session.add(
        Disinfection(
            job_id=view.job.id, part=part.name if part is not None else step.part or "", agent=step.agent or "",
            lot=lot.lot if lot is not None else "", strength_pct=lot.strength_pct if lot is not None else None,
            began_at=wait.wet_since, ended_at=act.now, required_min=wait.min_minutes,
            wet_min=round(contact.wet_for.total_seconds() / 60, 2), restarts=wait.restarts,
            over_min=round(contact.over.total_seconds() / 60, 2), person=person,
        )
    )  # fmt: skip


SLOWEST, FASTEST, TELL = 2.0, 0.7, 0.1
"""How far the room's air may stretch or shorten a drying, and from what share on it is said: house default."""


def _slower(shop: Shop, step: BuiltStep, act: Act) -> float:
    """By how much longer something dries in the room's air than in the house's; 1 where nobody has read it."""
    assert step.wait is not None
    room = air_now(shop)
    if room is None or not (step.wait.place == "rack" and not step.wait.wet and step.wait.max_minutes is None):
        return 1.0
    from creekbed.core.climate.drying import rate_ratio

    limits = shop.catalogue.house.limits
    try:
        factor = rate_ratio(room[0], room[1], limits.room_c, limits.room_rh)
    except BadInput:  # air full of water
        factor = SLOWEST
    factor = min(max(factor, FASTEST), SLOWEST)
    if abs(factor - 1) > TELL:
        word = "slower" if factor > 1 else "faster"
        act.notes.append(f"The room stands at {room[0]:.0f} °C and {room[1]:.0%}: it dries {word}, that is counted")
    return factor


def _note_vessel(shop: Shop, act: Act, view: JobView, step: BuiltStep) -> None:
    """Say which agents lie in the same place already that must not come into the same water."""
    assert step.wait is not None
    query = select(Wait, Job.tag).join(Job, Job.id == Wait.job_id).where(
        Wait.ended_at.is_(None), Wait.place == step.wait.place, Wait.job_id != view.job.id
    )  # fmt: skip
    for wait, tag in act.session.execute(query):
        instrument = act.session.get(Instrument, tag)
        if instrument is None or instrument.family not in shop.catalogue.families:
            continue
        theirs = next(
            (s for s in shop.catalogue.family(instrument.family).step if s.key == wait.key.partition(".")[0]), None
        )
        if theirs is None:
            continue
        named = {*theirs.agents, *step.agents}
        clashes = never_together(shop.catalogue.agents, shop.catalogue.never.values(), named)
        bad = [c for c in clashes if c.kind != "useless" and {c.first, c.second} & set(theirs.agents)]
        if bad:
            act.notes.append(f"Not into the water of {tag}: {bad[0].forms.rstrip('.')}. Take another vessel")
            return


def _new_wait(view: JobView, step: BuiltStep, act: Act, longer: float = 1.0) -> Wait:
    assert step.wait is not None
    return Wait(
        job_id=view.job.id,
        key=step.key,
        name=step.wait.name,
        place=step.wait.place,
        at_end=step.wait.at_end,
        started_at=act.now,
        wet_since=act.now if step.wait.wet else None,
        wet=step.wait.wet,
        restarts=0,
        min_minutes=round(step.wait.min_minutes * longer, 1),
        max_minutes=step.wait.max_minutes,
        ended_why="",
        detail=step.amount,
    )


def _clear_hand(session: Session, person: str, job_id: int, key: str) -> None:
    held = session.get(InHand, person)
    if held is not None and held.job_id == job_id and held.key == key:
        session.delete(held)


def waive_step(shop: Shop, job_id: int, key: str, reason: str) -> None:
    """Leave a step out, for a reason. Contents, looking over and repacking cannot be left out.

    Raises:
        BadInput: no reason. Refused: this one cannot be left out, or its turn has not come.
    """
    reason = need_reason(reason)
    with shop.act("step.waive") as act:
        view = need_job(shop, act.session, job_id, act.now)
        found = _ready_step(view, key, act)
        if found.step.kind in ("contents", "look", "pack"):
            raise Refused("This step cannot be left out.")
        if found.step.tension == "loosens" or (found.step.stage == "after" and not found.step.optional):
            raise Refused(
                "What was played is not put away as it is: this step cannot be left out.",
                todo="Further pulls and pads may be, when time is short.",
            )
        if found.step.ends is not None and found.step.agent is not None:
            raise Refused("What was laid in must be taken out and rinsed.")
        left = left_on(shop.catalogue.agents, _uses(view))
        if set(found.step.agents) & WATERS and any(left.get(part) for part in found.step.touches):
            raise Refused("What was brought to it must be rinsed off.", todo="Do the rinse.")
        _end_waits(shop, act, view, found.step)
        _record(shop, act, view, found.step, "waived", reason, {})
        _clear_hand(act.session, shop.person, job_id, key)
        act.tag, act.words = view.tag, f"{view.tag}: left out: {found.step.what} ({reason})"


def fail_test(shop: Shop, job_id: int, key: str, words: str) -> None:
    """The play-test failed: it becomes a finding that somebody must close before the test is done again.

    Raises:
        BadInput: no words. Refused: this step is no test, or its turn has not come.
    """
    words = need_reason(words)
    with shop.act("test.failed") as act:
        view = need_job(shop, act.session, job_id, act.now)
        step = _ready_step(view, key, act).step
        if step.kind != "test":
            raise Refused("This step is no test.")
        finding = view.findings.get(key)
        if finding is None:
            finding = Finding(job_id=job_id, check=key, readings=[], choice="", places={})
            act.session.add(finding)
        finding.band, finding.verdict, finding.reason = "act", "specialist", f"{test_name(key)}: {words}"
        finding.overruled = finding.overrule_reason = finding.closed = ""
        finding.at, finding.person = act.now, shop.person
        _clear_hand(act.session, shop.person, job_id, key)
        act.tag, act.words = view.tag, f"{view.tag}: {test_name(key).lower()} failed: {words}"


def rewet(shop: Shop, wait_id: int) -> None:
    """Wet again: a surface still wet goes on; one that had dried starts from nothing."""
    with shop.act("wait.rewet") as act:
        row, tag = _running_wait(act, wait_id)
        if row.wet_since is None:
            row.wet_since = act.now
        act.tag, act.words = tag, f"{tag}: {row.name.lower()}: wetted again"


def dried(shop: Shop, wait_id: int) -> None:
    """The surface dried: the contact time starts again at the next wetting.

    Raises:
        Refused: it is dry already.
    """
    with shop.act("wait.dried") as act:
        row, tag = _running_wait(act, wait_id)
        if row.wet_since is None:
            raise Refused("It stands dry already.", todo="Wet it again.")
        row.wet_since = None
        row.restarts += 1
        act.tag, act.words = tag, f"{tag}: {row.name.lower()}: dried, the time starts again"


def end_early(shop: Shop, wait_id: int, reason: str) -> None:
    """End a drying, airing or settling wait before its time, for a reason.

    Raises:
        Refused: a contact time. BadInput: no reason.
    """
    reason = need_reason(reason)
    with shop.act("wait.early") as act:
        if wait_id < 0:  # a shut case: not a wait of a step, but of the whole job
            view = need_job(shop, act.session, -wait_id, act.now)
            view.job.release_at = act.now
            act.tag, act.words = view.tag, f"{view.tag}: the case is opened early: {reason}"
            return
        row, tag = _running_wait(act, wait_id)
        if row.wet:
            raise Refused("A contact time cannot be cut short.", todo="Keep it wet until the label's time has passed.")
        row.ended_at, row.ended_why = act.now, reason
        act.tag, act.words = tag, f"{tag}: {row.name.lower()} ended early: {reason}"


def _running_wait(act: Act, wait_id: int) -> tuple[Wait, str]:
    row = act.session.get(Wait, wait_id)
    if row is None or row.ended_at is not None:
        raise Refused("That wait is over.")
    job = act.session.get(Job, row.job_id)
    if job is None:
        raise BadInput("That wait belongs to no job.")
    return row, job.tag
