"""What all tools of the bench have in common: the row that leads from one to the next, and fields with their names."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from creekbed.core.units import parse_quantity
from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import Beside, Flow, button, card, label, scroll

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

TOOLS = {
    "mix": "Mix", "bath": "Bath", "jar": "Piston jar", "agents": "What may touch", "cloths": "Cloths", "reeds": "Reeds",
    "strings": "Strings", "tuning": "Tuning", "playing": "Play-test",
    "air": "Air and case", "wood": "Wood", "room": "Storage room",
}  # fmt: skip
"""Every tool by the key of its page, in the order of the row."""


class ToolPage(Page):
    """A page with the row of tools on top; ``body`` takes what the tool itself shows."""

    key = ""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 4, 24, 8)
        outer.setSpacing(theme.STEP)
        tabs = QWidget()
        ways = Flow(4)
        tabs.setLayout(ways)
        for key, name in TOOLS.items():
            way = button(name, partial(frame.nav.open_tool, key), "quiet", f"tool_{key}")
            way.setCheckable(True)
            way.setChecked(key == self.key)
            way.clicked.connect(lambda checked=False, w=way, k=key: w.setChecked(k == self.key))
            ways.addWidget(way)
            if key == self.key:
                self.setFocusProxy(way)
        outer.addWidget(tabs)
        self.body = QVBoxLayout()
        self.body.setSpacing(theme.STEP * 2)
        outer.addLayout(self.body, 1)

    def two(self, left: int, right: int, fixed: Sequence[str] = ()) -> tuple[QVBoxLayout, QVBoxLayout]:
        """Two cards side by side, by their shares of the width; each scrolls, but a side that is named in ``fixed``."""
        box = Beside(theme.STEP * 2)
        self.body.addLayout(box, 1)
        made = []
        for side, share in (("left", left), ("right", right)):
            frame, inner = card(margin=20)
            box.addWidget(frame if side in fixed else scroll(frame), share)
            made.append(inner)
        return made[0], made[1]

    def start(self) -> None:
        """Begin anew, or show what runs."""
        self.refresh()


class Fields:
    """Fields with names, in two columns, that are read with their units."""

    def __init__(self, box: QVBoxLayout, changed: Callable[[], object], columns: int = 2):
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(16)
        self.grid.setVerticalSpacing(2)
        self.changed, self.columns = changed, columns
        self.fields: dict[str, QLineEdit] = {}
        self.names: dict[str, str] = {}
        self._count = 0
        box.addLayout(self.grid)

    def _place(self, name: str, widget: QWidget, wide: bool) -> None:
        if wide and self._count % self.columns:
            self._count += self.columns - self._count % self.columns
        row, column = divmod(self._count, self.columns)
        span = self.columns if wide else 1
        self.grid.addWidget(label(name, "small"), 2 * row, column, 1, span)
        self.grid.addWidget(widget, 2 * row + 1, column, 1, span)
        self._count += span

    def line(self, key: str, name: str, text: str = "", hint: str = "", wide: bool = False) -> QLineEdit:
        """Add a field to type in."""
        field = QLineEdit(text)
        field.setObjectName(key)
        field.setAccessibleName(name)
        field.setPlaceholderText(hint)
        field.setMaxLength(60)
        field.textChanged.connect(lambda text: self.changed())
        self.fields[key], self.names[key] = field, name
        self._place(name, field, wide)
        return field

    def choice(self, key: str, name: str, items: Sequence[tuple[str, object]], wide: bool = False) -> QComboBox:
        """Add a choice: (words, value) each."""
        box = QComboBox()
        box.setObjectName(key)
        box.setAccessibleName(name)
        for words, value in items:
            box.addItem(words, value)
        box.currentIndexChanged.connect(lambda n: self.changed())
        self._place(name, box, wide)
        return box

    def read(self, key: str, unit: str, minimum: float | None = None, maximum: float | None = None) -> float:
        """The value of a field in a unit.

        Raises:
            BadInput: it cannot be read, or lies outside what can be.
        """
        text = self.fields[key].text()
        return parse_quantity(text, unit, what=self.names[key], minimum=minimum, maximum=maximum)


def refill(box: QComboBox, items: Sequence[tuple[str, object]]) -> None:
    """New lines in a choice; the one that was chosen stays where it is still there."""
    chosen = box.currentData()
    shown = [(box.itemText(n), box.itemData(n)) for n in range(box.count())]
    if shown == list(items):
        return
    box.blockSignals(True)
    box.clear()
    for words, value in items:
        box.addItem(words, value)
    box.setCurrentIndex(max(0, box.findData(chosen)))
    box.blockSignals(False)
