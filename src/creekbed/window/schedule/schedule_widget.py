"""The day as a creek that people take hold of.

Each pair of hands is a stream with stones of work in it, below it lie the pools, the posts of departures stand across.
Time runs from left to right; nights and breaks are folded away.
"""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from creekbed.core.turns import Turns, whole
from creekbed.window.schedule.schedule_picture import SMALL, SchedulePicture, bar_path
from creekbed.window.shared import theme
from creekbed.words.times import clock_words
from creekbed.workshop.bench.schedule_view import DaySchedule, ScheduledBar

DRAGGED_PX = 10


class ScheduleView(QWidget):
    """The picture of a day.

    Args:
        hours: of open time on show. tall: pools in full; else as many as there is room for.
    """

    chosen = Signal(object)
    """A stone was chosen."""
    dropped = Signal(object, object, str)
    """A stone was dragged: the run, the moment, the person."""
    wait_chosen = Signal(int)
    departure_chosen = Signal(int)

    def __init__(self, hours: float = 5.0, tall: bool = False):
        super().__init__()
        self.hours, self.tall = hours, tall
        self.day: DaySchedule | None = None
        self.selected: tuple[str, str] | None = None
        self.drawn: SchedulePicture | None = None
        """The picture as it was drawn last."""
        self._pressed: tuple[QPointF, ScheduledBar] | None = None
        self._dragged: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(theme.current.px(90))

    # --- what is shown ------------------------------------------------------------------------------------------

    def show_day_in_turns(self, day: DaySchedule) -> Turns[None]:
        """Show a day, drawn a little at a time; what was on show stays till then."""
        picture = None if self.size().isEmpty() else self._picture(day)
        if picture is not None:
            yield from picture.draw_in_turns()
        self.set_day(day)
        self.drawn = picture

    def set_day(self, day: DaySchedule) -> None:
        """Show a day; it is drawn when it comes into sight."""
        self.day, self.drawn = day, None
        busy = sum(len(s.runs) for s in day.rows)
        words = [f"{len(day.rows)} pairs of hands, {busy} stretches of work"]
        words += [f"{b.name} {clock_words(b.leaves_at, day.now)}: {b.makes} of {b.total}" for b in day.departures]
        self.setAccessibleName("The day as a creek. " + ". ".join(words))
        if self.selected is not None and self.run() is None:
            self.selected = None
        self.update()

    def run(self) -> ScheduledBar | None:
        """The stone that is chosen."""
        if self.day is None or self.selected is None:
            return None
        every = [r for s in self.day.rows for r in s.runs]
        return next((r for r in every if r.tag == self.selected[0] and self.selected[1] in dict(r.steps)), None)

    def choose(self, run: ScheduledBar | None) -> None:
        """Choose a stone."""
        self.selected = None if run is None else (run.tag, run.key)
        if run is not None:
            self.setAccessibleDescription(f"{run.tag}: {run.steps[0][1]}, {run.person} at {clock_words(run.start)}")
            self.chosen.emit(run)
        self.update()

    # --- drawing ------------------------------------------------------------------------------------------------

    def _picture(self, day: DaySchedule) -> SchedulePicture:
        return SchedulePicture(day, self.size(), self.devicePixelRatioF(), self.hours, self.tall)

    def look(self) -> SchedulePicture | None:
        """The picture as it is on show: drawn anew if it does not fit any more; ``None`` while there is no day."""
        if self.day is None:
            return None
        drawn = self.drawn
        if drawn is None or drawn.size != self.size() or drawn.ratio != self.devicePixelRatioF():
            drawn = self.drawn = self._picture(self.day)
            whole(drawn.draw_in_turns())
        return drawn

    def paintEvent(self, event: QPaintEvent) -> None:
        picture = self.look()
        if picture is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawImage(0, 0, picture.image)
        run = self.run()
        for box, bar in picture.bars:
            if bar is run:
                picture.bar(painter, box, bar, chosen=True)
        if self.hasFocus():
            painter.setPen(QPen(theme.current.c.q("focus"), 2, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), theme.RADIUS, theme.RADIUS)
        self._ghost(painter, picture)
        painter.end()

    def _ghost(self, painter: QPainter, picture: SchedulePicture) -> None:
        """The stone that is being dragged, and when it would begin."""
        if self._dragged is None or self._pressed is None:
            return
        at, person = self._target(picture, self._dragged)
        run = self._pressed[1]
        y = next((a for p, a, _ in picture.lines if p == person), 0.0)
        bottom = next((b for p, _, b in picture.lines if p == person), y + 40)
        x = picture.scale.x(at)
        wide = max(picture.scale.x(at + (run.end - run.start)) - x, 40.0)
        box = QRectF(x, y + 3, wide, bottom - y - 6)
        painter.setBrush(theme.current.c.q("silt"))
        painter.setPen(QPen(theme.current.c.q("ink"), 2, Qt.PenStyle.DashLine))
        painter.drawPath(bar_path(box, False, None))
        words = f"{run.tag.split('-')[-1]} {person} {clock_words(at, picture.day.now)}"
        picture.text(painter, box.adjusted(4, 0, 120, 0), words, "ink", SMALL, True)

    # --- hands on it --------------------------------------------------------------------------------------------

    def _target(self, picture: SchedulePicture, at: QPointF) -> tuple[datetime, str]:
        person = next((p for p, a, b in picture.lines if a <= at.y() < b), "")
        if not person and self._pressed is not None:
            person = self._pressed[1].person
        return max(picture.scale.at(at.x()), picture.day.now), person

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at, picture = event.position(), self.look()
        if picture is None:
            return
        self._pressed = next(((at, run) for box, run in picture.bars if box.adjusted(-3, -3, 3, 3).contains(at)), None)
        if self._pressed is not None:
            self.choose(self._pressed[1])
            return
        wait_bar = next((b for box, b in picture.wait_bars if box.contains(at)), None)
        departure = next((b for box, b in picture.posts if box.contains(at)), None)
        if wait_bar is not None:
            self.wait_chosen.emit(wait_bar.job_id)
        elif departure is not None:
            self.departure_chosen.emit(departure.departure_id)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None or not self.tall or self._pressed[1].state == "held":
            return
        moved = event.position() - self._pressed[0]
        if self._dragged is not None or abs(moved.x()) + abs(moved.y()) > DRAGGED_PX:
            self._dragged = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, dragged, picture = self._pressed, self._dragged, self.look()
        if pressed is not None and dragged is not None and picture is not None:
            at, person = self._target(picture, dragged)
            self._pressed = self._dragged = None
            self.dropped.emit(pressed[1], at, person)
        self._pressed = self._dragged = None
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right along somebody's work, up and down to other hands."""
        key, day = event.key(), self.day
        ways = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down)
        rows = [s for s in day.rows if s.runs] if day is not None else []
        if key not in ways or not rows:
            super().keyPressEvent(event)
            return
        run = self.run()
        at = next((n for n, s in enumerate(rows) if run is not None and s.person == run.person), 0)
        runs = rows[at].runs
        if run is None:
            self.choose(runs[0])
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            n = runs.index(run) + (1 if key == Qt.Key.Key_Right else -1)
            self.choose(runs[min(max(n, 0), len(runs) - 1)])
        else:
            other = rows[(at + (1 if key == Qt.Key.Key_Down else -1)) % len(rows)].runs
            self.choose(min(other, key=lambda r: abs(r.start - run.start)))
