"""Small shared widgets: labels, buttons, cards, a wrapping row."""

from __future__ import annotations

from collections.abc import Callable
from html import escape

from PySide6.QtCore import QPoint, QRect, QSize, Qt, QTimer
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QApplication,
    QBoxLayout,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLayoutItem,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)  # fmt: skip
from shiboken6 import isValid

from creekbed.window.shared import theme


def label(text: str = "", role: str = "", tone: str = "", wrap: bool = True) -> QLabel:
    """A label of one of the four sizes."""
    found = QLabel(text)
    found.setTextFormat(Qt.TextFormat.PlainText)
    found.setWordWrap(wrap)
    if wrap:  # its height follows from its width; the hint for a narrow column would only make areas scroll
        found.setMinimumHeight(1)
    if role:
        found.setProperty("role", role)
    if tone:
        found.setProperty("tone", tone)
    sizes = {"name": theme.NAME_SIZE, "numeral": theme.NUMERAL_SIZE, "title": theme.TITLE_SIZE}
    found.setFont(theme.current.font(sizes.get(role, theme.TEXT_SIZE), bool(role), large=role in ("numeral", "title")))
    return found


class PlainButton(QPushButton):
    """A button whose words are shown as they are: an ampersand is an ampersand, and no shortcut."""

    def __init__(self, text: str = ""):
        super().__init__()
        self.setText(text)

    def setText(self, text: str) -> None:
        super().setText(text.replace("&", "&&"))

    def text(self) -> str:
        """The words as they are shown."""
        return super().text().replace("&&", "&")


def tip(widget: QWidget, text: str) -> None:
    """Set a tooltip as plain text, whatever characters are in it."""
    widget.setToolTip(f"<span>{escape(text)}</span>" if text else "")


def button(
    text: str, on: Callable[[], object] | None = None, kind: str = "", name: str = "", key: str = ""
) -> QPushButton:
    """A button at least as high as a finger; ``key`` is shown on it and works anywhere on its page."""
    found = PlainButton(f"{text}   {key}" if key and theme.current.scale < 1.3 else text)
    if kind:
        found.setProperty("kind", kind)
    found.setObjectName(name or text.lower().replace(" ", "_"))
    found.setAccessibleName(text)
    found.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    if key:
        shortcut = QShortcut(QKeySequence(key), found)  # a button's own shortcut acts only a tenth of a second later
        shortcut.activated.connect(found.click)
        found.setProperty("key", key)
    if on is not None:
        found.clicked.connect(lambda checked=False: on())
    return found


def entry(name: str, said: str, looks: str, then: Callable[[], object] | None = None) -> QLineEdit:
    """A field to type into.

    Args:
        name: of the widget. said: what it is for, for who hears it. looks: an example, shown while it is empty.
        then: on Return.
    """
    field = QLineEdit()
    field.setObjectName(name)
    field.setAccessibleName(said)
    field.setPlaceholderText(looks)
    if then is not None:
        field.returnPressed.connect(lambda: then())
    return field


def restyle(widget: QWidget, **properties: object) -> None:
    """Change dynamic properties and let the style sheet see them; nothing is done where nothing changes."""
    if all((widget.property(name) or "") == value for name, value in properties.items()):
        return
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


def how_sure(kind: str) -> QLabel:
    """A sentence on how far a kind of number may be trusted (``core/trust``)."""
    from creekbed.core.trust import trust

    found = trust(kind)
    words = label(f"{found.basis.capitalize()}. {found.words}", tone="muted")
    words.setObjectName(f"sure_{kind}")
    return words


