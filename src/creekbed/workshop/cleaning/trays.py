"""Trays that keep the small parts of each instrument apart while it is in pieces: valves and slides never mix."""

from __future__ import annotations

import string

from sqlalchemy import select

from creekbed.store.tables import Job
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.shop.shop import Act, Shop

TRAYS = "trays"
BATH = "bath"


def has_trays(view: JobView) -> bool:
    """Whether an instrument is taken apart so far that its small parts want a tray of their own."""
    return any(s.key == BATH for s in view.family.step)


def tray_of(shop: Shop, view: JobView) -> str:
    """The letter of a job's tray, the one it has or would get; "" where it needs none."""
    if not has_trays(view):
        return ""
    trays: dict[str, str] = shop.setting(TRAYS) or {}
    return trays.get(str(view.job.id)) or _free(trays)


def _free(trays: dict[str, str]) -> str:
    taken = set(trays.values())
    return next((x for x in string.ascii_uppercase if x not in taken), f"{len(taken) + 1}")


def keep_tray(shop: Shop, act: Act, view: JobView) -> None:
    """Give a job its tray inside a use case; trays of jobs that are no longer open are free again."""
    if not has_trays(view):
        return
    still = {str(j) for j in act.session.scalars(select(Job.id).where(Job.state == "open"))}
    trays = {k: v for k, v in (shop.setting(TRAYS) or {}).items() if k in still}
    mine = str(view.job.id)
    if mine not in trays:
        trays[mine] = _free(trays)
        shop.keep_setting(act, TRAYS, trays)
        act.notes.append(f"Small parts into tray {trays[mine]}, and no other")
