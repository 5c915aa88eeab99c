"""The pen of our drawings: tubes of changing width along a line, plates, cups; areas that can be pointed at.

All drawings share one sheet of 900 × 340 units, the instrument lying as it lies on the bench.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import field
from typing import Literal

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainterPath, QPainterPathStroker, QTransform

from creekbed.core.quick_dataclasses import dataclass

WIDTH, HEIGHT = 900.0, 340.0
Look = Literal[
    "brass", "silver", "ebony", "varnish", "spruce", "maple", "hair", "cork", "pad", "felt", "rubber", "plastic", "cane",
    "leather", "finish", "string", "lining", "hollow",
]  # fmt: skip
Xy = tuple[float, float]
Xyr = tuple[float, float, float]


@dataclass(frozen=True)
class Area:
    """A named area of a drawing.

    Attributes:
        key: what it is called in families (a part's key, or one of several areas of a part).
        name: in words. path: its outline. look: what it is made of, which gives its colour.
    """

    key: str
    name: str
    path: QPainterPath
    look: Look


LIKE = {
    "own_mouthpiece": "mouthpiece", "own_reed": "reed", "own_ligature": "ligature", "spacer": "mouthpiece",
    "reed_case": "case", "cloths": "case",
}  # fmt: skip
"""Pieces without a shape of their own, and the one where they sit or lie: the technician's mouthpiece where the hired one
is."""


@dataclass
class Drawing:
    """A drawing: areas from the back to the front, fine lines over them, and what stands for what.

    Attributes:
        stands: part or zone: keys of the areas that show it; an area shows the part of its own key by itself.
        ends: (part, end): where a cloth goes in or out, and the direction out of the tube.
        runs: part: the middle of its tube from the upper end to the lower.
    """

    areas: list[Area] = field(default_factory=list)
    lines: list[QPainterPath] = field(default_factory=list)
    stands: dict[str, tuple[str, ...]] = field(default_factory=dict)
    ends: dict[tuple[str, str], tuple[Xy, Xy]] = field(default_factory=dict)
    runs: dict[str, tuple[Xy, ...]] = field(default_factory=dict)

    def add(self, key: str, name: str, path: QPainterPath, look: Look) -> None:
        """Put an area in front of those that are there."""
        self.areas.append(Area(key, name, path, look))

    def lay(self, piece: Drawing, degrees: float, x: float, y: float) -> None:
        """Put the areas of a small piece in front, turned about its origin, its origin at a point."""
        for area in piece.areas:
            self.add(area.key, area.name, moved(turned(area.path, degrees, 0, 0), x, y), area.look)

    def line(self, path: QPainterPath) -> None:
        """Put a fine line in front."""
        self.lines.append(path)

    def shows(self, name: str) -> tuple[str, ...]:
        """The areas that show a part or zone; empty when it is not drawn."""
        if name in self.stands:
            return self.stands[name]
        found = tuple(a.key for a in self.areas if a.key == name)[:1]
        return found if found or name not in LIKE else self.shows(LIKE[name])

    def area(self, key: str) -> Area:
        """The area with a key."""
        return next(a for a in self.areas if a.key == key)

    def along(self, part: str, share: float) -> tuple[Xy, Xy] | None:
        """A point on a part's tube and the direction toward its lower end.

        Args:
            share: 0 at the upper end, 1 at the lower.
        """
        run = self.runs.get(part)
        if run is None:
            return None
        path = course(run)
        angle = math.radians(path.angleAtPercent(share))  # counter-clockwise, with y downward
        at = path.pointAtPercent(share)
        return (at.x(), at.y()), (math.cos(angle), -math.sin(angle))

    def at(self, x: float, y: float) -> str | None:
        """The front area under a point of the sheet."""
        point = QPointF(x, y)
        return next((a.key for a in reversed(self.areas) if a.path.contains(point)), None)

    def bounds(self, key: str) -> QRectF:
        """The box around an area."""
        return self.area(key).path.boundingRect()


def _spline(points: Sequence[Xyr], steps: int = 14) -> list[Xyr]:
    """Points on a Catmull–Rom curve through the given ones, the third value along with them."""
    if len(points) < 3:
        points = [points[0], *[_between(points[0], points[-1], t) for t in (0.33, 0.66)], points[-1]]
    padded = [points[0], *points, points[-1]]
    found: list[Xyr] = []
    for p0, p1, p2, p3 in zip(padded, padded[1:], padded[2:], padded[3:], strict=False):
        for n in range(steps):
            found.append(_catmull(p0, p1, p2, p3, n / steps))
    return [*found, points[-1]]


def _between(a: Xyr, b: Xyr, t: float) -> Xyr:
    return (a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t)


def _catmull(p0: Xyr, p1: Xyr, p2: Xyr, p3: Xyr, t: float) -> Xyr:
    def one(i: int) -> float:
        a, b, c, d = p0[i], p1[i], p2[i], p3[i]
        return 0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3)

    return (one(0), one(1), one(2))


def tube(points: Sequence[Xyr], straight: bool = False) -> QPainterPath:
    """A tube along a line: (x, y, half width) at each point, widths and course smooth between them.

    Args:
        points: at least two. straight: no smoothing, as for turned parts with edges.
    """
    line = list(points) if straight else _spline(points)
    left, right = [], []
    for n, (x, y, r) in enumerate(line):
        x0, y0, _ = line[max(n - 1, 0)]
        x1, y1, _ = line[min(n + 1, len(line) - 1)]
        length = math.hypot(x1 - x0, y1 - y0) or 1.0
        nx, ny = -(y1 - y0) / length, (x1 - x0) / length
        left.append(QPointF(x + nx * r, y + ny * r))
        right.append(QPointF(x - nx * r, y - ny * r))
    path = QPainterPath(left[0])
    for point in left[1:] + right[::-1]:
        path.lineTo(point)
    path.closeSubpath()
    return solid(path)


def pipe(points: Sequence[Xy], width: float, round_corners: float = 0.0) -> QPainterPath:
    """Tubing of one width through points; straight runs with bends of a radius, as brass is bent."""
    return stroke(course(points, round_corners), width)


def course(points: Sequence[Xy], radius: float = 0.0) -> QPainterPath:
    """A line through points whose corners are rounded."""
    path = QPainterPath(QPointF(*points[0]))
    for before, here, after in zip(points, points[1:], points[2:], strict=False):
        a, b = _toward(here, before, radius), _toward(here, after, radius)
        path.lineTo(QPointF(*a))
        path.quadTo(QPointF(*here), QPointF(*b)) if radius else path.lineTo(QPointF(*here))
    path.lineTo(QPointF(*points[-1]))
    return path


def _toward(a: Xy, b: Xy, distance: float) -> Xy:
    length = math.hypot(b[0] - a[0], b[1] - a[1]) or 1.0
    share = min(distance / length, 0.5)
    return (a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share)


def curve(points: Sequence[Xy]) -> QPainterPath:
    """A smooth line through points."""
    line = _spline([(x, y, 0.0) for x, y in points])
    path = QPainterPath(QPointF(line[0][0], line[0][1]))
    for x, y, _ in line[1:]:
        path.lineTo(QPointF(x, y))
    return path


def stroke(line: QPainterPath, width: float, round_ends: bool = False) -> QPainterPath:
    """The outline of a line drawn with a width."""
    stroker = QPainterPathStroker()
    stroker.setWidth(width)
    stroker.setCapStyle(Qt.PenCapStyle.RoundCap if round_ends else Qt.PenCapStyle.FlatCap)
    stroker.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    return solid(stroker.createStroke(line))


def solid(path: QPainterPath) -> QPainterPath:
    """One filled shape without inner lines."""
    path.setFillRule(Qt.FillRule.WindingFill)
    return path.simplified()


def plate(x: float, y: float, w: float, h: float, r: float = 4.0) -> QPainterPath:
    """A box with round corners."""
    path = QPainterPath()
    path.addRoundedRect(QRectF(x, y, w, h), r, r)
    return path


def disc(x: float, y: float, rx: float, ry: float | None = None) -> QPainterPath:
    """A disc or ellipse about a middle."""
    path = QPainterPath()
    path.addEllipse(QPointF(x, y), rx, rx if ry is None else ry)
    return path


def polygon(points: Iterable[Xy]) -> QPainterPath:
    """A shape with straight sides."""
    first, *rest = points
    path = QPainterPath(QPointF(*first))
    for point in rest:
        path.lineTo(QPointF(*point))
    path.closeSubpath()
    return path


def blob(points: Sequence[Xy]) -> QPainterPath:
    """A closed smooth shape through points."""
    ring = [*points, *points[:3]]
    path = QPainterPath()
    started = False
    padded = [(x, y, 0.0) for x, y in ring]
    for p0, p1, p2, p3 in zip(padded, padded[1:], padded[2:], padded[3:], strict=False):
        for n in range(14):
            x, y, _ = _catmull(p0, p1, p2, p3, n / 14)
            if started:
                path.lineTo(QPointF(x, y))
            else:
                path.moveTo(QPointF(x, y))
                started = True
    path.closeSubpath()
    return path


def mirrored(half: Sequence[QPointF], axis: float) -> QPainterPath:
    """A shape from one half of its outline, its distances told from a lengthwise axis."""
    path = QPainterPath(QPointF(half[0].x(), axis - half[0].y()))
    for p in half[1:]:
        path.lineTo(p.x(), axis - p.y())
    for p in reversed(half):
        path.lineTo(p.x(), axis + p.y())
    path.closeSubpath()
    return path


def joined(*paths: QPainterPath) -> QPainterPath:
    """Several shapes as one area."""
    whole = QPainterPath()
    for path in paths:
        whole = whole.united(path)
    return whole


def turned(path: QPainterPath, degrees: float, x: float, y: float) -> QPainterPath:
    """A shape turned about a point."""
    return QTransform().translate(x, y).rotate(degrees).translate(-x, -y).map(path)


def moved(path: QPainterPath, dx: float, dy: float, scale: float = 1.0) -> QPainterPath:
    """A shape scaled about the origin, then moved."""
    return QTransform().translate(dx, dy).scale(scale, scale).map(path)


def case_mark(drawing: Drawing, word: str = "case") -> None:
    """A small closed case in the corner, so that the case can be pointed at too."""
    body = plate(826, 300, 58, 30, 6)
    handle = stroke(course([(845, 300), (845, 293), (865, 293), (865, 300)], 4), 4)
    drawing.add("case", word, joined(body, handle), "lining")
    drawing.line(course([(826, 314), (884, 314)]))
    drawing.line(course([(838, 311), (838, 318)]))
    drawing.line(course([(872, 311), (872, 318)]))
