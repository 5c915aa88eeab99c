"""The bar below every page: the ways to the pages, the next timer, undo."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtGui import QFont, QFontMetrics, QKeySequence, QResizeEvent, QShortcut
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton

from creekbed.window.frame.next_wait import NextWait
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

WAYS = (
    ("home", "Bench", "F5"), ("day", "The day", "F12"), ("book_in", "Book in", "F6"),
    ("find", "Find", "Ctrl+F"), ("instruments", "Instruments", "Ctrl+I"), ("stock", "Stock", "F7"),
    ("mix", "Tools", "F8"),
    ("house", "Rules", "F9"), ("book", "Reference", "F11"), ("journal", "Activity", "F10"),
)  # fmt: skip
"""Page, words, key."""
PADDING, BETWEEN = 23, 4
"""What a button needs beside its words, and what stands between two of them, px."""
LEAST_USED = ("journal", "house", "book", "mix", "stock", "day")
"""Ways that are left out one after the other where there is no room; Find and their keys still open them."""


class WaysBar(QFrame):
    """The ways to the pages; no word is ever cut, and every key works also where its way is not shown."""

    def __init__(self, frame: Frame):
        super().__init__()
        self.setObjectName("bar")
        inner = QHBoxLayout(self)
        inner.setContentsMargins(24, 4, 24, 4)
        inner.setSpacing(BETWEEN)
        nav = frame.nav
        opens = {
            "home": nav.go_home, "day": nav.open_day, "book_in": nav.open_book_in, "find": nav.open_find,
            "instruments": nav.open_instruments,
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
        self.next_wait.resized.connect(self.fit)
        inner.addWidget(self.next_wait)
        self.undo_button = button("Undo", lambda: frame.undo(), "", "undo")
        inner.addWidget(self.undo_button)
        self.undo_key = QShortcut(QKeySequence(QKeySequence.StandardKey.Undo), frame)
        self.undo_key.activated.connect(lambda: frame.undo())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.fit()

    def fit(self) -> None:
        """Show as much as there is room for: keys first go, then large type, then the ways that are used least."""
        room = self.width() - 48 - self.next_wait.sizeHint().width() - self.undo_button.sizeHint().width() - 3 * BETWEEN
        told = {key: f"{words}  {short}" if short.startswith("F") else words for key, words, short in WAYS}
        plain = {key: words for key, words, _ in WAYS}
        large, least = theme.current.font(theme.TEXT_SIZE, True), theme.current.font(theme.TEXT_SIZE, True)
        least.setPixelSize(theme.TEXT_SIZE)
        ways = [told] if theme.current.scale < 1.3 else []
        shown, font = next(((w, f) for w, f in ((*((w, large) for w in ways), (plain, large), (plain, least)))
                            if _width(w, f) <= room), (plain, least))  # fmt: skip
        shown = dict(shown)
        for key in LEAST_USED:
            if _width(shown, font) <= room:
                break
            del shown[key]
        for key, way in self.ways.items():
            way.setVisible(key in shown)
            way.setFont(font)
            way.setText(shown.get(key, plain[key]))


def _width(words: dict[str, str], font: QFont) -> int:
    """What buttons with these words need side by side, px."""
    metrics = QFontMetrics(font)
    return sum(metrics.horizontalAdvance(text) + PADDING + BETWEEN for text in words.values()) - BETWEEN
