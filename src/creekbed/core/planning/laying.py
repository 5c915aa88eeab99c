"""A plan being laid out: people's hours, places and what lies in them, operations laid in and taken out; a first plan.

The first plan places the most pressing operation where hands are free soonest (apparent tardiness cost: Vepsalainen and
Morton, Management Science 33, 1987), and with it at once whatever must end its wait in time, so that those hands are
reserved.
"""

from __future__ import annotations

import bisect
import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from creekbed.core.planning.dispatch import LOOKAHEAD_MIN, NO_DUE_SLACK
from creekbed.core.planning.model import Forecast, Job, Operation, Person, Plan, Planned, Problem

RULES, BOTH_UP_TO = (1.0, 10.0), 700
"""How much few hands left count against slack in the rules of the first plan; both are tried up to so many operations:
house default."""
UNIT = 10
"""Steps of a minute in which times are counted here."""
NEVER = 10**9
LOOKAHEAD = LOOKAHEAD_MIN * UNIT
TRIES, SOON = 400, 5 * UNIT
"""How often a start is looked for; how far ahead of the clock hands are promised: house default."""


def up(minutes: float) -> int:
    """Minutes as tenths, rounded up."""
    return math.ceil(minutes * UNIT - 1e-6)


def down(minutes: float) -> int:
    """Minutes as tenths, rounded down."""
    return math.floor(minutes * UNIT + 1e-6)


@dataclass
class Op:
    """One operation with its ties, by number; times in tenths of a minute, lengths rounded up.

    ``length`` of the hands, ``wait`` at least after them, ``limit``: latest start of what ends it, after its own start.
    """

    n: int
    job: int
    op: Operation
    before: list[int]
    ready: int
    """Release and running waits; what comes before is added when it is placed."""
    length: int
    wait: int
    limit: int | None
    ends: int = -1
    ender: int = -1
    tail: int = 0
    people: list[int] = field(default_factory=list)
    start: int = -1
    person: int = -1

    @property
    def end(self) -> int:
        """When its hands let go."""
        return self.start + self.length

    @property
    def late(self) -> int:
        """1 where its hands begin within their first tenth, because their length is no whole number of tenths."""
        return int(self.length > self.op.hands_min * UNIT + 1e-6)

    @property
    def holds(self) -> bool:
        """Whether its wait takes a place."""
        return self.op.place is not None and bool(self.op.wait_min or self.op.wait_max)


class Timeline:
    """One person's hours and what they are busy with."""

    def __init__(self, person: Person):
        self.windows = [(up(a), down(b)) for a, b in person.windows]
        self.last = up(person.windows[-1][1]) if person.windows else 0
        self.busy: list[tuple[int, int]] = []
        self.front = 0

    def next(self, at: int, length: int) -> int:
        """Earliest start from a time on at which so long a piece fits between what is there and within the hours."""
        n = bisect.bisect_left(self.busy, (at,))
        if n and self.busy[n - 1][1] > at:
            at = self.busy[n - 1][1]
        while True:
            at = self._open(at, length)
            while n < len(self.busy) and self.busy[n][1] <= at:
                n += 1
            if n == len(self.busy) or at + length <= self.busy[n][0]:
                return at
            at = self.busy[n][1]

    def _open(self, at: int, length: int) -> int:
        for a, b in self.windows:
            begin = max(at, a)
            if begin + length <= b:
                return begin
        return max(at, self.last)

    def gap(self, at: int) -> int:
        """How long they are free from a moment on; 0 where they are not."""
        n = bisect.bisect_right(self.busy, (at, NEVER))
        if n and self.busy[n - 1][1] > at:
            return 0
        end = next((b for a, b in self.windows if a <= at < b), NEVER if at >= self.last else at)
        return min(end, self.busy[n][0] if n < len(self.busy) else NEVER) - at

    def take(self, start: int, end: int) -> None:
        """They are busy from start to end."""
        bisect.insort(self.busy, (start, end))

    def give(self, start: int, end: int) -> None:
        """They are free again from start to end."""
        self.busy.remove((start, end))


