"""Find: one field for everything the shop knows, with a line for each thing found; Return goes there."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QListWidgetItem, QVBoxLayout

from creekbed.window.shared import theme
from creekbed.window.shared.background_writes import BackgroundWrites
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import button, entry, label, listing, row
from creekbed.words.instruments import FOUND
from creekbed.workshop.fleet.finding import Found, find

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

HINT = "a tag, serial, group, instrument, supply, step, rule or page"


class FindPage(Page):
    """A search over instruments, supplies, rules, steps, the reference and the pages themselves."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.found: list[Found] = []
        self.looking = BackgroundWrites(self, frame.could_not)
        self._go_when_found = False
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP)
        box.addWidget(label("Find", "title", wrap=False))
        self.search = entry("find_all", f"Find {HINT}", HINT, self.go)
        self.search.setFont(theme.current.font(theme.NAME_SIZE))
        self.search.textChanged.connect(lambda text: self._search())
        self.search.installEventFilter(self)
        self.go_button = button("Go there", self.go, "primary", "find_go", "F2")
        line = row(self.search, self.go_button)
        line.setStretch(0, 1)
        box.addLayout(line)
        self.told = label("", tone="muted")
        box.addWidget(self.told)
        self.list = listing("What was found")
        self.list.setObjectName("found")
        self.list.itemActivated.connect(lambda item: self.go())
        self.list.itemClicked.connect(lambda item: self.go())
        box.addWidget(self.list, 1)

    def start(self, text: str = "") -> None:
        """Open the page with the cursor in the field."""
        self.search.setText(text)
        self._search()
        self.search.setFocus(Qt.FocusReason.OtherFocusReason)
        self.search.selectAll()

    def refresh(self) -> None:
        self._search()

    def _search(self) -> None:
        """Look beside the window, so that no key waits; what was typed meanwhile is looked for next."""
        self.go_button.setEnabled(False)
        if self.looking.busy:
            return
        text, shop = self.search.text().strip(), self.shop
        self.looking.start(lambda: (text, find(shop, text)), self._show)

    def _show(self, answer: tuple[str, list[Found]]) -> None:
        text, found_now = answer
        if text != self.search.text().strip():
            self._search()
            return
        if found_now != self.found or not found_now:  # the same again: the line that is chosen stays
            self.found = found_now
            self._list()
        self.go_button.setEnabled(bool(self.found))
        if not text:
            self.told.setText("Type a few letters; Return goes to the first line, the arrow keys to the others.")
        else:
            self.told.setText("" if self.found else "Nothing here has all these words. Try fewer of them.")
        wanted, self._go_when_found = self._go_when_found, False
        if wanted:
            self.go()

    def _list(self) -> None:
        self.list.clear()
        for found in self.found:
            words = f"{FOUND[found.kind]}{f'  ·  {found.words}' if found.words else ''}"
            item = QListWidgetItem(f"{found.title}\n{words}")
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{found.title}: {words}")
            self.list.addItem(item)
        self.list.setCurrentRow(0 if self.found else -1)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Up and down move in the list while one types."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            if step and self.found:
                self.list.setCurrentRow(min(max(self.list.currentRow() + step, 0), len(self.found) - 1))
                return True
        return False

    def go(self) -> None:
        """Go to the line that is chosen; Return before anything was found waits for it."""
        if self.looking.busy:
            self._go_when_found = True
            return
        at = self.list.currentRow()
        if 0 <= at < len(self.found):
            self.frame.nav.follow(self.found[at])
