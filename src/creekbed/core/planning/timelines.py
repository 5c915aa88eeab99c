"""Time in whole units, scheduled operations, and when people and places are free."""

from __future__ import annotations

import bisect
import itertools
import math
from dataclasses import dataclass, field

from creekbed.core.planning.model import (
    Operation,
    PlanPerson,
)
from creekbed.core.planning.place_capacity import ONE, Piece, taken

UNIT = 10
"""Steps of a minute in which times are counted here."""

NEVER = 10**9

BREAK_MIN = 120.0
"""A longer pause between hours is no break, minutes: house default."""


def up(minutes: float) -> int:
    """Minutes as tenths, rounded up."""
    return math.ceil(minutes * UNIT - 1e-6)


def down(minutes: float) -> int:
    """Minutes as tenths, rounded down."""
    return math.floor(minutes * UNIT + 1e-6)


@dataclass
class ScheduledOperation:
    """One operation with its ties, by number; times in tenths of a minute, lengths rounded up.

    ``length`` of the hands, ``wait`` at least after them, ``most``: latest start of what ends it, after the hands.
    Where it sets up something that others use too, the length is ``full`` or ``again``. ``whole``: ``most`` without
    what is kept in spare.
    """

    n: int
    job: int
    op: Operation
    before: list[int]
    deeds: frozenset[int]
    """Those of ``before`` whose wait may still run."""
    ready: int
    """Release and running waits; what comes before is added when it is placed."""
    length: int
    wait: int
    most: int | None
    ends: int = -1
    ender: int = -1
    rivals: list[int] = field(default_factory=list)
    """Others of its job that want the same piece of the instrument, and are kept apart by no order."""
    behind: int = -1
    """The one that ends a wait in which a piece that it wants lies now, by number."""
    tail: int = 0
    people: list[int] = field(default_factory=list)
    set_to: int = 0
    """Its earliest start where somebody set it to a time; ``people`` tells in whose hands."""
    start: int = -1
    person: int = -1
    full: int = field(init=False)
    again: int = field(init=False)
    able: list[int] = field(init=False)
    """Who can do it, whoever it was given to."""
    whole: int | None = field(init=False)
    piece: Piece = field(init=False)

    def __post_init__(self) -> None:
        self.able = self.people
        self.full, self.whole = self.length, self.most
        self.piece = ONE if self.op.piece == ONE else self.op.piece  # the one there is, by which places know it quickly
        self.again = up(self.op.again_min) if self.op.shares else self.length

    def lag(self, before: ScheduledOperation) -> int:
        """What must pass between the hands of one before it and its own, tenths."""
        return 0 if before.n in self.deeds else before.wait

    @property
    def limit(self) -> int | None:
        """Latest start of what ends its wait, after its own start; ``None``: no limit."""
        return None if self.most is None else self.length + self.most

    @property
    def minutes(self) -> float:
        """Its true hands-on minutes, with or without the setting up."""
        return self.op.again_min if self.op.shares and self.length == self.again else self.op.hands_min

    @property
    def end(self) -> int:
        """When its hands let go."""
        return self.start + self.length

    @property
    def late(self) -> int:
        """1 where its hands begin within their first tenth, because their length is no whole number of tenths."""
        return int(self.length > self.minutes * UNIT + 1e-6)

    @property
    def holds(self) -> bool:
        """Whether its wait takes a place."""
        return self.op.holds


