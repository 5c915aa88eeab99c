"""Partial orders: a stable topological order, the cycle when there is none, and the order of what is left."""

from __future__ import annotations

import heapq
from collections.abc import Collection, Mapping
from functools import lru_cache
from graphlib import CycleError, TopologicalSorter


def topological_order(after: Mapping[str, Collection[str]]) -> list[str]:
    """An order in which each key comes after those it names; ties keep the order of the mapping.

    Raises:
        ValueError: there is a cycle; the message names it.
    """
    return list(_ordered(tuple((key, frozenset(before)) for key, before in after.items())))


@lru_cache(maxsize=2048)  # the jobs of a family mostly ask for the same few orders
def _ordered(after: tuple[tuple[str, frozenset[str]], ...]) -> tuple[str, ...]:
    place = {key: n for n, (key, _) in enumerate(after)}
    sorter = TopologicalSorter(dict(after))
    try:
        sorter.prepare()
    except CycleError as error:
        raise ValueError("the order goes round in a circle: " + " after ".join(reversed(error.args[1]))) from None
    ready: list[tuple[int, str]] = []
    order: list[str] = []
    while sorter.is_active():
        for key in sorter.get_ready():
            heapq.heappush(ready, (place.get(key, -1), key))
        _, key = heapq.heappop(ready)
        sorter.done(key)
        if key in place:
            order.append(key)
    return tuple(order)


def restrict(after: Mapping[str, Collection[str]], keep: Collection[str]) -> dict[str, set[str]]:
    """The order among ``keep`` alone: where a step falls away, what came before it stays before what follows.

    Args:
        after: the whole partial order, without cycles.
        keep: keys that remain.

    Returns:
        For each kept key its direct predecessors among the kept ones.
    """
    kept = set(keep)
    closest: dict[str, set[str]] = {}
    for key in topological_order(after):
        found: set[str] = set()
        for before in after[key]:
            found |= {before} if before in kept else closest[before]
        closest[key] = found
    return {key: closest[key] for key in after if key in kept}
