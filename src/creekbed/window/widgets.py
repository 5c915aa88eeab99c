"""Small shared widgets: labels, buttons, cards, a wrapping row, the scale of a check."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLayoutItem,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from creekbed.core.catalogue.models import Bands
from creekbed.core.units import show
from creekbed.window import theme


def label(text: str = "", role: str = "", tone: str = "", wrap: bool = True) -> QLabel:
    """A label of one of the four sizes."""
    found = QLabel(text)
    found.setTextFormat(Qt.TextFormat.PlainText)
    found.setWordWrap(wrap)
    if role:
        found.setProperty("role", role)
    if tone:
        found.setProperty("tone", tone)
    if role in ("name", "numeral", "title"):
        size = {"name": theme.NAME_SIZE, "numeral": theme.NUMERAL_SIZE, "title": 28}[role]
        found.setFont(theme.current.font(size, True))
    else:
        found.setFont(theme.current.font(theme.TEXT_SIZE, role == "small"))
    return found


def button(
    text: str, on: Callable[[], object] | None = None, kind: str = "", name: str = "", key: str = ""
) -> QPushButton:
    """A button at least as high as a finger; ``key`` is shown on it and works anywhere on its page."""
    found = QPushButton(f"{text}   {key}" if key and theme.current.scale < 1.3 else text)
    if kind:
        found.setProperty("kind", kind)
    found.setObjectName(name or text.lower().replace(" ", "_"))
    found.setAccessibleName(text)
    found.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    if key:
        found.setShortcut(key)
    if on is not None:
        found.clicked.connect(lambda checked=False: on())
    return found


def restyle(widget: QWidget, **properties: object) -> None:
    """Change dynamic properties and let the style sheet see them."""
    for name, value in properties.items():
        widget.setProperty(name, value)
    widget.style().unpolish(widget)
    widget.style().polish(widget)


def card(layout: type[QVBoxLayout] | type[QHBoxLayout] = QVBoxLayout, margin: int = 16) -> tuple[QFrame, QVBoxLayout]:
    """A card with a layout in it."""
    frame = QFrame()
    frame.setObjectName("card")
    inner = layout(frame)
    inner.setContentsMargins(margin, margin, margin, margin)
    inner.setSpacing(theme.STEP)
    return frame, inner  # type: ignore[return-value]


def row(*widgets: QWidget | None, spacing: int = theme.STEP) -> QHBoxLayout:
    """Widgets side by side; ``None`` stands for a stretch."""
    layout = QHBoxLayout()
    layout.setSpacing(spacing)
    for widget in widgets:
        if widget is None:
            layout.addStretch(1)
        else:
            layout.addWidget(widget)
    return layout


def scroll(inner: QWidget) -> QScrollArea:
    """An upright scroll area around a widget."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setWidget(inner)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return area


def clear(layout: QLayout) -> None:
    """Take everything out of a layout and delete it."""
    while layout.count():
        item = layout.takeAt(0)
        widget = item.widget() if item is not None else None
        inner = item.layout() if item is not None else None
        if widget is not None:
            widget.hide()
            widget.setParent(None)
            widget.deleteLater()
        elif inner is not None:
            clear(inner)


class Flow(QLayout):
    """Items from left to right that wrap to the next line."""

    def __init__(self, spacing: int = theme.STEP):
        super().__init__()
        self._items: list[QLayoutItem] = []
        self.setSpacing(spacing)
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:  # type: ignore[override]
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:  # type: ignore[override]
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._arrange(QRect(0, 0, width, 0), False)

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._arrange(rect, True)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        size = QSize(0, 0)
        for item in self._items:
            size = size.expandedTo(item.minimumSize())
        return size

    def _arrange(self, rect: QRect, move: bool) -> int:
        x, y, line = rect.x(), rect.y(), 0
        for item in self._items:
            size = item.sizeHint()
            if x + size.width() > rect.right() + 1 and line > 0:
                x, y, line = rect.x(), y + line + self.spacing(), 0
            if move:
                item.setGeometry(QRect(QPoint(x, y), size))
            x += size.width() + self.spacing()
            line = max(line, size.height())
        return y + line - rect.y()


