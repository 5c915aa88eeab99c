"""The plan that people see, on record: every window of a shop, the shell and the next start go on from the same one."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import func, select

from creekbed.core.planning.model import Plan, Planned
from creekbed.core.planning.stability import alike
from creekbed.store.tables import Setting
from creekbed.workshop.shop import Shop

SETTING = "plan"
"""Setting: {"n": how many plans there have been, "at": UTC as ISO 8601, "steps": [[job, step, start, end, initials]]};
start and end are minutes from "at"."""
STALE = timedelta(days=4)
"""An older plan is not gone on from: house default, a long weekend."""
SAME_MIN = 1.0
"""What begins so little earlier or later is the same plan, minutes: house default."""
MOST = 20_000
"""More steps are no plan of a bench."""
_ROWS = TypeAdapter(list[tuple[str, str, float, float, str]])


def take_up(shop: Shop) -> bool:
    """Go on from the plan on record, where another window has left one since, or this one has none yet.

    Returns:
        Whether there was one.
    """
    with shop.reading() as session:
        newest = session.scalar(select(func.json_extract(Setting.value, "$.v.n")).where(Setting.key == SETTING))
        if not isinstance(newest, int) or newest <= shop.planner.version:
            return False
        row = session.get(Setting, SETTING)
        kept: dict[str, Any] = {} if row is None else row.value["v"]
    try:
        steps = tuple(Planned(*r) for r in _ROWS.validate_python(kept["steps"][:MOST]))
        at = datetime.fromisoformat(kept["at"])
        passed = shop.now - at
    except (KeyError, TypeError, ValueError, ValidationError):
        steps, passed = (), STALE  # written by a newer Creekbed, perhaps: plan without it
    if not steps or not timedelta(0) <= passed + timedelta(minutes=SAME_MIN) < STALE:
        shop.planner.version = newest
        return False
    shop.planner.go_on_from(Plan(steps, {}), at, newest)
    return True


def leave(shop: Shop) -> bool:
    """Put the plan on show on record for others, unless it is on record, or another window was quicker.

    Returns:
        Whether it was put on record.
    """
    planner = shop.planner
    plan, at = planner.shown, planner.at
    if plan is None or at is None or planner.hasty or _told(shop, plan, at):
        return False
    rows = [[s.job, s.operation, s.start, s.end, s.person] for s in plan.steps]
    with shop.noting() as session:
        row = session.get(Setting, SETTING)
        last = 0 if row is None else int(row.value["v"].get("n", 0))
        if last > planner.version:
            return False  # it is taken up at the next look
        value = {"v": {"n": last + 1, "at": at.isoformat(), "steps": rows}}
        if row is None:
            session.add(Setting(key=SETTING, value=value))
        else:
            row.value = value
    planner.version, planner.told = last + 1, (plan, at)
    return True


def _told(shop: Shop, plan: Plan, at: datetime) -> bool:
    """Whether the plan on record, without what is done, is this one."""
    if shop.planner.told is None:
        return False
    told, then = shop.planner.told
    passed = (at - then).total_seconds() / 60
    open_ = {(s.job, s.operation) for s in plan.steps}
    left = tuple(
        replace(s, start=max(s.start - passed, 0.0), end=s.end - passed)
        for s in told.steps
        if (s.job, s.operation) in open_
    )
    return alike(replace(told, steps=left), plan, within=SAME_MIN + max(min(passed, SAME_MIN), 0.0))
