"""Base of the pages: access to the shop, use cases with errors in words, dialogs."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QDialog, QWidget
from shiboken6 import isValid

from creekbed.core.turns import Turns
from creekbed.window.shared.dialogs import AskDialog
from creekbed.workshop.shop.shop import Shop

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


class Page(QWidget):
    """Base of all pages. ``refresh`` draws the state of the records anew; it is called after every change."""

    def __init__(self, frame: Frame):
        super().__init__()
        self.setObjectName("page")
        self.frame = frame

    @property
    def shop(self) -> Shop:
        shop: Shop = self.frame.shop
        return shop

    def do(self, act: Callable[[], Any]) -> bool:
        """Do a use case; errors become words in the notice bar. True when it was done."""
        return self.frame.do(act)

    def ask(self, title: str, words: str, **more: Any) -> str | None:
        """Ask for one line; ``None`` when it was left."""
        answer = self.ask_choice(title, words, **more)
        return None if answer is None else answer[1]

    def ask_choice(self, title: str, words: str, **more: Any) -> tuple[str, str] | None:
        """Ask for a choice and one line; ``None`` when it was left."""
        dialog = AskDialog(self.frame, title, words, **more)
        return (dialog.chosen, dialog.text()) if self.open_dialog(dialog) else None

    def open_dialog(self, dialog: QDialog) -> bool:
        """Show a dialog until it is answered or left; scans are heard meanwhile. True when it was answered."""
        dialog.show()
        if self.frame.scanner is not None:
            self.frame.scanner.watch(dialog)
        answered = bool(dialog.exec())
        dialog.deleteLater()
        self.frame.scans.after_dialog()
        return answered

    def refresh(self) -> None:
        """Draw the records as they are now."""

    def show_in_turns(self) -> Turns[None]:
        """What :meth:`refresh` draws, one part after another."""
        self.refresh()
        yield None

    def ready_in_turns(self) -> Turns[None]:
        """Make what will be on show later, before that is wanted."""
        for widget in self.findChildren(QWidget):
            if isValid(widget):  # what was opened meanwhile may have made another in its place
                widget.ensurePolished()
            yield None

    def planned(self) -> None:
        """The plan was made anew while this page, which is no picture of it, is on show."""

    def tick(self) -> None:
        """Once a second."""
