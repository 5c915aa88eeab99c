"""The schedule as data for a picture: who does what when, what lies in which place, when departures leave."""

from __future__ import annotations

import bisect
import itertools
import math
from collections.abc import Iterable, Iterator
from dataclasses import replace
from datetime import datetime, timedelta

from creekbed.core.catalogue.models.house import BenchPlace
from creekbed.core.local import midnight
from creekbed.core.planning.model import Planned
from creekbed.core.planning.place_capacity import ONE, Piece, taken
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.turns import Turns, whole
from creekbed.workshop.bench.bench_view import HomeView
from creekbed.workshop.planning.planning_input import QUARANTINE, STANDING, piece_of
from creekbed.workshop.shop.shop import Shop

DOUBT = 0.9
"""Chance below which a departure is said to be in doubt: house default."""
OPEN_END = timedelta(days=7)
"""What has no end yet is drawn to this time: the end of the picture."""
WEEK_DAYS = 7
TOGETHER = timedelta(minutes=2)
"""Work on one instrument with no longer a pause is one stretch of the picture: house default."""


@dataclass(frozen=True)
class ScheduledBar:
    """Work on one instrument without a pause: one bar of a person's row.

    Attributes:
        steps: (key, what) of each.
        state: "held": in hand; "preferred"; "fixed"; "must": it ends a wait in time; "" else.
        late: whether its instrument misses its departure. chance: that it makes it, or ``None``.
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
class ResourceRow:
    """One person's row: their hours, and their bars."""

    person: str
    helper: bool
    here: bool
    open: tuple[tuple[datetime, datetime], ...]
    runs: tuple[ScheduledBar, ...]


@dataclass(frozen=True)
class WaitBar:
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
class PlaceRow:
    """A place where things wait, its room, and what lies there when. ``full``: stretches in which it has no room."""

    place: str
    name: str
    capacity: int
    wait_bars: tuple[WaitBar, ...]
    full: tuple[tuple[datetime, datetime], ...] = ()

    @property
    def lanes(self) -> int:
        """How many lines of the picture it takes."""
        return max((b.lane + b.piece.takes for b in self.wait_bars), default=1)


@dataclass(frozen=True)
class DepartureMark:
    """A departure: when it leaves, how many of how many will be on it, how many are in doubt."""

    departure_id: int
    name: str
    leaves_at: datetime
    makes: int
    total: int
    doubtful: int


@dataclass(frozen=True)
class DayLoad:
    """One day ahead: planned and available minutes of work, what finishes, what leaves."""

    date: datetime
    planned_min: float
    there_min: float
    ready: int
    departures: tuple[DepartureMark, ...]


@dataclass(frozen=True)
class DaySchedule:
    """The whole picture."""

    now: datetime
    rows: tuple[ResourceRow, ...]
    places: tuple[PlaceRow, ...]
    departures: tuple[DepartureMark, ...]
    week: tuple[DayLoad, ...]
    open: tuple[tuple[datetime, datetime], ...]
    """When anybody is there."""


def day_of(shop: Shop, home: HomeView) -> DaySchedule:
    """The whole picture of a home view, at once."""
    return whole(day_in_turns(shop, home))


def day_in_turns(shop: Shop, home: HomeView, hours: float | None = None, *, week: bool = True) -> Turns[DaySchedule]:
    """The picture of a home view, a little at a time.

    Args:
        hours: so many hours in which anybody is there are told, ``None``: all that is planned.
        week: whether the days ahead are told.
    """
    now = home.now
    there = {
        p.key: tuple((now + timedelta(minutes=a), now + timedelta(minutes=b)) for a, b in p.windows)
        for p in home.problem.people
    }
    every = tuple(_union(there.values()))
    until = math.inf
    if hours is not None:
        shown = open_time(every, now, hours)
        until = (shown[-1][1] - now).total_seconds() / 60 if shown else hours * 60
    bars = _Bars(home)
    rows = []
    for person in home.problem.people:
        yield None
        here = bool(person.windows) and person.windows[0][0] <= 0
        runs = tuple(bars.of(person.key, until))
        rows.append(ResourceRow(person.key, bool(person.skills), here, there[person.key], runs))
    departures = tuple(
        DepartureMark(
            x.departure.id, x.departure.name, x.departure.leaves_at, x.will_make_it, len(x.items),
            sum(a.chance is not None and a.chance < DOUBT and a.late_min <= 0 and not a.ready for a in x.items),
        )
        for x in home.shipments
        if x.departure.leaves_at > now
    )  # fmt: skip
    places = yield from _place_rows(shop, home, until)
    yield None
    ahead = _week(home, rows, departures) if week else ()
    return DaySchedule(now, tuple(rows), tuple(places), departures, ahead, every)


