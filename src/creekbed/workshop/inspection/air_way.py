"""The way of the air through an instrument's valves: its family's, or what the shop has set for this one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from creekbed.core.errors import BadInput
from creekbed.core.inspection.valves import checked, way_words
from creekbed.workshop.shop.shop import Shop, one_change
from creekbed.workshop.shop.stored import readable

if TYPE_CHECKING:
    from creekbed.workshop.bench.job_view import JobView

SETTING = "air_way"


def air_way(shop: Shop, view: JobView) -> tuple[int, ...]:
    """Casings in the order in which the air meets them; empty where it has no piston valves."""
    own = own_ways(shop.setting(SETTING)).get(view.tag)
    return own if own and view.family.air_way else view.family.air_way


def own_ways(value: Any) -> dict[str, tuple[int, ...]]:
    """Tag: way, from the stored setting; what cannot be is passed by."""
    return readable(value, lambda way: checked(tuple(int(c) for c in way)))


@one_change
def set_air_way(shop: Shop, view: JobView, way: Sequence[int]) -> None:
    """Set the way for one instrument.

    Raises:
        BadInput: not each casing once, or an instrument without piston valves.
    """
    if not view.family.air_way:
        raise BadInput(f"A {view.family.noun} has no piston valves.")
    own = dict(shop.setting(SETTING) or {})
    own[view.tag] = list(checked(way))
    shop.set_setting(SETTING, own, f"{view.tag}: {way_words(tuple(way))}")
