"""The instrument's history: every hire, condition out and in side by side, work and parts."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import Any

from creekbed.core.errors import Refused
from creekbed.core.inspection.marks import MarkCompared, MarkSeen, charged, compare_marks
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.units import show
from creekbed.store.reader import Reader
from creekbed.store.records import (
    ContentLine,
    Finding,
    Hire,
    Instrument,
    Job,
    JournalEntry,
    Mark,
    Playing,
    StepRecord,
    TagPrint,
    Wait,
)
from creekbed.words.bill import bill_words, missing_words
from creekbed.words.instruments import UNSEEN
from creekbed.workshop.arrival.intake import clean_tag
from creekbed.workshop.bench.job_situation import measured
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.inspection.answers import answers
from creekbed.workshop.release.release_check import disinfections_in
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies.stock import prices


@dataclass(frozen=True)
class Compared:
    """One line of the comparison: how it went out, how it came in, and what that means."""

    what: str
    out: str
    came_in: str
    status: str
    """new, grown, unchanged, better, missing, or "" while not looked at."""


@dataclass(frozen=True)
class Period:
    """One hire and the job after it."""

    hire: Hire | None
    job: Job | None
    compared: tuple[Compared, ...]
    work: tuple[StepRecord, ...]
    waits: tuple[Wait, ...]
    parts: tuple[tuple[str, float, str], ...]
    tag_facts: dict[str, Any] | None
    disinfections: tuple[dict[str, Any], ...] = ()
    playings: tuple[Playing, ...] = ()


@dataclass(frozen=True)
class History:
    """Everything recorded of one instrument, newest period first; its size where that says more than the family."""

    instrument: Instrument
    family: str
    size: str
    periods: tuple[Period, ...]
    entries: tuple[JournalEntry, ...]


def history(shop: Shop, tag: str, *, entries: int = 200) -> History:
    """The history of an instrument.

    Raises:
        BadInput: not a tag. Refused: no such instrument.
    """
    tag = clean_tag(tag)
    with shop.reading() as records:
        instrument = records.get(Instrument, tag)
        if instrument is None:
            raise Refused(f"No instrument {tag} is on record.", todo="Look at the tag again.")
        hires = {h.id: h for h in records.all_of(Hire, tag=tag)}
        jobs = records.all_of(Job, newest=True, tag=tag)
        periods = [_period(shop, records, instrument, j, hires.get(j.hire_id or 0)) for j in jobs]
        seen = {j.hire_id for j in jobs}
        periods += [
            Period(h, None, (), (), (), (), None)
            for h in sorted(hires.values(), key=lambda h: h.out_at, reverse=True)
            if h.id not in seen
        ]
        rows = tuple(records.journal.of_instrument(tag, entries))
    periods.sort(key=_when, reverse=True)
    family = shop.catalogue.family(instrument.family)
    return History(instrument, family.name, family.size_words(instrument.size), tuple(periods), rows)


def _when(period: Period) -> datetime:
    if period.job is not None:
        return period.job.opened_at
    assert period.hire is not None
    return period.hire.out_at


def _period(shop: Shop, records: Reader, instrument: Instrument, job: Job, hire: Hire | None) -> Period:
    family = shop.catalogue.family(instrument.family)
    findings = {f.check: f for f in records.all_of(Finding, job_id=job.id)}
    lines = {x.item: x for x in records.all_of(ContentLine, job_id=job.id)}
    marks = records.all_of(Mark, tag=job.tag, job_id=job.id)
    out = {r["check"]: r for r in (hire.condition_out if hire else []) if "check" in r}
    compared = [_compare_check(c, out.get(c.key), findings.get(c.key)) for c in family.check]
    compared += _compare_marks(_seen_out(hire), _seen_in(marks))
    for item in family.item:
        line = lines.get(item.key)
        went = not (hire and hire.contents_out) or item.key in hire.contents_out
        if line is not None and (line.state != "present" or not went):
            reason = f" ({line.reason})" if line.reason else ""
            status = "missing" if line.state in ("missing", "waived", "replaced") else "new" if not went else "grown"
            was = "missing, " if line.state in ("replaced", "waived") else ""
            compared.append(
                Compared(item.name.capitalize(), "there" if went else "not", f"{was}{line.state}{reason}", status)
            )
    moves = [
        (shop.catalogue.supplies[item].name, -amount, shop.catalogue.supplies[item].unit)
        for amount, item in records.stock.moves_of(job.id)
        if item in shop.catalogue.supplies
    ]
    printed = records.first_of(TagPrint, newest=True, job_id=job.id)
    return Period(
        hire, job, tuple(compared),
        tuple(records.all_of(StepRecord, job_id=job.id)), tuple(records.all_of(Wait, job_id=job.id)), tuple(moves),
        printed.facts if printed else None, tuple(disinfections_in(records, shop, job.id)),
        tuple(records.all_of(Playing, job_id=job.id)),
    )  # fmt: skip


_RANK = {"green": 0, "amber": 1, "again": 1, "act": 2}


def _compare_check(check: Any, out: dict[str, Any] | None, finding: Finding | None) -> Compared:
    before = "not recorded"
    if out is not None:
        before = show(out["value"], check.unit) if out.get("value") is not None else str(out["words"])
    if finding is None:
        return Compared(check.name, before, "not looked at yet", "")
    found = answers(finding)[0]  # as it came in, before any work
    after = found.reason
    mean = measured(found)
    value = None if mean is None else mean.value
    if value is not None:
        after = show(value, check.unit)
    if out is None:
        return Compared(check.name, before, after, "")
    old, new = _RANK.get(str(out["band"]), 0), _RANK.get(found.band, 0)
    if value is not None and out.get("value") is not None:
        moved = abs(value - float(out["value"])) > 2 * 2**0.5 * check.u  # beyond the difference's U (k = 2)
        status = ("grown" if new > old else "better" if new < old else "changed") if moved else "unchanged"
    else:
        status = "new" if new > old else "better" if new < old else "unchanged"
    return Compared(check.name, before, after, status)


def _seen_out(hire: Hire | None) -> list[MarkSeen]:
    rows = hire.condition_out if hire is not None else []
    return [MarkSeen(r["zone"], r["kind"], r.get("size_mm")) for r in rows if "zone" in r]


def _seen_in(marks: Iterable[Mark]) -> list[MarkSeen]:
    return [MarkSeen(m.zone, m.kind, m.size_mm, m.status == "repaired", m.id) for m in marks]


def marks_of(view: JobView) -> list[MarkCompared]:
    """The marks of a job beside those its instrument went out with."""
    return compare_marks(_seen_out(view.hire), _seen_in(view.marks))


@dataclass(frozen=True)
class BillLine:
    """One line of the bill's draft; ``price`` is ``None`` where the shop has to put one."""

    what: str
    price: float | None = None


def bill_draft(shop: Shop, view: JobView) -> list[BillLine]:
    """What this hire may have to pay for: missing parts at the shop's price, marks beyond fair wear without one."""
    price_of, lines = prices(shop), []
    for item in view.family.item:
        line = view.lines.get(item.key)
        if line is None or line.state not in ("missing", "replaced", "waived"):
            continue
        what = missing_words(item.name, line.state == "replaced")
        lines.append(BillLine(what, price_of.get(item.stock or "")))
    return lines + [BillLine(words) for words in charged(shop.catalogue.house.fair_wear, marks_of(view))]


def bill_said(lines: Sequence[BillLine]) -> str:
    """The draft in one line; "" where nothing is due."""
    return bill_words([(line.what, line.price) for line in lines])


def _compare_marks(out: list[MarkSeen], came_in: list[MarkSeen]) -> list[Compared]:
    rows = []
    for row in compare_marks(out, came_in):
        was = row.out.words() if row.out is not None else "none"
        now = UNSEEN if row.came_in is None else "repaired" if row.status == "repaired" else row.came_in.words()
        status = "unchanged" if row.status == "unseen" else row.status
        rows.append(Compared(f"Mark: {row.zone}", was, now, status))
    return rows
