"""A first plan at once (dispatch rules), and repair of the plan on show after an event.

The first plan places the most pressing operation where hands are free soonest (apparent tardiness cost: Vepsalainen and
Morton, Management Science 33, 1987). The replay keeps the order and the people of the plan that was shown, and fits in
what is new.
"""

from __future__ import annotations

import math

from creekbed.core.planning.model import Plan, Problem
from creekbed.core.planning.pins import lay_pins
from creekbed.core.planning.schedule_builder import ScheduleBuilder
from creekbed.core.planning.schedule_report import plan_of
from creekbed.core.planning.timelines import NEVER, UNIT, ScheduledOperation, down

RULES, BOTH_UP_TO = (1.0, 10.0), 700
"""How much little remaining work counts against slack in the rules of the first plan; up to how many operations both
are tried: house default."""
LOOKAHEAD = 45 * UNIT
"""k·p of the rule: slack on the scale of three or four jobs' hands, house default."""
NO_DUE_SLACK = 10_000.0
SOON, PUT_OFF = 5 * UNIT, 400
"""How far ahead of the clock hands are promised; how often an operation is put off: house default."""
OVERDUE = 1e-4
"""How much more a tenth of a minute late presses, so that of a late job the longest way goes first: house default."""
SAME_JOB = 0.35
"""Staying with the instrument in hand saves a change of place; house default."""


