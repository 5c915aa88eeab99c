"""Making the records of a new shop, and how every connection to records is set up."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any
from urllib.parse import quote

from sqlalchemy import Engine, create_engine, event
from sqlalchemy.engine import URL

from creekbed.store.files import create_private, part_of, sync_file, sync_folder
from creekbed.store.layout import FILE, LOGS
from creekbed.store.sqlite.migrating import migrate

BUSY_MS = 2000
PRAGMAS = (
    "PRAGMA journal_mode=WAL", "PRAGMA synchronous=FULL", "PRAGMA foreign_keys=ON", "PRAGMA cell_size_check=ON"
)  # fmt: skip


def make_records(folder: Path) -> None:
    """Make the records of a new shop: whole, or not at all; who makes them first makes them."""
    path = folder / FILE
    part = part_of(path)
    try:
        os.close(create_private(part))
        engine = create_engine(URL.create("sqlite", database=str(part)))
        _begins(engine, BUSY_MS)
        try:
            migrate(engine)
        finally:
            engine.dispose()
        sync_file(part)
        _publish(part, path)
        sync_folder(folder)
    finally:
        for end in ("", *LOGS):
            part.with_name(part.name + end).unlink(missing_ok=True)


def _publish(part: Path, path: Path) -> None:
    """Give new records their name, unless another window was quicker."""
    try:
        os.link(part, path)
    except FileExistsError:
        return
    except OSError:  # a disk without second names
        if not path.exists():
            os.rename(part, path)


def make_engine(path: Path, busy_ms: int = BUSY_MS) -> Engine:
    """An engine on a file of records that is there; each transaction says how long it waits (``patience_ms``)."""
    engine = create_engine(
        f"sqlite:///file:{quote(str(path))}?mode=rw&uri=true", connect_args={"timeout": busy_ms / 1000}
    )

    @event.listens_for(engine, "connect")
    def _connect(connection: Any, record: Any) -> None:
        for pragma in PRAGMAS:
            connection.execute(pragma)

    _begins(engine, busy_ms)
    return engine


def without_waiting(engine: Engine) -> None:
    """Do not wait for the disk: an action that is acknowledged may be lost when the power fails."""

    @event.listens_for(engine, "connect")
    def _connect(connection: Any, record: Any) -> None:
        connection.execute("PRAGMA synchronous=OFF")

    engine.dispose()


def _begins(engine: Engine, busy_ms: int) -> None:
    """Transactions are begun here, not guessed by the driver; one that writes takes its turn at once."""

    @event.listens_for(engine, "connect")
    def _connect(connection: Any, record: Any) -> None:
        connection.isolation_level = None
        connection.text_factory = _text

    @event.listens_for(engine, "begin")
    def _begin(connection: Any) -> None:
        options = connection.get_execution_options()
        patience = int(options.get("patience_ms", busy_ms))
        if connection.info.get("patience_ms") != patience:
            connection.exec_driver_sql(f"PRAGMA busy_timeout={patience}")
            connection.info["patience_ms"] = patience
        connection.exec_driver_sql("BEGIN IMMEDIATE" if options.get("write", False) else "BEGIN")


def _text(raw: bytes) -> str:
    """Text as it is stored; bytes that are no text are shown as such, and found by the reading at the start of day."""
    return raw.decode("utf-8", "replace")
