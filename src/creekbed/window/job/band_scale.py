"""The scale of a check: bands, and the reading on it with its uncertainty."""

from __future__ import annotations

from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from creekbed.core.catalogue.models.parts import Bands
from creekbed.core.units import show
from creekbed.window.shared import theme


class BandScale(QWidget):
    """A measurement on its scale: bands by pattern and word, the reading with its uncertainty."""

    def __init__(self, bands: Bands, unit: str, display: tuple[float, float]):
        super().__init__()
        self.bands, self.unit, self.display = bands, unit, display
        self.value: float | None = None
        self.expanded = 0.0
        self.setMinimumHeight(theme.current.px(78))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def set_reading(self, value: float | None, expanded: float = 0.0) -> None:
        """Show a reading with its expanded uncertainty (k = 2), or none."""
        self.value, self.expanded = value, expanded
        words = "no reading" if value is None else f"{show(value, self.unit)} ± {show(expanded, self.unit)}"
        self.setAccessibleName(f"Scale: {words}")
        self.update()

    def _x(self, value: float) -> float:
        low, high = self.display
        share = (min(max(value, low), high) - low) / (high - low)
        return 12 + share * (self.width() - 24)

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(theme.current.font(13))
        low, high = self.display
        b = self.bands
        edges = [e for e in (b.amber_from, b.green_from, b.green_to, b.amber_to) if e is not None and low < e < high]
        stops = [low, *edges, high]
        top, height = theme.current.px(26), theme.current.px(18)
        scale = b.scale()
        for left, right in pairwise(stops):
            band = scale.band((left + right) / 2)
            box = QRectF(self._x(left), top, self._x(right) - self._x(left), height)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(c.q({"green": "water", "amber": "silt", "act": "card"}[band]))
            painter.drawRect(box)
            if band == "act":
                painter.save()
                painter.setClipRect(box)
                painter.setPen(QPen(c.q("warn"), 1.5))
                x = box.left() - height
                while x < box.right():
                    painter.drawLine(QPointF(x, box.bottom()), QPointF(x + height, box.top()))
                    x += 7
                painter.restore()
            painter.setPen(QPen(c.q("muted"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
            word = {"green": "good", "amber": "watch", "act": "act"}[band]
            if painter.fontMetrics().horizontalAdvance(word) + 4 < box.width():
                painter.setPen(c.q("ink"))
                if band == "act":
                    width = painter.fontMetrics().horizontalAdvance(word) + 10
                    painter.fillRect(
                        QRectF(box.center().x() - width / 2, box.top() + 1, width, height - 2), c.q("card")
                    )
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, word)
        painter.setPen(c.q("muted"))
        last = -100.0
        for edge in edges:
            text = show(edge, self.unit)
            width = painter.fontMetrics().horizontalAdvance(text)
            x = self._x(edge) - width / 2
            if x > last + 4:
                painter.drawText(QPointF(x, top + height + theme.current.px(18)), text)
                last = x + width
        if self.value is not None:
            self._draw_reading(painter, top, height, c.q("ink"))
        painter.end()

    def _draw_reading(self, painter: QPainter, top: int, height: int, ink: QColor) -> None:
        assert self.value is not None
        x = self._x(self.value)
        left, right = self._x(self.value - self.expanded), self._x(self.value + self.expanded)
        middle = top - 6.0
        painter.setPen(QPen(ink, 2))
        painter.drawLine(QPointF(left, middle), QPointF(right, middle))
        for end in (left, right):
            painter.drawLine(QPointF(end, middle - 4), QPointF(end, middle + 4))
        painter.setBrush(ink)
        painter.drawPolygon(QPolygonF([QPointF(x, top + 3), QPointF(x - 6, middle - 5), QPointF(x + 6, middle - 5)]))
        painter.drawLine(QPointF(x, top), QPointF(x, top + height))
        text = show(self.value, self.unit)
        painter.setFont(theme.current.font(theme.TEXT_SIZE, True))
        width = painter.fontMetrics().horizontalAdvance(text)
        at = min(max(2.0, x - width / 2), self.width() - width - 2.0)
        painter.drawText(QPointF(at, middle - 8), text)
