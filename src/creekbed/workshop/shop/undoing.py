"""Taking back what was done: one's own, by person and by window; what stands in the way is named."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from creekbed.core.errors import Refused
from creekbed.store.journal import RowConflict, current
from creekbed.store.photos import PhotoStore
from creekbed.store.reader import Reader
from creekbed.store.recordings import RecordingStore
from creekbed.store.records import JournalEntry

if TYPE_CHECKING:
    from creekbed.workshop.shop.shop import Shop

TIMES = {
    "wait": ("started_at", "wet_since"), "job": ("release_at",), "bath": ("filled_at", "since"),
    "reed_bath": ("since",),
}  # fmt: skip
"""Times of what runs, by table."""
STEPS = ("step.done", "step.waive", "ready")
"""Actions that others on the same instrument go on from."""


def undoable(records: Reader, shop: Shop, limit: int) -> list[JournalEntry]:
    """Entries that this person can take back at this window, newest first.

    Entries that stood in the way are left out, and with them what was done before on the same instrument.
    """
    return records.journal.undoable(shop.person, shop.seat, limit, shop.in_the_way)


def to_undo(records: Reader, shop: Shop, number: int | None) -> JournalEntry:
    """The entry to take back: the last that can be, or the one asked for.

    Raises:
        Refused: there is none, it is not one's own, or something was done on the same instrument since.
    """
    if number is None:
        found = next(iter(undoable(records, shop, 1)), None)
        if found is None:
            raise Refused("There is nothing to undo.")
        return found
    entry = records.get(JournalEntry, number)
    if entry is None or entry.undoes is not None or not entry.undoable:
        raise Refused("That cannot be taken back.")
    if records.journal.is_undone(number):
        raise Refused("That was taken back already.")
    if entry.person != shop.person or entry.seat not in (shop.seat, ""):
        where = "at another window" if entry.person == shop.person else f"by {entry.person}"
        raise Refused(f"That was done {where}.", todo="Take it back there.")
    after = records.journal.own_after(entry, shop.person, shop.seat) if entry.tag else None
    if after is not None:
        raise Refused(f"After it you have done this: “{after.words}”.", todo="Take that back first.")
    return entry


def need_order(records: Reader, shop: Shop, entry: JournalEntry) -> None:
    """Check that nobody has gone on from a step that is to be taken back.

    Raises:
        Refused: somebody has.
    """
    if entry.action in STEPS:
        later = records.journal.after(entry, STEPS)
        if later is not None:
            raise _refused(records, shop, entry, later)


def as_it_stands(records: Reader, entry: JournalEntry) -> list[dict[str, Any]]:
    """The changes of an entry, with rows that it made as they stand since the computer's clock was set.

    Raises:
        Refused: it would bring back the time of something that ran, by a clock that has been set since.
    """
    moves = records.journal.clock_moves_since(entry.id)
    changes = [dict(current(c)) for c in entry.changes]
    if moves and any(_brings_back_a_time(c) for c in changes):
        raise Refused(
            f"“{entry.words}” cannot be taken back: the clock was set since, and it tells when something ran."
        )
    for moved in (current(c) for e in moves for c in e.changes):
        for change in changes:
            same = change["t"] == moved["t"] and change["k"] == moved["k"]
            if same and change["b"] is None and moved["b"] and moved["a"]:
                change["a"] = {**change["a"], **moved["a"]}
    return changes


def _brings_back_a_time(change: dict[str, Any]) -> bool:
    before = change["b"] or {}
    return any(before.get(name) for name in TIMES.get(change["t"], ()))


def refusal(records: Reader, shop: Shop, entry: JournalEntry, conflict: RowConflict) -> Refused:
    """Why an entry cannot be taken back, in words: who did what since."""
    cause = records.journal.last_change_of(conflict.table, conflict.key, entry.id)
    return _refused(records, shop, entry, cause)


def _refused(records: Reader, shop: Shop, entry: JournalEntry, cause: JournalEntry | None) -> Refused:
    shop.in_the_way.add(entry.id)
    following = next(iter(undoable(records, shop, 1)), None)
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
    stores = {"photo": PhotoStore(shop.folder), "recording": RecordingStore(shop.folder)}
    for change in changes:
        store = stores.get(change["t"])
        if store is not None and change["b"] is None and not store.path(change["a"]["name"]).exists():
            raise Refused(f"That {store.what} has left the disk; its undo time is over.", todo="Take it again.")
