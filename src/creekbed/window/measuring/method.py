"""What all other ways of answering a check have in common, and where each is found."""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from creekbed.core.catalogue.models.parts import Check
from creekbed.core.measure import Reading
from creekbed.window.shared.widgets import button, card, label, row
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.inspection import findings as inspection

if TYPE_CHECKING:
    from creekbed.window.job.job_page import JobPage

METHODS: dict[str, tuple[str, str, str]] = {
    "photo": ("From a photograph …", "photo_measurement", "PhotoMeasurement"),
    "leak": ("Leak test …", "leak_test", "LeakTest"),
    "notes": ("Find it by playing …", "play_test", "PlayTest"),
    "pull": ("From pulls …", "slide_friction", "PullMeasurement"),
    "drop": ("From a drop …", "slide_friction", "DropMeasurement"),
    "valves": ("Which valve …", "valve_check", "ValveCheck"),
}
"""Way: words of its button, module and class; loaded when first wanted."""


class Method(QWidget):
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
        if self.page.do(lambda: inspection.record_reading(shop, job, key, reading, again=again)):
            panel_left.emit()


def make_way(name: str, page: JobPage, view: JobView, check: Check) -> Method:
    """The widget of a way."""
    _, module, kind = METHODS[name]
    made = getattr(import_module(f"creekbed.window.measuring.{module}"), kind)(page, view, check)
    assert isinstance(made, Method)
    return made
