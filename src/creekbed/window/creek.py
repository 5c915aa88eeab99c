"""The day as a creek: each pair of hands a stream with stones of work in it, below it the pools where things lie.

The boats' posts stand across it. Time runs from left to right; nights and breaks are folded away.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from creekbed.window import theme
from creekbed.window.times import clock_words
from creekbed.workshop.day import BoatMark, Bowl, Day, PoolRow, Run, Strand

FOLD_PX, LABEL_PX, SMALL, PEBBLE_PX = 22.0, 96.0, 13, 13
DRAGGED_PX = 10
LEAST = 10
SNAP_MIN = 5


@dataclass(frozen=True)
class Scale:
    """Where a moment lies: open time is drawn to scale, closed time is folded.

    Attributes:
        pieces: (from, to, x from, x to), open time only, ascending.
    """

    pieces: tuple[tuple[datetime, datetime, float, float], ...]
    left: float
    right: float

    @classmethod
    def over(
        cls, now: datetime, spans: Sequence[tuple[datetime, datetime]], hours: float, left: float, right: float
    ) -> Scale:
        """A scale that shows so many hours of open time from now on."""
        wanted, pieces_at = timedelta(hours=hours), []
        for a, b in spans:
            start = max(a, now)
            if wanted <= timedelta(0) or b <= start:
                continue
            end = min(b, start + wanted)
            wanted -= end - start
            pieces_at.append((start, end))
        if not pieces_at:
            pieces_at = [(now, now + timedelta(hours=hours))]
        shut = pieces_at[0][0] > now + timedelta(minutes=1)
        folds = len(pieces_at) - 1 + int(shut)
        total = sum((b - a).total_seconds() for a, b in pieces_at)
        per_second = (right - left - folds * FOLD_PX) / total
        x, made = left + (FOLD_PX if shut else 0.0), []
        for a, b in pieces_at:
            wide = (b - a).total_seconds() * per_second
            made.append((a, b, x, x + wide))
            x += wide + FOLD_PX
        return cls(tuple(made), left, right)

    @property
    def end(self) -> datetime:
        """The last moment on it."""
        return self.pieces[-1][1]

    def x(self, at: datetime) -> float:
        """Where a moment lies; what is before or beyond is at the edge."""
        before = self.left
        for a, b, xa, xb in self.pieces:
            if at < a:
                return before if at <= self.pieces[0][0] and before == self.left else (before + xa) / 2
            if at <= b:
                return xa + (xb - xa) * ((at - a) / (b - a))
            before = xb
        return self.right

    def at(self, x: float) -> datetime:
        """The moment at a place, to five minutes."""
        for a, b, xa, xb in self.pieces:
            if x <= xb:
                share = min(max((x - xa) / max(xb - xa, 1e-9), 0.0), 1.0)
                found = a + (b - a) * share
                return found - timedelta(
                    minutes=found.minute % SNAP_MIN, seconds=found.second, microseconds=found.microsecond
                )
        return self.end


class Creek(QWidget):
    """The picture of a day.

    Args:
        hours: of open time on show. tall: pools in full; else as many as there is room for.
    """

    chosen = Signal(object)
    """A stone was chosen."""
    dropped = Signal(object, object, str)
    """A stone was dragged: the run, the moment, the person."""
    pool_chosen = Signal(int)
    boat_chosen = Signal(int)

    def __init__(self, hours: float = 5.0, tall: bool = False):
        super().__init__()
        self.hours, self.tall = hours, tall
        self.day: Day | None = None
        self.selected: tuple[str, str] | None = None
        self._stones: list[tuple[QRectF, Run]] = []
        self._bowls: list[tuple[QRectF, Bowl]] = []
        self._posts: list[tuple[QRectF, BoatMark]] = []
        self._pressed: tuple[QPointF, Run] | None = None
        self._dragged: QPointF | None = None
        self._lines: list[tuple[str, float, float]] = []
        self.scale_: Scale | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(theme.current.px(90))

    # --- what is shown ------------------------------------------------------------------------------------------

    def set_day(self, day: Day) -> None:
        """Show a day."""
        self.day = day
        busy = sum(len(s.runs) for s in day.strands)
        words = [f"{len(day.strands)} pairs of hands, {busy} stretches of work"]
        words += [f"{b.name} {clock_words(b.leaves_at, day.now)}: {b.makes} of {b.total}" for b in day.boats]
        self.setAccessibleName("The day as a creek. " + ". ".join(words))
        if self.selected is not None and self.run() is None:
            self.selected = None
        self.update()

    def run(self) -> Run | None:
        """The stone that is chosen."""
        if self.day is None or self.selected is None:
            return None
        every = [r for s in self.day.strands for r in s.runs]
        return next((r for r in every if r.tag == self.selected[0] and self.selected[1] in dict(r.steps)), None)

    def choose(self, run: Run | None) -> None:
        """Choose a stone."""
        self.selected = None if run is None else (run.tag, run.key)
        if run is not None:
            self.setAccessibleDescription(f"{run.tag}: {run.steps[0][1]}, {run.person} at {clock_words(run.start)}")
            self.chosen.emit(run)
        self.update()

    # --- drawing ------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.day is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        day = self.day
        label = theme.current.px(LABEL_PX)
        self.scale_ = Scale.over(day.now, day.open, self.hours, label, self.width() - 10.0)
        small = theme.current.px(SMALL)
        top = small * 1.7
        self._folds(painter, top)
        self._ticks(painter, small)
        pools = [p for p in day.pools if any(b.start < self.scale_.end for b in p.bowls)]
        strand, lane = self._heights(len(day.strands), pools, self.height() - top - small * 1.6)
        y = top
        self._stones, self._bowls, self._lines = [], [], []
        self._posts = []
        self._boats(painter, top, self.height() - small * 1.5)
        for s in day.strands:
            self._strand(painter, s, y, strand)
            self._lines.append((s.person, y, y + strand))
            y += strand
        y += 6
        for pool in pools:
            lanes = min(pool.lanes, int((self.height() - small * 1.5 - y) // lane))
            if lanes < 1:
                break
            y = self._pool(painter, pool, y, lane, lanes)
        self._now(painter, top)
        self._ghost(painter)
        painter.end()

    def _heights(self, strands: int, pools: list[PoolRow], room: float) -> tuple[float, float]:
        """Of a strand, and of a lane of a pool."""
        most = theme.current.px(56 if self.tall else 44)
        strand = min(most, max(theme.current.px(26), room * (0.5 if self.tall else 0.9) / max(strands, 1)))
        lanes = sum(p.lanes for p in pools)
        left = room - strands * strand - 6 - 7 * len(pools)
        return strand, min(theme.current.px(30 if self.tall else 22), max(left / max(lanes, 1), theme.current.px(13)))

    def _text(self, painter: QPainter, box: QRectF, words: str, tone: str, size: int, bold: bool = False,
              align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft) -> None:  # fmt: skip
        font = theme.current.font(size, bold)
        painter.setFont(font)
        painter.setPen(theme.current.c.q(tone))
        cut = QFontMetrics(font).elidedText(words, Qt.TextElideMode.ElideRight, int(box.width()))
        painter.drawText(box, align | Qt.AlignmentFlag.AlignVCenter, cut)

    def _folds(self, painter: QPainter, top: float) -> None:
        """Where time is folded away: a bank with a few reeds."""
        assert self.scale_ is not None and self.day is not None
        c, pieces = theme.current.c, self.scale_.pieces
        gaps = [(xb, pieces[n + 1][2], pieces[n + 1][0]) for n, (_, _, _, xb) in enumerate(pieces[:-1])]
        if pieces[0][2] > self.scale_.left:
            gaps.insert(0, (self.scale_.left, pieces[0][2], pieces[0][0]))
        for a, b, _ in gaps:
            box = QRectF(a + 3, top, b - a - 6, self.height() - top - 2)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(c.q("silt"))
            painter.drawRoundedRect(box, 6, 6)

    def _ticks(self, painter: QPainter, small: int) -> None:
        """Full hours, and the day where a new one begins."""
        assert self.scale_ is not None and self.day is not None
        c = theme.current.c
        last_x, day_shown = -1e9, self.day.now.astimezone().date()
        for a, b, xa, _xb in self.scale_.pieces:
            local = a.astimezone()
            fresh = local.date() != day_shown
            day_shown = local.date()
            hour = local.replace(minute=0, second=0, microsecond=0)
            moments = ([local] if fresh else []) + [hour + timedelta(hours=k) for k in range(1, 14)]
            for at in moments:
                if not a <= at <= b:
                    continue
                x = self.scale_.x(at)
                words = f"{at:%a %H:%M}" if fresh and at is moments[0] else f"{at:%H:%M}"
                wide = QFontMetrics(theme.current.font(SMALL)).horizontalAdvance(words) + 12
                if x - last_x < wide or x + wide / 2 > self.width() or (x - self.scale_.left < wide and not fresh):
                    continue
                last_x = x
                painter.setPen(QPen(c.q("line"), 1))
                painter.drawLine(QPointF(x, small * 1.6), QPointF(x, self.height() - small * 1.5))
                align = Qt.AlignmentFlag.AlignLeft if x - xa < wide / 2 else Qt.AlignmentFlag.AlignHCenter
                box = QRectF(x if x - xa < wide / 2 else x - wide / 2, 0, wide, small * 1.5)
                self._text(painter, box, words, "muted", SMALL, align=align)

    def _strand(self, painter: QPainter, strand: Strand, y: float, height: float) -> None:
        assert self.scale_ is not None and self.day is not None
        c = theme.current.c
        middle = y + height / 2
        name = strand.person + ("" if strand.here else " away")
        box = QRectF(4, y, theme.current.px(LABEL_PX) - 10, height)
        self._text(painter, box, name, "ink", theme.NAME_SIZE - 2, True)
        half = height * 0.4
        for a, b in strand.open:
            if a >= self.scale_.end:
                break
            xa, xb = self.scale_.x(a), self.scale_.x(min(b, self.scale_.end))
            if xb - xa < 2:
                continue
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(c.q("water"))
            painter.drawPath(_stream(xa, xb, middle, half))
        for run in strand.runs:
            if run.start >= self.scale_.end or run.end <= self.day.now:
                continue
            xa, xb = self.scale_.x(run.start), self.scale_.x(min(run.end, self.scale_.end))
            inset = height * 0.17
            box = QRectF(xa + 0.5, y + inset, max(xb - xa - 1.5, 4.0), height - 2 * inset)
            self._stone(painter, box, run)
            self._stones.append((box, run))

    def _stone(self, painter: QPainter, box: QRectF, run: Run) -> None:
        """A stone: round when all is well, with corners when its boat is in doubt, an edge when it is missed."""
        c = theme.current.c
        chosen = self.selected is not None and run.tag == self.selected[0] and self.selected[1] in dict(run.steps)
        held = run.state == "held"
        narrow = box.width() < theme.current.px(PEBBLE_PX)
        if narrow:  # a pebble in the middle of the stream: many of them stay quiet beside the stones that are named
            high = min(box.height(), max(box.width() * 1.5, theme.current.px(9)))
            box = QRectF(box.left(), box.center().y() - high / 2, box.width(), high)
        painter.setBrush(c.q("deep" if held else "warn_soft" if run.late else "card"))
        edge = "focus" if chosen else "warn" if run.late else "deep"
        painter.setPen(
            QPen(
                c.q(edge),
                3.0 if chosen else 2.0 if run.state in ("locked", "next") or (run.late and not narrow) else 1.2,
            )
        )
        painter.drawPath(stone_path(box, run.late, run.chance))
        if box.width() >= theme.current.px(SMALL):
            self._number(painter, box, run.tag.split("-")[-1], "card" if held else "ink")
        if run.state == "locked":  # a peg through it
            painter.setPen(QPen(c.q("ink"), 2.2))
            painter.drawLine(QPointF(box.left() + 4, box.top() - 2), QPointF(box.left() + 4, box.top() + 7))
        elif run.state == "must":  # a drop: water is waiting to be poured off
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(c.q("deep"))
            painter.drawPath(_drop(box.left() + 5, box.top() + 5))

    @staticmethod
    def _number(painter: QPainter, box: QRectF, words: str, tone: str) -> None:
        """The number on a stone, upright where that is narrow."""
        font = theme.current.font(SMALL, True)
        wide = QFontMetrics(font).horizontalAdvance(words)
        painter.setFont(font)
        painter.setPen(theme.current.c.q(tone))
        if box.width() >= wide + 6:
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        elif box.height() >= wide:
            painter.save()
            painter.translate(box.center())
            painter.rotate(-90)
            high = box.height()
            turned = QRectF(-high / 2, -box.width() / 2, high, box.width())
            painter.drawText(turned, Qt.AlignmentFlag.AlignCenter, words)
            painter.restore()

    def _pool(self, painter: QPainter, pool: PoolRow, y: float, lane: float, lanes: int) -> float:
        """A place and what lies in it; returns where the next one begins."""
        assert self.scale_ is not None and self.day is not None
        c = theme.current.c
        height = lanes * lane
        box = QRectF(4, y, theme.current.px(LABEL_PX) - 8, max(lane, theme.current.px(16)))
        more = pool.lanes - lanes
        self._text(painter, box, f"{pool.name} +{more}" if more else pool.name, "muted", SMALL)
        painter.setPen(QPen(c.q("line"), 1, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(self.scale_.left, y + height + 3), QPointF(self.scale_.right, y + height + 3))
        for a, b in pool.full:
            if a < self.scale_.end:
                xa, xb = self.scale_.x(a), self.scale_.x(min(b, self.scale_.end))
                painter.setPen(QPen(c.q("muted"), 2.5))
                painter.drawLine(QPointF(xa, y + height + 3), QPointF(xb, y + height + 3))
        for bowl in pool.bowls:
            if bowl.start >= self.scale_.end or bowl.end < self.day.now or bowl.lane >= lanes:
                continue
            xa, xb = self.scale_.x(bowl.start), self.scale_.x(min(bowl.end, self.scale_.end))
            self._bowl(painter, QRectF(xa, y + bowl.lane * lane, max(xb - xa, 4.0), lane - 2), bowl)
        return y + height + 7

    def _bowl(self, painter: QPainter, box: QRectF, bowl: Bowl) -> None:
        assert self.scale_ is not None
        c = theme.current.c
        path = _bowl_path(box, open_left=bowl.running)
        painter.save()
        painter.setClipPath(path)
        xs = self.scale_.x(bowl.soonest)
        painter.fillRect(QRectF(box.left(), box.top(), xs - box.left(), box.height()), c.q("water"))
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(c.q("deep"), 2.0 if bowl.running else 1.1))
        painter.drawPath(path)
        if bowl.latest is not None and bowl.latest < self.scale_.end and bowl.latest > bowl.end:
            x, y = self.scale_.x(bowl.latest), box.center().y()  # so long there is room to end it
            painter.setPen(QPen(c.q("muted"), 1.2, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(box.right(), y), QPointF(x, y))
            painter.setPen(QPen(c.q("muted"), 2))
            painter.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))
        words = bowl.tag.split("-")[-1]
        size = min(SMALL - 1.0, (box.height() - 1) / theme.current.scale)
        font = theme.current.font(size)
        if size >= LEAST and box.width() >= QFontMetrics(font).horizontalAdvance(words) + 8:
            painter.setFont(font)
            painter.setPen(c.q("ink"))
            align = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(box.adjusted(6, -1, -2, -1), align, words)
        self._bowls.append((box, bowl))

    def _boats(self, painter: QPainter, top: float, bottom: float) -> None:
        """The posts of the landings."""
        assert self.scale_ is not None and self.day is not None
        c, last = theme.current.c, -1e9
        for boat in self.day.boats:
            inside = boat.leaves_at <= self.scale_.end
            if not inside:
                continue
            x = self.scale_.x(boat.leaves_at)
            short = boat.makes < boat.total
            painter.setPen(QPen(c.q("warn" if short else "ink"), 3.5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawLine(QPointF(x, top - 2), QPointF(x, bottom))
            for y in (top + 6, bottom - 6):
                painter.drawLine(QPointF(x - 6, y), QPointF(x + 6, y))
            words = f"{boat.name} {clock_words(boat.leaves_at, self.day.now)}: {boat.makes} of {boat.total}"
            words += f", {boat.doubtful} in doubt" if boat.doubtful else ""
            font = theme.current.font(SMALL, True)
            wide = QFontMetrics(font).horizontalAdvance(words) + 8
            left = min(max(x - wide / 2, last + 8, self.scale_.left), self.width() - wide)
            last = left + wide
            box = QRectF(left, bottom, wide, theme.current.px(SMALL) * 1.5)
            self._text(painter, box, words, "warn" if short else "ink", SMALL, True)
            self._posts.append((QRectF(x - 8, top, 16, bottom - top).united(box), boat))

    def _now(self, painter: QPainter, top: float) -> None:
        assert self.scale_ is not None
        c = theme.current.c
        painter.setPen(QPen(c.q("ink"), 2))
        painter.drawLine(QPointF(self.scale_.left, top - 4), QPointF(self.scale_.left, self.height() - 4))
        box = QRectF(self.scale_.left - 30, 0, 60, theme.current.px(SMALL) * 1.5)
        self._text(painter, box, "now", "ink", SMALL, True, Qt.AlignmentFlag.AlignHCenter)
        if self.hasFocus():
            painter.setPen(QPen(c.q("focus"), 2, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), theme.RADIUS, theme.RADIUS)

    def _ghost(self, painter: QPainter) -> None:
        """The stone that is being dragged, and when it would begin."""
        if self._dragged is None or self._pressed is None or self.scale_ is None:
            return
        at, person = self._target(self._dragged)
        run = self._pressed[1]
        y = next((a for p, a, _ in self._lines if p == person), 0.0)
        bottom = next((b for p, _, b in self._lines if p == person), y + 40)
        x = self.scale_.x(at)
        wide = max(self.scale_.x(at + (run.end - run.start)) - x, 40.0)
        box = QRectF(x, y + 3, wide, bottom - y - 6)
        painter.setBrush(theme.current.c.q("silt"))
        painter.setPen(QPen(theme.current.c.q("ink"), 2, Qt.PenStyle.DashLine))
        painter.drawPath(stone_path(box, False, None))
        words = f"{run.tag.split('-')[-1]} {person} {clock_words(at, self.day.now if self.day else None)}"
        self._text(painter, box.adjusted(4, 0, 120, 0), words, "ink", SMALL, True)

    # --- hands on it --------------------------------------------------------------------------------------------

    def _target(self, at: QPointF) -> tuple[datetime, str]:
        assert self.scale_ is not None and self.day is not None
        person = next((p for p, a, b in self._lines if a <= at.y() < b), "")
        if not person and self._pressed is not None:
            person = self._pressed[1].person
        return max(self.scale_.at(at.x()), self.day.now), person

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        self._pressed = next(((at, run) for box, run in self._stones if box.adjusted(-3, -3, 3, 3).contains(at)), None)
        if self._pressed is not None:
            self.choose(self._pressed[1])
            return
        bowl = next((b for box, b in self._bowls if box.contains(at)), None)
        boat = next((b for box, b in self._posts if box.contains(at)), None)
        if bowl is not None:
            self.pool_chosen.emit(bowl.job_id)
        elif boat is not None:
            self.boat_chosen.emit(boat.boat_id)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None or not self.tall or self._pressed[1].state == "held":
            return
        moved = event.position() - self._pressed[0]
        if self._dragged is not None or abs(moved.x()) + abs(moved.y()) > DRAGGED_PX:
            self._dragged = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, dragged = self._pressed, self._dragged
        if pressed is not None and dragged is not None:
            at, person = self._target(dragged)
            self._pressed = self._dragged = None
            self.dropped.emit(pressed[1], at, person)
        self._pressed = self._dragged = None
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right along somebody's work, up and down to other hands."""
        key, day = event.key(), self.day
        ways = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down)
        strands = [s for s in day.strands if s.runs] if day is not None else []
        if key not in ways or not strands:
            super().keyPressEvent(event)
            return
        run = self.run()
        at = next((n for n, s in enumerate(strands) if run is not None and s.person == run.person), 0)
        runs = strands[at].runs
        if run is None:
            self.choose(runs[0])
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            n = runs.index(run) + (1 if key == Qt.Key.Key_Right else -1)
            self.choose(runs[min(max(n, 0), len(runs) - 1)])
        else:
            other = strands[(at + (1 if key == Qt.Key.Key_Down else -1)) % len(strands)].runs
            self.choose(min(other, key=lambda r: abs(r.start - run.start)))


