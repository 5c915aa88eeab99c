"""Lower bounds of the cost, by relaxations of the work that people must do.

All hands are taken as one pool that may be split and interrupted at will, waits as running by themselves: whatever the
bench does, this does no worse. Of the sum of completions the shortest remaining work first is then best (Schrage 1968);
of the largest lateness the earliest due date first (Horn 1974). A second bound of the completions knows of the waits
inside a job: a job ends later than the middle of its work by what must still pass after each piece, and the middles are
earliest when the job with the least work goes first (Goemans, Queyranne, Schulz, Skutella and Wang 2002). No piece of
an instrument is in two pairs of hands, or in hands while it lies somewhere: what is done to one piece takes its sum.
"""

from __future__ import annotations

import heapq
import itertools
import math
from collections.abc import Callable, Sequence

from creekbed.core.planning.model import Operation, PlanJob, PlanPerson, Problem
from creekbed.core.planning.piece_conflicts import ancestors

Windows = Sequence[tuple[float, float]]


def lower_bound(problem: Problem) -> float:
    """A cost that no plan of the problem can be under, in the units of :meth:`Plan.cost`.

    Reference:
        L. Schrage, Operations Research 16, 687 (1968); W. A. Horn, Naval Research Logistics Quarterly 21, 177 (1974);
        M. X. Goemans et al., SIAM Journal on Discrete Mathematics 15, 165 (2002).
    """
    jobs = [j for j in problem.jobs if not j.blocked]
    if not jobs:
        return 0.0
    shapes, pool = _relaxed(problem, jobs)
    w = problem.weights
    by_chain = [s.chain(pool) for s in shapes]
    working = [s for s in shapes if s.hands > 0]
    standing = sum(c for s, c in zip(shapes, by_chain, strict=True) if s.hands <= 0)
    completions = _completions(pool, [(s.release, s.hands, s.tail) for s in working])
    middles = sum(_middles(pool, working)) + sum(s.after_middle for s in working)
    total = max(sum(completions) + standing, middles + standing, sum(by_chain))
    last = max([*by_chain, _last(pool, shapes)])
    return w.late * _late(pool, jobs, shapes, by_chain) + w.finish * last + w.completion * total


def _hands(operation: Operation) -> float:
    """The least that hands have to do for it: what others may have set up is not counted."""
    return operation.again_min if operation.shares else operation.hands_min


def _first_start(people: Sequence[PlanPerson], operation: Operation, at: float) -> float:
    """The first moment at which the hours of anybody who can do it hold it whole."""
    length, found = _hands(operation), math.inf
    for person in [p for p in people if p.can(operation)] or people:
        last = person.windows[-1][1] if person.windows else 0.0
        starts = (max(at, a) for a, b in person.windows if max(at, a) + length <= b + 1e-6)
        found = min(found, next(starts, max(at, last)))
    return found if people else at


def late_bound(problem: Problem) -> float:
    """Weighted minutes late, in all, that no plan can be under."""
    jobs = [j for j in problem.jobs if not j.blocked]
    shapes, pool = _relaxed(problem, jobs)
    return _late(pool, jobs, shapes, [s.chain(pool) for s in shapes])


def _relaxed(problem: Problem, jobs: Sequence[PlanJob]) -> tuple[list[_Shape], _Pool]:
    """Jobs and hands as the relaxations see them."""
    held = dict(problem.in_hand)
    shapes = [_Shape(j, held.get(j.key, ""), problem.hands) for j in jobs]
    return shapes, _Pool([p.windows for p in problem.hands])


