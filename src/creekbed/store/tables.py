"""Makes the tables from the records, and reads rows as records."""

from __future__ import annotations

import types
from collections.abc import Callable, Mapping
from dataclasses import MISSING, Field, fields
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any, TypeVar, Union, get_args, get_origin, get_type_hints

from sqlalchemy import (
    JSON,
    Boolean,
    Column,
    Double,
    ForeignKey,
    Index,
    Integer,
    MetaData,
    String,
    Table,
    UniqueConstraint,
)
from sqlalchemy import DateTime as SqlDateTime
from sqlalchemy.engine import Dialect
from sqlalchemy.types import TypeDecorator, TypeEngine

from creekbed.store import records
from creekbed.store.problems import DamagedCell
from creekbed.store.records import Record, Versioned

R = TypeVar("R", bound=Record)


def _careful(
    impl: TypeEngine[Any], dialect: Dialect, coltype: object, then: Callable[[Any], Any]
) -> Callable[[Any], Any]:
    """What reads a value of a column; one that cannot be read raises :class:`DamagedCell`."""
    inner = impl.result_processor(dialect, coltype)

    def process(value: Any) -> Any:
        try:
            return then(inner(value) if inner is not None else value)
        except (ValueError, TypeError, RecursionError) as error:
            raise DamagedCell(f"“{str(value)[:40]}”") from error

    return process


class Json(TypeDecorator[Any]):
    """JSON of one kind, ``list`` or ``dict``; anything else is damaged."""

    impl = JSON
    cache_ok = True

    def __init__(self, kind: type[Any] = dict):
        super().__init__(none_as_null=True)
        self.kind = kind

    def result_processor(self, dialect: Dialect, coltype: object) -> Callable[[Any], Any]:
        def check(value: Any) -> Any:
            if value is not None and not isinstance(value, self.kind):
                raise TypeError
            return value

        return _careful(self.impl_instance, dialect, coltype, check)


class UtcDateTime(TypeDecorator[datetime]):
    """Aware datetimes outside, UTC without zone inside. A naive one is a mistake and is refused."""

    impl = SqlDateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("a time without zone cannot be stored")
        return value.astimezone(UTC).replace(tzinfo=None)

    def result_processor(self, dialect: Dialect, coltype: object) -> Callable[[Any], Any]:
        return _careful(self.impl_instance, dialect, coltype, lambda v: None if v is None else v.replace(tzinfo=UTC))


METADATA = MetaData()


def _type_of(hint: Any, length: int | None) -> tuple[TypeEngine[Any], bool]:
    """The column type of an annotation, and whether the column may be empty."""
    nullable = False
    if get_origin(hint) in (Union, types.UnionType):
        kinds = [a for a in get_args(hint) if a is not type(None)]
        nullable, hint = True, kinds[0]
    return _made(get_origin(hint) or hint, length), nullable


@lru_cache
def _made(kind: type, length: int | None) -> TypeEngine[Any]:
    """The column type of a class; columns share it."""
    if kind is str:
        return String(length)
    if kind in (dict, list):
        return Json(kind)
    made: dict[type, type[TypeEngine[Any]]] = {int: Integer, float: Double, bool: Boolean, datetime: UtcDateTime}
    return made[kind]()


def column_of(field: Field[Any]) -> str:
    """The name of a field's column."""
    return str(field.metadata.get("column", field.name))


def _table(kind: type[Record]) -> Table:
    hints = get_type_hints(kind)
    columns: list[Any] = []
    for field in fields(kind):
        data = field.metadata
        made, nullable = _type_of(hints[field.name], data.get("length"))
        refers = [ForeignKey(data["refers"])] if "refers" in data else []
        columns.append(Column(
            column_of(field), made, *refers, primary_key=data.get("key", False), nullable=nullable,
            index=data.get("index"), unique=data.get("unique"), autoincrement="auto",
        ))  # fmt: skip
    if issubclass(kind, Versioned):  # the first field of the class is the last column of the table
        columns = [c for c in columns if c.name != "version"] + [c for c in columns if c.name == "version"]
    if kind.UNIQUE:
        columns.append(UniqueConstraint(*kind.UNIQUE))
    columns += [Index(name, *names) for name, names in kind.INDEXES.items()]
    return Table(kind.TABLE, METADATA, *columns)


def _kinds() -> list[type[Record]]:
    """Every class of records that has a table, in the order of the module."""
    found = [k for k in vars(records).values() if isinstance(k, type) and issubclass(k, Record)]
    return [k for k in found if "TABLE" in vars(k)]


KINDS: dict[str, type[Record]] = {kind.TABLE: kind for kind in _kinds()}
"""Table → class of its records."""
TABLES: dict[type[Record], Table] = {kind: _table(kind) for kind in KINDS.values()}
UNJOURNALLED = {"alembic_version", *(name for name, kind in KINDS.items() if not kind.JOURNALLED)}
"""Tables of which the journal keeps nothing."""
VERSION = "version"
"""The column that the journal keeps nothing of: it names the entry that wrote the row last."""


FIELDS: dict[type[Record], dict[str, str]] = {
    kind: {field.name: column_of(field) for field in fields(kind)} for kind in TABLES
}
"""Class → field → column."""


def record_from(kind: type[R], row: Mapping[Any, Any]) -> R:
    """The record of a class that a row holds.

    Args:
        row: column → value, of all its columns; others may stand beside them.
    """
    return kind(**{name: row[column] for name, column in FIELDS[kind].items()})


KEYS: dict[type[Record], tuple[str, ...]] = {
    kind: tuple(f.name for f in fields(kind) if f.metadata.get("key")) for kind in TABLES
}
"""Class → fields of its key."""


@lru_cache
def defaults_of(table: str) -> dict[str, Any]:
    """Columns of a table that have a default, with it: what older entries of the journal do not name."""
    kind = KINDS.get(table)
    found: dict[str, Any] = {}
    for field in fields(kind) if kind is not None else ():
        if field.metadata.get("key"):
            continue
        if field.default is not MISSING:
            found[column_of(field)] = field.default
        elif field.default_factory is not MISSING:
            found[column_of(field)] = field.default_factory()
    return found


def plain(value: Any) -> Any:
    """A value as the journal keeps it: times as ISO 8601 in UTC."""
    return value.astimezone(UTC).isoformat() if isinstance(value, datetime) else value


def from_plain(table: Table, column: str, value: Any) -> Any:
    """A value of the journal as its column takes it."""
    if isinstance(table.c[column].type, UtcDateTime) and value is not None:
        return datetime.fromisoformat(value)
    return value


def row_of(table: Table, values: dict[str, Any]) -> dict[str, Any]:
    """A row of the journal as its table takes it."""
    return {name: from_plain(table, name, value) for name, value in values.items() if name in table.c}