class Place:
    """What lies in a place, and until when."""

    def __init__(self, capacity: int):
        self.capacity = capacity
        self.held: dict[int, tuple[int, int]] = {}

    def fits(self, start: int, end: int, leaving: int = -1) -> bool:
        """Whether one more may lie there from start to end."""
        rows = [(a, b) for k, (a, b) in self.held.items() if k != leaving and a < end and b > start]
        if len(rows) < self.capacity:
            return True
        for at in [start, *(a for a, _ in rows if a > start)]:
            if sum(a <= at < b for a, b in rows) >= self.capacity:
                return False
        return True

    def after(self, at: int) -> int:
        """The next moment after a time at which something leaves; ``NEVER`` where nothing does."""
        return min((b for _, b in self.held.values() if at < b), default=NEVER)


class Bench:
    """The problem by numbers, and a plan being laid into it."""

    def __init__(self, problem: Problem, pressing: float = 1.0, nudges: Sequence[float] = ()):
        """
        Args:
            pressing: how much few hands left count against slack in the first plan. nudges: what is added to the index
                of each job, in the order of those that can go on.
        """
        self.problem, self.pressing, self.nudges = problem, pressing, nudges
        self.jobs = [j for j in problem.jobs if not j.blocked]
        self.people = problem.hands
        self.ops: list[Op] = []
        self.by_job: list[list[Op]] = []
        for n, job in enumerate(self.jobs):
            self._add(n, job)
        self.followers: list[list[int]] = [[] for _ in self.ops]
        for op in self.ops:
            for before in op.before:
                self.followers[before].append(op.n)
        for op in reversed(self._order()):
            rest = max((self.ops[f].tail for f in self.followers[op.n]), default=0)
            op.tail = op.length + op.wait + rest
        self.clear()

    def _add(self, n: int, job: Job) -> None:
        first = len(self.ops)
        number = {o.key: first + k for k, o in enumerate(job.operations)}
        running = {r.operation: max(r.earliest, 0.0) for r in job.running}
        mine = []
        for o in job.operations:
            named = {*o.after, *((o.ends,) if o.ends else ())}
            ready = up(max([job.release, *(running.get(b, 0.0) for b in named)]))
            before = sorted(number[b] for b in named if b in number)
            limit = None if o.wait_max is None else up(o.hands_min) + down(o.wait_max)
            op = Op(number[o.key], n, o, before, ready, up(o.hands_min), up(o.wait_min), limit)
            op.people = [k for k, p in enumerate(self.people) if p.can(o)] or list(range(len(self.people)))
            if o.ends in number:
                op.ends = number[o.ends]
            mine.append(op)
        for op in mine:
            if op.ends >= 0:
                wet = mine[op.ends - first]
                wet.ender = op.n
                if wet.limit is not None:
                    wet.limit -= op.late
        self.ops += mine
        self.by_job.append(mine)

    def _order(self) -> list[Op]:
        """The operations so that each comes after what is before it."""
        placed: set[int] = set()
        found: list[Op] = []

        def visit(n: int) -> None:
            if n in placed:
                return
            placed.add(n)
            for before in self.ops[n].before:
                visit(before)
            found.append(self.ops[n])

        for op in self.ops:
            visit(op.n)
        return found

    def clear(self) -> None:
        """Nothing is planned."""
        self.lines = [Timeline(p) for p in self.people]
        self.places = {k: Place(c) for k, c in self.problem.capacity.items()}
        self.broken: list[tuple[str, str, float]] = []
        for op in self.ops:
            op.start, op.person = -1, -1
        self.running: dict[tuple[int, str], int] = {}
        for n, job in enumerate(self.jobs):
            enders = {o.ends for o in job.operations if o.ends}
            for _k, run in enumerate(job.running):
                token = -1 - len(self.running)
                self.running[(n, run.operation)] = token
                if run.place in self.places:
                    until = NEVER if run.operation in enders else up(max(run.earliest, 0.0))
                    self.places[run.place].held[token] = (0, until)

    # --- placing ----------------------------------------------------------------------------------------------------

    def ready(self, op: Op) -> int:
        """When it may begin by what comes before; ``NEVER`` while something before it is not placed."""
        at = op.ready
        for b in op.before:
            before = self.ops[b]
            if before.start < 0:
                return NEVER
            at = max(at, before.end + before.wait)
        return at

    def place(self, op: Op, at: int, latest: int | None = None) -> bool:
        """Lay an operation in at the earliest moment from a time on, and what must end its wait in time with it."""
        bound_ender = self.ops[op.ender] if op.ender >= 0 and op.limit is not None else None
        if bound_ender is not None and any(self.ops[b].start < 0 for b in bound_ender.before if b != op.n):
            return False
        for _ in range(TRIES):
            start, person = min((self.lines[p].next(at, op.length), p) for p in op.people)
            if latest is not None and start > latest:
                return False
            end = start + op.length
            later = self._no_room(op, start, end)
            if later is not None:
                if later >= NEVER:
                    return False
                at = later
                continue
            self._lay(op, start, person)
            if bound_ender is None:
                return True
            assert op.limit is not None
            if self.place(bound_ender, self.ready(bound_ender), start + op.limit):
                return True
            soonest = min(self.lines[p].next(self.ready(bound_ender), bound_ender.length) for p in bound_ender.people)
            self._lift(op)
            at = max(start + UNIT, soonest - op.limit)
        return False

    def _no_room(self, op: Op, start: int, end: int) -> int | None:
        """``None`` if the places that it needs take it; else from when to try again."""
        if op.op.at is not None and op.op.at in self.places and not self.places[op.op.at].fits(start, end):
            return self._retry(self.places[op.op.at], start, start)
        if op.holds and op.op.place in self.places:
            place = self.places[op.op.place]
            until = end + op.wait
            if op.ender >= 0:
                until = NEVER if op.limit is None else start + op.limit
            leaving = self._token(op)
            if not place.fits(end, max(until, end + 1), leaving):
                return self._retry(place, end, start)
        return None

    @staticmethod
    def _retry(place: Place, at: int, start: int) -> int:
        later = place.after(at)
        return later if later >= NEVER else max(later - (at - start), start + 1)

    def _token(self, op: Op) -> int:
        """What its start takes out of a place: the wait that it ends."""
        if op.ends >= 0:
            return op.ends
        return self.running.get((op.job, op.op.ends or ""), 10**9)

    def _lay(self, op: Op, start: int, person: int) -> None:
        op.start, op.person = start, person
        self.lines[person].take(start, op.end)
        token = self._token(op)
        for place in self.places.values():
            if token in place.held:
                a, _ = place.held[token]
                place.held[token] = (a, start + op.late)
        if op.op.at in self.places:
            self.places[op.op.at].held[2 * 10**6 + op.n] = (start, op.end)
        if op.holds and op.op.place in self.places:
            until = NEVER if op.ender >= 0 else op.end + op.wait
            self.places[op.op.place].held[op.n] = (op.end - self.is_held(op), until)  # it lets go within the last tenth

    def _lift(self, op: Op) -> None:
        self.lines[op.person].give(op.start, op.end)
        token = self._token(op)
        for place in self.places.values():
            if token in place.held:
                a, _ = place.held[token]
                place.held[token] = (a, NEVER)
            place.held.pop(op.n, None)
            place.held.pop(2 * 10**6 + op.n, None)
        op.start, op.person = -1, -1

    def _lift_all(self, op: Op) -> None:
        """Take an operation out again, with what was laid in to end its wait."""
        if op.ender >= 0 and op.limit is not None and self.ops[op.ender].start >= 0:
            self._lift_all(self.ops[op.ender])
        self._lift(op)

    # --- the first plan ---------------------------------------------------------------------------------------------

    def construct(self) -> None:
        """A plan at once."""
        self._pinned()
        left = {op.n for op in self.ops if op.start < 0}
        self._prepare()
        open_ = {n: self.ready(self.ops[n]) for n in left}
        open_ = {n: r for n, r in open_.items() if r < NEVER}
        stuck: set[int] = set()
        put_off = [0] * len(self.ops)
        while left:
            choice, now = self._choose(open_, stuck)
            if choice is None:
                break
            if choice < 0:  # nothing fits into what is free there
                for line in self.lines:
                    if line.front <= now:
                        line.front = line.next(now + max(line.gap(now), 1), UNIT)
                continue
            op = self.ops[choice]
            full = self._full(op, max(now, open_[choice]))
            if full is not None and len(open_) > 1 and put_off[choice] < TRIES:
                for n in open_:  # the same place is as full for all who want it
                    if open_[n] <= now and self.ops[n].op.place == op.op.place and self.ops[n].op.at == op.op.at:
                        open_[n] = full
                        put_off[n] += 1
                continue
            before = set(left)
            if not self.place(op, max(self.ready(op), open_[choice])):
                stuck.add(choice)
                continue
            if op.start > now + SOON and len(open_) > 1 and put_off[choice] < TRIES:
                put_off[choice] += 1  # its place is taken till then: hands are not promised to it so far ahead
                open_[choice] = op.start
                self._lift_all(op)
                continue
            stuck.clear()
            left = {n for n in before if self.ops[n].start < 0} if op.ender >= 0 else before - {choice}
            for n in before - left:
                self._weigh(self.ops[n].job)
                open_.pop(n, None)
                for f in self.followers[n]:
                    if self.ops[f].start < 0:
                        at = self.ready(self.ops[f])
                        if at < NEVER:
                            open_[f] = at
            for line in self.lines:
                line.front = line.next(line.front, UNIT)

    def _pinned(self) -> None:
        """What is in hand, and hands for running waits that must be ended, come before anything else."""
        if self.problem.in_hand is not None:
            for mine in self.by_job:
                for op in mine:
                    if self.is_held(op):
                        self._lay(op, 0, op.people[0])
        must = [
            ((op.start + op.limit) / UNIT, op.job, self.ops[op.ender], op.op.key)
            for op in self.ops
            if op.start >= 0 and op.limit is not None and op.ender >= 0
        ]
        for n, job in enumerate(self.jobs):
            for run in job.running:
                ender = next((o for o in self.by_job[n] if o.op.ends == run.operation and o.start < 0), None)
                if run.latest is not None and ender is not None:
                    must.append((run.latest, n, ender, run.operation))
        for latest, n, ender, name in sorted(must, key=lambda row: row[:2]):
            at = self.ready(ender)
            if at >= NEVER:
                continue
            if not self.place(ender, at, max(down(latest) - ender.late, at if latest < 0 else 0)) and self.place(
                ender, at
            ):
                self.broken.append((self.jobs[n].key, name, ender.start / UNIT - latest))

    def _full(self, op: Op, now: int) -> int | None:
        """If a place that it needs is full for it now: when to look again."""
        later = self._no_room(op, now, now + op.length)
        if later is None or later <= now + SOON:
            return None
        return now + SOON if later >= NEVER else later

    def _choose(self, open_: dict[int, int], stuck: set[int]) -> tuple[int | None, int]:
        """The most pressing of what may begin where hands are free soonest, and that moment; ``None``: nothing may.

        The index is the logarithm of the apparent tardiness cost; larger is more pressing.
        """
        front = min(line.front for line in self.lines)
        rows = [(r, n) for n, r in open_.items() if n not in stuck] if stuck else [(r, n) for n, r in open_.items()]
        if not rows:
            return None, front
        now = max(front, min(rows)[0])
        room = max(line.gap(now) for line in self.lines)
        best, most = -1, -math.inf
        lengths = self._length
        pull, due, owner = self._pull, self._due, self._owner
        for at, n in rows:
            if at <= now and lengths[n] <= room:
                slack = due[n] - now
                value = pull[owner[n]] + self._bonus[n] - (slack / LOOKAHEAD if slack > 0 else 0.0)
                if value > most:
                    best, most = n, value
        return best, now

    def _weigh(self, job: int) -> None:
        """How much a job presses by the hands it still needs."""
        left = sum(o.op.hands_min for o in self.by_job[job] if o.start < 0)
        nudge = self.nudges[job] if self.nudges else 0.0
        self._pull[job] = self.pressing * math.log(self.jobs[job].weight / max(left, 1.0)) + nudge

    def _prepare(self) -> None:
        self._pull = [0.0] * len(self.jobs)
        for n in range(len(self.jobs)):
            self._weigh(n)
        self._length = [o.length for o in self.ops]
        self._owner = [o.job for o in self.ops]
        due = [self.jobs[o.job].due for o in self.ops]
        self._due = [(NO_DUE_SLACK if d is None else d) * UNIT - o.tail for d, o in zip(due, self.ops, strict=True)]
        self._bonus = [
            0.2 * math.log1p(o.op.wait_min / max(o.op.hands_min, 1.0)) if o.op.wait_min else 0.0 for o in self.ops
        ]

    # --- in and out -------------------------------------------------------------------------------------------------

    def plan(self) -> Plan:
        """What is laid in, as a plan."""
        steps = sorted(
            (self._planned(o) for o in self.ops if o.start >= 0),
            key=lambda s: (s.start, s.end),
        )
        forecasts = {j.key: Forecast(None, 0.0, j.blocked) for j in self.problem.jobs if j.blocked}
        for n, job in enumerate(self.jobs):
            if any(o.start < 0 for o in self.by_job[n]):
                forecasts[job.key] = Forecast(None, 0.0, "a place never comes free")
                continue
            finish = max([0.0, *((o.end + o.wait) / UNIT for o in self.by_job[n]), *(r.earliest for r in job.running)])
            late = 0.0 if job.due is None else max(0.0, finish - job.due)
            forecasts[job.key] = Forecast(finish, late)
        return Plan(tuple(steps), forecasts, None, tuple(self.broken))

    def is_held(self, op: Op) -> bool:
        """Whether it is in hand, and so stays where it is."""
        return self.problem.in_hand == (self.jobs[op.job].key, op.op.key)

    def _planned(self, op: Op) -> Planned:
        """With its true length, ending on a tenth: what follows, and the places, are counted from there."""
        start = 0.0 if self.is_held(op) else op.end / UNIT - op.op.hands_min
        person = self.people[op.person].key
        return Planned(self.jobs[op.job].key, op.op.key, start, start + op.op.hands_min, person)

    def take_in(self, plan: Plan) -> None:
        """Lay a plan in as it stands."""
        self.clear()
        number = {p.key: k for k, p in enumerate(self.people)}
        at = {(s.job, s.operation): s for s in plan.steps}
        for op in self.ops:
            step = at.get((self.jobs[op.job].key, op.op.key))
            if step is not None:
                start = 0 if self.is_held(op) else max(up(step.end) - op.length, 0)
                self._lay(op, start, number.get(step.person, 0))
        self.broken = list(plan.broken)


def first_plan(problem: Problem) -> Plan:
    """A feasible plan at once, the better of two rules; what cannot be placed at all is named in its forecasts."""
    plans = []
    for pressing in RULES[: 2 if sum(len(j.operations) for j in problem.jobs) <= BOTH_UP_TO else 1]:
        bench = Bench(problem, pressing)
        bench.construct()
        plans.append(bench.plan())
    return min(plans, key=lambda p: (unplaced(p), p.cost(problem)))


def unplaced(plan: Plan) -> int:
    """How many jobs a plan could not place, and how many waits it could not keep."""
    return sum(f.finish is None and not f.blocked for f in plan.forecasts.values()) + len(plan.broken)