def stone_path(box: QRectF, late: bool, chance: float | None) -> QPainterPath:
    """A stone: round when its boat is safe; the less likely, the more corners; cut to a point when it is missed."""
    path = QPainterPath()
    if late:
        cut = min(box.height() * 0.32, box.width() / 3)
        path.moveTo(box.left() + cut, box.top())
        for point in (
            QPointF(box.right() - cut, box.top()), QPointF(box.right(), box.center().y()),
            QPointF(box.right() - cut, box.bottom()), QPointF(box.left() + cut, box.bottom()),
            QPointF(box.left(), box.center().y()),
        ):  # fmt: skip
            path.lineTo(point)
        path.closeSubpath()
        return path
    sure = 1.0 if chance is None else max(0.0, min(1.0, (chance - 0.5) / 0.45))
    radius = min(box.width(), box.height()) / 2 * (0.12 + 0.75 * sure)
    path.addRoundedRect(box, radius, radius)
    return path


def _stream(xa: float, xb: float, middle: float, half: float) -> QPainterPath:
    """Water between two moments, its banks a little uneven."""
    path = QPainterPath(QPointF(xa, middle - half * 0.4))
    count = max(1, round((xb - xa) / 90))
    step = (xb - xa) / count
    for side in (-1, 1):
        xs = range(count) if side == -1 else range(count, 0, -1)
        for n in xs:
            x0, x1 = xa + n * step, xa + (n - side) * step
            swell = half * (1.25 if (n % 2 == 0) == (side == -1) else 0.9)
            path.quadTo(QPointF((x0 + x1) / 2, middle + side * swell), QPointF(x1, middle + side * half * 0.85))
        if side == -1:
            path.lineTo(xb, middle + half * 0.85)
    path.closeSubpath()
    return path


def _bowl_path(box: QRectF, *, open_left: bool) -> QPainterPath:
    """A bowl: flat above, round below; one that lies there already is open to the past."""
    r = min(box.height() * 0.8, box.width() / 2)
    path = QPainterPath(box.topLeft())
    if open_left:
        path.lineTo(box.bottomLeft())
    else:
        path.quadTo(QPointF(box.left(), box.bottom()), QPointF(box.left() + r, box.bottom()))
    path.lineTo(box.right() - r, box.bottom())
    path.quadTo(QPointF(box.right(), box.bottom()), box.topRight())
    return path


def _drop(x: float, y: float) -> QPainterPath:
    path = QPainterPath(QPointF(x, y - 4))
    path.quadTo(QPointF(x + 5, y + 3), QPointF(x, y + 5))
    path.quadTo(QPointF(x - 5, y + 3), QPointF(x, y - 4))
    return path
