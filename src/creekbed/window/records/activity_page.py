"""Activity: the last actions, newest first, with undo for each."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QListWidgetItem, QVBoxLayout

from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import button, label, listing, row
from creekbed.words.times import clock_words
from creekbed.workshop.planning.forecast_calibration import calibration

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


OWN = Qt.ItemDataRole.UserRole + 1
"""Whether an entry can be taken back at this window."""


class ActivityPage(Page):
    """The journal as a list."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP)
        box.addWidget(label("Activity", "title"))
        self.list = listing("Activity, newest first")
        box.addWidget(self.list, 1)
        self.kept = label("", tone="muted")
        box.addWidget(self.kept)
        self.back = button("Undo the last", lambda: frame.undo(), "", "undo_last")
        self.this = button("Undo the chosen one", self._take_back, "", "undo_this")
        self.next = label("", tone="muted")
        kept = button("Backups …", frame.nav.open_kept, "", "to_kept")
        box.addLayout(row(self.back, self.this, self.next, None, kept))
        self.next.setMinimumWidth(theme.current.px(420))
        self.list.currentItemChanged.connect(lambda now, before: self._chosen())

    def _take_back(self) -> None:
        item = self.list.currentItem()
        if item is not None:
            self.frame.undo(item.data(Qt.ItemDataRole.UserRole))

    def _chosen(self) -> None:
        item = self.list.currentItem()
        self.this.setEnabled(item is not None and bool(item.data(OWN)))

    def refresh(self) -> None:
        with self.shop.reading() as records:
            entries = records.journal.latest(150)
        undone = {e.undoes for e in entries if e.undoes is not None}
        mine = {e.id for e in self.shop.undoable(150)} | self.shop.in_the_way
        self.list.clear()
        for entry in entries:
            words = f"{clock_words(entry.at)}  {entry.person}  {entry.words}"
            if entry.id in undone:
                words += "  (undone)"
            item = QListWidgetItem(words)
            item.setFont(theme.current.font(theme.TEXT_SIZE))
            if entry.id in undone or entry.undoes is not None:
                item.setForeground(theme.current.c.q("muted"))
            item.setData(Qt.ItemDataRole.UserRole, entry.id)
            item.setData(OWN, entry.id in mine)
            self.list.addItem(item)
        self._chosen()
        bands = calibration(self.shop)
        words = "; ".join(k.words for k in bands)
        self.kept.setText(f"Forecasts of the last 90 days: {words}." if bands else "")
        self.kept.setVisible(bool(bands))
        last = next(iter(self.shop.undoable(1)), None)
        self.back.setEnabled(last is not None)
        self.next.setText(f"Takes back: {last.words}" if last is not None else "There is nothing to undo.")
