"""Statements that are made once and carried out often: making one takes as long as carrying it out."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from sqlalchemy import Insert, Select, Update, bindparam, insert, select

from creekbed.store.records import Record, Versioned
from creekbed.store.tables import FIELDS, KEYS, TABLES


@lru_cache(maxsize=256)
def rows_where(kind: type[Record], equals: tuple[tuple[str, str], ...], newest: bool, limit: int | None) -> Select[Any]:
    """The rows of a table whose fields are some values, ordered by key.

    Args:
        equals: (field, "=", "in" or "null").
    """
    table, columns = TABLES[kind], FIELDS[kind]
    found = select(table)
    for name, how in equals:
        column = table.c[columns[name]]
        if how == "null":
            found = found.where(column.is_(None))
        elif how == "in":
            found = found.where(column.in_(bindparam(name, expanding=True)))
        else:
            found = found.where(column == bindparam(name))
    order = [c.desc() if newest else c for c in table.primary_key]
    return found.order_by(*order).limit(limit)


@lru_cache(maxsize=128)
def insertion_of(kind: type[Record]) -> Insert:
    """What puts a row into a table; its values are handed in when it is carried out."""
    return insert(TABLES[kind])


@lru_cache(maxsize=512)
def correction_of(kind: type[Record], columns: tuple[str, ...]) -> Update:
    """What changes some columns of the row of a record: ``to_`` column, where ``is_`` field of its key and version."""
    table = TABLES[kind]
    fields = (*KEYS[kind], "version") if issubclass(kind, Versioned) else KEYS[kind]
    where = []
    for name in fields:
        column = table.c[FIELDS[kind][name]]
        where.append(column == bindparam(f"is_{name}", type_=column.type))
    return table.update().where(*where).values({c: bindparam(f"to_{c}", type_=table.c[c].type) for c in columns})
