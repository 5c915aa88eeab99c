"""Every open job of a stage, in order of departure."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QListWidgetItem, QVBoxLayout

from creekbed.window.frame.stage_bar import NAMES
from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import label, listing
from creekbed.words.times import clock_words
from creekbed.workshop.bench.bench_view import ShipmentItem

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


class ListPage(Page):
    """What lies in one pool."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.stage = "clean"
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP)
        self.title = label("", "title")
        box.addWidget(self.title)
        self.list = listing("Instruments in this pool")
        self.list.itemClicked.connect(self._open)
        self.list.itemActivated.connect(self._open)
        box.addWidget(self.list, 1000)
        self.nothing = label("Nothing lies here just now.", tone="muted")
        box.addWidget(self.nothing)
        box.addStretch(1)

    def start(self, stage: str) -> None:
        """Show a stage."""
        self.stage = stage
        self.refresh()

    def refresh(self) -> None:
        home = self.frame.home
        if home is None:
            return
        chosen, at = self.list.currentItem(), self.list.verticalScrollBar().value()
        tag = chosen.data(Qt.ItemDataRole.UserRole) if chosen is not None else ""
        self.list.clear()
        views = [v for v in home.jobs if v.stage == self.stage]
        self.title.setText(f"{NAMES[self.stage]}: {len(views)}")
        for view in views:
            now = next((s for s in view.steps if s.state == "ready"), None)
            waits = next((s.until for s in view.steps if s.until is not None), None)
            then = view.blocked or (
                now.step.what if now else f"waits until {clock_words(waits, home.now)}" if waits else ""
            )
            departure = (
                f"{view.departure.name} {clock_words(view.departure.leaves_at)}" if view.departure else "no departure"
            )
            self._add(view.tag, f"{view.tag}  {view.family.name}, {departure}:  {then}")
        if self.stage == "ready":
            rows: list[ShipmentItem] = [a for x in home.shipments for a in x.items if a.ready]
            self.title.setText(f"{NAMES[self.stage]}: {len(rows) + len(views)}")
            for item in rows:
                self._add(
                    item.tag,
                    f"{item.tag}  {item.family}, for {item.next_group or 'the next renter'}:  tagged ready",
                )

        self.list.setVisible(self.list.count() > 0)
        self.nothing.setVisible(self.list.count() == 0)
        for n in range(self.list.count()):
            if tag and self.list.item(n).data(Qt.ItemDataRole.UserRole) == tag:
                self.list.setCurrentRow(n)
        self.list.verticalScrollBar().setValue(at)

    def _add(self, tag: str, words: str) -> None:
        item = QListWidgetItem(words)
        item.setData(Qt.ItemDataRole.UserRole, tag)
        item.setFont(theme.current.font(17))
        self.list.addItem(item)

    def _open(self, item: QListWidgetItem) -> None:
        self.frame.scans.go_to_tag(item.data(Qt.ItemDataRole.UserRole))