class DispatchRule:
    """The rule of the first plan.

    Args:
        pressing: how much few hands left count against slack. stay: what is added for staying with the same job.
    """

    def __init__(self, bench: ScheduleBuilder, pressing: float = 1.0, stay: float = 0.0):
        self.bench, self.pressing, self.stay = bench, pressing, stay
        self.last = [-1] * len(bench.people)

    def run(self) -> ScheduleBuilder:
        """Schedule all operations."""
        bench = self.bench
        lay_pins(bench)
        for op in sorted((o for o in bench.ops if o.start >= 0), key=lambda o: o.start):
            self.last[op.person] = op.job
        left = {op.n for op in bench.ops if op.start < 0}
        self._prepare()
        open_ = {n: bench.ready(bench.ops[n]) for n in left}
        open_ = {n: r for n, r in open_.items() if r < NEVER}
        stuck: set[int] = set()
        put_off = [0] * len(bench.ops)
        while left:
            choice, now = self._choose(open_, stuck)
            if choice is None:
                break
            if choice < 0:  # nothing fits into what is free there
                for line in bench.lines:
                    if line.front <= now:
                        line.front = line.next(now + max(line.gap(now), 1), UNIT)
                continue
            op = bench.ops[choice]
            full = self._full(op, max(now, open_[choice]))
            if full is not None and len(open_) > 1 and put_off[choice] < PUT_OFF:
                for n in open_:  # the same place is as full for all who want it
                    if open_[n] <= now and bench.ops[n].op.place == op.op.place and bench.ops[n].op.at == op.op.at:
                        open_[n] = full
                        put_off[n] += 1
                continue
            again = next((k for k in op.people if self.last[k] == op.job), -1) if self.stay else -1
            if not bench.place(op, max(bench.ready(op), open_[choice]), prefer=again):
                stuck.add(choice)
                continue
            if op.start > now + SOON and len(open_) > 1 and put_off[choice] < PUT_OFF:
                put_off[choice] += 1  # its place is taken till then: hands are not promised to it so far ahead
                open_[choice] = op.start
                bench.lift(op)
                continue
            stuck.clear()
            self.last[op.person] = op.job
            laid = [choice]
            if op.ender >= 0:  # what ends its wait may be laid in with it; it is of the same job
                laid = [o.n for o in bench.by_job[op.job] if o.start >= 0 and o.n in left]
            left.difference_update(laid)
            self._weigh(op.job)
            for n in laid:
                open_.pop(n, None)
                for f in bench.followers[n]:
                    if bench.ops[f].start < 0:
                        at = bench.ready(bench.ops[f])
                        if at < NEVER:
                            open_[f] = at
            for line in bench.lines:
                line.front = line.next(line.front, UNIT)
        return bench

    def _full(self, op: ScheduledOperation, now: int) -> int | None:
        """If a place that it needs is full for it now: when to look again."""
        later = self.bench.no_room(op, now, now + op.length)
        if later is None or later <= now + SOON:
            return None
        return now + SOON if later >= NEVER else later

    def _choose(self, open_: dict[int, int], stuck: set[int]) -> tuple[int | None, int]:
        """The most urgent operation that may begin when somebody is free soonest, and that moment; ``None``: none may.

        The index is the logarithm of the apparent tardiness cost; larger is more pressing.
        """
        lines = self.bench.lines
        front = min(line.front for line in lines)
        if stuck:
            open_ = {n: r for n, r in open_.items() if n not in stuck}
        if not open_:
            return None, front
        now = max(front, min(open_.values()))
        room = max(line.gap(now) for line in lines)
        best, most = -1, -math.inf
        lengths, pull, due, owner, stay = self._length, self._pull, self._due, self._owner, self.stay
        here = {self.last[k] for k, line in enumerate(lines) if line.front <= now} if stay else set()
        for n, at in open_.items():
            if at <= now and lengths[n] <= room:
                slack = due[n] - now
                value = pull[n] - (slack / LOOKAHEAD if slack > 0 else slack * OVERDUE)
                if here and owner[n] in here:
                    value += stay
                if value > most:
                    best, most = n, value
        return best, now

    def _weigh(self, job: int) -> None:
        """Update the urgency of a job from the work that it still needs."""
        bench = self.bench
        mine = [o for o in bench.by_job[job] if o.start < 0]
        pull = self.pressing * math.log(bench.jobs[job].weight / max(sum(o.op.hands_min for o in mine), 1.0))
        for o in mine:
            self._pull[o.n] = pull + self._bonus[o.n]

    def _prepare(self) -> None:
        bench = self.bench
        self._length = [o.length for o in bench.ops]
        self._owner = [o.job for o in bench.ops]
        due = [bench.jobs[o.job].due for o in bench.ops]
        self._due = [(NO_DUE_SLACK if d is None else d) * UNIT - o.tail for d, o in zip(due, bench.ops, strict=True)]
        for op in bench.ops:
            if op.set_to and op.start < 0:
                self._press_before(op)
        self._bonus = [
            0.2 * math.log1p(o.op.wait_min / max(o.op.hands_min, 1.0)) if o.op.wait_min else 0.0 for o in bench.ops
        ]
        self._pull = [0.0] * len(bench.ops)
        for n in range(len(bench.jobs)):
            self._weigh(n)

    def _press_before(self, last: ScheduledOperation) -> None:
        """What comes before something that was set to a time is due by then."""
        seen, left = {last.n}, list(last.before)
        while left:
            n = left.pop()
            if n not in seen:
                seen.add(n)
                before = self.bench.ops[n]
                self._due[n] = min(self._due[n], last.set_to - (before.tail - last.tail))
                left += before.before


def dispatch_plan(problem: Problem, bench: ScheduleBuilder | None = None) -> Plan:
    """A feasible plan at once, the better of two rules; forecasts name the jobs that cannot be placed.

    Args:
        bench: the problem by numbers, where that was made already; what is laid in it is taken out.
    """
    bench = bench or ScheduleBuilder(problem)
    plans = []
    stay = SAME_JOB if problem.weights.change else 0.0
    for pressing in RULES[: 2 if sum(len(j.operations) for j in problem.jobs) <= BOTH_UP_TO else 1]:
        bench.turn_to(problem)
        laid = DispatchRule(bench, pressing, stay=stay).run()
        plans.append(plan_of(laid))
    return min(plans, key=lambda p: (unplaced(p), p.cost(problem)))


