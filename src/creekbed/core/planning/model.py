"""What a planner is given and what it answers. All times are minutes from ``now`` = 0.

Jobs are small trees of operations. An operation takes hands for a while and may then leave a wait that runs by
itself in a place; some waits must be ended by a named operation within a longest time.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import field, replace
from typing import Any

from creekbed.core.planning.packed_rows import PackedRows
from creekbed.core.planning.place_capacity import ONE, Piece
from creekbed.core.quick_dataclasses import dataclass


@dataclass(frozen=True)
class Operation:
    """A piece of hands-on work, and the wait it starts.

    Attributes:
        key: name within the job. hands_min: minutes of hands-on work.
        after: operations of the same job that must be done, their shortest waits run out.
        deeds: those of ``after`` whose wait may still run: it is enough that the hands are done with them.
        wait_min: shortest wait it starts, minutes; 0 for none.
        wait_max: by when the wait must be ended, minutes after the hands let go; ``None``: no limit.
        place: where the wait happens, or ``None``.
        ends: the operation whose wait this one ends.
        at: the place that the hands need while they work, or ``None``.
        skill: what the person must be able to do; "": anybody.
        shares: what it sets up (a mix, a filled sink) that alike operations of other jobs use too; "": nothing.
        again_min: hands-on minutes when that stands ready. keeps_min: for how long it does after the hands let go.
        piece: what it leaves in the place while it waits.
        release: minutes from now before which it may not begin: its part has not come.
        parts: pieces of the instrument that the hands need, and that lie in the place while its wait runs: nothing else
            of the job uses them then, but what ends the wait and what comes after this and before that.
    """

    key: str
    hands_min: float
    after: tuple[str, ...] = ()
    wait_min: float = 0.0
    wait_max: float | None = None
    place: str | None = None
    ends: str | None = None
    at: str | None = None
    skill: str = ""
    shares: str = ""
    again_min: float = 0.0
    keeps_min: float = math.inf
    piece: Piece = ONE
    release: float = 0.0
    parts: frozenset[str] = frozenset()
    deeds: frozenset[str] = frozenset()

    def __post_init__(self) -> None:
        if self.shares and self.again_min > self.hands_min:
            raise ValueError("what is set up already is no slower the second time")

    @property
    def before(self) -> frozenset[str]:
        """Everything that must be done before it: what it comes after, and what began the wait that it ends."""
        return frozenset((*self.after, *((self.ends,) if self.ends else ())))

    @property
    def waits_for(self) -> frozenset[str]:
        """Of what is before it, that whose wait must be over too."""
        return self.before - self.deeds

    def lag(self, before: Operation) -> float:
        """What must pass between the hands of one before it and its own, minutes."""
        return 0.0 if before.key in self.deeds else before.wait_min

    @property
    def holds(self) -> bool:
        """Whether its wait takes a place."""
        return self.place is not None and bool(self.wait_min or self.wait_max)


@dataclass(frozen=True)
class RunningWait:
    """A wait that runs now. ``earliest`` and ``latest`` may be negative: already possible, already over.

    Attributes:
        parts: pieces of the instrument that lie there.
    """

    operation: str
    place: str | None
    earliest: float
    latest: float | None = None
    piece: Piece = ONE
    parts: frozenset[str] = frozenset()


@dataclass(frozen=True)
class PlanJob:
    """An open job.

    Attributes:
        key: tag of the instrument. operations: what is left, without what is done.
        due: when it must be finished, minutes from now, may be negative; ``None``: no departure set.
        weight: how much its lateness counts.
        release: minutes from now before which nothing may begin (acclimatising).
        running: waits that run now; their operations are not in ``operations``.
        blocked: why it cannot go on, or "".
    """

    key: str
    operations: tuple[Operation, ...]
    due: float | None = None
    weight: float = 1.0
    release: float = 0.0
    running: tuple[RunningWait, ...] = ()
    blocked: str = ""

    def __reduce__(self) -> tuple[Any, ...]:
        operations = _OPERATIONS.pack(self.operations)
        return _job, (self.key, operations, self.due, self.weight, self.release, self.running, self.blocked)


_OPERATIONS = PackedRows(1000)
"""What is left of so many jobs, as it was last sent: house default."""


def _job(key: str, operations: bytes, *more: Any) -> PlanJob:
    """A job that another process has sent."""
    return PlanJob(key, _OPERATIONS.unpack(operations), *more)


@dataclass(frozen=True)
class PlanPerson:
    """A person who works at the bench.

    Attributes:
        key: initials. windows: when they are there, minutes from now, ascending. skills: what they can do; empty: all.
    """

    key: str
    windows: tuple[tuple[float, float], ...]
    skills: frozenset[str] = frozenset()

    def can(self, operation: Operation) -> bool:
        """Whether they may do an operation."""
        return not operation.skill or not self.skills or operation.skill in self.skills


@dataclass(frozen=True)
class Weights:
    """What a plan is judged by, in minutes.

    Attributes:
        late: of a minute late, times the job's weight. finish: of the last finish. completion: of each finish.
        change: of each time that somebody puts an instrument aside for another, at another place or at none.
        moved: of each thing that changes in what people were shown to do next.
    """

    late: float = 100.0
    finish: float = 10.0
    completion: float = 1.0
    change: float = 0.0
    moved: float = 5.0


@dataclass(frozen=True)
class Pin:
    """An operation that stays with somebody.

    Attributes:
        person: who; "": anybody. at: minutes from now.
        kind: "in_hand": it is being done, and begins at 0; "preferred": it was shown to begin then, and begins no later
            unless it must; "fixed": somebody set it to begin then, and nothing else is put in its way.
    """

    job: str
    operation: str
    person: str = ""
    kind: str = "in_hand"
    at: float = 0.0


@dataclass(frozen=True)
class Problem:
    """The whole bench at one moment.

    Attributes:
        jobs: open jobs. capacity: place → how much room it has.
        holds: place → how many alike pieces share one unit of its room, such as a tub of one mix; not named: one.
        windows: opening of the bench, (from, to) in minutes from now, ascending, the last one long enough.
        pins: what stays where it is.
        people: who works; none named: one pair of hands while the bench is open. weights: what a plan is judged by.
        spare: what ends a wait that is yet to be begun is planned so many minutes before its longest time and before
            somebody goes home: then it is still in time where the work before it takes a little longer.
        grace: what was shown to be over before a break or before closing may run so many minutes into that, where it
            has slipped a little: people finish what is in hand. Nothing is planned so from the first.
    """

    jobs: tuple[PlanJob, ...]
    capacity: Mapping[str, int]
    windows: tuple[tuple[float, float], ...]
    pins: tuple[Pin, ...] = ()
    people: tuple[PlanPerson, ...] = ()
    weights: Weights = Weights()
    holds: Mapping[str, int] = field(default_factory=dict)
    spare: float = 0.0
    grace: float = 0.0

    @property
    def hands(self) -> tuple[PlanPerson, ...]:
        """Everybody who works."""
        return self.people or (PlanPerson("", self.windows),)

    @property
    def set_times(self) -> dict[tuple[str, str], float]:
        """(job, operation) → the earliest start of what somebody set to a time, minutes.

        What ends a wait that runs is not put off beyond the longest time of that; what is in hand has begun.
        """
        held = self.in_hand
        times = {
            (p.job, p.operation): p.at for p in self.pins if p.kind == "fixed" and (p.job, p.operation) not in held
        }
        for job in self.jobs if times else ():
            latest = {r.operation: r.latest for r in job.running if r.latest is not None}
            for o in job.operations:
                if (job.key, o.key) in times and o.ends in latest:
                    times[job.key, o.key] = max(min(times[job.key, o.key], latest[o.ends]), 0.0)
        return times

    def shared(self, place: str) -> int:
        """How many alike pieces share one unit of a place's room."""
        return self.holds.get(place, 1)

    @property
    def in_hand(self) -> frozenset[tuple[str, str]]:
        """What is being done now: (job, operation)."""
        return frozenset((p.job, p.operation) for p in self.pins if p.kind == "in_hand")


