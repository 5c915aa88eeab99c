"""Photographs of a job: how the case is packed, a mark, what a check saw."""

from __future__ import annotations

from datetime import datetime

from creekbed.core.errors import BadInput, Refused
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.photos import Clean, PhotoStore, clean
from creekbed.store.records import Mark, Photo
from creekbed.workshop.arrival.intake import need_job
from creekbed.workshop.shop.shop import Shop

PACKING = "packing"


@dataclass(frozen=True)
class PhotoView:
    """One photograph on record.

    Attributes:
        name: of the picture in the store. about: "packing", "mark:ID" or "check:KEY".
    """

    id: int
    name: str
    job_id: int
    about: str
    width: int
    height: int
    taken_at: datetime


def store_of(shop: Shop) -> PhotoStore:
    """Where the shop's photographs lie."""
    return PhotoStore(shop.folder)


def add_photo(shop: Shop, job_id: int, data: bytes | Clean, about: str = PACKING) -> PhotoView:
    """Keep a photograph with a job: the picture is on disk before the record names it.

    Args:
        data: the file as it came, or a picture that was cleaned already (that takes longest, and needs no shop).
        about: "packing", "mark:ID" or "check:KEY".

    Raises:
        BadInput: no picture, or nothing that it could be about. StoreProblem: it cannot be kept.
    """
    picture = data if isinstance(data, Clean) else clean(data)
    store = store_of(shop)
    with shop.act("photo.add") as act:
        view = need_job(shop, act.records, job_id, act.now)
        kind, _, which = about.partition(":")
        marks = {str(m.id) for m in act.records.all_of(Mark, tag=view.tag)}
        checks = {c.key for c in view.family.check}
        if not (about == PACKING or (kind == "mark" and which in marks) or (kind == "check" and which in checks)):
            raise BadInput("There is nothing that this photograph could belong to.")
        name = shop.store.on_disk(lambda: store.keep(picture))
        photo = act.records.add(Photo(
            name=name, tag=view.tag, job_id=job_id, about=about, width=picture.width, height=picture.height,
            taken_at=act.now,
        ))  # fmt: skip
        words = {"packing": "how it is packed", "mark": "a mark"}.get(kind) or view.family.find_check(
            which
        ).name.lower()
        act.tag, act.words = view.tag, f"{view.tag}: photograph of {words}"
        return view_of_photo(photo)


def photos_of(shop: Shop, job_id: int) -> list[PhotoView]:
    """The photographs of a job, the oldest first."""
    with shop.reading() as records:
        return [view_of_photo(p) for p in records.all_of(Photo, job_id=job_id)]


def packing_photo(shop: Shop, tag: str) -> PhotoView | None:
    """The newest photograph of how an instrument lay in its case; it is shown again when it is packed."""
    with shop.reading() as records:
        photo = records.jobs.packing_photo(tag, PACKING)
        return None if photo is None else view_of_photo(photo)


def view_of_photo(photo: Photo) -> PhotoView:
    """A photograph as it is shown."""
    return PhotoView(
        photo.id, photo.name, photo.job_id, photo.about, photo.width, photo.height, photo.taken_at
    )  # fmt: skip


def remove_photo(shop: Shop, photo_id: int) -> None:
    """Take a photograph away. It leaves the disk some days later, so that this can be undone, and the copies with their
    age.

    Raises:
        Refused: it is not on record.
    """
    with shop.act("photo.remove") as act:
        photo = act.records.get(Photo, photo_id)
        if photo is None:
            raise Refused("That photograph is not on record any more.")
        act.tag, act.words = photo.tag, f"{photo.tag}: a photograph was taken away"
        act.records.remove(photo)
