"""Explanations of a plan: why an operation comes first, what delays it, why a job is late.

Reasons are read off the plan itself, or asked of the planner: "why not the other" is the plan with the other first,
beside the plan there is.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import field, replace
from functools import partial

from creekbed.core.planning.dispatch import dispatch_plan, repair_schedule, unplaced
from creekbed.core.planning.model import Pin, Plan, Planned, Problem, Reason
from creekbed.core.planning.place_capacity import ONE
from creekbed.core.planning.schedule_builder import HANDS_TOKEN, ScheduleBuilder
from creekbed.core.planning.timelines import NEVER, UNIT, ScheduledOperation
from creekbed.core.quick_dataclasses import dataclass

LONG_WAIT_MIN = 5.0
"""A wait of at least this long is a reason to start it first, minutes: house default."""
TOLD_MIN = 1.0
"""Changes of less are not told, minutes: house default."""

MOMENT_MIN = 0.2
"""Two steps of the grid in which plans are laid out, minutes."""


@dataclass(frozen=True)
class Hold:
    """What keeps an operation from beginning earlier.

    Attributes:
        kind: "set": somebody set it to that time; "release": it comes to room air, or is away; "part": its part has not
            come; "wait": what comes before it, or its wait, is not over; "hands": they are with other work; "hours":
            nobody is there; "place": its place is full; "free": it could begin so much sooner; "now": nothing does.
        minutes: how long. by: jobs that have the hands, or lie in the place. place: which.
    """

    kind: str
    minutes: float = 0.0
    by: tuple[str, ...] = ()
    place: str | None = None


@dataclass(frozen=True)
class Shift:
    """What another plan changes for a job: minutes later (negative: earlier), and minutes late in it."""

    job: str
    later: float
    late_by: float


@dataclass(frozen=True)
class PlanComparison:
    """Another plan beside the one there is.

    Attributes:
        plan: the other plan. costs: by how much it costs more, minutes as :meth:`Plan.cost` counts them.
        shifts: jobs that it moves, the most delayed first. late: weighted minutes late more than before.
    """

    plan: Plan
    costs: float
    late: float
    shifts: tuple[Shift, ...]


@dataclass(frozen=True)
class TimeBreakdown:
    """How the time until a job's finish is spent, minutes by kind of :class:`Hold`, its own hands as "work"."""

    spent: Mapping[str, float]
    by: tuple[tuple[str, float], ...] = field(default=())
    """Jobs that have the hands or the place meanwhile, with the minutes, the most first."""


def reason(problem: Problem, plan: Plan, step: Planned) -> Reason:
    """Why somebody does this first.

    Args:
        step: of the plan; the first of somebody's.
    """
    jobs = {j.key: j for j in problem.jobs}
    job = jobs[step.job]
    operation = next(o for o in job.operations if o.key == step.operation)
    finish = plan.forecasts[step.job].finish
    slack = None if job.due is None or finish is None else job.due - finish
    if (step.job, step.operation) in problem.in_hand:
        return Reason("in_hand", slack)
    run = next((r for r in job.running if r.operation == operation.ends), None)
    if run is not None and run.latest is not None:
        if 0 <= run.latest < step.start - MOMENT_MIN:
            return Reason("too_late", slack, run.latest)
        return Reason("must_end", slack, run.latest - (step.start if run.latest >= 0 else 0.0))
    if any((p.job, p.operation, p.kind) == (step.job, step.operation, "fixed") for p in problem.pins):
        return Reason("fixed", slack)
    if slack is not None and slack < 0:
        return Reason("late", slack)
    if operation.ends is not None:
        return Reason("frees", slack)
    others = {s.job for s in plan.steps if s.job != step.job and s.start <= step.start + _soon(plan)}
    if operation.wait_min >= LONG_WAIT_MIN:
        return Reason("starts_wait", slack, operation.wait_min)
    spare = [
        jobs[k].due - (plan.forecasts[k].finish or 0.0)  # type: ignore[operator]
        for k in others
        if jobs[k].due is not None and plan.forecasts[k].finish is not None
    ]
    if others and slack is not None and slack <= min(spare, default=0.0):
        return Reason("least_slack", slack)
    hands = sum(o.hands_min for o in job.operations)
    return Reason("short_way" if others else "only", slack, hands)


