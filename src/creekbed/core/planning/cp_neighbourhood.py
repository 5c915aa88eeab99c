"""Plans a few operations anew around the others, by constraint programming (OR-Tools CP-SAT)."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

from creekbed.core.planning.model import Plan, Planned, PlanPerson
from creekbed.core.planning.place_capacity import ONE, Piece, taken, units
from creekbed.core.planning.schedule_builder import ScheduleBuilder
from creekbed.core.planning.schedule_report import ended_late, plan_of
from creekbed.core.planning.timelines import UNIT, ScheduledOperation, down, up

_running: list[Any] = []
"""Solvers that run now."""


def interrupt() -> None:
    """Stop what is being solved in another thread; it answers with the best that it has."""
    for solver in list(_running):
        solver.stop_search()


def solve(bench: ScheduleBuilder, free: set[int], seconds: float, seed: int) -> tuple[Plan | None, bool, float]:
    """Plan some operations anew around the others.

    Returns:
        A plan or ``None``; whether it is the best with the others where they are; a bound of the cost then.
    """
    from ortools.sat.python import cp_model  # type: ignore[import-not-found,import-untyped,unused-ignore]

    made = Model(bench, free, cp_model.CpModel())
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = max(seconds, 0.05)
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = seed % 1_000_000
    _running.append(solver)
    try:
        status = solver.solve(made.model)
    finally:
        _running.remove(solver)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None, False, 0.0
    fixed = plan_of(bench)
    people = bench.people
    steps = [s for s in fixed.steps if (s.job, s.operation) not in made.names]
    for n in free:
        op = bench.ops[n]
        person = next(p for p, lit in made.persons[n].items() if solver.value(lit))
        ready = n in made.leads and not solver.boolean_value(made.leads[n])
        end = (solver.value(made.starts[n]) + (op.again if ready else op.full)) / UNIT
        minutes = op.op.again_min if ready else op.op.hands_min
        steps.append(Planned(bench.jobs[op.job].key, op.op.key, end - minutes, end, people[person].key))
    plan = replace(fixed, steps=tuple(sorted(steps, key=lambda s: (s.start, s.end))))
    other = ScheduleBuilder(bench.problem)
    other.take_in(plan)
    bound = (solver.best_objective_bound + made.constant) / (UNIT * made.scale)
    return plan_of(other), status == cp_model.OPTIMAL, bound


class Model:
    """The constraints of a neighbourhood; the other operations are fixed."""

    def __init__(self, bench: ScheduleBuilder, free: set[int], model: Any):
        self.bench, self.free, self.model = bench, free, model
        self.names = {(bench.jobs[bench.ops[n].job].key, bench.ops[n].op.key) for n in free}
        ends = [o.end + o.wait for o in bench.ops]
        self.horizon = int(max(ends) * 1.25) + 600 * UNIT
        self.starts: dict[int, Any] = {}
        self.ends: dict[int, Any] = {}
        self.leads: dict[int, Any] = {}
        """Whether this operation sets up what several share."""
        self.persons: dict[int, dict[int, Any]] = {}
        self.on_person: list[list[Any]] = [[] for _ in bench.people]
        self.in_place: dict[str, list[tuple[Any, Piece]]] = {k: [] for k in bench.problem.capacity}
        for n in sorted(free):
            self._operation(bench.ops[n])
        for op in bench.ops:
            self._ties(op)
            self._places(op)
        self._running()
        self._apart()
        self._people()
        self._shared()
        self._rooms()
        self._judge()

    def _rooms(self) -> None:
        """Each place within its room."""
        bench = self.bench
        for place, rows in self.in_place.items():
            if rows:
                room, holds = bench.problem.capacity[place], bench.problem.shared(place)
                before = [r.piece for j in bench.jobs for r in j.running if r.place == place]
                held = [o.op for o in bench.ops if bench.is_held(o)]
                before += [ONE for o in held if o.at == place] + [o.piece for o in held if o.place == place]
                demands = [units(piece, room, holds) for _, piece in rows]
                most = max(room, taken(before, room, holds)) * holds
                self.model.add_cumulative([interval for interval, _ in rows], demands, most)
                if holds > 1 and len({piece.alike for _, piece in rows}) > 1:
                    self._vessels(rows, room, holds, most // holds)

    def _vessels(self, rows: list[tuple[Any, Piece]], room: int, holds: int, most: int) -> None:
        """Where alike pieces share vessels, there are enough vessels of each kind whenever a piece is put in."""
        model = self.model
        ends = [(x.start_expr(), x.end_expr()) for x, _ in rows]
        for n, (at, until) in enumerate(ends):
            if isinstance(at, int) and isinstance(until, int) and until <= at:
                continue
            lying: dict[str, list[Any]] = {rows[n][1].alike: [rows[n][1].takes]}
            apart = 0
            for m, (begin, end) in enumerate(ends):
                if m == n:
                    continue
                here = self._overlaps(begin, end, at)
                piece = rows[m][1]
                if piece.alike:
                    lying.setdefault(piece.alike, []).append(here * piece.takes)
                else:
                    apart += here * min(piece.takes, room)
            mine = lying.pop("", None)
            if mine is not None:
                apart += min(mine[0], room)
            count = []
            for pieces in lying.values():
                vessels = model.new_int_var(0, max(most, len(rows)), "")
                model.add(holds * vessels >= sum(pieces))
                count.append(vessels)
            model.add(sum(count) + apart <= most)

    def _overlaps(self, begin: Any, end: Any, at: Any) -> Any:
        """1 where something lies there at a moment; it may be 1 where nothing does."""
        if all(isinstance(x, int) for x in (begin, end, at)):
            return int(begin <= at < end)
        model = self.model
        begun, still, here = model.new_bool_var(""), model.new_bool_var(""), model.new_bool_var("")
        model.add(begin >= at + 1).only_enforce_if(~begun)
        model.add(end <= at).only_enforce_if(~still)
        model.add_bool_or(~begun, ~still, here)
        return here

    def start(self, op: ScheduledOperation) -> Any:
        """The start of an operation: a variable, or where it stands."""
        return self.starts[op.n] if op.n in self.free else op.start

    def end(self, op: ScheduledOperation) -> Any:
        """When its hands let go."""
        return self.ends[op.n] if op.n in self.free else op.end

    def length(self, op: ScheduledOperation) -> Any:
        """How long its hands take."""
        lead = self.leads.get(op.n)
        return op.length if lead is None else op.again + (op.full - op.again) * lead

    def _operation(self, op: ScheduledOperation) -> None:
        model = self.model
        begin = model.new_int_var(op.ready, self.horizon, "")
        self.starts[op.n] = begin
        if op.again < op.full:
            self.leads[op.n] = model.new_bool_var("")
            self.ends[op.n] = model.new_int_var(op.ready, self.horizon + op.full, "")
            model.add(self.ends[op.n] == begin + self.length(op))
            model.add_hint(self.leads[op.n], op.length == op.full)
        else:
            self.ends[op.n] = begin + op.length
        length = self.length(op)
        self.persons[op.n] = {}
        for p in op.people:
            literal = model.new_bool_var("") if len(op.people) > 1 else model.new_constant(1)
            interval = model.new_optional_interval_var(begin, length, self.ends[op.n], literal, "")
            self.on_person[p].append(interval)
            self.persons[op.n][p] = literal
            if len(op.people) > 1:
                model.add_hint(literal, op.person == p)
        if len(op.people) > 1:
            model.add_exactly_one(self.persons[op.n].values())
        model.add_hint(begin, op.start)

    def _ties(self, op: ScheduledOperation) -> None:
        for b in op.before:
            before = self.bench.ops[b]
            if op.n not in self.free and b not in self.free:
                continue
            self.model.add(self.start(op) >= self.end(before) + op.lag(before))
        if op.ends >= 0:
            wet = self.bench.ops[op.ends]
            if wet.most is not None and (op.n in self.free or wet.n in self.free):
                self.model.add(self.start(op) <= self.end(wet) + wet.most)
                if op.n in self.free and wet.n in self.free:
                    self._before_closing(op)

    def _before_closing(self, op: ScheduledOperation) -> None:
        """What ends a wait is over a little before who does it goes home."""
        from ortools.sat.python import cp_model

        spare = up(self.bench.problem.spare)
        if not spare:
            return
        for p, literal in self.persons[op.n].items():
            homes = self.bench.lines[p].homes
            near = [[b - spare - op.length + 1, b - op.length] for b in homes if b < self.horizon]
            allowed = cp_model.Domain.from_intervals(near).complement()
            self.model.add_linear_expression_in_domain(self.starts[op.n], allowed).only_enforce_if(literal)

    def _places(self, op: ScheduledOperation) -> None:
        model = self.model
        if op.op.at in self.in_place:
            begin = self.start(op)
            self.in_place[op.op.at].append((model.new_interval_var(begin, self.length(op), self.end(op), ""), ONE))
        if not op.holds or op.op.place not in self.in_place:
            return
        begin = self.end(op)
        lying = self.in_place[op.op.place]
        if op.ender < 0:
            lying.append((model.new_interval_var(begin, op.wait, begin + op.wait, ""), op.op.piece))
            return
        ender = self.bench.ops[op.ender]
        if op.n not in self.free and ender.n not in self.free:
            held = max(self.start(ender) + ender.late - begin, 0)
            lying.append((model.new_interval_var(begin, held, begin + held, ""), op.op.piece))
            return
        held = model.new_int_var(0, self.horizon, "")
        until = self.start(ender) + ender.late
        model.add(held == until - begin)
        lying.append((model.new_interval_var(begin, held, until, ""), op.op.piece))

    def _shared(self) -> None:
        """Who does not set up what several share comes after one who did, while that is good."""
        model = self.model
        for ops in self.bench.sharing.values():
            for op in ops:
                lead = self.leads.get(op.n)
                if lead is None and (op.n in self.free or op.length == op.full):
                    continue
                keeps = self.horizon if op.op.keeps_min == math.inf else down(op.op.keeps_min)
                found = [lead] if lead is not None else []
                for other in ops:
                    stands = other.n not in self.free and other.length != other.full
                    if other.n == op.n or stands or (op.n not in self.free and other.n not in self.free and not (
                        other.end <= op.start <= other.end + keeps
                    )):  # fmt: skip
                        continue
                    after = model.new_bool_var("")
                    model.add(self.start(op) >= self.end(other)).only_enforce_if(after)
                    model.add(self.start(op) <= self.end(other) + keeps).only_enforce_if(after)
                    if other.n in self.leads:
                        model.add_implication(after, self.leads[other.n])
                    found.append(after)
                model.add_bool_or(found)

    def _running(self) -> None:
        late = {b[:2] for b in ended_late(self.bench)}
        for n, job in enumerate(self.bench.jobs):
            for run in job.running:
                ender = self.bench.ender_of(n, run)
                kept = (job.key, run.operation) in late
                if ender is not None and ender.n in self.free and run.latest is not None and not kept:
                    spared = max(down(run.latest - self.bench.problem.spare), ender.start)
                    last = min(down(run.latest), spared) - ender.late
                    self.model.add(self.start(ender) <= max(last, ender.ready))
                if run.place not in self.in_place:
                    continue
                until = self.start(ender) + ender.late if ender is not None else up(max(run.earliest, 0.0))
                size = self.model.new_int_var(0, self.horizon, "") if ender is not None else until
                if ender is not None:
                    self.model.add(size == until)
                self.in_place[run.place].append((self.model.new_interval_var(0, size, until, ""), run.piece))

    def _apart(self) -> None:
        """What wants the same piece of the instrument comes one after the other."""
        model, bench = self.model, self.bench
        for op in bench.ops:
            if op.behind >= 0 and (op.n in self.free or op.behind in self.free):
                model.add(self.start(op) >= self.end(bench.ops[op.behind]))
            for n in op.rivals:
                other = bench.ops[n]
                if n < op.n or (op.n not in self.free and n not in self.free):
                    continue
                first = model.new_bool_var("")
                model.add(self.start(other) >= self._over(op)).only_enforce_if(first)
                model.add(self.start(op) >= self._over(other)).only_enforce_if(~first)

    def _over(self, op: ScheduledOperation) -> Any:
        """When it gives its pieces free: its hands let go, and what it laid down is taken up."""
        if op.ender >= 0 and (op.wait or op.most is not None):
            ender = self.bench.ops[op.ender]
            return self.start(ender) + ender.late
        return self.end(op) + op.wait

    def _people(self) -> None:
        for p, person in enumerate(self.bench.people):
            intervals = list(self.on_person[p])
            for op in self.bench.ops:
                if op.n not in self.free and op.person == p and op.length:
                    intervals.append(self.model.new_fixed_size_interval_var(op.start, op.length, ""))
            shut = self._shut(person)
            for a, b in shut:
                intervals.append(self.model.new_fixed_size_interval_var(a, b - a, ""))
            self.model.add_no_overlap(intervals)

    def _shut(self, person: PlanPerson) -> list[tuple[int, int]]:
        """When somebody is not there, as far as anything is planned; fixed work outside the hours is left alone."""
        found, at = [], 0
        outside = [o for o in self.bench.ops if o.n not in self.free and self.bench.people[o.person] is person]
        for a, b in person.windows:
            if up(a) > at:
                found.append((at, min(up(a), self.horizon + 10**6)))
            at = max(at, down(b))
        shut = []
        for a, b in found:
            a = max([a, *(o.end for o in outside if o.start < a < o.end)])  # what runs into it a little
            if a < b and not any(o.start < b and o.end > a for o in outside):
                shut.append((a, b))
        return shut

    def _judge(self) -> None:
        """The cost in whole numbers; jobs that stay are a constant."""
        bench, model, w = self.bench, self.model, self.bench.problem.weights
        self.scale = 1
        while self.scale < 1000 and any(abs(x * self.scale - round(x * self.scale)) > 1e-9 for x in self._rates()):
            self.scale *= 10
        terms, constant = [], 0.0
        last = model.new_int_var(0, self.horizon * 2, "")
        for n, job in enumerate(bench.jobs):
            mine = bench.by_job[n]
            standing = max([0, *(up(r.earliest) for r in job.running)])
            fixed = max([standing, *(o.end + o.wait for o in mine if o.n not in self.free)])
            if not any(o.n in self.free for o in mine):
                constant += w.completion * fixed
                if job.due is not None:
                    constant += w.late * job.weight * max(0, fixed - down(job.due))
                model.add(last >= fixed)
                continue
            finish = model.new_int_var(fixed, self.horizon * 2, "")
            for o in mine:
                if o.n in self.free:
                    model.add(finish >= self.end(o) + o.wait)
            model.add(last >= finish)
            terms.append(round(w.completion * self.scale) * finish)
            if job.due is not None and w.late:
                late = model.new_int_var(0, self.horizon * 2, "")
                model.add(late >= finish - down(job.due))
                terms.append(round(w.late * job.weight * self.scale) * late)
        terms.append(round(w.finish * self.scale) * last)
        self.constant = constant * self.scale
        model.minimize(sum(terms))

    def _rates(self) -> list[float]:
        w = self.bench.problem.weights
        return [w.completion, w.finish, *(w.late * j.weight for j in self.bench.jobs)]
