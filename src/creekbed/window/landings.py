"""The creek below the bench: a stretch for each boat, with what reaches it, and what does not and why."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from creekbed.core.planning.explain import span
from creekbed.window import theme
from creekbed.window.times import clock_words, in_words
from creekbed.window.widgets import Flow, button, card, clear, label, scroll
from creekbed.workshop.bench import Aboard, HomeView, Landing


class Stone(QPushButton):
    """One instrument on its way: its number, and its forecast or what holds it. The more is done, the rounder."""

    def __init__(self, aboard: Aboard, now: datetime):
        super().__init__()
        self.aboard = aboard
        self.big = aboard.tag.split("-")[-1]
        if aboard.blocked:
            self.small = aboard.blocked
        elif aboard.ready:
            self.small = "ready"
        elif aboard.finish is None:
            self.small = "no forecast"
        elif aboard.late_min > 0:
            self.small = f"{span(aboard.late_min)} late"
        else:
            self.small = clock_words(aboard.finish, now)
        self.trouble = bool(aboard.blocked) or aboard.late_min > 0 or (aboard.finish is None and not aboard.ready)
        self.setAccessibleName(f"{aboard.tag}, {aboard.family}: {self.small}")
        self.setToolTip(f"{aboard.tag}, {aboard.family}: {self.small}")
        self.setObjectName(f"stone_{aboard.tag}")
        self.setStyleSheet("border: none; background: transparent; padding: 0;")

    def sizeHint(self) -> QSize:
        small = self._small_width()
        return QSize(max(theme.current.px(76), small + 24), theme.current.target)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def _small_width(self) -> int:
        bold = QFontMetrics(theme.current.font(theme.TEXT_SIZE, True)).horizontalAdvance(self.big)
        return max(bold, QFontMetrics(theme.current.font(13)).horizontalAdvance(self.small)) + (
            18 if self.trouble or self.aboard.ready else 0
        )

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
        round_by = 5 + (box.height() / 2 - 5) * (1.0 if self.aboard.ready else self.aboard.share)
        painter.setBrush(c.q("warn_soft" if self.trouble else "water" if self.aboard.ready else "card"))
        edge = (
            c.q("focus")
            if self.hasFocus()
            else c.q("warn" if self.trouble else "deep" if self.aboard.ready else "muted")
        )
        painter.setPen(QPen(edge, 3 if self.hasFocus() else 2 if self.trouble else 1.3))
        painter.drawRoundedRect(box, round_by, round_by)
        left = 12.0
        if self.trouble or self.aboard.ready:
            painter.setPen(QPen(c.q("warn" if self.trouble else "deep"), 2.2))
            y, x = box.center().y(), box.left() + 15
            if self.trouble:  # a rock in the stream
                painter.drawPolygon([QPointF(x - 6, y + 6), QPointF(x, y - 6), QPointF(x + 6, y + 6)])
            else:  # a tick
                painter.drawPolyline([QPointF(x - 6, y), QPointF(x - 1, y + 5), QPointF(x + 6, y - 5)])
            left = 28.0
        text = box.adjusted(left, 3, -8, -3)
        painter.setPen(c.q("ink"))
        painter.setFont(theme.current.font(theme.TEXT_SIZE, True))
        painter.drawText(text, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft, self.big)
        painter.setFont(theme.current.font(13))
        painter.setPen(c.q("warn" if self.trouble else "ink"))
        painter.drawText(text, Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignLeft, self.small)
        painter.end()


class Stretch(QWidget):
    """The creek up to one boat: its breadth is how full the bench runs, the post at its end is the landing."""

    def __init__(self, load: list[float], trouble: bool):
        super().__init__()
        self.load, self.trouble = load or [0.0], trouble
        self.setFixedHeight(theme.current.px(30))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        busy = sum(self.load) / len(self.load)
        self.setAccessibleName(f"Bench {100 * busy:.0f} % full until this boat")

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        w, h = self.width() - 16.0, float(self.height())
        count = len(self.load)
        xs = [w * n / max(1, count - 1) for n in range(count)] if count > 1 else [0.0, w]
        halves = [2.5 + (h / 2 - 4) * value for value in (self.load if count > 1 else self.load * 2)]
        path = QPainterPath(QPointF(0, h / 2 - halves[0]))
        for n in range(1, len(xs)):
            middle = (xs[n - 1] + xs[n]) / 2
            path.cubicTo(
                QPointF(middle, h / 2 - halves[n - 1]),
                QPointF(middle, h / 2 - halves[n]),
                QPointF(xs[n], h / 2 - halves[n]),
            )
        path.lineTo(xs[-1], h / 2 + halves[-1])
        for n in range(len(xs) - 1, 0, -1):
            middle = (xs[n - 1] + xs[n]) / 2
            path.cubicTo(
                QPointF(middle, h / 2 + halves[n]), QPointF(middle, h / 2 + halves[n - 1]),
                QPointF(xs[n - 1], h / 2 + halves[n - 1]),
            )  # fmt: skip
        path.closeSubpath()
        painter.fillPath(path, c.q("water"))
        painter.setPen(QPen(c.q("ink"), 3.5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        x = w + 6
        painter.drawLine(QPointF(x, 3), QPointF(x, h - 3))
        for y in (h * 0.3, h * 0.6):
            painter.drawLine(QPointF(x - 6, y), QPointF(x + 6, y))
        painter.end()


class Landings(QWidget):
    """All boats side by side."""

    opened = Signal(int)
    help_wanted = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.box = QHBoxLayout(self)
        self.box.setContentsMargins(0, 0, 0, 0)
        self.box.setSpacing(theme.STEP * 2)

    def set_home(self, home: HomeView) -> None:
        """Show the landings of a home view, at most three boats; later ones wait their turn."""
        clear(self.box)
        hour_from = 0.0
        for landing in home.landings[:3]:
            until = (landing.boat.leaves_at - home.now).total_seconds() / 3600
            load = [share for hour, share in home.load if hour_from <= hour < until]
            hour_from = max(0.0, until)
            wide = 3 if len(landing.aboard) > 6 else 2
            self.box.addWidget(self._column(landing, home.now, load), wide)
        if not home.landings:
            self.box.addWidget(label("No boat is on the list. Add one when you book in.", tone="muted"))

    def _column(self, landing: Landing, now: datetime, load: list[float]) -> QWidget:
        frame, box = card(margin=12)
        box.setSpacing(4)
        makes, total = landing.will_make_it, len(landing.aboard)
        boat = landing.boat
        head = label(f"{boat.name}  {clock_words(boat.leaves_at, now)}", "name", wrap=True)
        left = landing.boat.leaves_at < now
        words = f"{makes} of {total} will be aboard" if total else "nothing booked for it"
        if left and total:
            words = f"{sum(a.ready for a in landing.aboard)} of {total} went"
        count = label(f"{words}, {in_words(boat.leaves_at, now)}", tone="warn" if makes < total else "muted")
        box.addWidget(head)
        box.addWidget(count)
        box.addWidget(Stretch(load, makes < total))
        inner = QWidget()
        flow = Flow(6)
        inner.setLayout(flow)
        for aboard in landing.aboard:
            stone = Stone(aboard, now)
            stone.clicked.connect(lambda checked=False, job=aboard.job_id: self.opened.emit(job))
            flow.addWidget(stone)
        box.addWidget(scroll(inner), 1)
        if any(a.late_min > 0 and not a.blocked for a in landing.aboard):
            box.addWidget(button("What would help?", lambda: self.help_wanted.emit(boat.id), "warn", "help"))
        return frame
