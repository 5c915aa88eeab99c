"""The bench as a whole: the next step, running waits, departures."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field, replace
from datetime import datetime, timedelta

from creekbed.core.catalogue.models.base import STAGES
from creekbed.core.conventions import clock
from creekbed.core.planning.explanations import reason
from creekbed.core.planning.model import DelayedStart, Forecast, Plan, Planned, PlanPerson, Problem
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.turns import Turns, whole
from creekbed.store.records import Departure, Job
from creekbed.words.explanations import delay_words
from creekbed.words.plan import why_words
from creekbed.words.release import problem_words
from creekbed.workshop.bench.bench_records import Records, read
from creekbed.workshop.bench.job_view import JobView, StepView
from creekbed.workshop.bench.wait_view import WaitView
from creekbed.workshop.planning.plan_sharing import take_up
from creekbed.workshop.planning.planning_input import planning_input, ready_in_turns
from creekbed.workshop.release.release_check import obstacles
from creekbed.workshop.shop.shop import Shop


@dataclass(frozen=True)
class ShipmentItem:
    """One instrument meant for a departure."""

    job_id: int
    tag: str
    family: str
    next_group: str
    ready: bool
    finish: datetime | None
    late_min: float
    blocked: str
    share: float
    chance: float | None = None
    """Chance that it makes its departure; ``None`` before it was simulated."""
    away: datetime | None = None
    """When it is expected back from a specialist, while it is there."""
    part: str = ""
    """The last part that it waits for, and when that comes, in words."""


@dataclass(frozen=True)
class Shipment:
    """A departure and what is meant to go out with it."""

    departure: Departure
    items: tuple[ShipmentItem, ...]

    @property
    def will_make_it(self) -> int:
        return sum(1 for a in self.items if a.ready or (a.late_min <= 0 and not a.blocked and a.finish is not None))


@dataclass(frozen=True)
class StageCount:
    """A stage of the work: how many lie in it, how many wait for a person now, when the next wait there ends."""

    stage: str
    count: int
    for_hands: int
    next_wait: datetime | None


@dataclass(frozen=True)
class NextStep:
    """The next thing to do with hands."""

    view: JobView
    step: StepView
    why: str
    in_hand: bool
    start: datetime
    spare_min: float | None


@dataclass(frozen=True)
class PersonQueue:
    """One person's queue: what is in hand, and what follows: (start, end, tag, what, job id, step).

    Attributes:
        here: whether they are there now. held: what is in their hands.
    """

    person: str
    helper: bool
    here: bool
    held: tuple[datetime, datetime, str, str, int, str] | None
    then: tuple[tuple[datetime, datetime, str, str, int, str], ...]


@dataclass(frozen=True)
class HomeView:
    """Everything the home view shows."""

    now: datetime
    jobs: tuple[JobView, ...]
    next: NextStep | None
    waits: tuple[WaitView, ...]
    shipments: tuple[Shipment, ...]
    stages: tuple[StageCount, ...]
    blocked: tuple[tuple[str, int, str], ...]
    """(tag, job id, why)."""
    problem: Problem
    """What was planned."""
    plan: Plan
    undated: tuple[ShipmentItem, ...]
    queues: tuple[PersonQueue, ...] = ()
    """Everybody's hands, who sits here first."""
    moved: str = ""
    """Why something that was to be next is not, in words."""
    named: Mapping[tuple[str, str], tuple[str, str, float]] = field(default_factory=dict)
    revision: int = 0
    """Number of the newest journal entry that it shows."""

    @property
    def then(self) -> tuple[tuple[datetime, str, str], ...]:
        """What follows the next step, for the person at this window: (start, tag, what)."""
        if not self.queues:
            return ()
        mine = self.queues[0]
        return tuple((start, tag, what) for start, _, tag, what, _, _ in mine.then[0 if mine.held else 1 :][:8])

    def job(self, job_id: int | None) -> JobView | None:
        """The open job with this id, or ``None``."""
        return next((v for v in self.jobs if v.job.id == job_id), None)


def home(shop: Shop, *, keep_it: bool = False) -> HomeView:
    """The whole bench at this moment, read and planned anew.

    Args:
        keep_it: do with the plan that was shown, laid out as the bench is now, where that can be.
    """
    return picture(shop, whole(plan_in_turns(shop, read(shop, shop.now), keep_it=keep_it)))


