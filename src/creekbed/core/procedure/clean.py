"""The order that keeps clean things clean, worked out from what each step does to its parts.

Nothing here is written in a family's file: a swab comes before a wash and a wash before a disinfectant; dirty work ends
before hands are washed and clean work begins after it; nobody reaches for what lies in a bath, a contact time or on a
rack. Between two steps of one stage the order of the file decides. Hands on the same piece at the same moment are the
planner's to keep apart.

Coming after a step is one thing, waiting for its wait another: hands are washed after the last dirty deed, while what
it wetted still dries. A wait is waited for by what takes it up, by what needs a piece that lies there, by what the
file names after it, and by packing.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from creekbed.core.catalogue.models.base import STAGES
from creekbed.core.catalogue.models.steps import Step
from creekbed.core.quick_dataclasses import dataclass


class _Order:
    """A partial order that grows; a pair that would close a circle is not added."""

    def __init__(self, after: Mapping[str, set[str]]):
        self.after = {key: set(before) for key, before in after.items()}
        self.bit = {key: 1 << n for n, key in enumerate(after)}
        self.before: dict[str, int] = {}
        for key in after:
            self._reach(key)

    def _reach(self, key: str) -> int:
        if key not in self.before:
            found = 0
            for b in self.after[key]:
                found |= self.bit[b] | self._reach(b)
            self.before[key] = found
        return self.before[key]

    def has(self, first: str, then: str) -> bool:
        """Whether one comes before the other already."""
        return bool(self.before[then] & self.bit[first])

    def all_before(self, key: str) -> set[str]:
        """Everything that comes before a step, directly or not."""
        return {k for k, bit in self.bit.items() if self.before[key] & bit}

    def put(self, first: str, then: str) -> None:
        """Put one before the other, where no rule says otherwise."""
        if first == then or self.has(first, then) or self.has(then, first):
            return
        self.after[then].add(first)
        new = self.bit[first] | self.before[first]
        for key, before in self.before.items():
            if key == then or before & self.bit[then]:
                self.before[key] = before | new


@dataclass(frozen=True)
class CleanOrder:
    """The partial order of a job's steps.

    Attributes:
        after: step → what it comes directly after, and each step whose wait it waits for.
        deeds: step → those of them whose wait may still run.
    """

    after: Mapping[str, set[str]]
    deeds: Mapping[str, set[str]]


def clean_order(
    steps: Sequence[Step], after: Mapping[str, set[str]], pieces: Mapping[str, frozenset[str]]
) -> CleanOrder:
    """The partial order of a job's steps with all that follows from what is clean and what lies somewhere.

    Args:
        steps: of the job. after: what the files say, among these steps, without cycles.
        pieces: step → the pieces that it touches, with those that its moves move.

    Returns:
        The order; rules that contradict the files are left out.
    """
    order = _Order(after)
    for first, then in _rules(steps, pieces):
        order.put(first, then)
    for first, then in _reach(steps, pieces, order):
        order.put(first, then)
    waits = [s for s in steps if s.wait is not None]
    deeds: dict[str, set[str]] = {}
    for step in steps:
        before = order.all_before(step.key)
        over = {w.key for w in waits if w.key in before and _waits_for(step, w, after, pieces)}
        order.after[step.key] |= over
        deeds[step.key] = {w.key for w in waits if w.key in order.after[step.key]} - over
    return CleanOrder(order.after, deeds)


def _waits_for(step: Step, lying: Step, after: Mapping[str, set[str]], pieces: Mapping[str, frozenset[str]]) -> bool:
    """Whether a step that comes after another waits until its wait is over too."""
    if step.ends == lying.key or step.kind == "pack" or lying.key in after[step.key]:
        return True
    return bool(pieces[step.key] & pieces[lying.key])


def _rules(steps: Sequence[Step], pieces: Mapping[str, frozenset[str]]) -> Iterator[tuple[str, str]]:
    ended_clean = {s.ends for s in steps if s.ends and s.hands_side == "clean"}
    for hands in (s for s in steps if s.kind == "hands"):
        for dirty in (s for s in steps if s.hands_side == "dirty"):
            bounded = dirty.wait is not None and dirty.wait.max_minutes is not None
            if not (bounded and dirty.key in ended_clean):  # else washing hands would have to fit into its longest time
                yield dirty.key, hands.key
        yield from ((hands.key, s.key) for s in steps if s.hands_side == "clean")
    for pack in (s for s in steps if s.kind == "pack"):
        # nothing is done to a closed case
        yield from ((s.key, pack.key) for s in steps if s.kind not in ("mix", "send"))
    ended = {s.ends for s in steps if s.ends}
    wet = [s for s in steps if s.cleans in ("wash", "disinfect") or _bathes(s, ended)]
    washing = {s.key for s in wet}
    for wash in wet:
        for other in steps:
            if (
                other.key in washing
                or other.ends
                or other.hands_side != "dirty"
                or not pieces[other.key] & pieces[wash.key]
            ):
                continue
            yield other.key, wash.key  # what wipes or brushes it as it came comes first
    for wash in (s for s in steps if s.cleans == "wash"):
        for later in steps:
            disinfects = later.cleans == "disinfect" or _disinfects(later, steps)
            if disinfects and pieces[later.key] & pieces[wash.key]:
                yield wash.key, later.key


def _bathes(step: Step, ended: set[str]) -> bool:
    """Whether it lays its parts into something wet, to be cleaned when that is over."""
    return step.wait is not None and step.key in ended and bool(step.agents)


def _disinfects(step: Step, steps: Sequence[Step]) -> bool:
    """Whether it begins the contact time that a disinfecting step ends."""
    return step.wait is not None and any(s.ends == step.key and s.cleans == "disinfect" for s in steps)


def _reach(steps: Sequence[Step], pieces: Mapping[str, frozenset[str]], order: _Order) -> Iterator[tuple[str, str]]:
    """Keep other steps off what lies somewhere until it is taken up."""
    ender = {s.ends: s.key for s in steps if s.ends}
    place = {s.key: n for n, s in enumerate(steps)}
    for lying in (s for s in steps if s.wait is not None and pieces[s.key]):
        up = ender.get(lying.key, lying.key)
        for other in steps:
            if other.key in (lying.key, up) or not pieces[other.key] & pieces[lying.key]:
                continue
            if lying.quarantine and not other.quarantine:  # that is treated first
                yield up, other.key
                continue
            if order.has(other.key, lying.key):
                continue
            if order.has(lying.key, other.key):
                yield up, other.key
                continue
            here, there = STAGES.index(other.stage), STAGES.index(lying.stage)
            before = place[other.key] < place[lying.key] if here == there else here < there
            yield (other.key, lying.key) if before else (up, other.key)
