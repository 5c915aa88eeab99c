"""Backups: the last check of the records, the copies, and restoring one."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QFileDialog, QVBoxLayout, QWidget

from creekbed.core.errors import CreekbedError
from creekbed.core.progress import Progress
from creekbed.store.maintenance import Damage
from creekbed.window.frame.upkeep import Upkeep
from creekbed.window.records.copies_view import CopiesView
from creekbed.window.shared import theme
from creekbed.window.shared.long_work import LongWork
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import Beside, Flow, button, card, clear, label, restyle, row

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

ONE_FILE, MANY_FILES = "One JSON file (*.json)", "CSV, a folder with a file for each table (*)"
SHOWN = 3
"""How many damages are shown at once; the next ones are shown when these are repaired."""


class BackupsPage(Page):
    """Copies and health of the records."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.upkeep: Upkeep = frame.upkeep or Upkeep(frame)
        self.making = LongWork(self._not_made)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP)
        self.make = button("Make a copy now", self._make, "", "make_copy")
        self.read = button("Read everything now", self._read, "", "read_all")
        forget = button("Erase a renter …", self._erase, "", "erase_renter")
        self.out = button("Export …", self._export, "", "export_all")
        head = Beside()
        head.addWidget(label("Backups", "title", wrap=False), 1)
        ways, flow = QWidget(), Flow()
        ways.setLayout(flow)
        for way in (self.make, self.read, self.out, forget):
            flow.addWidget(way)
        head.addWidget(ways, 3)
        box.addLayout(head)
        box.addWidget(self.making)
        surface, inner = card()
        self.health = label("", "name")
        inner.addWidget(self.health)
        holder = QWidget()
        self.damages = QVBoxLayout(holder)
        self.damages.setContentsMargins(0, 0, 0, 0)
        inner.addWidget(holder)
        box.addWidget(surface)
        self.copies = CopiesView(self.shop.folder, lambda copy: frame.opening.go_back(self.shop.folder, copy))
        box.addWidget(self.copies, 1)

    def start(self) -> None:
        """Open the page, and read the copies through."""
        self.refresh()
        self.copies.read()

    def refresh(self) -> None:
        found = self.upkeep.damages
        if self.upkeep.reading.busy:
            words = "Reading everything on record …"
        elif found is None:
            words = "Not everything on record was read yet today."
        elif found:
            count = f"{len(found)} things on record are" if len(found) > 1 else "One thing on record is"
            words = f"{count} not as written:"
        else:
            words = "Everything on record was read today and is as it was written."
        self.health.setText(words)
        restyle(self.health, tone="warn" if found else "")
        clear(self.damages)
        for n, damage in enumerate((found or [])[:SHOWN]):
            act = button("Put it back", partial(self._put_back, damage), "", f"put_back_{n}")
            act.setEnabled(bool(damage.source))
            words_of = label(damage.words)
            line = row(words_of, act)
            line.setStretch(0, 1)
            self.damages.addLayout(line)

    def _make(self) -> None:
        from creekbed.store.maintenance import back_up

        folder, now = self.shop.folder, self.shop.now
        self._begin("Making a copy, and reading it back …", lambda p: back_up(folder, "by-hand", now=now, progress=p),
                    self._made)  # fmt: skip

    def _begin(self, words: str, work: Callable[[Progress], Any], then: Callable[[Any], None]) -> None:
        if not self.making.start(words, work, then):
            self.frame.say("One thing after the other: something runs already.", warn=True)

    def _made(self, made: object) -> None:
        self.frame.say("The copy is made; all of it was read back and is whole.")
        self.copies.read()

    def _not_made(self, error: CreekbedError) -> None:
        self.frame.say(f"It was not done. {error.words()}", warn=True)

    def _export(self) -> None:
        """Everything on record as open files, where somebody says."""
        from creekbed.workshop.shop.exporting import export_to, need_room_for

        name = f"creekbed-{self.shop.now.astimezone():%Y-%m-%d}"
        path, kind = QFileDialog.getSaveFileName(self, "Export everything", name, f"{ONE_FILE};;{MANY_FILES}")
        if not path:
            return
        csv, shop = kind == MANY_FILES, self.shop
        to = Path(path) if csv or path.lower().endswith(".json") else Path(f"{path}.json")
        if self.do(lambda: need_room_for(to, csv=csv, replace=True)):
            self._begin(f"Writing everything on record: {to.name} …",
                        lambda p: export_to(shop, to, csv=csv, replace=True, progress=p),
                        lambda made: self.frame.say(f"Everything on record is in {to}"))  # fmt: skip

    def _erase(self) -> None:
        from creekbed.workshop.shop.privacy import erase_renter

        code = self.ask(
            "Erase a renter's code",
            "It is taken out of every hire, job and action, and cannot be brought back; history keeps “erased”. Copies "
            "that were made before hold it until they go with their age. Which code?",
            least=2, ok="Erase it",
        )  # fmt: skip
        if code is not None:
            self.do(lambda: erase_renter(self.shop, code))

    def _read(self) -> None:
        self.upkeep.read_all()
        self.refresh()

    def _put_back(self, damage: Damage) -> None:
        from creekbed.workshop.shop.integrity import repair

        if self.do(lambda: repair(self.shop, damage)):
            self.frame.records = None  # type: ignore[assignment]  # nothing drawn rests on what was damaged
            self.upkeep.read_all()
            self.frame.refresh()
