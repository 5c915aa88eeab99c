"""Whether a plan keeps every constraint of its problem. Shares no code with any planner, on purpose."""

from __future__ import annotations

import itertools
import math
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence

from creekbed.core.planning.model import Operation, Plan, PlanJob, Planned, Problem
from creekbed.core.turns import Turns, whole

SLACK = 1e-6
MANY = 64
"""After so many things looked at it may be left for a while."""


def violations(problem: Problem, plan: Plan) -> list[str]:
    """Every constraint that a plan breaks, in words; an empty list means that it may be followed.

    Checked: each operation once, its length, its order, release and longest waits; each person once at a time, in
    their hours and with the skill; each place within its capacity, hands and waits together; the operation in hand
    stays first; what was set to a time begins no sooner, in the hands it was given to. A longest wait that was over
    before the plan began is not the plan's fault.
    """
    return whole(violations_in_turns(problem, plan))


def violations_in_turns(problem: Problem, plan: Plan) -> Turns[list[str]]:
    """What :func:`violations` finds, a little at a time."""
    found: list[str] = []
    open_jobs = {j.key: j for j in problem.jobs if not j.blocked}
    steps = {(s.job, s.operation): s for s in plan.steps}
    if len(steps) != len(plan.steps):
        found.append("an operation is planned twice")
    people = {p.key: p for p in problem.people} if problem.people else None
    wanted = {(j.key, o.key): o for j in open_jobs.values() for o in j.operations}
    for key in wanted.keys() - steps.keys():
        found.append(f"{key[0]} {key[1]} is not planned")
    for key in steps.keys() - wanted.keys():
        found.append(f"{key[0]} {key[1]} is no operation")
    busy: dict[str, list[tuple[float, float, str]]] = {}
    for n, (key, step) in enumerate(steps.items()):
        if n % MANY == 0:
            yield
        if key not in wanted:
            continue
        operation, job = wanted[key], open_jobs[key[0]]
        name = f"{key[0]} {key[1]}"
        if abs(step.end - step.start - operation.hands_min) > SLACK and not _set_up(operation, step, steps, wanted):
            found.append(f"{name} has another length")
        if step.start < -SLACK or (
            key not in problem.in_hand and step.start < max(job.release, operation.release) - SLACK
        ):
            found.append(f"{name} begins before it may")
        if step.end > step.start + SLACK:  # what stands ready already takes no hands
            busy.setdefault(step.person, []).append((step.start, step.end, name))
        if key in problem.in_hand:
            if step.start > SLACK:
                found.append(f"{name} is in hand and was moved")
            continue
        windows = problem.windows
        if people is not None:
            person = people.get(step.person)
            if person is None:
                found.append(f"{name} is given to nobody")
                continue
            windows = person.windows
            if operation.skill and person.skills and operation.skill not in person.skills:
                found.append(f"{name} is given to {step.person}, who cannot do it")
        inside = any(
            a - SLACK <= step.start
            and (step.end <= b + SLACK or (step.start < b and step.end <= b + problem.grace + SLACK))
            for a, b in windows
        )
        longest = max((b - a for a, b in windows), default=0.0)
        if not inside and operation.hands_min <= longest and step.start < windows[-1][1] - SLACK:
            found.append(f"{name} is outside the hours")
    for person_key, rows in busy.items():
        rows.sort(key=lambda r: (round(r[0], 6), r[1]))
        for (_, end, first), (start, _, second) in itertools.pairwise(rows):
            if start < end - SLACK:
                found.append(f"{person_key or 'the hands'}: {first} and {second} at once")
    held: dict[str, list[tuple[float, float, int, str]]] = {}
    for n, job in enumerate(open_jobs.values()):
        if n % (MANY // 8) == 0:
            yield
        running = {r.operation: r for r in job.running}
        ender = {o.ends: o.key for o in job.operations if o.ends is not None}
        found += _pieces(job, steps)
        for operation in job.operations:
            step_ = steps.get((job.key, operation.key))
            if step_ is None:
                continue
            for before in {*operation.after, *((operation.ends,) if operation.ends else ())}:
                earlier = steps.get((job.key, before))
                if earlier is not None:
                    source = wanted[(job.key, before)]
                    if step_.start < earlier.end + source.wait_min - SLACK:
                        found.append(f"{job.key} {operation.key} begins before {before} is over")
                elif before in running and step_.start < running[before].earliest - SLACK:
                    found.append(f"{job.key} {operation.key} begins before the wait of {before} is over")
            if operation.ends is not None:
                source_step = steps.get((job.key, operation.ends))
                if source_step is not None:
                    longest_wait = wanted[(job.key, operation.ends)].wait_max
                    held_now = (job.key, operation.ends) in problem.in_hand
                    excused = held_now and (job.key, operation.ends) in {b[:2] for b in plan.broken}
                    over = longest_wait is not None and step_.start > source_step.end + longest_wait + SLACK
                    if over and not excused:
                        found.append(f"{job.key} {operation.ends} waits too long")
                elif operation.ends in running:
                    latest = running[operation.ends].latest
                    late = latest is not None and step_.start > max(latest, 0.0) + SLACK
                    if late and (job.key, operation.ends) not in {b[:2] for b in plan.broken}:
                        found.append(f"{job.key} {operation.ends} waits too long")
            if operation.at is not None:
                held.setdefault(operation.at, []).append((step_.start, step_.end, 1, ""))
            if operation.place is not None and (operation.wait_min or operation.wait_max):
                end = step_.end + operation.wait_min
                if operation.key in ender and (job.key, ender[operation.key]) in steps:
                    end = steps[(job.key, ender[operation.key])].start
                mine = operation.piece
                held.setdefault(operation.place, []).append((step_.end, end, mine.takes, mine.alike))
        for run in job.running:
            if run.place is None:
                continue
            end = max(run.earliest, 0.0)
            if run.operation in ender and (job.key, ender[run.operation]) in steps:
                end = steps[(job.key, ender[run.operation])].start
            held.setdefault(run.place, []).append((0.0, end, run.piece.takes, run.piece.alike))
    for place, spans in held.items():
        room = problem.capacity.get(place)
        if room is None:
            continue
        # what lies there already, and what somebody has in hand for it, is not the plan's doing
        shared = problem.holds.get(place, 1)
        here_now = [
            (r.piece.takes, r.piece.alike) for j in open_jobs.values() for r in j.running if r.place == place
        ]  # fmt: skip
        for held_op in (wanted[k] for k in problem.in_hand if k in wanted):
            here_now += [(1, "")] if held_op.at == place else []
            here_now += [(held_op.piece.takes, held_op.piece.alike)] if held_op.place == place else []
        before_now = _load(here_now, room, shared)
        moments = sorted({row[0] for row in spans if row[1] > row[0] + SLACK})
        for n, at in enumerate(moments):
            if n % (MANY // 2) == 0:
                yield
            there = [(takes, alike) for a, b, takes, alike in spans if a <= at + SLACK and b > at + SLACK]
            inside_now = _load(there, room, shared)
            if inside_now > max(room, before_now):
                found.append(f"{place} holds {inside_now} at {at:.1f}, it takes {room}")
                break
    for pin in problem.pins:
        key = (pin.job, pin.operation)
        if pin.kind != "locked" or key not in steps or key not in wanted or key in problem.in_hand:
            continue
        operation, step = wanted[key], steps[key]
        running_ = open_jobs[pin.job].running
        must = [max(r.latest, 0.0) for r in running_ if r.operation == operation.ends and r.latest is not None]
        if step.start < min([pin.at, *must]) - 0.2:
            found.append(f"{pin.job} {pin.operation} was set to {pin.at:.1f} and begins at {step.start:.1f}")
        theirs = next((p for p in problem.people if p.key == pin.person and p.windows), None)
        if theirs is not None and step.person != pin.person and theirs.can(operation):
            found.append(f"{pin.job} {pin.operation} was given to {pin.person}, {step.person} does it")
    said = {(m.job, m.operation) for m in plan.moved}
    for pin in problem.pins:
        step_ = steps.get((pin.job, pin.operation))
        if pin.kind != "next" or step_ is None or (pin.job, pin.operation) in said:
            continue
        if step_.start > max(pin.at, 0.0) + 0.2:
            found.append(f"{pin.job} {pin.operation} was to be next and was moved without a word")
        if pin.person and step_.person != pin.person and (people is None or pin.person in people):
            found.append(f"{pin.job} {pin.operation} was taken from {pin.person}")
    return found


def _pieces(job: PlanJob, steps: Mapping[tuple[str, str], Planned]) -> list[str]:
    """Where two operations use a piece of the instrument at once, or one uses what lies somewhere."""
    known = {o.key: o for o in job.operations}
    if not any(o.parts for o in job.operations):
        return []
    before: dict[str, set[str]] = {}

    def earlier(key: str) -> set[str]:
        if key not in before:
            before[key] = set()
            for name in {*known[key].after, *((known[key].ends,) if known[key].ends else ())} & known.keys():
                before[key] |= {name} | earlier(name)
        return before[key]

    spans: dict[str, list[tuple[float, float, str, bool]]] = {}

    def used(parts: Iterable[str], row: tuple[float, float, str, bool]) -> None:
        for part in parts:
            spans.setdefault(part, []).append(row)

    ender = {o.ends: o.key for o in job.operations if o.ends is not None}
    for key, o in known.items():
        step = steps.get((job.key, key))
        if step is None or not o.parts or step.end <= step.start + SLACK:
            continue
        used(o.parts, (step.start, step.end, key, False))
        if o.wait_min or o.wait_max:
            end = steps.get((job.key, ender.get(key, "")))
            used(o.parts, (step.end, step.end + o.wait_min if end is None else end.start, key, True))
    for run in job.running:
        end = steps.get((job.key, ender.get(run.operation, "")))
        used(run.parts, (0.0, max(run.earliest, 0.0) if end is None else end.start, run.operation, True))
    found = set()
    for rows in spans.values():
        rows.sort()
        for n, (_, until, one, lies) in enumerate(rows):
            for start, _, other, too in itertools.islice(rows, n + 1, None):
                if start >= until - SLACK:
                    break
                down, hand = (one, other) if lies else (other, one)
                end_key = ender.get(down, "")
                between = end_key in known and hand in earlier(end_key) and (down not in known or down in earlier(hand))
                if one == other or (lies and too) or ((lies or too) and (hand == end_key or between)):
                    continue  # it ends that wait, or is done to what lies there
                if lies or too:
                    found.add(f"{job.key} {hand} uses what lies somewhere since {down}")
                else:
                    found.add(f"{job.key} {one} and {other} use one piece at once")
    return sorted(found)


def _load(pieces: Sequence[tuple[int, str]], room: int, shared: int) -> int:
    """How much room pieces need: (how much each takes, what it may share a vessel with)."""
    vessels: Counter[str] = Counter()
    total = 0
    for takes, alike in pieces:
        if shared > 1 and alike:
            vessels[alike] += takes
        else:
            total += takes if takes < room else room
    return total + sum(math.ceil(count / shared) for count in vessels.values())


def _set_up(
    operation: Operation,
    step: Planned,
    steps: Mapping[tuple[str, str], Planned],
    wanted: Mapping[tuple[str, str], Operation],
) -> bool:
    """Whether a step is as short as it is because another has set up what it needs, and that still is good."""
    if not operation.shares or abs(step.end - step.start - operation.again_min) > SLACK:
        return False
    for key, other in steps.items():
        theirs = wanted.get(key)
        if theirs is None or other is step or theirs.shares != operation.shares:
            continue
        whole = abs(other.end - other.start - theirs.hands_min) <= SLACK
        if whole and other.end <= step.start + SLACK and step.start <= other.end + operation.keeps_min + SLACK:
            return True
    return False
