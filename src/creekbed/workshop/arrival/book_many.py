"""Booking in several instruments at once: what a van brings, and new stock."""

from __future__ import annotations

from collections.abc import Sequence

from creekbed.core.errors import BadInput, Refused
from creekbed.store.records import Hire, Job
from creekbed.workshop.arrival.intake import ArrivalDetails, book_one, clean_tag
from creekbed.workshop.shop.shop import Act, Shop


def book_in_many(
    shop: Shop, tags: Sequence[str], *, came_from: str = "", departure_id: int | None = None, new: bool = False
) -> list[int]:
    """Book in several instruments that are known here, such as what a van brings: all of them, or none.

    Args:
        new: they come from their maker and are commissioned: no one has had them.

    Returns:
        The jobs' ids, in the order of the tags.

    Raises:
        BadInput: no tags, or one that is new here. Refused: one is booked in already, retired, or no new stock.
    """
    if not tags:
        raise BadInput("No instrument was chosen.")
    with shop.act("book_in.many") as act:
        if new:
            _need_unused(act, tags)
        said = ArrivalDetails(came_from, departure_id, renter="new_stock" if new else "")
        jobs = [book_one(shop, act, tag, said)[0] for tag in tags]
        what, named = "To commission" if new else "Booked in", ", ".join(j.tag for j in jobs[:6])
        act.words = f"{what} {len(jobs)}: {named}{' …' if len(jobs) > 6 else ''}"
        return [job.id for job in jobs]


def _need_unused(act: Act, tags: Sequence[str]) -> None:
    """Refuse what was hired out or worked on before: that is no new stock."""
    used = [t for t in map(clean_tag, tags) if act.records.first_of(Hire, tag=t) or act.records.first_of(Job, tag=t)]
    if used:
        raise Refused(f"{used[0]} has been here before: it is no new stock.", todo="Book it in instead.")
