"""The day as one picture, without the drawing: whose hands do what when, what lies in which place, when boats leave."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from creekbed.core.catalogue.models import Place
from creekbed.core.planning.model import Planned
from creekbed.core.planning.room import ONE, Piece, taken
from creekbed.workshop.bench import HomeView
from creekbed.workshop.people import HORIZON_DAYS
from creekbed.workshop.problem import QUARANTINE, STANDING, piece_of
from creekbed.workshop.shop import Shop

DOUBT = 0.9
"""Under this chance a boat is in doubt, and it is said: house default."""
NEAR_MIN = 36 * 60.0
"""So far ahead is told where only the next hours are shown, minutes: house default."""
OPEN_END = timedelta(days=7)
"""So far is drawn what has no end yet: as far as the picture goes."""
TOGETHER = timedelta(minutes=2)
"""Work on one instrument with no longer a pause is one stretch of the picture: house default."""


@dataclass(frozen=True)
class Run:
    """Work on one instrument without a pause: a stone in the stream of somebody's hands.

    Attributes:
        steps: (key, what) of each. state: "held": in hand; "next"; "locked"; "must": it ends a wait in time; "" else.
        late: whether its instrument misses its boat. chance: that it makes it, or ``None``.
    """

    person: str
    start: datetime
    end: datetime
    tag: str
    job_id: int
    steps: tuple[tuple[str, str], ...]
    state: str = ""
    late: bool = False
    chance: float | None = None

    @property
    def key(self) -> str:
        """The first step of it."""
        return self.steps[0][0]


@dataclass(frozen=True)
class Strand:
    """Somebody's hands: their hours, and the stones in the stream."""

    person: str
    helper: bool
    here: bool
    open: tuple[tuple[datetime, datetime], ...]
    runs: tuple[Run, ...]


@dataclass(frozen=True)
class Bowl:
    """One wait in a place: from when, the soonest and the latest end, the planned end; ``running``: it lies there now.

    Attributes:
        piece: how much of the place's room it takes. lane: the first line of the picture that it takes, from 0.
    """

    start: datetime
    soonest: datetime
    end: datetime
    latest: datetime | None
    tag: str
    job_id: int
    name: str
    running: bool
    piece: Piece = ONE
    lane: int = 0


@dataclass(frozen=True)
class PoolRow:
    """A place where things wait, its room, and what lies there when. ``full``: stretches in which it has no room."""

    place: str
    name: str
    capacity: int
    bowls: tuple[Bowl, ...]
    full: tuple[tuple[datetime, datetime], ...] = ()

    @property
    def lanes(self) -> int:
        """How many lines of the picture it takes."""
        return max((b.lane + b.piece.takes for b in self.bowls), default=1)


@dataclass(frozen=True)
class BoatMark:
    """A boat: when it leaves, how many of how many will be aboard, how many are in doubt."""

    boat_id: int
    name: str
    leaves_at: datetime
    makes: int
    total: int
    doubtful: int


@dataclass(frozen=True)
class DayLoad:
    """One day ahead: minutes of hands planned and there, what finishes, what boats leave."""

    date: datetime
    planned_min: float
    there_min: float
    ready: int
    boats: tuple[BoatMark, ...]


@dataclass(frozen=True)
class Day:
    """The whole picture."""

    now: datetime
    strands: tuple[Strand, ...]
    pools: tuple[PoolRow, ...]
    boats: tuple[BoatMark, ...]
    week: tuple[DayLoad, ...]
    open: tuple[tuple[datetime, datetime], ...]
    """When anybody is there."""


