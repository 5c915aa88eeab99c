"""What the play-test by sound heard, in words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from creekbed.core.catalogue.models.family import Transposition
from creekbed.core.conventions import number
from creekbed.core.sound.play_test import NoteFault, NoteResult, PlayTestResult, move_of
from creekbed.core.units import show

FAULTS: dict[NoteFault, str] = {
    "sharp": "sharp", "flat": "flat", "slow": "slow to speak", "weak": "weak", "breathy": "breathy",
    "unsteady": "unsteady", "silent": "silent", "jumps": "jumps to another register",
}  # fmt: skip
MUCH_CENTS = 40.0
"""An instrument that lies further off as a whole is put together or tuned otherwise than meant: house default."""


def note_words(written: str) -> str:
    """A written note as winds say it: "B flat 3" for "A#3", "F sharp 4" for "F#4"."""
    letter, sign, octave = written[0], written[1:-1], written[-1]
    if sign == "#" and letter in "ADG":  # players of winds say these with their flat names
        return f"{'BEA'['ADG'.index(letter)]} flat {octave}"
    return f"{letter} {'sharp' if sign == '#' else 'flat'} {octave}" if sign else written


def faults_words(result: NoteResult) -> str:
    """What is wrong with a note: "23 cents sharp, weak"; "" if nothing is."""
    found = []
    for fault in result.faults:
        if fault in ("sharp", "flat"):
            found.append(f"{number(abs(result.off_cents), 0)} cents {FAULTS[fault]}")
        else:
            found.append(FAULTS[fault])
    return ", ".join(found)


def lies_words(result: PlayTestResult) -> str:
    """Where the instrument lies as a whole."""
    size = number(abs(result.lies_cents), 0)
    if size == "0":
        return "As a whole it lies on its pitch."
    way = "sharp" if result.lies_cents > 0 else "flat"
    words = f"As a whole it lies {size} {'cent' if size == '1' else 'cents'} {way}"
    if abs(result.lies_cents) > MUCH_CENTS:
        return f"{words}: is it put together as it should be, and is it the right instrument?"
    return f"{words}: that is where the mouthpiece or the tuning slide stands."


def move_words(voice: Transposition, result: PlayTestResult, celsius: float) -> str:
    """How far its mouthpiece, barrel or slide is moved so that it lies on its pitch; "" where that is not worth it.

    Args:
        celsius: of the air in it.
    """
    move = move_of(voice, result, celsius)
    if move is None or voice.tuned is None:
        return ""
    size, u = abs(move.mm), 2 * move.u_mm
    said, least, most = (show(mm, "millimeter", 0) for mm in (size, max(size - u, 0.0), size + u))
    way = "Pull {} out" if move.mm > 0 else "Push {} in"
    return f"{way.format(voice.tuned.what)} by about {said} ({least} to {most}), then play it again."


REED_FIRST = (
    "Look at the reed first: in the middle at tip and butt, a hairline of the mouthpiece above it. "
    "Inspect measures both in a photograph."
)
"""Said with notes that speak badly on a single reed: one that stands aside does what a leaking pad does."""
LONGEST_REASON = 190
"""Characters of a reason that is put on record, with room to spare."""


def failed_words(result: PlayTestResult) -> str:
    """Why a play-test fails, short enough for a finding: the stuffy notes together, then each other one."""
    stuffy = [note_words(n.note.written) for n in result.faulty if n.stuffy]
    said = [f"{', '.join(stuffy)}: {'speak' if len(stuffy) > 1 else 'speaks'} badly"] if stuffy else []
    said += [f"{note_words(n.note.written)}: {faults_words(n)}" for n in result.faulty if not n.stuffy]
    words = "; ".join(said)
    while len(words) > LONGEST_REASON and len(said) > 1:
        said.pop()
        words = f"{'; '.join(said)}; and others"
    return words


def kept_words(lies_cents: float, notes: Mapping[str, Mapping[str, Any]]) -> str:
    """A play-test that is on record, in a line.

    Args:
        notes: written note → {"off": cents, "faults": list}.
    """
    size = number(abs(lies_cents), 0)
    lies = "on its pitch" if size == "0" else f"{size} cents {'sharp' if lies_cents > 0 else 'flat'} as a whole"
    poor = [
        f"{note_words(written)} {', '.join(FAULTS.get(f, f) for f in row['faults'])}"
        for written, row in notes.items()
        if row.get("faults")
    ]
    return f"{len(notes)} notes, {lies}; {'; '.join(poor) or 'none stood out'}"


def result_words(result: PlayTestResult) -> str:
    """The whole play-test in a few sentences."""
    if not any(n.played for n in result.notes):
        return "No note of the scale was heard."
    said = [lies_words(result)]
    if result.faulty:
        said.append("; ".join(f"{note_words(n.note.written)}: {faults_words(n)}" for n in result.faulty) + ".")
    else:
        said.append("Every note that was played is as good as its neighbours.")
    if result.missing:
        said.append(f"Not played: {', '.join(note_words(n.note.written) for n in result.missing)}.")
    return " ".join(said)
