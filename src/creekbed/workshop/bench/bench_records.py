"""What is on record of the bench: read whole once, and then only what somebody has changed since."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from functools import cached_property
from typing import Any

from sqlalchemy import bindparam, func, select
from sqlalchemy.orm import Session

from creekbed.core.catalogue.load import Catalogue
from creekbed.core.turns import Turns, whole
from creekbed.store.problems import DamagedCell
from creekbed.store.tables import Boat, Entry, InHand, Instrument, Lot
from creekbed.store.tables import Job as JobRow
from creekbed.workshop.bench.job_rows import (
    TABLES_OF_JOBS,
    Broken,
    Earlier,
    JobRows,
    all_boats,
    days_since,
    earlier_work,
    mixing_lots,
    rows_in_turns,
    rows_of,
    sound,
)  # fmt: skip
from creekbed.workshop.bench.job_view import Cupboard, JobView, WaitView, cupboard, in_order, view_or_broken
from creekbed.workshop.cleaning.cloth_allocation import share_out, wish_of
from creekbed.workshop.cleaning.shelf import Shelf, shelf_of
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies.awaited_parts import Awaited, awaited

GONE = timedelta(hours=12)
"""So long a boat that has left is still shown: house default."""
MOST_ENTRIES = 100
"""With more entries since the last look everything is read again: house default."""
OF_JOBS = {t.__tablename__: t for t in TABLES_OF_JOBS}
ROWS = {"content_line": "lines", "finding": "findings", "work": "work", "wait": "waits", "mark": "marks"}
"""Table → attribute of :class:`JobRows`."""
OTHERS = frozenset({"boat", "in_hand", "lot", "setting"})
"""Other tables that are read again when something in them has changed."""
NOT_SHOWN = frozenset({"disinfection", "photo", "school_choice", "stock_move", "tag_print"})
"""Tables that no open job is shown from."""
_NEWEST, _IN_HAND = select(func.max(Entry.id)), select(InHand)
_SINCE = select(Entry.id, Entry.changes).where(Entry.id > bindparam("since")).order_by(Entry.id).limit(MOST_ENTRIES + 1)
_JOB_OF = {
    name: select(table.job_id).where(table.id.in_(bindparam("keys", expanding=True))) for name, table in OF_JOBS.items()
}
_READY = (
    select(JobRow, Instrument.family)
    .join(Instrument, Instrument.tag == JobRow.tag)
    .where(JobRow.state == "ready", JobRow.boat_id.in_(bindparam("boats", expanding=True)))
)


@dataclass(frozen=True)
class Records:
    """What the bench's picture is made from, as it was read.

    Attributes:
        now: as of when. entry: the newest entry of the journal then.
        held: (job id, step) → who has it in hand, and since when.
        boats: those that are shown, soonest first. done: jobs that are ready for one of them, with their family.
        rows: open jobs by id. every_boat, lots, coming, earlier: what their views were made from beside that.
    """

    views: tuple[JobView, ...]
    held: Mapping[tuple[int, str], tuple[str, datetime]]
    boats: tuple[Boat, ...]
    done: tuple[tuple[JobRow, str], ...]
    now: datetime
    entry: int
    catalogue: Catalogue
    rows: Mapping[int, JobRows]
    every_boat: Mapping[int, Boat]
    lots: Sequence[Lot]
    coming: Mapping[int, tuple[Awaited, ...]]
    shelf: Shelf
    earlier: Earlier
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
        """What soaks, dries or settles, in order of pressure."""
        return tuple(sorted((w for v in self.views for w in v.waits), key=lambda w: _wait_order(w, self.now)))


@dataclass
class _Changed:
    """What the journal names since a look.

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
    """What is on record of the bench: one state of the records throughout, however many turns that takes.

    Args:
        known: what was read before. Only what the journal names since is read again; jobs of which nothing has changed
            are looked at anew only where time, stock or parts on their way may make a difference.

    Raises:
        StoreProblem: the records cannot be read.
    """
    with shop.reading() as session:
        changed = None
        if known is not None and known.catalogue is shop.catalogue and not known.broken:
            changed = _changed(session, known.entry)
        if known is None or changed is None:
            found = yield from _all(session, shop.catalogue, now)
        else:
            try:
                found = yield from _again(session, now, known, changed)
            except DamagedCell:
                found = yield from _all(session, shop.catalogue, now)
    return (yield from _viewed(found, known))


