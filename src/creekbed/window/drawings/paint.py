"""Paints a drawing: fills by material, outlines, the highlighted part in front."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen, QPixmap

from creekbed.window.drawings.pen import HEIGHT, WIDTH, Drawing
from creekbed.window.shared import theme

LOOKS: dict[str, tuple[str, str]] = {
    "brass": ("#E8D9AE", "#8A7846"), "silver": ("#DCE0DE", "#77817F"), "ebony": ("#4B565B", "#161B1D"),
    "varnish": ("#C99C72", "#8A5A36"), "spruce": ("#E6CF9F", "#A5814C"), "maple": ("#E7CD98", "#A98A55"),
    "hair": ("#F6F2E4", "#D8CFB8"), "cork": ("#D3B083", "#9A7648"), "pad": ("#F1E7CE", "#C9B88F"),
    "felt": ("#A9B7A6", "#5C6E5E"), "rubber": ("#6F7A7C", "#3A4244"), "plastic": ("#C5CBC6", "#5A625F"),
    "cane": ("#E5D493", "#B09A52"), "leather": ("#A88F78", "#6B533E"), "finish": ("#B9CCC6", "#4C6660"),
    "string": ("#F4F1E8", "#E9DFC8"), "lining": ("#E4E0D2", "#4A443B"), "hollow": ("#8F9A97", "#2A2F2E"),
}  # fmt: skip
"""Fill of each look on the light and on the dark paper."""


def fill(look: str) -> QColor:
    """The colour of what a thing is made of, in the current theme."""
    return QColor(LOOKS[look][1 if theme.current.dark else 0])


def fitted(box: QRectF) -> tuple[QPointF, float]:
    """Where the sheet's corner stands in a box, and its scale, so that it fits in the middle."""
    scale = min(box.width() / WIDTH, box.height() / HEIGHT)
    return QPointF(box.x() + (box.width() - WIDTH * scale) / 2, box.y() + (box.height() - HEIGHT * scale) / 2), scale


def paint(
    painter: QPainter,
    drawing: Drawing,
    box: QRectF,
    lit: Collection[str] = (),
    pointed: str | None = None,
    counts: Mapping[str, int] | None = None,
    base: QPixmap | None = None,
) -> None:
    """Draw it into a box.

    Args:
        base: the drawing itself as :func:`base_of` made it for this box; made anew if not given.
        lit: keys of areas that the step is about; all others step back.
        pointed: the area that has the focus. counts: area: how many marks or findings it carries.
    """
    c = theme.current.c
    corner, scale = fitted(box)
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if base is not None:
        painter.setOpacity(0.38 if lit else 1.0)
        painter.drawPixmap(box.topLeft(), base)
    painter.translate(corner)
    painter.scale(scale, scale)
    if base is None:
        painter.setOpacity(0.38 if lit else 1.0)
        _draw(painter, drawing, scale)
    painter.setOpacity(1.0)
    strong = QPen(c.q("deep"), max(2.6 / scale, 4.0))
    strong.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    halo = QPen(c.q("water"), max(9.0 / scale, 15.0))
    halo.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    painter.setPen(halo)
    for area in drawing.areas:
        if area.key in lit:
            painter.drawPath(area.path)
    for area in drawing.areas:
        if area.key in lit:
            painter.setPen(strong)
            painter.setBrush(QBrush(fill(area.look)))
            painter.drawPath(area.path)
    if pointed is not None:
        focus = QPen(c.q("focus"), max(3.0 / scale, 4.0), Qt.PenStyle.DashLine)
        painter.setPen(focus)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(drawing.area(pointed).path)
    for key, count in (counts or {}).items():
        _badge(painter, drawing, key, count, scale)
    painter.restore()


def base_of(drawing: Drawing, box: QRectF, ratio: float) -> QPixmap:
    """The drawing itself, nothing lit, for a box; drawn once, it is put on paper at every change.

    Args:
        ratio: device pixels for each pixel of the screen.
    """
    picture = QPixmap(max(1, round(box.width() * ratio)), max(1, round(box.height() * ratio)))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    corner, scale = fitted(QRectF(0, 0, box.width(), box.height()))
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(corner)
    painter.scale(scale, scale)
    _draw(painter, drawing, scale)
    painter.end()
    return picture


def _draw(painter: QPainter, drawing: Drawing, scale: float) -> None:
    """All areas and lines, on a painter that is scaled to the sheet already."""
    c = theme.current.c
    ink = QPen(c.q("ink"), max(1.3 / scale, 1.6))
    ink.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    thread = QPen(c.q("ink"), max(0.4 / scale, 0.5))
    for area in drawing.areas:
        painter.setPen(thread if area.look == "string" else ink)
        painter.setBrush(QBrush(fill(area.look)))
        painter.drawPath(area.path)
    painter.setPen(QPen(c.q("ink"), max(0.9 / scale, 1.0)))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for line in drawing.lines:
        painter.drawPath(line)


def _badge(painter: QPainter, drawing: Drawing, key: str, count: int, scale: float) -> None:
    """How many marks an area carries: a number in a ring at its middle."""
    spot(painter, inside(drawing, key), str(count), False, 12 / scale)


def spot(painter: QPainter, middle: QPointF, word: str, strong: bool, radius: float) -> None:
    """A word of one or two signs in a ring; a strong one is filled."""
    c = theme.current.c
    painter.setPen(QPen(c.q("ink"), radius / 6))
    painter.setBrush(c.q("deep" if strong else "card"))
    painter.drawEllipse(middle, radius, radius)
    font = theme.current.font(14, True)
    font.setPixelSize(max(1, round(1.17 * radius)))
    painter.setFont(font)
    painter.setPen(c.q("card" if strong else "ink"))
    box = QRectF(middle.x() - radius, middle.y() - radius, 2 * radius, 2 * radius)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, word)


def inside(drawing: Drawing, key: str) -> QPointF:
    """A point inside an area, near its middle: where a sign or a number stands."""
    path = drawing.area(key).path
    box = path.boundingRect()
    middle = box.center()
    if path.contains(middle):
        return middle
    best = middle
    for n in range(1, 12):
        for x, y in ((n, 0), (-n, 0), (0, n), (0, -n), (n, n), (-n, -n), (n, -n), (-n, n)):
            point = QPointF(middle.x() + x * box.width() / 24, middle.y() + y * box.height() / 24)
            if path.contains(point):
                return point
    return best
