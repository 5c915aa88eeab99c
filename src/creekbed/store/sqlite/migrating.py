"""Bringing the tables to a revision, and which tables each revision has."""

from __future__ import annotations

import contextlib
import sqlite3
from collections.abc import Mapping
from functools import lru_cache
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, event
from sqlalchemy.pool import StaticPool

from creekbed.store.tables import METADATA

HEAD = "0015"
"""Newest revision this program knows; a test compares it with the migration scripts."""
KNOWN = tuple(f"{n:04d}" for n in range(1, int(HEAD) + 1))


def migrate(engine: Engine, revision: str = "head") -> None:
    """Bring the tables to a revision with Alembic, in one transaction.

    Raises:
        sqlalchemy.exc.DBAPIError: the file does not take it; it is as it was.
    """
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.execution_options(write=True).begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)


@lru_cache(maxsize=len(KNOWN))
def tables_at(revision: str) -> Mapping[str, frozenset[str]]:
    """Table → columns of a known revision, by making it in memory."""
    if revision == HEAD:
        found = {t.name: frozenset(c.name for c in t.columns) for t in METADATA.sorted_tables}
        return {**found, "alembic_version": frozenset({"version_num"})}
    engine = create_engine("sqlite://", poolclass=StaticPool)

    @event.listens_for(engine, "connect")
    def _connect(connection: Any, record: Any) -> None:
        connection.isolation_level = None

    migrate(engine, revision)
    connection = engine.raw_connection()
    try:
        return tables_in(connection.driver_connection)  # type: ignore[arg-type]
    finally:
        connection.close()
        engine.dispose()


def tables_in(connection: sqlite3.Connection) -> dict[str, frozenset[str]]:
    """Table → columns of a database, SQLite's own tables left out.

    Raises:
        sqlite3.Error: it cannot be read.
    """
    names = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'")
    with contextlib.closing(connection.cursor()) as cursor:
        return {
            name: frozenset(
                row[0] for row in cursor.execute("SELECT name FROM pragma_table_info(?)", (name,)).fetchall()
            )
            for (name,) in names.fetchall()
        }


def lacking(connection: sqlite3.Connection, revision: str) -> str:
    """What a database of a known revision lacks, in words; "" when all its tables and columns are there.

    Raises:
        sqlite3.Error: it cannot be read.
    """
    there = tables_in(connection)
    for name, columns in sorted(tables_at(revision).items()):
        if name not in there:
            return f"its table “{name}” is not there"
        gone = sorted(columns - there[name])
        if gone:
            return f"its table “{name}” has no column “{gone[0]}”"
    return ""
