"""Reading records, and changing them in one transaction with its journal entry."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from functools import cached_property
from typing import TYPE_CHECKING, Any, TypeVar

from sqlalchemy import CompoundSelect, Connection, Select, Table, and_, func, select

from creekbed.core.text import clean, everywhere
from creekbed.store.chain import START, digest_of, next_chain, said
from creekbed.store.journal import ChangeRow, apply
from creekbed.store.problems import DamagedCell, StaleRecord
from creekbed.store.records import NEW, ClockAnchor, JournalEntry, Record, Versioned
from creekbed.store.repositories.jobs import Jobs
from creekbed.store.repositories.journal import Journal
from creekbed.store.repositories.planning import Planning
from creekbed.store.repositories.steps import Steps
from creekbed.store.repositories.stock import Stock
from creekbed.store.statements import correction_of, insertion_of, rows_where
from creekbed.store.tables import FIELDS, KEYS, TABLES, VERSION, UtcDateTime, plain

if TYPE_CHECKING:
    from creekbed.store.repositories.fleet import Fleet

R = TypeVar("R", bound=Record)
MOST_AT_ONCE = 500
"""A question names at most this many values; more are asked in batches."""
MOST_KEPT = 100
"""Of an answer of at most so many records, each is known by its key from then on."""
_LAST = (
    select(TABLES[JournalEntry].c.id, TABLES[JournalEntry].c.chain).order_by(TABLES[JournalEntry].c.id.desc()).limit(1)
)


def key_of(record: Record) -> tuple[Any, ...]:
    """The values of a record's key."""
    return tuple(getattr(record, name) for name in KEYS[type(record)])


class Reader:
    """Reads records. All that is read with one reader is one state of the records."""

    def __init__(self, connection: Connection):
        self._connection = connection
        self._got: dict[tuple[type[Record], tuple[Any, ...]], Record | None] = {}

    @property
    def connection(self) -> Connection:
        """For what only the store does, such as putting back a damaged row."""
        return self._connection

    # --- what repositories are built from ---------------------------------------------------------------------------

    def fetch(self, kind: type[R], question: Select[Any], values: Mapping[str, Any] | None = None) -> list[R]:
        """The records that answer a question which selects all columns of their table.

        Raises:
            DamagedCell: a value cannot be read.
        """
        return [record for record, _ in self.fetch_with(kind, question, values)]

    def fetch_with(
        self, kind: type[R], question: Select[Any], values: Mapping[str, Any] | None = None
    ) -> list[tuple[R, Mapping[str, Any]]]:
        """As :meth:`fetch`, each record with its whole row, for what was joined to it.

        Raises:
            DamagedCell: a value cannot be read.
        """
        columns, found = FIELDS[kind].items(), []
        for row in self._connection.execute(question, values or {}).mappings():
            found.append((kind(**{n: row[c] for n, c in columns}), row))
        return found  # type: ignore[return-value]

    def rows(
        self, question: Select[Any] | CompoundSelect[Any], values: Mapping[str, Any] | None = None
    ) -> Sequence[Any]:
        """The rows that answer a question."""
        return self._connection.execute(question, values or {}).all()

    def value(self, question: Select[Any], values: Mapping[str, Any] | None = None) -> Any:
        """The first value of the first row, or ``None``."""
        return self._connection.execute(question, values or {}).scalar()

    # --- any record -------------------------------------------------------------------------------------------------

    def get(self, kind: type[R], /, *key: Any) -> R | None:
        """The record with a key, or ``None``.

        Raises:
            DamagedCell: a value of it cannot be read.
        """
        if (kind, key) not in self._got:
            equals = dict(zip(KEYS[kind], key, strict=True))
            self._got[kind, key] = next(iter(self.all_of(kind, **equals)), None)
        return self._got[kind, key]  # type: ignore[return-value]

    def all_of(self, kind: type[R], /, *, newest: bool = False, limit: int | None = None, **equals: Any) -> list[R]:
        """The records whose fields have these values, ordered by key.

        Args:
            newest: the last key first. equals: field=value; a list, tuple or set means any of these; ``None`` none.

        Raises:
            DamagedCell: a value cannot be read.
        """
        many = next((n for n, v in equals.items() if isinstance(v, list | tuple | set | frozenset)), None)
        how = tuple((n, "null" if v is None else "in" if n == many else "=") for n, v in equals.items())
        question = rows_where(kind, how, newest, limit)  # type: ignore[arg-type]  # a class can be a key
        values = {n: v for n, v in equals.items() if v is not None}
        if many is None:
            found = self.fetch(kind, question, values)
        else:
            among, found = list(equals[many]), []
            for n in range(0, len(among), MOST_AT_ONCE):
                found += self.fetch(kind, question, {**values, many: among[n : n + MOST_AT_ONCE]})
        if len(found) <= MOST_KEPT:
            self._got.update(((kind, key_of(record)), record) for record in found)
        return found

    def first_of(self, kind: type[R], /, *, newest: bool = False, **equals: Any) -> R | None:
        """The first of :meth:`all_of`, or ``None``."""
        return next(iter(self.all_of(kind, newest=newest, limit=1, **equals)), None)

    def readable(self, kind: type[R], /, *, newest: bool = False, limit: int | None = None, **equals: Any) -> list[R]:
        """As :meth:`all_of`, without records that cannot be read; the daily check finds those."""
        try:
            return self.all_of(kind, newest=newest, limit=limit, **equals)
        except DamagedCell:
            found = list(self._one_by_one(kind, equals))
            return (found[::-1] if newest else found)[:limit]

    def _one_by_one(self, kind: type[R], equals: Mapping[str, Any]) -> Iterator[R]:
        table = TABLES[kind]
        every = self._connection.execute(select(*table.primary_key).order_by(*table.primary_key)).all()
        for key in every:
            try:
                record = self.get(kind, *key)
            except DamagedCell:
                continue
            if record is not None and all(_fits(getattr(record, n), v) for n, v in equals.items()):
                yield record

    def by_job(self, kind: type[R], jobs: Sequence[int]) -> dict[int, tuple[R, ...]]:
        """The records of each of some jobs, ordered by key; the class has a field ``job_id``."""
        found: dict[int, list[R]] = {n: [] for n in jobs}
        for record in self.all_of(kind, job_id=list(jobs)):
            found[record.job_id].append(record)  # type: ignore[attr-defined]
        return {n: tuple(rows) for n, rows in found.items()}

    def count(self, kind: type[Record]) -> int:
        """How many records there are."""
        return int(self.value(select(func.count()).select_from(TABLES[kind])) or 0)

    def tables(self) -> Iterator[tuple[str, Iterator[dict[str, Any]]]]:
        """Every table but the clock's with its rows as plain values, a row at a time.

        Times are ISO 8601 in UTC. Read the rows of one table before the next.
        """
        for kind, table in TABLES.items():
            if kind is not ClockAnchor:
                yield kind.TABLE, self._plain_rows(table)

    def count_all(self) -> int:
        """How many rows :meth:`tables` gives."""
        return sum(
            int(self.value(select(func.count()).select_from(table)) or 0)
            for kind, table in TABLES.items()
            if kind is not ClockAnchor
        )

    def _plain_rows(self, table: Table) -> Iterator[dict[str, Any]]:
        names = [c.name for c in table.c]
        times = [n for n, c in enumerate(table.c) if isinstance(c.type, UtcDateTime)]
        question = select(table).order_by(*table.primary_key).execution_options(yield_per=MOST_AT_ONCE)
        for row in self._connection.execute(question):
            values = list(row)
            for n in times:
                values[n] = plain(values[n])
            yield dict(zip(names, values, strict=True))

    # --- repositories -----------------------------------------------------------------------------------------------

    @cached_property
    def jobs(self) -> Jobs:
        return Jobs(self)

    @cached_property
    def steps(self) -> Steps:
        return Steps(self)

    @cached_property
    def fleet(self) -> Fleet:
        from creekbed.store.repositories.fleet import Fleet  # the window opens without it

        return Fleet(self)

    @cached_property
    def stock(self) -> Stock:
        return Stock(self)

    @cached_property
    def journal(self) -> Journal:
        return Journal(self)

    @cached_property
    def planning(self) -> Planning:
        return Planning(self)


