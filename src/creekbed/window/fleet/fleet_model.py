"""The rows of the fleet as a table, filtered while somebody types."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor

from creekbed.window.shared import theme
from creekbed.window.shared.table import Index, RowsModel
from creekbed.words.instruments import PLACES
from creekbed.workshop.fleet.fleet import FleetRow

DUE = "due"
"""Filter: hires that end soon."""


class FleetModel(RowsModel[FleetRow]):
    """The instruments that a search and a filter leave."""

    HEADINGS = ("Tag", "What", "Size", "Where", "Next")

    def __init__(self) -> None:
        super().__init__()
        self.every: Sequence[FleetRow] = ()

    def find(self, text: str, place: str, family: str, today: date) -> None:
        """Show the rows in which every word of a text is found.

        Args:
            place: of :data:`PLACES`, :data:`DUE`, or "" for any. family: key, or "" for any.
        """
        words = text.lower().split()
        self.show([
            row for row in self.every
            if (not place or row.place == place or (place == DUE and row.due(today)))
            and (not family or row.family == family) and all(w in row.found_by for w in words)
        ])  # fmt: skip

    def counts(self, today: date) -> dict[str, int]:
        """How many instruments are in each place, and how many are due."""
        found = dict.fromkeys((*PLACES, DUE), 0)
        for row in self.every:
            found[row.place] += 1
            found[DUE] += row.due(today)
        return found

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return (row.tag, row.kind, row.size, row.where, row.next)[index.column()]
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return f"{row.tag}, {row.kind} {row.size}: {row.where}. {row.next}"
        if role == Qt.ItemDataRole.ForegroundRole and index.column() == 4 and row.overdue:
            return QColor(theme.current.c.q("warn"))
        if role == Qt.ItemDataRole.FontRole and index.column() == 0:
            return theme.current.font(theme.TEXT_SIZE, True)
        return None
