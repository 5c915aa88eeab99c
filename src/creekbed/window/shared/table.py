"""Tables of rows that are only shown: the model, and how every such table looks and is worked."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Generic, TypeVar

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtWidgets import QHeaderView, QTableView

from creekbed.window.shared import theme

Index = QModelIndex | QPersistentModelIndex
R = TypeVar("R")


class RowsModel(QAbstractTableModel, Generic[R]):
    """Rows under fixed headings; what a cell says is the subclass's ``data``."""

    HEADINGS: tuple[str, ...] = ()

    def __init__(self) -> None:
        super().__init__()
        self.rows: Sequence[R] = ()

    def show(self, rows: Sequence[R]) -> None:
        """Show these rows."""
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008  # Qt's own default
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008  # Qt's own default
        return len(self.HEADINGS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return self.HEADINGS[section]
        return None


def table_view(
    model: QAbstractTableModel, name: str, said: str, widths: dict[int, int], *, row_px: int = 36
) -> QTableView:
    """A table for a model; nothing in it can be edited until the caller says so, and Tab leaves it.

    Args:
        name: of the widget. said: what it is, for who hears it. widths: px by column; the others share what is left.
    """
    table = QTableView()
    table.setModel(model)
    table.setObjectName(name)
    table.setAccessibleName(said)
    table.verticalHeader().hide()
    table.verticalHeader().setDefaultSectionSize(theme.current.px(row_px))
    table.setShowGrid(False)
    table.setSelectionBehavior(QTableView.SelectionBehavior.SelectRows)
    table.setEditTriggers(QTableView.EditTrigger.NoEditTriggers)
    table.setTabKeyNavigation(False)
    header = table.horizontalHeader()
    header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    for n in range(model.columnCount()):
        if n in widths:
            header.resizeSection(n, theme.current.px(widths[n]))
        else:
            header.setSectionResizeMode(n, QHeaderView.ResizeMode.Stretch)
    return table