@dataclass(frozen=True)
class Planned:
    """One operation with its times, minutes from now."""

    job: str
    operation: str
    start: float
    end: float
    person: str = ""


@dataclass(frozen=True)
class Reason:
    """Why the first operation comes first, for programs; :mod:`explain` makes words of it.

    Attributes:
        kind: "in_hand", "must_end", "too_late", "frees", "starts_wait", "least_slack", "only", "late".
        slack: minutes to spare on this job after its forecast, or ``None``.
        minutes: a length that belongs to the reason (until the latest end; length of the wait begun). "too_late": the
            wait is still within its longest time, and no hands are there to end it in that.
    """

    kind: str
    slack: float | None = None
    minutes: float | None = None


@dataclass(frozen=True)
class Forecast:
    """When a job will be finished, and how that stands to its due time; ``None`` when it cannot be said.

    Attributes:
        blocked: what the job stands still for. placed: ``False`` where a place that it needs never comes free.
    """

    finish: float | None
    late_by: float = 0.0
    blocked: str = ""
    placed: bool = True


@dataclass(frozen=True)
class DelayedStart:
    """Something that was to be next, and why it is not.

    Attributes:
        later: minutes later than it was shown. why: "must_end": a wait had to be ended first; "wait": what comes before
            it is not over; "place": its place is full; "hours": nobody is there;
            "hands": somebody else is free sooner; "departure": a job would miss its departure.
        by: (job, operation) that comes first, where something does.
    """

    job: str
    operation: str
    later: float
    why: str
    by: tuple[str, str] | None = None


