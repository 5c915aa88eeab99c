"""The way of the Tab key: as people read, by how things are laid out now, not by when they were made."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QGridLayout,
    QLayout,
    QScrollArea,
    QStackedWidget,
    QWidget,
)

WHOLE = (QComboBox, QAbstractSpinBox, QAbstractItemView)
"""Widgets of the toolkit whose parts are no stops of their own."""


def reading_order(root: QWidget) -> Iterator[QWidget]:
    """What the Tab key stops at within a widget, in the order of its layouts; in a grid line by line."""
    if not root.isVisible() or not root.isEnabled():
        return
    if isinstance(root, QScrollArea):
        inner = root.widget()
        if inner is not None:
            yield from reading_order(inner)
        return
    if isinstance(root, QStackedWidget):
        shown = root.currentWidget()
        if shown is not None:
            yield from reading_order(shown)
        return
    if root.focusPolicy() & Qt.FocusPolicy.TabFocus and not isinstance(root, QLayout):
        yield root
    if isinstance(root, WHOLE):
        return
    layout = root.layout()
    if layout is not None:
        yield from _of_layout(layout)


def _of_layout(layout: QLayout) -> Iterator[QWidget]:
    at = range(layout.count())
    if isinstance(layout, QGridLayout):
        at = sorted(at, key=lambda n: layout.getItemPosition(n)[:2])  # type: ignore[assignment,index]
    for n in at:
        item = layout.itemAt(n)
        widget, inner = (item.widget(), item.layout()) if item is not None else (None, None)
        if widget is not None:
            yield from reading_order(widget)
        elif inner is not None:
            yield from _of_layout(inner)


def go_on(panes: Sequence[QWidget], forward: bool) -> bool:
    """Give the focus to the next stop, or the one before; round at the ends.

    Args:
        panes: read one after the other.
    """
    stops = [widget for pane in panes for widget in reading_order(pane)]
    if not stops:
        return False
    now = QApplication.focusWidget()
    at = next((n for n, widget in enumerate(stops) if widget is now), None)
    if at is None:
        at = -1 if forward else len(stops)
    _give(stops[(at + (1 if forward else -1)) % len(stops)], forward)
    return True


def next_pane(panes: Sequence[QWidget], forward: bool) -> None:
    """Give the focus to the first stop of the next pane that has one."""
    now = QApplication.focusWidget()
    at = next((n for n, pane in enumerate(panes) if now is not None and pane.isAncestorOf(now)), 0)
    for n in range(1, len(panes) + 1):
        first = next(reading_order(panes[(at + (n if forward else -n)) % len(panes)]), None)
        if first is not None:
            _give(first, forward)
            return


def _give(widget: QWidget, forward: bool) -> None:
    widget.setFocus(Qt.FocusReason.TabFocusReason if forward else Qt.FocusReason.BacktabFocusReason)
    parent = widget.parentWidget()
    while parent is not None:
        if isinstance(parent, QScrollArea):
            parent.ensureWidgetVisible(widget)
        parent = parent.parentWidget()
