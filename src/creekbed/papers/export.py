"""Records as open files: one JSON document, or one CSV file for each table."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

FORMAT = "creekbed-export-1"
Tables = Mapping[str, Sequence[Mapping[str, Any]]]
"""Table → rows → column → plain value."""


def export_json(tables: Tables, exported_at: datetime) -> bytes:
    """All tables as one JSON document."""
    document = {"format": FORMAT, "exported_at": exported_at.isoformat(), "tables": tables}
    return json.dumps(document, ensure_ascii=False, indent=1).encode()


def export_csv(tables: Tables) -> dict[str, bytes]:
    """All tables as CSV (RFC 4180), file name → content; nested values are JSON in their cell.

    A cell that a spreadsheet would take for a formula is written with a leading apostrophe. A table without rows
    has no file.
    """
    files = {}
    for name, rows in tables.items():
        if not rows:
            continue
        out = io.StringIO(newline="")
        writer = csv.writer(out)
        writer.writerow(rows[0].keys())
        for row in rows:
            writer.writerow([_cell(value) for value in row.values()])
        files[f"{name}.csv"] = out.getvalue().encode()
    return files


def _cell(value: Any) -> Any:
    if isinstance(value, dict | list):
        return json.dumps(value, ensure_ascii=False)
    if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t"):
        return "'" + value
    return value
