"""What a planner is given and what it answers. All times are minutes from ``now`` = 0.

Jobs are small trees of operations. An operation takes hands for a while and may then leave a wait that runs by
itself in a place; some waits must be ended by a named operation within a longest time.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Protocol


@dataclass(frozen=True)
class Operation:
    """A piece of hands-on work, and the wait it starts.

    Attributes:
        key: name within the job. hands_min: minutes of hands-on work.
        after: operations of the same job that must be done, their shortest waits run out.
        wait_min: shortest wait it starts, minutes; 0 for none.
        wait_max: by when the wait must be ended, minutes after the hands let go; ``None``: no limit.
        place: where the wait happens, or ``None``.
        ends: the operation whose wait this one ends.
        at: the place that the hands need while they work, or ``None``.
        skill: what the person must be able to do; "": anybody.
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


@dataclass(frozen=True)
class Running:
    """A wait that runs now. ``earliest`` and ``latest`` may be negative: already possible, already over."""

    operation: str
    place: str | None
    earliest: float
    latest: float | None = None


@dataclass(frozen=True)
class Job:
    """An open job.

    Attributes:
        key: tag of the instrument. operations: what is left, without what is done.
        due: when it must be finished, minutes from now, may be negative; ``None``: no sailing set.
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
    running: tuple[Running, ...] = ()
    blocked: str = ""


@dataclass(frozen=True)
class Person:
    """Somebody with hands.

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
    """What a plan is judged by: cost of a minute late (times the job's weight), of the last finish, of each finish."""

    late: float = 100.0
    finish: float = 10.0
    completion: float = 1.0


@dataclass(frozen=True)
class Problem:
    """The whole bench at one moment.

    Attributes:
        jobs: open jobs. capacity: place → how many waits it holds.
        windows: opening of the bench, (from, to) in minutes from now, ascending, the last one long enough.
        in_hand: (job, operation) being done now, or ``None``.
        people: who works; none named: one pair of hands while the bench is open. weights: what a plan is judged by.
    """

    jobs: tuple[Job, ...]
    capacity: Mapping[str, int]
    windows: tuple[tuple[float, float], ...]
    in_hand: tuple[str, str] | None = None
    people: tuple[Person, ...] = ()
    weights: Weights = Weights()

    @property
    def hands(self) -> tuple[Person, ...]:
        """Everybody who works."""
        return self.people or (Person("", self.windows),)


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
        kind: "in_hand", "must_end", "frees", "starts_wait", "least_slack", "only", "late".
        slack: minutes to spare on this job after its forecast, or ``None``.
        minutes: a length that belongs to the reason (until the latest end; length of the wait begun).
    """

    kind: str
    slack: float | None = None
    minutes: float | None = None


@dataclass(frozen=True)
class Forecast:
    """When a job will be finished, and how that stands to its due time; ``None`` when it cannot be said."""

    finish: float | None
    late_by: float = 0.0
    blocked: str = ""


@dataclass(frozen=True)
class Plan:
    """A feasible order of all hands-on work.

    Attributes:
        steps: in order of start. forecasts: by job. reason: why the first one is first.
        broken: waits whose longest time cannot be kept, (job, operation, minutes over).
    """

    steps: tuple[Planned, ...]
    forecasts: Mapping[str, Forecast]
    reason: Reason | None = None
    broken: tuple[tuple[str, str, float], ...] = ()

    def cost(self, problem: Problem) -> float:
        """What the problem's weights make of it; smaller is better. Jobs that cannot go on do not count."""
        finishes = [f.finish for f in self.forecasts.values() if f.finish is not None]
        w = problem.weights
        late = self.weighted_tardiness(problem)
        return w.late * late + w.finish * max(finishes, default=0.0) + w.completion * sum(finishes)

    def weighted_tardiness(self, problem: Problem) -> float:
        """Σ weight × minutes late, of jobs with a due time and a forecast."""
        weights = {j.key: j.weight for j in problem.jobs}
        return sum(weights[k] * f.late_by for k, f in self.forecasts.items())


class Planner(Protocol):
    """What the bench asks of any planner."""

    def plan(self, problem: Problem) -> Plan:
        """A plan that keeps every constraint of the problem; never raises for a late job."""
        ...


@dataclass
class Calendar:
    """Opening windows with the two questions a schedule asks."""

    windows: tuple[tuple[float, float], ...]
    _last: float = field(init=False)

    def __post_init__(self) -> None:
        self._last = self.windows[-1][1] if self.windows else 0.0

    def forget(self, now: float) -> None:
        """Drop the windows that are over; nothing is asked before ``now`` any more."""
        if self.windows and self.windows[0][1] <= now:
            self.windows = tuple(w for w in self.windows if w[1] > now)

    def next_start(self, at: float, length: float) -> float:
        """Earliest start ≥ ``at`` so that ``length`` minutes fit into one window.

        Beyond the last window, and for work longer than any window, time counts as open: a forecast far out
        is better than none.
        """
        for start, end in self.windows:
            begin = at if at > start else start
            if begin + length <= end + 1e-9:
                return begin
        return max(at, self._last)