@dataclass(frozen=True)
class PlannedBench:
    """The bench planned, before its picture is made: as it was read, and the plan."""

    records: Records
    problem: Problem
    plan: Plan
    named: Mapping[tuple[str, str], tuple[str, str, float]]


def plan_in_turns(shop: Shop, records: Records, *, keep_it: bool = False) -> Turns[PlannedBench]:
    """Plan the bench as it was read, a little at a time.

    Args:
        keep_it: as :func:`home`.
    """
    now = records.now
    if shop.planner.shown is None:
        take_up(shop)
    learned = shop.planner.learned
    yield from ready_in_turns(shop, records.views, learned)
    asked = planning_input(shop, records.views, now, records.held, learned)
    plan = yield from shop.planner.plan_in_turns(asked.problem, now, revision=records.entry, keep_it=keep_it)
    assert shop.planner.problem is not None
    return PlannedBench(records, shop.planner.problem, plan, asked.named)


def picture(shop: Shop, laid: PlannedBench) -> HomeView:
    """The view of a planned bench."""
    now, problem, plan = laid.records.now, laid.problem, laid.plan
    views, departures, done = laid.records.views, laid.records.departures, laid.records.done
    by_tag = {v.tag: v for v in views}
    chance = shop.planner.chances
    odds = chance.in_time if chance is not None else {}
    stands = {j.key for j in problem.jobs if j.blocked}
    hindered = {v.tag: _hindered(v, now, v.tag in stands) for v in views}
    return HomeView(
        now=now,
        jobs=views,
        next=_next(plan, by_tag, problem, now, shop.person),
        waits=laid.records.waits,
        shipments=tuple(_shipment(b, views, hindered, done, plan, now, odds) for b in departures),
        stages=_stages(laid.records),
        blocked=tuple((v.tag, v.job.id, hindered[v.tag]) for v in views if hindered[v.tag]),
        problem=problem,
        plan=plan,
        undated=tuple(_shipment_item(v, hindered, plan, now, odds) for v in views if v.departure is None),
        queues=tuple(_queue(p, plan, by_tag, problem, now) for p in problem.people),
        moved=". ".join(_moved_words(m, by_tag) for m in plan.moved),
        named=laid.named,
        revision=laid.records.entry,
    )


def _hindered(view: JobView, now: datetime, stands: bool) -> str:
    """What stands in the way of a job by itself; why it waits only where the plan takes it so too."""
    found = obstacles(view, now)
    return "; ".join(problem_words(o) for o in found if o.code != "stands" or stands or not view.blocked)


def with_plan(home: HomeView, problem: Problem, plan: Plan) -> HomeView:
    """The same bench under another plan: what would be ready, and when."""
    now = home.now

    def there(a: ShipmentItem) -> ShipmentItem:
        forecast = plan.forecasts.get(a.tag)
        if a.ready or forecast is None:
            return a
        finish = None if forecast.finish is None else now + timedelta(minutes=forecast.finish)
        return replace(a, finish=finish, late_min=forecast.late_by, chance=None)

    departures = {j.key: j.due for j in problem.jobs}
    before = {j.key: j.due for j in home.problem.jobs}
    moved = {k for k, due in departures.items() if due != before.get(k)}
    shipments = tuple(
        replace(x, items=tuple(there(a) for a in x.items if a.tag not in moved)) for x in home.shipments
    )  # fmt: skip
    return replace(home, problem=problem, plan=plan, shipments=shipments)


def _hands_on(plan: Plan, person: str) -> list[Planned]:
    """One person's operations, without those that another person will have set up by then."""
    return [s for s in plan.of(person) if s.end > s.start]


def _next(plan: Plan, views: dict[str, JobView], problem: Problem, now: datetime, person: str) -> NextStep | None:
    first = next(iter(_hands_on(plan, person)), None)
    if first is None:
        return None
    view = views[first.job]
    step = view.step(first.operation)
    if step is None:
        return None
    in_hand = (first.job, first.operation) in problem.in_hand
    forecast = plan.forecasts.get(first.job)
    spare = None
    if view.departure is not None and forecast is not None and forecast.finish is not None:
        spare = (view.departure.leaves_at - now).total_seconds() / 60 - forecast.finish
    why = why_words(reason(problem, plan, first), view.departure.name if view.departure else "", spare)
    return NextStep(view, step, why, in_hand, now + timedelta(minutes=first.start), spare)


