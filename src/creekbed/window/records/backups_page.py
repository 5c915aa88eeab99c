"""Backups: the last check of the records, the copies, and restoring one."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QVBoxLayout, QWidget

from creekbed.core.errors import CreekbedError
from creekbed.store.maintenance import Damage
from creekbed.window.frame.upkeep import Upkeep
from creekbed.window.records.copies_view import CopiesView
from creekbed.window.shared import theme
from creekbed.window.shared.background_writes import BackgroundWrites
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import button, card, clear, label, restyle, row

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

SHOWN = 3
"""How many damages are shown at once; the next ones are shown when these are repaired."""


class BackupsPage(Page):
    """Copies and health of the records."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.upkeep: Upkeep = frame.upkeep or Upkeep(frame)
        self.making = BackgroundWrites(self, self._not_made)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP)
        self.make = button("Make a copy now", self._make, "", "make_copy")
        self.read = button("Read everything now", self._read, "", "read_all")
        forget = button("Erase a renter …", self._erase, "", "erase_renter")
        box.addLayout(row(label("Backups", "title", wrap=False), None, forget, self.make, self.read))
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
        if self.making.start(lambda: back_up(folder, "by-hand", now=now), self._made):
            self.frame.say("Making a copy …")

    def _made(self, made: object) -> None:
        self.frame.say("The copy is made; all of it was read back and is whole.")
        self.copies.read()

    def _not_made(self, error: CreekbedError) -> None:
        self.frame.say(f"The copy was not made. {error.words()}", warn=True)

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
