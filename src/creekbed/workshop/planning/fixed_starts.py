"""What somebody set to begin at a time: the plan goes round it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from creekbed.core.errors import Refused
from creekbed.store.tables import Job
from creekbed.workshop.arrival.intake import need_job
from creekbed.workshop.planning.planning_input import LOCKS
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.shop.staff import workers


def lock(shop: Shop, job_id: int, key: str, person: str, at: datetime, also: Sequence[str] = ()) -> None:
    """Set a step to begin at a time, with somebody's hands; it begins later only where it must.

    Args:
        also: steps of the same job that go with it, one after another.

    Raises:
        Refused: a step is not open, nobody of that name works here, or they cannot do it.
    """
    with shop.act("lock") as act:
        view = need_job(shop, act.session, job_id, act.now)
        steps = [s for s in map(view.step, (key, *also)) if s is not None and s.work is None]
        if len(steps) <= len(also):
            raise Refused("This step is not open any more.", todo="Look at what comes next.")
        who = next((w for w in workers(shop) if w.key == person), None)
        if who is None:
            raise Refused(f"{person} does not work here.")
        if who.skills and any(s.step.skill not in who.skills for s in steps):
            raise Refused(f"{person} is a helper; this step wants a technician.", todo="Give it to somebody else.")
        keys = [s.step.key for s in steps]
        rows = [r for r in _rows(shop) if r[0] != job_id or r[1] not in keys]
        begin = max(at, act.now).isoformat()
        shop.keep_setting(act, LOCKS, [*rows, *([job_id, k, person, begin] for k in keys)])
        act.tag = view.tag
        more = f" and {len(also)} more" if also else ""
        act.words = f"{view.tag}: set to {at.astimezone():%a %H:%M} with {person}: {steps[0].step.what}{more}"


def unlock(shop: Shop, job_id: int, key: str, also: Sequence[str] = ()) -> None:
    """Let the plan place a step, and those that went with it, where it likes again.

    Raises:
        Refused: none of them was set.
    """
    rows = _rows(shop)
    rest = [r for r in rows if r[0] != job_id or r[1] not in (key, *also)]
    if len(rest) == len(rows):
        raise Refused("This step was not set to a time.")
    with shop.act("unlock") as act:
        job = act.session.get(Job, job_id)
        shop.keep_setting(act, LOCKS, rest)
        act.tag = job.tag if job is not None else ""
        act.words = f"{act.tag}: the plan may move it again"


def _rows(shop: Shop) -> list[list[Any]]:
    return [list(r) for r in shop.setting(LOCKS) or []]
