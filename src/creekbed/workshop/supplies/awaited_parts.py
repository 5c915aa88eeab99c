"""A step that waits for a part: what is on its way, when it comes, and that it is here."""

from __future__ import annotations

from datetime import datetime

from creekbed.core.conventions import clock
from creekbed.core.errors import BadInput, Refused
from creekbed.store.records import AwaitedPart, Job
from creekbed.workshop.arrival.intake import need_job
from creekbed.workshop.shop.shop import Shop


def wait_for(shop: Shop, job_id: int, step: str, what: str, at: datetime | None) -> None:
    """A step waits for a part until it comes; said again of the same part, the new time counts.

    Args:
        what: the part, in the words of a missing piece of the case where it is one.

    Raises:
        BadInput: nothing named, no time, or one that has passed. Refused: the step is not open.
    """
    what = " ".join(what.split()).strip(" ,.")[:80]
    if len(what) < 3:
        raise BadInput("What is it that is missing?", todo="Such as “end plug, Fri 10:15”.")
    if at is None:
        raise BadInput(f"When does it come, “{what}”?", todo="Say it behind a comma: “end plug, Fri 10:15”.")
    if at <= shop.now:
        raise BadInput("That time has passed.", todo="When it is here, the step can be done.")
    with shop.act("part.awaited") as act:
        view = need_job(shop, act.records, job_id, act.now)
        open_ = view.step(step)
        if open_ is None or open_.work is not None:
            raise Refused("This step is not open any more.", todo="Look at what comes next.")
        pieces = (i for i in view.family.item if i.name.lower() == what.lower())
        item = next((i.key for i in pieces if i.key in view.lines and view.lines[i.key].state == "missing"), "")
        for part in act.records.all_of(AwaitedPart, job_id=job_id, key=step):
            if part.what.lower() == what.lower():
                act.records.remove(part)
        act.records.add(AwaitedPart(job_id=job_id, key=step, what=what, item=item, at=at))
        act.tag, act.words = view.tag, f"{view.tag}: {what} comes {clock(at, '%a ')}"


def is_here(shop: Shop, job_id: int, step: str) -> None:
    """What a step waits for has come.

    Raises:
        Refused: it waits for nothing.
    """
    with shop.act("part.here") as act:
        parts = act.records.all_of(AwaitedPart, job_id=job_id, key=step)
        if not parts:
            raise Refused("This step waits for no part.")
        for part in parts:
            act.records.remove(part)
        job = act.records.get(Job, job_id)
        act.tag = job.tag if job is not None else ""
        act.words = f"{act.tag}: {', '.join(p.what for p in parts)} is here"