def scroll(inner: QWidget) -> QScrollArea:
    """An upright scroll area around a widget."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Ignored)  # it takes the room there is
    area.setWidget(inner)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return area


class Listing(QListWidget):
    """A list that makes its items in Python.

    An item that Qt makes of a text has a wrapper in Python from the first time it is asked for, and nobody tells that
    when the list goes: the next item at its place in memory is taken for it, and the window ends with a segmentation
    fault when that one goes.
    """

    def addItem(self, item: QListWidgetItem | str) -> None:
        super().addItem(QListWidgetItem(item) if isinstance(item, str) else item)


def listing(name: str) -> Listing:
    """A list whose lines wrap and are never cut; room for the scroll bar stands always, so that their width does not
    change, and nothing is drawn there where there is nothing to scroll."""
    found = Listing()
    found.setAccessibleName(name)
    found.setWordWrap(True)
    found.setTextElideMode(Qt.TextElideMode.ElideNone)
    found.setResizeMode(QListWidget.ResizeMode.Adjust)
    found.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    found.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
    bar = found.verticalScrollBar()
    bar.rangeChanged.connect(lambda low, high: restyle(bar, idle="yes" if high <= low else ""))
    restyle(bar, idle="yes")
    return found


def refocus(root: QWidget, name: str) -> None:
    """After a rebuild, give the focus to the widget that now has this name, once it is shown."""

    def give() -> None:
        if isValid(root):
            found = root.findChild(QWidget, name) if name else None
            if found is not None and found.isVisible():
                found.setFocus(Qt.FocusReason.OtherFocusReason)

    QTimer.singleShot(0, give)


def focus_name(root: QWidget) -> str:
    """Name of the widget inside ``root`` that has the focus, or ""."""
    focus = QApplication.focusWidget()
    return focus.objectName() if focus is not None and root.isAncestorOf(focus) else ""


def clear(layout: QLayout) -> None:
    """Take everything out of a layout and delete it."""
    while layout.count():
        item = layout.takeAt(0)
        widget = item.widget() if item is not None else None
        inner = item.layout() if item is not None else None
        if widget is not None:
            widget.hide()  # to take it out of its parent as well would dress all that is in it anew
            widget.deleteLater()
        elif inner is not None:
            clear(inner)


def _least_width(item: QLayoutItem) -> int:
    """What an item needs; an area that scrolls upright needs what is in it."""
    area = item.widget()
    inner = area.widget() if isinstance(area, QScrollArea) else None
    if isinstance(area, QScrollArea) and inner is not None:
        return inner.minimumSizeHint().width() + area.verticalScrollBar().sizeHint().width()
    return item.minimumSize().width()


class Beside(QBoxLayout):
    """Items side by side where there is room for all of them, else one below the other."""

    def __init__(self, spacing: int = theme.STEP):
        super().__init__(QBoxLayout.Direction.LeftToRight)
        self.setContentsMargins(0, 0, 0, 0)
        self.setSpacing(spacing)

    def _widths(self) -> list[int]:
        items = (self.itemAt(n) for n in range(self.count()))
        return [_least_width(item) for item in items if item is not None and not item.isEmpty()]

    def minimumSize(self) -> QSize:
        return QSize(max(self._widths(), default=0), super().minimumSize().height())

    def setGeometry(self, rect: QRect) -> None:
        widths = self._widths()
        fits = sum(widths) + self.spacing() * max(len(widths) - 1, 0) <= rect.width()
        wanted = QBoxLayout.Direction.LeftToRight if fits else QBoxLayout.Direction.TopToBottom
        if self.direction() != wanted:
            self.setDirection(wanted)
        for n in range(self.count()):  # whatever its share, an area that scrolls upright is as wide as what is in it
            item = self.itemAt(n)
            area = item.widget() if item is not None else None
            if item is not None and isinstance(area, QScrollArea) and area.minimumWidth() != _least_width(item):
                area.setMinimumWidth(_least_width(item))
        super().setGeometry(rect)


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

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
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
            if item.isEmpty():
                continue
            size = item.sizeHint()
            if x + size.width() > rect.right() + 1 and line > 0:
                x, y, line = rect.x(), y + line + self.spacing(), 0
            if move:
                item.setGeometry(QRect(QPoint(x, y), size))
            x += size.width() + self.spacing()
            line = max(line, size.height())
        return y + line - rect.y()
