"""The list of copies, the contents of the chosen one, and the restore action."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QListWidgetItem, QVBoxLayout, QWidget

from creekbed.core.conventions import number
from creekbed.core.errors import CreekbedError
from creekbed.store.maintenance import Copy, all_copies
from creekbed.window.shared import theme
from creekbed.window.shared.background_writes import BackgroundWrites
from creekbed.window.shared.widgets import button, card, label, listing, restyle, row, scroll
from creekbed.workshop.shop.backup_lines import holds, lost, title_of, whole


class CopiesView(QWidget):
    """The copies of a data folder, newest first.

    Args:
        folder: the data folder. chosen: told which copy to go back to.
    """

    def __init__(self, folder: Path, chosen: Callable[[Copy], None]):
        super().__init__()
        self.folder = folder
        self._chosen = chosen
        self.copies: list[Copy] = []
        self.reading = BackgroundWrites(self, self._failed)
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(theme.STEP * 2)
        left = QVBoxLayout()
        left.setSpacing(theme.STEP)
        self.words = label("", tone="muted")
        left.addWidget(self.words)
        self.list = listing("What there is to go back to, newest first")
        self.list.setObjectName("copies")
        self.list.currentRowChanged.connect(self._show)
        left.addWidget(self.list, 1)
        box.addLayout(left, 55)
        frame, inner = card(margin=20)
        self.title = label("", "name")
        self.kind, self.holds, self.whole, self.lost = label(""), label(""), label(""), label("", "name")
        told = QWidget()
        lines = QVBoxLayout(told)
        lines.setContentsMargins(0, 0, 8, 0)
        for widget in (self.title, self.kind, self.holds, self.whole, self.lost):
            lines.addWidget(widget)
        lines.addStretch(1)
        inner.addWidget(scroll(told), 1)
        self.note = label("What is here now is kept aside, and you can go back to it in the same way.", tone="muted")
        inner.addWidget(self.note)
        self.go = button("Go back to this copy", self._go, "warn", "go_back")
        self.go.setEnabled(False)
        inner.addLayout(row(self.go, None))
        box.addWidget(frame, 45)

    def read(self) -> None:
        """Read all of them through, off the window's thread."""
        self.words.setText("Reading the copies through …")
        self.reading.start(lambda: all_copies(self.folder), self.show_copies)

    def _failed(self, error: CreekbedError) -> None:
        self.words.setText(error.words())

    def show_copies(self, copies: list[Copy]) -> None:
        """Show what was found."""
        self.copies = copies
        good = sum(c.facts.whole for c in copies)
        self.words.setText(
            f"{len(copies)} to go back to, {good} of them whole, "
            f"{number(sum(c.size for c in copies) / 1e6, 1)} MB in all. "
            "One is made every day: a week of them is kept, then one a week for a month, then one a month for a year."
            if copies
            else "There is nothing to go back to yet. A copy is made every day."
        )
        self.list.clear()
        for copy in copies:
            state = f"Whole. {lost(copy)}" if copy.facts.whole else f"Not whole: {copy.facts.wrong}."
            item = QListWidgetItem(f"{title_of(copy)}\n{state}".rstrip())
            item.setFont(theme.current.font(theme.TEXT_SIZE))
            if not copy.facts.whole:
                item.setForeground(theme.current.c.q("warn"))
            item.setData(Qt.ItemDataRole.UserRole, copy.name)
            self.list.addItem(item)
        first = next((n for n, c in enumerate(copies) if c.facts.whole), 0)
        self.list.setCurrentRow(first if copies else -1)
        self._show(self.list.currentRow())

    def _show(self, at: int) -> None:
        copy = self.copies[at] if 0 <= at < len(self.copies) else None
        self.go.setEnabled(copy is not None and copy.facts.whole)
        self.note.setVisible(copy is not None)
        if copy is None:
            for widget in (self.title, self.kind, self.holds, self.whole, self.lost):
                widget.setText("")
            return
        self.title.setText(title_of(copy))
        self.kind.setText(f"{copy.name}, {number(copy.size / 1e6, 1)} MB")
        self.holds.setText(holds(copy))
        self.whole.setText(whole(copy))
        restyle(self.whole, tone="" if copy.facts.whole else "warn")
        self.lost.setText(lost(copy))

    def _go(self) -> None:
        at = self.list.currentRow()
        if 0 <= at < len(self.copies):
            self._chosen(self.copies[at])
