"""The way of the air through an instrument's valves: its family's, or what the shop has set for this one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from creekbed.core.errors import BadInput
from creekbed.core.inspection.valves import checked, way_words
from creekbed.store.records import Instrument
from creekbed.workshop.shop.shop import Shop

if TYPE_CHECKING:
    from creekbed.workshop.bench.job_view import JobView


def own_way(instrument: Instrument) -> tuple[int, ...]:
    """The way that the shop has set for an instrument; empty where it has set none, or one that cannot be."""
    try:
        return checked(tuple(int(c) for c in instrument.air_way)) if instrument.air_way else ()
    except (BadInput, TypeError, ValueError):
        return ()


def air_way(view: JobView) -> tuple[int, ...]:
    """Casings in the order in which the air meets them; empty where it has no piston valves."""
    own = own_way(view.instrument)
    return own if own and view.family.air_way else view.family.air_way


def set_air_way(shop: Shop, view: JobView, way: Sequence[int]) -> None:
    """Set the way for one instrument.

    Raises:
        BadInput: not each casing once, or an instrument without piston valves.
    """
    if not view.family.air_way:
        raise BadInput(f"A {view.family.noun} has no piston valves.")
    with shop.act("air_way") as act:
        instrument = act.records.get(Instrument, view.tag)
        if instrument is None:
            raise BadInput(f"{view.tag} is not on record.")
        act.records.update(instrument, air_way=list(checked(way)))
        act.tag, act.words = view.tag, f"{view.tag}: {way_words(tuple(way))}"
