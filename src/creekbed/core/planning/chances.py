"""The chance that each job makes its departure, by simulating the plan many times with random durations.

Each time everybody keeps to the order of the plan, begins what is next when what must be before is over, and works on
into closing time only to finish what is in hand. A wait whose longest time is up is ended there and then: hands are
called away from what they do, and go on with it afterwards. Who could begin something a good deal sooner than the one
it was planned for takes it over. Nobody mends the order of the plan on the way, so what is shown is a little careful.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from creekbed.core.planning.durations import Learned, WorkKind
from creekbed.core.planning.model import Chances, Operation, Plan, Planned, PlanPerson, Problem, RunningWait
from creekbed.core.planning.place_capacity import ONE, Piece, units

Array = NDArray[np.float64]
TIMES = 1000
"""How often a plan is simulated; a chance is then known to within 3 in a hundred: house default."""
HELPS_MIN = 15.0
"""Somebody else takes an operation over when they can begin this much sooner, minutes: house default."""
DAY_MIN = 1440.0
OPEN_END = 1e9


def work_of(
    steps: Sequence[Planned], named: Mapping[tuple[str, str], tuple[str, str, float]], day_start: float = 0.0
) -> list[WorkKind]:
    """The work behind planned operations.

    Args:
        named: (job, operation) → (name of the operation, family, house minutes). day_start: minutes of the day now.
    """
    rows = []
    for s in steps:
        operation, family, house = named[s.job, s.operation]
        day = int((s.start + day_start) // DAY_MIN)
        rows.append(WorkKind(f"{s.job}/{s.operation}", operation, family, s.person, day, house))
    return rows


def live_through(problem: Problem, plan: Plan, minutes: Array) -> tuple[dict[str, Array], dict[tuple[str, str], Array]]:
    """Simulate a plan.

    Args:
        minutes: hands-on minutes of each of its steps, shape (times, steps), in the order of ``plan.steps``.

    Returns:
        Job → finishes, shape (times,); (job, operation) → by how much hands are called away to end its wait, minutes
        before they would have been free, shape (times,), 0 where they are not.
    """
    times = minutes.shape[0]
    jobs = {j.key: j for j in problem.jobs}
    operations = {(j.key, o.key): o for j in problem.jobs for o in j.operations}
    people = {p.key: p for p in problem.hands}
    free = {key: np.zeros(times) for key in people}
    ends: dict[tuple[str, str], Array] = {}
    called: dict[tuple[str, str], Array] = {}
    enders = {(j.key, o.ends): o for j in problem.jobs for o in j.operations if o.ends}
    slots, set_times = _Slots(problem, times), problem.set_times
    finish = {j.key: np.full(times, max([0.0, *(r.earliest for r in j.running)])) for j in problem.jobs}
    for n in sorted(range(len(plan.steps)), key=lambda k: plan.steps[k].start):
        step = plan.steps[n]
        key = (step.job, step.operation)
        operation, job = operations[key], jobs[step.job]
        running = {r.operation: r for r in job.running}
        length = minutes[:, n]
        who = np.zeros(times, dtype=np.intp)
        hands = [people[step.person]]
        if key in problem.in_hand:
            start = np.zeros(times)
        else:
            at = _over(step.job, operation, operation.before, ends, operations, running)
            at = np.maximum(at, max(job.release, operation.release, set_times.get(key, 0.0)))
            ender = enders.get(key)
            if ender is not None and operation.wait_max is not None:  # not so soon that what ends it could not begin
                others = _over(step.job, ender, ender.before - {step.operation}, ends, operations, running)
                at = np.maximum(at, np.maximum(others, ender.release) - operation.wait_max - length)
            hands += [p for p in people.values() if p.key != step.person and p.can(operation)]
            start = np.full(times, np.inf)
            for k, person in enumerate(hands):
                own = slots.room(operation, np.maximum(at, free[person.key]), length)
                begin = _within_hours(person, own, operation.hands_min)
                sooner = begin < start - (HELPS_MIN if k else 0.0)
                start, who = np.where(sooner, begin, start), np.where(sooner, k, who)
        latest = _latest(step.job, operation, ends, operations, running)
        away = np.zeros(times) if latest is None else np.maximum(0.0, start - latest)
        start = start - away
        end = start + length
        for k, person in enumerate(hands):
            mine = who == k
            free[person.key] = np.where(mine, np.maximum(free[person.key], start) + length, free[person.key])
        ends[key] = end
        slots.take(key, operation, start, end)
        if operation.ends is not None:
            slots.leave((step.job, operation.ends), start)
            if latest is not None:
                called[step.job, operation.ends] = away
        finish[step.job] = np.maximum(finish[step.job], end + operation.wait_min)
    return finish, called


def _over(
    job: str,
    operation: Operation,
    before: frozenset[str],
    ends: Mapping[tuple[str, str], Array],
    operations: Mapping[tuple[str, str], Operation],
    running: Mapping[str, RunningWait],
) -> Array | float:
    """When all of these are over, as far as one that comes after them waits for it and they have begun."""
    at: Array | float = 0.0
    for key in before:
        if (job, key) in ends:
            at = np.maximum(at, ends[job, key] + operation.lag(operations[job, key]))
        elif key in running and key not in operation.deeds:
            at = np.maximum(at, running[key].earliest)
    return at


def _latest(
    job: str,
    operation: Operation,
    ends: Mapping[tuple[str, str], Array],
    operations: Mapping[tuple[str, str], Operation],
    running: Mapping[str, RunningWait],
) -> Array | float | None:
    """Latest start of an operation, given by the wait that it ends; ``None``: no limit."""
    if operation.ends is None:
        return None
    if (job, operation.ends) in ends:
        most = operations[job, operation.ends].wait_max
        return None if most is None else ends[job, operation.ends] + most
    run = running.get(operation.ends)
    return None if run is None or run.latest is None else max(run.latest, run.earliest, 0.0)


def _within_hours(person: PlanPerson, at: Array, length: float) -> Array:
    """The first moment from each on at which work of a usual length fits into somebody's hours."""
    found = np.full(at.shape, np.nan)
    for a, b in person.windows:
        begin = np.maximum(at, a)
        fits = np.isnan(found) & (begin + length <= b + 1e-9)
        found[fits] = begin[fits]
        if not np.isnan(found).any():
            return found
    last = person.windows[-1][1] if person.windows else 0.0
    return np.where(np.isnan(found), np.maximum(at, last), found)


