"""The bar below every page: the ways to the pages, the next timer, undo."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtGui import QFontMetrics, QKeySequence, QResizeEvent, QShortcut
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton

from creekbed.window.frame.next_wait import NextWait
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

WAYS = (
    ("home", "Bench", "F5"), ("day", "The day", "F12"), ("book_in", "Book in", "F6"),
    ("instruments", "Instruments", "Ctrl+F"), ("stock", "Stock", "F7"), ("mix", "Tools", "F8"),
    ("house", "Rules", "F9"), ("book", "Reference", "F11"), ("journal", "Activity", "F10"),
)  # fmt: skip
"""Page, words, key."""
PADDING = 24
"""What a button needs beside its words, px."""


class WaysBar(QFrame):
    """Where there is no room for the keys beside the words, the words stand alone; the keys work all the same."""

    def __init__(self, frame: Frame):
        super().__init__()
        self.setObjectName("bar")
        inner = QHBoxLayout(self)
        inner.setContentsMargins(24, 4, 24, 4)
        inner.setSpacing(4)
        nav = frame.nav
        opens = {
            "home": nav.go_home, "day": nav.open_day, "book_in": nav.open_book_in, "instruments": nav.open_instruments,
            "stock": nav.open_stock, "mix": nav.open_mix, "house": nav.open_house, "book": nav.open_book,
            "journal": nav.open_journal,
        }  # fmt: skip
        self.ways: dict[str, QPushButton] = {}
        for key, words, short in WAYS:
            way = button(words, opens[key], "quiet", f"way_{key}", short)
            way.setCheckable(True)
            self.ways[key] = way
            inner.addWidget(way)
        inner.addStretch(1)
        self.next_wait = NextWait()
        self.next_wait.clicked.connect(nav.go_home)
        inner.addWidget(self.next_wait)
        self.undo_button = button("Undo", lambda: frame.undo(), "", "undo")
        inner.addWidget(self.undo_button)
        self.undo_key = QShortcut(QKeySequence(QKeySequence.StandardKey.Undo), frame)
        self.undo_key.activated.connect(lambda: frame.undo())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        metrics = QFontMetrics(theme.current.font(theme.TEXT_SIZE, True))
        room = self.width() - 48 - self.next_wait.sizeHint().width() - self.undo_button.sizeHint().width() - 12
        told = {key: f"{words}  {short}" if short.startswith("F") else words for key, words, short in WAYS}
        needed = sum(metrics.horizontalAdvance(text) + PADDING for text in told.values())
        keys = needed <= room and theme.current.scale < 1.3
        for key, words, _ in WAYS:
            self.ways[key].setText(told[key] if keys else words)
