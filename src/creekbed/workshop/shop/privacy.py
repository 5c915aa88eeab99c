"""What the shop erases: a renter's code on request, photographs and sounds whose action was undone."""

from __future__ import annotations

from datetime import timedelta

from creekbed.core.errors import BadInput, Refused
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.text import line
from creekbed.store.maintenance import ERASED, erase, forget_log
from creekbed.store.photos import PhotoStore
from creekbed.store.recordings import RecordingStore
from creekbed.workshop.shop.shop import Shop

UNDO_TIME = timedelta(days=3)
"""How long a photograph or sound whose action was undone stays on disk: house default, a long weekend."""


@dataclass(frozen=True)
class Erased:
    """What was erased: in how many places of the records, in how many actions of the journal."""

    places: int
    entries: int

    @property
    def words(self) -> str:
        """What a person is told."""
        return (
            f"Erased in {self.places} places and {self.entries} actions. Copies that were made before still hold it; "
            "they go with their age, what was put aside goes when you say so."
        )


def erase_renter(shop: Shop, code: str) -> Erased:
    """Take a renter's code out of the records; history keeps “erased”, and the journal its chain.

    Raises:
        BadInput: no code. Refused: it is on record nowhere, or the renter has an instrument now.
    """
    code = line(code, what="The code", longest=60)
    if len(code) < 2 or code == ERASED:
        raise BadInput("That is no renter's code.", todo="Such as K-17.")
    with shop.act("erase", undoable=False) as act:
        out = act.records.jobs.out_with(code)
        if out is not None:
            raise Refused(f"{out} is out with this renter now.", todo="Erase the code when it is back.")
        places, entries = erase(act.records.connection, code)
        if not places and not entries:
            raise Refused("That code is on record nowhere.", todo="Look at its spelling.")
        act.erased = entries
        act.words = f"A renter's code was erased in {places} places and {len(entries)} actions"
        act.notes.append("Copies that were made before still hold it; they go with their age")
    forget_log(shop.store.engine)
    return Erased(places, len(entries))


def sweep_files(shop: Shop) -> int:
    """Remove photographs and sounds that no record speaks of any more, once their undo time has gone by.

    Returns:
        How many were removed.
    """
    with shop.reading() as records:
        photos, sounds = records.jobs.photo_names(), records.jobs.recording_names()
    after = UNDO_TIME.total_seconds()
    return PhotoStore(shop.folder).sweep(photos, after) + RecordingStore(shop.folder).sweep(sounds, after)
