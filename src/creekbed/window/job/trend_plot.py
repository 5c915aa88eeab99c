"""Readings of one check from hire to hire on the bands of the check, with the line through them and where it leads."""

from __future__ import annotations

import math
from datetime import datetime

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from creekbed.core.inspection.trend import YEAR_DAYS
from creekbed.core.measure import COVERAGE_FACTOR
from creekbed.core.units import show
from creekbed.window.shared import theme
from creekbed.window.shared.plots import Table
from creekbed.workshop.inspection.trends import CheckHistory

AHEAD = 0.35
"""How much of the past's length is shown ahead where nothing is crossed."""
STRIPES = 60


class TrendPlot(QWidget):
    """Rings: as it went out; discs: as it was found on the bench; the last one is now."""

    def __init__(self, found: CheckHistory):
        super().__init__()
        self.found = found
        self.setMinimumHeight(theme.current.px(128))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        unit = found.check.unit
        said = ", ".join(f"{show(s.reading.value, unit)} in {s.at.astimezone():%b %Y}" for s in found.seen)
        self.setAccessibleName(f"Readings over time: {said}")
        past = max(found.day(found.now), 1.0)
        cross = found.trend.crossing
        self.end = past * (1 + AHEAD)
        if cross is not None:
            self.end = min(max(self.end, cross.day * 1.08), past * 2.5)
        self.low, self.high = self._span()

    def table(self) -> Table:
        """Every reading with its expanded uncertainty, in the unit of the check."""
        unit = self.found.check.unit
        rows = [(s.at.isoformat(), s.reading.value, s.reading.expanded) for s in self.found.seen]
        return ("at", f"{self.found.check.name}, {unit}", "expanded uncertainty (k = 2)"), rows

    def _span(self) -> tuple[float, float]:
        scale = self.found.bands.scale()
        values = [s.reading.value + side * s.reading.expanded for s in self.found.seen for side in (-1, 1)]
        near = [limit for limit in scale.amber if limit is not None]
        heads = self.found.trend.crossing
        middle = sum(values) / len(values)
        if heads is not None:
            values.append(heads.limit)
        elif near:
            values.append(min(near, key=lambda limit: abs(limit - middle)))
        low, high = min(values), max(values)
        room = 0.12 * ((high - low) or 1.0)
        return low - room, high + room

    def _box(self) -> QRectF:
        return QRectF(self.rect()).adjusted(theme.current.px(8), 4, -theme.current.px(64), -theme.current.px(22))

    def _at(self, day: float, value: float) -> QPointF:
        box = self._box()
        share = (min(max(value, self.low), self.high) - self.low) / (self.high - self.low)
        return QPointF(box.left() + day / self.end * box.width(), box.bottom() - share * box.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter, box = theme.current.c, QPainter(self), self._box()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(theme.current.font(13))
        self._bands(painter, box)
        line = self.found.trend.line
        now = self.found.day(self.found.now)
        if line is not None:
            days = [self.end * n / STRIPES for n in range(STRIPES + 1)]
            both = [line.at(day) for day in days]
            upper = [self._at(d, v + COVERAGE_FACTOR * u) for d, (v, u) in zip(days, both, strict=True)]
            lower = [self._at(d, v - COVERAGE_FACTOR * u) for d, (v, u) in zip(days, both, strict=True)]
            painter.setPen(Qt.PenStyle.NoPen)
            wash = c.q("deep")
            wash.setAlphaF(0.16)
            painter.setBrush(wash)
            painter.drawPolygon(QPolygonF([*upper, *lower[::-1]]))
            for start, end, style in ((0.0, now, Qt.PenStyle.SolidLine), (now, self.end, Qt.PenStyle.DashLine)):
                painter.setPen(QPen(c.q("deep"), 2, style))
                painter.drawLine(self._at(start, line.at(start)[0]), self._at(end, line.at(end)[0]))
        x = self._at(now, self.low).x()
        painter.setPen(QPen(c.q("muted"), 1))
        painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
        for seen in self.found.seen:
            day, r = self.found.day(seen.at), seen.reading
            painter.setPen(QPen(c.q("ink"), 1.6))
            painter.drawLine(self._at(day, r.value - r.expanded), self._at(day, r.value + r.expanded))
            painter.setBrush(c.q("card" if seen.out else "ink"))
            painter.drawEllipse(self._at(day, r.value), 4.5, 4.5)
        self._times(painter, box, x)
        painter.end()

    def _bands(self, painter: QPainter, box: QRectF) -> None:
        c, b = theme.current.c, self.found.bands
        painter.fillRect(box, c.q("silt"))
        low = self._at(0, b.green_from if b.green_from is not None else self.low).y()
        high = self._at(0, b.green_to if b.green_to is not None else self.high).y()
        if low > high:
            painter.fillRect(QRectF(box.left(), high, box.width(), low - high), c.q("water"))
        for limit in (b.amber_from, b.amber_to):
            if limit is None or not self.low < limit < self.high:
                continue
            y = self._at(0, limit).y()
            painter.setPen(QPen(c.q("warn"), 1.6, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            painter.setPen(c.q("warn"))
            words = f"act {show(limit, self.found.check.unit)}"
            room = QRectF(box.right() + 4, y - 10, self.width() - box.right() - 4, 20)
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, words)

    def _times(self, painter: QPainter, box: QRectF, now_x: float) -> None:
        """Months below, as many as have room; now is named."""
        painter.setPen(theme.current.c.q("muted"))
        metrics = painter.fontMetrics()
        y = box.bottom() + metrics.ascent() + 3
        taken: list[tuple[float, float]] = []
        rows = [("now", now_x), (_month(self.found.seen[0].at), box.left())]
        cross = self.found.trend.crossing
        if cross is not None and self.found.day(self.found.now) < cross.day < self.end:
            rows.append((_month(self.found.when(cross.day)), self._at(cross.day, self.low).x()))
        elif math.isfinite(self.end):
            rows.append((_month(self.found.when(self.end)), box.right()))
        if self.end > 1.5 * YEAR_DAYS:
            rows.append((_month(self.found.when(YEAR_DAYS)), self._at(YEAR_DAYS, self.low).x()))
        for words, x in rows:
            width = metrics.horizontalAdvance(words)
            left = min(max(x - width / 2, box.left()), self.width() - width - 2.0)
            if all(left > b + 6 or left + width < a - 6 for a, b in taken):
                painter.drawText(QPointF(left, y), words)
                taken.append((left, left + width))


def _month(at: datetime) -> str:
    return f"{at.astimezone():%b %Y}"
