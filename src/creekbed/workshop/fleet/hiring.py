"""Hiring out what is ready, resting and retiring what is not to go out."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta
from typing import Any, Literal

from creekbed.core.errors import BadInput, Refused
from creekbed.core.procedure.situation import IN_CASE
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.text import line
from creekbed.store.reader import Reader
from creekbed.store.records import ContentLine, Hire, Instrument, Job, TagPrint
from creekbed.workshop.arrival.intake import clean_tag
from creekbed.workshop.shop.identity import identity
from creekbed.workshop.shop.shop import Act, Shop

LONGEST_HIRE = timedelta(days=3 * 366)
"""A hire that ends later than this is a slip: house default."""
Standing = Literal["resting", "retired", ""]


@dataclass(frozen=True)
class HireTerms:
    """To whom instruments go out.

    Attributes:
        renter: a code that the shop gives, never a name; may be empty where a group has it. group: band or class.
        due_on: by when it should be back.
    """

    renter: str
    group: str = ""
    due_on: date | None = None


def hire_out(shop: Shop, tags: Sequence[str], terms: HireTerms) -> list[int]:
    """Instruments that are ready go out: all of them, or none.

    The hire keeps what went out: pieces of the case, measured condition, marks.

    Returns:
        Numbers of the hires, in the order of the tags.

    Raises:
        BadInput: nobody to go to, or a day that cannot be right. Refused: one of them is not ready, or is out.
    """
    renter = line(terms.renter, what="The renter", longest=60)
    group = line(terms.group, what="The group", longest=60)
    if not renter and not group:
        raise BadInput("To whom does it go?", todo="A code or a group, not a name.")
    if not tags:
        raise BadInput("No instrument was chosen.")
    today = shop.now.astimezone().date()
    if terms.due_on is not None and not today <= terms.due_on <= today + LONGEST_HIRE:
        raise BadInput("It cannot be due back then.", todo="Look at the date again.")
    with shop.act("hire_out") as act:
        hires = [_hire(act, clean_tag(tag), renter or group, group, terms.due_on) for tag in tags]
        until = f", back by {terms.due_on:%d %b %Y}" if terms.due_on is not None else ""
        act.tag = hires[0].tag if len(hires) == 1 else ""
        what = hires[0].tag if len(hires) == 1 else f"{len(hires)} instruments"
        act.words = f"{what} out with {renter or group}{until}"
        return [hire.id for hire in hires]


NEW = "new"
"""Key of a row of the condition that names a piece which went out new."""


def _hire(act: Act, tag: str, renter: str, group: str, due_on: date | None) -> Hire:
    records = act.records
    if records.get(Instrument, tag) is None:
        raise Refused(f"No instrument {tag} is known here.", todo="Book it in first.")
    out = records.jobs.hire_now(tag)
    if out is not None:
        raise Refused(f"{tag} is out with {out.renter} already.", todo="Book it in when it is back.")
    job = records.jobs.here_of(tag)
    if job is None or job.state != "ready":
        why = "is on the bench still" if job is not None else "was not made ready"
        raise Refused(f"{tag} {why}.", todo="What goes out has passed the release check: book it in, and do its job.")
    facts = _tag_of(records, job)
    contents = facts.get("pieces")
    if contents is None:  # a tag from before pieces were packed one by one
        contents = [c.item for c in records.all_of(ContentLine, job_id=job.id) if c.state in IN_CASE]
    records.update(job, state="gone")
    return records.add(
        Hire(
            tag=tag, renter=renter, group_name=group or job.next_group, out_at=act.now, contents_out=contents,
            condition_out=[
                *facts.get("condition", []), *facts.get("marks", []), *({NEW: i} for i in facts.get("renewed", [])),
            ],
            due_on=due_on.isoformat() if due_on is not None else "",
        )
    )  # fmt: skip


def _tag_of(records: Reader, job: Job) -> dict[str, Any]:
    """What the ready tag of a job says; the last one printed."""
    printed = records.first_of(TagPrint, newest=True, job_id=job.id)
    return printed.facts if printed is not None else {}


def hire_facts(shop: Shop, number: int) -> dict[str, Any]:
    """What the sheet of a hire says, as plain values, for :mod:`creekbed.papers.hire_sheet`.

    Raises:
        Refused: there is no such hire.
    """
    with shop.reading() as records:
        hire = records.get(Hire, number)
        instrument = records.get(Instrument, hire.tag) if hire is not None else None
    if hire is None or instrument is None:
        raise Refused("There is no such hire.")
    family, head = shop.catalogue.family(instrument.family), identity(shop)
    names = {i.key: i.name for i in family.item}
    parts = {p.listed: p.name for p in family.part}
    names |= {r[NEW]: f"{parts[r[NEW]]}, new" for r in hire.condition_out if r.get(NEW) in parts}
    return {
        "tag": hire.tag, "family": family.name, "size": family.size_words(instrument.size), "serial": instrument.serial,
        "renter": hire.renter, "group": hire.group_name, "out_at": hire.out_at.isoformat(), "due_on": hire.due_on,
        "contents": [names.get(key, key) for key in hire.contents_out],
        "condition": [
            {"name": r["name"], "value": r.get("value"), "unit": r.get("unit", ""), "words": r.get("words", "")}
            for r in hire.condition_out if "check" in r
        ],
        "marks": [r for r in hire.condition_out if "zone" in r],
        "person": shop.person, "shop": head.name, "address": list(head.address),
    }  # fmt: skip


def set_standing(shop: Shop, tags: Sequence[str], standing: Standing, why: str) -> None:
    """Instruments rest, are retired, or are brought back to use.

    Args:
        standing: "" brings them back.

    Raises:
        BadInput: no reason. Refused: one is out, or on the bench.
    """
    why = line(why, what="The reason", longest=80)
    if standing and not why:
        raise BadInput("Why?", todo="A word or two: history keeps it.")
    if not tags:
        raise BadInput("No instrument was chosen.")
    with shop.act("standing") as act:
        found = []
        for tag in map(clean_tag, tags):
            instrument = act.records.get(Instrument, tag)
            if instrument is None:
                raise Refused(f"No instrument {tag} is known here.")
            job = act.records.jobs.here_of(tag)
            if standing and act.records.jobs.hire_now(tag) is not None:
                raise Refused(f"{tag} is out.", todo="Book it in when it is back.")
            if standing and job is not None and job.state == "open":
                raise Refused(f"{tag} is on the bench.", todo="Finish its job, or take the booking back.")
            act.records.update(instrument, standing=standing, standing_why=why if standing else "")
            found.append(tag)
        words = {"resting": "rests", "retired": "is retired", "": "is in use again"}[standing]
        act.tag = found[0] if len(found) == 1 else ""
        act.words = f"{found[0] if len(found) == 1 else f'{len(found)} instruments'} {words}{f': {why}' if why else ''}"
