"""A gauge post in the water: the level is the pitch, the gate on the post is where it belongs."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from creekbed.core.conventions import number
from creekbed.core.sound.string_tuning import IN_TUNE_CENTS, StringReading
from creekbed.window.shared import theme

MARKS = (0, 5, 15, 50, 200)
"""Cents that are written at the post."""
MOST_CENTS, FINE_CENTS = 300.0, 6.0
"""End of the scale, and below what it is even; beyond it grows by the logarithm."""


def height_of(cents: float) -> float:
    """Where a deviation stands on the post: −1 at its foot, 1 at its top."""
    size = math.log1p(min(abs(cents), MOST_CENTS) / FINE_CENTS) / math.log1p(MOST_CENTS / FINE_CENTS)
    return math.copysign(size, cents)


class GaugePost(QWidget):
    """Shows how far a string is off: by height, by words beside the gate, by a pattern; no colour is needed."""

    def __init__(self) -> None:
        super().__init__()
        self.reading: StringReading | None = None
        self.holds = False
        self.setMinimumSize(theme.current.px(240), theme.current.px(260))
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Pitch: nothing is heard")

    def set_reading(self, reading: StringReading | None, holds: bool, words: str) -> None:
        """Show a reading, or the post alone.

        Args:
            holds: it is in tune and steady. words: the same for a screen reader.
        """
        if reading is None and self.reading is None:
            return
        self.reading, self.holds = reading, holds
        if self.accessibleName() != words:
            self.setAccessibleName(words)
        self.update()

    def _y(self, cents: float) -> float:
        middle = self.height() / 2
        return middle - height_of(cents) * (middle - theme.current.px(20))

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scale = theme.current.px(48)
        left, right = float(scale), self.width() - 6.0
        painter.setPen(QPen(c.q("line"), theme.LINE))
        painter.setBrush(c.q("paper"))
        painter.drawRoundedRect(QRectF(left, 4, right - left, self.height() - 8), theme.RADIUS, theme.RADIUS)
        if self.reading is not None:
            self._draw_water(painter, left, right)
        self._draw_marks(painter, left, right)
        self._draw_gate(painter, left, right)
        if self.reading is not None:
            self._draw_level(painter, left, right)
        painter.end()

    def _draw_water(self, painter: QPainter, left: float, right: float) -> None:
        assert self.reading is not None
        c, y = theme.current.c, self._y(self.reading.cents)
        inside = QPainterPath()
        inside.addRoundedRect(QRectF(left + 1, 5, right - left - 2, self.height() - 10), theme.RADIUS, theme.RADIUS)
        painter.save()
        painter.setClipPath(inside)
        painter.fillRect(QRectF(left, y, right - left, self.height() - y), c.q("water"))
        painter.setPen(QPen(c.q("deep"), 1))
        step = theme.current.px(22)
        row = y + step
        while row < self.height():  # ripples: water is known by its pattern too
            x = left + (step if int((row - y) / step) % 2 else step / 2)
            while x < right - step:
                painter.drawArc(QRectF(x, row - 3, step * 0.7, 6), 0, 180 * 16)
                x += step * 1.6
            row += step
        painter.restore()

    def _draw_marks(self, painter: QPainter, left: float, right: float) -> None:
        c = theme.current.c
        painter.setFont(theme.current.font(14))
        for size in MARKS:
            for cents in {size, -size}:
                y = self._y(cents)
                painter.setPen(QPen(c.q("muted"), 1))
                painter.drawLine(QPointF(left, y), QPointF(left + 14, y))
                words = "0" if not cents else f"{'+' if cents > 0 else '−'}{number(abs(cents), 0)}"
                box = QRectF(0, y - 12, left - 6, 24)
                painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)

    def _draw_gate(self, painter: QPainter, left: float, right: float) -> None:
        """Where it belongs: two bars, closed by a frame when it holds."""
        c = theme.current.c
        top, bottom = self._y(IN_TUNE_CENTS), self._y(-IN_TUNE_CENTS)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(c.q("ink"), 3))
        for y in (top, bottom):
            painter.drawLine(QPointF(left + 20, y), QPointF(right - 8, y))
        if self.holds:
            painter.drawRect(QRectF(left + 20, top, right - left - 28, bottom - top))

    def _draw_level(self, painter: QPainter, left: float, right: float) -> None:
        assert self.reading is not None
        c, y = theme.current.c, self._y(self.reading.cents)
        half = theme.current.px(9)
        painter.setPen(QPen(c.q("ink"), 5))
        painter.drawLine(QPointF(left + 6, y), QPointF(right - 6, y))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(c.q("ink"))
        for x, way in ((left, 1), (right, -1)):
            painter.drawPolygon(
                QPolygonF([QPointF(x, y - half), QPointF(x + way * half * 1.6, y), QPointF(x, y + half)])
            )
        doubt = 2 * self.reading.u_cents
        if doubt > 0.5:
            x = (left + right) / 2
            painter.setPen(QPen(c.q("ink"), 2))
            low, high = self._y(self.reading.cents - doubt), self._y(self.reading.cents + doubt)
            painter.drawLine(QPointF(x, low), QPointF(x, high))
            for end in (low, high):
                painter.drawLine(QPointF(x - 6, end), QPointF(x + 6, end))
