"""Whether a plan keeps every constraint of its problem. Shares no code with any planner, on purpose."""

from __future__ import annotations

import itertools
import math
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence

from creekbed.core.planning.model import Operation, Plan, PlanJob, Planned, Problem

SLACK = 1e-6
Steps = Mapping[tuple[str, str], Planned]
Wanted = Mapping[tuple[str, str], Operation]


def violations(problem: Problem, plan: Plan) -> list[str]:
    """Every constraint that a plan breaks, in words; an empty list means that it may be followed.

    Checked: each operation once, its length, its order, release and longest waits; each person once at a time, in
    their hours and with the skill; each place within its capacity, hands and waits together; the operation in hand
    stays first; a fixed start begins no sooner, in the hands it was given to. A longest wait that was over before the
    plan began is not the plan's fault.
    """
    jobs = {j.key: j for j in problem.jobs if not j.blocked}
    steps = {(s.job, s.operation): s for s in plan.steps}
    wanted = {(j.key, o.key): o for j in jobs.values() for o in j.operations}
    found = ["an operation is planned twice"] if len(steps) != len(plan.steps) else []
    found += [f"{job} {key} is not planned" for job, key in wanted.keys() - steps.keys()]
    found += [f"{job} {key} is no operation" for job, key in steps.keys() - wanted.keys()]
    for key in steps.keys() & wanted.keys():
        found += _begins_well(problem, jobs[key[0]], wanted[key], steps, wanted)
        if key not in problem.in_hand:
            found += _by_somebody_there(problem, wanted[key], steps[key])
    found += _one_at_a_time(problem, steps, wanted)
    for job in jobs.values():
        found += _pieces(job, steps)
        found += _in_order(job, steps, wanted)
        found += _waits_end(problem, plan, job, steps, wanted)
    found += _places(problem, list(jobs.values()), steps, wanted)
    found += _fixed_starts(problem, jobs, steps, wanted)
    return found + _preferred_starts(problem, plan, steps)


def _begins_well(problem: Problem, job: PlanJob, operation: Operation, steps: Steps, wanted: Wanted) -> Iterator[str]:
    """Length and first start of one operation."""
    key = (job.key, operation.key)
    step, name = steps[key], f"{job.key} {operation.key}"
    if abs(step.end - step.start - operation.hands_min) > SLACK and not _set_up(operation, step, steps, wanted):
        yield f"{name} has another length"
    held = key in problem.in_hand
    if step.start < -SLACK or (not held and step.start < max(job.release, operation.release) - SLACK):
        yield f"{name} begins before it may"
    if held and step.start > SLACK:
        yield f"{name} is in hand and was moved"


def _by_somebody_there(problem: Problem, operation: Operation, step: Planned) -> Iterator[str]:
    """Whether who does it is there, and can do it."""
    name, windows = f"{step.job} {step.operation}", problem.windows
    if problem.people:
        person = next((p for p in problem.people if p.key == step.person), None)
        if person is None:
            yield f"{name} is given to nobody"
            return
        windows = person.windows
        if operation.skill and person.skills and operation.skill not in person.skills:
            yield f"{name} is given to {step.person}, who cannot do it"
    inside = any(
        a - SLACK <= step.start
        and (step.end <= b + SLACK or (step.start < b and step.end <= b + problem.grace + SLACK))
        for a, b in windows
    )
    longest = max((b - a for a, b in windows), default=0.0)
    if not inside and operation.hands_min <= longest and step.start < windows[-1][1] - SLACK:
        yield f"{name} is outside the hours"


def _one_at_a_time(problem: Problem, steps: Steps, wanted: Wanted) -> Iterator[str]:
    """Whether somebody does two things at once."""
    busy: dict[str, list[tuple[float, float, str]]] = {}
    for key, step in steps.items():
        if key in wanted and step.end > step.start + SLACK:  # what stands ready already takes no hands
            busy.setdefault(step.person, []).append((step.start, step.end, f"{key[0]} {key[1]}"))
    for person, rows in busy.items():
        rows.sort(key=lambda r: (round(r[0], 6), r[1]))
        for (_, end, first), (start, _, second) in itertools.pairwise(rows):
            if start < end - SLACK:
                yield f"{person or 'the hands'}: {first} and {second} at once"


def _in_order(job: PlanJob, steps: Steps, wanted: Wanted) -> Iterator[str]:
    """Whether what comes before an operation, and its wait, is over."""
    running = {r.operation: r for r in job.running}
    for operation in job.operations:
        step = steps.get((job.key, operation.key))
        if step is None:
            continue
        for before in {*operation.after, *((operation.ends,) if operation.ends else ())}:
            earlier = steps.get((job.key, before))
            if earlier is not None:
                lag = 0.0 if before in operation.deeds else wanted[job.key, before].wait_min
                if step.start < earlier.end + lag - SLACK:
                    yield f"{job.key} {operation.key} begins before {before} is over"
            elif before in running and before not in operation.deeds and step.start < running[before].earliest - SLACK:
                yield f"{job.key} {operation.key} begins before the wait of {before} is over"