def _moved_words(moved: DelayedStart, views: dict[str, JobView]) -> str:
    """Why something begins later than it was shown to."""
    first = _what(views, moved.by) if moved.by is not None else ""
    return delay_words(moved, _what(views, (moved.job, moved.operation)), first)


def _what(views: dict[str, JobView], names: tuple[str, str]) -> str:
    """What a step does, in words; "" where it is not open."""
    job, key = names
    step = views[job].step(key) if job in views else None
    return "" if step is None else step.step.what[:1].lower() + step.step.what[1:]


def _row(step: Planned, views: dict[str, JobView], now: datetime) -> tuple[datetime, datetime, str, str, int, str]:
    view = views[step.job]
    known = view.step(step.operation)
    what = known.step.what if known is not None else step.operation
    start, end = (now + timedelta(minutes=m) for m in (step.start, step.end))
    return start, end, step.job, what, view.job.id, step.operation


def _queue(
    person: PlanPerson, plan: Plan, views: dict[str, JobView], problem: Problem, now: datetime, most: int = 40
) -> PersonQueue:
    mine = _hands_on(plan, person.key)
    held = next((s for s in mine if (s.job, s.operation) in problem.in_hand), None)
    here = bool(person.windows) and person.windows[0][0] <= 0
    rest = [s for s in mine if s is not held][:most]
    return PersonQueue(
        person.key, bool(person.skills), here, None if held is None else _row(held, views, now),
        tuple(_row(s, views, now) for s in rest),
    )  # fmt: skip


def _shipment_item(
    view: JobView, hindered: dict[str, str], plan: Plan, now: datetime, odds: Mapping[str, float]
) -> ShipmentItem:
    forecast = plan.forecasts.get(view.tag, Forecast(None))
    finish = None if forecast.finish is None else now + timedelta(minutes=forecast.finish)
    no_room = "" if forecast.placed else "a place never comes free"
    return ShipmentItem(
        view.job.id, view.tag, view.family.name, view.job.next_group, False, finish, forecast.late_by,
        hindered[view.tag] or forecast.blocked or no_room, view.done_share, odds.get(view.tag),
        view.job.back_at if view.job.waiting_for else None, _part_words(view, now),
    )  # fmt: skip


def _part_words(view: JobView, now: datetime) -> str:
    coming = [p for p in view.parts if p.at > now]
    last = max(coming, key=lambda p: p.at, default=None)
    return f"{last.what} {clock(last.at, '%a ')}" if last is not None else ""


def _shipment(
    departure: Departure,
    views: Sequence[JobView],
    hindered: dict[str, str],
    done: Sequence[tuple[Job, str]],
    plan: Plan,
    now: datetime,
    odds: Mapping[str, float],
) -> Shipment:
    rows = [
        _shipment_item(v, hindered, plan, now, odds)
        for v in views
        if v.departure is not None and v.departure.id == departure.id
    ]
    rows += [
        ShipmentItem(j.id, j.tag, family, j.next_group, True, j.ready_at, 0.0, "", 1.0)
        for j, family in done
        if j.departure_id == departure.id
    ]
    far = now + timedelta(days=999)
    return Shipment(
        departure, tuple(sorted(rows, key=lambda a: (not a.blocked and a.late_min <= 0, a.ready, a.finish or far)))
    )


def _stages(records: Records) -> tuple[StageCount, ...]:
    """Every stage; what is ready for a departure, and has not gone out, lies in the last."""
    by_stage: dict[str, list[JobView]] = {stage: [] for stage in STAGES}
    for view in records.views:
        by_stage[view.stage].append(view)
    stages = [_stage_count(stage, views) for stage, views in by_stage.items()]
    waiting = sum(job.state == "ready" for job, _ in records.done)
    return tuple(replace(p, count=p.count + waiting) if p.stage == "ready" else p for p in stages)


def _stage_count(stage: str, here: Sequence[JobView]) -> StageCount:
    hands = sum(1 for v in here if not v.blocked and any(s.state == "ready" for s in v.steps))
    ends = [s.until for v in here for s in v.steps if s.until is not None]
    return StageCount(stage, len(here), hands, min(ends, default=None))
