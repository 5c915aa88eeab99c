"""What every record has in common."""

from __future__ import annotations

from typing import Any, ClassVar

from creekbed.core.quick_dataclasses import dataclass

NEW = 0
"""The number of a record that is not stored yet."""

KEY = {"key": True}
INDEXED = {"index": True}
UNIQUE = {"unique": True}


def refers(column: str, **more: bool | int) -> dict[str, Any]:
    """Metadata of a column that refers to another table: "table.column"."""
    return {"refers": column, **more}


@dataclass(frozen=True, slots=True, kw_only=True)
class Record:
    """A row of a table.

    Attributes:
        TABLE: name of the table. UNIQUE: columns that are unique together. INDEXES: name → columns.
        JOURNALLED: whether the journal keeps every change of it.
    """

    TABLE: ClassVar[str]
    UNIQUE: ClassVar[tuple[str, ...]] = ()
    INDEXES: ClassVar[dict[str, tuple[str, ...]]] = {}
    JOURNALLED: ClassVar[bool] = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Versioned(Record):
    """A row that people change.

    Attributes:
        version: number of the journal entry that wrote it last; who changes an older version is refused.
    """

    version: int = 0
