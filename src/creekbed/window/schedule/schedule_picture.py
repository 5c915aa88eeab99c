"""Paints the schedule as a creek into an image, in turns, so that nobody waits for it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field
from datetime import datetime, timedelta

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetrics, QImage, QPainter, QPainterPath, QPen

from creekbed.core.conventions import clock
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.turns import Turns
from creekbed.window.shared import theme
from creekbed.words.times import clock_words
from creekbed.workshop.bench.schedule_view import (
    DaySchedule,
    DepartureMark,
    PlaceRow,
    ResourceRow,
    ScheduledBar,
    WaitBar,
    open_time,
)

FOLD_PX, LABEL_PX, SMALL, NARROW_PX = 22.0, 96.0, 13, 13
LEAST = 10
SNAP_MIN = 5
AT_ONCE = 12
"""How many bars are painted in one turn of the window."""


@dataclass(frozen=True)
class TimeScale:
    """Position of a moment: open time is drawn to scale, closed time is folded.

    Attributes:
        pieces: (from, to, x from, x to), open time only, ascending.
    """

    pieces: tuple[tuple[datetime, datetime, float, float], ...]
    left: float
    right: float

    @classmethod
    def over(
        cls, now: datetime, spans: Sequence[tuple[datetime, datetime]], hours: float, left: float, right: float
    ) -> TimeScale:
        """A scale that shows a number of hours of open time from now on."""
        pieces_at = open_time(spans, now, hours) or [(now, now + timedelta(hours=hours))]
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


@dataclass
class SchedulePicture:
    """A day drawn as a creek.

    Attributes:
        size: of the picture, logical pixels. ratio: device pixels to each. hours: of open time on show.
        tall: pools in full; else as many as there is room for.
        stones, bowls, posts: where each lies. lines: (person, top, bottom) of everybody's stream.
    """

    day: DaySchedule
    size: QSize
    ratio: float
    hours: float
    tall: bool
    bars: list[tuple[QRectF, ScheduledBar]] = field(default_factory=list)
    wait_bars: list[tuple[QRectF, WaitBar]] = field(default_factory=list)
    posts: list[tuple[QRectF, DepartureMark]] = field(default_factory=list)
    lines: list[tuple[str, float, float]] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.scale = TimeScale.over(
            self.day.now, self.day.open, self.hours, theme.current.px(LABEL_PX), self.size.width() - 10.0
        )
        self.image = QImage(self.size * self.ratio, QImage.Format.Format_ARGB32_Premultiplied)
        self.image.setDevicePixelRatio(self.ratio)
        self.image.fill(Qt.GlobalColor.transparent)

    def draw_in_turns(self) -> Turns[None]:
        """Draw it; it is whole when this has ended."""
        day, height = self.day, self.size.height()
        painter = QPainter(self.image)
        try:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            small = theme.current.px(SMALL)
            top = small * 1.7
            self._folds(painter, top)
            self._ticks(painter, small)
            places = [p for p in day.places if any(b.start < self.scale.end for b in p.wait_bars)]
            person_row, lane = self._heights(len(day.rows), places, height - top - small * 1.6)
            self._departures(painter, top, height - small * 1.5)
            y = top
            for s in day.rows:
                yield None
                yield from self._person_row(painter, s, y, person_row)
                self.lines.append((s.person, y, y + person_row))
                y += person_row
            y += 6
            for place_row in places:
                yield None
                lanes = min(place_row.lanes, int((height - small * 1.5 - y) // lane))
                if lanes < 1:
                    break
                yield from self._place_row(painter, place_row, y, lane, lanes)
                y += lanes * lane + 7
            self._now(painter, top)
        finally:
            painter.end()

    def _heights(self, rows: int, places: list[PlaceRow], room: float) -> tuple[float, float]:
        """Heights of a person's row and of a lane of a place, px."""
        most = theme.current.px(56 if self.tall else 44)
        person_row = min(most, max(theme.current.px(26), room * (0.5 if self.tall else 0.9) / max(rows, 1)))
        lanes = sum(p.lanes for p in places)
        left = room - rows * person_row - 6 - 7 * len(places)
        return person_row, min(
            theme.current.px(30 if self.tall else 22), max(left / max(lanes, 1), theme.current.px(13))
        )

    def text(self, painter: QPainter, box: QRectF, words: str, tone: str, size: int, bold: bool = False,
              align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft) -> None:  # fmt: skip
        font = theme.current.font(size, bold)
        painter.setFont(font)
        painter.setPen(theme.current.c.q(tone))
        cut = QFontMetrics(font).elidedText(words, Qt.TextElideMode.ElideRight, int(box.width()))
        painter.drawText(box, align | Qt.AlignmentFlag.AlignVCenter, cut)

    def _folds(self, painter: QPainter, top: float) -> None:
        """Where time is folded away: a bank with a few reeds."""
        c, pieces = theme.current.c, self.scale.pieces
        gaps = [(xb, pieces[n + 1][2], pieces[n + 1][0]) for n, (_, _, _, xb) in enumerate(pieces[:-1])]
        if pieces[0][2] > self.scale.left:
            gaps.insert(0, (self.scale.left, pieces[0][2], pieces[0][0]))
        for a, b, _ in gaps:
            box = QRectF(a + 3, top, b - a - 6, self.size.height() - top - 2)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(c.q("silt"))
            painter.drawRoundedRect(box, 6, 6)

    def _ticks(self, painter: QPainter, small: int) -> None:
        """Full hours, and the day where a new one begins."""
        c = theme.current.c
        last_x, day_shown = -1e9, self.day.now.astimezone().date()
        for a, b, xa, _xb in self.scale.pieces:
            local = a.astimezone()
            fresh = local.date() != day_shown
            day_shown = local.date()
            hour = local.replace(minute=0, second=0, microsecond=0)
            moments = ([local] if fresh else []) + [(hour + timedelta(hours=k)).astimezone() for k in range(1, 14)]
            for at in moments:
                if not a <= at <= b:
                    continue
                x = self.scale.x(at)
                words = clock(at, "%a ") if fresh and at is moments[0] else clock(at)
                wide = QFontMetrics(theme.current.font(SMALL)).horizontalAdvance(words) + 12
                if x - last_x < wide or x + wide / 2 > self.size.width() or (x - self.scale.left < wide and not fresh):
                    continue
                last_x = x
                painter.setPen(QPen(c.q("line"), 1))
                painter.drawLine(QPointF(x, small * 1.6), QPointF(x, self.size.height() - small * 1.5))
                align = Qt.AlignmentFlag.AlignLeft if x - xa < wide / 2 else Qt.AlignmentFlag.AlignHCenter
                box = QRectF(x if x - xa < wide / 2 else x - wide / 2, 0, wide, small * 1.5)
                self.text(painter, box, words, "muted", SMALL, align=align)

    def _person_row(self, painter: QPainter, person_row: ResourceRow, y: float, height: float) -> Turns[None]:
        c = theme.current.c
        middle = y + height / 2
        name = person_row.person + ("" if person_row.here else " away")
        box = QRectF(4, y, theme.current.px(LABEL_PX) - 10, height)
        self.text(painter, box, name, "ink", theme.NAME_SIZE - 2, True)
        half = height * 0.4
        for a, b in person_row.open:
            if a >= self.scale.end:
                break
            xa, xb = self.scale.x(a), self.scale.x(min(b, self.scale.end))
            if xb - xa < 2:
                continue
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(c.q("water"))
            painter.drawPath(_row_line(xa, xb, middle, half))
        shown = [r for r in person_row.runs if r.start < self.scale.end and r.end > self.day.now]
        for n, run in enumerate(shown):
            if n % AT_ONCE == AT_ONCE - 1:
                yield None
            xa, xb = self.scale.x(run.start), self.scale.x(min(run.end, self.scale.end))
            inset = height * 0.17
            box = QRectF(xa + 0.5, y + inset, max(xb - xa - 1.5, 4.0), height - 2 * inset)
            self.bar(painter, box, run)
            self.bars.append((box, run))

    def bar(self, painter: QPainter, box: QRectF, run: ScheduledBar, chosen: bool = False) -> None:
        """A stone: round when all is well, with corners when its departure is in doubt, an edge when it is missed."""
        c = theme.current.c
        held = run.state == "held"
        narrow = box.width() < theme.current.px(NARROW_PX)
        if narrow:  # a pebble in the middle of the stream: many of them stay quiet beside the stones that are named
            high = min(box.height(), max(box.width() * 1.5, theme.current.px(9)))
            box = QRectF(box.left(), box.center().y() - high / 2, box.width(), high)
        painter.setBrush(c.q("deep" if held else "warn_soft" if run.late else "card"))
        edge = "focus" if chosen else "warn" if run.late else "deep"
        painter.setPen(
            QPen(
                c.q(edge),
                3.0 if chosen else 2.0 if run.state in ("fixed", "preferred") or (run.late and not narrow) else 1.2,
            )
        )
        painter.drawPath(bar_path(box, run.late, run.chance))
        if box.width() >= theme.current.px(SMALL):
            self._number(painter, box, run.tag.split("-")[-1], "card" if held else "ink")
        if run.state == "fixed":  # a peg through it
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

    def _place_row(self, painter: QPainter, place_row: PlaceRow, y: float, lane: float, lanes: int) -> Turns[None]:
        """A place and what lies in it."""
        c = theme.current.c
        height = lanes * lane
        box = QRectF(4, y, theme.current.px(LABEL_PX) - 8, max(lane, theme.current.px(16)))
        more = place_row.lanes - lanes
        self.text(painter, box, f"{place_row.name} +{more}" if more else place_row.name, "muted", SMALL)
        painter.setPen(QPen(c.q("line"), 1, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(self.scale.left, y + height + 3), QPointF(self.scale.right, y + height + 3))
        for a, b in place_row.full:
            if a < self.scale.end:
                xa, xb = self.scale.x(a), self.scale.x(min(b, self.scale.end))
                painter.setPen(QPen(c.q("muted"), 2.5))
                painter.drawLine(QPointF(xa, y + height + 3), QPointF(xb, y + height + 3))
        shown = [
            b for b in place_row.wait_bars if b.start < self.scale.end and b.end >= self.day.now and b.lane < lanes
        ]
        for n, wait_bar in enumerate(shown):
            if n % AT_ONCE == AT_ONCE - 1:
                yield None
            xa, xb = self.scale.x(wait_bar.start), self.scale.x(min(wait_bar.end, self.scale.end))
            self._wait_bar(painter, QRectF(xa, y + wait_bar.lane * lane, max(xb - xa, 4.0), lane - 2), wait_bar)

    def _wait_bar(self, painter: QPainter, box: QRectF, wait_bar: WaitBar) -> None:
        c = theme.current.c
        path = _wait_path(box, open_left=wait_bar.running)
        painter.save()
        painter.setClipPath(path)
        xs = self.scale.x(wait_bar.soonest)
        painter.fillRect(QRectF(box.left(), box.top(), xs - box.left(), box.height()), c.q("water"))
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(c.q("deep"), 2.0 if wait_bar.running else 1.1))
        painter.drawPath(path)
        if wait_bar.latest is not None and wait_bar.latest < self.scale.end and wait_bar.latest > wait_bar.end:
            x, y = self.scale.x(wait_bar.latest), box.center().y()  # so long there is room to end it
            painter.setPen(QPen(c.q("muted"), 1.2, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(box.right(), y), QPointF(x, y))
            painter.setPen(QPen(c.q("muted"), 2))
            painter.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))
        words = wait_bar.tag.split("-")[-1]
        size = min(SMALL - 1.0, (box.height() - 1) / theme.current.scale)
        font = theme.current.font(size)
        if size >= LEAST and box.width() >= QFontMetrics(font).horizontalAdvance(words) + 8:
            painter.setFont(font)
            painter.setPen(c.q("ink"))
            align = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(box.adjusted(6, -1, -2, -1), align, words)
        self.wait_bars.append((box, wait_bar))

    def _departures(self, painter: QPainter, top: float, bottom: float) -> None:
        """The posts of the landings."""
        c, last = theme.current.c, -1e9
        for departure in self.day.departures:
            inside = departure.leaves_at <= self.scale.end
            if not inside:
                continue
            x = self.scale.x(departure.leaves_at)
            short = departure.makes < departure.total
            painter.setPen(QPen(c.q("warn" if short else "ink"), 3.5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawLine(QPointF(x, top - 2), QPointF(x, bottom))
            for y in (top + 6, bottom - 6):
                painter.drawLine(QPointF(x - 6, y), QPointF(x + 6, y))
            when = clock_words(departure.leaves_at, self.day.now)
            words = f"{departure.name} {when}: {departure.makes} of {departure.total}"
            words += f", {departure.doubtful} in doubt" if departure.doubtful else ""
            font = theme.current.font(SMALL, True)
            wide = QFontMetrics(font).horizontalAdvance(words) + 8
            left = min(max(x - wide / 2, last + 8, self.scale.left), self.size.width() - wide)
            last = left + wide
            box = QRectF(left, bottom, wide, theme.current.px(SMALL) * 1.5)
            self.text(painter, box, words, "warn" if short else "ink", SMALL, True)
            self.posts.append((QRectF(x - 8, top, 16, bottom - top).united(box), departure))

    def _now(self, painter: QPainter, top: float) -> None:
        c = theme.current.c
        painter.setPen(QPen(c.q("ink"), 2))
        painter.drawLine(QPointF(self.scale.left, top - 4), QPointF(self.scale.left, self.size.height() - 4))
        box = QRectF(self.scale.left - 30, 0, 60, theme.current.px(SMALL) * 1.5)
        self.text(painter, box, "now", "ink", SMALL, True, Qt.AlignmentFlag.AlignHCenter)


def bar_path(box: QRectF, late: bool, chance: float | None) -> QPainterPath:
    """A stone: round when sure to be in time; the less likely, the more corners; cut to a point when late."""
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


def _row_line(xa: float, xb: float, middle: float, half: float) -> QPainterPath:
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


def _wait_path(box: QRectF, *, open_left: bool) -> QPainterPath:
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
