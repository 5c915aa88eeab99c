"""The small set of signs over a drawing: where a cloth goes in and out, twist, pull, hold, never, dry, wet, no force."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from creekbed.window.drawings.pen import Xy
from creekbed.window.shared import theme

SIGNS = ("enter", "leave", "twist", "pull", "lift", "hold", "never", "dry", "wet", "no_force")
WORDS = {
    "enter": "in here", "leave": "out here", "twist": "twist, little by little", "pull": "straight", "lift": "lift",
    "hold": "hold here", "never": "never here", "dry": "dry", "wet": "wet", "no_force": "no force",
}  # fmt: skip
SIZE = 46.0


def sign(painter: QPainter, name: str, at: QPointF, toward: Xy = (1.0, 0.0), size: float = SIZE) -> None:
    """Draw one sign about a point, in the units of the painter.

    Args:
        name: one of :data:`SIGNS`. toward: direction of a way or pull.
    """
    c = theme.current.c
    colour = c.q("warn") if name in ("never", "no_force") else c.q("deep")
    painter.save()
    painter.translate(at)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if name in ("enter", "leave", "pull"):
        painter.rotate(math.degrees(math.atan2(toward[1], toward[0])))
        _arrow(painter, size, colour, inward=name == "enter", both=name == "pull")
    elif name == "lift":
        painter.rotate(-90)
        _arrow(painter, size, colour, inward=False, both=False)
    elif name == "twist":
        _twist(painter, size, colour)
    elif name == "wet":
        _drop(painter, size, colour)
    elif name == "dry":
        _drop(painter, size, colour)
        _strike(painter, size, colour)
    else:
        _hand(painter, size, colour)
        if name in ("never", "no_force"):
            _strike(painter, size, colour)
    painter.restore()


def _pen(painter: QPainter, colour: QColor, width: float, back: bool) -> None:
    pen = QPen(theme.current.c.q("card") if back else colour, width + (5 if back else 0))
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _draw(painter: QPainter, path: QPainterPath, colour: QColor, width: float) -> None:
    """A line with a rim of paper round it, so that it stands off the drawing."""
    for back in (True, False):
        _pen(painter, colour, width, back)
        painter.drawPath(path)


def _arrow(painter: QPainter, size: float, colour: QColor, inward: bool, both: bool) -> None:
    """An arrow outside the point: toward it where something goes in, away where it comes out."""
    near, far = size * 0.3, size * 1.25
    path = QPainterPath(QPointF(near, 0))
    path.lineTo(far, 0)
    heads = [(near, 1.0)] if inward else [(far, -1.0)]
    if both:
        heads = [(near, 1.0), (far, -1.0)]
    for x, way in heads:
        path.moveTo(x + way * size * 0.28, -size * 0.24)
        path.lineTo(x, 0)
        path.lineTo(x + way * size * 0.28, size * 0.24)
    _draw(painter, path, colour, size * 0.13)


def _twist(painter: QPainter, size: float, colour: QColor) -> None:
    """Back and forth round the joint: an arc with a head at both ends."""
    r = size * 0.85
    box = QRectF(-r * 0.5, -r, r, 2 * r)
    path = QPainterPath()
    path.arcMoveTo(box, 50)
    path.arcTo(box, 50, -280)
    for degrees, turn in ((50, 1.0), (130, -1.0)):
        a = math.radians(degrees)
        x, y = r * 0.5 * math.cos(a), -r * math.sin(a)
        for spread in (-0.55, 0.55):
            path.moveTo(x, y)
            path.lineTo(x - turn * size * -0.26 * math.cos(spread + 0.5), y + size * 0.3 * math.sin(spread + 1.1))
    _draw(painter, path, colour, size * 0.11)


def _drop(painter: QPainter, size: float, colour: QColor) -> None:
    r = size * 0.32
    path = QPainterPath(QPointF(0, -size * 0.55))
    path.cubicTo(r * 0.6, -size * 0.2, r, 0, r, size * 0.12)
    path.arcTo(QRectF(-r, size * 0.12 - r, 2 * r, 2 * r), 0, -180)
    path.cubicTo(-r, 0, -r * 0.6, -size * 0.2, 0, -size * 0.55)
    _pen(painter, colour, size * 0.09, True)
    painter.drawPath(path)
    _pen(painter, colour, size * 0.09, False)
    painter.setBrush(theme.current.c.q("water"))
    painter.drawPath(path)


def _hand(painter: QPainter, size: float, colour: QColor) -> None:
    """Two fingertips and a thumb closing on something: a ring held from three sides."""
    path = QPainterPath()
    path.addEllipse(QPointF(0, 0), size * 0.2, size * 0.2)
    for degrees in (90, 210, 330):
        a = math.radians(degrees)
        path.moveTo(math.cos(a) * size * 0.34, -math.sin(a) * size * 0.34)
        path.lineTo(math.cos(a) * size * 0.62, -math.sin(a) * size * 0.62)
    _draw(painter, path, colour, size * 0.14)


def _strike(painter: QPainter, size: float, colour: QColor) -> None:
    path = QPainterPath(QPointF(-size * 0.5, size * 0.5))
    path.lineTo(size * 0.5, -size * 0.5)
    _draw(painter, path, colour, size * 0.11)
