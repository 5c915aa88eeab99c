"""The forms of days and departures."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date, timedelta

from PySide6.QtCore import QDate
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDateEdit,
    QGridLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from creekbed.core.local import read_clock
from creekbed.core.shop_calendar import read_dates
from creekbed.store.records import DepartureKind
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import Flow, button, entry, label, row
from creekbed.words.calendar import DAYS, ON_CLOSED
from creekbed.workshop.shop.departures import KindRequest


def _date_edit(name: str, said: str) -> QDateEdit:
    found = QDateEdit()
    found.setObjectName(name)
    found.setAccessibleName(said)
    found.setDisplayFormat("ddd d MMM yyyy")
    found.setCalendarPopup(True)
    return found


def _date_of(edit: QDateEdit) -> date:
    on = edit.date()
    return date(on.year(), on.month(), on.day())


def _show(edit: QDateEdit, day: date) -> None:
    edit.setDate(QDate(day.year, day.month, day.day))


WEEKS = (1, 2, 3, 4, 6, 8, 12)


class _Form(QWidget):
    """Fields under one another, with the words above each."""

    def __init__(self) -> None:
        super().__init__()
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 8, 0, 0)
        self.column.setSpacing(theme.STEP)

    def field(self, words: str, *widgets: QWidget) -> None:
        """A line of the form."""
        self.column.addWidget(label(words, "small"))
        if len(widgets) == 1:
            self.column.addWidget(widgets[0])
            return
        flow, holder = Flow(), QWidget()
        holder.setLayout(flow)
        for widget in widgets:
            flow.addWidget(widget)
        self.column.addWidget(holder)

    def name_field(self, looks: str) -> QLineEdit:
        """The field for the name."""
        found = entry("name", "Name", looks)
        self.field("Name", found)
        return found


class WayForm(_Form):
    """How instruments leave: on weekdays or on dates, at a time of day."""

    def __init__(self, keep: Callable[[], object], leave: Callable[[], object]):
        super().__init__()
        self.title = label("", "name")
        self.column.addWidget(self.title)
        self.name = self.name_field("Monday’s van")
        flow, holder = Flow(6), QWidget()
        holder.setLayout(flow)
        self.weekdays = []
        for n, day in enumerate(DAYS):
            press = button(day[:3], None, "", f"weekday_{n}")
            press.setCheckable(True)
            press.setAccessibleName(day)
            self.weekdays.append(press)
            flow.addWidget(press)
        self.field("On", holder)
        self.time = entry("time_of_day", "Time of day", "08:30")
        self.time.setFixedWidth(theme.current.px(96))
        self.field("At what time", self.time)
        self.every = QComboBox()
        self.every.setObjectName("every_weeks")
        self.every.setAccessibleName("Every so many weeks")
        for n in WEEKS:
            self.every.addItem(f"every {n} weeks" if n > 1 else "every week", n)
        self.first = _date_edit("first_on", "First day, from which weeks are counted")
        self.field("Weeks, counted from", self.every, self.first)
        self.dates = entry("dates", "Dates instead of weekdays", "3 Dec, 14 Jan 2027")
        self.field("Or on dates, instead of weekdays", self.dates)
        self.closed = QComboBox()
        self.closed.setObjectName("on_closed")
        self.closed.setAccessibleName("When the shop is closed on that day it")
        self.closed.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for key, words in ON_CLOSED.items():
            self.closed.addItem(words, key)
        self.field("When the shop is closed on that day it", self.closed)
        self.leave = button("Leave it as it is", leave, "", "leave_way")
        self.column.addLayout(row(button("Keep", keep, "primary", "keep_way"), self.leave, None))
        self.column.addStretch(1)

    def empty(self, today: date) -> None:
        """Nothing filled in."""
        self.title.setText("Another way")
        self.leave.hide()
        self.name.clear()
        self.dates.clear()
        for press in self.weekdays:
            press.setChecked(False)
        self.every.setCurrentIndex(0)
        self.time.clear()
        self.closed.setCurrentIndex(0)
        _show(self.first, today)

    def fill(self, kind: DepartureKind) -> None:
        """Fill in what a kind is now."""
        self.title.setText(f"Change: {kind.name}")
        self.leave.show()
        self.name.setText(kind.name)
        for n, press in enumerate(self.weekdays):
            press.setChecked(n in kind.weekdays)
        if self.every.findData(kind.every_weeks) < 0:
            self.every.addItem(f"every {kind.every_weeks} weeks", kind.every_weeks)
        self.every.setCurrentIndex(self.every.findData(kind.every_weeks))
        self.dates.setText(", ".join(kind.dates))
        self.time.setText(f"{kind.minute // 60:02d}:{kind.minute % 60:02d}")
        self.closed.setCurrentIndex(max(self.closed.findData(kind.on_closed), 0))
        if kind.first_on:
            _show(self.first, date.fromisoformat(kind.first_on))

    def request(self, today: date) -> KindRequest:
        """What is filled in.

        Raises:
            BadInput: dates or a time that are none.
        """
        dates = read_dates(self.dates.text(), today)
        weekdays = tuple(n for n, press in enumerate(self.weekdays) if press.isChecked())
        return KindRequest(
            self.name.text(), read_clock(self.time.text()), weekdays, self.every.currentData(),
            None if dates else _date_of(self.first), dates, self.closed.currentData(),
        )  # fmt: skip


class DaysOffForm(_Form):
    """Days on which the shop is closed."""

    def __init__(self, keep: Callable[[], object]):
        super().__init__()
        self.name = self.name_field("Midsummer")
        self.first, self.last = _date_edit("off_first", "First day"), _date_edit("off_last", "Last day")
        self.first.dateChanged.connect(lambda on: self.last.setDate(max(on, self.last.date())))
        self.field("From and to, both closed", self.first, self.last)
        self.yearly = QCheckBox("On these dates of every year")
        self.yearly.setObjectName("off_yearly")
        self.column.addWidget(self.yearly)
        self.column.addLayout(row(button("Keep", keep, "primary", "keep_off"), None))
        self.column.addSpacing(theme.STEP * 2)
        self.column.addWidget(
            label("Holidays in a calendar file: its whole days are taken over, two years ahead.", tone="muted")
        )
        self.file = button("Bring a calendar file …", None, "", "bring_calendar")
        self.column.addLayout(row(self.file, None))
        self.column.addStretch(1)

    def empty(self, day: date) -> None:
        """Nothing filled in."""
        self.name.clear()
        self.yearly.setChecked(False)
        _show(self.first, day)
        _show(self.last, day)

    def days(self) -> tuple[date, date]:
        """The first and the last day."""
        return _date_of(self.first), _date_of(self.last)


class SeasonForm(_Form):
    """Weeks with other opening hours."""

    def __init__(self, keep: Callable[[], object]):
        super().__init__()
        self.name = self.name_field("Summer")
        self.first, self.last = _date_edit("season_first", "First day"), _date_edit("season_last", "Last day")
        self.first.dateChanged.connect(lambda on: self.last.setDate(max(on, self.last.date())))
        self.field("From and to, both in it", self.first, self.last)
        self.yearly = QCheckBox("On these dates of every year")
        self.yearly.setObjectName("season_yearly")
        self.column.addWidget(self.yearly)
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        self.fields = []
        for n, day in enumerate(DAYS):
            field = entry(f"season_hours_{n}", f"Open on {day}", "shut")
            grid.addWidget(label(day, "small", wrap=False), n, 0)
            grid.addWidget(field, n, 1)
            self.fields.append(field)
        self.column.addLayout(grid)
        self.column.addLayout(row(button("Keep", keep, "primary", "keep_season"), None))
        self.column.addStretch(1)

    def empty(self, day: date, usual: Sequence[str]) -> None:
        """Nothing filled in but the usual hours."""
        self.name.clear()
        self.yearly.setChecked(False)
        _show(self.first, day)
        _show(self.last, day + timedelta(days=27))
        for field, words in zip(self.fields, usual, strict=True):
            field.setText(words)

    def days(self) -> tuple[date, date]:
        """The first and the last day."""
        return _date_of(self.first), _date_of(self.last)

    def hours(self) -> dict[int, str]:
        """Weekday from 0 → hours as typed."""
        return {n: field.text() for n, field in enumerate(self.fields)}