def day_of(shop: Shop, home: HomeView, days: int = 7) -> Day:
    """The picture of a home view.

    Args:
        days: how many days ahead are told; 0 where they are not shown, then work is told for the next hours only.
    """
    now = home.now
    until = math.inf if days else NEAR_MIN
    strands = []
    for person in home.problem.people:
        there = tuple((now + timedelta(minutes=a), now + timedelta(minutes=b)) for a, b in person.windows)
        here = bool(person.windows) and person.windows[0][0] <= 0
        strands.append(Strand(person.key, bool(person.skills), here, there, tuple(_runs(home, person.key, until))))
    boats = tuple(
        BoatMark(
            x.boat.id, x.boat.name, x.boat.leaves_at, x.will_make_it, len(x.aboard),
            sum(a.chance is not None and a.chance < DOUBT and a.late_min <= 0 and not a.ready for a in x.aboard),
        )
        for x in home.landings
        if x.boat.leaves_at > now
    )  # fmt: skip
    every = tuple(_union(s.open for s in strands))
    return Day(now, tuple(strands), tuple(_pools(shop, home)), boats, tuple(_week(home, strands, boats, days)), every)


def _union(groups: Iterable[tuple[tuple[datetime, datetime], ...]]) -> list[tuple[datetime, datetime]]:
    found: list[tuple[datetime, datetime]] = []
    for a, b in sorted(span for group in groups for span in group):
        if found and a <= found[-1][1]:
            found[-1] = (found[-1][0], max(found[-1][1], b))
        else:
            found.append((a, b))
    return found


def _runs(home: HomeView, person: str, until: float) -> Iterable[Run]:
    """Somebody's work, with what follows on the same instrument taken together."""
    pins = {(p.job, p.operation): p.kind for p in home.problem.pins}
    limits = {(j.key, r.operation) for j in home.problem.jobs for r in j.running if r.latest is not None}
    limits |= {(j.key, o.key) for j in home.problem.jobs for o in j.operations if o.wait_max is not None}
    ends = {(j.key, o.key): o.ends for j in home.problem.jobs for o in j.operations if o.ends}
    views = {v.tag: v for v in home.jobs}
    chance = {a.tag: a.chance for x in home.landings for a in x.aboard}
    times = {(p.job, p.operation): p.at for p in home.problem.pins if p.kind == "locked"}
    current: list[Planned] = []

    def set_to(step: Planned) -> float | None:
        return times.get((step.job, step.operation))

    def made() -> Run:
        first, last = current[0], current[-1]
        view = views[first.job]
        steps = []
        for s in current:
            known = view.step(s.operation)
            steps.append((s.operation, known.step.what if known is not None else s.operation))
        kinds = {pins.get((s.job, s.operation), "") for s in current}
        must = any((s.job, ends.get((s.job, s.operation))) in limits for s in current)
        held = {"in_hand": "held", "locked": "locked", "next": "next"}
        state = next((held[k] for k in ("in_hand", "locked", "next") if k in kinds), "must" if must else "")
        late = home.plan.forecasts[first.job].late_by > 0
        start, end = home.now + timedelta(minutes=first.start), home.now + timedelta(minutes=last.end)
        return Run(person, start, end, first.job, view.job.id, tuple(steps), state, late, chance.get(first.job))

    for step in home.plan.of(person):
        if step.end <= step.start:
            continue
        if step.start > until:
            break
        apart = current and (
            step.job != current[-1].job
            or step.start - current[-1].end > TOGETHER.total_seconds() / 60
            or set_to(step) != set_to(current[-1])
            or pins.get((current[-1].job, current[-1].operation)) == "in_hand"
        )
        if apart:
            yield made()
            current = []
        current.append(step)
    if current:
        yield made()


