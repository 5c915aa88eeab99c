"""A dispatch rule: apparent tardiness cost over hands-on steps, with hands reserved for waits that must end.

The rule weighs each operation that could start now by its job's weight over the hands it still needs, damped
by its slack (Vepsalainen and Morton, Management Science 33, 1987). Slack counts the longest chain of hands and
waits that follows. An operation is only begun if, after it, every running wait can still be ended in time.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from creekbed.core.planning.model import Calendar, Forecast, Job, Operation, Plan, Planned, Problem, Reason

LOOKAHEAD_MIN = 45.0  # k·p̄ of the rule: slack on the scale of three or four jobs' hands; house default
SAME_JOB_BONUS = 0.35  # staying with the instrument in hand saves a change of place; house default
NO_DUE_SLACK = 10_000.0


@dataclass
class _State:
    """What the simulation knows of one job."""

    job: Job
    left: dict[str, Operation]
    tail: dict[str, float]
    ends_at: dict[str, float] = field(default_factory=dict)  # operation → when its successors may start
    must_end: dict[str, float] = field(default_factory=dict)  # operation → latest start of what ends it
    finish: float = 0.0

    hands_left: float = 0.0
    pressing: float = 0.0  # logarithm of weight over hands left, the part of the index that changes with the job only
    enders: dict[str, str] = field(default_factory=dict)  # operation → what ends its wait
    open: list[tuple[Operation, float]] | None = None  # what could start, from when; None: to be worked out anew

    def __post_init__(self) -> None:
        self.enders = {o.ends: o.key for o in self.left.values() if o.ends is not None}
        self.take(-sum(o.hands_min for o in self.left.values()))

    def take(self, hands_min: float) -> None:
        """Note that so much of the work is done."""
        self.hands_left -= hands_min
        self.pressing = math.log(self.job.weight / max(self.hands_left, 1.0))

    def ender(self, operation: str) -> Operation | None:
        return self.left.get(self.enders.get(operation, ""))


_Held = tuple[str, str, float]
"""What a wait holds in a place: job, operation, until when (inf until something ends it)."""


@dataclass(frozen=True)
class _Limit:
    """A wait that must be ended: by when, from when it may be, by what."""

    latest: float
    earliest: float
    ender: Operation
    state: _State
    operation: str


def tails(job: Job) -> dict[str, float]:
    """For each operation the longest chain of minutes from its start to the end of the job."""
    followers: dict[str, list[str]] = {o.key: [] for o in job.operations}
    by_key = {o.key: o for o in job.operations}
    for operation in job.operations:
        for before in operation.after:
            if before in followers:
                followers[before].append(operation.key)
    memo: dict[str, float] = {}

    def tail(key: str) -> float:
        if key not in memo:
            operation = by_key[key]
            rest = max((tail(f) for f in followers[key]), default=0.0)
            memo[key] = operation.hands_min + operation.wait_min + rest
        return memo[key]

    return {key: tail(key) for key in by_key}


class AtcDispatch:
    """Plans by simulating the bench forward and taking the best operation whenever hands are free."""

    def plan(self, problem: Problem) -> Plan:
        """See :class:`creekbed.core.planning.model.Planner`."""
        return _Simulation(problem).run()


class _Simulation:
    def __init__(self, problem: Problem):
        self.problem = problem
        self.calendar = Calendar(problem.windows)
        self.states = [_State(j, {o.key: o for o in j.operations}, tails(j)) for j in problem.jobs if not j.blocked]
        self.steps: list[Planned] = []
        self.broken: list[tuple[str, str, float]] = []
        self.reason: Reason | None = None
        self.last_job: str | None = None
        # place → what each wait there holds it for: (job, operation, free from) ; inf until it is ended
        self.occupied: dict[str, list[_Held]] = {place: [] for place in problem.capacity}
        for state in self.states:
            for run in state.job.running:
                state.ends_at[run.operation] = max(run.earliest, 0.0)
                ender = state.ender(run.operation)
                if run.latest is not None and ender is not None:
                    state.must_end[run.operation] = run.latest
                self._occupy(state, run.operation, run.place, math.inf if ender else max(run.earliest, 0.0))

    def _occupy(self, state: _State, operation: str, place: str | None, until: float) -> None:
        if place is not None:
            self.occupied.setdefault(place, []).append((state.job.key, operation, until))

    def _free_from(self, place: str | None, at: float, leaving: tuple[str, str] | None) -> float:
        """Earliest time ≥ ``at`` when the place can take one more; inf if only ending a wait frees it."""
        if place is None or place not in self.problem.capacity:
            return at
        return self._free(self.occupied[place], place, at, leaving)

    def _free(self, held: list[_Held], place: str, at: float, leaving: tuple[str, str] | None) -> float:
        capacity = self.problem.capacity.get(place, len(held) + 1)
        if len(held) < capacity:
            return at
        until = sorted(u for j, o, u in held if (j, o) != leaving and u > at)
        return at if len(until) < capacity else until[len(until) - capacity]

    def _ready_at(self, state: _State, operation: Operation) -> float:
        """When what comes before allows it, inf while something before it is not yet begun."""
        at = state.job.release
        for before in (*operation.after, *((operation.ends,) if operation.ends else ())):
            if before in state.left:
                return math.inf
            at = max(at, state.ends_at.get(before, 0.0))
        return at

    def _starts(self, now: float) -> list[tuple[float, _State, Operation]]:
        self.calendar.forget(now)
        found = []
        for state in self.states:
            if state.open is None:
                found_at = ((o, self._ready_at(state, o)) for o in state.left.values())
                state.open = [(o, at) for o, at in found_at if at < math.inf]
            for operation, at in state.open:
                at = at if at > now else now
                if operation.place is not None:
                    leaving = (state.job.key, operation.ends) if operation.ends else None
                    at = self._free_from(operation.place, at, leaving)
                if at < math.inf:
                    found.append((self.calendar.next_start(at, operation.hands_min), state, operation))
        return found

    def _limits(self) -> list[_Limit]:
        """Running waits that must be ended by a latest time, the most pressing first."""
        rows = []
        for state in self.states:
            for operation, latest in state.must_end.items():
                ender = state.ender(operation)
                if ender is not None:
                    earliest = max(state.ends_at.get(k, 0.0) for k in (operation, *ender.after))
                    rows.append(_Limit(latest, earliest, ender, state, operation))
        return sorted(rows, key=lambda r: r.latest)

    def _own_limit(self, state: _State, operation: Operation, end: float) -> _Limit | None:
        """The limit that an operation ending its hands at ``end`` would set, ``None`` if it sets none."""
        ender = state.ender(operation.key)
        if operation.wait_max is None or ender is None:
            return None
        earliest = max([end + operation.wait_min] + [state.ends_at.get(k, 0.0) for k in ender.after])
        return _Limit(end + operation.wait_max, earliest, ender, state, operation.key)

    def _keeps_limits(self, state: _State, operation: Operation, start: float, limits: list[_Limit]) -> bool:
        """Whether every wait with a limit, this operation's own included, can still be ended in time.

        The waits are ended in order of their latest moment, each when hands are there, the bench is open and the
        place that the ending operation needs is free; limits that those endings set themselves are followed too.
        """
        end = start + operation.hands_min
        rows = [r for r in limits if not (r.state is state and r.operation == operation.ends)]
        own = self._own_limit(state, operation, end)
        if own is not None:
            if any(k in state.left for k in own.ender.after if k != operation.key):
                return False  # something else must come before the wait can be ended: do that first
            rows.append(own)
        if not rows:
            return True
        held = {place: list(found) for place, found in self.occupied.items()}
        self._move(held, state, operation, end)
        rows.sort(key=lambda r: r.latest)
        at = end
        while rows:
            row = rows.pop(0)
            at = max(at, row.earliest)
            if row.ender.place in held:
                at = self._free(held[row.ender.place], row.ender.place, at, (row.state.job.key, row.operation))
            begin = at if at == math.inf else self.calendar.next_start(at, row.ender.hands_min)
            if begin > row.latest + 1e-9 and row.latest >= start:  # one already lost must not stop everything else
                return False
            at = begin + row.ender.hands_min
            self._move(held, row.state, row.ender, at)
            following = self._own_limit(row.state, row.ender, at)
            if following is not None:
                if any(k in row.state.left for k in following.ender.after if k not in (row.ender.key, operation.key)):
                    return False
                rows = sorted([*rows, following], key=lambda r: r.latest)
        return True

    def _move(self, held: dict[str, list[_Held]], state: _State, operation: Operation, end: float) -> None:
        """Note in ``held`` what an operation ending its hands at ``end`` takes out of its place and puts in."""
        if operation.ends is not None:
            for place, found in held.items():
                held[place] = [r for r in found if r[:2] != (state.job.key, operation.ends)]
        if operation.place in held and (operation.wait_min or operation.wait_max):
            until = math.inf if state.ender(operation.key) else end + operation.wait_min
            held[operation.place].append((state.job.key, operation.key, until))

    def _index(self, state: _State, operation: Operation, start: float) -> float:
        """Logarithm of the apparent tardiness cost; larger is more pressing."""
        due = state.job.due
        slack = NO_DUE_SLACK if due is None else due - start - state.tail[operation.key]
        if operation.ends is not None and operation.ends in state.must_end:
            slack = min(slack, state.must_end[operation.ends] - start - operation.hands_min)
        value = state.pressing - (slack / LOOKAHEAD_MIN if slack > 0 else 0.0)
        if operation.wait_min:
            value += 0.2 * math.log1p(operation.wait_min / max(operation.hands_min, 1.0))  # waits run meanwhile
        if state.job.key == self.last_job:
            value += SAME_JOB_BONUS
        return value

    def run(self) -> Plan:
        """Simulate the bench until nothing is left that can start."""
        now = 0.0
        if self.problem.in_hand is not None:
            now = self._take_in_hand(*self.problem.in_hand)
        while True:
            starts = self._starts(now)
            if not starts:
                break
            soonest = min(s for s, _, _ in starts)
            limits = self._limits()
            ready = [(s, st, o) for s, st, o in starts if s <= soonest + 1e-9]
            ready.sort(key=lambda r: self._index(r[1], r[2], r[0]), reverse=True)
            best = next((r for r in ready if self._keeps_limits(r[1], r[2], r[0], limits)), None)
            if best is None:
                now = self._wait_or_break(soonest, starts, limits, ready)
                continue
            start, state, operation = best
            if self.reason is None:
                self.reason = self._why(state, operation, start, ready)
            now = self._do(state, operation, start)
        return Plan(tuple(self.steps), self._forecasts(), self.reason, tuple(self.broken))

    def _wait_or_break(
        self,
        soonest: float,
        starts: list[tuple[float, _State, Operation]],
        limits: list[_Limit],
        ready: list[tuple[float, _State, Operation]],
    ) -> float:
        """Nothing may start at the soonest moment without losing a wait: go to the next moment that changes it."""
        later = [s for s, _, _ in starts if s > soonest + 1e-9]
        ends = [r.earliest for r in limits if r.earliest > soonest + 1e-9]
        windows = [w for w, _ in self.calendar.windows if w > soonest + 1e-9]
        moments = later + ends + windows[:1]
        following = min(moments, default=math.inf)
        enders = [
            r for r in ready
            if r[2].ends is not None and r[1].must_end.get(r[2].ends, math.inf) < following - 1e-9
        ]  # fmt: skip
        if enders or not moments:
            # Waiting would lose this limit, going on another: whatever we do, one is lost. End this one, and say so.
            start, state, operation = min(enders or ready, key=lambda r: r[1].must_end.get(r[2].ends or "", math.inf))
            return self._do(state, operation, start)
        return following

    def _take_in_hand(self, job: str, operation: str) -> float:
        for state in self.states:
            if state.job.key == job and operation in state.left:
                self.reason = Reason("in_hand")
                return self._do(state, state.left[operation], 0.0)
        return 0.0

    def _do(self, state: _State, operation: Operation, start: float) -> float:
        end = start + operation.hands_min
        self.steps.append(Planned(state.job.key, operation.key, start, end))
        del state.left[operation.key]
        state.take(operation.hands_min)
        state.open = None
        if operation.ends is not None:
            latest = state.must_end.pop(operation.ends, None)
            if latest is not None and start > latest + 1e-6:
                self.broken.append((state.job.key, operation.ends, start - latest))
        state.ends_at[operation.key] = end + operation.wait_min
        state.finish = max(state.finish, end + operation.wait_min)
        limit = self._own_limit(state, operation, end)
        if limit is not None:
            state.must_end[operation.key] = limit.latest
        self._move(self.occupied, state, operation, end)
        self.last_job = state.job.key
        return end

    def _why(
        self,
        state: _State,
        operation: Operation,
        start: float,
        ready: list[tuple[float, _State, Operation]],
    ) -> Reason:
        slack = None if state.job.due is None else state.job.due - start - state.tail[operation.key]
        if operation.ends is not None and operation.ends in state.must_end:
            return Reason("must_end", slack, state.must_end[operation.ends] - start)
        if slack is not None and slack < 0:
            return Reason("late", slack)
        if operation.ends is not None:
            return Reason("frees", slack)
        others = [st for _, st, _ in ready if st is not state]
        if operation.wait_min >= 5:
            return Reason("starts_wait", slack, operation.wait_min)
        if others and slack is not None:
            spare = [o.job.due - start - max(o.tail[k] for k in o.left) for o in others if o.job.due is not None]
            if slack <= min(spare, default=math.inf):
                return Reason("least_slack", slack)
        return Reason("short_way" if others else "only", slack, state.hands_left)

    def _forecasts(self) -> dict[str, Forecast]:
        found = {}
        for job in self.problem.jobs:
            if job.blocked:
                found[job.key] = Forecast(None, 0.0, job.blocked)
        for state in self.states:
            if state.left:
                found[state.job.key] = Forecast(None, 0.0, "a place never comes free")
                continue
            finish = max([state.finish, *state.ends_at.values(), 0.0])
            late = 0.0 if state.job.due is None else max(0.0, finish - state.job.due)
            found[state.job.key] = Forecast(finish, late)
        return found
