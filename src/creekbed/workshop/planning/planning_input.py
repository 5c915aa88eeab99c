"""The planner's input: jobs, people, hours, places, and pins."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import datetime

from creekbed.core.hygiene.baths import useful_minutes
from creekbed.core.planning.durations import Learned, left_min
from creekbed.core.planning.model import Operation, Pin, PlanJob, PlanPerson, Problem, RunningWait, Weights
from creekbed.core.planning.place_capacity import ONE, Piece
from creekbed.core.procedure.forbidden import all_after
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.turns import Turns
from creekbed.store.reader import Reader
from creekbed.workshop.bench.job_view import JobView, StepView
from creekbed.workshop.bench.wait_view import ACCLIMATISING, WaitView
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.shop.staff import open_spans, windows_of, workers_in

WEIGHTS = Weights(late=1e7, change=2.0)
"""What a plan of the bench is judged by: a minute late outweighs whatever else a plan of 300 jobs could gain in the
weeks that are planned, so lateness comes first; then early finishes, ways and changes, weighed: house default."""
SPARE_MIN = 4.0
"""Margin, minutes: what ends a wait is planned this long before the longest time, and before closing: house default."""
GRACE_MIN = 2.0
"""How far delayed work may run into a break or beyond closing, minutes: house default."""
QUARANTINE, STANDING = "quarantine", "standing"
"""The shelf of what is in quarantine; the wait of what stands there until it is treated."""
LEAST_LEFT_MIN = 0.5
"""The least time that a step in hand is expected to take still, minutes: house default."""

Held = Mapping[tuple[int, str], tuple[str, datetime]]
"""(job id, step) → who has it in hand, and since when."""


@dataclass(frozen=True)
class PlanningInput:
    """The bench at one moment, as a problem for the planner.

    Attributes:
        named: (tag, step) → (name of the operation, family, house minutes), to learn and to draw durations by.
    """

    problem: Problem
    named: Mapping[tuple[str, str], tuple[str, str, float]]


def planning_input(shop: Shop, views: Sequence[JobView], now: datetime, held: Held, learned: Learned) -> PlanningInput:
    """The bench as a planner sees it; what is in hand and what somebody set to a time stays where it is."""
    jobs: list[PlanJob] = []
    named: dict[tuple[str, str], tuple[str, str, float]] = {}
    kept: list[Pin] = []
    memory = _memory(shop)
    for gone in memory.keys() - {v.job.id for v in views}:
        del memory[gone]
    for view in views:
        work = _known_work(shop, view, learned)
        named.update(work.named)
        begun = {}
        for (job_id, key), (person, since) in held.items():
            if job_id == view.job.id and (view.tag, key) in work.named:
                begun[key] = Pin(view.tag, key, person, "in_hand", (since - now).total_seconds() / 60)
        kept += begun.values()
        operations: Sequence[Operation] = work.operations  # as it is, where nothing is added: see packed_rows
        if begun or view.parts:
            operations = [_as_it_stands(view, o, work, begun.get(o.key), learned, now) for o in operations]
        running = [_running(view, w, now) for w in view.waits if w.key != ACCLIMATISING]
        if view.treating:
            operations, lying = _in_quarantine(view, operations)
            running += lying
        away = view.job.waiting_for and not view.job.quarantine
        back = view.job.back_at if away and view.job.back_at is not None and view.job.back_at > now else None
        held_back = [t for t in (view.job.release_at, back) if t is not None]
        jobs.append(
            PlanJob(
                key=view.tag,
                operations=tuple(operations),
                due=_minutes(view.departure.leaves_at, now) if view.departure else None,
                weight=view.job.weight,
                release=max([0.0, *(_minutes(t, now) for t in held_back)]),
                running=tuple(running),
                blocked="" if back is not None else view.blocked,
            )
        )
    places = shop.catalogue.house.place
    capacity, holds = {p.key: p.capacity for p in places}, {p.key: p.holds for p in places if p.holds > 1}
    if QUARANTINE in capacity:  # what stands there till somebody lifts it, or comes for it
        standing = sum(bool(v.job.quarantine) and not v.treating for v in views)
        capacity[QUARANTINE] = max(capacity[QUARANTINE] - standing, 1)
    spans = open_spans(shop, now)
    with shop.reading() as records:
        staff, fixed = workers_in(records, shop.person), _fixed_starts(records, views, now)
    people = tuple(PlanPerson(w.key, windows_of(w, spans, now), w.skills) for w in staff)
    windows = tuple((max(_minutes(a, now), 0.0), _minutes(b, now)) for a, b in spans)
    taken = {(p.job, p.operation) for p in kept}
    pins: tuple[Pin, ...] = (*kept, *(p for p in fixed if (p.job, p.operation) not in taken))
    return PlanningInput(
        Problem(tuple(jobs), capacity, windows, pins, people, WEIGHTS, holds, SPARE_MIN, GRACE_MIN), named
    )


@dataclass(frozen=True)
class _Work:
    """The open operations of a job; they stay the same until something is done to it or learned."""

    view: JobView
    learned: Learned
    operations: tuple[Operation, ...]
    named: Mapping[tuple[str, str], tuple[str, str, float]]


def _memory(shop: Shop) -> dict[int, _Work]:
    memory: dict[int, _Work] = shop.catalogue.memory.setdefault("work", {})
    return memory


def _known_work(shop: Shop, view: JobView, learned: Learned) -> _Work:
    memory = _memory(shop)
    work = memory.get(view.job.id)
    if work is None or work.view is not view or work.learned is not learned:
        work = memory[view.job.id] = _work(shop, view, learned)
    return work


def ready_in_turns(shop: Shop, views: Sequence[JobView], learned: Learned) -> Turns[None]:
    """Work out the operations of one job after another, so that :func:`planning_input` finds them known."""
    for view in views:
        before = _memory(shop).get(view.job.id)
        if _known_work(shop, view, learned) is not before:
            yield None


def _work(shop: Shop, view: JobView, learned: Learned) -> _Work:
    steps = _that_can_be_done(view)
    open_keys = {s.step.key for s in steps}
    ending = open_keys | {w.key for w in view.waits}
    family = view.family.key
    named = {(view.tag, s.step.key): (s.step.base, family, s.step.hands_min) for s in steps}
    operations = tuple(
        _operation(shop, s, ending, learned.median(s.step.base, family, s.step.hands_min)) for s in steps
    )
    return _Work(view, learned, operations, named)


def _that_can_be_done(view: JobView) -> tuple[StepView, ...]:
    """The open steps without those that a finding holds back, and what comes after them.

    While it is at a specialist's they are planned for when it is back.
    """
    if view.job.waiting_for:
        return view.open_steps
    steps = {s.step.key: s.step for s in view.open_steps}
    later = all_after(steps, {key for key, step in steps.items() if step.held})
    return tuple(s for s in view.open_steps if s.step.key not in later)


def _as_it_stands(
    view: JobView, operation: Operation, work: _Work, begun: Pin | None, learned: Learned, now: datetime
) -> Operation:
    """An operation as it stands: what is left of it if it is in hand, and not before its parts have come."""
    step = view.step(operation.key)
    if begun is not None:
        base, family, _ = work.named[view.tag, operation.key]
        left = left_min(operation.hands_min, learned.deviation(base, family, begun.person), -begun.at)
        hands = max(left, LEAST_LEFT_MIN)
        share = operation.again_min / operation.hands_min if operation.hands_min else 1.0
        operation = replace(operation, hands_min=hands, again_min=hands * share)
    if step is not None and step.parts:
        operation = replace(operation, release=max([0.0, *(_minutes(p.at, now) for p in step.parts)]))
    return operation


def _in_quarantine(view: JobView, operations: Sequence[Operation]) -> tuple[list[Operation], list[RunningWait]]:
    """In quarantine the treatment comes first and takes it from its shelf; everything else follows."""
    treating = set(view.treating)
    treated = [o for o in operations if o.key in treating]
    early = {s.step.key for s in view.open_steps if s.step.in_quarantine}
    found = [o if o.key in early else replace(o, after=(*o.after, *view.treating)) for o in operations]
    if not treated or any(w.key in treating for w in view.waits):
        return found, []
    first = treated[0]
    found[found.index(first)] = replace(first, ends=first.ends or STANDING)
    return found, [RunningWait(STANDING, QUARANTINE, 0.0)] if first.ends is None else []


def _operation(shop: Shop, s: StepView, ending: set[str], hands: float) -> Operation:
    """A step as an operation.

    Args:
        ending: what may be ended: steps that are open, waits that run.
    """
    step = s.step
    wait = step.wait
    shares = ""
    share = step.setup_min / step.hands_min if step.hands_min else 0.0
    if step.setup_min:
        shares = f"mix:{shop.catalogue.house.recipe[0].key}" if step.kind == "mix" else step.base
    return Operation(
        key=step.key,
        hands_min=hands,
        after=step.after,
        deeds=step.deeds,
        wait_min=wait.min_minutes if wait else 0.0,
        wait_max=wait.max_minutes if wait else None,
        place=wait.place if wait else None,
        ends=step.ends if step.ends in ending else None,
        at=step.place,
        skill=step.skill,
        shares=shares,
        again_min=hands * (1 - share),
        keeps_min=_keeps_min(shop, s) if shares else 0.0,
        piece=Piece(wait.takes, wait.alike) if wait else ONE,
        parts=step.pieces,
    )


def _keeps_min(shop: Shop, s: StepView) -> float:
    """How long what a step sets up stays good: a mix until it is discarded, a bath until it is too cool."""
    if s.step.kind == "mix":
        return shop.catalogue.house.recipe[0].keeps_hours * 60
    limits = shop.catalogue.house.limits
    return useful_minutes(limits.bath_c, limits.bath_useful_c, limits.room_c, limits.tub_tau_min)


def _fixed_starts(records: Reader, views: Iterable[JobView], now: datetime) -> list[Pin]:
    by_id = {v.job.id: v for v in views}
    found = []
    for row in records.jobs.fixed_starts():
        view = by_id.get(row.job_id)
        step = view.step(row.key) if view is not None else None
        if view is not None and step is not None and step.work is None:
            found.append(Pin(view.tag, row.key, row.person, "fixed", max(0.0, _minutes(row.at, now))))
    return found


def _minutes(at: datetime, now: datetime) -> float:
    return (at - now).total_seconds() / 60


def piece_of(view: JobView, wait: WaitView) -> Piece:
    """What lies in a place with a wait that runs."""
    step = view.step(wait.key)
    built = step.step.wait if step is not None else None
    return ONE if built is None else Piece(built.takes, built.alike)


def _running(view: JobView, wait: WaitView, now: datetime) -> RunningWait:
    earliest = (wait.required if wait.dry else wait.contact.remaining).total_seconds() / 60
    latest = None if wait.contact.latest is None else _minutes(wait.contact.latest, now)
    if latest is not None and latest < earliest and earliest > 0:
        latest = earliest  # restarted so late that the longest time cannot be kept: end it at once
    step = view.step(wait.key)
    parts = step.step.pieces if step is not None else frozenset()
    return RunningWait(wait.key, wait.place, earliest, latest, piece_of(view, wait), parts)
