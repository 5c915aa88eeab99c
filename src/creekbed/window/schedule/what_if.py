"""What can be tried on a day: somebody's hours, one more of a place, another departure."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta

from creekbed.core.planning.model import Problem
from creekbed.core.planning.remedies import later_departure, longer_hours, more_room
from creekbed.core.quick_dataclasses import dataclass
from creekbed.words.explanations import place_name
from creekbed.words.times import span
from creekbed.workshop.arrival.intake import change_departure
from creekbed.workshop.bench.bench_view import HomeView
from creekbed.workshop.bench.schedule_view import DaySchedule, ScheduledBar
from creekbed.workshop.planning.explanations import Side
from creekbed.workshop.planning.remedies import Help
from creekbed.workshop.shop import bench_capacity, staff
from creekbed.workshop.shop.shop import Shop

LONGER_MIN = 60.0
"""How much longer somebody is offered to stay, minutes: house default."""
BREAK_MIN = 120.0
"""A longer pause between somebody's hours is no break, minutes: house default."""
DOUBTFUL = 0.8
"""Chance below which an instrument is offered a later departure: house default."""


@dataclass
class HelpState:
    """The remedies for a departure's late jobs, as shown below the picture.

    Attributes:
        departure_id, departure: which, and its name. hours: how many stretches of hours each had then, by which
            changes of hours are numbered. rows: for each late job; ``None`` while it is looked for. at: when found.
    """

    departure_id: int
    departure: str
    hours: dict[str, int]
    rows: list[Help] | None = None
    at: datetime | None = None


@dataclass(frozen=True)
class WhatIfChoice:
    """Something to try.

    Attributes:
        kind: "stay", "break", "room" or "departure". what: initials, place or tag. n: which stretch of hours, or the
            number of the departure. words: as it is offered.
    """

    kind: str
    what: str
    n: int
    words: str


@dataclass(frozen=True)
class Trial:
    """The bench with a choice made: ``act`` makes it come true."""

    words: str
    problem: Problem
    act: Callable[[], object]


def choices(home: HomeView, day: DaySchedule) -> list[WhatIfChoice]:
    """What can be tried, by what the bench is like now."""
    found = []
    for p in home.problem.people:
        end = next((n for n in range(len(p.windows)) if _last_today(home.now, p.windows, n)), None)
        if end is not None:
            found.append(WhatIfChoice("stay", p.key, end, f"{p.key} stays an hour longer"))
        pauses = (p.windows[n + 1][0] - p.windows[n][1] for n in range(len(p.windows) - 1))
        gap = next((n for n, pause in enumerate(pauses) if 0 < pause <= BREAK_MIN), None)
        if gap is not None:
            found.append(WhatIfChoice("break", p.key, gap, f"{p.key} works through the break"))
    found += [WhatIfChoice("room", x.place, 0, f"One more {x.name}") for x in day.places if x.full]
    departures = [x.departure for x in home.shipments if x.departure.leaves_at > home.now]
    for shipment in home.shipments:
        later = next((d for d in departures if d.leaves_at > shipment.departure.leaves_at), None)
        for a in shipment.items:
            if later is not None and not a.ready and not a.blocked and (a.late_min > 0 or (a.chance or 1) < DOUBTFUL):
                found.append(WhatIfChoice("departure", a.tag, later.id, f"{a.tag} goes with the {later.name}"))
    return found


def _last_today(now: datetime, windows: tuple[tuple[float, float], ...], n: int) -> bool:
    """Whether a stretch of hours is the last of today."""
    today = now.astimezone().date()
    ends = (now + timedelta(minutes=windows[n][1])).astimezone().date()
    following = (now + timedelta(minutes=windows[n + 1][0])).astimezone().date() if n + 1 < len(windows) else None
    return ends == today and following != ends


def still_there(home: HomeView, choice: WhatIfChoice) -> bool:
    """Whether there still is what was offered: somebody's hours, a job and a departure."""
    if choice.kind in ("stay", "break"):
        hours = next((p.windows for p in home.problem.people if p.key == choice.what), ())
        return choice.n + (choice.kind == "break") < len(hours)
    if choice.kind == "departure":
        known = any(v.tag == choice.what for v in home.jobs)
        return known and any(x.departure.id == choice.n for x in home.shipments)
    return True


def trial_of(shop: Shop, home: HomeView, choice: WhatIfChoice) -> Trial:
    """The bench with a choice made."""
    what, n = choice.what, choice.n
    if choice.kind in ("stay", "break"):
        person = next(p for p in home.problem.people if p.key == what)
        end = person.windows[n][1]
        length = LONGER_MIN if choice.kind == "stay" else person.windows[n + 1][0] - end
        start = home.now + timedelta(minutes=end)
        other = longer_hours(what, n, length)(home.problem)
        return Trial(choice.words, other, lambda: staff.stays_on(shop, what, start, length))
    if choice.kind == "room":
        more = {what: next(p.capacity for p in shop.catalogue.house.place if p.key == what) + 1}
        words = f"With one more {place_name(shop.catalogue, what)}"
        return Trial(words, more_room(what)(home.problem), lambda: bench_capacity.change(shop, more, {}))
    departure = next(x.departure for x in home.shipments if x.departure.id == n)
    job = next(v.job.id for v in home.jobs if v.tag == what)
    other = later_departure(what, (departure.leaves_at - home.now).total_seconds() / 60)(home.problem)
    return Trial(choice.words, other, lambda: change_departure(shop, job, n))


def side_words(side: Side) -> str:
    """The numbers of a day, in words."""
    late = f"{side.late_jobs} late by {span(side.late_min)} in all" if side.late_jobs else "nothing late"
    return f"{side.in_time} of {side.of} in time, {late}, all done in {span(side.last)}"


def hours_of(home: HomeView) -> dict[str, int]:
    """How many stretches of hours each person has."""
    return {p.key: len(p.windows) for p in home.problem.people}


def also(run: ScheduledBar) -> list[str]:
    """The steps of a stone behind its first."""
    return [k for k, _ in run.steps[1:]]