@dataclass(frozen=True)
class Plan:
    """A feasible order of all hands-on work.

    Attributes:
        steps: in order of start. forecasts: by job.
        broken: waits whose longest time cannot be kept, (job, operation, minutes over).
        moved: what was to be next and begins later than it was shown to.
    """

    steps: tuple[Planned, ...]
    forecasts: Mapping[str, Forecast]
    broken: tuple[tuple[str, str, float], ...] = ()
    moved: tuple[DelayedStart, ...] = ()

    def __reduce__(self) -> tuple[Any, ...]:
        return _plan, (_STEPS.pack(self.steps), self.forecasts, self.broken, self.moved)

    def cost(self, problem: Problem) -> float:
        """What the problem's weights make of it; smaller is better. Jobs that cannot go on do not count."""
        finishes = [f.finish for f in self.forecasts.values() if f.finish is not None]
        w = problem.weights
        late = self.weighted_tardiness(problem)
        going = w.change * self.changes(problem) if w.change else 0.0
        return w.late * late + w.finish * max(finishes, default=0.0) + w.completion * sum(finishes) + going

    def changes(self, problem: Problem) -> int:
        """How often somebody puts an instrument aside for another; the same work at one place is done in one go."""
        at = {(j.key, o.key): o.at for j in problem.jobs for o in j.operations}
        last: dict[str, tuple[str, str | None]] = {}
        count = 0
        for step in self.steps:
            here = (step.job, at.get((step.job, step.operation)))
            before = last.get(step.person)
            elsewhere = before is not None and (here[1] is None or before[1] != here[1])
            count += before is not None and before[0] != here[0] and elsewhere
            last[step.person] = here
        return count

    def against(self, problem: Problem) -> Plan:
        """The same plan, judged by the due times of another bench, or of this one a little later."""
        due = {j.key: j.due for j in problem.jobs}
        found = {}
        for key, forecast in self.forecasts.items():
            at = due.get(key)
            late = 0.0 if at is None or forecast.finish is None else max(0.0, forecast.finish - at)
            found[key] = replace(forecast, late_by=late)
        return replace(self, forecasts=found)

    def of(self, person: str) -> list[Planned]:
        """What somebody does, in order."""
        return [s for s in self.steps if s.person == person]

    def weighted_tardiness(self, problem: Problem) -> float:
        """Σ weight × minutes late, of jobs with a due time and a forecast."""
        weights = {j.key: j.weight for j in problem.jobs}
        return sum(weights[k] * f.late_by for k, f in self.forecasts.items())


_STEPS = PackedRows(16)
"""The steps of so many plans: house default."""


def _plan(steps: bytes, *more: Any) -> Plan:
    """A plan that another process has sent."""
    return Plan(_STEPS.unpack(steps), *more)


@dataclass(frozen=True)
class Chances:
    """What came of living through a plan.

    Attributes:
        in_time: job → chance that it is finished by its due time; jobs without one are left out.
        finish: job → its finish, minutes from now, at the 10, 50 and 90 of a hundred.
        called: (job, operation) of each wait with a longest time → chance that hands are called away to end it.
    """

    in_time: Mapping[str, float]
    finish: Mapping[str, tuple[float, float, float]]
    called: Mapping[tuple[str, str], float]
