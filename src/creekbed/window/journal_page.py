"""What was done: the last actions, newest first, and taking them back one by one."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QListWidgetItem, QVBoxLayout
from sqlalchemy import select

from creekbed.store.tables import Entry
from creekbed.window import theme
from creekbed.window.page import Page
from creekbed.window.times import clock_words
from creekbed.window.widgets import button, label, listing, row
from creekbed.workshop.kept import calibration

if TYPE_CHECKING:
    from creekbed.window.frame import Frame


class JournalPage(Page):
    """The journal as a list."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP)
        box.addWidget(label("What was done", "title"))
        self.list = listing("What was done, newest first")
        box.addWidget(self.list, 1)
        self.kept = label("", tone="muted")
        box.addWidget(self.kept)
        self.back = button("Undo the last", frame.undo, "", "undo_last")
        self.next = label("", tone="muted")
        box.addLayout(row(self.back, self.next, None))
        self.next.setMinimumWidth(theme.current.px(600))

    def refresh(self) -> None:
        with self.shop.reading() as session:
            entries = list(session.scalars(select(Entry).order_by(Entry.id.desc()).limit(150)))
        undone = {e.undoes for e in entries if e.undoes is not None}
        self.list.clear()
        for entry in entries:
            words = f"{clock_words(entry.at)}  {entry.person}  {entry.words}"
            if entry.id in undone:
                words += "  (undone)"
            item = QListWidgetItem(words)
            item.setFont(theme.current.font(theme.TEXT_SIZE))
            if entry.id in undone or entry.undoes is not None:
                item.setForeground(theme.current.c.q("muted"))
            self.list.addItem(item)
        bands = calibration(self.shop)
        words = "; ".join(k.words for k in bands)
        self.kept.setText(f"Forecasts of the last 90 days: {words}." if bands else "")
        self.kept.setVisible(bool(bands))
        last = next(iter(self.shop.undoable(1)), None)
        self.back.setEnabled(last is not None)
        self.next.setText(f"Takes back: {last.words}" if last is not None else "There is nothing to undo.")
