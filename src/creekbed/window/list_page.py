"""Every open job of a stage, in order of sailing."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QListWidgetItem, QVBoxLayout

from creekbed.window import theme
from creekbed.window.course import NAMES
from creekbed.window.page import Page
from creekbed.window.times import clock_words
from creekbed.window.widgets import label, listing
from creekbed.workshop.bench import Aboard

if TYPE_CHECKING:
    from creekbed.window.frame import Frame


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
        box.addWidget(self.list, 1)

    def start(self, stage: str) -> None:
        """Show a stage."""
        self.stage = stage
        self.refresh()

    def refresh(self) -> None:
        home = self.frame.home
        if home is None:
            return
        self.list.clear()
        views = [v for v in home.jobs if v.stage == self.stage]
        self.title.setText(f"{NAMES[self.stage]}: {len(views)}")
        for view in views:
            now = next((s for s in view.steps if s.state == "ready"), None)
            waits = next((s.until for s in view.steps if s.until is not None), None)
            then = view.blocked or (
                now.step.what if now else f"waits until {clock_words(waits, home.now)}" if waits else ""
            )
            boat = f"{view.boat.name} {clock_words(view.boat.leaves_at)}" if view.boat else "no boat"
            self._add(view.tag, f"{view.tag}  {view.family.name}, {boat}:  {then}")
        if self.stage == "ready":
            rows: list[Aboard] = [a for x in home.landings for a in x.aboard if a.ready]
            self.title.setText(f"{NAMES[self.stage]}: {len(rows) + len(views)}")
            for aboard in rows:
                self._add(
                    aboard.tag,
                    f"{aboard.tag}  {aboard.family}, for {aboard.next_group or 'the next renter'}:  tagged ready",
                )

    def _add(self, tag: str, words: str) -> None:
        item = QListWidgetItem(words)
        item.setData(Qt.ItemDataRole.UserRole, tag)
        item.setFont(theme.current.font(17))
        self.list.addItem(item)

    def _open(self, item: QListWidgetItem) -> None:
        self.frame.go_to_tag(item.data(Qt.ItemDataRole.UserRole))