def _soon(plan: Plan) -> float:
    """How far ahead other work counts as a choice that could have been made now, minutes."""
    return max((s.end - s.start for s in plan.steps[:1]), default=0.0) + 60.0


def holds(problem: Problem, plan: Plan) -> dict[tuple[str, str], Hold]:
    """What keeps each operation of a plan from beginning earlier."""
    bench = ScheduleBuilder(problem)
    bench.take_in(plan)
    return {(bench.jobs[o.job].key, o.op.key): _hold(bench, o) for o in bench.ops if o.start >= 0}


def hold_of(problem: Problem, plan: Plan, job: str, operation: str) -> Hold | None:
    """What keeps one operation of a plan from beginning earlier; ``None`` where it is not planned."""
    bench = ScheduleBuilder(problem)
    bench.take_in(plan)
    n = bench.number.get((job, operation))
    return None if n is None or bench.ops[n].start < 0 else _hold(bench, bench.ops[n])


def _hold(bench: ScheduleBuilder, op: ScheduledOperation) -> Hold:
    ready, start = bench.ready(op), op.start
    if ready >= NEVER or start <= 1:
        return Hold("now")
    if ready >= start - 1:
        release = bench.jobs[op.job].release * UNIT
        away = "release" if op.before == [] and release >= ready - 1 else "wait"
        return Hold(_kind(op, ready, away), start / UNIT)
    line = bench.lines[op.person]
    line.give(op.start, op.end)
    free = line.next(ready, op.length)
    line.take(op.start, op.end)
    held = (start - ready) / UNIT
    if free >= start - 1:
        busy = [
            o for o in bench.ops
            if o.n != op.n and o.person == op.person and o.start < start and o.end > ready and o.length
        ]  # fmt: skip
        shut = held - sum(min(o.end, start) - max(o.start, ready) for o in busy) / UNIT
        by: dict[str, int] = defaultdict(int)
        for o in busy:
            by[bench.jobs[o.job].key] += min(o.end, start) - max(o.start, ready)
        names = tuple(k for k in sorted(by, key=lambda k: -by[k]) if k != bench.jobs[op.job].key)
        if shut > held / 2:
            return Hold("hours", held)
        return Hold("hands", held, names)
    place = _full(bench, op, free)
    if place is None:
        return Hold("free", (start - free) / UNIT)
    lying = [
        bench.jobs[o.job].key for o in bench.ops
        if o.n != op.n and o.start >= 0 and place in (o.op.place, o.op.at) and o.start < start
        and o.end + o.wait > ready
    ]  # fmt: skip
    lying += [j.key for j in bench.jobs for r in j.running if r.place == place]
    return Hold("place", held, tuple(dict.fromkeys(lying)), place)


def _full(bench: ScheduleBuilder, op: ScheduledOperation, at: int) -> str | None:
    """Which place has no room for an operation if its hands begin at a moment; ``None``: none."""
    end = at + op.length
    own = bench.places[op.op.place].held.get(op.n) if op.holds and op.op.place in bench.places else None
    until = end + (own[1] - own[0] if own is not None else 0)
    for name, token, begin, stop, piece in (
        (op.op.at, HANDS_TOKEN + op.n, at, end, ONE),
        (op.op.place if own is not None else None, op.n, end, max(until, end + 1), op.piece),
    ):
        if name in bench.places and not bench.places[name].fits(begin, stop, token, piece):
            return name
    return None


def _kind(op: ScheduledOperation, ready: int, otherwise: str) -> str:
    """What lets it begin no earlier than it is ready: the time it was set to, its part, or something else."""
    if op.set_to and op.set_to >= ready:
        return "set"
    return "part" if op.op.release > 0 and op.op.release * UNIT >= ready - 1 else otherwise