class PersonTimeline:
    """One person's hours and what they are busy with; work without a pause is one piece here.

    Args:
        grace: so far beyond the end of their hours runs what begins before it, tenths.
    """

    def __init__(self, person: PlanPerson, grace: int = 0):
        self.windows = [(up(a), down(b)) for a, b in person.windows]
        self.grace = grace
        self.ends = [b + grace for _, b in self.windows]
        self.last = up(person.windows[-1][1]) if person.windows else 0
        self.homes = [b for (_, b), (a, _) in itertools.pairwise(self.windows) if a - b > BREAK_MIN * UNIT]
        """When they go home: a break they can begin a little later."""
        self.busy: list[tuple[int, int]] = []
        self.front = 0

    def next(self, at: int, length: int) -> int:
        """Earliest start from a time on at which a piece of this length fits in the hours, beside what is there.

        What takes no hands, because it stands ready, fits beside anything.
        """
        if not length:
            return self.opens(at, 0)
        busy = self.busy
        n = bisect.bisect_left(busy, (at,))
        if n and busy[n - 1][1] > at:
            at = busy[n - 1][1]
        count, closes = len(busy), -1
        while True:
            if at + length > closes:
                at, closes = self._open(at, length)
                while n < count and busy[n][1] <= at:
                    n += 1
            if n == count or at + length <= busy[n][0]:
                return at
            at = busy[n][1]
            n += 1

    def opens(self, at: int, length: int) -> int:
        """Earliest start from a time on at which a piece of this length fits in the hours, whatever is there."""
        return self._open(at, length)[0]

    def _open(self, at: int, length: int) -> tuple[int, int]:
        """The same, and by when a piece that begins later must be over to lie in the same hours."""
        windows = self.windows
        for n in range(bisect.bisect_left(self.ends, at + length), len(windows)):
            a, b = windows[n]
            begin = at if at > a else a
            if begin + length <= b + self.grace and (begin < b or begin + length <= b):
                return begin, b
        return max(at, self.last), NEVER

    def gap(self, at: int) -> int:
        """How long they are free from a moment on; 0 where they are not."""
        n = bisect.bisect_right(self.busy, (at, NEVER))
        if n and self.busy[n - 1][1] > at:
            return 0
        end = next((b for a, b in self.windows if a <= at < b), NEVER if at >= self.last else at)
        return min(end, self.busy[n][0] if n < len(self.busy) else NEVER) - at

    def take(self, start: int, end: int) -> None:
        """Mark them busy from start to end."""
        if start >= end:
            return
        busy = self.busy
        n = bisect.bisect_left(busy, (start,))
        if n and busy[n - 1][1] >= start:
            n -= 1
            start = busy[n][0]
        m = n
        while m < len(busy) and busy[m][0] <= end:
            end = max(end, busy[m][1])
            m += 1
        busy[n:m] = [(start, end)]

    def give(self, start: int, end: int) -> None:
        """Mark them free again from start to end."""
        if start >= end:
            return
        n = bisect.bisect_right(self.busy, (start, NEVER)) - 1
        a, b = self.busy[n]
        self.busy[n : n + 1] = [(x, y) for x, y in ((a, start), (end, b)) if x < y]


class PlaceTimeline:
    """What lies in a place, and until when."""

    def __init__(self, capacity: int, holds: int = 1):
        self.capacity, self.holds = capacity, holds
        self.held: dict[int, tuple[int, int]] = {}
        self._by_end: list[tuple[int, int, int]] = []
        """The same, what leaves first before the others: end, start, token."""
        self.pieces: dict[int, Piece] = {}
        """What lies there that is not of usual size and by itself."""

    def put(self, token: int, start: int, end: int, piece: Piece = ONE) -> None:
        """Put something there from start to end."""
        self.take_away(token)
        self.held[token] = (start, end)
        bisect.insort(self._by_end, (end, start, token))
        if piece != ONE:
            self.pieces[token] = piece

    def until(self, token: int, end: int) -> None:
        """Change when something is taken away, if it lies there."""
        there = self.held.get(token)
        if there is not None:
            self.take_away(token)
            self.held[token] = (there[0], end)
            bisect.insort(self._by_end, (end, there[0], token))

    def take_away(self, token: int) -> None:
        """Take something away, if it lies there."""
        there = self.held.pop(token, None)
        if there is not None:
            del self._by_end[bisect.bisect_left(self._by_end, (there[1], there[0], token))]

    def state(self) -> PlaceState:
        """What lies there, to be restored."""
        return dict(self.held), list(self._by_end), dict(self.pieces)

    def restore(self, state: PlaceState) -> None:
        """Restore what lay there then."""
        held, by_end, pieces = state
        self.held, self._by_end, self.pieces = dict(held), list(by_end), dict(pieces)

    def fits(self, start: int, end: int, leaving: int = -1, piece: Piece = ONE) -> bool:
        """Whether one more may lie there from start to end."""
        if self.pieces or piece is not ONE:
            return self._takes(piece, start, end, leaving)
        rows = self._between(start, end, leaving)
        if len(rows) < self.capacity:
            return True
        for at in [start, *(a for _, a, _ in rows if a > start)]:
            if sum(a <= at < b for b, a, _ in rows) >= self.capacity:
                return False
        return True

    def _between(self, start: int, end: int, leaving: int) -> list[tuple[int, int, int]]:
        """What lies there at some time between start and end, but for what leaves: end, start, token."""
        first = bisect.bisect_left(self._by_end, (start + 1,))
        return [row for row in self._by_end[first:] if row[1] < end and row[2] != leaving]

    def _takes(self, piece: Piece, start: int, end: int, leaving: int) -> bool:
        """The same where not everything is of one size."""
        rows = self._between(start, end, leaving)
        for at in [start, *(a for _, a, _ in rows if a > start)]:
            there = [self.pieces.get(k, ONE) for b, a, k in rows if a <= at < b]
            if taken((piece, *there), self.capacity, self.holds) > self.capacity:
                return False
        return True

    def after(self, at: int) -> int:
        """The next moment after a time at which something leaves; ``NEVER`` where nothing does."""
        first = bisect.bisect_left(self._by_end, (at + 1,))
        return self._by_end[first][0] if first < len(self._by_end) else NEVER


PlaceState = tuple[dict[int, tuple[int, int]], list[tuple[int, int, int]], dict[int, Piece]]
"""What lies in a place."""
