"""Partial orders: a stable topological order, the cycle when there is none, and the order of what is left."""

from __future__ import annotations

import heapq
from collections.abc import Collection, Mapping


def topological_order(after: Mapping[str, Collection[str]]) -> list[str]:
    """An order in which each key comes after those it names; ties keep the order of the mapping.

    Raises:
        ValueError: there is a cycle; the message names it.
    """
    keys = list(after)
    place = {key: n for n, key in enumerate(keys)}
    waits = [0] * len(keys)
    then: list[list[int]] = [[] for _ in keys]
    for n, key in enumerate(keys):
        for before in set(after[key]):
            waits[n] += 1
            if before in place:
                then[place[before]].append(n)
    ready = [n for n, count in enumerate(waits) if not count]
    order: list[str] = []
    while ready:
        n = heapq.heappop(ready)
        order.append(keys[n])
        for following in then[n]:
            waits[following] -= 1
            if not waits[following]:
                heapq.heappush(ready, following)
    if len(order) < len(keys):
        raise ValueError("the order goes round in a circle: " + " after ".join(_cycle(after, set(order))))
    return order


def _cycle(after: Mapping[str, Collection[str]], done: set[str]) -> list[str]:
    here = next(k for k in after if k not in done)
    path: list[str] = []
    while here not in path:
        path.append(here)
        here = next(b for b in after[here] if b not in done)
    return [*path[path.index(here) :], here]


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
