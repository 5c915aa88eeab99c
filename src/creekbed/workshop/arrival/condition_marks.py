"""Marks of wear on an instrument, as they are found and as they are repaired."""

from __future__ import annotations

from creekbed.core.conventions import millimetres
from creekbed.core.errors import BadInput
from creekbed.store.records import Mark
from creekbed.workshop.arrival.intake import need_job
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.shop.shop import Shop

MARK_KINDS = (
    "scratch", "dent", "crack", "open seam", "wear of finish", "corrosion", "bent", "loose", "missing", "stain",
    "mould",
)  # fmt: skip


def add_mark(shop: Shop, job_id: int, zone: str, kind: str, size_mm: float | None) -> None:
    """Note a condition mark on a zone.

    Raises:
        BadInput: an unknown zone or kind, or a size that cannot be.
    """
    with shop.act("mark.add") as act:
        view = need_job(shop, act.records, job_id, act.now)
        _need_mark(view, zone, kind)
        if size_mm is not None and not 0 < size_mm <= 2000:
            raise BadInput("A mark is more than 0 and at most 2000 mm long.", todo="Measure it again.")
        act.records.add(Mark(tag=view.tag, job_id=job_id, zone=zone, kind=kind, size_mm=size_mm, seen_at=act.now))
        size = f", {millimetres(size_mm)}" if size_mm is not None else ""
        act.tag, act.words = view.tag, f"{view.tag}: {kind} on {zone}{size}"


def mark_repaired(shop: Shop, job_id: int, zone: str, kind: str) -> None:
    """Note that a mark the instrument went out with is not there any more.

    Raises:
        BadInput: an unknown zone or kind.
    """
    with shop.act("mark.repaired") as act:
        view = need_job(shop, act.records, job_id, act.now)
        _need_mark(view, zone, kind)
        act.records.add(
            Mark(tag=view.tag, job_id=job_id, zone=zone, kind=kind, size_mm=None, seen_at=act.now, status="repaired")
        )
        act.tag, act.words = view.tag, f"{view.tag}: {kind} on {zone} is repaired"


def _need_mark(view: JobView, zone: str, kind: str) -> None:
    if zone not in view.family.zones or kind not in MARK_KINDS:
        raise BadInput(f"“{kind}” on “{zone}” is not known for a {view.family.noun}.")
