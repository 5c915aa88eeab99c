"""What is known of one instrument beside its work: serial number, what it cost, its photographs."""

from __future__ import annotations

from datetime import date

from creekbed.core.errors import BadInput, Refused
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.text import line
from creekbed.store.records import Instrument, Photo
from creekbed.workshop.arrival.photos import PhotoView, view_of_photo
from creekbed.workshop.inspection.recordings import RecordingView, recordings_in
from creekbed.workshop.shop.shop import Shop

MOST_PHOTOS, MOST_SOUNDS = 12, 6
"""So many of the newest photographs and sounds are shown: house default."""


@dataclass(frozen=True)
class InstrumentDetails:
    """What is known of an instrument.

    Attributes:
        serial: of its maker. bought_on: ``None`` if not known. cost: in the shop's money. photos, sounds: the newest
            first.
    """

    tag: str
    serial: str
    bought_on: date | None
    cost: float | None
    photos: tuple[PhotoView, ...] = ()
    sounds: tuple[RecordingView, ...] = ()


def details_of(shop: Shop, tag: str) -> InstrumentDetails:
    """What is on record.

    Raises:
        Refused: no such instrument is known.
    """
    with shop.reading() as records:
        found = records.get(Instrument, tag)
        if found is None:
            raise Refused(f"No instrument {tag} is known here.")
        photos = sorted(records.readable(Photo, tag=tag), key=lambda p: p.taken_at, reverse=True)[:MOST_PHOTOS]
        sounds = recordings_in(records, tag)[:MOST_SOUNDS]
    bought = date.fromisoformat(found.bought_on) if found.bought_on else None
    shown = tuple(view_of_photo(p) for p in photos)
    return InstrumentDetails(tag, found.serial, bought, found.cost, shown, tuple(sounds))


def set_details(shop: Shop, tag: str, *, serial: str, bought_on: date | None, cost: float | None) -> None:
    """Correct what is known of an instrument.

    Raises:
        BadInput: a serial number that is too long, a day to come, or an amount that cannot be. Refused: no such
            instrument.
    """
    serial = line(serial, what="The serial number", longest=40)
    if bought_on is not None and bought_on > shop.now.astimezone().date():
        raise BadInput(f"{bought_on:%d %b %Y} has not come yet.", todo="Look at the bill again.")
    if cost is not None and not 0 <= cost <= 1_000_000:
        raise BadInput("What it cost is 0 or more.", todo="Look at the bill again.")
    with shop.act("instrument.details") as act:
        found = act.records.get(Instrument, tag)
        if found is None:
            raise Refused(f"No instrument {tag} is known here.")
        bought = bought_on.isoformat() if bought_on is not None else ""
        act.records.update(found, serial=serial, bought_on=bought, cost=None if cost is None else round(cost, 2))
        act.tag, act.words = tag, f"{tag}: serial number {serial or 'not known'}"
