"""The state of an instrument's parts now, from the records of its job."""

from __future__ import annotations

from datetime import datetime, timedelta

from creekbed.core.procedure.states import Doing, PartState, Standing, as_it_came, standing
from creekbed.workshop.bench.job_view import JobView

FAR = timedelta(days=3650)


def doings(view: JobView) -> list[Doing]:
    """What was done, in minutes from when the job was opened; what was left out is not among it."""
    began, found = view.job.opened_at, []
    for seen in view.steps:
        work = seen.work
        if work is not None and work.state == "done":
            end = (work.at - began).total_seconds() / 60
            found.append(Doing(seen.step, end - (work.minutes or 0.0), end))
    return found


def stands(view: JobView, at: datetime | None = None) -> Standing:
    """How everything stands at a moment; not given: when all that runs is over."""
    began = view.job.opened_at
    minutes = ((at if at is not None else began + FAR) - began).total_seconds() / 60
    start = as_it_came(view.family, view.instrument.materials, view.situation.contents)
    return standing(view.family, doings(view), minutes, start)


def part_state(view: JobView, part: str, at: datetime | None = None) -> PartState | None:
    """How one part stands; ``None`` where it has no such part."""
    return stands(view, at).parts.get(part)
