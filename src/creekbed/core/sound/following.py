"""Which note of a scale each sound was meant to be: the likeliest way of a player through the scale.

A player goes on from note to note, forward or back, and seldom skips, repeats, turns round or begins elsewhere. A tone
is mostly near its note, sometimes far out, seldom in another register; breath alone may be a note that did not speak.
What all sounds together say decides each of them, so that one that is far out does not lead the next ones astray.

Source: a hidden Markov model, forward and backward: L. R. Rabiner, A tutorial on hidden Markov models, Proc. IEEE 77,
257 (1989), recalled. The chances: house default.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from creekbed.core.quick_dataclasses import dataclass

Real = NDArray[np.float64]
ON, REPEATED, SKIPPED, SKIPPED_MORE, ELSEWHERE = 0.84, 0.05, 0.03, 0.015, 0.025
"""Chances of what a player does next: the next note, the same again, one left out, two or three left out, anything
else: house default."""
TURNED, TURNED_TOO = 0.03, 0.01
"""Chances that a player turns round: back by one; from the same note, or with one left out: house default."""
BEGINS_AT_END, STOPS_AT_END = 0.8, 0.5
"""Chances that a scale is begun at one of its ends, and that what was heard last is the other: house default."""
NEAR_SHARE, NEAR_CENTS, FAR_CENTS = 0.93, 9.0, 38.0
"""A tone lies near its note so often, within so many cents (standard deviation); else it is out by so many: house
default."""
LEAP_SHARE, LEAP_CENTS = 0.02, 20.0
"""A tone sounds in another register so often, and is so far from it: house default."""
OTHER_SHARE, OTHER_SPAN_CENTS = 0.005, 2400.0
"""A tone is no note of the scale so often, and lies anywhere in so many cents: house default."""
SILENT_SHARE = 0.97
"""Breath alone is a note that did not speak so often, where it is its turn; else it is nothing: house default."""
FARTHEST_CENTS = 150.0
"""A tone further off than that was never meant to be the note."""
REGISTERS = (2.0, 3.0, 0.5)
"""What a tone in another register has, in times of its note."""


@dataclass(frozen=True)
class Meant:
    """What a sound was meant to be.

    Attributes:
        note: its likeliest place in the scale; ``None``: likelier no note of it. chance: that it was that one.
        leapt: it sounded in another register.
    """

    note: int | None
    chance: float = 1.0
    leapt: bool = False


def meant(scale_hz: Sequence[float], sounds_hz: Sequence[float | None], shift_cents: float = 0.0) -> list[Meant]:
    """What each sound was meant to be, by all that was heard before and after it.

    Args:
        scale_hz: the notes that were asked for, in their order, Hz. sounds_hz: what was heard, in the order of time;
            ``None``: breath alone. shift_cents: how far the whole instrument lies above its pitch.
    """
    count = len(scale_hz)
    if not count or not sounds_hz:
        return [Meant(None) for _ in sounds_hz]
    notes = 1200 * np.log2(np.asarray(scale_hz, dtype=float)) + shift_cents
    moves = _moves(count)
    heard = [_says(notes, hz) for hz in sounds_hz]
    now = np.zeros(2 * count + 1)
    now[-1] = 1.0  # nothing was played yet
    forward = [now]
    for says in heard:
        now = now @ moves * says.as_note + now * says.as_nothing
        now = now / now.sum()
        forward.append(now)
    later, found = _stops(count), []
    for before, says in zip(forward[-2::-1], reversed(heard), strict=True):
        ways = before @ moves * says.as_note * later
        nothing = float((before * says.as_nothing * later).sum())
        chances = (ways[:count] + ways[count:-1]) / (ways.sum() + nothing)
        note = int(chances.argmax())
        is_note = chances[note] > nothing / (ways.sum() + nothing)
        found.append(Meant(note, float(chances[note]), bool(says.leapt[note])) if is_note else Meant(None))
        later = moves @ (says.as_note * later) + says.as_nothing * later
        later = later / later.sum()
    return found[::-1]


@lru_cache(maxsize=8)
def _moves(count: int) -> Real:
    """Chance to come from each state to each; shape (2·count + 1, 2·count + 1).

    A state is a note with the way in which the player goes, forward, then backward; the last state: not begun.
    """
    steps = np.arange(count)[None, :] - np.arange(count)[:, None]
    elsewhere = ELSEWHERE / count
    ways = []
    for way in (1, -1):
        on = steps * way
        same = np.select(
            [on == 1, on == 0, on == 2, (on == 3) | (on == 4)], [ON, REPEATED, SKIPPED, SKIPPED_MORE / 2], elsewhere
        )
        other = np.select([on == -1, (on == 0) | (on == -2)], [TURNED, TURNED_TOO / 2], elsewhere)
        ways.append(np.hstack([same, other] if way == 1 else [other, same]))
    begins = np.full(2 * count, (1 - BEGINS_AT_END) / (2 * count))
    begins[0] += BEGINS_AT_END * 0.75  # forward from the first note
    begins[2 * count - 1] += BEGINS_AT_END * 0.25
    found = np.vstack([*ways, begins])
    return np.hstack([found, np.zeros((2 * count + 1, 1))])


def _stops(count: int) -> Real:
    """Chance to stop in each state: at the end that the player went to, or anywhere."""
    found = np.full(2 * count + 1, (1 - STOPS_AT_END) / (2 * count))
    found[[count - 1, count]] += STOPS_AT_END / 2
    return found


@dataclass(frozen=True)
class _Says:
    """Chances of a sound in each state, as no note, and whether it would be in another register of each note."""

    as_note: Real
    as_nothing: float
    leapt: NDArray[np.bool_]


def _says(notes: Real, hz: float | None) -> _Says:
    if hz is None:
        return _Says(np.full(2 * notes.size + 1, SILENT_SHARE), 1 - SILENT_SHARE, np.zeros(notes.size, dtype=bool))
    off = 1200 * np.log2(hz) - notes
    near = NEAR_SHARE * _normal(off, NEAR_CENTS) + (1 - NEAR_SHARE - LEAP_SHARE) * _normal(off, FAR_CENTS)
    near = np.where(np.abs(off) <= FARTHEST_CENTS, near, 0.0)
    leap = sum(_normal(off - 1200 * np.log2(times), LEAP_CENTS) for times in REGISTERS) * LEAP_SHARE / len(REGISTERS)
    chances = (1 - OTHER_SHARE) * (near + leap)
    return _Says(np.append(np.tile(chances, 2), 0.0), OTHER_SHARE / OTHER_SPAN_CENTS, np.asarray(leap > near))


def _normal(off: Real, spread: float) -> Real:
    return np.asarray(np.exp(-0.5 * (off / spread) ** 2) / (spread * np.sqrt(2 * np.pi)))
