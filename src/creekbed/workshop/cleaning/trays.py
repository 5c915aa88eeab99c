"""Trays that keep the small parts of each instrument apart while it is in pieces: valves and slides never mix."""

from __future__ import annotations

import string

from creekbed.store.reader import Reader
from creekbed.store.records import Tray
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.shop.shop import Act, Shop

BATH = "bath"


def has_trays(view: JobView) -> bool:
    """Whether an instrument is taken apart far enough that its small parts need their own tray."""
    return any(s.key == BATH for s in view.family.step)


def tray_of(shop: Shop, view: JobView) -> str:
    """The letter of a job's tray, the one it has or would get; "" where it needs none."""
    if not has_trays(view):
        return ""
    with shop.reading() as records:
        trays = _taken(records)
    return trays.get(view.job.id) or _free(trays)


def _taken(records: Reader) -> dict[int, str]:
    """Job → letter, for jobs that are open; trays of others are free again."""
    still = records.jobs.open_numbers()
    return {t.job_id: t.letter for t in records.readable(Tray) if t.job_id in still}


def _free(trays: dict[int, str]) -> str:
    taken = set(trays.values())
    return next((x for x in string.ascii_uppercase if x not in taken), f"{len(taken) + 1}")


def keep_tray(act: Act, view: JobView) -> None:
    """Give a job its tray inside a use case."""
    if not has_trays(view):
        return
    trays = _taken(act.records)
    if view.job.id not in trays:
        letter = _free(trays)
        act.records.put(Tray(job_id=view.job.id, letter=letter))
        act.notes.append(f"Small parts into tray {letter}, and no other")
