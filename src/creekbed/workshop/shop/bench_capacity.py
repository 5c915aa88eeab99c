"""Capacity of the places and opening hours: what the shop may change, kept with its own values."""

from __future__ import annotations

import itertools
from collections.abc import Mapping
from typing import Any

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.words.calendar import DAYS, SHUT, spans_words
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.shop.staff import read_hours

MOST = 60
"""More room than this in one place is a slip of the hand: house default."""


@dataclass(frozen=True)
class Room:
    """A place's room, and what it is where the shop has said nothing of its own.

    Attributes:
        holds: how many small alike things share one unit of it.
    """

    key: str
    name: str
    capacity: int
    holds: int
    ships: int


def rooms(shop: Shop) -> tuple[Room, ...]:
    """Every place of the bench."""
    shipped = {p.key: p.capacity for p in shop.catalogue_without_values().house.place}
    places = shop.catalogue.house.place
    return tuple(Room(p.key, p.name, p.capacity, p.holds, shipped.get(p.key, p.capacity)) for p in places)


def opening(shop: Shop) -> tuple[str, ...]:
    """When the bench is open, Monday first, in the words in which it can be typed."""
    hours = shop.catalogue.house.hours.open
    return tuple(spans_words(hours.get(str(n), ())) for n in range(7))


def own(shop: Shop) -> list[str]:
    """Places and hours that are this shop's own, in words."""
    shipped = shop.catalogue_without_values().house.hours.open
    found = [f"{r.name} {r.capacity}" for r in rooms(shop) if r.capacity != r.ships]
    return found + [f"{DAYS[n]} {w}" for n, w in enumerate(opening(shop)) if w != spans_words(shipped.get(str(n), ()))]


def read_opening(text: str) -> list[list[float]]:
    """The opening of a day as typed: "8:30-12, 13-17", "shut" or nothing.

    Raises:
        BadInput: no hours, or a stretch that begins before the one before it is over.
    """
    if not text.strip() or text.strip().lower() == SHUT:
        return []
    found = [list(read_hours(part)) for part in text.split(",")]
    if any(b[0] < a[1] for a, b in itertools.pairwise(found)):
        raise BadInput("These hours are not one after the other.", todo="Such as 8:30-12, 13-17.")
    return found


def change(shop: Shop, room: Mapping[str, int], hours: Mapping[int, str]) -> list[str]:
    """Change the room of places and the opening of days; what stays as it is may be named too.

    Args:
        room: place → how much room. hours: weekday from 0 → its opening as typed.

    Returns:
        What has changed, in words.

    Raises:
        BadInput: no number of places, or no hours; nothing was changed.
    """
    from creekbed.workshop.shop.own_values import (
        set_house,  # it writes files of the shop: only who changes them needs that
    )

    values: dict[tuple[str, ...], Any] = {}
    told = []
    for place in rooms(shop):
        wanted = room.get(place.key, place.capacity)
        if not 1 <= wanted <= MOST:
            raise BadInput(f"{place.name.capitalize()}: {wanted} is no room.", todo=f"From 1 to {MOST}.")
        if wanted != place.capacity:
            values["place", place.key, "capacity"] = None if wanted == place.ships else wanted
            told.append(f"{place.name} {wanted}")
    shipped = shop.catalogue_without_values().house.hours.open
    now = opening(shop)
    for day, text in hours.items():
        spans = read_opening(text)
        if spans_words(spans) != now[day]:
            same = [list(s) for s in shipped.get(str(day), ())] == spans
            values["hours", "open", str(day)] = None if same else spans
            told.append(f"{DAYS[day]} {spans_words(spans)}")
    if not any(read_opening(hours.get(n, now[n])) for n in range(7)):
        raise BadInput("The bench would never be open.", todo="Leave at least one day.")
    if values:
        set_house(shop, values, f"Places and hours: {', '.join(told)}")
    return told