def _fits(value: Any, wanted: Any) -> bool:
    return value in wanted if isinstance(wanted, list | tuple | set | frozenset) else bool(value == wanted)


class Change(Reader):
    """Changes records in one transaction, and writes the journal entry that says what was changed.

    Attributes:
        number: of the journal entry that is being written. entries: those written in this transaction.
    """

    def __init__(self, connection: Connection):
        super().__init__(connection)
        last = connection.execute(_LAST).first()
        self.number: int = last[0] + 1 if last is not None else 1
        self._chain: str = last[1] if last is not None else START
        self.entries: list[JournalEntry] = []
        self._changes: list[ChangeRow] = []
        self._written: dict[tuple[type[Record], tuple[Any, ...]], Record | None] = {}

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
        made = kind(**{n: values[c] for n, c in FIELDS[kind].items()})
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
        kind = type(record)
        now = self._as_written(record)
        changed = {n: _cleaned(v) for n, v in values.items()}
        changed = {n: v for n, v in changed.items() if v != getattr(now, n)}
        if not changed:
            return now
        columns = {FIELDS[kind][n]: v for n, v in changed.items()}
        stamp = {VERSION: self.number} if isinstance(now, Versioned) else {}
        wanted = {f"to_{c}": v for c, v in {**columns, **stamp}.items()}
        wanted |= {f"is_{n}": getattr(now, n) for n in (*KEYS[kind], *(("version",) if stamp else ()))}
        done = self._connection.execute(correction_of(kind, (*columns, *stamp)), wanted)  # type: ignore[arg-type]
        if done.rowcount != 1:
            raise self._stale(now)
        made = replace(now, **changed, **({"version": self.number} if stamp else {}))
        before = {FIELDS[kind][n]: plain(getattr(now, n)) for n in changed}
        self._note(made, before, {c: plain(v) for c, v in columns.items()})
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

    def revert(self, changes: Sequence[ChangeRow]) -> None:
        """Carry out changes of the journal, such as the inverse of an entry's.

        Raises:
            RowConflict: a row has been changed by something later, or something later hangs on it.
        """
        apply(self._connection, changes, self.number)
        self._changes += changes
        self._written.clear()
        self._got.clear()

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
        self._got.clear()
        there = self.get(kind, *key_of(record))
        entry = self.journal.last_of_row(kind.TABLE, {FIELDS[kind][n]: plain(getattr(record, n)) for n in KEYS[kind]},
                                         getattr(there, "version", 0))  # fmt: skip
        return StaleRecord(kind.TABLE, key_of(record), entry.person if entry else "", entry.words if entry else "")


def _cleaned(value: Any) -> Any:
    """A value with its texts made plain."""
    return everywhere(value) if isinstance(value, str | dict | list | tuple) else value


def table_of(kind: type[Record]) -> Table:
    """The table of a class of records."""
    return TABLES[kind]
