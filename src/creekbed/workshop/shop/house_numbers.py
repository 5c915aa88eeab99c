"""Numbers of the house that a shop is asked for: the pitch it tunes to, and how warm its room usually is."""

from __future__ import annotations

from creekbed.core.conventions import number, temperature
from creekbed.core.quick_dataclasses import dataclass
from creekbed.workshop.shop.own_values import set_house
from creekbed.workshop.shop.shop import Shop

PITCHES = (415.0, 440.0, 442.0)
"""A4 in Hz: early music (common practice, no source), ISO 16:1975, and many orchestras (common practice, no source)."""


@dataclass(frozen=True)
class HouseNumbers:
    """The pitch, Hz, and the room's temperature, °C."""

    a4_hz: float
    room_c: float


def house_numbers(shop: Shop) -> HouseNumbers:
    """What holds now."""
    limits = shop.catalogue.house.limits
    return HouseNumbers(limits.a4_hz, limits.room_c)


def set_house_numbers(shop: Shop, wanted: HouseNumbers) -> None:
    """Store them among the shop's own values; jobs that are open already are tuned to the new pitch too.

    Raises:
        BadData: a number that cannot be.
    """
    values: dict[tuple[str, ...], float] = {("limits", "a4_hz"): wanted.a4_hz, ("limits", "room_c"): wanted.room_c}
    words = f"Pitch: A4 = {number(wanted.a4_hz)} Hz; room usually {temperature(wanted.room_c)}"
    set_house(shop, values, words)
