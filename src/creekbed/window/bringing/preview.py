"""What becomes of each row of a list, as a table."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor

from creekbed.window.shared import theme
from creekbed.window.shared.table import Index, RowsModel
from creekbed.workshop.bringing.rows import STATES, RowPlan

SIGNS = {"new": "+", "changed": "~", "same": "=", "problem": "!"}
"""State → a sign, beside the word, so that a column of them can be read at a glance."""


class PreviewModel(RowsModel[RowPlan]):
    """The rows in one state, or all."""

    HEADINGS = ("Line", "", "Which", "What becomes of it")

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
