"""Packing piece by piece: what lies in the case at the end is ticked then, against what goes out."""

from __future__ import annotations

from collections.abc import Collection

from creekbed.core.errors import BadInput, Refused
from creekbed.core.quick_dataclasses import dataclass
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.cleaning.part_states import stands

IN_CASE = ("present", "worn", "replaced")
"""States of a piece that was ticked and is there."""


@dataclass(frozen=True)
class Piece:
    """A piece that goes into the case: its key in the list of contents, and what it is called now."""

    key: str
    name: str


def pieces_to_pack(view: JobView) -> tuple[Piece, ...]:
    """Every piece that goes out, in the order of the list; what was thrown away and not made new is not among them."""
    parts = stands(view).parts
    of_item = {p.item or p.key: p for p in view.family.part}
    renewed = {p for s in view.steps if s.step.takes == "new" and s.work is not None for p in s.step.touches}
    found = []
    for item in view.family.item:
        line, part = view.lines.get(item.key), of_item.get(item.key)
        if line is None or line.state not in IN_CASE or (part is not None and not parts[part.key].there):
            continue
        new = part is not None and part.key in renewed
        found.append(Piece(item.key, f"{part.name}, new" if part is not None and new else item.name))
    return tuple(found)


def need_packed(view: JobView, packed: Collection[str]) -> list[str]:
    """The keys of what was packed, in the order of the list.

    Raises:
        BadInput: a piece that does not go out with it. Refused: one that does is not in the case.
    """
    wanted = pieces_to_pack(view)
    if unknown := set(packed) - {p.key for p in wanted}:
        raise BadInput(f"That does not go out with it: {', '.join(sorted(unknown))}.")
    if missing := [p.name for p in wanted if p.key not in packed]:
        raise Refused(f"Not in the case yet: {', '.join(missing)}.", todo="Put each piece in, and say so.")
    return [p.key for p in wanted]
