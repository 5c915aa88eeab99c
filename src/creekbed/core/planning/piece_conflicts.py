"""Pairs of operations of a job that need the same piece of the instrument and that no order separates.

A piece is in the hands that work on it, and then lies where its wait is until that is ended. Most work on a piece is
ordered anyway; what is left are the few pairs that a planner must keep apart itself.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from creekbed.core.planning.model import Operation, RunningWait


def ancestors(operations: Sequence[Operation]) -> list[int]:
    """For each operation the set of those that come before it, as bits by their place in the sequence."""
    place = {o.key: n for n, o in enumerate(operations)}
    found = [-1] * len(operations)

    def reach(n: int) -> int:
        if found[n] < 0:
            found[n] = bits = 0
            for key in operations[n].before:
                before = place.get(key)
                if before is not None:
                    bits |= 1 << before | reach(before)
            found[n] = bits
        return found[n]

    for n in range(len(operations)):
        reach(n)
    return found


@lru_cache(maxsize=1024)
def rivals(operations: tuple[Operation, ...]) -> list[int]:
    """For each operation, as bits, those that it must be kept apart from: they want a piece of it at the same time."""
    wants: dict[str, int] = {}
    for n, o in enumerate(operations):
        for part in o.parts:
            wants[part] = wants.get(part, 0) | 1 << n
    if not wants:
        return [0] * len(operations)
    before = ancestors(operations)
    after = [0] * len(operations)
    for n, bits in enumerate(before):
        while bits:
            low = bits & -bits
            after[low.bit_length() - 1] |= 1 << n
            bits ^= low
    ender = {o.ends: n for n, o in enumerate(operations) if o.ends is not None}
    found = [0] * len(operations)
    for n, o in enumerate(operations):
        if not o.parts:
            continue
        sharing = 0
        for part in o.parts:
            sharing |= wants[part]
        sharing &= ~(1 << n)
        apart = sharing & ~(before[n] | after[n])
        end = ender.get(o.key)
        if end is not None and (o.wait_min or o.wait_max):  # what comes after it may still come before it is taken up
            apart |= sharing & after[n] & ~(after[end] | before[end] | 1 << end)
        found[n] |= apart
        while apart:
            low = apart & -apart
            found[low.bit_length() - 1] |= 1 << n
            apart ^= low
    return found


def kept_from(operations: Sequence[Operation], running: RunningWait) -> list[int]:
    """Operations, by place, that want what lies in a wait that runs, and do not come after it is taken up."""
    end = next((n for n, o in enumerate(operations) if o.ends == running.operation), None)
    before = ancestors(operations)
    found = []
    for n, o in enumerate(operations):
        if n == end or not o.parts & running.parts:
            continue
        if end is not None and (before[n] >> end & 1 or before[end] >> n & 1):
            continue
        found.append(n)
    return found
