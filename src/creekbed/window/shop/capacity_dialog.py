"""Places and hours: capacity of each place, opening hours, people who have left."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from creekbed.core.errors import CreekbedError
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import Flow, button, clear, label, row, scroll
from creekbed.words.calendar import DAYS
from creekbed.workshop.shop import bench_capacity as room
from creekbed.workshop.shop import staff

if TYPE_CHECKING:
    from creekbed.window.shared.page import Page

OTHERS_PX = 190
"""What stands above and below the two columns, px."""


class RoomDialog(QDialog):
    """Two columns, places and days; nothing is changed until it is kept."""

    def __init__(self, page: Page):
        super().__init__(page.frame)
        self.page = page
        self.setWindowTitle("Places and hours")
        self.setModal(True)
        self.setMinimumWidth(theme.current.px(860))
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 20, 24, 20)
        box.setSpacing(theme.STEP * 2)
        box.addWidget(label("Places and hours", "title"))
        inner = QWidget()
        both = QHBoxLayout(inner)
        both.setContentsMargins(0, 0, 0, 0)
        both.setSpacing(theme.STEP * 4)
        both.addLayout(self._places(), 46)
        both.addLayout(self._days(), 54)
        box.addWidget(scroll(inner), 1)
        wanted = inner.sizeHint().height() + theme.current.px(OTHERS_PX)
        screen = QGuiApplication.primaryScreen().availableGeometry().height()
        self.resize(self.minimumWidth(), min(wanted, screen - 40))
        self.wrong = label("", tone="warn")
        self.wrong.hide()
        box.addWidget(self.wrong)
        self.keep = button("Keep it so", self.accept_all, "primary", "keep_room")
        box.addLayout(row(self.keep, button("Leave it", self.reject, "", "cancel"), None))
        first = next(iter(self.counts.values()))
        first.setFocus(Qt.FocusReason.OtherFocusReason)

    def _places(self) -> QVBoxLayout:
        box = QVBoxLayout()
        box.setSpacing(theme.STEP)
        box.addWidget(label("How much each place takes", "name"))
        grid = QGridLayout()
        grid.setHorizontalSpacing(theme.STEP)
        grid.setVerticalSpacing(6)
        self.counts: dict[str, QLineEdit] = {}
        for n, place in enumerate(room.rooms(self.page.shop)):
            field = QLineEdit(str(place.capacity))
            field.setObjectName(f"room_{place.key}")
            field.setAccessibleName(f"Room: {place.name}")
            field.setMaxLength(3)
            field.setFixedWidth(theme.current.px(64))
            field.setAlignment(Qt.AlignmentFlag.AlignCenter)
            self.counts[place.key] = field
            grid.addWidget(label(place.name.capitalize(), wrap=False), n, 0, Qt.AlignmentFlag.AlignVCenter)
            for column, (sign, by) in enumerate((("−", -1), ("+", 1))):
                step = button(sign, partial(self._step, field, by), "", f"room_{place.key}_{['less', 'more'][by > 0]}")
                step.setAccessibleName(f"{place.name}: one {'more' if by > 0 else 'less'}")
                step.setFixedWidth(theme.current.px(44))
                grid.addWidget(step, n, 1 + 2 * column)
            grid.addWidget(field, n, 2)
            small = f"{place.holds} small alike ones in each" if place.holds > 1 else ""
            grid.addWidget(label(small, tone="muted", wrap=False), n, 4, Qt.AlignmentFlag.AlignVCenter)
        grid.setColumnStretch(4, 1)
        box.addLayout(grid)
        box.addStretch(1)
        return box

    def _days(self) -> QVBoxLayout:
        box = QVBoxLayout()
        box.setSpacing(theme.STEP)
        box.addWidget(label("When the bench is open", "name"))
        grid = QGridLayout()
        grid.setHorizontalSpacing(theme.STEP * 2)
        grid.setVerticalSpacing(6)
        self.hours: list[QLineEdit] = []
        for n, (day, words) in enumerate(zip(DAYS, room.opening(self.page.shop), strict=True)):
            field = QLineEdit(words)
            field.setObjectName(f"hours_{n}")
            field.setAccessibleName(f"Open on {day}")
            field.setMaxLength(80)
            self.hours.append(field)
            grid.addWidget(label(day, wrap=False), n, 0, Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(field, n, 1)
        grid.setColumnStretch(1, 1)
        box.addLayout(grid)
        box.addWidget(label("Such as “8:30-12, 13-17”, or “shut”. A break is the time between two.", tone="muted"))
        self.team = QWidget()
        self.team_flow = Flow()
        self.team.setLayout(self.team_flow)
        box.addWidget(self.team)
        self._fill_team()
        box.addStretch(1)
        return box

    def _fill_team(self) -> None:
        clear(self.team_flow)
        others = [w for w in staff.workers(self.page.shop) if w.key != self.page.shop.person]
        self.team.setVisible(bool(others))
        for worker in others:
            gone = button(
                f"{worker.key} works here no more", partial(self._gone, worker.key), "quiet", f"gone_{worker.key}"
            )
            self.team_flow.addWidget(gone)

    def _gone(self, key: str) -> None:
        if self.page.do(lambda: staff.remove_worker(self.page.shop, key)):
            self._fill_team()

    def _step(self, field: QLineEdit, by: int) -> None:
        field.setText(str(max(1, self._count(field) + by)))

    def accept_all(self) -> None:
        """Keep what is shown, if all of it can be."""
        try:
            counts = {k: self._count(f) for k, f in self.counts.items()}
            hours = {n: f.text() for n, f in enumerate(self.hours)}
            self.told = room.change(self.page.shop, counts, hours)
        except CreekbedError as error:
            self.wrong.setText(error.words())
            self.wrong.show()
            return
        self.accept()

    @staticmethod
    def _count(field: QLineEdit) -> int:
        text = field.text().strip()
        return int(text) if text.isdigit() else 0
