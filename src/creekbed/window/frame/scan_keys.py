"""Does what a scanned key stands for: presses, moves, types."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QAbstractButton, QApplication, QDialog, QLineEdit, QPushButton, QWidget

from creekbed.workshop.arrival.scan_codes import PAGES, SIGNS

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

KEYS = {
    "UP": Qt.Key.Key_Up, "DOWN": Qt.Key.Key_Down, "ENTER": Qt.Key.Key_Return, "DELETE": Qt.Key.Key_Backspace,
}  # fmt: skip
SHORTCUTS = {"MAIN": "F2", "SECOND": "F3", "THIRD": "F4"}


class ScanKeys:
    """Follows scanned keys in one window, or in the dialogue that is open in it."""

    def __init__(self, frame: Frame):
        self.frame = frame

    def press(self, key: str) -> None:
        """Do what a key stands for; what it finds nothing to do for is said."""
        top = QApplication.activeModalWidget()
        window: QWidget = top if top is not None else self.frame
        if key in SHORTCUTS:
            self._shortcut(window, key)
        elif key in ("NEXT", "BACK"):
            self._move(window, key == "NEXT")
        elif key == "ESCAPE":
            top.reject() if isinstance(top, QDialog) else self.frame.hush()
        elif key == "PRESS":
            self._press()
        elif key in KEYS or key in SIGNS:
            self._type(key)
        elif key == "UNDO" and top is None:
            self.frame.undo()
        elif top is None:
            self.frame.nav.open_page(PAGES[key])
        else:
            self._nothing("Answer or leave the question first.")

    def _shortcut(self, window: QWidget, key: str) -> None:
        """The button that has this key, or in a question the one that answers it."""
        wanted = SHORTCUTS[key]
        found = [b for b in window.findChildren(QPushButton) if b.isVisible() and b.isEnabled()]
        fitting = [b for b in found if b.property("key") == wanted]
        if not fitting and isinstance(window, QDialog) and key == "MAIN":
            fitting = [b for b in found if b.isDefault() or b.property("kind") == "primary"]
        if fitting:
            fitting[0].click()
        else:
            self._nothing(f"Nothing here has the key {wanted} now.")

    @staticmethod
    def _move(window: QWidget, forward: bool) -> None:
        if QApplication.focusWidget() is None:
            window.activateWindow()
        window.focusNextPrevChild(forward)

    def _press(self) -> None:
        here = QApplication.focusWidget()
        if isinstance(here, QAbstractButton):
            here.click()
        elif here is not None:
            _send(here, Qt.Key.Key_Space, "" if not isinstance(here, QLineEdit) else " ")

    def _type(self, key: str) -> None:
        here = QApplication.focusWidget()
        if here is None:
            self._nothing("Nothing here takes what is typed. Go to a field first.")
            return
        sign = SIGNS.get(key, "")
        _send(here, KEYS[key] if key in KEYS else Qt.Key(ord(sign)), sign)

    def _nothing(self, words: str) -> None:
        self.frame.say(words, warn=True)


def _send(widget: QWidget, key: Qt.Key, text: str) -> None:
    for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
        QApplication.sendEvent(widget, QKeyEvent(kind, key, Qt.KeyboardModifier.NoModifier, text))
