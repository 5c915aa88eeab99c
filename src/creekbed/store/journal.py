"""What every use case changed, row by row: recorded while it happens, undone exactly, replayed from nothing.

A change is ``{"t": table, "k": primary key, "b": before or null, "a": after or null}`` with JSON values; for an
update ``b`` and ``a`` hold the changed columns only.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import Connection, Table, event, inspect, select
from sqlalchemy.orm import Session

from creekbed.core.text import everywhere
from creekbed.store.tables import UNJOURNALLED, Base, UtcDateTime

Change = dict[str, Any]


def _out(value: Any) -> Any:
    return value.astimezone(UTC).isoformat() if isinstance(value, datetime) else value


def _clean(session: Session, context: Any, instances: Any) -> None:
    """Text is made plain before it is stored, whichever way it came.

    Raises:
        BadInput: a text is longer than anything on record can be.
    """
    for row in (*session.new, *session.dirty):
        for attribute in inspect(row).mapper.column_attrs:
            if attribute.key not in inspect(row).dict:
                continue
            value = getattr(row, attribute.key)
            if isinstance(value, str | dict | list):
                plain = everywhere(value)
                if plain != value:
                    setattr(row, attribute.key, plain)


def from_plain(table: Table, column: str, value: Any) -> Any:
    """A value of the journal as its column takes it."""
    if isinstance(table.c[column].type, UtcDateTime) and value is not None:
        return datetime.fromisoformat(value)
    return value


def row_of(table: Table, plain: Mapping[str, Any]) -> dict[str, Any]:
    """A row of the journal as its table takes it."""
    return {name: from_plain(table, name, value) for name, value in plain.items() if name in table.c}


class Recorder:
    """Collects the changes of one session until it is stopped."""

    def __init__(self, session: Session):
        self.changes: list[Change] = []
        self._session = session
        event.listen(session, "before_flush", _clean)
        event.listen(session, "after_flush", self._after_flush)

    def stop(self) -> None:
        """Listen no longer."""
        event.remove(self._session, "before_flush", _clean)
        event.remove(self._session, "after_flush", self._after_flush)

    def _after_flush(self, session: Session, context: Any) -> None:
        for row in session.new:
            self._add(row, None, self._image(row))
        for row in session.dirty:
            before, after = {}, {}
            for attribute in inspect(row).mapper.column_attrs:
                history = inspect(row).attrs[attribute.key].history
                if history.has_changes():
                    name = attribute.columns[0].name
                    before[name] = _out(history.deleted[0]) if history.deleted else None
                    after[name] = _out(history.added[0]) if history.added else None
            if after:
                self._add(row, before, after)
        for row in session.deleted:
            self._add(row, self._image(row), None)

    def _image(self, row: Any) -> dict[str, Any]:
        return {a.columns[0].name: _out(getattr(row, a.key)) for a in inspect(row).mapper.column_attrs}

    def _add(self, row: Any, before: Any, after: Any) -> None:
        table = row.__table__
        if table.name in UNJOURNALLED:
            return
        mapper = inspect(row).mapper
        key = {c.name: _out(getattr(row, mapper.get_property_by_column(c).key)) for c in table.primary_key}
        self.changes.append({"t": table.name, "k": key, "b": before, "a": after})


def invert(changes: Iterable[Change]) -> list[Change]:
    """The changes that take these back, last first."""
    return [{"t": c["t"], "k": c["k"], "b": c["a"], "a": c["b"]} for c in reversed(list(changes))]


class RowConflict(Exception):
    """A row that is not as a change left it, or on which something hangs that is on record.

    Attributes:
        table, key: the row that stands in the way.
    """

    def __init__(self, table: str, key: Mapping[str, Any]):
        super().__init__(f"{table} {dict(key)}")
        self.table, self.key = table, dict(key)


def apply(connection: Connection, changes: Iterable[Change]) -> None:
    """Carry out changes, each only if the row still looks as the change found it.

    What hangs on a row that goes and is no work at the bench, such as the chance that was given of it, goes with it.

    Raises:
        RowConflict: a row has been changed by something later, or something later hangs on it.
    """
    for change in changes:
        table = Base.metadata.tables[change["t"]]
        where = [table.c[n] == from_plain(table, n, v) for n, v in change["k"].items()]
        row = connection.execute(select(table).where(*where)).mappings().first()
        before, after = change["b"], change["a"]
        now = None if row is None else {n: _out(v) for n, v in row.items()}
        fits = now is None if before is None else now is not None and all(now[n] == v for n, v in before.items())
        if not fits:
            raise RowConflict(table.name, change["k"])
        if after is None:
            _free(connection, table, change["k"])
            connection.execute(table.delete().where(*where))
        else:
            values = {n: from_plain(table, n, v) for n, v in after.items()}
            if before is None:
                connection.execute(table.insert().values(**values))
            else:
                connection.execute(table.update().where(*where).values(**values))


def _free(connection: Connection, table: Table, key: Mapping[str, Any]) -> None:
    """Let a row go: what no journal keeps goes with it, what one does stands in the way."""
    for other in Base.metadata.sorted_tables:
        for column in other.columns:
            for foreign in column.foreign_keys:
                if foreign.column.table is not table:
                    continue
                hangs = column == key[foreign.column.name]
                if other.name in UNJOURNALLED:
                    connection.execute(other.delete().where(hangs))
                    continue
                held = connection.execute(select(*other.primary_key).where(hangs).limit(1)).mappings().first()
                if held is not None:
                    raise RowConflict(other.name, {n: _out(v) for n, v in held.items()})


def replay(entries: Iterable[list[Change]]) -> dict[str, dict[tuple[Any, ...], dict[str, Any]]]:
    """The state that a journal's changes add up to: table → key → columns."""
    state: dict[str, dict[tuple[Any, ...], dict[str, Any]]] = {}
    for changes in entries:
        for change in changes:
            rows = state.setdefault(change["t"], {})
            key = tuple(change["k"].values())
            if change["a"] is None:
                del rows[key]
            elif change["b"] is None:
                rows[key] = dict(change["a"])
            else:
                rows[key].update(change["a"])
    return {t: rows for t, rows in state.items() if rows}


def dump(connection: Connection) -> dict[str, dict[tuple[Any, ...], dict[str, Any]]]:
    """The state of all journalled tables, in the form of :func:`replay`."""
    state = {}
    for table in Base.metadata.sorted_tables:
        if table.name in UNJOURNALLED:
            continue
        rows = {}
        for row in connection.execute(select(table)).mappings():
            rows[tuple(_out(row[c.name]) for c in table.primary_key)] = {n: _out(v) for n, v in row.items()}
        if rows:
            state[table.name] = rows
    return state