def _all(session: Session, catalogue: Catalogue, now: datetime) -> Turns[Records]:
    """Everything, but for the views."""
    entry, boats = session.scalar(_NEWEST) or 0, all_boats(session)
    broken: list[Broken] = []
    rows = yield from rows_in_turns(session, boats, broken=broken)
    shown = _shown(boats, now)
    return Records(
        views=(), held=_held(session), boats=shown, done=_ready(session, catalogue, shown), now=now, entry=entry,
        catalogue=catalogue, rows={r.job.id: r for r in rows}, every_boat=boats, lots=mixing_lots(session, catalogue),
        coming=awaited(session), shelf=shelf_of(session), earlier=earlier_work(session, catalogue, rows),
        broken=tuple(broken),
    )  # fmt: skip


def _again(session: Session, now: datetime, known: Records, changed: _Changed) -> Turns[Records]:
    """What has changed, but for the views."""
    catalogue, tables = known.catalogue, changed.tables
    boats = all_boats(session) if "boat" in tables else known.every_boat
    rows = dict(known.rows)
    anew = [n for n, where in changed.jobs.items() if n not in rows or where & {"job", "instrument"}]
    for name, table in OF_JOBS.items():
        some = [n for n, where in changed.jobs.items() if name in where and n not in anew]
        if some:
            for n, fresh in rows_of(session, table, some).items():
                part: dict[str, Any] = {ROWS[name]: fresh}
                rows[n] = replace(rows[n], **part)
            yield
    if anew:
        fresh_rows = yield from rows_in_turns(session, boats, ids=anew)
        for n in anew:
            rows.pop(n, None)
        rows.update((r.job.id, r) for r in fresh_rows if r.job.state == "open")
    if "boat" in tables:
        rows = {n: replace(r, boat=boats.get(r.job.boat_id or 0)) for n, r in rows.items()}
    shown = _shown(boats, now)
    jobs_moved = bool(anew) or "boat" in tables or shown != known.boats
    return Records(
        views=(),
        held=_held(session) if "in_hand" in tables else known.held,
        boats=shown,
        done=_ready(session, catalogue, shown) if jobs_moved else known.done,
        now=now,
        entry=changed.entry,
        catalogue=catalogue,
        rows=rows,
        every_boat=boats,
        lots=mixing_lots(session, catalogue) if "lot" in tables else known.lots,
        coming=awaited(session) if "setting" in tables else known.coming,
        shelf=shelf_of(session) if "setting" in tables else known.shelf,
        earlier=earlier_work(session, catalogue, rows.values()) if anew else known.earlier,
    )


def _stock_of(known: Records) -> Cupboard:
    return cupboard(known.catalogue, known.lots, known.now, known.shelf)


def _viewed(found: Records, known: Records | None) -> Turns[Records]:
    """With the jobs as they stand; a view from before is gone on with where it must be the same."""
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
            yield
        seen = before.get(n) or view_or_broken(
            catalogue, now, rows, stock, lately.get(rows.job.tag, {}), found.coming.get(n, ()), cloths[n]
        )
        if isinstance(seen, Broken):
            broken.append(seen)
        else:
            views.append(seen)
    return replace(found, views=tuple(in_order(views)), broken=tuple(broken))


def _changed(session: Session, since: int) -> _Changed | None:
    """What has changed since an entry of the journal; ``None``: everything must be read."""
    entries = list(session.execute(_SINCE, {"since": since}))
    if len(entries) > MOST_ENTRIES:
        return None
    found = _Changed(entries[-1][0] if entries else since)
    tags: set[str] = set()
    ids: dict[str, set[Any]] = {}
    for change in (c for _, changes in entries for c in changes):
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
        for n in session.scalars(_JOB_OF[table], {"keys": sorted(keys)}):
            found.of(n, table)
    if tags:
        for n in session.scalars(select(JobRow.id).where(JobRow.tag.in_(sorted(tags)))):
            found.of(n, "instrument")
    return found


def _held(session: Session) -> dict[tuple[int, str], tuple[str, datetime]]:
    return {(r.job_id, r.key): (r.person, r.since) for r in sound(session, InHand, _IN_HAND)}


def _shown(boats: Mapping[int, Boat], now: datetime) -> tuple[Boat, ...]:
    return tuple(sorted((b for b in boats.values() if b.leaves_at > now - GONE), key=lambda b: b.leaves_at))


def _ready(session: Session, catalogue: Catalogue, boats: Sequence[Boat]) -> tuple[tuple[JobRow, str], ...]:
    """Jobs that are ready and wait for one of these boats, with their family."""
    found = session.execute(_READY, {"boats": [b.id for b in boats]})
    names = {key: family.name for key, family in catalogue.families.items()}
    return tuple((job, names.get(family, family)) for job, family in found)
