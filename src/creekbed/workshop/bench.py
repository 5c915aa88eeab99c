"""The bench as a whole: what next, what runs, what reaches which boat."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, time, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from creekbed.core.catalogue.models import STAGES
from creekbed.core.planning.explain import why_words
from creekbed.core.planning.model import Forecast, Job, Operation, Plan, Problem, Running
from creekbed.store.tables import Boat, InHand, Instrument
from creekbed.store.tables import Job as JobRow
from creekbed.workshop.gate import obstacles
from creekbed.workshop.shop import Shop
from creekbed.workshop.views import ACCLIMATISING, JobView, StepView, WaitView, load_jobs

HORIZON_DAYS = 21


@dataclass(frozen=True)
class Aboard:
    """One instrument meant for a boat."""

    job_id: int
    tag: str
    family: str
    next_group: str
    ready: bool
    finish: datetime | None
    late_min: float
    blocked: str
    share: float


@dataclass(frozen=True)
class Landing:
    """A boat and what is meant to be on it."""

    boat: Boat
    aboard: tuple[Aboard, ...]

    @property
    def will_make_it(self) -> int:
        return sum(1 for a in self.aboard if a.ready or (a.late_min <= 0 and not a.blocked and a.finish is not None))


@dataclass(frozen=True)
class Pool:
    """A stage of the work: how many lie in it, how many wait for a person now, when the next wait there ends."""

    stage: str
    count: int
    for_hands: int
    next_wait: datetime | None


@dataclass(frozen=True)
class Next:
    """The next thing to do with hands."""

    view: JobView
    step: StepView
    why: str
    in_hand: bool
    start: datetime
    spare_min: float | None


@dataclass(frozen=True)
class HomeView:
    """Everything the home view shows."""

    now: datetime
    jobs: tuple[JobView, ...]
    next: Next | None
    then: tuple[tuple[datetime, str, str, int], ...]
    """What comes after: (start, tag, what, job id)."""
    waits: tuple[WaitView, ...]
    landings: tuple[Landing, ...]
    pools: tuple[Pool, ...]
    load: tuple[tuple[float, float], ...]
    """Hands-on share of each hour ahead: (hours from now, 0 to 1)."""
    blocked: tuple[tuple[str, int, str], ...]
    """(tag, job id, why)."""
    problem: Problem
    """What was planned."""
    plan: Plan
    undated: tuple[Aboard, ...]

    def job(self, job_id: int | None) -> JobView | None:
        """The open job with this id, or ``None``."""
        return next((v for v in self.jobs if v.job.id == job_id), None)


def open_windows(shop: Shop, now: datetime) -> tuple[tuple[float, float], ...]:
    """Opening of the bench from ``now`` on, in minutes from now; local clock times, so daylight saving is kept."""
    local = now.astimezone()
    windows = []
    for day in range(HORIZON_DAYS):
        date = (local + timedelta(days=day)).date()
        for start, end in shop.catalogue.house.hours.open.get(str(date.weekday()), ()):
            begin, finish = (
                (datetime.combine(date, time(int(h), round(h % 1 * 60))).astimezone() - now).total_seconds() / 60
                for h in (start, end)
            )
            if finish > 0:
                windows.append((max(begin, 0.0), finish))
    return tuple(windows)


def problem_of(shop: Shop, views: Iterable[JobView], now: datetime, in_hand: tuple[int, str] | None) -> Problem:
    """The bench as a planner sees it."""
    jobs, held = [], None
    for view in views:
        open_keys = {s.step.key for s in view.open_steps}
        operations = tuple(
            Operation(
                key=s.step.key,
                hands_min=s.step.hands_min,
                after=s.step.after,
                wait_min=s.step.wait.min_minutes if s.step.wait else 0.0,
                wait_max=s.step.wait.max_minutes if s.step.wait else None,
                place=s.step.wait.place if s.step.wait else None,
                ends=s.step.ends if s.step.ends in open_keys or _runs(view, s.step.ends) else None,
            )
            for s in view.open_steps
        )
        if in_hand is not None and in_hand[0] == view.job.id and in_hand[1] in open_keys:
            held = (view.tag, in_hand[1])
        jobs.append(
            Job(
                key=view.tag,
                operations=operations,
                due=_minutes(view.boat.leaves_at, now) if view.boat else None,
                weight=view.job.weight,
                release=max(0.0, _minutes(view.job.release_at, now)) if view.job.release_at else 0.0,
                running=tuple(_running(w, now) for w in view.waits if w.key != ACCLIMATISING),
                blocked=view.blocked,
            )
        )
    capacity = {p.key: p.capacity for p in shop.catalogue.house.place}
    return Problem(tuple(jobs), capacity, open_windows(shop, now), held)


def _runs(view: JobView, key: str | None) -> bool:
    return any(w.key == key for w in view.waits)


def _minutes(at: datetime, now: datetime) -> float:
    return (at - now).total_seconds() / 60


def _running(wait: WaitView, now: datetime) -> Running:
    earliest = (wait.required if wait.dry else wait.contact.remaining).total_seconds() / 60
    latest = None if wait.contact.latest is None else _minutes(wait.contact.latest, now)
    if latest is not None and latest < earliest:
        latest = earliest  # restarted so late that the longest time cannot be kept: end it at once
    return Running(wait.key, wait.place, earliest, latest)


def home(shop: Shop) -> HomeView:
    """The whole bench at this moment, planned anew."""
    now = shop.now
    with shop.reading() as session:
        views = load_jobs(session, shop.catalogue, now)
        held_row = session.get(InHand, shop.person)
        held = (held_row.job_id, held_row.key) if held_row is not None else None
        boats = list(
            session.scalars(select(Boat).where(Boat.leaves_at > now - timedelta(hours=12)).order_by(Boat.leaves_at))
        )
        done = [(j, shop.catalogue.families[f].name) for j, f in load_ready(session, [b.id for b in boats])]
    problem = problem_of(shop, views, now, held)
    plan = shop.planner.plan(problem)
    by_tag = {v.tag: v for v in views}
    hindered = {v.tag: "; ".join(obstacles(v)) for v in views}
    return HomeView(
        now=now,
        jobs=tuple(views),
        next=_next(plan, by_tag, problem, now),
        then=_then(plan, by_tag, now),
        waits=tuple(sorted((w for v in views for w in v.waits), key=lambda w: _wait_order(w, now))),
        landings=tuple(_landing(b, views, hindered, done, plan, now) for b in boats),
        pools=(*tuple(_pool(stage, views) for stage in STAGES[:-1]), _ready_pool(views, done)),
        load=_load(plan, problem),
        blocked=tuple((v.tag, v.job.id, hindered[v.tag]) for v in views if hindered[v.tag]),
        problem=problem,
        plan=plan,
        undated=tuple(_aboard(v, hindered, plan, now) for v in views if v.boat is None),
    )


def load_ready(session: Session, boats: list[int]) -> list[tuple[JobRow, str]]:
    """Jobs that are ready and wait for one of these boats (or for none), with their family."""
    query = (
        select(JobRow, Instrument.family)
        .join(Instrument, Instrument.tag == JobRow.tag)
        .where(JobRow.state == "ready", JobRow.boat_id.in_(boats))
    )
    return [(job, family) for job, family in session.execute(query)]


def _next(plan: Plan, views: dict[str, JobView], problem: Problem, now: datetime) -> Next | None:
    if not plan.steps:
        return None
    first = plan.steps[0]
    view = views[first.job]
    step = view.step(first.operation)
    if step is None:
        return None
    in_hand = problem.in_hand == (first.job, first.operation)
    forecast = plan.forecasts.get(first.job)
    spare = None
    if view.boat is not None and forecast is not None and forecast.finish is not None:
        spare = _minutes(view.boat.leaves_at, now) - forecast.finish
    why = why_words(plan.reason, view.boat.name if view.boat else "", spare)
    return Next(view, step, why, in_hand, now + timedelta(minutes=first.start), spare)


def _then(plan: Plan, views: dict[str, JobView], now: datetime) -> tuple[tuple[datetime, str, str, int], ...]:
    rows = []
    for planned in plan.steps[1:9]:
        step = views[planned.job].step(planned.operation)
        if step is not None:
            rows.append(
                (now + timedelta(minutes=planned.start), planned.job, step.step.what, views[planned.job].job.id)
            )
    return tuple(rows)


def _wait_order(wait: WaitView, now: datetime) -> tuple[int, datetime]:
    if wait.contact.latest is not None and wait.contact.latest <= now:
        return (0, wait.contact.latest)
    if wait.dry:
        return (1, now)
    if wait.contact.may_end:
        return (2, now if wait.contact.latest is None else wait.contact.latest)
    return (3, now + wait.contact.remaining)


def _aboard(view: JobView, hindered: dict[str, str], plan: Plan, now: datetime) -> Aboard:
    forecast = plan.forecasts.get(view.tag, Forecast(None))
    finish = None if forecast.finish is None else now + timedelta(minutes=forecast.finish)
    return Aboard(
        view.job.id, view.tag, view.family.name, view.job.next_group, False, finish, forecast.late_by,
        hindered[view.tag] or forecast.blocked, view.done_share,
    )  # fmt: skip


def _landing(
    boat: Boat,
    views: list[JobView],
    hindered: dict[str, str],
    done: list[tuple[JobRow, str]],
    plan: Plan,
    now: datetime,
) -> Landing:
    rows = [_aboard(v, hindered, plan, now) for v in views if v.boat is not None and v.boat.id == boat.id]
    rows += [
        Aboard(j.id, j.tag, family, j.next_group, True, j.ready_at, 0.0, "", 1.0)
        for j, family in done
        if j.boat_id == boat.id
    ]
    far = now + timedelta(days=999)
    return Landing(
        boat, tuple(sorted(rows, key=lambda a: (not a.blocked and a.late_min <= 0, a.ready, a.finish or far)))
    )


def _pool(stage: str, views: list[JobView]) -> Pool:
    here = [v for v in views if v.stage == stage]
    hands = sum(1 for v in here if not v.blocked and any(s.state == "ready" for s in v.steps))
    ends = [s.until for v in here for s in v.steps if s.until is not None]
    return Pool(stage, len(here), hands, min(ends, default=None))


def _ready_pool(views: list[JobView], done: list[tuple[JobRow, str]]) -> Pool:
    pool = _pool("ready", views)
    return Pool("ready", pool.count + len(done), pool.for_hands, pool.next_wait)


def _load(plan: Plan, problem: Problem, hours: int = 96) -> tuple[tuple[float, float], ...]:
    """Share of each coming hour that hands are planned for."""
    busy = [0.0] * hours
    for step in plan.steps:
        hour = int(step.start // 60)
        at = step.start
        while at < step.end and hour < hours:
            end = min(step.end, (hour + 1) * 60.0)
            busy[hour] += end - at
            at, hour = end, hour + 1
    return tuple((float(h), min(1.0, b / 60)) for h, b in enumerate(busy))
