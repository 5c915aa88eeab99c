"""Reading a file of records that is not opened for it: no engine, no tables, nothing that takes long to load."""

from __future__ import annotations

import contextlib
import json
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from urllib.parse import quote

from creekbed.store.layout import FILE
from creekbed.store.problems import CANNOT_READ


@contextmanager
def reading(path: Path, *, still: bool = False, timeout_s: float = 2.0) -> Iterator[sqlite3.Connection]:
    """A connection that cannot change the file.

    Args:
        still: nobody else can have it open, and it has no log: a copy.

    Raises:
        sqlite3.Error: it cannot be opened.
    """
    how = "mode=ro&immutable=1" if still else "mode=ro"
    name = f"file:{quote(str(path))}?{how}"
    with contextlib.closing(sqlite3.connect(name, uri=True, timeout=timeout_s, isolation_level=None)) as connection:
        connection.text_factory = _text
        yield connection


def setting_of(folder: Path, key: str) -> Any:
    """A setting of a shop that is not opened for it, as it was stored; ``None`` where it cannot be read."""
    try:
        with reading(folder / FILE) as file:
            row = file.execute("SELECT value FROM setting WHERE key = ?", (key,)).fetchone()
        return json.loads(row[0]).get("v") if row is not None else None
    except (*CANNOT_READ, OSError, ValueError, AttributeError, TypeError):
        return None


def first_action(folder: Path) -> str:
    """The action of the journal's first entry; "" where it has none, or cannot be read."""
    try:
        with reading(folder / FILE) as file:
            row = file.execute("SELECT action FROM journal ORDER BY id LIMIT 1").fetchone()
            return str(row[0]) if row is not None else ""
    except CANNOT_READ:
        return ""


def _text(raw: bytes) -> str:
    return raw.decode("utf-8", "replace")
