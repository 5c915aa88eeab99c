"""The play-test by sound: a player plays a scale, and each note is judged by pitch, speaking, strength, breath, rest.

The player plays on, forward or back, skips or repeats; each note is known by its pitch. A note is judged against the
other notes of the same player on the same instrument: how sharp the whole is tuned, how loud and how breathy somebody
plays, says nothing about a pad.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from creekbed.core.airtight.pads import Played, Probe
from creekbed.core.catalogue.models.family import Transposition
from creekbed.core.catalogue.models.leaks import LeakTable
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.sound.following import meant
from creekbed.core.sound.notes import Event, NoteHeard, Tried
from creekbed.core.sound.tuned_length import Move, move_for, worth_it
from creekbed.core.sound.tuning import CLOCK_CENTS
from creekbed.core.strings.tension import pitch_hz

Real = NDArray[np.float64]
NoteFault = Literal["sharp", "flat", "slow", "weak", "breathy", "unsteady", "silent", "jumps"]
OFF_CENTS, PLAYER_CENTS = 20.0, 5.0
"""A note is out by more than so much from where the instrument lies, and a player bends it by so much (standard
uncertainty): house default."""
SLOW_S, SLOW_TIMES = 0.12, 2.5
"""A note is slow that takes so much longer to speak than the others, and so many times as long: house default."""
WEAK_DB, BREATHY_DB = 7.5, 6.0
"""A note is weak, or breathy, by so much against the good ones: house default."""
CLEAN_DB = -22.0
"""Less breath than that nobody hears: how much less makes no difference. House default."""
WIDE_OCTAVES, REGISTER_OCTAVES, FAR_DB = 1.7, 0.8, 4.5
"""Over more octaves an instrument has registers; notes within so many are of like strength and breath by nature, and
against all others so much more is allowed: house default."""
GOOD_SHARE = 0.3
"""So many of the notes are good at least, even over a leak high up: what is usual is read off them."""
UNSTEADY_CENTS = 18.0
"""A pitch that wanders by more is unsteady: house default."""
NEAR_CENTS = 65.0
"""A tone tells where the instrument lies when it is no further from a note: house default."""
MOST_EVENTS = 400
"""Somebody who plays for hours is judged by the last notes, so that judging stays quick: house default."""
LEAST_NOTES = 4
"""Fewer notes do not say where the whole instrument lies: house default."""
SURE_SILENT = 0.75
"""Breath alone makes a note silent where it was meant with this chance: house default."""


@dataclass(frozen=True)
class ScaleNote:
    """A note that is asked for.

    Attributes:
        written: as the player reads it, "A#3". hz: as it sounds.
    """

    written: str
    hz: float


def speaks_badly(faults: Collection[str]) -> bool:
    """Whether a note with these faults speaks as over a leak."""
    poor = sum(f in faults for f in ("slow", "weak", "breathy", "unsteady"))
    return "silent" in faults or "jumps" in faults or poor >= 2


@dataclass(frozen=True)
class NoteResult:
    """A note of the scale and how it played.

    Attributes:
        heard: the last time it was played; ``None``: it was not, or stayed silent.
        off_cents: above where the instrument lies as a whole. u_cents: standard uncertainty, with the player's.
    """

    note: ScaleNote
    heard: NoteHeard | None = None
    off_cents: float = 0.0
    u_cents: float = 0.0
    faults: tuple[NoteFault, ...] = ()

    @property
    def played(self) -> bool:
        """Somebody played or tried it."""
        return self.heard is not None or bool(self.faults)

    @property
    def stuffy(self) -> bool:
        """It speaks badly, as over a leak: silent, another register, or two of slow, weak, breathy and unsteady."""
        return speaks_badly(self.faults)


@dataclass(frozen=True)
class PlayTestResult:
    """A whole play-test.

    Attributes:
        notes: every note of the scale, in its order. lies_cents: where the instrument lies as a whole, above its pitch,
            warmth allowed for. u_lies_cents: standard uncertainty of that. others: tones that are no note of the scale.
    """

    notes: tuple[NoteResult, ...]
    lies_cents: float = 0.0
    u_lies_cents: float = 0.0
    others: int = 0

    @property
    def missing(self) -> tuple[NoteResult, ...]:
        """Notes that nobody played yet."""
        return tuple(n for n in self.notes if not n.played)

    @property
    def faulty(self) -> tuple[NoteResult, ...]:
        """Notes with something wrong."""
        return tuple(n for n in self.notes if n.faults)


EVERY_NOTES = 25
"""Two octaves: what lies above them asks for a player more than for the instrument: house default."""
SEMITONES = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")


def every_note(low: str, high: str) -> tuple[str, ...]:
    """The written notes from one to another by semitones, the lowest first: "A#3", "B3", "C4".

    Raises:
        BadInput: no notes, or the first is the higher one.
    """
    first, last = (round(69 + 12 * math.log2(pitch_hz(note) / 440.0)) for note in (low, high))
    if last <= first:
        raise BadInput(f"From {low} to {high} there are no notes.")
    return tuple(f"{SEMITONES[n % 12]}{n // 12 - 1}" for n in range(first, last + 1))


def scale_of(
    voice: Transposition, table: LeakTable | None, a4_hz: float, *, every: bool = False
) -> tuple[ScaleNote, ...]:
    """The notes that a play-test asks for, in their order; none where a family has neither scale nor table of pads.

    Args:
        voice: how the family sounds. table: its pads; its scale points to a leak. a4_hz: what the shop tunes to.
        every: each note of two octaves instead, the lowest that hold its scale.
    """
    written = voice.scale or (table.scale if table is not None else ())
    if written and every:
        notes = every_note(voice.low, voice.high)
        highest = max(notes.index(w) for w in written)
        start = max(0, highest + 1 - EVERY_NOTES)  # a horn's scale lies high in its range
        written = notes[start : start + EVERY_NOTES]
    return tuple(ScaleNote(w, pitch_hz(w, a4_hz) * 2 ** (voice.sounds / 12)) for w in written)


def move_of(voice: Transposition, result: PlayTestResult, celsius: float) -> Move | None:
    """How far its joint is moved so that it lies on its pitch; ``None`` where it has none, or that is not worth it.

    Args:
        celsius: of the air in it.
    """
    heard = [n.note.hz for n in result.notes if n.heard is not None and "jumps" not in n.faults]
    if voice.tuned is None or len(heard) < LEAST_NOTES:
        return None
    mode = voice.tuned.lowest_mode
    move = move_for(
        result.lies_cents, result.u_lies_cents, heard, quarter=voice.partials == "odd", celsius=celsius,
        legs=voice.tuned.legs, lowest_mode_hz=None if mode is None else pitch_hz(mode),
    )  # fmt: skip
    return move if worth_it(result.lies_cents, result.u_lies_cents, move) else None


def judged(scale: Sequence[ScaleNote], events: Sequence[Event], warmth: float = 0.0) -> PlayTestResult:
    """What a play-test says of every note of the scale.

    Args:
        scale: the notes that were asked for, in their order. events: what was heard, in the order of time; the last
            :data:`MOST_EVENTS` count. warmth: how far the air's warmth raises every note, cents.
    """
    events = events[-MOST_EVENTS:]
    hz = [note.hz for note in scale]
    sounds = [e.pitch.hz if isinstance(e, NoteHeard) else None for e in events]
    lies = _lies(scale, [s for s in sounds if s is not None], warmth)
    at: dict[int, NoteHeard] = {}
    jumped: dict[int, NoteHeard] = {}
    silent: set[int] = set()
    others = 0
    for event, found_to_be in zip(events, meant(hz, sounds, warmth + lies), strict=True):
        n = found_to_be.note
        if isinstance(event, Tried):
            if n is not None and found_to_be.chance >= SURE_SILENT:
                silent.add(n)
        elif n is None or found_to_be.leapt:
            others += 1
            if n is not None:
                jumped[n] = event
        else:
            at[n] = event
    jumped = {n: e for n, e in jumped.items() if n not in at}
    cents = {n: e.pitch.cents_from(scale[n].hz) - warmth for n, e in at.items()}
    lies, spread = _usual(list(cents.values()))
    found = []
    for n, note in enumerate(scale):
        if n in at:
            off = cents[n] - lies
            u = math.hypot(at[n].pitch.u_cents, CLOCK_CENTS, PLAYER_CENTS)
            found.append(NoteResult(note, at[n], off, u, _faults(n, at, off, u)))
        elif n in jumped:
            found.append(NoteResult(note, jumped[n], 0.0, 0.0, ("jumps",)))
        else:
            found.append(NoteResult(note, None, 0.0, 0.0, ("silent",) if n in silent else ()))
    u_lies = math.hypot(spread, PLAYER_CENTS) / math.sqrt(max(len(cents), 1))
    return PlayTestResult(tuple(found), lies, u_lies, others)


def _lies(scale: Sequence[ScaleNote], sounds_hz: Sequence[float], warmth: float) -> float:
    """Where the instrument lies, by the tones that are near a note at all, cents."""
    off = [min((1200 * math.log2(hz / n.hz) - warmth for n in scale), key=abs) for hz in sounds_hz]
    near = [c for c in off if abs(c) <= NEAR_CENTS]
    return float(np.median(near)) if len(near) >= 3 else 0.0


def _usual(cents: Sequence[float]) -> tuple[float, float]:
    """Where most notes lie, and the spread of those, cents: what is far out does not count.

    The middle of the shorter half, as notes that are out lie to one side; then the mean of what is near it.

    Source: least median of squares, P. J. Rousseeuw, J. Am. Stat. Assoc. 79, 871 (1984), recalled.
    """
    if not cents:
        return 0.0, 0.0
    rising = np.sort(np.asarray(cents, dtype=float))
    half = rising.size // 2 + 1
    widths = rising[half - 1 :] - rising[: rising.size - half + 1]
    at = int(widths.argmin())
    near = rising[np.abs(rising - (rising[at] + rising[at + half - 1]) / 2) <= OFF_CENTS]
    if not near.size:  # two notes that lie far apart
        near = rising[at : at + half]
    lies = float(near.mean())
    return lies, float(np.sqrt(np.mean((near - lies) ** 2)))


def _faults(n: int, at: dict[int, NoteHeard], off: float, u: float) -> tuple[NoteFault, ...]:
    """What is wrong with a note, against the other notes."""
    found: list[NoteFault] = []
    if abs(off) - 2 * u > OFF_CENTS:
        found.append("sharp" if off > 0 else "flat")
    if len(at) < 4:
        return tuple(found)
    mine = at[n]
    others = [e for k, e in at.items() if k != n]
    near = [e for e in others if abs(math.log2(e.pitch.hz / mine.pitch.hz)) <= REGISTER_OCTAVES]
    pitches = [e.pitch.hz for e in at.values()]
    wide = (
        math.log2(max(pitches) / min(pitches)) > WIDE_OCTAVES
    )  # registers differ: a note is held against its own first
    near, more_db = (near, FAR_DB) if wide and len(near) >= 4 else (others, 0.0)
    times = [e.speaks_s for e in others if e.speaks_s is not None]
    if mine.speaks_s is not None and len(times) >= 3:
        usual = float(np.quantile(times, GOOD_SHARE))
        if mine.speaks_s - usual > SLOW_S and mine.speaks_s > SLOW_TIMES * usual:
            found.append("slow")
    if any(
        float(np.quantile([e.level_db for e in rows], 1 - GOOD_SHARE)) - mine.level_db > WEAK_DB + more
        for rows, more in ((near, 0.0), (others, more_db))
    ):
        found.append("weak")
    if any(
        mine.breath_db - max(float(np.quantile([e.breath_db for e in rows], GOOD_SHARE)), CLEAN_DB) > BREATHY_DB + more
        for rows, more in ((near, 0.0), (others, more_db))
    ):
        found.append("breathy")
    if mine.pitch.wander_cents > max(UNSTEADY_CENTS, 3 * float(np.median([e.pitch.wander_cents for e in others]))):
        found.append("unsteady")
    return tuple(found)


def as_played(result: PlayTestResult, table: LeakTable) -> list[Played]:
    """The notes as the search for a leaking pad takes them: each of its scale that was played, good or not."""
    known = set(table.scale)
    return [Played(Probe(n.note.written), not n.stuffy) for n in result.notes if n.played and n.note.written in known]
