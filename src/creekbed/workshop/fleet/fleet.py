"""Every instrument of the shop: where it is, and what is next for it."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date, datetime, timedelta
from typing import Literal

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.text import code
from creekbed.store.records import Departure, Hire, Instrument, Job
from creekbed.words.instruments import PLACES, away_until, back_words, ready_since, with_renter
from creekbed.words.times import clock_words
from creekbed.workshop.shop.shop import Shop

Place = Literal["hired", "bench", "away", "ready", "here", "resting", "retired"]
SOON = timedelta(days=14)
"""A hire that ends within this time is due: house default."""


@dataclass(frozen=True)
class FleetRow:
    """One instrument.

    Attributes:
        family, kind: key and name. serial: of its maker. place: where it is. where, next: the same in words, and what
            comes next. due_on: by when it should be back. job_id: its job that has not left. found_by: what a search
            looks through. unused: nobody has hired it yet, and it was never on the bench. overdue: it should be back.
    """

    tag: str
    family: str
    kind: str
    size: str
    serial: str
    place: Place
    where: str
    next: str
    group: str
    due_on: date | None
    job_id: int | None
    found_by: str
    unused: bool = False
    overdue: bool = False

    def due(self, today: date) -> bool:
        """Whether it should be back soon, or should be already."""
        return self.place == "hired" and self.due_on is not None and self.due_on <= today + SOON


def fleet(shop: Shop) -> list[FleetRow]:
    """Every instrument, by tag. An instrument that cannot be read is left out; the daily check tells it."""
    with shop.reading() as records:
        used = records.fleet.used()
        instruments = records.readable(Instrument)
        hires = {h.tag: h for h in records.readable(Hire, back_at=None)}
        jobs = {j.tag: j for j in records.readable(Job, state=["ready"])}
        jobs |= {j.tag: j for j in records.readable(Job, state=["open"])}
        wanted = {j.departure_id for j in jobs.values() if j.departure_id is not None}
        departures = {d.id: d for d in records.readable(Departure, id=sorted(wanted))}
    now = shop.now
    rows = [_row(i, hires.get(i.tag), jobs.get(i.tag), departures, shop.catalogue, now, used) for i in instruments]
    return sorted(rows, key=lambda r: _order(r.tag))


def _order(tag: str) -> tuple[str, int, str]:
    """Tags in the order in which people count: V-2 before V-10."""
    head = tag.rstrip("0123456789")
    return head, int(tag[len(head) :] or 0), tag


def _row(
    instrument: Instrument, hire: Hire | None, job: Job | None, departures: Mapping[int, Departure],
    catalogue: Catalogue, now: datetime, used: frozenset[str],
) -> FleetRow:  # fmt: skip
    family = catalogue.families.get(instrument.family)
    kind = family.name if family is not None else instrument.family
    size = family.size_words(instrument.size) if family is not None else instrument.size
    place, where, following = _place(instrument, hire, job, departures, now)
    group = (job.next_group if job is not None else "") or (hire.group_name if hire is not None else "")
    due = date.fromisoformat(hire.due_on) if hire is not None and hire.due_on and place == "hired" else None
    renter = hire.renter if hire is not None else ""
    told = (instrument.tag, kind, size, instrument.serial, group, renter, PLACES[place])
    found_by = " ".join(told).lower() + " " + code(instrument.tag).replace("-", "").lower()
    return FleetRow(
        instrument.tag, instrument.family, kind, size, instrument.serial, place, where, following, group, due,
        job.id if job is not None else None, found_by, instrument.tag not in used,
        due is not None and due < now.astimezone().date(),
    )  # fmt: skip


def _leaves(job: Job, departures: Mapping[int, Departure], now: datetime) -> str:
    departure = departures.get(job.departure_id or 0)
    return f"{departure.name}, {clock_words(departure.leaves_at, now)}" if departure is not None else ""


def _place(
    instrument: Instrument, hire: Hire | None, job: Job | None, departures: Mapping[int, Departure], now: datetime
) -> tuple[Place, str, str]:
    """Where an instrument is, in words, and what comes next."""
    if job is not None and job.state == "open":
        leaves = _leaves(job, departures, now) or "no departure set"
        if job.waiting_for:
            return "away", job.waiting_for, away_until(job.back_at) or leaves
        return "bench", job.quarantine or PLACES["bench"], leaves
    if hire is not None:
        due = date.fromisoformat(hire.due_on) if hire.due_on else None
        return "hired", with_renter(hire.renter, hire.out_at), back_words(due, now.astimezone().date())
    if job is not None:
        return "ready", ready_since(job.ready_at), _leaves(job, departures, now) or "to hire out"
    if instrument.standing == "retired":
        return "retired", instrument.standing_why or PLACES["retired"], ""
    if instrument.standing == "resting":
        return "resting", instrument.standing_why or PLACES["resting"], "bring it back to use it"
    return "here", PLACES["here"], "book it in to make it ready"
