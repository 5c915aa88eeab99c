"""Turns a schedule into a plan: forecasts, waits that end late, delayed starts."""

from __future__ import annotations

from collections.abc import Iterator

from creekbed.core.planning.model import DelayedStart, Forecast, Plan, Planned
from creekbed.core.planning.schedule_builder import ScheduleBuilder
from creekbed.core.planning.timelines import UNIT, ScheduledOperation, up


def plan_of(bench: ScheduleBuilder) -> Plan:
    """What is laid in, as a plan."""
    steps = sorted(
        (planned(bench, o) for o in bench.ops if o.start >= 0),
        key=lambda s: (s.start, s.end),
    )
    forecasts = {j.key: Forecast(None, 0.0, j.blocked) for j in bench.problem.jobs if j.blocked}
    for n, job in enumerate(bench.jobs):
        if any(o.start < 0 for o in bench.by_job[n]):
            forecasts[job.key] = Forecast(None, placed=False)
            continue
        finish = max([0.0, *((o.end + o.wait) / UNIT for o in bench.by_job[n]), *(r.earliest for r in job.running)])
        late = 0.0 if job.due is None else max(0.0, finish - job.due)
        forecasts[job.key] = Forecast(finish, late)
    return Plan(tuple(steps), forecasts, tuple(ended_late(bench)), tuple(delayed_starts(bench)))


def ended_late(bench: ScheduleBuilder) -> Iterator[tuple[str, str, float]]:
    """Waits whose longest time is passed by what is laid in: (job, operation, minutes over)."""
    for n, job in enumerate(bench.jobs):
        for run in job.running:
            ender = bench.ender_of(n, run)
            if run.latest is not None and ender is not None and ender.start >= 0:
                over = planned(bench, ender).start - run.latest
                if over > 1e-6:
                    yield job.key, run.operation, over
    for op in bench.ops:
        if op.start >= 0 and op.op.wait_max is not None and op.ender >= 0 and bench.ops[op.ender].start >= 0:
            over = planned(bench, bench.ops[op.ender]).start - planned(bench, op).end - op.op.wait_max
            if over > 1e-6:
                yield bench.jobs[op.job].key, op.op.key, over


def planned(bench: ScheduleBuilder, op: ScheduledOperation) -> Planned:
    """With its true length, ending on a tenth: what follows, and the places, are counted from there."""
    start = 0.0 if bench.is_held(op) else op.end / UNIT - op.minutes
    person = bench.people[op.person].key
    return Planned(bench.jobs[op.job].key, op.op.key, start, start + op.minutes, person)


def delayed_starts(bench: ScheduleBuilder) -> Iterator[DelayedStart]:
    """What was to be next and begins later, with what is in its way."""
    for n, pin in bench.pinned.items():
        op = bench.ops[n]
        if pin.kind != "preferred" or op.start < 0:
            continue
        later = planned(bench, op).start - max(pin.at, 0.0)
        names = (bench.jobs[op.job].key, op.op.key)
        who = bench.who(pin, op)
        if who is not None and op.person != who:
            yield DelayedStart(*names, max(later, 0.0), "hands")
            continue
        if later < 0.2:  # two steps of the grid
            continue
        before = [
            o for o in bench.ops
            if o.start >= 0 and o.person == op.person and o.n != n and o.end <= op.start and not bench.is_held(o)
        ]  # fmt: skip
        first = max(before, key=lambda o: o.end, default=None)
        if bench.ready(op) > up(pin.at):
            yield DelayedStart(*names, later, "wait")
        elif first is not None and first.end > up(pin.at):
            yield DelayedStart(*names, later, "must_end", (bench.jobs[first.job].key, first.op.key))
        elif op.op.place is not None or op.op.at is not None:
            yield DelayedStart(*names, later, "place")
        else:
            yield DelayedStart(*names, later, "hours")
