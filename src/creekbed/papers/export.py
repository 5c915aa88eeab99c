"""Everything in the records as open files: one JSON document, or one CSV file for each table."""

from __future__ import annotations

import csv
import io
import json
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from creekbed.store.tables import Base

FORMAT = "creekbed-export-1"
LEFT_OUT = {"clock_anchor"}


def tables_of(session: Session) -> dict[str, list[dict[str, Any]]]:
    """Every table as rows of plain values, times in ISO 8601 UTC."""
    found: dict[str, list[dict[str, Any]]] = {}
    for table in Base.metadata.sorted_tables:
        if table.name not in LEFT_OUT:
            rows = session.execute(select(table).order_by(*table.primary_key)).mappings()
            found[table.name] = [
                {k: v.isoformat() if isinstance(v, datetime) else v for k, v in row.items()} for row in rows
            ]
    return found


def export_json(session: Session, exported_at: datetime) -> bytes:
    """The whole of the records as one JSON document."""
    document = {"format": FORMAT, "exported_at": exported_at.isoformat(), "tables": tables_of(session)}
    return json.dumps(document, ensure_ascii=False, indent=1).encode()


def export_csv(session: Session) -> dict[str, bytes]:
    """The records as CSV (RFC 4180), file name → content; nested values are JSON in their cell.

    A cell that a spreadsheet would take for a formula is written with a leading apostrophe.
    """
    files = {}
    for name, rows in tables_of(session).items():
        out = io.StringIO(newline="")
        columns = [c.name for c in Base.metadata.tables[name].columns]
        writer = csv.writer(out)
        writer.writerow(columns)
        for row in rows:
            writer.writerow([_cell(row[c]) for c in columns])
        files[f"{name}.csv"] = out.getvalue().encode()
    return files


def _cell(value: Any) -> Any:
    if isinstance(value, dict | list):
        return json.dumps(value, ensure_ascii=False)
    if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t"):
        return "'" + value
    return value