def open_time(
    spans: Iterable[tuple[datetime, datetime]], now: datetime, hours: float
) -> list[tuple[datetime, datetime]]:
    """The stretches from now on in which so many hours pass while anybody is there; all there are, if that is less."""
    left, found = timedelta(hours=hours), []
    for a, b in spans:
        start = max(a, now)
        if left <= timedelta(0) or b <= start:
            continue
        end = min(b, start + left)
        left -= end - start
        found.append((start, end))
    return found


def _union(groups: Iterable[tuple[tuple[datetime, datetime], ...]]) -> list[tuple[datetime, datetime]]:
    found: list[tuple[datetime, datetime]] = []
    for a, b in sorted(span for group in groups for span in group):
        if found and a <= found[-1][1]:
            found[-1] = (found[-1][0], max(found[-1][1], b))
        else:
            found.append((a, b))
    return found


class _Bars:
    """Builds the bars: consecutive work on the same instrument is one bar."""

    def __init__(self, home: HomeView):
        self.home = home
        problem = home.problem
        self.pins = {(p.job, p.operation): p.kind for p in problem.pins}
        self.times = {(p.job, p.operation): p.at for p in problem.pins if p.kind == "fixed"}
        self.limits = {(j.key, r.operation) for j in problem.jobs for r in j.running if r.latest is not None}
        self.limits |= {(j.key, o.key) for j in problem.jobs for o in j.operations if o.wait_max is not None}
        self.ends = {(j.key, o.key): o.ends for j in problem.jobs for o in j.operations if o.ends}
        self.views = {v.tag: v for v in home.jobs}
        self.chance = {a.tag: a.chance for x in home.shipments for a in x.items}

    def of(self, person: str, until: float) -> Iterator[ScheduledBar]:
        """Somebody's work that begins within so many minutes."""
        current: list[Planned] = []
        for step in self.home.plan.of(person):
            if step.end <= step.start:
                continue
            if step.start > until:
                break
            if current and self._apart(current[-1], step):
                yield self._run(person, current)
                current = []
            current.append(step)
        if current:
            yield self._run(person, current)

    def _apart(self, one: Planned, other: Planned) -> bool:
        a, b = (one.job, one.operation), (other.job, other.operation)
        return (
            other.job != one.job
            or other.start - one.end > TOGETHER.total_seconds() / 60
            or self.times.get(a) != self.times.get(b)
            or self.pins.get(a) == "in_hand"
        )

    def _run(self, person: str, steps: list[Planned]) -> ScheduledBar:
        first, now = steps[0], self.home.now
        view = self.views[first.job]
        named = []
        for s in steps:
            known = view.step(s.operation)
            named.append((s.operation, known.step.what if known is not None else s.operation))
        kinds = {self.pins.get((s.job, s.operation), "") for s in steps}
        must = any((s.job, self.ends.get((s.job, s.operation))) in self.limits for s in steps)
        held = {"in_hand": "held", "fixed": "fixed", "preferred": "preferred"}
        state = next((held[k] for k in ("in_hand", "fixed", "preferred") if k in kinds), "must" if must else "")
        late = self.home.plan.forecasts[first.job].late_by > 0
        start, end = now + timedelta(minutes=first.start), now + timedelta(minutes=steps[-1].end)
        chance = self.chance.get(first.job)
        return ScheduledBar(person, start, end, first.job, view.job.id, tuple(named), state, late, chance)