def _waits_end(problem: Problem, plan: Plan, job: PlanJob, steps: Steps, wanted: Wanted) -> Iterator[str]:
    """Whether no wait passes its longest time."""
    running, told = {r.operation: r for r in job.running}, {b[:2] for b in plan.broken}
    for operation in (o for o in job.operations if o.ends is not None):
        step, key = steps.get((job.key, operation.key)), (job.key, operation.ends or "")
        if step is None:
            continue
        begun = steps.get(key)
        if begun is not None:
            longest = wanted[key].wait_max
            over = longest is not None and step.start > begun.end + longest + SLACK
            if over and not (key in problem.in_hand and key in told):
                yield f"{job.key} {operation.ends} waits too long"
        elif operation.ends in running:
            latest = running[operation.ends].latest
            if latest is not None and step.start > max(latest, 0.0) + SLACK and key not in told:
                yield f"{job.key} {operation.ends} waits too long"


def _places(problem: Problem, jobs: Sequence[PlanJob], steps: Steps, wanted: Wanted) -> Iterator[str]:
    """Whether every place has room for what lies in it, and for the hands on it."""
    held: dict[str, list[tuple[float, float, int, str]]] = {}
    for job in jobs:
        for place, row in _lying(job, steps):
            held.setdefault(place, []).append(row)
    for place, spans in held.items():
        room = problem.capacity.get(place)
        if room is None:
            continue
        # what lies there already, and what somebody has in hand for it, is not the plan's doing
        shared = problem.holds.get(place, 1)
        here_now = [(r.piece.takes, r.piece.alike) for j in jobs for r in j.running if r.place == place]
        for held_op in (wanted[k] for k in problem.in_hand if k in wanted):
            here_now += [(1, "")] if held_op.at == place else []
            here_now += [(held_op.piece.takes, held_op.piece.alike)] if held_op.place == place else []
        before_now = _load(here_now, room, shared)
        for at in sorted({row[0] for row in spans if row[1] > row[0] + SLACK}):
            there = [(takes, alike) for a, b, takes, alike in spans if a <= at + SLACK and b > at + SLACK]
            inside_now = _load(there, room, shared)
            if inside_now > max(room, before_now):
                yield f"{place} holds {inside_now} at {at:.1f}, it takes {room}"
                break


def _lying(job: PlanJob, steps: Steps) -> Iterator[tuple[str, tuple[float, float, int, str]]]:
    """What of a job is in a place when: (place, (from, until, room it takes, what it is alike to))."""
    ender = {o.ends: o.key for o in job.operations if o.ends is not None}

    def until(key: str, otherwise: float) -> float:
        end = steps.get((job.key, ender.get(key, "")))
        return otherwise if end is None else end.start

    for operation in job.operations:
        step = steps.get((job.key, operation.key))
        if step is None:
            continue
        if operation.at is not None:
            yield operation.at, (step.start, step.end, 1, "")
        if operation.place is not None and (operation.wait_min or operation.wait_max):
            mine, end = operation.piece, until(operation.key, step.end + operation.wait_min)
            yield operation.place, (step.end, end, mine.takes, mine.alike)
    for run in job.running:
        if run.place is not None:
            end = until(run.operation, max(run.earliest, 0.0))
            yield run.place, (0.0, end, run.piece.takes, run.piece.alike)


def _fixed_starts(problem: Problem, jobs: Mapping[str, PlanJob], steps: Steps, wanted: Wanted) -> Iterator[str]:
    """Whether what somebody set to a time begins no sooner, and in the hands it was given to."""
    for pin in problem.pins:
        key = (pin.job, pin.operation)
        if pin.kind != "fixed" or key not in steps or key not in wanted or key in problem.in_hand:
            continue
        operation, step = wanted[key], steps[key]
        running = jobs[pin.job].running
        must = [max(r.latest, 0.0) for r in running if r.operation == operation.ends and r.latest is not None]
        if step.start < min([pin.at, *must]) - 0.2:
            yield f"{pin.job} {pin.operation} was set to {pin.at:.1f} and begins at {step.start:.1f}"
        theirs = next((p for p in problem.people if p.key == pin.person and p.windows), None)
        if theirs is not None and step.person != pin.person and theirs.can(operation):
            yield f"{pin.job} {pin.operation} was given to {pin.person}, {step.person} does it"


def _preferred_starts(problem: Problem, plan: Plan, steps: Steps) -> list[str]:
    """Whether what was shown to be next is still next, or the plan says why not."""
    found = []
    people, said = {p.key for p in problem.people}, {(m.job, m.operation) for m in plan.moved}
    for pin in problem.pins:
        step = steps.get((pin.job, pin.operation))
        if pin.kind != "preferred" or step is None or (pin.job, pin.operation) in said:
            continue
        if step.start > max(pin.at, 0.0) + 0.2:
            found.append(f"{pin.job} {pin.operation} was to be next and was moved without a word")
        if pin.person and step.person != pin.person and (not people or pin.person in people):
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
