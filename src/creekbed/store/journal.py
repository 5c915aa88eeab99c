"""Changes of records as the journal keeps them: carried out, inverted, replayed from nothing.

A change is ``{"t": table, "k": key, "b": before or null, "a": after or null}`` with JSON values and columns as names;
for an update ``b`` and ``a`` hold the changed columns only. Entries from before revision 0008 use the names of that
time; :func:`current` gives them the names of today.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import cache
from typing import Any

from sqlalchemy import Connection, Executable, Table, bindparam, select
from sqlalchemy.exc import IntegrityError

from creekbed.store.tables import METADATA, UNJOURNALLED, VERSION, defaults_of, from_plain, plain

ChangeRow = dict[str, Any]
State = dict[str, dict[tuple[Any, ...], dict[str, Any]]]
"""Table → key → columns."""
AT_ONCE = 400
"""So many rows of a table are removed or put in with one statement."""
RENAMED: dict[str, tuple[str, dict[str, str]]] = {
    "boat": ("departure", {}),
    "work": ("step_record", {}),
    "school_choice": ("policy_choice", {}),
    "job": ("job", {"boat_id": "departure_id", "schools": "policies"}),
}
"""Table before revision 0008 → table today, and its columns then → today."""


def current(change: ChangeRow) -> ChangeRow:
    """A change with the names of today."""
    found = RENAMED.get(change["t"])
    if found is None:
        return change
    table, columns = found

    def image(row: Mapping[str, Any] | None) -> dict[str, Any] | None:
        return None if row is None else {columns.get(n, n): v for n, v in row.items()}

    return {"t": table, "k": change["k"], "b": image(change["b"]), "a": image(change["a"])}


def invert(changes: Iterable[ChangeRow]) -> list[ChangeRow]:
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


def apply(connection: Connection, changes: Iterable[ChangeRow], version: int) -> None:
    """Carry out changes, each only if the row still looks as the change found it.

    Rows that hang on a removed row and are no work at the bench, such as chances, are removed with it.

    Args:
        version: number of the journal entry that these changes belong to.

    Raises:
        RowConflict: a row has been changed by something later, or something later hangs on it.
    """
    for run in _runs(changes):
        table = METADATA.tables.get(run[0]["t"])
        if table is None:
            raise RowConflict(run[0]["t"], run[0]["k"])
        if len(run) > 1 and run[0]["a"] is None:
            _remove_many(connection, table, run)
            continue
        if len(run) > 1:
            _insert_many(connection, table, run, version)
            continue
        change = run[0]
        where = [table.c[n] == from_plain(table, n, v) for n, v in change["k"].items()]
        row = connection.execute(select(table).where(*where)).mappings().first()
        before, after = change["b"], change["a"]
        now = None if row is None else {n: plain(v) for n, v in row.items()}
        fits = now is None if before is None else now is not None and all(now.get(n) == v for n, v in before.items())
        if not fits:
            raise RowConflict(table.name, change["k"])
        if after is None:
            _remove(connection, table, change["k"], table.delete().where(*where))
            continue
        values = {n: from_plain(table, n, v) for n, v in after.items()}
        if VERSION in table.c:
            values[VERSION] = version
        if before is None:
            connection.execute(table.insert().values({**defaults_of(table.name), **values}))
        else:
            connection.execute(table.update().where(*where).values(values))


def _runs(changes: Iterable[ChangeRow]) -> Iterator[list[ChangeRow]]:
    """Changes in order; rows of one table that are removed, or put in, one after another stand together."""

    def kind(change: ChangeRow) -> tuple[str, str, int]:
        how = "remove" if change["a"] is None else "insert" if change["b"] is None else "update"
        return change["t"], how, len(change["k"])

    for (_, how, keys), same in itertools.groupby(changes, kind):
        if how == "update" or keys != 1:
            yield from ([change] for change in same)
            continue
        found = list(same)
        yield from (found[n : n + AT_ONCE] for n in range(0, len(found), AT_ONCE))


def _there(connection: Connection, table: Table, run: Sequence[ChangeRow]) -> dict[Any, dict[str, Any]]:
    """The rows that a run of changes is about, by their only key."""
    (name,) = run[0]["k"]
    keys = [from_plain(table, name, c["k"][name]) for c in run]
    found = connection.execute(select(table).where(table.c[name].in_(keys))).mappings()
    return {plain(row[name]): {n: plain(v) for n, v in row.items()} for row in found}


def _remove_many(connection: Connection, table: Table, run: Sequence[ChangeRow]) -> None:
    """Remove rows that still look as the changes found them."""
    (name,) = run[0]["k"]
    there = _there(connection, table, run)
    for change in run:
        now = there.get(change["k"][name])
        if now is None or not all(now.get(n) == v for n, v in change["b"].items()):
            raise RowConflict(table.name, change["k"])
    keys = [change["k"][name] for change in run]
    gone = table.delete().where(table.c[name].in_([from_plain(table, name, k) for k in keys]))
    _remove(connection, table, {name: keys}, gone)


def _insert_many(connection: Connection, table: Table, run: Sequence[ChangeRow], version: int) -> None:
    """Put rows in that are not there."""
    (name,) = run[0]["k"]
    there = _there(connection, table, run)
    rows, defaults = [], defaults_of(table.name)
    for change in run:
        if change["k"][name] in there:
            raise RowConflict(table.name, change["k"])
        stamp = {VERSION: version} if VERSION in table.c else {}
        rows.append({**defaults, **{n: from_plain(table, n, v) for n, v in change["a"].items()}, **stamp})
    connection.execute(table.insert(), rows)


def _remove(connection: Connection, table: Table, key: Mapping[str, Any], gone: Executable) -> None:
    """Remove rows, and what hangs on them and is not journalled; anything journalled stands in the way.

    Which row that is, is only asked where the records refuse: there are many tables in which it could be.

    Args:
        key: column → value, or list of values. gone: the statement that removes the rows.

    Raises:
        RowConflict: something journalled hangs on a row.
    """
    hanging = [
        (other, found, {"keys": key[wanted] if isinstance(key[wanted], list) else [key[wanted]]})
        for other, wanted, found in _hanging_on(table)
    ]
    for other, found, keys in hanging:
        if other.name in UNJOURNALLED:
            connection.execute(found, keys)
    try:
        connection.execute(gone)
    except IntegrityError:
        for other, found, keys in hanging:
            held = connection.execute(found, keys).mappings().first() if other.name not in UNJOURNALLED else None
            if held is not None:
                raise RowConflict(other.name, {n: plain(v) for n, v in held.items()}) from None
        raise


@cache
def _hanging_on(table: Table) -> tuple[tuple[Table, str, Executable], ...]:
    """How rows that hang on rows of a table are found, or removed where they are not journalled.

    Returns:
        (their table, column of ``table`` that they name, statement with the values of that column as ``keys``) of each.
    """
    ways: list[tuple[Table, str, Executable]] = []
    for other in METADATA.sorted_tables:
        for column in other.columns:
            for foreign in column.foreign_keys:
                if foreign.column.table is table:
                    hangs = column.in_(bindparam("keys", expanding=True))
                    found = select(*other.primary_key).where(hangs).limit(1)
                    way = other.delete().where(hangs) if other.name in UNJOURNALLED else found
                    ways.append((other, foreign.column.name, way))
    return tuple(ways)


def replay(entries: Iterable[list[ChangeRow]]) -> State:
    """The state that a journal's changes add up to, with the names of today."""
    state: State = {}
    for changes in entries:
        for change in map(current, changes):
            rows = state.setdefault(change["t"], {})
            key = tuple(change["k"].values())
            if change["a"] is None:
                del rows[key]
            elif change["b"] is None:
                rows[key] = {**_plain_defaults(change["t"]), **change["a"]}
            else:
                rows[key].update(change["a"])
    return {t: rows for t, rows in state.items() if rows}


def _plain_defaults(table: str) -> dict[str, Any]:
    return {n: plain(v) for n, v in defaults_of(table).items() if n != VERSION}


def dump(connection: Connection) -> State:
    """The state of all journalled tables, in the form of :func:`replay`."""
    state: State = {}
    for table in METADATA.sorted_tables:
        if table.name in UNJOURNALLED:
            continue
        rows = {}
        for row in connection.execute(select(table)).mappings():
            image = {n: plain(v) for n, v in row.items() if n != VERSION}
            rows[tuple(plain(row[c.name]) for c in table.primary_key)] = image
        if rows:
            state[table.name] = rows
    return state
