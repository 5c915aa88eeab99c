"""Taking back what was done: one's own, by person and by window; what stands in the way is named."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from sqlalchemy import Select, select
from sqlalchemy.orm import Session

from creekbed.core.errors import Refused
from creekbed.store.journal import RowConflict
from creekbed.store.photos import PhotoStore
from creekbed.store.tables import Entry
from creekbed.workshop.shop.timekeeping import KEPT_TIMES

TIMES = {"wait": ("started_at", "wet_since"), "job": ("release_at",)}
"""Times of what runs, by table."""

STEPS = ("step.done", "step.waive", "ready")
"""Actions that others on the same instrument go on from."""

if TYPE_CHECKING:
    from creekbed.workshop.shop.shop import Shop


def undoable(session: Session, shop: Shop, limit: int) -> list[Entry]:
    """Entries that this person can take back at this window, newest first.

    Those that stood in the way are left out, and with them what was done before on the same instrument.
    """
    newest = _own(shop).order_by(Entry.id.desc())
    if not shop.in_the_way:  # asked after every action: no more is read than is wanted
        return list(session.scalars(newest.limit(limit)))
    found: list[Entry] = []
    blocked: set[str] = set()
    for entry in session.scalars(newest.execution_options(yield_per=50)):
        if entry.id in shop.in_the_way:
            blocked.add(entry.tag)
        elif not entry.tag or entry.tag not in blocked:
            found.append(entry)
            if len(found) == limit:
                break
    return found


def _own(shop: Shop) -> Select[Entry]:
    """What this person has done at this window and was not taken back."""
    undone = select(Entry.undoes).where(Entry.undoes.is_not(None))
    return select(Entry).where(
        Entry.undoes.is_(None), Entry.undoable.is_(True), Entry.id.not_in(undone), Entry.person == shop.person,
        Entry.seat.in_((shop.seat, "")),
    )  # fmt: skip


def to_undo(session: Session, shop: Shop, number: int | None) -> Entry:
    """The entry to take back: the last that can be, or the one asked for.

    Raises:
        Refused: there is none, it is not one's own, or something was done on the same instrument since.
    """
    if number is None:
        found = next(iter(undoable(session, shop, 1)), None)
        if found is None:
            raise Refused("There is nothing to undo.")
        return found
    entry = session.get(Entry, number)
    if entry is None or entry.undoes is not None or not entry.undoable:
        raise Refused("That cannot be taken back.")
    if session.scalars(select(Entry.id).where(Entry.undoes == number)).first() is not None:
        raise Refused("That was taken back already.")
    if entry.person != shop.person or entry.seat not in (shop.seat, ""):
        where = "at another window" if entry.person == shop.person else f"by {entry.person}"
        raise Refused(f"That was done {where}.", todo="Take it back there.")
    later = session.scalars(_own(shop).where(Entry.id > number, Entry.tag == entry.tag).order_by(Entry.id.desc()))
    after = later.first() if entry.tag else None
    if after is not None:
        raise Refused(f"After it you have done this: “{after.words}”.", todo="Take that back first.")
    return entry


def need_order(session: Session, shop: Shop, entry: Entry) -> None:
    """See that nobody has gone on from a step that is to be taken back.

    Raises:
        Refused: somebody has.
    """
    if entry.action not in STEPS:
        return
    undone = select(Entry.undoes).where(Entry.undoes.is_not(None))
    later = session.scalars(
        select(Entry)
        .where(Entry.id > entry.id, Entry.tag == entry.tag, Entry.action.in_(STEPS), Entry.id.not_in(undone))
        .order_by(Entry.id.desc())
    ).first()
    if later is not None:
        raise _refused(session, shop, entry, later)


def as_it_stands(session: Session, entry: Entry) -> list[dict[str, Any]]:
    """The changes of an entry, with rows that it made as they stand since the computer's clock was set.

    Raises:
        Refused: it would bring back the time of something that ran, by a clock that has been set since.
    """
    asked = select(Entry).where(Entry.id > entry.id, Entry.action == "clock.moved").order_by(Entry.id)
    moves = list(session.scalars(asked))
    changes = [dict(c) for c in entry.changes]
    if moves and any(_brings_back_a_time(c) for c in changes):
        raise Refused(
            f"“{entry.words}” cannot be taken back: the clock was set since, and it tells when something ran."
        )
    for moved in (c for e in moves for c in e.changes):
        for change in changes:
            same = change["t"] == moved["t"] and change["k"] == moved["k"]
            if same and change["b"] is None and moved["b"] and moved["a"]:
                change["a"] = {**change["a"], **moved["a"]}
    return changes


def _brings_back_a_time(change: dict[str, Any]) -> bool:
    before = change["b"] or {}
    if change["t"] == "setting":
        return change["k"]["key"] in KEPT_TIMES and bool((before.get("value") or {}).get("v"))
    return any(before.get(name) for name in TIMES.get(change["t"], ()))


def refusal(session: Session, shop: Shop, entry: Entry, conflict: RowConflict) -> Refused:
    """Why an entry cannot be taken back, in words: who did what since."""
    return _refused(session, shop, entry, _since(session, entry.id, conflict))


def _refused(session: Session, shop: Shop, entry: Entry, cause: Entry | None) -> Refused:
    shop.in_the_way.add(entry.id)
    following = next(iter(undoable(session, shop, 1)), None)
    todo = f"Undo again takes back “{following.words}”." if following is not None else "Everything else stays as it is."
    begin = f"“{entry.words}” cannot be taken back"
    if cause is None:
        return Refused(f"{begin}: something later depends on this.", todo=todo)
    if cause.action == "clock.moved":
        return Refused(f"{begin}: the clock was set since, and moved it.", todo=todo)
    mine = cause.person == shop.person and cause.seat in (shop.seat, "")
    elsewhere = "" if mine or cause.person != shop.person else ", at another window,"
    who = "you have" if mine else f"{cause.person}{elsewhere} has"
    return Refused(f"{begin}: since then {who} done this: “{cause.words}”.", todo=todo, entry=entry.id, cause=cause.id)


def need_files(shop: Shop, changes: list[dict[str, Any]]) -> None:
    """See that what would be on record again is still on disk.

    Raises:
        Refused: a photograph has left the disk.
    """
    store = PhotoStore(shop.folder)
    for change in changes:
        if change["t"] == "photo" and change["b"] is None and not store.path(change["a"]["name"]).exists():
            raise Refused("That photograph has left the disk; its undo time is over.", todo="Take it again.")


def _since(session: Session, number: int, conflict: RowConflict) -> Entry | None:
    """The last entry after another that changed the row in the way and was not itself taken back."""
    later = list(session.scalars(select(Entry).where(Entry.id > number).order_by(Entry.id.desc())))
    undone = {e.undoes for e in later if e.undoes is not None}
    for entry in later:
        if entry.undoes is None and entry.id not in undone and any(_is_row(c, conflict) for c in entry.changes):
            return entry
    return None


def _is_row(change: dict[str, Any], conflict: RowConflict) -> bool:
    return bool(change["t"] == conflict.table and change["k"] == conflict.key)
