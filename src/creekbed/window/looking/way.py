"""What all other ways of answering a check have in common, and where each is found."""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from creekbed.core.catalogue.models import Check
from creekbed.core.measure import Reading
from creekbed.window.widgets import button, card, label, row
from creekbed.workshop import lookover
from creekbed.workshop.views import JobView

if TYPE_CHECKING:
    from creekbed.window.job_page import JobPage

WAYS: dict[str, tuple[str, str, str]] = {
    "photo": ("From a photograph …", "photo_way", "PhotoWay"),
    "leak": ("Leak test …", "leak_way", "LeakWay"),
    "notes": ("Find it by playing …", "notes_way", "NotesWay"),
    "pull": ("From pulls …", "slide_way", "PullWay"),
    "drop": ("From a drop …", "slide_way", "DropWay"),
    "valves": ("Which valve …", "valves_way", "ValvesWay"),
}
"""Way: words of its button, module and class; loaded when first wanted."""


class Way(QWidget):
    """One way of answering. ``changed``: its big action may have changed; ``left``: the check is wanted again."""

    changed = Signal()
    left = Signal()
    title = ""
    how = ""

    def __init__(self, page: JobPage, view: JobView, check: Check):
        super().__init__()
        self.page, self.view, self.check = page, view, check
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        frame, self.box = card(margin=12)
        outer.addWidget(frame)
        self.head = row(
            label(f"{check.name}: {self.title}", "name"), button("Back", self.left.emit, "quiet", "way_back")
        )
        self.head.setStretch(0, 1)
        self.box.addLayout(self.head)
        if self.how:
            self.box.addWidget(label(self.how, tone="muted"))
        self.fill()

    def fill(self) -> None:
        """Make its widgets."""

    def begin(self) -> None:
        """Called when it is shown."""

    def stop(self) -> None:
        """Called before it goes: end what runs."""

    def main_words(self) -> str:
        """What the big action says now."""
        return "Take this result"

    def can_finish(self) -> bool:
        """Whether the big action can be pressed."""
        return False

    def finish(self) -> None:
        """The big action."""

    def record(self, reading: Reading) -> None:
        """Hand a reading to the check and go back to it."""
        shop, job, key = self.page.shop, self.view.job.id, self.check.key
        finding = self.view.findings.get(key)
        again = finding is not None and finding.band == "again" and reading.how == "from a photograph"
        panel_left = self.left
        if self.page.do(lambda: lookover.record_reading(shop, job, key, reading, again=again)):
            panel_left.emit()


def make_way(name: str, page: JobPage, view: JobView, check: Check) -> Way:
    """The widget of a way."""
    _, module, kind = WAYS[name]
    made = getattr(import_module(f"creekbed.window.looking.{module}"), kind)(page, view, check)
    assert isinstance(made, Way)
    return made
