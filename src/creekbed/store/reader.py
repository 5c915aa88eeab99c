"""Reading records: any by their fields, and the questions of the repositories."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from operator import itemgetter
from typing import TYPE_CHECKING, Any, TypeVar

from sqlalchemy import CompoundSelect, Connection, Select, Table, func, select

from creekbed.store.problems import DamagedCell
from creekbed.store.records import ClockAnchor, Record
from creekbed.store.repositories.jobs import Jobs
from creekbed.store.repositories.journal import Journal
from creekbed.store.repositories.planning import Planning
from creekbed.store.repositories.steps import Steps
from creekbed.store.repositories.stock import Stock
from creekbed.store.statements import rows_where
from creekbed.store.tables import KEYS, TABLES, UtcDateTime, plain, record_from

if TYPE_CHECKING:
    from creekbed.store.repositories.fleet import Fleet

R = TypeVar("R", bound=Record)
MOST_AT_ONCE = 500
"""A question names at most this many values; more are asked in batches."""
MOST_KEPT = 100
"""Of an answer of at most so many records, each is known by its key from then on."""


def key_of(record: Record) -> tuple[Any, ...]:
    """The values of a record's key."""
    return tuple(getattr(record, name) for name in KEYS[type(record)])


class Reader:
    """Reads records. All that is read with one reader is one state of the records."""

    def __init__(self, connection: Connection):
        self._connection = connection
        self._got: dict[tuple[type[Record], tuple[Any, ...]], Record | None] = {}
        self._got_all: set[type[Record]] = set()

    @property
    def newest_entry(self) -> int | None:
        """The number of the journal's last entry, where it is known without asking; 0 before the first."""
        return None

    @property
    def connection(self) -> Connection:
        """For what only the store does, such as putting back a damaged row; nothing read before counts as known."""
        self._forget_got()
        return self._connection

    def _forget_got(self) -> None:
        self._got.clear()
        self._got_all.clear()

    # --- what repositories are built from ---------------------------------------------------------------------------

    def fetch(self, kind: type[R], question: Select[Any], values: Mapping[str, Any] | None = None) -> list[R]:
        """The records that answer a question which selects all columns of their table.

        Raises:
            DamagedCell: a value cannot be read.
        """
        found = [record for record, _ in self.fetch_with(kind, question, values)]
        if len(found) <= MOST_KEPT:
            self._got.update(((kind, key_of(record)), record) for record in found)
        return found

    def fetch_with(
        self, kind: type[R], question: Select[Any], values: Mapping[str, Any] | None = None
    ) -> list[tuple[R, Mapping[str, Any]]]:
        """As :meth:`fetch`, each record with its whole row, for what was joined to it.

        Raises:
            DamagedCell: a value cannot be read.
        """
        rows = self._connection.execute(question, values or {}).mappings()
        return [(record_from(kind, row), row) for row in rows]  # type: ignore[misc]

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
        if (kind, key) not in self._got and kind not in self._got_all:
            equals = dict(zip(KEYS[kind], key, strict=True))
            self._got[kind, key] = next(iter(self.all_of(kind, **equals)), None)
        return self._got.get((kind, key))  # type: ignore[return-value]

    def all_of(self, kind: type[R], /, *, newest: bool = False, limit: int | None = None, **equals: Any) -> list[R]:
        """The records whose fields have these values, ordered by key.

        Args:
            newest: the last key first. equals: field=value; a list, tuple or set means any of these; ``None`` none.

        Raises:
            DamagedCell: a value cannot be read.
        """
        if kind in self._got_all and not equals and limit is None:
            return self._all_got(kind, newest)
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
        if len(found) <= MOST_KEPT and not equals and limit is None:
            self._got_all.add(kind)
        return found

    def _all_got(self, kind: type[R], newest: bool) -> list[R]:
        got = [(key, record) for (of, key), record in self._got.items() if of is kind and record is not None]
        return [record for _, record in sorted(got, key=itemgetter(0), reverse=newest)]  # type: ignore[misc]

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
