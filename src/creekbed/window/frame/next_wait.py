"""The most urgent wait, small, on every page."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QPushButton

from creekbed.core.hygiene.contact import Contact
from creekbed.window.home.running_waits import draw_vessel
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import tip
from creekbed.words.times import left_words
from creekbed.workshop.bench.wait_view import WaitView


class NextWait(QPushButton):
    """A small vessel with the time left; pressing it opens the bench, which shows all waits."""

    resized = Signal()
    """It needs more or less room than before."""

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("kind", "drawn")
        self.setObjectName("next_wait")
        self.share, self.warn, self.big, self.small = 0.0, False, "", ""
        self.hide()

    def set_waits(self, states: Sequence[tuple[WaitView, Contact]]) -> None:
        """Show the first of the waits, which are sorted by urgency."""
        before = (self.isHidden(), self.sizeHint().width())
        self.setVisible(bool(states))
        if not states:
            return
        wait, state = states[0]
        self.warn = wait.dry or bool(state.over)
        self.share = wait.share_left(state)
        self.big = left = left_words(state, wait.dry)
        others = f" +{len(states) - 1}" if len(states) > 1 else ""
        self.small = f"{wait.tag}{others}"
        self.setAccessibleName(f"Next to end: {wait.name}, {wait.tag}: {left}; {len(states) - 1} more run")
        tip(self, self.accessibleName())
        self.updateGeometry()
        self.update()
        if (self.isHidden(), self.sizeHint().width()) != before:
            self.resized.emit()

    def sizeHint(self) -> QSize:
        wide = max(
            QFontMetrics(theme.current.font(theme.NAME_SIZE, True)).horizontalAdvance(self.big or "00 min"),
            QFontMetrics(theme.current.font(13)).horizontalAdvance(self.small),
        )
        return QSize(wide + 56, theme.current.target)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle, high = self.height() / 2, 34.0
        box = QRectF(8, middle - high / 2, 28, high)
        if self.hasFocus():
            painter.setPen(QPen(c.q("focus"), 3))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(2, 2, -2, -2), theme.RADIUS, theme.RADIUS)
        draw_vessel(painter, box, 3.0, self.share, self.warn)
        lines = theme.current.px(theme.NAME_SIZE + 13) * 1.25
        text = QRectF(44, middle - lines / 2, self.width() - 48, lines)
        painter.setPen(c.q("warn" if self.warn else "ink"))
        painter.setFont(theme.current.font(theme.NAME_SIZE, True))
        painter.drawText(text, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft, self.big)
        painter.setPen(c.q("ink"))
        painter.setFont(theme.current.font(13))
        painter.drawText(text, Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignLeft, self.small)
        painter.end()
