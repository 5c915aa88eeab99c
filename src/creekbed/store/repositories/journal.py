"""The journal: what was done since, what can be taken back, what stands in the way."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from typing import TYPE_CHECKING, Any

from sqlalchemy import Select, bindparam, exists, func, select

from creekbed.store.records import JournalEntry
from creekbed.store.tables import TABLES

if TYPE_CHECKING:
    from creekbed.store.reader import Reader

_E = TABLES[JournalEntry]
_UNDO = _E.alias("undo")
_NOT_UNDONE = ~exists().where(_UNDO.c.undoes == _E.c.id)
_NEWEST = select(func.max(_E.c.id))
_SINCE = select(_E).where(_E.c.id > bindparam("since")).order_by(_E.c.id)
_CHANGES = select(_E.c.id, _E.c.changes).where(_E.c.id > bindparam("since")).order_by(_E.c.id).limit(bindparam("most"))
_LATEST = select(_E).order_by(_E.c.id.desc()).limit(bindparam("most"))
_OF_TAG = select(_E).where(_E.c.tag == bindparam("tag")).order_by(_E.c.id.desc()).limit(bindparam("most"))
_LAST_AT = select(_E.c.at).order_by(_E.c.id.desc()).limit(1)
_UNDOING = select(_E.c.id).where(_E.c.undoes == bindparam("number")).limit(1)
_CLOCK = select(_E).where(_E.c.id > bindparam("since"), _E.c.action == "clock.moved").order_by(_E.c.id)


def _own(person: str, seat: str) -> Select[Any]:
    """Entries that somebody made at one window and did not take back."""
    return select(_E).where(
        _E.c.undoes.is_(None), _E.c.undoable.is_(True), _NOT_UNDONE, _E.c.person == person, _E.c.seat == seat
    )


class Journal:
    """Questions about the journal."""

    def __init__(self, reader: Reader):
        self._reader = reader

    def newest(self) -> int:
        """The number of the last entry; 0 before the first."""
        return int(self._reader.value(_NEWEST) or 0)

    def last_at(self) -> Any:
        """When the last entry was made, or ``None``."""
        return self._reader.value(_LAST_AT)

    def since(self, number: int) -> list[JournalEntry]:
        """Entries after another, oldest first."""
        return self._reader.fetch(JournalEntry, _SINCE, {"since": number})

    def changes_since(self, number: int, most: int) -> list[tuple[int, list[Any]]]:
        """(number, changes) of the entries after another, oldest first."""
        if number == self._reader.newest_entry:
            return []
        return [(n, changes) for n, changes in self._reader.rows(_CHANGES, {"since": number, "most": most})]

    def latest(self, most: int) -> list[JournalEntry]:
        """The last entries, newest first."""
        return self._reader.fetch(JournalEntry, _LATEST, {"most": most})

    def of_instrument(self, tag: str, most: int) -> list[JournalEntry]:
        """The last entries about an instrument, newest first."""
        return self._reader.fetch(JournalEntry, _OF_TAG, {"tag": tag, "most": most})

    def all_changes(self) -> Iterator[list[Any]]:
        """The changes of every entry, oldest first."""
        return (changes for (changes,) in self._reader.rows(select(_E.c.changes).order_by(_E.c.id)))

    def clock_moves_since(self, number: int) -> list[JournalEntry]:
        """Entries after another that say that the computer's clock was set."""
        return self._reader.fetch(JournalEntry, _CLOCK, {"since": number})

    # --- undo ---------------------------------------------------------------------------------------------------

    def undoable(self, person: str, seat: str, limit: int, passed_by: Collection[int] = ()) -> list[JournalEntry]:
        """Entries that somebody can take back at a window, newest first.

        Args:
            passed_by: entries that could not be taken back: they are left out, and so is what was done before them on
                the same instrument.
        """
        if not passed_by:
            return self._own_newest(person, seat, None, limit)
        found: list[JournalEntry] = []
        blocked: set[str] = set()
        before: int | None = None
        while len(found) < limit:
            rows = self._own_newest(person, seat, before, 50)
            if not rows:
                break
            for entry in rows:
                if entry.id in passed_by:
                    blocked.add(entry.tag)
                elif not entry.tag or entry.tag not in blocked:
                    found.append(entry)
            before = rows[-1].id
        return found[:limit]

    def _own_newest(self, person: str, seat: str, before: int | None, limit: int) -> list[JournalEntry]:
        """The last entries that somebody can take back at a window; those without a window are from before 0007."""
        found: list[JournalEntry] = []
        for where in (seat, "") if seat else ("",):
            newest = _own(person, where).order_by(_E.c.id.desc()).limit(limit)
            found += self._reader.fetch(JournalEntry, newest if before is None else newest.where(_E.c.id < before))
        return sorted(found, key=lambda e: e.id, reverse=True)[:limit]

    def is_undone(self, number: int) -> bool:
        """Whether an entry was taken back."""
        return self._reader.value(_UNDOING, {"number": number}) is not None

    def own_after(self, entry: JournalEntry, person: str, seat: str) -> JournalEntry | None:
        """The last thing that somebody did on the same instrument after an entry, and did not take back."""
        found: list[JournalEntry] = []
        for where in {seat, ""}:
            later = _own(person, where).where(_E.c.id > entry.id, _E.c.tag == entry.tag)
            found += self._reader.fetch(JournalEntry, later.order_by(_E.c.id.desc()).limit(1))
        return max(found, key=lambda e: e.id, default=None)

    def after(self, entry: JournalEntry, actions: Collection[str]) -> JournalEntry | None:
        """The last of some actions on the same instrument after an entry that was not taken back."""
        later = select(_E).where(
            _E.c.id > entry.id, _E.c.tag == entry.tag, _E.c.action.in_(list(actions)), _NOT_UNDONE
        ).order_by(_E.c.id.desc()).limit(1)  # fmt: skip
        return next(iter(self._reader.fetch(JournalEntry, later)), None)

    def last_change_of(self, table: str, key: Mapping[str, Any], after: int) -> JournalEntry | None:
        """The last entry after another that changed a row and was not taken back."""
        later = self._reader.fetch(JournalEntry, select(_E).where(_E.c.id > after).order_by(_E.c.id.desc()))
        undone = {e.undoes for e in later if e.undoes is not None}
        for entry in later:
            if entry.undoes is None and entry.id not in undone and _names(entry, table, key):
                return entry
        return None

    def last_of_row(self, table: str, key: Mapping[str, Any], version: int) -> JournalEntry | None:
        """The entry that wrote a row last, or took it out.

        Args:
            version: of the row as it is now; 0 where it is gone.
        """
        if version:
            return self._reader.get(JournalEntry, version)
        for entry in self.latest(200):
            if _names(entry, table, key):
                return entry
        return None


def _names(entry: JournalEntry, table: str, key: Mapping[str, Any]) -> bool:
    return any(c["t"] == table and c["k"] == key for c in entry.changes)
