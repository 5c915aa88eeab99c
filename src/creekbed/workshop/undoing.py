"""Taking back what was done: one's own, by person and by window; what stands in the way is named."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from creekbed.core.errors import Refused
from creekbed.store.journal import RowConflict
from creekbed.store.photos import PhotoStore
from creekbed.store.tables import Entry

if TYPE_CHECKING:
    from creekbed.workshop.shop import Shop


def undoable(session: Session, shop: Shop, limit: int) -> list[Entry]:
    """Entries that this person can take back at this window, newest first, without those that stood in the way."""
    undone = select(Entry.undoes).where(Entry.undoes.is_not(None))
    query = (
        select(Entry)
        .where(Entry.undoes.is_(None), Entry.undoable.is_(True), Entry.id.not_in(undone))
        .where(Entry.person == shop.person, Entry.seat.in_((shop.seat, "")))
        .order_by(Entry.id.desc())
        .limit(limit + len(shop.in_the_way))
    )
    return [e for e in session.scalars(query) if e.id not in shop.in_the_way][:limit]


def to_undo(session: Session, shop: Shop, number: int | None) -> Entry:
    """The entry to take back: the last that can be, or the one asked for.

    Raises:
        Refused: there is none, or it is not one's own.
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
    return entry


def as_it_stands(session: Session, entry: Entry) -> list[dict[str, Any]]:
    """The changes of an entry, with rows that it made as they stand since the computer's clock was set."""
    moves = session.scalars(select(Entry).where(Entry.id > entry.id, Entry.action == "clock.moved").order_by(Entry.id))
    changes = [dict(c) for c in entry.changes]
    for moved in (c for e in moves for c in e.changes):
        for change in changes:
            same = change["t"] == moved["t"] and change["k"] == moved["k"]
            if same and change["b"] is None and moved["b"] and moved["a"]:
                change["a"] = {**change["a"], **moved["a"]}
    return changes


def refusal(session: Session, shop: Shop, entry: Entry, conflict: RowConflict) -> Refused:
    """Why an entry cannot be taken back, in words: who did what since."""
    cause = _since(session, entry.id, conflict)
    following = next((e for e in undoable(session, shop, 2) if e.id != entry.id), None)
    todo = f"Undo again takes back “{following.words}”." if following is not None else "Everything else stays as it is."
    if cause is None:
        return Refused(f"“{entry.words}” cannot be taken back: something later depends on this.", todo=todo)
    if cause.action == "clock.moved":
        return Refused(f"“{entry.words}” cannot be taken back: the clock was set since, and moved it.", todo=todo)
    mine = cause.person == shop.person and cause.seat in (shop.seat, "")
    who = "you have" if mine else f"{cause.person} has, at another window," if cause.person == shop.person else None
    who = who or f"{cause.person} has"
    return Refused(
        f"“{entry.words}” cannot be taken back: since then {who} done this: “{cause.words}”.",
        todo=todo, entry=entry.id, cause=cause.id,
    )  # fmt: skip


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
