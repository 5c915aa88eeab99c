"""Where a scanned code leads."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from creekbed.core.errors import CreekbedError
from creekbed.window.shared.standstill import standstill

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


class Scans:
    """Follows scanned codes in one window."""

    def __init__(self, frame: Frame):
        self.frame = frame
        self._waiting_scan = ""

    def scanned(self, code: str) -> None:
        """A scan anywhere: it goes to the instrument, or waits until a question is answered; a key acts at once."""
        from creekbed.window.frame.scan_keys import ScanKeys
        from creekbed.window.shared.dialogs import AskDialog
        from creekbed.workshop.arrival.scan_codes import key_of

        if standstill.lasts:
            if not self.frame.opening.waiting.said:  # else it was said that nothing is taken
                standstill.after(lambda: self.scanned(code))
            return
        if key := key_of(code):
            ScanKeys(self.frame).press(key)
            return
        dialog = QApplication.activeModalWidget()
        if dialog is not None:
            self._waiting_scan = code
            if isinstance(dialog, AskDialog):
                dialog.hold_scan(code)
            return
        self.go_to_tag(code)

    def after_dialog(self) -> None:
        """Follow a scan that came while a question was open."""
        code, self._waiting_scan = self._waiting_scan, ""
        if code:
            QTimer.singleShot(0, lambda: self.go_to_tag(code))

    def go_to_tag(self, code: str) -> None:
        """Go where a code leads."""
        from creekbed.workshop.arrival.scan import understand

        if self.frame.shop is None:
            return
        try:
            found = understand(self.frame.shop, code)
        except CreekbedError as error:
            self.frame.could_not(error)
            return
        if found.kind == "supply":
            (self.frame.nav.open_count if self.frame.here == "count" else self.frame.nav.open_stock)(found.key)
        elif found.kind == "person":
            self.frame.sit_down(found.key)
        elif found.kind == "job" and found.job_id is not None:
            if self.frame.here == "job" and self.frame.page("job").job_id == found.job_id:
                self.frame.say(f"{found.key} is on the screen already.")
                return
            self.frame.nav.open_job(found.job_id)
            self.frame.say(f"Scanned {found.key}.")
        elif found.kind == "new":
            self.frame.nav.open_book_in(found.key)
            self.frame.say(f"{found.key} is new here. Say what it is, then book it in.")
        elif found.job_id is not None or self.frame.here == "history":
            self.frame.nav.open_history(found.key)
        else:
            self.frame.nav.open_book_in(found.key)
