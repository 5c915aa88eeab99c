"""The play-test by sound of an instrument: what is asked for, what is kept, what has moved since it was last here."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from creekbed.core.catalogue.models.family import Family
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.records import Playing
from creekbed.workshop.bench.job_view import JobView, StepView
from creekbed.workshop.shop.shop import Shop

if TYPE_CHECKING:
    from creekbed.core.sound.play_test import PlayTestResult, ScaleNote

SHOWN = 3
"""So many earlier play-tests are compared with: house default."""


def scale_for(shop: Shop, family: Family, *, every: bool = False) -> tuple[ScaleNote, ...]:
    """The notes that a play-test of a family asks for, at the shop's pitch; none where it has none.

    Args:
        every: each note of two octaves instead of the scale that tells of its pads.
    """
    from creekbed.core.sound.play_test import scale_of  # the window opens without it

    if family.voice is None:
        return ()
    return scale_of(family.voice, shop.catalogue.leak_table(family), shop.catalogue.house.limits.a4_hz, every=every)


def wants_playing(view: JobView, step: StepView) -> bool:
    """Whether a step is a test in which a wind instrument is played."""
    return step.step.kind == "test" and step.step.base == "play" and view.family.voice is not None


def kept(shop: Shop, result: PlayTestResult, warmth_cents: float) -> dict[str, Any]:
    """What is kept of a play-test: every note that was played, or tried."""
    notes: dict[str, Any] = {}
    for note in result.notes:
        if not note.played:
            continue
        row: dict[str, Any] = {"faults": list(note.faults)}
        if note.heard is not None and "jumps" not in note.faults:
            row |= {"off": round(note.off_cents, 2), "u": round(note.u_cents, 2)}
        notes[note.note.written] = row
    return {
        "a4_hz": shop.catalogue.house.limits.a4_hz, "warmth_cents": round(warmth_cents, 2),
        "lies_cents": round(result.lies_cents, 2), "u_lies_cents": round(result.u_lies_cents, 2), "notes": notes,
    }  # fmt: skip


def earlier(shop: Shop, tag: str) -> list[Playing]:
    """The last play-tests of an instrument by sound, newest first."""
    with shop.reading() as records:
        return records.readable(Playing, newest=True, limit=SHOWN, tag=tag)


def heard_in_job(shop: Shop, view: JobView) -> list[tuple[str, bool]]:
    """Each note of the job's last play-test by sound, and whether it spoke well; none where there was none."""
    from creekbed.core.sound.play_test import speaks_badly

    last = next((p for p in earlier(shop, view.tag) if p.job_id == view.job.id), None)
    if last is None:
        return []
    return [(written, not speaks_badly(row.get("faults", ()))) for written, row in last.notes.items()]


@dataclass(frozen=True)
class Moved:
    """A note that has moved since an earlier play-test, beyond the doubt of both.

    Attributes:
        cents: by how much it is sharper now. u_cents: standard uncertainty of that.
    """

    written: str
    cents: float
    u_cents: float


def moved(result: PlayTestResult, before: Playing) -> list[Moved]:
    """The notes that lie otherwise than in an earlier play-test, by more than twice the doubt of both."""
    found = []
    for note in result.notes:
        then = before.notes.get(note.note.written, {})
        if note.heard is None or "off" not in then or "jumps" in note.faults:
            continue
        cents = note.off_cents - float(then["off"])
        u = math.hypot(note.u_cents, float(then["u"]))
        if abs(cents) > 2 * u:
            found.append(Moved(note.note.written, cents, u))
    return found


def curves(rows: Sequence[Playing]) -> list[tuple[str, dict[str, float]]]:
    """When each earlier play-test was, and how its notes lay: for the curve over the scale."""
    return [
        (row.at.astimezone().strftime("%d %b %Y"), {n: float(v["off"]) for n, v in row.notes.items() if "off" in v})
        for row in rows
    ]