class _Slots:
    """Occupancy of each place in all simulations at once: until when each slot is taken, shape (times, slots)."""

    def __init__(self, problem: Problem, times: int):
        self.holds = {k: problem.shared(k) for k in problem.capacity}
        self.capacity = problem.capacity
        self.free = {k: np.zeros((times, c * self.holds[k])) for k, c in problem.capacity.items()}
        self.held: dict[tuple[str, str], tuple[str, NDArray[np.intp]]] = {}
        self.rows = np.arange(times)[:, None]
        self.ended = frozenset((j.key, o.ends) for j in problem.jobs for o in j.operations if o.ends)
        for job in problem.jobs:
            ended = {o.ends for o in job.operations if o.ends}
            for run in job.running:
                if run.place in self.free:
                    until = OPEN_END if run.operation in ended else max(run.earliest, 0.0)
                    self._hold((job.key, run.operation), run.place, np.full(times, until), run.piece)

    def room(self, operation: Operation, at: Array, length: Array) -> Array:
        """When the places that it needs have room; a place that only a later operation frees is ignored."""
        if operation.at in self.free:
            soonest = self._soonest(operation.at, ONE)
            at = np.where(soonest < OPEN_END, np.maximum(at, soonest), at)
        if operation.place in self.free and operation.holds:
            soonest = self._soonest(operation.place, operation.piece) - length
            at = np.where(soonest + length < OPEN_END, np.maximum(at, soonest), at)
        return at

    def _slots(self, place: str, piece: Piece) -> int:
        """How many slots it takes; alike pieces share a vessel whatever else lies in the others."""
        return min(units(piece, self.capacity[place], self.holds[place]), self.free[place].shape[1])

    def _soonest(self, place: str, piece: Piece) -> Array:
        """The moment from which a number of slots are free at once."""
        count = self._slots(place, piece)
        free = self.free[place]
        return free.min(axis=1) if count == 1 else np.partition(free, count - 1, axis=1)[:, count - 1]

    def take(self, key: tuple[str, str], operation: Operation, start: Array, end: Array) -> None:
        """Note what it takes, by hands and by the wait that it leaves."""
        if operation.at in self.free:
            self._hold((key[0], key[1] + " "), operation.at, end, ONE)
        if operation.place in self.free and operation.holds:
            until = np.full(end.shape, OPEN_END) if key in self.ended else end + operation.wait_min
            self._hold(key, operation.place, until, operation.piece)

    def _hold(self, key: tuple[str, str], place: str, until: Array, piece: Piece) -> None:
        count = self._slots(place, piece)
        free = self.free[place]
        slots = free.argmin(axis=1)[:, None] if count == 1 else np.argpartition(free, count - 1, axis=1)[:, :count]
        free[self.rows, slots] = until[:, None]
        self.held[key] = (place, slots)

    def leave(self, key: tuple[str, str], at: Array) -> None:
        """Remove what lay there."""
        if key in self.held:
            place, slots = self.held.pop(key)
            self.free[place][self.rows, slots] = at[:, None]


def chances(problem: Problem, plan: Plan, learned: Learned, work: Sequence[WorkKind], *, times: int = TIMES,
            seed: int = 11) -> Chances:  # fmt: skip
    """Chances by simulation of a plan.

    Args:
        work: what is behind each step of the plan, in its order. seed: of the luck; the same luck for every plan that
            is compared.
    """
    minutes = learned.draw(work, times, seed)
    for n, step in enumerate(plan.steps):
        planned = step.end - step.start
        if planned <= 0:  # another has set up what it needs
            minutes[:, n] = 0.0
        elif (step.job, step.operation) in problem.in_hand:  # the plan knows how much of it is left
            minutes[:, n] *= planned / np.median(minutes[:, n])
    finish, called = live_through(problem, plan, minutes)
    due = {j.key: j.due for j in problem.jobs if j.due is not None}
    done = {k: v for k, v in finish.items() if plan.forecasts.get(k) and plan.forecasts[k].finish is not None}
    in_time = {k: float((v <= due[k]).mean()) for k, v in done.items() if k in due}
    quantiles = {k: _tenths(v) for k, v in done.items()}
    return Chances(in_time, quantiles, {k: float((v > 1e-6).mean()) for k, v in called.items()})


def _tenths(values: Array) -> tuple[float, float, float]:
    low, middle, high = np.quantile(values, (0.1, 0.5, 0.9))
    return float(low), float(middle), float(high)
