"""Packing piece by piece: what lies in the case at the end is ticked then, against what goes out."""

from __future__ import annotations

from collections.abc import Collection

from creekbed.core.errors import BadInput, Refused
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.procedure.situation import IN_CASE
from creekbed.core.quick_dataclasses import dataclass
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.cleaning.part_states import stands


@dataclass(frozen=True)
class Piece:
    """A piece that goes into the case: its key in the list of contents, what it is called now, whether it is new."""

    key: str
    name: str
    new: bool = False


def pieces_to_pack(view: JobView) -> tuple[Piece, ...]:
    """Every piece that goes out, in the order of the list; what was thrown away and not made new is not among them."""
    parts = stands(view).parts
    of_item = {p.listed: p for p in view.family.part}
    from_stock = {p for s in _taken(view) if s.takes == "new" and s.supplies for p in s.touches}
    found = []
    for item in view.family.item:
        line, part = view.lines.get(item.key), of_item.get(item.key)
        if line is None or line.state not in IN_CASE or (part is not None and not parts[part.key].there):
            continue
        if part is not None and part.key in from_stock:
            found.append(Piece(item.key, f"{part.name}, new", new=True))
        else:
            found.append(Piece(item.key, item.name))
    return tuple(found)


def given_up(view: JobView) -> set[str]:
    """The parts that were thrown away in this job, or gave way to others: what was found of them is of no use now."""
    return {part for step in _taken(view) for part in step.touches}


def _taken(view: JobView) -> list[BuiltStep]:
    """The steps done that throw parts away or bring others."""
    return [s.step for s in view.steps if s.work is not None and s.work.state == "done" and s.step.takes]


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