def _pools(shop: Shop, home: HomeView) -> Iterable[PoolRow]:
    """What lies where: what stands in quarantine, waits that run, and those that the plan begins."""
    now = home.now
    at = {(s.job, s.operation): s for s in home.plan.steps}
    views = {v.tag: v for v in home.jobs}
    found: dict[str, list[Bowl]] = {}

    def when(minutes: float) -> datetime:
        return now + timedelta(minutes=minutes)

    for job in home.problem.jobs:
        ender = {o.ends: o.key for o in job.operations if o.ends}
        view = views[job.key]
        begun = {r.operation for r in job.running}
        for wait in view.waits:
            end = at.get((job.key, ender.get(wait.key, "")))
            soonest = now + (wait.required if wait.dry else wait.contact.remaining)
            until = soonest if end is None else max(when(end.start), soonest)
            found.setdefault(wait.place, []).append(
                Bowl(
                    wait.started_at, soonest, until, wait.contact.latest, job.key, view.job.id, wait.name, True,
                    piece_of(view, wait),
                )
            )  # fmt: skip
        treated = at.get((job.key, ender.get(STANDING, "")))
        if view.job.quarantine and (STANDING in begun or not view.treating):
            until = when(treated.start) if treated is not None else now + OPEN_END
            stands = Bowl(view.job.opened_at, until, until, None, job.key, view.job.id, view.job.quarantine, True)
            found.setdefault(QUARANTINE, []).append(stands)
        for o in job.operations:
            step = at.get((job.key, o.key))
            if step is None or o.place is None or not o.holds:
                continue
            end = at.get((job.key, ender.get(o.key, "")))
            soonest = when(step.end + o.wait_min)
            until = soonest if end is None else when(end.start)
            known = view.step(o.key)
            name = known.step.wait.name if known is not None and known.step.wait is not None else o.key
            latest = None if o.wait_max is None else when(step.end + o.wait_max)
            found.setdefault(o.place, []).append(
                Bowl(when(step.end), soonest, until, latest, job.key, view.job.id, name, False, o.piece)
            )
    for place in shop.catalogue.house.place:
        if place.key in found:
            bowls = _lanes(sorted(found[place.key], key=lambda b: (b.start, b.end)))
            yield PoolRow(place.key, place.name, place.capacity, bowls, _full(bowls, place, now))


def _lanes(bowls: list[Bowl]) -> tuple[Bowl, ...]:
    """Each in the first lines that are free for it, one for each unit of its room."""
    free: list[datetime] = []
    placed = []
    for bowl in bowls:
        takes, lane = bowl.piece.takes, 0
        while any(until > bowl.start for until in free[lane : lane + takes]):
            lane += 1
        free += [bowl.end] * (lane + takes - len(free))
        free[lane : lane + takes] = [bowl.end] * takes
        placed.append(replace(bowl, lane=lane))
    return tuple(placed)


def _full(bowls: tuple[Bowl, ...], place: Place, now: datetime) -> tuple[tuple[datetime, datetime], ...]:
    """When not even one more usual thing has room."""
    moments = sorted({max(b.start, now) for b in bowls} | {b.end for b in bowls})
    found: list[tuple[datetime, datetime]] = []
    for a, b in itertools.pairwise(moments):
        here = [x.piece for x in bowls if x.start <= a and x.end > a]
        if taken(here, place.capacity, place.holds) >= place.capacity:
            if found and found[-1][1] == a:
                found[-1] = (found[-1][0], b)
            else:
                found.append((a, b))
    return tuple(found)


def _week(home: HomeView, strands: list[Strand], boats: tuple[BoatMark, ...], days: int) -> Iterable[DayLoad]:
    midnight = home.now.astimezone().replace(hour=0, minute=0, second=0, microsecond=0)
    for n in range(min(days, HORIZON_DAYS)):
        a = midnight + timedelta(days=n)
        b = a + timedelta(days=1)
        planned = sum(_overlap((r.start, r.end), (a, b)) for s in strands for r in s.runs)
        there = sum(_overlap(span, (max(a, home.now), b)) for s in strands for span in s.open)
        finishes = [
            home.now + timedelta(minutes=f.finish) for f in home.plan.forecasts.values() if f.finish is not None
        ]
        ready = sum(a <= f < b for f in finishes)
        yield DayLoad(a, planned, there, ready, tuple(x for x in boats if a <= x.leaves_at < b))


def _overlap(one: tuple[datetime, datetime], other: tuple[datetime, datetime]) -> float:
    """Minutes that two stretches share."""
    return max(0.0, (min(one[1], other[1]) - max(one[0], other[0])).total_seconds() / 60)
