"""A photograph on which points are placed: with the mouse, nudged by keys, seen through a magnifier."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from creekbed.window.shared import theme

LENS = 74
"""Radius of the magnifier, px."""
ZOOM = 5.0


class PointPicture(QWidget):
    """Points in pixels of the photograph; ``moved`` tells that one was placed or nudged."""

    moved = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.image = QImage()
        self.small = QImage()
        self.names: tuple[str, ...] = ()
        self.points: list[QPointF] = []
        self.at = -1
        self.split = 0
        """How many of the points belong to what is known; the others are measured."""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(theme.current.px(180))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Photograph: place the points; arrow keys nudge the last one")

    def sizeHint(self) -> QSize:
        return QSize(700, self.minimumHeight())

    def set_image(self, image: QImage, small: QImage) -> None:
        """Show a photograph; ``small`` is what is drawn, ``image`` what is measured and magnified."""
        self.image, self.small = image, small
        self.points, self.at = [], -1
        self.moved.emit()
        self.update()

    def set_names(self, names: tuple[str, ...], split: int) -> None:
        """Name the points that are wanted; those placed beyond them are dropped."""
        if split != self.split:
            self.points = []
        self.names, self.split = names, split
        self.points = self.points[: max(len(names), 0)]
        self.at = min(self.at, len(self.points) - 1)
        self.moved.emit()
        self.update()

    def clear_points(self) -> None:
        """Take all points back."""
        self.points, self.at = [], -1
        self.moved.emit()
        self.update()

    @property
    def wanted(self) -> str:
        """Name of the next point, or ""."""
        return self.names[len(self.points)] if len(self.points) < len(self.names) else ""

    def place(self, x: float, y: float) -> None:
        """Place the next point, in pixels of the photograph; when all are placed, move the nearest."""
        if self.image.isNull():
            return
        point = QPointF(min(max(x, 0.0), self.image.width() - 1.0), min(max(y, 0.0), self.image.height() - 1.0))
        if len(self.points) < len(self.names):
            self.points.append(point)
            self.at = len(self.points) - 1
        elif self.points:
            self.at = min(range(len(self.points)), key=lambda n: (self.points[n] - point).manhattanLength())
            self.points[self.at] = point
        self.moved.emit()
        self.update()

    # --- where things are drawn -------------------------------------------------------------------------------------

    def _box(self) -> QRectF:
        room = QRectF(self.rect())
        if self.image.isNull():
            return room
        scale = min(room.width() / self.image.width(), room.height() / self.image.height())
        w, h = self.image.width() * scale, self.image.height() * scale
        return QRectF(room.center().x() - w / 2, room.center().y() - h / 2, w, h)

    def to_screen(self, point: QPointF) -> QPointF:
        """A point of the photograph on the widget."""
        box = self._box()
        return QPointF(
            box.left() + (point.x() + 0.5) / self.image.width() * box.width(),
            box.top() + (point.y() + 0.5) / self.image.height() * box.height(),
        )

    def _to_image(self, point: QPointF) -> QPointF:
        box = self._box()
        return QPointF(
            (point.x() - box.left()) / box.width() * self.image.width() - 0.5,
            (point.y() - box.top()) / box.height() * self.image.height() - 0.5,
        )

    # --- hands ------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if not self.image.isNull() and self._box().contains(event.position()):
            near = [
                n for n, p in enumerate(self.points) if (self.to_screen(p) - event.position()).manhattanLength() < 14
            ]
            if near:
                self.at = near[0]
                self.moved.emit()
                self.update()
                return
            at = self._to_image(event.position())
            self.place(at.x(), at.y())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.at >= 0 and event.buttons() & Qt.MouseButton.LeftButton and not self.image.isNull():
            at = self._to_image(event.position())
            self.points[self.at] = QPointF(
                min(max(at.x(), 0.0), self.image.width() - 1.0), min(max(at.y(), 0.0), self.image.height() - 1.0)
            )
            self.moved.emit()
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.5
        way = {
            Qt.Key.Key_Left: (-step, 0.0), Qt.Key.Key_Right: (step, 0.0),
            Qt.Key.Key_Up: (0.0, -step), Qt.Key.Key_Down: (0.0, step),
        }.get(Qt.Key(event.key()))  # fmt: skip
        if way is not None and self.points:
            p = self.points[self.at]
            self.points[self.at] = QPointF(
                min(max(p.x() + way[0], 0.0), self.image.width() - 1.0),
                min(max(p.y() + way[1], 0.0), self.image.height() - 1.0),
            )
            self.moved.emit()
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space) and self.wanted and not self.image.isNull():
            middle = self.points[-1] if self.points else QPointF(self.image.width() / 2, self.image.height() / 2)
            self.place(middle.x() + (30.0 if self.points else 0.0), middle.y())
        elif event.key() == Qt.Key.Key_Backspace and self.points:
            self.points.pop()
            self.at = len(self.points) - 1
            self.moved.emit()
            self.update()
        elif event.key() in (Qt.Key.Key_PageDown, Qt.Key.Key_PageUp) and self.points:
            self.at = (self.at + (1 if event.key() == Qt.Key.Key_PageDown else -1)) % len(self.points)
            self.moved.emit()
            self.update()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.update()
        super().focusInEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()
        super().focusOutEvent(event)

    # --- drawing ----------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), c.q("silt"))
        if self.image.isNull():
            painter.setPen(c.q("ink"))
            painter.setFont(theme.current.font(theme.TEXT_SIZE))
            words = "Take a picture, choose a file, paste one, or drop it here."
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, words)
        else:
            painter.drawImage(self._box(), self.small)
            self._draw_points(painter)
            if self.points:
                self._draw_lens(painter, self.points[self.at])
        if self.hasFocus():
            painter.setPen(QPen(c.q("focus"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _draw_points(self, painter: QPainter) -> None:
        c = theme.current.c
        screen = [self.to_screen(p) for p in self.points]
        known, measured = screen[: self.split], screen[self.split :]
        for pen in (QPen(c.q("card"), 4), QPen(c.q("ink"), 1.5)):
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if len(known) > 1:
                painter.drawPolyline(known + ([known[0]] if len(known) == 4 else []))
            for a, b in zip(measured[::2], measured[1::2], strict=False):
                painter.drawLine(a, b)
        for n, p in enumerate(screen):
            painter.setPen(QPen(c.q("card"), 3))
            painter.setBrush(c.q("deep" if n < self.split else "warn"))
            radius = 8.0 if n == self.at else 6.0
            painter.drawEllipse(p, radius, radius)
            painter.setPen(c.q("card"))
            painter.setFont(theme.current.font(11, bold=True))
            painter.drawText(QRectF(p.x() - 10, p.y() - 8, 20, 16), Qt.AlignmentFlag.AlignCenter, str(n + 1))

    def _draw_lens(self, painter: QPainter, point: QPointF) -> None:
        c = theme.current.c
        on_screen = self.to_screen(point)
        left = on_screen.x() > self.width() / 2
        middle = QPointF(LENS + 8 if left else self.width() - LENS - 8, LENS + 8)
        scale = self._box().width() / self.image.width() * ZOOM
        reach = LENS / max(scale, 0.5)
        source = QRectF(point.x() + 0.5 - reach, point.y() + 0.5 - reach, 2 * reach, 2 * reach)
        painter.save()
        round_ = QPainterPath()
        round_.addEllipse(middle, LENS, LENS)
        painter.setClipPath(round_)
        painter.fillPath(round_, c.q("silt"))
        painter.drawImage(QRectF(middle.x() - LENS, middle.y() - LENS, 2 * LENS, 2 * LENS), self.image, source)
        for pen in (QPen(c.q("card"), 3), QPen(c.q("ink"), 1)):
            painter.setPen(pen)
            painter.drawLine(QPointF(middle.x() - LENS, middle.y()), QPointF(middle.x() - 5, middle.y()))
            painter.drawLine(QPointF(middle.x() + 5, middle.y()), QPointF(middle.x() + LENS, middle.y()))
            painter.drawLine(QPointF(middle.x(), middle.y() - LENS), QPointF(middle.x(), middle.y() - 5))
            painter.drawLine(QPointF(middle.x(), middle.y() + 5), QPointF(middle.x(), middle.y() + LENS))
        painter.restore()
        painter.setPen(QPen(c.q("ink"), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(middle, LENS, LENS)
