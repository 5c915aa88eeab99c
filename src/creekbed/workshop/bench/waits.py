"""Waits that run: wetting again, drying out, ending early, what a contact time leaves on record."""

from __future__ import annotations

from datetime import timedelta

from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.contact import Contact
from creekbed.core.hygiene.together import never_together
from creekbed.core.procedure.built import BuiltStep
from creekbed.store.records import Disinfection, Job, Wait
from creekbed.words.drying import damp_by_weight, look_at_part, other_vessel, past_longest, room_dries
from creekbed.words.times import span
from creekbed.workshop.arrival.intake import need_job, need_reason
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.bench.wait_view import wait_view
from creekbed.workshop.cleaning.dryness import is_damp
from creekbed.workshop.shop.room_climate import air_in
from creekbed.workshop.shop.shop import Act, Shop

TOGETHER = ("tub", "bath", "sink")
"""Places that take pieces of several instruments at once, in one water."""


def end_waits_of(shop: Shop, act: Act, view: JobView, step: BuiltStep) -> None:
    """The wait that a step ends is over, and so is any whose time had run out before this step could begin."""
    over: dict[str, list[Wait]] = {}
    for row in view.running:
        contact = wait_view(row, view.tag, act.now, clocks=shop.time.clocks).contact
        if row.key != step.ends and not (row.key in step.after and contact.may_end):
            continue
        if is_damp(shop.catalogue, row):
            raise Refused(damp_by_weight(row.name), todo="Weigh it again, or end the wait with a reason.")
        why = "done"
        if row.wet:
            _evidence(act, view, row, contact, shop.person)
        if contact.over > timedelta(0):
            late = span(contact.over.total_seconds() / 60)
            why = past_longest(late)
            act.notes.append(look_at_part(row.name, late))
        over.setdefault(why, []).append(row)
    for why, rows in over.items():
        act.records.update_all(rows, ended_at=act.now, ended_why=why)


def _evidence(act: Act, view: JobView, wait: Wait, contact: Contact, person: str) -> None:
    """Put on record what was disinfected, with what, how long and by whom."""
    wetted = view.step(wait.key)
    if wetted is None or wait.wet_since is None:
        return
    step = wetted.step
    items = [item for item, _ in step.supplies]
    lot = act.records.stock.last_drawn(view.job.id, items) if items else None
    part = view.family.find_part(step.part or "")
    act.records.add(
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


def drying_factor(shop: Shop, step: BuiltStep, act: Act) -> float:
    """How many times longer drying takes in the room's air than in the house default's; 1 without a reading."""
    assert step.wait is not None
    if not step.wait.dries:
        return 1.0
    room = air_in(act.records, act.now)
    if room is None:
        return 1.0
    from creekbed.core.climate.drying import rate_ratio

    limits = shop.catalogue.house.limits
    try:
        factor = rate_ratio(room[0], room[1], limits.room_c, limits.room_rh)
    except BadInput:  # air full of water
        factor = SLOWEST
    factor = min(max(factor, FASTEST), SLOWEST)
    if abs(factor - 1) > TELL:
        act.notes.append(room_dries(room[0], room[1], factor > 1))
    return factor


def note_vessel(shop: Shop, act: Act, view: JobView, step: BuiltStep) -> None:
    """Warn of agents that already lie in the same place and must not share the water."""
    assert step.wait is not None
    if step.wait.place not in TOGETHER:
        return
    for wait, tag, family in act.records.jobs.waits_beside(step.wait.place, view.job.id):
        if family not in shop.catalogue.families:
            continue
        theirs = next((s for s in shop.catalogue.family(family).step if s.key == wait.key.partition(".")[0]), None)
        if theirs is None:
            continue
        named = {*theirs.agents, *step.agents}
        clashes = never_together(shop.catalogue.agents, shop.catalogue.never.values(), named)
        bad = [c for c in clashes if c.kind != "useless" and {c.first, c.second} & set(theirs.agents)]
        if bad:
            act.notes.append(other_vessel(tag, bad[0].forms))
            return


def new_wait(shop: Shop, view: JobView, step: BuiltStep, act: Act, longer: float = 1.0) -> Wait:
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
        machine=shop.clock.machine,
    )


def rewet(shop: Shop, wait_id: int) -> None:
    """Wet again: a surface still wet goes on; one that had dried starts from nothing."""
    with shop.act("wait.rewet") as act:
        row, tag = _running_wait(act, wait_id)
        if row.wet_since is None:
            act.records.update(row, wet_since=act.now)
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
        act.records.update(row, wet_since=None, restarts=row.restarts + 1)
        act.tag, act.words = tag, f"{tag}: {row.name.lower()}: dried, the time starts again"


def end_early(shop: Shop, wait_id: int, reason: str) -> None:
    """End a drying, airing or settling wait before its time, for a reason.

    Raises:
        Refused: a contact time. BadInput: no reason.
    """
    reason = need_reason(reason)
    with shop.act("wait.early") as act:
        row, tag = _running_wait(act, wait_id)
        if row.wet:
            raise Refused("A contact time cannot be cut short.", todo="Keep it wet until the label's time has passed.")
        act.records.update(row, ended_at=act.now, ended_why=reason)
        act.tag, act.words = tag, f"{tag}: {row.name.lower()} ended early: {reason}"


def open_case_early(shop: Shop, job_id: int, reason: str) -> None:
    """Open a shut case before it has come to room air, for a reason.

    Raises:
        BadInput: no reason.
    """
    reason = need_reason(reason)
    with shop.act("wait.early") as act:
        view = need_job(shop, act.records, job_id, act.now)
        act.records.update(view.job, release_at=act.now)
        act.tag, act.words = view.tag, f"{view.tag}: the case is opened early: {reason}"


def _running_wait(act: Act, wait_id: int) -> tuple[Wait, str]:
    row = act.records.get(Wait, wait_id)
    if row is None or row.ended_at is not None:
        raise Refused("That wait is over.")
    job = act.records.get(Job, row.job_id)
    if job is None:
        raise BadInput("That wait belongs to no job.")
    return row, job.tag