class BandScale(QWidget):
    """A measurement on its scale: bands by pattern and word, the reading with its uncertainty."""

    def __init__(self, bands: Bands, unit: str, display: tuple[float, float]):
        super().__init__()
        self.bands, self.unit, self.display = bands, unit, display
        self.value: float | None = None
        self.expanded = 0.0
        self.setMinimumHeight(theme.current.px(78))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def set_reading(self, value: float | None, expanded: float = 0.0) -> None:
        """Show a reading with its expanded uncertainty (k = 2), or none."""
        self.value, self.expanded = value, expanded
        words = "no reading" if value is None else f"{show(value, self.unit)} ± {show(expanded, self.unit)}"
        self.setAccessibleName(f"Scale: {words}")
        self.update()

    def _x(self, value: float) -> float:
        low, high = self.display
        share = (min(max(value, low), high) - low) / (high - low)
        return 12 + share * (self.width() - 24)

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(theme.current.font(13))
        low, high = self.display
        b = self.bands
        edges = [e for e in (b.amber_from, b.green_from, b.green_to, b.amber_to) if e is not None and low < e < high]
        stops = [low, *edges, high]
        top, height = theme.current.px(26), theme.current.px(18)
        scale = b.scale()
        for left, right in pairwise(stops):
            band = scale.band((left + right) / 2)
            box = QRectF(self._x(left), top, self._x(right) - self._x(left), height)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(c.q({"green": "water", "amber": "silt", "act": "card"}[band]))
            painter.drawRect(box)
            if band == "act":
                painter.save()
                painter.setClipRect(box)
                painter.setPen(QPen(c.q("warn"), 1.5))
                x = box.left() - height
                while x < box.right():
                    painter.drawLine(QPointF(x, box.bottom()), QPointF(x + height, box.top()))
                    x += 7
                painter.restore()
            painter.setPen(QPen(c.q("muted"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
            word = {"green": "good", "amber": "watch", "act": "act"}[band]
            if painter.fontMetrics().horizontalAdvance(word) + 4 < box.width():
                painter.setPen(c.q("ink"))
                if band == "act":
                    width = painter.fontMetrics().horizontalAdvance(word) + 10
                    painter.fillRect(
                        QRectF(box.center().x() - width / 2, box.top() + 1, width, height - 2), c.q("card")
                    )
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, word)
        painter.setPen(c.q("muted"))
        last = -100.0
        for edge in edges:
            text = show(edge, self.unit)
            width = painter.fontMetrics().horizontalAdvance(text)
            x = self._x(edge) - width / 2
            if x > last + 4:
                painter.drawText(QPointF(x, top + height + theme.current.px(18)), text)
                last = x + width
        if self.value is not None:
            self._draw_reading(painter, top, height, c.q("ink"))
        painter.end()

    def _draw_reading(self, painter: QPainter, top: int, height: int, ink: QColor) -> None:
        assert self.value is not None
        x = self._x(self.value)
        left, right = self._x(self.value - self.expanded), self._x(self.value + self.expanded)
        middle = top - 6.0
        painter.setPen(QPen(ink, 2))
        painter.drawLine(QPointF(left, middle), QPointF(right, middle))
        for end in (left, right):
            painter.drawLine(QPointF(end, middle - 4), QPointF(end, middle + 4))
        painter.setBrush(ink)
        painter.drawPolygon(QPolygonF([QPointF(x, top + 3), QPointF(x - 6, middle - 5), QPointF(x + 6, middle - 5)]))
        painter.drawLine(QPointF(x, top), QPointF(x, top + height))
        text = show(self.value, self.unit)
        painter.setFont(theme.current.font(theme.TEXT_SIZE, True))
        width = painter.fontMetrics().horizontalAdvance(text)
        at = min(max(2.0, x - width / 2), self.width() - width - 2.0)
        painter.drawText(QPointF(at, middle - 8), text)
