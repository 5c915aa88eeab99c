"""Fixed starts: the plan is built around them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from creekbed.core.conventions import clock
from creekbed.core.errors import Refused
from creekbed.store.records import FixedStart, Job
from creekbed.workshop.arrival.intake import need_job
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.shop.staff import workers_in


def lock(shop: Shop, job_id: int, key: str, person: str, at: datetime, also: Sequence[str] = ()) -> None:
    """Set a step to begin at a time, with somebody's hands; it begins later only where it must.

    Args:
        also: steps of the same job that go with it, one after another.

    Raises:
        Refused: a step is not open, nobody of that name works here, or they cannot do it.
    """
    with shop.act("lock") as act:
        view = need_job(shop, act.records, job_id, act.now)
        steps = [s for s in map(view.step, (key, *also)) if s is not None and s.work is None]
        if len(steps) <= len(also):
            raise Refused("This step is not open any more.", todo="Look at what comes next.")
        who = next((w for w in workers_in(act.records, shop.person) if w.key == person), None)
        if who is None:
            raise Refused(f"{person} does not work here.")
        if who.skills and any(s.step.skill not in who.skills for s in steps):
            raise Refused(f"{person} is a helper; this step wants a technician.", todo="Give it to somebody else.")
        keys = [s.step.key for s in steps]
        for row in act.records.all_of(FixedStart, job_id=job_id, key=keys):
            act.records.remove(row)
        act.records.add_all(FixedStart(job_id=job_id, key=k, person=person, at=max(at, act.now)) for k in keys)
        act.tag = view.tag
        more = f" and {len(also)} more" if also else ""
        act.words = f"{view.tag}: set to {clock(at, '%a ')} with {person}: {steps[0].step.what}{more}"


def unlock(shop: Shop, job_id: int, key: str, also: Sequence[str] = ()) -> None:
    """Remove a fixed start, and those that were set with it.

    Raises:
        Refused: none of them was set.
    """
    with shop.act("unlock") as act:
        rows = act.records.all_of(FixedStart, job_id=job_id, key=[key, *also])
        if not rows:
            raise Refused("This step was not set to a time.")
        for row in rows:
            act.records.remove(row)
        job = act.records.get(Job, job_id)
        act.tag = job.tag if job is not None else ""
        act.words = f"{act.tag}: the plan may move it again"
