"""The records of the bench: read completely once, then only what has changed since."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field, replace
from datetime import datetime, timedelta
from functools import cached_property
from typing import Any

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.turns import Turns, whole
from creekbed.store.journal import current
from creekbed.store.problems import DamagedCell
from creekbed.store.reader import Reader
from creekbed.store.records import AwaitedPart, Departure, InHand, Job, Lot
from creekbed.workshop.bench.cupboard import Cupboard, cupboard
from creekbed.workshop.bench.job_rows import (
    TABLES_OF_JOBS,
    Broken,
    Earlier,
    JobRows,
    all_departures,
    days_since,
    earlier_work,
    mixing_lots,
    rows_of_jobs,
)  # fmt: skip
from creekbed.workshop.bench.job_view import JobView, in_order, load_job, view_of, view_or_broken
from creekbed.workshop.bench.wait_view import WaitView
from creekbed.workshop.cleaning import shelf
from creekbed.workshop.cleaning.cloth_allocation import share_out, wish_of
from creekbed.workshop.cleaning.shelf import Shelf
from creekbed.workshop.shop.machine_clocks import MachineClocks
from creekbed.workshop.shop.shop import Shop

GONE = timedelta(hours=12)
"""How long a departure is still shown after it has left: house default."""
MOST_ENTRIES = 100
"""With more entries since the last look everything is read again: house default."""
OF_JOBS = {t.TABLE: t for t in TABLES_OF_JOBS}
ROWS = {"content_line": "lines", "finding": "findings", "step_record": "work", "wait": "waits", "mark": "marks"}
"""Table → attribute of :class:`JobRows`."""
OTHERS = frozenset({"departure", "in_hand", "lot", "awaited_part", *shelf.TABLES})
"""Other tables that are read again when something in them has changed."""
NOT_SHOWN = frozenset({
    "attendance", "bath", "bench_reed", "closed_days", "cloth", "departure_kind", "disinfection", "fixed_start",
    "hand_wash", "house_value", "own_name", "own_product", "person", "photo", "point_placing", "policy_choice",
    "policy_request", "price", "reed_bath", "season", "setting", "stock_move", "tag_print", "tray",
})  # fmt: skip
"""Tables that no open job is shown from."""


@dataclass(frozen=True)
class Records:
    """The records from which the bench is shown.

    Attributes:
        now: as of when. entry: the newest entry of the journal then.
        held: (job id, step) → who has it in hand, and since when.
        departures: those that are shown, soonest first. done: jobs that are ready for one of them, with their family.
        rows: open jobs by id. every_departure, lots, coming, earlier, clocks: what their views were made from beside
            that.
    """

    views: tuple[JobView, ...]
    held: Mapping[tuple[int, str], tuple[str, datetime]]
    departures: tuple[Departure, ...]
    done: tuple[tuple[Job, str], ...]
    now: datetime
    entry: int
    catalogue: Catalogue
    rows: Mapping[int, JobRows]
    every_departure: Mapping[int, Departure]
    lots: Sequence[Lot]
    coming: Mapping[int, tuple[AwaitedPart, ...]]
    shelf: Shelf
    earlier: Earlier
    clocks: MachineClocks
    broken: tuple[Broken, ...] = ()
    """Open jobs that cannot be shown."""

    def job(self, job_id: int | None) -> JobView | None:
        """The open job with this id, or ``None``."""
        return next((v for v in self.views if v.job.id == job_id), None)

    def in_hand_of(self, person: str) -> tuple[int, str] | None:
        """(job id, step) that somebody has in hand."""
        return next((k for k, (who, _) in self.held.items() if who == person), None)

    @cached_property
    def waits(self) -> tuple[WaitView, ...]:
        """Waits that run (soaking, drying, settling), the most urgent first."""
        return tuple(sorted((w for v in self.views for w in v.waits), key=lambda w: _wait_order(w, self.now)))


@dataclass
class _Changed:
    """What has changed since an entry of the journal.

    Attributes:
        entry: its newest entry. jobs: id → tables in which something of it has changed. tables: of :data:`OTHERS`.
    """

    entry: int
    jobs: dict[int, set[str]] = field(default_factory=dict)
    tables: set[str] = field(default_factory=set)

    def of(self, job_id: int | None, table: str) -> None:
        """Something of a job has changed in a table."""
        if job_id is not None:
            self.jobs.setdefault(job_id, set()).add(table)


def _wait_order(wait: WaitView, now: datetime) -> tuple[int, datetime]:
    if wait.contact.latest is not None and wait.contact.latest <= now:
        return (0, wait.contact.latest)
    if wait.dry:
        return (1, now)
    if wait.contact.may_end:
        return (2, now if wait.contact.latest is None else wait.contact.latest)
    return (3, now + wait.contact.remaining)


def read(shop: Shop, now: datetime, known: Records | None = None) -> Records:
    """What is on record of the bench, at once; arguments as :func:`read_in_turns`."""
    return whole(read_in_turns(shop, now, known))


def read_in_turns(shop: Shop, now: datetime, known: Records | None = None) -> Turns[Records]:
    """What is on record of the bench: read at once, so that it is one state of the records; then viewed in turns.

    Args:
        known: what was read before. Only what the journal names since is read again; jobs of which nothing has changed
            are looked at anew only where time, stock or parts on their way may make a difference.

    Raises:
        StoreProblem: the records cannot be read.
    """
    with shop.reading() as records:
        found = shop.known_bench = _rows_now(records, shop, now, known)
    return (yield from _viewed(found, known))


def _rows_now(records: Reader, shop: Shop, now: datetime, known: Records | None) -> Records:
    """What is on record of the bench, without views."""
    catalogue = shop.catalogue
    changed = None
    if known is not None and not known.broken:
        changed = _changed(records, known.entry)
    if known is None or changed is None:
        return _all(records, catalogue, now, shop.time.clocks)
    try:
        return _again(records, catalogue, now, known, changed)
    except DamagedCell:
        return _all(records, catalogue, now, shop.time.clocks)


def job_now(shop: Shop, records: Reader, now: datetime, job_id: int) -> JobView | None:
    """An open job as it stands, or ``None``: only what was changed since the last look is read.

    Args:
        records: of a transaction in which nothing was changed yet.

    Raises:
        DamagedCell: something on record of it cannot be read.
    """
    known = shop.known_bench if isinstance(shop.known_bench, Records) else None
    found = shop.known_bench = _rows_now(records, shop, now, known)
    rows = found.rows.get(job_id)
    if rows is None:
        return load_job(records, shop.catalogue, now, job_id, shop.time.clocks)
    stock = cupboard(found.catalogue, found.lots, now, found.shelf)
    lately = days_since(found.earlier, now).get(rows.job.tag, {})
    cloths = share_out(found.catalogue, (wish_of(r) for r in found.rows.values()), found.shelf.dry(now))
    return view_of(
        found.catalogue, now, rows, stock, lately, found.coming.get(job_id, ()), cloths[job_id], found.clocks
    )


def _all(records: Reader, catalogue: Catalogue, now: datetime, clocks: MachineClocks) -> Records:
    """Everything, but for the views."""
    entry, departures = records.journal.newest(), all_departures(records)
    broken: list[Broken] = []
    rows = rows_of_jobs(records, departures, broken=broken)
    shown = _shown(departures, now)
    return Records(
        views=(), held=_held(records), departures=shown, done=_ready(records, catalogue, shown), now=now, entry=entry,
        catalogue=catalogue, rows={r.job.id: r for r in rows}, every_departure=departures,
        lots=mixing_lots(records, catalogue), coming=records.jobs.awaited_parts(), shelf=shelf.shelf_of(records),
        earlier=earlier_work(records, catalogue, rows), clocks=clocks, broken=tuple(broken),
    )  # fmt: skip


def _again(records: Reader, catalogue: Catalogue, now: datetime, known: Records, changed: _Changed) -> Records:
    """What has changed, but for the views; with another catalogue also what is read by it."""
    tables, other = changed.tables, known.catalogue is not catalogue
    departures = all_departures(records) if "departure" in tables else known.every_departure
    rows = dict(known.rows)
    anew = [n for n, where in changed.jobs.items() if n not in rows or where & {"job", "instrument"}]
    for name, table in OF_JOBS.items():
        some = [n for n, where in changed.jobs.items() if name in where and n not in anew]
        if some:
            for n, fresh in records.by_job(table, some).items():
                part: dict[str, Any] = {ROWS[name]: fresh}
                rows[n] = replace(rows[n], **part)
    if anew:
        fresh_rows = rows_of_jobs(records, departures, ids=anew)
        for n in anew:
            rows.pop(n, None)
        rows.update((r.job.id, r) for r in fresh_rows if r.job.state == "open")
    if "departure" in tables:
        rows = {n: replace(r, departure=departures.get(r.job.departure_id or 0)) for n, r in rows.items()}
    shown = _shown(departures, now)
    jobs_moved = other or bool(anew) or "departure" in tables or shown != known.departures
    return Records(
        views=(),
        held=_held(records) if "in_hand" in tables else known.held,
        departures=shown,
        done=_ready(records, catalogue, shown) if jobs_moved else known.done,
        now=now,
        entry=changed.entry,
        catalogue=catalogue,
        rows=rows,
        every_departure=departures,
        lots=mixing_lots(records, catalogue) if other or "lot" in tables else known.lots,
        coming=records.jobs.awaited_parts() if "awaited_part" in tables else known.coming,
        shelf=shelf.shelf_of(records, tables, known.shelf),
        earlier=earlier_work(records, catalogue, rows.values()) if other or anew else known.earlier,
        clocks=known.clocks,
    )


def _stock_of(known: Records) -> Cupboard:
    return cupboard(known.catalogue, known.lots, known.now, known.shelf)


def _viewed(found: Records, known: Records | None) -> Turns[Records]:
    """The records with a view of each job; an earlier view is reused where nothing can have changed it."""
    now, catalogue = found.now, found.catalogue
    stock, lately = cupboard(catalogue, found.lots, now, found.shelf), days_since(found.earlier, now)
    cloths = share_out(catalogue, (wish_of(r) for r in found.rows.values()), found.shelf.dry(now))
    before: dict[int, JobView] = {}
    if known is not None and known.catalogue is catalogue and stock == _stock_of(known):
        then, since = days_since(known.earlier, known.now), min(known.now, now)
        for view in known.views:
            n, tag = view.job.id, view.tag
            rows = found.rows.get(n)
            if (
                rows is not None
                and rows is known.rows.get(n)
                and not rows.timed(since)
                and not (found.coming.get(n) or known.coming.get(n))
                and lately.get(tag) == then.get(tag)
                and view.situation.cloths_dry == cloths[n]
            ):
                before[n] = view
    views, broken = [], list(found.broken)
    for n, rows in found.rows.items():
        if n not in before:
            yield None
        seen = before.get(n) or view_or_broken(
            catalogue,
            now,
            rows,
            stock,
            lately.get(rows.job.tag, {}),
            found.coming.get(n, ()),
            cloths[n],
            found.clocks,
        )
        if isinstance(seen, Broken):
            broken.append(seen)
        else:
            views.append(seen)
    return replace(found, views=tuple(in_order(views)), broken=tuple(broken))


def _changed(records: Reader, since: int) -> _Changed | None:
    """What has changed since an entry of the journal; ``None``: everything must be read."""
    entries = records.journal.changes_since(since, MOST_ENTRIES + 1)
    if len(entries) > MOST_ENTRIES:
        return None
    found = _Changed(entries[-1][0] if entries else since)
    tags: set[str] = set()
    ids: dict[str, set[Any]] = {}
    for change in (current(c) for _, changes in entries for c in changes):
        table, images = change["t"], [i for i in (change["b"], change["a"]) if i is not None]
        if table == "job":
            found.of(change["k"]["id"], table)
        elif table == "instrument":
            tags.add(change["k"]["tag"])
        elif table in OF_JOBS:
            jobs = [i["job_id"] for i in images if "job_id" in i]
            for n in jobs:
                found.of(n, table)
            if not jobs:  # some columns of it
                ids.setdefault(table, set()).add(change["k"]["id"])
        elif table in OTHERS:
            found.tables.add(table)
        elif table not in NOT_SHOWN:
            return None
    for table, keys in ids.items():
        for n in records.jobs.of_rows(table, keys):
            found.of(n, table)
    for n in records.jobs.numbers_of(tags) if tags else ():
        found.of(n, "instrument")
    return found


def _held(records: Reader) -> dict[tuple[int, str], tuple[str, datetime]]:
    return {(r.job_id, r.key): (r.person, r.since) for r in records.readable(InHand)}


def _shown(departures: Mapping[int, Departure], now: datetime) -> tuple[Departure, ...]:
    there = (d for d in departures.values() if d.leaves_at > now - GONE and not d.off)
    return tuple(sorted(there, key=lambda d: d.leaves_at))


def _ready(records: Reader, catalogue: Catalogue, departures: Sequence[Departure]) -> tuple[tuple[Job, str], ...]:
    """Jobs that are ready and wait for one of these departures, with their family."""
    names = {key: family.name for key, family in catalogue.families.items()}
    found = records.jobs.ready_for([d.id for d in departures])
    return tuple((job, names.get(family, family)) for job, family in found)
