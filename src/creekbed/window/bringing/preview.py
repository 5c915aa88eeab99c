"""What becomes of each row of a list, as a table."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor

from creekbed.window.shared import theme
from creekbed.workshop.bringing.rows import STATES, RowPlan

HEADINGS = ("Line", "", "Which", "What becomes of it")
SIGNS = {"new": "+", "changed": "~", "same": "=", "problem": "!"}
"""State → a sign, beside the word, so that a column of them can be read at a glance."""
Index = QModelIndex | QPersistentModelIndex


class RowsModel(QAbstractTableModel):
    """The rows in one state, or all."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: Sequence[RowPlan] = ()

    def show(self, rows: Sequence[RowPlan]) -> None:
        """Show these rows."""
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008  # Qt's own default
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008  # Qt's own default
        return len(HEADINGS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return HEADINGS[section]
        return None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            state = f"{SIGNS[row.state]} {STATES[row.state]}"
            return (str(row.line), state, row.key, row.words)[index.column()]
        if role == Qt.ItemDataRole.ToolTipRole:
            return f"<span>{row.words.replace('&', '&amp;').replace('<', '&lt;')}</span>"
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return f"Line {row.line}: {row.key}, {STATES[row.state]}, {row.words}"
        if role == Qt.ItemDataRole.ForegroundRole and row.state in ("problem", "same"):
            return QColor(theme.current.c.q("warn" if row.state == "problem" else "muted"))
        return None
