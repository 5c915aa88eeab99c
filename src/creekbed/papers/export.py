"""Records as open files: one JSON document, or one CSV file for each table; written a row at a time."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable, Iterable, Iterator, Mapping
from datetime import datetime
from typing import IO, Any

FORMAT = "creekbed-export-2"
"""2: rows of settings became tables of their own, and some tables have other names."""
Tables = Iterable[tuple[str, Iterator[Mapping[str, Any]]]]
"""(table, rows); a row is column → plain value. The rows of one table are read before the next is asked for."""
_ENCODER = json.JSONEncoder(ensure_ascii=False, check_circular=False)
"""Made once: ``json.dumps`` makes one for each row."""


def export_json(tables: Tables, exported_at: datetime, out: IO[bytes]) -> None:
    """Write all tables as one JSON document."""
    head = {"format": FORMAT, "exported_at": exported_at.isoformat()}
    out.write(json.dumps(head, ensure_ascii=False, indent=1).encode().removesuffix(b"\n}") + b',\n "tables": {')
    first_table = True
    for name, rows in tables:
        out.write(b"" if first_table else b",")
        out.write(f"\n  {json.dumps(name)}: [".encode())
        first_table, first_row = False, True
        for row in rows:
            out.write((b"\n   " if first_row else b",\n   ") + _ENCODER.encode(row).encode())
            first_row = False
        out.write(b"]" if first_row else b"\n  ]")
    out.write(b"\n }\n}\n")


def export_csv(tables: Tables, write: Callable[[str, Iterator[bytes]], None]) -> None:
    """Write all tables as CSV (RFC 4180); nested values are JSON in their cell. A table without rows has no file.

    A cell that a spreadsheet would take for a formula is written with a leading apostrophe.

    Args:
        write: takes the name of a file and its content in pieces.
    """
    for name, rows in tables:
        first = next(rows, None)
        if first is not None:
            write(f"{name}.csv", _csv(first, rows))


def _csv(first: Mapping[str, Any], rows: Iterator[Mapping[str, Any]]) -> Iterator[bytes]:
    yield _line(first.keys())
    yield _line(map(_cell, first.values()))
    for row in rows:
        yield _line(map(_cell, row.values()))


def _line(cells: Iterable[Any]) -> bytes:
    out = io.StringIO(newline="")
    csv.writer(out).writerow(list(cells))
    return out.getvalue().encode()


def _cell(value: Any) -> Any:
    if isinstance(value, dict | list):
        return _ENCODER.encode(value)
    if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t"):
        return "'" + value
    return value
