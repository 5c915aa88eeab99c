"""Conflicts: running waits that cannot all be ended in time, with the hours and people that prevent it.

The smallest such set is found by taking one thing after another away and asking each time whether the rest can be kept
(deletion filter: Chinneck and Dravnieks, ORSA Journal on Computing 3, 1991). Whether it can is decided exactly.
"""

from __future__ import annotations

import itertools
from typing import Any

from creekbed.core.planning.model import Problem
from creekbed.core.planning.place_capacity import ONE, Piece, taken, units
from creekbed.core.planning.schedule_builder import ScheduleBuilder
from creekbed.core.planning.timelines import NEVER, UNIT, ScheduledOperation, down, up
from creekbed.core.quick_dataclasses import dataclass


@dataclass(frozen=True)
class ConflictPart:
    """One thing that must hold.

    Attributes:
        kind: "limit": a wait's longest time; "hours": somebody's hours; "in_hand": what somebody does now; "place": a
            place's room. what: tag of the job, initials, or place. operation: the wait, or what is in hand.
        minutes: the latest moment of a limit, minutes from now.
    """

    kind: str
    what: str
    operation: str = ""
    minutes: float = 0.0


@dataclass(frozen=True)
class Conflict:
    """Things that cannot all hold: none may be left out of the set; ``mends``: leaving out this one alone is enough."""

    parts: tuple[ConflictPart, ...]
    mends: tuple[ConflictPart, ...]


def conflict(problem: Problem, seconds: float = 2.0) -> Conflict | None:
    """The smallest set of things that keeps running waits from being ended in time; ``None`` where all can be.

    Args:
        seconds: for each question at most; one that is not answered by then counts as "can be kept".
    """
    bench = ScheduleBuilder(problem)
    limits = _limits(bench)
    parts = [ConflictPart("limit", bench.jobs[n].key, name, latest) for name, n, _, latest in limits]
    parts += [ConflictPart("hours", p.key) for p in problem.hands]
    parts += [ConflictPart("in_hand", p.person, p.operation) for p in problem.pins if p.kind == "in_hand"]
    parts += [ConflictPart("place", place) for place in problem.capacity if _wanted(limits, bench, place)]
    if not limits or _possible(bench, limits, set(parts), seconds):
        return None
    needed = list(parts)
    for part in parts:
        rest = [p for p in needed if p is not part]
        if not _possible(bench, limits, set(rest), seconds):
            needed = rest
    mends = tuple(p for p in needed if _possible(bench, limits, set(parts) - {p}, seconds))
    return Conflict(tuple(needed), mends)


Limit = tuple[str, int, list[ScheduledOperation], float]
"""A wait that runs: its name, number of its job, what ends it with all that must follow in time, its latest end."""


def _limits(bench: ScheduleBuilder) -> list[Limit]:
    found = []
    for n, job in enumerate(bench.jobs):
        for run in job.running:
            ender = bench.ender_of(n, run)
            if run.latest is None or ender is None:
                continue
            chain = [ender]
            while chain[-1].limit is not None and chain[-1].ender >= 0:
                chain.append(bench.ops[chain[-1].ender])
            found.append((run.operation, n, chain, max(run.latest, run.earliest)))
    return found


def _wanted(limits: list[Limit], bench: ScheduleBuilder, place: str) -> bool:
    return any(place in (o.op.place, o.op.at) for _, _, chain, _ in limits for o in chain)


def _possible(bench: ScheduleBuilder, limits: list[Limit], parts: set[ConflictPart], seconds: float) -> bool:
    from ortools.sat.python import cp_model  # type: ignore[import-not-found,import-untyped,unused-ignore]

    model = cp_model.CpModel()
    horizon = up(max(max(latest for *_, latest in limits), 0.0)) + 3000 * UNIT
    busy: list[list[Any]] = [[] for _ in bench.people]
    rooms: dict[str, list[tuple[Any, Piece]]] = {p.what: [] for p in parts if p.kind == "place"}
    starts: dict[int, Any] = {}
    own = {o.n for _, _, chain, _ in limits for o in chain}
    for name, n, chain, latest in limits:
        for op in chain:
            ready = min(bench.ready(op), up(bench.jobs[n].release)) if any(b in own for b in op.before) else op.ready
            begin = model.new_int_var(min(ready, horizon), horizon, "")
            starts[op.n] = begin
            literals = []
            for p in op.people:
                who = model.new_bool_var("")
                literals.append(who)
                busy[p].append(model.new_optional_interval_var(begin, op.length, begin + op.length, who, ""))
            model.add_exactly_one(literals)
            if op.op.at in rooms:
                rooms[op.op.at].append((model.new_interval_var(begin, op.length, begin + op.length, ""), ONE))
        if ConflictPart("limit", bench.jobs[n].key, name, latest) in parts:
            model.add(starts[chain[0].n] <= max(down(latest) - chain[0].late, chain[0].ready))
        for before, after in itertools.pairwise(chain):
            model.add(starts[after.n] >= starts[before.n] + before.length + after.lag(before))
            if before.limit is not None and any(q.kind == "limit" and q.what == bench.jobs[n].key for q in parts):
                model.add(starts[after.n] <= starts[before.n] + before.limit)
        run = next(r for r in bench.jobs[n].running if r.operation == name)
        if run.place in rooms:
            rooms[run.place].append((model.new_interval_var(0, starts[chain[0].n], starts[chain[0].n], ""), run.piece))
        for op in chain:
            if op.op.place in rooms and op.holds:
                least = op.wait or 1
                begin = starts[op.n] + op.length
                rooms[op.op.place].append((model.new_interval_var(begin, least, begin + least, ""), op.op.piece))
    _keep_hours(bench, model, busy, parts, horizon)
    for pin in bench.pinned.values():
        op = bench.ops[bench.number[pin.job, pin.operation]]
        who_ = bench.who(pin, op)
        if pin.kind == "in_hand" and ConflictPart("in_hand", pin.person, pin.operation) in parts and op.n not in own:
            k = op.people[0] if who_ is None else who_
            busy[k].append(model.new_fixed_size_interval_var(0, min(op.length, NEVER), ""))
    for rows in busy:
        model.add_no_overlap(rows)
    for place, rows in rooms.items():
        room, holds = bench.problem.capacity[place], bench.problem.shared(place)
        lying = taken([r.piece for j in bench.jobs for r in j.running if r.place == place], room, holds)
        demands = [units(piece, room, holds) for _, piece in rows]
        model.add_cumulative([interval for interval, _ in rows], demands, max(room, lying) * holds)
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = 1
    return bool(solver.solve(model) != cp_model.INFEASIBLE)


def _keep_hours(
    bench: ScheduleBuilder, model: Any, busy: list[list[Any]], parts: set[ConflictPart], horizon: int
) -> None:
    """Add to what keeps people busy the times in which they are not there, where their hours must hold."""
    for k, person in enumerate(bench.people):
        if ConflictPart("hours", person.key) in parts:
            at = 0
            for a, b in person.windows:
                if up(a) > at:
                    busy[k].append(model.new_fixed_size_interval_var(at, up(a) - at, ""))
                at = max(at, down(b))
            if at < horizon:
                busy[k].append(model.new_fixed_size_interval_var(at, horizon - at, ""))
