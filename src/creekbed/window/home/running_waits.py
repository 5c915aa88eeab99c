"""Running waits: each as a vessel that drains, with its instrument, the time left and what follows."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button, label, restyle, row
from creekbed.words.times import clock_words, count_down, left_words
from creekbed.workshop.bench.wait_view import WaitView


def draw_vessel(painter: QPainter, box: QRectF, lean: float, share: float, warn: bool) -> None:
    """Draw an open vessel, filled to the share of time left."""
    c = theme.current.c
    path = QPainterPath(box.topLeft())
    for point in (box.bottomLeft() + QPointF(lean, 0), box.bottomRight() - QPointF(lean, 0), box.topRight()):
        path.lineTo(point)
    painter.save()
    painter.setClipPath(path)
    level = box.top() + 4 + (box.height() - 4) * (1 - share)
    painter.fillRect(QRectF(box.left(), level, box.width(), box.height()), c.q("warn_soft" if warn else "water"))
    painter.restore()
    painter.setPen(QPen(c.q("warn" if warn else "deep"), 2.5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.drawPath(path)


class WaitLevel(QWidget):
    """A vessel whose level is the share of the time still to run; its shape tells the place."""

    def __init__(self, place: str, compact: bool = False):
        super().__init__()
        self.place, self.share, self.warn = place, 1.0, False
        self.setFixedSize(*((38, 42) if compact else (52, 60)))

    def set_level(self, share: float, warn: bool) -> None:
        self.share, self.warn = share, warn
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        w, h = float(self.width()), float(self.height())
        lean = 6.0 if self.place == "tub" else 0.0
        draw_vessel(painter, QRectF(3, 4, w - 6, h - 8), lean, self.share, self.warn)
        if self.place in ("hook", "wide_hook"):  # a line to hang from
            painter.drawLine(QPointF(0, 4), QPointF(w, 4))
        if self.place == "rack":  # feet
            painter.drawLine(QPointF(3, h - 1), QPointF(w - 3, h - 1))
        if self.warn:
            painter.setPen(QPen(c.q("warn"), 3))
            painter.drawLine(QPointF(w / 2, h * 0.3), QPointF(w / 2, h * 0.6))
            painter.drawPoint(QPointF(w / 2, h * 0.72))
        painter.end()


class WaitCard(QFrame):
    """One wait. Pressing it opens its job; a wet one can be wetted again or marked as dried."""

    opened = Signal(int)
    rewet = Signal(int)
    dried = Signal(int)
    early = Signal(object)
    weigh = Signal(int)
    warm = Signal(int)

    def __init__(self, wait: WaitView, where: str, early: bool = False, compact: bool = False):
        super().__init__()
        self.wait = wait
        self.setObjectName("card")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.compact = compact
        box = QVBoxLayout(self)
        box.setContentsMargins(*((12, 5, 12, 5) if compact else (14, 10, 14, 10)))
        box.setSpacing(4 if compact else 6)
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(1)
        self.level = WaitLevel(wait.place, compact)
        self.name = label(wait.name, "name")
        self.whose = label(f"{wait.tag}, {where}", tone="muted")
        self.then = label("")
        self.left = label("", "numeral", wrap=False)
        self.left.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.of = label("", tone="muted", wrap=False)
        self.of.setAlignment(Qt.AlignmentFlag.AlignRight)
        if compact:  # many run: one line for what and whose, one for what then
            self.name.setText(f"{wait.name}, {wait.tag}")
            self.name.setFont(theme.current.font(16, True))
            self.left.setFont(theme.current.font(26, True, large=True))
            grid.addWidget(self.level, 0, 0, 2, 1, Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(self.name, 0, 1)
            grid.addWidget(self.then, 1, 1)
            grid.addWidget(self.left, 0, 2, 2, 1, Qt.AlignmentFlag.AlignVCenter)
            self.whose.setParent(self)
            self.of.setParent(self)
            self.whose.hide()
            self.of.hide()
        else:
            grid.addWidget(self.level, 0, 0, 3, 1, Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(self.name, 0, 1)
            grid.addWidget(self.whose, 1, 1)
            grid.addWidget(self.then, 2, 1)
            grid.addWidget(self.left, 0, 2, 2, 1)
            grid.addWidget(self.of, 2, 2)
        grid.setColumnStretch(1, 1)
        box.addLayout(grid)
        if wait.is_shut_case and not compact:
            box.addLayout(row(button("Its thermometer …", lambda: self.warm.emit(wait.job_id), "", "case_warm"), None))
        if wait.wet:
            buttons = QHBoxLayout()
            self.wet_again = button("Wetted again", lambda: self.rewet.emit(wait.id), "", "rewet")
            self.it_dried = button("It dried", lambda: self.dried.emit(wait.id), "", "dried")
            buttons.addWidget(self.wet_again)
            buttons.addWidget(self.it_dried)
            buttons.addStretch(1)
            box.addLayout(buttons)
        elif early and (wait.damp or not wait.contact.may_end):
            acts = row(button("End early …", lambda: self.early.emit(wait), "", "early"), None)
            if wait.place == "rack" and wait.contact.latest is None:
                acts.insertWidget(0, button("Weigh it …", lambda: self.weigh.emit(wait.id), "", "weigh"))
            box.addLayout(acts)

    def tell(self, now: datetime, rewet_every_min: float) -> None:
        """Show the wait at ``now``."""
        wait = self.wait
        latest, state = wait.contact.latest, wait.at(now)
        over, dry = bool(state.over), wait.dry
        self.level.set_level(wait.share_left(state), over or dry)
        self.left.setText(left_words(state, wait.dry))
        if over:
            self.of.setText(f"by {count_down(state.over)}")
            self.then.setText(f"{wait.at_end} at once")
        elif dry:
            self.of.setText("time stopped")
            self.then.setText("Wet it: the time starts again")
        elif state.may_end:
            self.of.setText(f"by {clock_words(latest, now)}" if latest is not None else "")
            self.then.setText(wait.at_end)
        else:
            self.of.setText(f"of {count_down(wait.required)}")
            words = f"{wait.at_end} at {clock_words(now + state.remaining, now)}"
            if latest is not None:
                words += f", by {clock_words(latest, now)} at the latest"
            if wait.wet:
                wet_min = state.wet_for.total_seconds() / 60
                words += ", keep it wet" if wet_min % rewet_every_min < rewet_every_min - 1 else ": is it still wet?"
            self.then.setText(words)
        urgent = over or dry
        restyle(self, state="warn" if urgent else "")
        restyle(self.then, tone="warn" if urgent else "deep" if state.may_end else "")
        restyle(self.left, tone="warn" if urgent else "")
        self.setAccessibleName(f"{wait.name}, {wait.tag}: {self.left.text()} {self.of.text()}. {self.then.text()}")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.opened.emit(self.wait.job_id)

    def keyPressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.opened.emit(self.wait.job_id)
        else:
            super().keyPressEvent(event)
