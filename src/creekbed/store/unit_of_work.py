"""Changing records in one transaction with its journal entry."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from typing import Any, TypeVar

from sqlalchemy import Connection, and_, func, literal, select, true

from creekbed.core.text import clean, everywhere
from creekbed.store.chain import START, digest_of, next_chain, said
from creekbed.store.journal import ChangeRow, apply
from creekbed.store.problems import DamagedCell, StaleRecord
from creekbed.store.reader import Reader, key_of
from creekbed.store.records import NEW, ClockAnchor, JournalEntry, Record, Versioned
from creekbed.store.statements import correction_of, insertion_of
from creekbed.store.tables import FIELDS, KEYS, TABLES, VERSION, plain, record_from

R = TypeVar("R", bound=Record)
_ENTRIES, _ANCHORS = TABLES[JournalEntry], TABLES[ClockAnchor]
_LAST = select(_ENTRIES.c.id, _ENTRIES.c.chain).order_by(_ENTRIES.c.id.desc()).limit(1)
_NEWEST = _LAST.subquery()
_BEGIN = (
    select(_NEWEST.c.id.label("last_id"), _NEWEST.c.chain.label("last_chain"), *_ANCHORS.c)
    .select_from(select(literal(1).label("one")).subquery().outerjoin(_NEWEST, true()).outerjoin(_ANCHORS, true()))
    .order_by(_ANCHORS.c.machine)
)
"""What every change begins with, in one question: the journal's last entry, and what the machines saw of their
clocks."""


class Change(Reader):
    """Changes records in one transaction, and writes the journal entry that says what was changed.

    Attributes:
        number: of the journal entry that is being written. entries: those written in this transaction.
    """

    def __init__(self, connection: Connection):
        super().__init__(connection)
        last, chain = self._begin()
        self.number: int = (last or 0) + 1
        self._chain: str = chain or START
        self.entries: list[JournalEntry] = []
        self._changes: list[ChangeRow] = []
        self._written: dict[tuple[type[Record], tuple[Any, ...]], Record | None] = {}

    def _begin(self) -> tuple[int | None, str | None]:
        """Number and chain of the journal's last entry; what the machines saw of their clocks is known from then on."""
        try:
            rows = self._connection.execute(_BEGIN).mappings().all()
        except DamagedCell:  # of an anchor: it is written anew
            last = self._connection.execute(_LAST).first()
            return (None, None) if last is None else (last[0], last[1])
        for row in rows:
            if row["machine"] is not None:
                anchor = record_from(ClockAnchor, row)
                self._got[ClockAnchor, key_of(anchor)] = anchor
        self._got_all.add(ClockAnchor)
        return rows[0]["last_id"], rows[0]["last_chain"]

    def add(self, record: R) -> R:
        """Store a new record; returned with its number.

        Raises:
            BadInput: a text is longer than anything on record can be.
        """
        kind = type(record)
        values = {FIELDS[kind][n]: _cleaned(getattr(record, n)) for n in FIELDS[kind]}
        numbered = KEYS[kind] == ("id",) and record.id == NEW  # type: ignore[attr-defined]
        if numbered:
            del values["id"]
        if isinstance(record, Versioned):
            values[VERSION] = self.number
        done = self._connection.execute(insertion_of(kind), values)  # type: ignore[arg-type]  # a class can be a key
        if numbered:
            values["id"] = done.inserted_primary_key[0]  # type: ignore[index]
        made = record_from(kind, values)
        self._note(made, None, {c: plain(v) for c, v in values.items() if c != VERSION})
        return made

    def add_all(self, records: Iterable[R]) -> list[R]:
        """Store new records of one class, quicker than one by one; returned with their numbers.

        Raises:
            BadInput: a text is longer than anything on record can be.
        """
        found = list(records)
        if not found:
            return []
        kind = type(found[0])
        table, columns = TABLES[kind], FIELDS[kind]
        rows = [{c: _cleaned(getattr(record, n)) for n, c in columns.items()} for record in found]
        if KEYS[kind] == ("id",):
            last = self._connection.execute(select(func.max(table.c.id))).scalar() or 0
            for number, row in enumerate(rows, last + 1):
                row["id"] = number
        if issubclass(kind, Versioned):
            for row in rows:
                row[VERSION] = self.number
        self._connection.execute(insertion_of(kind), rows)  # type: ignore[arg-type]
        made = [kind(**{n: row[c] for n, c in columns.items()}) for row in rows]
        for record, row in zip(made, rows, strict=True):
            self._note(record, None, {c: plain(v) for c, v in row.items() if c != VERSION})
        return made

    def update(self, record: R, **values: Any) -> R:
        """Store changed values of a record.

        Args:
            record: as it was read, in this transaction or before it. values: field=value.

        Returns:
            The record as it is now.

        Raises:
            StaleRecord: somebody has changed it since it was read; nothing was changed.
            BadInput: a text is longer than anything on record can be.
        """
        return self.update_all([record], **values)[0]

    def update_all(self, records: Sequence[R], **values: Any) -> list[R]:
        """Store the same changed values of several records of one kind, in one statement where all of them change.

        Raises:
            StaleRecord: somebody has changed one of them since it was read.
            BadInput: as for :meth:`update`.
        """
        kept = {n: _cleaned(v) for n, v in values.items()}
        found = [self._as_written(record) for record in records]
        changing = [(now, {n: v for n, v in kept.items() if v != getattr(now, n)}) for now in found]
        made: dict[int, R] = {}
        for names in dict.fromkeys(tuple(changed) for _, changed in changing if changed):
            rows = [(n, now) for n, (now, changed) in enumerate(changing) if tuple(changed) == names]
            self._store({n: kept[n] for n in names}, [now for _, now in rows])
            for n, now in rows:
                made[n] = self._changed(now, {name: kept[name] for name in names})
        return [made.get(n, now) for n, now in enumerate(found)]

    def _store(self, changed: Mapping[str, Any], rows: Sequence[R]) -> None:
        """Write the same values into rows, each only if it is as it was read."""
        kind = type(rows[0])
        stamp = {VERSION: self.number} if isinstance(rows[0], Versioned) else {}
        columns = {FIELDS[kind][n]: v for n, v in changed.items()} | stamp
        to = {f"to_{c}": v for c, v in columns.items()}
        keys = (*KEYS[kind], *(("version",) if stamp else ()))
        wanted = [to | {f"is_{n}": getattr(now, n) for n in keys} for now in rows]
        statement = correction_of(kind, tuple(columns))  # type: ignore[arg-type]
        if self._connection.execute(statement, wanted if len(wanted) > 1 else wanted[0]).rowcount != len(rows):
            self._forget_got()
            there = ((now, self.get(kind, *key_of(now))) for now in rows)
            raise self._stale(next((now for now, row in there if row != now), rows[0]))

    def _changed(self, now: R, changed: Mapping[str, Any]) -> R:
        """A record with what was written, noted for the journal."""
        columns = FIELDS[type(now)]
        made = replace(now, **changed, **({"version": self.number} if isinstance(now, Versioned) else {}))
        before = {columns[n]: plain(getattr(now, n)) for n in changed}
        self._note(made, before, {columns[n]: plain(v) for n, v in changed.items()})
        return made

    def replace(self, before: R, record: R) -> R:
        """Store all values of a record in the row of another; its key stays.

        Raises:
            StaleRecord: somebody has changed it since it was read; nothing was changed.
        """
        fixed = {*KEYS[type(record)], "version"}
        return self.update(before, **{n: getattr(record, n) for n in FIELDS[type(record)] if n not in fixed})

    def put(self, record: R) -> R:
        """Store a record under its key, whether there is one already or not; one that cannot be read is replaced."""
        try:
            there = self.get(type(record), *key_of(record))
        except DamagedCell:
            self.forget(type(record), *key_of(record))
            there = None
        return self.add(record) if there is None else self.replace(there, record)

    def remove(self, record: Record) -> None:
        """Take a record out.

        Raises:
            StaleRecord: somebody has changed it since it was read; nothing was changed.
        """
        kind, now = type(record), self._as_written(record)
        done = self._connection.execute(TABLES[kind].delete().where(self._is(now)))
        if done.rowcount != 1:
            raise self._stale(now)
        image = {c: plain(getattr(now, n)) for n, c in FIELDS[kind].items() if c != VERSION}
        self._note(now, image, None)

    def forget(self, kind: type[Record], *key: Any) -> None:
        """Take out a row that is not journalled, whether it can be read or not."""
        table = TABLES[kind]
        where = [table.c[FIELDS[kind][n]] == v for n, v in zip(KEYS[kind], key, strict=True)]
        self._connection.execute(table.delete().where(*where))
        self._got[kind, key] = None

    @property
    def newest_entry(self) -> int:
        """The number of the last entry, also of this transaction."""
        return self.number - 1

    def revert(self, changes: Sequence[ChangeRow]) -> None:
        """Carry out changes of the journal, such as the inverse of an entry's.

        Raises:
            RowConflict: a row has been changed by something later, or something later hangs on it.
        """
        apply(self._connection, changes, self.number)
        self._changes += changes
        self._written.clear()
        self._forget_got()

    def log(
        self, *, at: datetime, person: str, seat: str, action: str, words: str, tag: str = "",
        undoes: int | None = None, undoable: bool = False, erased: Mapping[str, str] | None = None,
    ) -> JournalEntry:  # fmt: skip
        """Write the journal entry of what was changed since the last one.

        Args:
            undoes: number of the entry that this one takes back. erased: see :mod:`creekbed.store.chain`.
        """
        person, words, changes = clean(person), clean(words), self._changes
        digest = digest_of(said(self.number, at, person, seat, action, words, tag, undoes, undoable, changes))
        entry = JournalEntry(
            id=self.number, at=at, person=person, action=action, words=words, tag=tag, undoes=undoes, undoable=undoable,
            changes=changes, seat=seat, digest=digest, chain=next_chain(self._chain, digest), erased=dict(erased or {}),
        )  # fmt: skip
        self._connection.execute(insertion_of(JournalEntry), {n: getattr(entry, n) for n in FIELDS[JournalEntry]})
        self.entries.append(entry)
        self.number, self._chain, self._changes = self.number + 1, entry.chain, []
        return entry

    @property
    def untouched(self) -> bool:
        """Whether nothing that the journal keeps was changed in this transaction yet."""
        return not self._changes and not self.entries

    @property
    def unlogged(self) -> bool:
        """Whether something was changed for which there is no entry yet."""
        return bool(self._changes)

    def _as_written(self, record: R) -> R:
        """A record as this transaction has left it."""
        found = self._written.get((type(record), key_of(record)), record)
        if found is None:
            raise self._stale(record)
        return found  # type: ignore[return-value]

    def _is(self, record: Record) -> Any:
        table = TABLES[type(record)]
        where = [table.c[FIELDS[type(record)][n]] == getattr(record, n) for n in KEYS[type(record)]]
        if isinstance(record, Versioned):
            where.append(table.c[VERSION] == record.version)
        return and_(*where)

    def _note(self, record: Record, before: dict[str, Any] | None, after: dict[str, Any] | None) -> None:
        kind = type(record)
        self._written[kind, key_of(record)] = self._got[kind, key_of(record)] = record if after is not None else None
        if kind.JOURNALLED:
            key = {FIELDS[kind][n]: plain(getattr(record, n)) for n in KEYS[kind]}
            self._changes.append({"t": kind.TABLE, "k": key, "b": before, "a": after})

    def _stale(self, record: Record) -> StaleRecord:
        """Who has changed a record since it was read, and what they did."""
        kind = type(record)
        self._forget_got()
        there = self.get(kind, *key_of(record))
        entry = self.journal.last_of_row(kind.TABLE, {FIELDS[kind][n]: plain(getattr(record, n)) for n in KEYS[kind]},
                                         getattr(there, "version", 0))  # fmt: skip
        return StaleRecord(kind.TABLE, key_of(record), entry.person if entry else "", entry.words if entry else "")


def _cleaned(value: Any) -> Any:
    """A value with its texts made plain."""
    return everywhere(value) if isinstance(value, str | dict | list | tuple) else value
