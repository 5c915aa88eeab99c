"""Remedies for a late job: the cheapest changes that the planner finds, and why the job is late."""

from __future__ import annotations

import time

from creekbed.core.planning.explanations import TimeBreakdown
from creekbed.core.planning.remedies import (
    Remedy,
    RemedyOption,
    breaks_and_evenings,
    first_of_all,
    later_departure,
    left_out,
    more_room,
)
from creekbed.core.planning.requests import LateRequest, RemediesRequest
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.turns import Turns, whole
from creekbed.words.explanations import (
    breakdown_words,
    departure_over,
    in_time,
    remedy_cost_words,
    remedy_words,
    still_late,
)
from creekbed.workshop.bench.bench_view import HomeView, home
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.shop.shop import Shop

COSTS = {"room": 30.0, "later": 240.0, "skip": 20.0}
"""How dear it is to find one more of a place, to let another instrument go with a later departure, to leave out a step
that may be left out: minutes, house default."""


@dataclass(frozen=True)
class Help:
    """For one late job: why it is late, and what would make it in time, in words.

    Attributes:
        makes_it: whether it is in time with anything that was tried. words: with what, or what comes nearest.
        why: where the time goes. ways: each set of changes in words, with what it costs others, the cheapest first.
        remedies: behind them.
    """

    tag: str
    makes_it: bool
    words: str
    why: str = ""
    ways: tuple[str, ...] = ()
    remedies: tuple[Remedy, ...] = ()


def help_for(
    shop: Shop, departure_id: int, view: HomeView | None = None, *, seconds: float = 30.0, most: int = 40
) -> list[Help]:
    """What would help each late job of a departure.

    Args:
        view: the bench as it is; read anew where it is not given. seconds: how long is looked at most, in all.
        most: for so many jobs, the least late first.
    """
    return whole(help_in_turns(shop, departure_id, view or home(shop), seconds=seconds, most=most))


def help_in_turns(shop: Shop, departure_id: int, view: HomeView, *, seconds: float, most: int) -> Turns[list[Help]]:
    """What :func:`help_for` finds, a little at a time; nothing is read from the records."""
    until = time.monotonic() + seconds
    late = [
        v for v in view.jobs
        if v.job.departure_id == departure_id and not v.blocked and view.plan.forecasts[v.tag].late_by > 0
    ]  # fmt: skip
    late.sort(key=lambda v: view.plan.forecasts[v.tag].late_by)
    found = []
    for job in late[:most]:
        found.append((yield from help_job_in_turns(shop, view, job, seconds=max(until - time.monotonic(), 0.0))))
    return found


def help_job(shop: Shop, view: HomeView, job: JobView) -> Help:
    """Why one job is late, and the cheapest changes with which it is in time."""
    return whole(help_job_in_turns(shop, view, job, seconds=30.0))


def help_job_in_turns(shop: Shop, view: HomeView, job: JobView, *, seconds: float) -> Turns[Help]:
    """What :func:`help_job` finds.

    Args:
        seconds: how long is looked at most.
    """
    ask = shop.planner.answers.ask
    late = view.plan.forecasts[job.tag].late_by
    following = [
        x for x in view.shipments
        if job.departure is not None and x.departure.leaves_at > max(job.departure.leaves_at, view.now)
    ]  # fmt: skip
    next_departure = following[0].departure.name if following else ""
    way, alone = yield from ask(LateRequest(view.revision, view.problem, view.plan, job.tag))
    why = breakdown_words(way)
    if job.departure is not None and job.departure.leaves_at <= view.now:
        return Help(job.tag, False, departure_over(next_departure), why)
    hopeless = alone.late_by > 0 and not any(s.step.optional for s in job.open_steps)
    wanted = () if hopeless else tuple(options(view, job, way))
    found = yield from ask(RemediesRequest(view.revision, view.problem, view.plan, job.tag, wanted, seconds))
    ways = tuple(remedy_words(shop.catalogue, r) + remedy_cost_words(r) for r in found)
    if ways:
        return Help(job.tag, True, in_time(ways[0]), why, ways, tuple(found))
    if alone.late_by > 0:
        words = still_late(alone.late_by, next_departure, alone=True)
        return Help(job.tag, False, words, why)
    return Help(job.tag, False, still_late(late, next_departure, alone=False), why)


def options(view: HomeView, job: JobView, way: TimeBreakdown) -> list[RemedyOption]:
    """What could be changed for a job; ``way``: where its time goes."""
    assert job.departure is not None
    due = (job.departure.leaves_at - view.now).total_seconds() / 60
    found = [RemedyOption("first", job.tag, 0.0, 1.0, first_of_all(job.tag))]
    found += breaks_and_evenings(view.problem, due)
    if "place" in way.spent:
        places = {o.place for j in view.problem.jobs if j.key == job.tag for o in j.operations if o.place}
        found += [
            RemedyOption("room", p, 1.0, COSTS["room"], more_room(p))
            for p in sorted(places)
            if p in view.problem.capacity
        ]
    later = next((x.departure for x in view.shipments if x.departure.leaves_at > job.departure.leaves_at), None)
    if later is not None:
        leaves = (later.leaves_at - view.now).total_seconds() / 60
        for other in view.jobs:
            if (
                other.departure is not None
                and other.departure.id == job.departure.id
                and other.tag != job.tag
                and not other.blocked
            ):
                cost = COSTS["later"] * other.job.weight
                found.append(RemedyOption("later", other.tag, leaves, cost, later_departure(other.tag, leaves)))
    for step in job.open_steps:
        if step.step.optional:
            key = step.step.key
            found.append(RemedyOption("skip", step.step.what, 0.0, COSTS["skip"], left_out(job.tag, key)))
    return found
