"""Daily upkeep while the window is open: a backup, a full check, coming departures, removal of old photographs."""

from __future__ import annotations

from datetime import date
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer

from creekbed.core.errors import CreekbedError
from creekbed.store.maintenance import Damage
from creekbed.window.shared.background_writes import BackgroundWrites
from creekbed.window.shared.standstill import standstill

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

FIRST_MS, EVERY_MS = 2000, 60_000


class Upkeep(QObject):
    """Works beside the window.

    Attributes:
        damages: what is on record and not as it was written; ``None`` until it was read. read_on: when, local day.
    """

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.frame = frame
        self.damages: list[Damage] | None = None
        self.read_on: date | None = None
        self.listed_on: date | None = None
        """The local day on which the coming departures were put on the list."""
        self.copying = BackgroundWrites(self, self._not_copied)
        self.reading = BackgroundWrites(self, frame.could_not)
        self.backup_failed = ""
        self._minute = QTimer(self)
        self._minute.setInterval(EVERY_MS)
        self._minute.timeout.connect(self.look)

    def start(self) -> None:
        """Begin soon, and look every minute from then on."""
        self._minute.start()
        QTimer.singleShot(FIRST_MS, self, self.look)

    def stop(self) -> None:
        """Look no more; what is under way ends by itself."""
        self._minute.stop()

    def look(self) -> None:
        """Make today's copy if it is due; read everything if that was not done today."""
        if standstill.lasts:
            return  # in a minute
        shop = self.frame.shop
        if shop is None:
            return
        if not self.copying.busy and shop.backup_due():
            self.copying.start(shop.daily_backup, self._copied)
        today = shop.now.astimezone().date()
        if self.listed_on != today:
            self._list_departures(today)
        if self.read_on != today:
            self.read_all()

    def _list_departures(self, today: date) -> None:
        """Put the departures of the coming weeks on the list; tried again in a minute where the records are held."""
        from creekbed.workshop.shop.departures import roll

        try:
            roll(self.frame.shop)
        except CreekbedError as error:
            if error.fields.get("kind") != "busy":
                self.frame.could_not(error)
                self.listed_on = today
        else:
            self.listed_on = today

    def read_all(self) -> None:
        """Read everything on record, in a process of its own."""
        from creekbed.store.maintenance import check_beside

        shop = self.frame.shop
        if shop is not None and self.reading.start(lambda: check_beside(shop.folder), self.read_through):
            self.read_on = shop.now.astimezone().date()

    def _copied(self, made: Any) -> None:
        self.backup_failed = ""
        if made is not None:
            self._forget_photos()

    def _forget_photos(self) -> None:
        from creekbed.workshop.shop.privacy import sweep_files

        try:
            sweep_files(self.frame.shop)
        except CreekbedError as error:
            self.frame.could_not(error)

    def _not_copied(self, error: CreekbedError) -> None:
        self.backup_failed = error.words()
        self.frame.say(
            f"Today's copy was not made. {error.words()} It is tried again in a while.",
            warn=True, still=lambda: bool(self.backup_failed), about="copy",
        )  # fmt: skip

    def read_through(self, damages: list[Damage] | None) -> None:
        """Everything was read; say what is not as it was written."""
        self.damages = damages
        if damages is None:
            self.frame.say("Not everything on record could be read through just now; that is tried again tomorrow.")
        elif damages:
            count = f"{len(damages)} things" if len(damages) > 1 else "One thing"
            self.frame.say(
                f"{count} on record are not as they were written. “Backups” says which, and can put them back."
                if len(damages) > 1
                else f"{count} on record is not as it was written. “Backups” says which, and can put it back.",
                warn=True, still=lambda: bool(self.damages), about="damage",
            )  # fmt: skip
        if self.frame.here == "kept":
            self.frame.page("kept").refresh()
