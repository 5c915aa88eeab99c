"""The stage bar at the top: each stage as a pool with its count and the jobs that wait for a person; the clock."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFont, QFontMetrics, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from creekbed.core.conventions import clock
from creekbed.window.shared import theme
from creekbed.words.times import clock_words, in_words
from creekbed.workshop.bench.bench_view import HomeView, Shipment, StageCount

NAMES = {
    "book_in": "Book in", "look_over": "Inspect", "clean": "Clean", "fit_out": "Fit out",
    "settle": "Play", "after": "Played", "ready": "Ready",
}  # fmt: skip


HIGH, TWO_LINES = 72, 56
"""Height of the bar, and the least height at which a stage says more than its name, px."""
LEAST_TYPE = 12


def _font(size: float, bold: bool = False, most: float = 1.4) -> QFont:
    """Font of the stage bar: it grows as long as seven pools fit side by side."""
    font = theme.current.font(size, bold)
    font.setPixelSize(round(size * min(theme.current.scale, most)))
    return font


def _fitting(font: QFont, words: str, room: float) -> QFont:
    """The font, or as much smaller as the words need to be whole."""
    while QFontMetrics(font).horizontalAdvance(words) > room and font.pixelSize() > LEAST_TYPE:
        font.setPixelSize(font.pixelSize() - 1)
    return font


class StageButton(QPushButton):
    """One stage: its count in the pool, its name, and what it waits for."""

    def __init__(self, stage: str):
        super().__init__()
        self.stage, self.count, self.current = stage, StageCount(stage, 0, 0, None), False
        self.words = self.short = ""
        self.setObjectName(f"stage_{stage}")
        self.setProperty("kind", "drawn")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMinimumWidth(80)

    def set_count(self, count: StageCount, now: datetime, current: bool) -> None:
        self.count, self.current, self.short = count, current, ""
        if count.stage == "ready" and not count.for_hands:
            self.words = "to go out" if count.count else "none yet"
        elif count.for_hands:
            self.words, self.short = f"{count.for_hands} for hands", f"{count.for_hands} now"
        elif count.next_wait is not None:
            self.words, self.short = f"next {clock_words(count.next_wait, now)}", clock_words(count.next_wait, now)
        else:
            self.words = "stands" if count.count else "clear"
        self.setAccessibleName(f"{NAMES[self.stage]}: {count.count}, {self.words}")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(140, 64)

    def _text_width(self) -> float:
        name = QFontMetrics(_font(theme.TEXT_SIZE + 1, True)).horizontalAdvance(NAMES[self.stage])
        return max(name, QFontMetrics(_font(theme.TEXT_SIZE - 1)).horizontalAdvance(self.words))

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = self.height() / 2
        one_line = self.height() < TWO_LINES
        size = min(44.0, self.height() - 6.0)
        count = QRectF(3, middle - size / 2, size * 1.15, size)
        text_end = count.right() + 14 + self._text_width()
        line = QPainterPath(QPointF(text_end, middle + 2))
        width = self.width() + 4.0
        line.cubicTo(QPointF(text_end + 14, middle - 7), QPointF(width - 14, middle + 9), QPointF(width, middle))
        painter.setPen(QPen(c.q("water"), 7, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        if width - text_end > 10:
            painter.drawPath(line)
        painter.setPen(QPen(c.q("focus"), 4) if self.hasFocus() else QPen(c.q("deep"), 2))
        painter.setBrush(c.q("deep" if self.current else "water"))
        painter.drawEllipse(count)
        painter.setPen(c.q("paper" if self.current else "ink"))
        painter.setFont(_font(20, True, 1.2))
        painter.drawText(count, Qt.AlignmentFlag.AlignCenter, str(self.count.count))
        left = count.right() + 6
        room = self.width() - left - 2
        painter.setFont(_fitting(_font(theme.TEXT_SIZE + 1, True), max(NAMES.values(), key=len), room))
        metrics = painter.fontMetrics()
        small = _font(theme.TEXT_SIZE - 1)
        name, words = NAMES[self.stage], self.words
        painter.setPen(c.q("ink"))
        if one_line:
            painter.drawText(QPointF(left + 2, middle + metrics.ascent() / 2 - 2), name)
            painter.end()
            return
        painter.drawText(QPointF(left + 2, middle - 3), name)
        painter.setFont(small)
        painter.setPen(c.q("deep" if self.count.for_hands else "muted"))
        wide = painter.fontMetrics().horizontalAdvance
        fitting = next((said for said in (words, self.short) if said and wide(said) <= room), "")  # never half a word
        painter.drawText(QPointF(left + 2, middle + metrics.ascent()), fitting)
        painter.end()


class ClockFace(QWidget):
    """The time, and the next departure."""

    def __init__(self) -> None:
        super().__init__()
        self.now: datetime | None = None
        self.departure: Shipment | None = None
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        return QSize(180 if theme.current.scale > 1.2 else 206, 64)

    def set_time(self, now: datetime, shipment: Shipment | None) -> None:
        self.now, self.departure = now, shipment
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.now is None:
            return
        c, painter = theme.current.c, QPainter(self)
        middle, right = self.height() / 2, self.width() - 2
        painter.setPen(c.q("ink"))
        painter.setFont(_font(24, True, 1.2))
        text = clock(self.now, "%a ")
        painter.drawText(QPointF(right - painter.fontMetrics().horizontalAdvance(text), middle), text)
        if self.departure is not None and theme.current.scale <= 1.2:
            painter.setFont(_font(theme.TEXT_SIZE - 1))
            painter.setPen(c.q("muted"))
            left = in_words(self.departure.departure.leaves_at, self.now)
            wide = painter.fontMetrics().horizontalAdvance
            whole = f"{self.departure.departure.name} {left}"
            text = whole if wide(whole) <= right else left  # never half a word
            painter.drawText(QPointF(right - wide(text), middle + 19), text)
        painter.end()


class StageBar(QWidget):
    """The row of pools and the clock. Pressing a pool lists what lies in it."""

    stage_opened = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.line = box = QHBoxLayout(self)
        box.setContentsMargins(24, 0, 24, 0)
        box.setSpacing(0)
        self.stages = {stage: StageButton(stage) for stage in NAMES}
        for stage, count in self.stages.items():
            count.clicked.connect(lambda checked=False, s=stage: self.stage_opened.emit(s))
            box.addWidget(count, 1)
        self.clock = ClockFace()
        box.addWidget(self.clock)
        self.setFixedHeight(HIGH)

    def make_room(self, below: int) -> None:
        """Leave so many px free under the stages, which say their names alone then; the clock stays as it is."""
        for count in self.stages.values():
            count.setMaximumHeight(HIGH - below)
        align = Qt.AlignmentFlag.AlignTop if below else Qt.AlignmentFlag(0)
        for count in self.stages.values():
            self.line.setAlignment(count, align)

    def set_home(self, home: HomeView) -> None:
        """Show the counts of a home view; the pool of what is in hand is the dark one."""
        current = home.next.view.stage if home.next is not None else ""
        for count in home.stages:
            self.stages[count.stage].set_count(count, home.now, count.stage == current)
        self.tell(home.now, home)

    def tell(self, now: datetime, home: HomeView | None) -> None:
        """Show the time."""
        coming = next((x for x in home.shipments if x.departure.leaves_at > now), None) if home is not None else None
        self.clock.set_time(now, coming)
