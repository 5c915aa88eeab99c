"""What an empty bench offers: four ways to begin, and what a new shop has not said yet."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QFont, QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QGridLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button, card, clear, label, row, scroll
from creekbed.workshop.shop.set_up import SetUp, SetUpItem

if TYPE_CHECKING:
    from creekbed.window.home.home_page import HomePage


class WayButton(QPushButton):
    """A big target with what it does in large type, and what comes of it below."""

    def __init__(self, name: str, title: str, words: str, on: Callable[[], object]):
        super().__init__()
        self.title, self.words = title, words
        self.setObjectName(name)
        self.setProperty("kind", "drawn")
        self.setAccessibleName(title)
        self.setAccessibleDescription(words)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(theme.current.px(92))
        self.clicked.connect(on)

    def sizeHint(self) -> QSize:
        return QSize(260, theme.current.px(104))

    def _fonts(self, width: int, height: int) -> tuple[QFont, QFont]:
        """The largest type for title and words in which nothing is cut."""
        sizes = ((theme.TITLE_SIZE, theme.NAME_SIZE), (theme.NAME_SIZE, theme.TEXT_SIZE))
        found = [(theme.current.font(a, True), theme.current.font(b)) for a, b in sizes]
        fits = (_height(a, width, self.title) + 6 + _height(b, width, self.words) <= height for a, b in found)
        return next((fonts for fonts, fit in zip(found, fits, strict=True) if fit), found[-1])

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = self.rect().adjusted(1, 1, -2, -2)
        painter.setPen(QPen(c.q("focus"), 3) if self.hasFocus() else QPen(c.q("deep"), 2))
        painter.setBrush(c.q("water" if self.isDown() else "card"))
        painter.drawRoundedRect(box, 8, 8)
        text = box.adjusted(20, 14, -14, -12)
        title, below = self._fonts(text.width(), text.height())
        wrap = Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
        painter.setPen(c.q("ink"))
        painter.setFont(title)
        painter.drawText(text, wrap, self.title)
        used = _height(title, text.width(), self.title) + 6
        painter.setPen(c.q("muted"))
        painter.setFont(below)
        painter.drawText(text.adjusted(0, used, 0, 0), wrap, self.words)
        painter.end()


def _height(font: QFont, width: int, words: str) -> int:
    """How high words are when they wrap."""
    return QFontMetrics(font).boundingRect(0, 0, width, 10_000, int(Qt.TextFlag.TextWordWrap), words).height()


class FirstSteps(QFrame):
    """The four ways, as many as make sense still."""

    def __init__(self, page: HomePage):
        super().__init__()
        self.setObjectName("card")
        nav = page.frame.nav
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 16, 24, 16)
        box.setSpacing(theme.STEP * 2)
        self.head = label("The bench is clear", "title")
        box.addWidget(self.head)
        self.grid = QGridLayout()
        self.grid.setSpacing(theme.STEP * 2)
        box.addLayout(self.grid, 1)
        self.ways = {
            "book_in": WayButton(
                "first_book_in", "Book in what is on the table", "Scan or type a tag; it gets its steps at once.",
                lambda: nav.open_book_in(),
            ),
            "list": WayButton(
                "first_list", "Bring your list", "A table of your instruments from a spreadsheet, all at once.",
                lambda: nav.open_bring(),
            ),
            "stock": WayButton(
                "first_stock", "Count what is on the shelf", "What you use up, so that nothing runs out unseen.",
                lambda: nav.open_count(),
            ),
            "demo": WayButton(
                "first_demo", "See the demo first", "An invented shop at work, in a window and folder of its own.",
                page.open_demo,
            ),
        }  # fmt: skip

    def set_up(self, found: SetUp) -> None:
        """Show the ways that are still ahead."""
        wanted = ["book_in"]
        wanted += ["list"] if found.lacks("instruments") or not found.worked else []
        wanted += ["stock"] if found.lacks("stock") else []
        wanted += ["demo"] if not found.worked else []
        while self.grid.count():
            self.grid.takeAt(0)
        for key, way in self.ways.items():
            way.setVisible(key in wanted)
        for n, key in enumerate(wanted):
            self.grid.addWidget(self.ways[key], n // 2, n % 2)


class SetUpList(QWidget):
    """What is still to say, one line each, with what holds until then."""

    def __init__(self, page: HomePage):
        super().__init__()
        self.page = page
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        surface, box = card()
        box.addWidget(label("Still to say, when there is time", "small"))
        inner = QWidget()
        self.lines = QVBoxLayout(inner)
        self.lines.setContentsMargins(0, 0, 8, 0)
        self.lines.setSpacing(4)
        box.addWidget(scroll(inner), 1)
        outer.addWidget(surface, 1)
        self._shown: tuple[SetUpItem, ...] = ()

    def set_up(self, found: SetUp) -> None:
        """Show what is still to say."""
        if found.unsaid == self._shown:
            return
        self._shown = found.unsaid
        clear(self.lines)
        nav = self.page.frame.nav
        opens: dict[str, Callable[[], object]] = {
            "people": self.page.ask_who, "leaving": lambda: nav.open_days("way"), "hours": self.page.ask_hours,
            "closed": lambda: nav.open_days("off"), "identity": self.page.ask_identity,
            "formats": self.page.ask_formats,
            "instruments": lambda: nav.open_bring(),
            "stock": lambda: nav.open_count(),
        }  # fmt: skip
        for item in found.unsaid:
            texts = QVBoxLayout()
            texts.setSpacing(0)
            texts.addWidget(label(item.name))
            texts.addWidget(label(f"Until then: {item.now}.", tone="muted"))
            say = button("Say", partial(_open, opens[item.key]), "quiet", f"say_{item.key}")
            say.setAccessibleName(f"Say: {item.name}")
            line = row()
            line.addLayout(texts, 1)
            line.addWidget(say)
            self.lines.addLayout(line)
        self.lines.addStretch(1)


def _open(way: Callable[[], object]) -> None:
    way()
