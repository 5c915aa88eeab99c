"""A week ahead: each day a basin, as full as hands are planned for, with what gets ready and what leaves."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from creekbed.core.conventions import clock
from creekbed.window.home.running_waits import draw_vessel
from creekbed.window.shared import theme
from creekbed.words.times import span
from creekbed.workshop.bench.schedule_view import DayLoad, DaySchedule

SMALL = 14


class Week(QWidget):
    """The days ahead side by side."""

    def __init__(self) -> None:
        super().__init__()
        self.day: DaySchedule | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(theme.current.px(110))

    def set_day(self, day: DaySchedule) -> None:
        """Show the days ahead of a day."""
        self.day = day
        self.setAccessibleName("A week ahead. " + ". ".join(_words(d) for d in day.week))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.day is None or not self.day.week:
            return
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        wide = self.width() / len(self.day.week)
        line = theme.current.px(SMALL) * 1.5
        most = max((d.there_min for d in self.day.week), default=0.0) or 1.0
        for n, day in enumerate(self.day.week):
            box = QRectF(n * wide + 8, 0, wide - 16, self.height())
            painter.setFont(theme.current.font(theme.NAME_SIZE, True))
            painter.setPen(c.q("ink"))
            name = "Today" if n == 0 else f"{day.date:%a %d}"
            painter.drawText(QRectF(box.left(), 0, box.width(), line * 1.4), Qt.AlignmentFlag.AlignLeft, name)
            foot = line * (2.2 + len(day.departures) * 2)
            high = max((box.height() - line * 1.6 - foot) * (day.there_min / most), 6.0)
            basin = QRectF(box.left(), box.height() - foot - high, box.width(), high)
            share = day.planned_min / day.there_min if day.there_min else 0.0
            if day.there_min:
                draw_vessel(painter, basin, 8.0, min(share, 1.0), share > 1.0)
            else:
                painter.setPen(QPen(c.q("line"), 2))
                painter.drawLine(basin.bottomLeft(), basin.bottomRight())
            painter.setFont(theme.current.font(SMALL))
            painter.setPen(c.q("ink"))
            y = box.height() - foot + 4
            words = f"{share:.0%} of {span(day.there_min)}" if day.there_min else "closed"
            for text in (words, f"{day.ready} get ready" if day.ready else ""):
                painter.drawText(QRectF(box.left(), y, box.width(), line), Qt.AlignmentFlag.AlignLeft, text)
                y += line
            for departure in day.departures:
                short = departure.makes < departure.total
                painter.setPen(QPen(c.q("warn" if short else "ink"), 3))
                painter.drawLine(QPointF(box.left() + 3, y + 3), QPointF(box.left() + 3, y + line * 2 - 4))
                painter.setFont(theme.current.font(SMALL, True))
                inner = QRectF(box.left() + 12, y, box.width() - 12, line)
                metrics = painter.fontMetrics()
                painter.drawText(
                    inner, Qt.AlignmentFlag.AlignLeft,
                    metrics.elidedText(departure.name, Qt.TextElideMode.ElideRight, int(inner.width())),
                )  # fmt: skip
                painter.setFont(theme.current.font(SMALL))
                at = f"{clock(departure.leaves_at)}, {departure.makes} of {departure.total}"
                painter.drawText(inner.translated(0, line), Qt.AlignmentFlag.AlignLeft, at)
                y += line * 2
        painter.end()


def _words(day: DayLoad) -> str:
    share = f"{day.planned_min / day.there_min:.0%} full" if day.there_min else "closed"
    departures = ", ".join(f"{b.name} {b.makes} of {b.total}" for b in day.departures)
    return f"{day.date:%A} {share}, {day.ready} get ready{', ' + departures if departures else ''}"