class _Shape:
    """A job as a relaxation sees it: when its hands may begin, how much they do, what must pass after them.

    Args:
        held: the operation that is in hand: it began, whatever the hours, and is not counted as work to come.
        people: whose hours each operation must fit into; nobody is ever busy here.
    """

    def __init__(self, job: PlanJob, held: str = "", people: Sequence[PlanPerson] = ()):
        self.job = job
        self.hands = sum(_hands(o) for o in job.operations if o.key != held)
        running = {r.operation: max(r.earliest, 0.0) for r in job.running}
        heads: dict[str, float] = {}
        by_key = {o.key: o for o in job.operations}

        def head(key: str) -> float:
            if key == held:
                return 0.0
            if key not in heads:
                at = max(job.release, by_key[key].release)
                for before in by_key[key].before:
                    if before in by_key:
                        at = max(at, head(before) + _hands(by_key[before]) + by_key[key].lag(by_key[before]))
                    elif before not in by_key[key].deeds:
                        at = max(at, running.get(before, 0.0))
                heads[key] = _first_start(people, by_key[key], at)
            return heads[key]

        self.ends = [head(k) + _hands(o) + o.wait_min for k, o in by_key.items()]
        self.release = min((head(k) for k in by_key if k != held), default=0.0)
        followed = {b for o in job.operations for b in o.before}
        last = [o.wait_min for o in job.operations if o.key not in followed]
        self.tail = min(last, default=0.0)
        self.waits = max([0.0, *running.values()])
        self.by_part = self._by_part(head)
        self.pieces = [(head(k), _hands(o)) for k, o in by_key.items() if k != held and _hands(o) > 0]
        self.after_middle = self._after_middle(by_key, held)

    def _by_part(self, head: Callable[[str], float]) -> float:
        """When the job ends at the earliest because a piece of it is in one pair of hands, or lies somewhere, at once.

        A wait in which something is done to what lies there is not counted: the hands are.
        """
        operations = self.job.operations
        before = ancestors(operations)
        ender = {o.ends: n for n, o in enumerate(operations) if o.ends is not None}
        latest = 0.0
        for part in {p for o in operations for p in o.parts}:
            mine = [n for n, o in enumerate(operations) if part in o.parts]
            busy = 0.0
            for n in mine:
                o, end = operations[n], ender.get(operations[n].key)
                tended = end is not None and any(before[m] >> n & 1 and before[end] >> m & 1 for m in mine)
                busy += _hands(o) + (0.0 if tended else o.wait_min)
            latest = max(latest, min(head(operations[n].key) for n in mine) + busy)
        return latest

    def _after_middle(self, by_key: dict[str, Operation], held: str) -> float:
        """How much later the job ends, at least, than the middle of its work: what must pass after each piece."""
        tails: dict[str, float] = {}
        followers: dict[str, list[str]] = {k: [] for k in by_key}
        for key, o in by_key.items():
            for before in o.before:
                if before in by_key:
                    followers[before].append(key)

        def tail(key: str) -> float:
            if key not in tails:
                o = by_key[key]
                tails[key] = _hands(o) + max([o.wait_min, *(by_key[f].lag(o) + tail(f) for f in followers[key])])
            return tails[key]

        if self.hands <= 0:
            return 0.0
        rows = [(_hands(o), tail(k)) for k, o in by_key.items() if k != held]
        return sum(hands * (rest - hands / 2) for hands, rest in rows) / self.hands

    def chain(self, pool: _Pool) -> float:
        """When its longest chain ends at the earliest, the bench's hours left out but for the first opening."""
        return max([self.waits, self.by_part, *self.ends, pool.earliest(self.release, 0.0) if self.hands > 0 else 0.0])


class _Pool:
    """The hands of all people as one, by time: pieces (from, to, how many)."""

    def __init__(self, windows: Sequence[Windows]):
        edges = sorted({x for ws in windows for w in ws for x in w})
        self.pieces = []
        for a, b in itertools.pairwise(edges):
            count = sum(any(x <= a and b <= y for x, y in ws) for ws in windows)
            if count:
                self.pieces.append((a, b, float(count)))
        end = edges[-1] if edges else 0.0
        self.pieces.append((end, 1e12, float(len(windows))))  # beyond the last hours, time counts as open

    def earliest(self, at: float, work: float) -> float:
        """When an amount of work that begins at a time is done, alone."""
        for a, b, speed in self.pieces:
            if b <= at:
                continue
            start = max(a, at)
            if work <= (b - start) * speed + 1e-12:
                return start + work / speed
            work -= (b - start) * speed
        return at


