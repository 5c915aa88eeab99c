"""Everything on record as plain values, for export."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import select

from creekbed.store.tables import Base
from creekbed.workshop.shop.shop import Shop

LEFT_OUT = {"clock_anchor"}


def whole(shop: Shop) -> dict[str, list[dict[str, Any]]]:
    """Every table as rows of plain values, times in ISO 8601 UTC, all from one state of the records."""
    found: dict[str, list[dict[str, Any]]] = {}
    with shop.reading() as session:
        for table in Base.metadata.sorted_tables:
            if table.name not in LEFT_OUT:
                rows = session.execute(select(table).order_by(*table.primary_key)).mappings()
                found[table.name] = [
                    {k: v.isoformat() if isinstance(v, datetime) else v for k, v in row.items()} for row in rows
                ]
    return found