def _place_rows(shop: Shop, home: HomeView, until: float) -> Turns[list[PlaceRow]]:
    """What lies where: what stands in quarantine, waits that run, and those that the plan begins.

    Args:
        until: what begins within so many minutes is told.
    """
    now = home.now
    at = {(s.job, s.operation): s for s in home.plan.steps}
    views = {v.tag: v for v in home.jobs}
    found: dict[str, list[WaitBar]] = {}

    def when(minutes: float) -> datetime:
        return now + timedelta(minutes=minutes)

    for n, job in enumerate(home.problem.jobs):
        if n % 10 == 9:
            yield None
        ender = {o.ends: o.key for o in job.operations if o.ends}
        view = views[job.key]
        begun = {r.operation for r in job.running}
        for wait in view.waits:
            end = at.get((job.key, ender.get(wait.key, "")))
            soonest = now + (wait.required if wait.dry else wait.contact.remaining)
            over = soonest if end is None else max(when(end.start), soonest)
            found.setdefault(wait.place, []).append(
                WaitBar(
                    wait.started_at, soonest, over, wait.contact.latest, job.key, view.job.id, wait.name, True,
                    piece_of(view, wait),
                )
            )  # fmt: skip
        treated = at.get((job.key, ender.get(STANDING, "")))
        if view.job.quarantine and (STANDING in begun or not view.treating):
            over = when(treated.start) if treated is not None else now + OPEN_END
            stands = WaitBar(view.job.opened_at, over, over, None, job.key, view.job.id, view.job.quarantine, True)
            found.setdefault(QUARANTINE, []).append(stands)
        for o in job.operations:
            step = at.get((job.key, o.key))
            if step is None or step.end > until or o.place is None or not o.holds:
                continue
            end = at.get((job.key, ender.get(o.key, "")))
            soonest = when(step.end + o.wait_min)
            over = soonest if end is None else when(end.start)
            known = view.step(o.key)
            name = known.step.wait.name if known is not None and known.step.wait is not None else o.key
            latest = None if o.wait_max is None else when(step.end + o.wait_max)
            found.setdefault(o.place, []).append(
                WaitBar(when(step.end), soonest, over, latest, job.key, view.job.id, name, False, o.piece)
            )
    rows = []
    for place in shop.catalogue.house.place:
        if place.key in found:
            yield None
            wait_bars = _lanes(sorted(found[place.key], key=lambda b: (b.start, b.end)))
            rows.append(PlaceRow(place.key, place.name, place.capacity, wait_bars, _full(wait_bars, place, now)))
    return rows


def _lanes(wait_bars: list[WaitBar]) -> tuple[WaitBar, ...]:
    """Give each wait the first free lines, one for each unit of room that it takes."""
    free: list[datetime] = []
    placed = []
    for wait_bar in wait_bars:
        takes, lane = wait_bar.piece.takes, 0
        while any(until > wait_bar.start for until in free[lane : lane + takes]):
            lane += 1
        free += [wait_bar.end] * (lane + takes - len(free))
        free[lane : lane + takes] = [wait_bar.end] * takes
        placed.append(replace(wait_bar, lane=lane))
    return tuple(placed)


def _full(wait_bars: tuple[WaitBar, ...], place: BenchPlace, now: datetime) -> tuple[tuple[datetime, datetime], ...]:
    """Stretches in which the place is full."""
    moments = sorted({max(b.start, now) for b in wait_bars} | {b.end for b in wait_bars})
    found: list[tuple[datetime, datetime]] = []
    for a, b in itertools.pairwise(moments):
        here = [x.piece for x in wait_bars if x.start <= a and x.end > a]
        if taken(here, place.capacity, place.holds) >= place.capacity:
            if found and found[-1][1] == a:
                found[-1] = (found[-1][0], b)
            else:
                found.append((a, b))
    return tuple(found)


def _week(home: HomeView, rows: list[ResourceRow], departures: tuple[DepartureMark, ...]) -> tuple[DayLoad, ...]:
    """The days that are planned, from this midnight on."""
    days = [midnight(home.now, n) for n in range(WEEK_DAYS + 1)]
    planned = _by_day(days, ((r.start, r.end) for s in rows for r in s.runs))
    there = _by_day(days, ((max(a, home.now), b) for s in rows for a, b in s.open))
    finishes = [home.now + timedelta(minutes=f.finish) for f in home.plan.forecasts.values() if f.finish is not None]
    return tuple(
        DayLoad(
            a, planned[n], there[n], sum(a <= f < b for f in finishes),
            tuple(x for x in departures if a <= x.leaves_at < b),
        )
        for n, (a, b) in enumerate(itertools.pairwise(days))
    )  # fmt: skip


def _by_day(days: list[datetime], spans: Iterable[tuple[datetime, datetime]]) -> list[float]:
    """Minutes of some stretches in each of some days.

    Args:
        days: when each begins; the last ends them.
    """
    found = [0.0] * (len(days) - 1)
    for a, b in spans:
        n = max(bisect.bisect_right(days, a) - 1, 0)
        while n < len(found) and days[n] < b:
            found[n] += max(0.0, (min(b, days[n + 1]) - max(a, days[n])).total_seconds() / 60)
            n += 1
    return found
