"""Hand washing: whether somebody must wash before clean work, from what they did last on any instrument."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from creekbed.store.records import HandWash
from creekbed.workshop.bench.job_view import JobView, StepView
from creekbed.workshop.shop.shop import Shop


def dirty_from(views: Iterable[JobView], person: str, washed: datetime | None) -> str:
    """The instrument, as it came in, that somebody worked on last without washing their hands since; "" if none.

    Args:
        views: open jobs. washed: when these hands were last washed beside a step that says so.
    """
    found: tuple[datetime, str] | None = None
    for view in views:
        for step, work in ((s.step, s.work) for s in view.steps if s.work is not None):
            if work.person != person or work.state != "done":
                continue
            if step.kind == "hands":
                washed = work.at if washed is None else max(washed, work.at)
            elif step.side == "dirty" and (found is None or work.at > found[0]):
                found = (work.at, view.tag)
    return found[1] if found is not None and (washed is None or found[0] > washed) else ""


def last_washed(shop: Shop, person: str) -> datetime | None:
    """When somebody last said that their hands are washed."""
    with shop.reading() as records:
        row = next(iter(records.readable(HandWash, person=person)), None)
    return None if row is None else row.at


def hands_words(shop: Shop, views: Iterable[JobView], step: StepView) -> str:
    """What to do with hands before a clean step; "" where they are clean, or it does not matter."""
    if step.step.side != "clean" or step.work is not None:
        return ""
    tag = dirty_from(views, shop.person, last_washed(shop, shop.person))
    return f"Wash them first, fresh gloves: {tag}, touched last, is as it came in." if tag else ""


def washed(shop: Shop) -> None:
    """Who sits here has washed their hands."""
    with shop.act("hands") as act:
        act.records.put(HandWash(person=shop.person, at=act.now))
        act.words = f"{shop.person}: hands washed"