def _completions(pool: _Pool, rows: list[tuple[float, float, float]]) -> list[float]:
    """Completions under shortest remaining work first, each with what must pass after the hands."""
    waiting = sorted((r, n) for n, (r, _, _) in enumerate(rows))
    left = [hands for _, hands, _ in rows]
    done = [0.0] * len(rows)
    open_: list[tuple[float, int]] = []
    at, piece = 0.0, 0
    while waiting or open_:
        while pool.pieces[piece][1] <= at + 1e-12:
            piece += 1
        a, b, speed = pool.pieces[piece]
        at = max(at, a)
        while waiting and waiting[0][0] <= at + 1e-12:
            _, n = waiting.pop(0)
            heapq.heappush(open_, (left[n], n))
        if not open_:
            at = waiting[0][0]
            continue
        amount, n = heapq.heappop(open_)
        until = min(b, waiting[0][0] if waiting else b)
        if at + amount / speed <= until + 1e-12:
            at += amount / speed
            done[n] = at + rows[n][2]
        else:
            left[n] = amount - (until - at) * speed
            heapq.heappush(open_, (left[n], n))
            at = until
    return done


def _middles(pool: _Pool, shapes: list[_Shape]) -> list[float]:
    """The middle of each job's work, where all middles together are earliest: the job with the least work first.

    Each piece may be begun when its longest way before it is over, be split, and be done by all hands at once.
    """
    waiting = sorted((at, shape.hands, n, hands) for n, shape in enumerate(shapes) for at, hands in shape.pieces)
    moments = [0.0] * len(shapes)
    open_: list[tuple[float, int, float]] = []
    at, piece, following = 0.0, 0, 0
    while following < len(waiting) or open_:
        while pool.pieces[piece][1] <= at + 1e-12:
            piece += 1
        a, b, speed = pool.pieces[piece]
        at = max(at, a)
        while following < len(waiting) and waiting[following][0] <= at + 1e-12:
            _, work, n, hands = waiting[following]
            heapq.heappush(open_, (work, n, hands))
            following += 1
        if not open_:
            at = waiting[following][0]
            continue
        work, n, hands = heapq.heappop(open_)
        until = min(b, waiting[following][0] if following < len(waiting) else b)
        done = min(hands, (until - at) * speed)
        end = at + done / speed
        moments[n] += done * (at + end) / 2
        if hands - done > 1e-12:
            heapq.heappush(open_, (work, n, hands - done))
        at = end
    return [m / s.hands for m, s in zip(moments, shapes, strict=True)]


def _last(pool: _Pool, shapes: list[_Shape]) -> float:
    """The last finish: from each release on, the work that is not there before it."""
    return max(
        (
            pool.earliest(r, sum(s.hands for s in shapes if s.release >= r - 1e-12))
            for r in {s.release for s in shapes if s.hands > 0}
        ),
        default=0.0,
    )


def _late(pool: _Pool, jobs: list[PlanJob], shapes: list[_Shape], chains: list[float]) -> float:
    """Weighted minutes late that cannot be helped: each job by its own chain; or one job by the crowd before it."""
    alone = sum(
        j.weight * max(0.0, c - j.due) for j, c in zip(jobs, chains, strict=True) if j.due is not None
    )  # fmt: skip
    crowd = 0.0
    for due in {j.due for j in jobs if j.due is not None}:
        early = [
            (j, s) for j, s in zip(jobs, shapes, strict=True) if j.due is not None and j.due <= due and s.hands > 0
        ]  # fmt: skip
        if not early:
            continue
        first = min(s.release for _, s in early)
        over = pool.earliest(first, sum(s.hands for _, s in early)) - due
        crowd = max(crowd, min(j.weight for j, _ in early) * max(0.0, over))
    return max(alone, crowd)
