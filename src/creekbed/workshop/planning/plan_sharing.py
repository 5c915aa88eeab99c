"""The plan on show, on record: all windows, the shell and the next start share one plan."""

from __future__ import annotations

from datetime import datetime, timedelta

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, ValidationError

from creekbed.core.planning.model import Chances, Plan, Planned
from creekbed.core.planning.replanning import same_later
from creekbed.core.turns import Turns, whole
from creekbed.store.records import ShownPlan
from creekbed.workshop.planning.bench_planner import PlanAssessment, SharedPlan
from creekbed.workshop.shop.shop import Shop, free_to_note

STALE = timedelta(days=4)
"""An older plan is not gone on from: house default, a long weekend."""
SAME_MIN = 1.0
"""What begins so little earlier or later is the same plan, minutes: house default."""
MOST = 20_000
"""More steps are no plan of a bench."""


class KnownOnRecord(BaseModel):
    """A :class:`PlanAssessment` as stored, without its conflict: each window finds that itself."""

    model_config = ConfigDict(allow_inf_nan=False)
    about: str
    at: AwareDatetime
    cost: float
    late: float
    bound: float
    late_bound: float
    proven: bool
    stretches: int
    in_time: dict[str, float]
    finish: dict[str, tuple[float, float, float]]
    called: list[tuple[str, str, float]]


class OnRecord(BaseModel):
    """A plan as it is put on record.

    Attributes:
        steps: job, step, start and end in minutes from when it was shown, initials.
    """

    model_config = ConfigDict(allow_inf_nan=False)
    steps: list[tuple[str, str, float, float, str]] = Field(max_length=MOST)
    known: KnownOnRecord | None = None


def take_up(shop: Shop) -> bool:
    """Look whether another window has left a plan since; the bench goes on from it when it is planned next.

    Returns:
        Whether there was one.
    """
    with shop.reading() as records:
        newest = records.planning.plan_number()
        if newest is None or newest <= shop.planner.version:
            return False
        row = records.planning.shown_plan()
    shop.planner.version = newest
    if row is None:
        return False
    try:
        kept = OnRecord.model_validate({"steps": row.steps, "known": row.assessment})
    except ValidationError:
        return False  # written by a newer Creekbed, perhaps: plan without it
    age = shop.now - row.at
    if not kept.steps or not -timedelta(minutes=SAME_MIN) <= age < STALE:
        return False
    plan = Plan(tuple(Planned(*r) for r in kept.steps), {})
    shop.planner.offered = SharedPlan(row.number, plan, row.at, None if kept.known is None else _read(kept.known))
    return True


def leave(shop: Shop) -> bool:
    """What :func:`leave_in_turns` does, at once."""
    return whole(leave_in_turns(shop))


def leave_in_turns(shop: Shop) -> Turns[bool]:
    """Put the plan on show on record for others, unless it is on record, or another window was quicker.

    Returns:
        Whether it was put on record.
    """
    planner = shop.planner
    plan, at, known = planner.shown, planner.at, planner.known_now
    if plan is None or at is None or planner.hasty or planner.offered is not None or _is_told(shop, plan, at):
        return False
    yield None
    written = None if known is None else _written(known)
    steps = [[s.job, s.operation, s.start, s.end, s.person] for s in plan.steps]
    assessment = None if written is None else written.model_dump(mode="json")
    yield None
    with free_to_note(shop) as change:
        if change is None:
            return False  # somebody holds the records: it is left when it is shown next
        last = change.planning.plan_number() or 0
        if last > planner.version:
            return False  # it is looked at within two seconds
        change.forget(ShownPlan, 1)
        change.add(ShownPlan(number=last + 1, at=at, steps=steps, assessment=assessment))
    planner.version, planner.told = last + 1, SharedPlan(last + 1, plan, at, known)
    return True


def _written(known: PlanAssessment) -> KnownOnRecord | None:
    try:
        return KnownOnRecord(
            about=known.about, at=known.at, cost=known.cost, late=known.late, bound=known.bound,
            late_bound=known.late_bound, proven=known.proven, stretches=known.stretches,
            in_time=dict(known.chances.in_time), finish=dict(known.chances.finish),
            called=[(*k, v) for k, v in known.chances.called.items()],
        )  # fmt: skip
    except ValidationError:
        return None  # a number without an end: each window thinks for itself then


def _read(known: KnownOnRecord) -> PlanAssessment:
    chances = Chances(known.in_time, known.finish, {(job, key): v for job, key, v in known.called})
    return PlanAssessment(
        known.about, known.at, known.cost, known.late, known.bound, known.late_bound, known.proven, chances,
        stretches=known.stretches,
    )  # fmt: skip


def _is_told(shop: Shop, plan: Plan, at: datetime) -> bool:
    """Whether the plan on record, without what is done, is this one, with what is known of it."""
    told, known = shop.planner.told, shop.planner.known_now
    if told is None or (known is not None and known is not told.known):
        return False
    passed = (at - told.at).total_seconds() / 60
    return same_later(told.plan, plan, passed, within=SAME_MIN + max(min(passed, SAME_MIN), 0.0))
