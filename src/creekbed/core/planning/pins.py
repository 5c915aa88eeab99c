"""Pins: what is scheduled first, namely work in hand, ends of running waits, fixed and preferred starts."""

from __future__ import annotations

from creekbed.core.planning.model import Pin
from creekbed.core.planning.schedule_builder import ScheduleBuilder
from creekbed.core.planning.timelines import NEVER, UNIT, ScheduledOperation, down

Must = tuple[float, int, ScheduledOperation, str]
"""A wait that must be ended: by when (minutes), number of its job, what ends it, name of the wait."""


def lay_pins(bench: ScheduleBuilder) -> None:
    """Schedule the pinned operations, and people for running waits that must be ended.

    What was to be next keeps its moment if every wait can still be ended in time; if not, the waits go before.
    What somebody set to a time comes after those, as near to its moment as there is room; hands are kept for it then
    where it cannot be laid in yet.
    """
    for n, pin in bench.pinned.items():
        if pin.kind == "in_hand":
            op = bench.ops[n]
            who = bench.who(pin, op)
            bench.lay(op, 0, op.people[0] if who is None else who)
    preferred = _pins(bench, "preferred")
    laid = [op for pin, op in preferred if _lay_preferred(bench, pin, op)]
    late = lay_enders(bench, keep=False)
    if late and laid:
        for op in laid:
            bench.lift(op)
        late = lay_enders(bench, keep=False)
    if late:
        lay_enders(bench, keep=True)
    for pin, op in preferred:  # those that had no room before what lies there was taken out
        _lay_preferred(bench, pin, op)
    for _, op in _pins(bench, "fixed"):
        ready = bench.ready(op)
        if op.start < 0 and (ready >= NEVER or not bench.place(op, ready)):
            bench.keep_hands(op)


def _pins(bench: ScheduleBuilder, kind: str) -> list[tuple[Pin, ScheduledOperation]]:
    found = [(pin, bench.ops[n]) for n, pin in bench.pinned.items() if pin.kind == kind]
    return sorted(found, key=lambda row: row[0].at)


def _lay_preferred(bench: ScheduleBuilder, pin: Pin, op: ScheduledOperation) -> bool:
    who, ready = bench.who(pin, op), bench.ready(op)
    return op.start < 0 and who is not None and ready < NEVER and bench.place(op, ready, only=who)


def lay_enders(bench: ScheduleBuilder, *, keep: bool) -> bool:
    """Schedule what must end a wait, the most urgent first.

    Args:
        keep: lay in what comes too late as well.

    Returns:
        Whether one comes too late; then nothing of this stays unless it was to be kept.
    """
    laid: list[ScheduledOperation] = []
    for latest, _, ender, _ in _must(bench):
        at = bench.ready(ender)
        if at >= NEVER:
            continue
        last = max(down(latest) - ender.late, at if latest < 0 else 0)
        begin, by = max(at, min(bench.wished.get(ender.n, 0), last)), bench.wished_by.get(ender.n, -1)
        if bench.place(ender, begin, last, prefer=by) or (begin > at and bench.place(ender, at, last, prefer=by)):
            laid.append(ender)
        elif not keep:
            for op in laid:
                if op.start >= 0:
                    bench.lift(op)
            return True
        else:
            bench.place(ender, at)
    return False


def _must(bench: ScheduleBuilder) -> list[Must]:
    """Waits that run, or begin with what is laid in, have a longest time and no end yet; the most pressing first."""
    rows: list[Must] = [
        ((op.start + op.limit) / UNIT, op.job, bench.ops[op.ender], op.op.key)
        for op in bench.ops
        if op.start >= 0 and op.limit is not None and op.ender >= 0 and bench.ops[op.ender].start < 0
    ]
    for n, job in enumerate(bench.jobs):
        for run in job.running:
            ender = bench.ender_of(n, run)
            if run.latest is not None and ender is not None and ender.start < 0:
                rows.append((run.latest, n, ender, run.operation))
    return sorted(rows, key=lambda row: row[:2])