def unplaced(plan: Plan) -> int:
    """How many jobs a plan could not place, and how many waits it could not keep."""
    return sum(not f.placed for f in plan.forecasts.values()) + len(plan.broken)


def repair_schedule(
    problem: Problem, shown: Plan, bench: ScheduleBuilder | None = None, *, passed: float | None = None
) -> Plan:
    """The plan on show, repaired for the bench as it is now: same order, same people, new work fitted in.

    Args:
        shown: an earlier plan. bench: the problem by numbers, where that was made already; what is laid in it is taken
            out. passed: minutes since it was shown: nothing begins before its time there, so that a plan that was well
            thought out stays as it is while all goes as planned; ``None``: only the order counts, and gaps are filled.

    Returns:
        A feasible plan; jobs for which the old order leaves no room are named in its forecasts.
    """
    bench = bench or ScheduleBuilder(problem)
    bench.turn_to(problem, grace=passed is not None)
    number = {p.key: k for k, p in enumerate(bench.people)}
    at = {(s.job, s.operation): (s.start, number.get(s.person, -1)) for s in shown.steps}
    if passed is not None:
        _wish(bench, shown, number, passed)
    lay_pins(bench)
    keys = _order(bench, at)
    waiting = sorted((o for o in bench.ops if o.start < 0), key=lambda o: (keys[o.n], o.n))
    moving = True
    while waiting and moving:
        moving, still = False, []
        for op in waiting:
            if op.start >= 0:
                moving = True
                continue
            ready = bench.ready(op)
            prefer = at.get((bench.jobs[op.job].key, op.op.key), (0.0, -1))[1]
            begin = max(ready, bench.wished.get(op.n, 0))
            if ready < NEVER and bench.place(op, begin, prefer=prefer if prefer in op.people else -1):
                moving = True
            else:
                still.append(op)
        waiting = still
    made = plan_of(bench)
    return made


def _wish(bench: ScheduleBuilder, shown: Plan, number: dict[str, int], passed: float) -> None:
    """Wished starts: each operation's time in the plan on show, later where that has slipped.

    What lies behind something that has not begun, or takes longer, moves on with it, the same piece behind the same: so
    the plan stays the same plan, only a little later.
    """
    ends = [0] * len(bench.people)
    for n, pin in bench.pinned.items():
        who = bench.who(pin, bench.ops[n]) if pin.kind == "in_hand" else None
        if who is not None:
            ends[who] = max(ends[who], bench.ops[n].length)
    for step in sorted(shown.steps, key=lambda s: (s.start, s.end)):
        if (step.job, step.operation) not in bench.number:
            continue
        op, person = bench.ops[bench.number[step.job, step.operation]], number.get(step.person, -1)
        if op.set_to:
            continue  # it has a time of its own
        begin = max(0, down(step.start - passed))
        if person in op.people:
            bench.wished_by[op.n] = person
            if not bench.is_held(op):
                ready = step.end - step.start < op.op.hands_min - 1e-6 and op.op.shares
                length = op.again if ready else op.full
                begin = bench.lines[person].opens(max(begin, ends[person]), length) if length else begin
                ends[person] = max(ends[person], begin + length)
        bench.wished[op.n] = begin


def _order(bench: ScheduleBuilder, at: dict[tuple[str, str], tuple[float, int]]) -> list[float]:
    """A key for each operation: its start in the plan that was shown.

    What is new goes just before what it is needed for, or by the latest moment at which it could begin in time.
    """
    keys = [math.inf] * len(bench.ops)
    known = [at.get((bench.jobs[o.job].key, o.op.key)) for o in bench.ops]
    for op in reversed(bench.order):
        found = known[op.n]
        if found is not None:
            keys[op.n] = found[0]
            continue
        after = [keys[f] for f in bench.followers[op.n]]
        due = bench.jobs[op.job].due
        latest = NO_DUE_SLACK if due is None else max(0.0, due - op.tail / UNIT - LOOKAHEAD / UNIT)
        keys[op.n] = min([*after, latest]) - 1e-3
    return keys
