"""What somebody set to begin at a time: the plan goes round it."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from creekbed.core.errors import Refused
from creekbed.store.tables import Job
from creekbed.workshop.intake import need_job
from creekbed.workshop.people import workers
from creekbed.workshop.problem import LOCKS
from creekbed.workshop.shop import Shop


def lock(shop: Shop, job_id: int, key: str, person: str, at: datetime) -> None:
    """Set a step to begin at a time, with somebody's hands; it begins later only where it must.

    Raises:
        Refused: the step is not open, nobody of that name works here, or they cannot do it.
    """
    with shop.act("lock") as act:
        view = need_job(shop, act.session, job_id, act.now)
        step = view.step(key)
        if step is None or step.work is not None:
            raise Refused("This step is not open any more.", todo="Look at what comes next.")
        who = next((w for w in workers(shop) if w.key == person), None)
        if who is None:
            raise Refused(f"{person} does not work here.")
        if who.skills and step.step.skill not in who.skills:
            raise Refused(f"{person} is a helper; this step wants a technician.", todo="Give it to somebody else.")
        rows = [r for r in _rows(shop) if r[:2] != [job_id, key]]
        shop.keep_setting(act, LOCKS, [*rows, [job_id, key, person, max(at, act.now).isoformat()]])
        act.tag = view.tag
        act.words = f"{view.tag}: set to {at.astimezone():%a %H:%M} with {person}: {step.step.what}"


def unlock(shop: Shop, job_id: int, key: str) -> None:
    """Let the plan place a step where it likes again.

    Raises:
        Refused: it was not set.
    """
    rows = _rows(shop)
    rest = [r for r in rows if r[:2] != [job_id, key]]
    if len(rest) == len(rows):
        raise Refused("This step was not set to a time.")
    with shop.act("unlock") as act:
        job = act.session.get(Job, job_id)
        shop.keep_setting(act, LOCKS, rest)
        act.tag = job.tag if job is not None else ""
        act.words = f"{act.tag}: the plan may move it again"


def _rows(shop: Shop) -> list[list[Any]]:
    return [list(r) for r in shop.setting(LOCKS) or []]
