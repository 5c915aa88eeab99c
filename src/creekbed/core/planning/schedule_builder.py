"""A plan being laid out: people's hours, places and what lies in them, operations laid in and taken out.

With an operation whose wait has a longest time, whatever must end it in time is laid in at once, so that those hands
are reserved.
"""

from __future__ import annotations

import math
from graphlib import TopologicalSorter

from creekbed.core.planning.model import (
    Operation,
    Pin,
    Plan,
    PlanJob,
    Problem,
    RunningWait,
)
from creekbed.core.planning.piece_conflicts import kept_from, rivals
from creekbed.core.planning.timelines import NEVER, UNIT, PersonTimeline, PlaceTimeline, ScheduledOperation, down, up

HANDS_TOKEN = 2 * 10**6
"""From this number on, what lies in a place is there for the hands on it, not for its wait."""

KEPT_LATER = 10 * UNIT
"""How long after a fixed start hands are still reserved for it, tenths of a minute: house default."""

CLOSINGS = 4
"""How many closings are skipped to keep the spare time; then the spare time is dropped: house default."""

TRIES, GRACE = 400, 10 * UNIT
"""How often a start is looked for; how much later the person who had it may begin before another takes it: house
default."""


class ScheduleBuilder:
    """The problem by numbers, and a plan being laid into it."""

    def __init__(self, problem: Problem):
        self.problem = problem
        self.jobs = [j for j in problem.jobs if not j.blocked]
        self.people = problem.hands
        self._able: dict[str, list[int]] = {}
        self.ops: list[ScheduledOperation] = []
        self._given: list[ScheduledOperation] = []
        """What somebody set to a time."""
        self.by_job: list[list[ScheduledOperation]] = []
        for n, job in enumerate(self.jobs):
            self._add(n, job)
        self.followers: list[list[int]] = [[] for _ in self.ops]
        self.sharing: dict[str, list[ScheduledOperation]] = {}
        self.number = {(self.jobs[op.job].key, op.op.key): op.n for op in self.ops}
        for op in self.ops:
            for before in op.before:
                self.followers[before].append(op.n)
            if op.op.shares:
                self.sharing.setdefault(op.op.shares, []).append(op)
        self.order = self._in_order()
        for op in reversed(self.order):
            rest = ((f.lag(op) + f.tail) for f in (self.ops[n] for n in self.followers[op.n]))
            op.tail = op.length + max([op.wait, *rest])
        self.turn_to(problem)

    def _in_order(self) -> list[ScheduledOperation]:
        """The operations so that each comes after what is before it; mostly they come so."""
        if all(b < op.n for op in self.ops for b in op.before):
            return list(self.ops)
        return [self.ops[n] for n in TopologicalSorter({o.n: o.before for o in self.ops}).static_order()]

    def _add(self, n: int, job: PlanJob) -> None:
        first = len(self.ops)
        number = {o.key: first + k for k, o in enumerate(job.operations)}
        running = {r.operation: max(r.earliest, 0.0) for r in job.running}
        mine = []
        for o in job.operations:
            ready = up(max([job.release, o.release, *(running.get(b, 0.0) for b in o.waits_for)]))
            before = sorted(number[b] for b in o.before if b in number)
            deeds = frozenset(number[b] for b in o.deeds if b in number)
            most = None if o.wait_max is None else down(o.wait_max)
            op = ScheduledOperation(number[o.key], n, o, before, deeds, ready, up(o.hands_min), up(o.wait_min), most)
            op.people = op.able = self._who_can(o)
            if o.ends in number:
                op.ends = number[o.ends]
            mine.append(op)
        for op in mine:
            if op.ends >= 0:
                wet = mine[op.ends - first]
                wet.ender = op.n
                if wet.most is not None:
                    wet.whole = wet.most = wet.most - op.late
        self._keep_apart(job, mine, first)
        self.ops += mine
        self.by_job.append(mine)

    def _keep_apart(self, job: PlanJob, mine: list[ScheduledOperation], first: int) -> None:
        """What wants the same piece of the instrument at once knows of each other."""
        for op, bits in zip(mine, rivals(job.operations), strict=True):
            while bits:
                low = bits & -bits
                op.rivals.append(first + low.bit_length() - 1)
                bits ^= low
        for run in job.running:
            if not run.parts:
                continue
            ender = next((o for o in mine if o.op.ends == run.operation), None)
            for k in kept_from(job.operations, run):
                if ender is None:
                    mine[k].ready = max(mine[k].ready, up(max(run.earliest, 0.0)))
                else:
                    mine[k].behind = ender.n

    def _who_can(self, operation: Operation) -> list[int]:
        """Numbers of the people who can do it and are there; everybody where nobody is, so that it is planned."""
        found = self._able.get(operation.skill)
        if found is None:
            everybody = range(len(self.people))
            found = [k for k in everybody if self.people[k].can(operation) and self.people[k].windows]
            found = found or list(everybody)
            self._able[operation.skill] = found
        return found

    def turn_to(self, problem: Problem, *, grace: bool = False) -> None:
        """The same jobs, hands and places with other pins; nothing is planned.

        Args:
            grace: what is laid in may run into a break by the problem's grace.
        """
        self.problem = problem
        pins = sorted(problem.pins, key=lambda p: p.kind == "in_hand")  # what is in hand is that above all
        self.pinned = {self.number[p.job, p.operation]: p for p in pins if (p.job, p.operation) in self.number}
        self._in_hand = {n for n, pin in self.pinned.items() if pin.kind == "in_hand"}
        for op in self.ops:
            if op.whole is not None:
                spare = 0 if self.is_held(op) else min(up(problem.spare), (op.whole - op.wait) // 2)
                op.most = op.whole - max(spare, 0)
        self._set(problem)
        self.clear(grace=grace)

    def _set(self, problem: Problem) -> None:
        """Apply fixed starts: they begin no sooner, in the hands they were given to where those come."""
        for op in self._given:
            op.set_to, op.people = 0, op.able
        times = problem.set_times
        self._given = [self.ops[self.number[k]] for k in times if k in self.number]
        for op in self._given:
            op.set_to = up(times[self.jobs[op.job].key, op.op.key])
            who = self.who(self.pinned[op.n], op)
            if who is not None and self.people[who].windows:
                op.people = [who]

    def clear(self, *, grace: bool = False) -> None:
        """Nothing is planned."""
        self.lines = [PersonTimeline(p, up(self.problem.grace) if grace else 0) for p in self.people]
        self.places = {k: PlaceTimeline(c, self.problem.shared(k)) for k, c in self.problem.capacity.items()}
        self.wished: dict[int, int] = {}
        """Number of an operation → the time before which it is better not begun."""
        self.kept: dict[int, tuple[int, int, int]] = {}
        """Hands that are kept for what was set to a time until it can be laid in: number → (whose, from, until)."""
        self.wished_by: dict[int, int] = {}
        for op in self.ops:
            op.start, op.person, op.length = -1, -1, op.full
        self.running: dict[tuple[int, str], int] = {}
        self._running_in = {(n, run.operation): run.place for n, job in enumerate(self.jobs) for run in job.running}
        for n, job in enumerate(self.jobs):
            enders = {o.ends for o in job.operations if o.ends}
            for run in job.running:
                token = -1 - len(self.running)
                self.running[(n, run.operation)] = token
                if run.place in self.places:
                    until = NEVER if run.operation in enders else up(max(run.earliest, 0.0))
                    self.places[run.place].put(token, 0, until, run.piece)

    # --- placing ----------------------------------------------------------------------------------------------------

    def ready(self, op: ScheduledOperation) -> int:
        """When it may begin by what comes before; ``NEVER`` while something before it is not placed."""
        at = op.ready if op.ready > op.set_to else op.set_to
        for b in op.before:
            before = self.ops[b]
            if before.start < 0:
                return NEVER
            at = max(at, before.end + op.lag(before))
        return at

    def place(
        self, op: ScheduledOperation, at: int, latest: int | None = None, only: int | None = None, prefer: int = -1
    ) -> bool:
        """Lay an operation in at the earliest moment from a time on, and what must end its wait in time with it.

        Args:
            latest: start beyond which it is not laid in. only: the one person who may do it.
            prefer: who does it unless another could begin a good deal earlier.
        """
        if op.n not in self.kept:
            return self._place(op, at, latest, only, prefer)
        chain = {n: row for n, row in self.kept.items() if self.ops[n].job == op.job}  # they come one after another
        for n, (whose, begin, end) in chain.items():
            self.lines[whose].give(begin, end)
            del self.kept[n]
        laid = self._place(op, at, latest, only, prefer)
        for n, (whose, begin, end) in sorted(chain.items(), key=lambda item: item[1][1]):
            if not laid:
                self.lines[whose].take(begin, end)
                self.kept[n] = (whose, begin, end)
            elif self.ops[n].start < 0:
                self._keep(n, whose, max(begin, op.end))
        return laid

    def keep_hands(self, op: ScheduledOperation) -> None:
        """Keep hands for what was set to a time and cannot be laid in before what it comes after.

        None are kept where that cannot be over by then, or soon after.
        """
        at = max(op.set_to, self._over(op, {}))
        if at > op.set_to + KEPT_LATER and not any(b in self.kept for b in op.before):
            return
        _, whose = min((self.lines[p].next(at, op.full), p) for p in op.people)
        self._keep(op.n, whose, at)

    def _keep(self, n: int, whose: int, at: int) -> None:
        length = self.ops[n].full
        begin = self.lines[whose].next(at, length)
        self.lines[whose].take(begin, begin + length)
        self.kept[n] = (whose, begin, begin + length)

    def _over(self, op: ScheduledOperation, known: dict[int, int]) -> int:
        """When what comes before an operation can be over at the soonest, if hands were always free."""
        if op.n not in known:
            at = op.ready
            for b in op.before:
                before = self.ops[b]
                end = before.end if before.start >= 0 else max(self._over(before, known), before.set_to) + before.full
                at = max(at, end + op.lag(before))
            known[op.n] = at
        return known[op.n]

    def _place(self, op: ScheduledOperation, at: int, latest: int | None, only: int | None, prefer: int) -> bool:
        bound_ender = self.ops[op.ender] if op.ender >= 0 and op.limit is not None else None
        if bound_ender is not None and any(self.ops[b].start < 0 for b in bound_ender.before if b != op.n):
            return False
        hoped = self.wished.get(op.ender) if bound_ender is not None else None
        put_off = 0
        for _ in range(TRIES):
            start, person = self._soonest(op, at, only, prefer)
            if latest is not None and start > latest:
                return False
            later = self.no_room(op, start, start + op.length, hoped)
            if later is None and (op.rivals or op.behind >= 0):
                later = self.in_use(op, start, hoped)
            if later is not None:
                if later >= NEVER:
                    return False
                at = later
                continue
            self.lay(op, start, person)
            if bound_ender is None:
                return True
            assert op.limit is not None
            ready, last = self.ready(bound_ender), start + op.limit
            wished, by = max(ready, min(hoped or 0, last)), self.wished_by.get(op.ender, person)
            if self.place(bound_ender, wished, last, prefer=by) or (
                wished > ready and self.place(bound_ender, ready, last, prefer=by)
            ):
                shut = self._shuts(bound_ender) if put_off < CLOSINGS else None
                if shut is not None and shut > at and latest is None:
                    self.lift(op)
                    at, put_off = shut, put_off + 1  # too near to closing: a little more before it, and nobody is there
                    continue
                if hoped is None or self._really_fits(op, bound_ender):
                    return True
                self.lift(op)
                hoped = None  # it is ended later than in the plan that was shown: its place must be free till its limit
                continue
            soonest = min(self.lines[p].next(self.ready(bound_ender), bound_ender.length) for p in bound_ender.people)
            self._lift(op)
            at = max(start + UNIT, soonest - op.limit)
        return False

    def _shuts(self, ender: ScheduledOperation) -> int | None:
        """When who ends a wait goes home, where that is sooner after it than what is kept in spare; else ``None``."""
        spare, line = up(self.problem.spare), self.lines[ender.person]
        if not spare:
            return None
        return next((b for b in line.homes if ender.end <= b < ender.end + spare), None)

    def _really_fits(self, op: ScheduledOperation, ender: ScheduledOperation) -> bool:
        """Whether the place of a wait takes it till it is really ended."""
        place = self.places.get(op.op.place or "")
        until = max(ender.start + ender.late, op.end + 1)
        return place is None or not op.holds or place.fits(op.end, until, op.n, op.piece)

    def _soonest(self, op: ScheduledOperation, at: int, only: int | None, prefer: int) -> tuple[int, int]:
        """Where and with whom it begins first, with or without the setting up; its length is set."""
        people = op.people if only is None else [only]

        def first(at: int, length: int) -> tuple[int, int]:
            rows = [(self.lines[p].next(at, length), p) for p in people]
            if prefer < 0 or len(rows) == 1:
                return min(rows)
            return min(rows, key=lambda r: (r[0] + (0 if r[1] == prefer else GRACE), r[1]))

        op.length = op.full
        start, person = first(at, op.full)
        if op.again == op.full:
            return start, person
        for good_from, good_until in self._set_up(op):
            if good_until >= at:
                soon = first(max(at, good_from), op.again)
                if soon[0] <= good_until and soon[0] + op.again <= start + op.length:
                    (start, person), op.length = soon, op.again
        return start, person

    def _set_up(self, op: ScheduledOperation) -> list[tuple[int, int]]:
        """When what it would set up stands ready, set up by another: (from, until)."""
        keeps = NEVER if op.op.keeps_min == math.inf else down(op.op.keeps_min)
        return [
            (o.end, o.end + keeps)
            for o in self.sharing[op.op.shares]
            if o.start >= 0 and o.n != op.n and o.length == o.full
        ]

    def no_room(self, op: ScheduledOperation, start: int, end: int, hoped: int | None = None) -> int | None:
        """``None`` if the places that it needs take it; else from when to try again.

        Args:
            hoped: when its wait will probably be ended; else its longest time is counted.
        """
        if op.op.at is not None and op.op.at in self.places and not self.places[op.op.at].fits(start, end):
            return self._retry(self.places[op.op.at], start, start)
        if op.holds and op.op.place in self.places:
            place = self.places[op.op.place]
            until = end + op.wait
            if op.ender >= 0:
                until = NEVER if op.limit is None else start + op.limit
                until = until if hoped is None else min(until, max(hoped, end + op.wait))
            leaving = self._token(op)
            if not place.fits(end, max(until, end + 1), leaving, op.piece):
                return self._retry(place, end, start)
        return None

    def in_use(self, op: ScheduledOperation, start: int, hoped: int | None = None) -> int | None:
        """``None`` if every piece of the instrument that it wants is free; else from when to try again.

        Args:
            hoped: as for :meth:`no_room`.
        """
        if op.behind >= 0:
            ender = self.ops[op.behind]
            if ender.start < 0:
                return NEVER
            if start < ender.end:
                return ender.end
        until = start + op.length
        if op.wait or op.most is not None:
            until += op.wait
            if op.ender >= 0:
                until = NEVER if op.limit is None else start + op.limit
                until = until if hoped is None else min(until, max(hoped, start + op.length + op.wait))
        for n in op.rivals:
            other = self.ops[n]
            if other.start >= 0 and other.start < until and start < (over := self.over(other)):
                return over
        return None

    def over(self, op: ScheduledOperation) -> int:
        """When what is laid in gives its pieces of the instrument free; ``NEVER`` while nothing ends its wait."""
        if not (op.wait or op.most is not None):
            return op.end
        if op.ender < 0:
            return op.end + op.wait
        ender = self.ops[op.ender]
        return ender.start + ender.late if ender.start >= 0 else NEVER

    @staticmethod
    def _retry(place: PlaceTimeline, at: int, start: int) -> int:
        later = place.after(at)
        return later if later >= NEVER else max(later - (at - start), start + 1)

    def _token(self, op: ScheduledOperation) -> int:
        """What its start takes out of a place: the wait that it ends."""
        if op.ends >= 0:
            return op.ends
        return self.running.get((op.job, op.op.ends or ""), 10**9)

    def lay(self, op: ScheduledOperation, start: int, person: int) -> None:
        """Schedule an operation at a given time, without any check."""
        op.start, op.person = start, person
        self.lines[person].take(start, op.end)
        self._end_wait(op, start + op.late)
        if op.op.at in self.places:
            self.places[op.op.at].put(HANDS_TOKEN + op.n, start, op.end)
        if op.holds and op.op.place in self.places:
            until = NEVER if op.ender >= 0 else op.end + op.wait
            begin = op.end - self.is_held(op)  # it lets go within the last tenth
            self.places[op.op.place].put(op.n, begin, until, op.piece)

    def _end_wait(self, op: ScheduledOperation, at: int) -> None:
        """Set when the wait that it ends lets go of its place."""
        if op.ends >= 0:
            where = self.ops[op.ends].op.place
        elif op.op.ends is not None:
            where = self._running_in.get((op.job, op.op.ends))
        else:
            return
        if where in self.places:
            self.places[where].until(self._token(op), at)

    def _lift(self, op: ScheduledOperation) -> None:
        self.lines[op.person].give(op.start, op.end)
        self._end_wait(op, NEVER)
        if op.op.place in self.places:
            self.places[op.op.place].take_away(op.n)
        if op.op.at in self.places:
            self.places[op.op.at].take_away(HANDS_TOKEN + op.n)
        op.start, op.person, op.length = -1, -1, op.full

    def lift(self, op: ScheduledOperation) -> None:
        """Remove an operation, with the one that was scheduled to end its wait."""
        if op.ender >= 0 and op.limit is not None and self.ops[op.ender].start >= 0:
            self.lift(self.ops[op.ender])
        self._lift(op)

    # --- in and out -------------------------------------------------------------------------------------------------

    def ender_of(self, job: int, run: RunningWait) -> ScheduledOperation | None:
        """What ends a wait that runs; ``None`` where it ends by itself."""
        return next((o for o in self.by_job[job] if o.op.ends == run.operation), None)

    def is_held(self, op: ScheduledOperation) -> bool:
        """Whether it is in hand, and so stays where it is."""
        return op.n in self._in_hand

    def who(self, pin: Pin, op: ScheduledOperation) -> int | None:
        """The number of the person whom a pin names, where they are still there and can do it."""
        return next((k for k in op.able if self.people[k].key == pin.person), None)

    def take_in(self, plan: Plan) -> None:
        """Schedule a plan as it is."""
        self.clear()
        number = {p.key: k for k, p in enumerate(self.people)}
        at = {(s.job, s.operation): s for s in plan.steps}
        for op in self.ops:
            step = at.get((self.jobs[op.job].key, op.op.key))
            if step is not None:
                if op.op.shares and step.end - step.start < op.op.hands_min - 1e-6:
                    op.length = op.again
                start = 0 if self.is_held(op) else max(up(step.end) - op.length, 0)
                self.lay(op, start, number.get(step.person, 0))
