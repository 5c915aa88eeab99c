"""What a screen reader says, and the way of the Tab key: every page, through the toolkit's accessibility interface."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAccessible
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QDateTimeEdit,
    QHeaderView,
    QLineEdit,
    QSpinBox,
    QWidget,
)

from creekbed.window.frame.frame import Frame
from creekbed.window.tools.base import TOOLS
from tests.conftest import Hand
from tests.window.conftest import rest

ASKED = (QLineEdit, QComboBox, QAbstractItemView, QDateTimeEdit, QSpinBox, QAbstractButton)
INNER = ("qt_spinbox_lineedit", "qt_calendar_calendarview")
"""Parts of the toolkit's own widgets, which answer for them."""


def pages(frame: Frame, job: int) -> dict[str, Callable[[], Any]]:
    """Every page, and the way to it."""
    nav = frame.nav
    found: dict[str, Callable[[], Any]] = {
        "home": nav.go_home, "book_in": nav.open_book_in, "find": nav.open_find, "count": nav.open_count,
        "instruments": nav.open_instruments, "stock": nav.open_stock,
        "house": nav.open_house, "days": nav.open_days, "bring": nav.open_bring, "book": nav.open_book,
        "journal": nav.open_journal, "devices": nav.open_devices, "kept": nav.open_kept, "day": nav.open_day,
        "history": lambda: nav.open_history("MH-0142"),
    }  # fmt: skip
    found |= {f"job {tab}": lambda tab=tab: nav.open_job(job, tab) for tab in ("case", "look_over", "steps", "ready")}
    return found | {key: lambda key=key: nav.open_tool(key) for key in TOOLS}


def asked(root: QWidget) -> Iterator[QWidget]:
    """What can be answered or pressed, and is in sight."""
    for widget in root.findChildren(QWidget):
        inner = (
            widget.objectName() in INNER
            or isinstance(widget, QHeaderView)
            or isinstance(widget.parent(), QComboBox | QDateTimeEdit | QSpinBox)
        )
        if isinstance(widget, ASKED) and widget.isVisibleTo(root) and not inner:
            yield widget


def test_everything_has_a_name_and_a_role(window: Frame, hand: Hand) -> None:
    job = hand.book()
    nameless = []
    for page, go in pages(window, job).items():
        go()
        rest(window)
        for widget in asked(window):
            spoken = QAccessible.queryAccessibleInterface(widget)
            name = spoken.text(QAccessible.Text.Name)
            if not name.strip() or spoken.role() == QAccessible.Role.NoRole:
                nameless.append(f"{page}: {type(widget).__name__} {widget.objectName()}")
    assert sorted(set(nameless)) == []


@pytest.mark.parametrize(
    "page",
    [
        "book_in",
        "instruments",
        "days",
        "bring",
        "stock",
        "count",
        "house",
        "home",
        "find",
        "kept",
        "devices",
        "history",
        "book",
        "journal",
        "day",
        "job case",
        "job look_over",
        "job steps",
        "job ready",
        *TOOLS,
    ],
)
def test_tab_goes_as_people_read(window: Frame, hand: Hand, page: str) -> None:
    """From top to bottom, and from left to right within a line; a column is read to its end before the next."""
    job = hand.book()
    pages(window, job)[page]()
    rest(window)
    shown = window.stack.currentWidget()
    first = next(w for w in asked(shown) if w.focusPolicy() & Qt.FocusPolicy.TabFocus and w.isEnabled())
    first.setFocus()
    seen: list[QWidget] = []
    for _ in range(80):
        focus = QApplication.focusWidget()
        if focus is None or focus in seen or not shown.isAncestorOf(focus):
            break
        seen.append(focus)
        QTest.keyClick(window.windowHandle(), Qt.Key.Key_Tab)
    assert len(seen) >= (1 if page in ("find", "history", "journal", "job ready", "room", "home") else 3)
    jumps = []
    for before, after in itertools.pairwise(seen):
        a, b = (w.mapTo(shown, QPoint(0, 0)) for w in (before, after))
        below, right = b.y() >= a.y() - 4, b.x() > a.x() + before.width() / 2
        if not (below or right):
            jumps.append(f"{before.objectName()} {a.toTuple()} → {after.objectName()} {b.toTuple()}")
    assert jumps == [], f"in the order {[w.objectName() for w in seen]}"


def test_the_page_comes_first_then_what_stands_round_it(window: Frame, hand: Hand) -> None:
    """From the last stop of a page to the ways below, the stages above, and round again; backwards too."""
    hand.book()
    window.nav.open_days()
    rest(window)
    page = window.stack.currentWidget()
    stops = [w for w in asked(page) if w.focusPolicy() & Qt.FocusPolicy.TabFocus and w.isEnabled()]
    stops[0].setFocus()
    where: list[str] = []
    for _ in range(90):
        focus = QApplication.focusWidget()
        assert focus is not None
        pane = next(
            (n for n, p in zip(("page", "bar", "stages"), window.panes, strict=True) if p.isAncestorOf(focus)), "?"
        )
        if not where or where[-1] != pane:
            where.append(pane)
        QTest.keyClick(window.windowHandle(), Qt.Key.Key_Tab)
    assert where[:4] == ["page", "bar", "stages", "page"]
    stops[1].setFocus()
    QTest.keyClick(window.windowHandle(), Qt.Key.Key_Tab, Qt.KeyboardModifier.ShiftModifier)
    assert QApplication.focusWidget() is not stops[1] and page.isAncestorOf(QApplication.focusWidget())


def test_one_key_goes_from_pane_to_pane(window: Frame, hand: Hand) -> None:
    hand.book()
    window.nav.open_days()
    rest(window)
    window.page("days").way.name.setFocus()
    seen = []
    for _ in range(3):
        QTest.keyClick(window.windowHandle(), Qt.Key.Key_Tab, Qt.KeyboardModifier.ControlModifier)
        focus = QApplication.focusWidget()
        seen.append([p.isAncestorOf(focus) for p in window.panes].index(True))
    assert seen == [1, 2, 0]