def path(problem: Problem, plan: Plan, job: str) -> TimeBreakdown:
    """How the time until the finish of a job is spent, walked back from its last operation.

    Raises:
        KeyError: the job is not planned.
    """
    bench = ScheduleBuilder(problem)
    bench.take_in(plan)
    mine = [o for o in bench.ops if bench.jobs[o.job].key == job and o.start >= 0]
    if not mine:
        raise KeyError(job)
    spent: dict[str, float] = defaultdict(float)
    by: dict[str, float] = defaultdict(float)
    op = max(mine, key=lambda o: o.end + o.wait)
    spent["wait"] += op.wait / UNIT
    while True:
        spent["work"] += op.length / UNIT
        hold, ready = _hold(bench, op), bench.ready(op)
        if hold.kind in ("hands", "hours", "place", "free"):
            spent[hold.kind] += hold.minutes
            for other in hold.by[:3]:
                by[other] += hold.minutes / len(hold.by[:3])
        before = [bench.ops[b] for b in op.before]
        if not before:
            waited = min(ready, op.start) / UNIT
            release = bench.jobs[op.job].release
            away = "release" if release > 0 and waited <= release + 1 else "wait"
            spent[_kind(op, ready, away)] += waited
            break
        last = max(before, key=partial(_over_for, op))
        spent[_kind(op, ready, "wait")] += max(0, min(op.start, ready) - last.end) / UNIT
        op = last
    return TimeBreakdown(
        {k: v for k, v in spent.items() if v > 0.05}, tuple(sorted(by.items(), key=lambda r: -r[1])[:3])
    )


def _over_for(op: ScheduledOperation, before: ScheduledOperation) -> int:
    """When one before an operation is over as far as that waits for it, tenths."""
    return before.end + op.lag(before)


def beside(problem: Problem, plan: Plan, other: Problem) -> PlanComparison:
    """The plan of a bench that is a little different, beside the plan there is.

    Args:
        problem, plan: as it is. other: the bench as it would be.
    """
    made = answer_beside(other, plan)
    return compare(problem, plan, other, made)


def answer_beside(other: Problem, plan: Plan) -> Plan:
    """The plan of a bench that is a little different.

    More hands or more room can make a rule's plan worse (Graham, SIAM Journal on Applied Mathematics 17, 1969); the
    plan there is may still be followed then, and is.
    """
    made = []
    for passed in (None, 0.0):
        made.append(repair_schedule(other, plan, passed=passed))
    made.append(dispatch_plan(other))
    best = min(made, key=lambda p: (unplaced(p), p.cost(other)))
    kept = replace(plan.against(other), moved=())
    if (unplaced(kept), kept.cost(other)) < (unplaced(best), best.cost(other)):
        from creekbed.core.planning.plan_checker import violations

        wrong = violations(other, kept)
        return best if wrong else kept
    return best


def compare(problem: Problem, plan: Plan, other: Problem, made: Plan) -> PlanComparison:
    """Two plans side by side: what the second moves, and what it costs more."""
    shifts = []
    for key, forecast in made.forecasts.items():
        before = plan.forecasts.get(key)
        if before is None or before.finish is None or forecast.finish is None:
            continue
        later = forecast.finish - before.finish
        if abs(later) >= TOLD_MIN:
            shifts.append(Shift(key, later, forecast.late_by))
    late = made.weighted_tardiness(other) - plan.weighted_tardiness(problem)
    shifts.sort(key=lambda s: (-s.late_by, -s.later))
    return PlanComparison(made, made.cost(other) - plan.cost(problem), late, tuple(shifts))


def instead(problem: Problem, plan: Plan, job: str, operation: str, person: str) -> PlanComparison:
    """The plan with another operation first, in otherwise the same order."""
    pins = tuple(p for p in problem.pins if p.kind != "preferred" and (p.job, p.operation) != (job, operation))
    other = replace(problem, pins=(*pins, Pin(job, operation, person, "preferred")))
    made = repair_schedule(other, plan)
    return compare(problem, plan, other, made)
