"""Keeps a window alive while its records are waited for: it is drawn, rings and says so, and takes no presses."""

from __future__ import annotations

import threading
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QEventLoop, QObject, QTimer
from PySide6.QtWidgets import QApplication, QWidget

from creekbed.core.conventions import number
from creekbed.window.shared.standstill import standstill

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

SAID_AFTER_S = 0.5
"""An action that waits longer for the records says so, and presses are not taken from then on: house default."""
LOOK_MS = 15
"""How long the window works between two looks, ms."""
_E = QEvent.Type
PRESSES = frozenset({
    _E.KeyPress, _E.KeyRelease, _E.Shortcut, _E.ShortcutOverride, _E.MouseButtonPress, _E.MouseButtonRelease,
    _E.MouseButtonDblClick, _E.Wheel, _E.TouchBegin, _E.TouchUpdate, _E.TouchEnd, _E.TabletPress, _E.TabletRelease,
    _E.ContextMenu, _E.DragEnter, _E.Drop, _E.InputMethod,
})  # fmt: skip
NOT_TAKEN = "What you press or scan meanwhile is not taken."


def _beside() -> bool:
    """Whether it is work beside the window that waits: the window is alive by itself, and shows its own progress."""
    return threading.current_thread() is not threading.main_thread()


class WaitingForRecords(QObject):
    """The waits of one window.

    A press in the first moment is kept, as on every day. One that comes later would meet another page than the one it
    was meant for: it is passed over, and the window says so.

    Attributes:
        said: whether the wait under way is on show. closing: whether the window was asked to close.
    """

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.frame = frame
        self.said = False
        self.closing = False
        self._words = ""

    def for_others(self, seconds: float) -> bool:
        """An action waits for another program that holds the records.

        Returns:
            Whether to go on waiting: not when the window was asked to close, for nothing was done yet.
        """
        if _beside():
            return not self.closing
        self._wait(seconds, f"Another program holds the records. Waiting, {number(seconds, 0)} s … {NOT_TAKEN}")
        return not self.closing

    def for_disk(self, seconds: float, note: bool) -> None:
        """The disk has not taken yet what is being written.

        Args:
            note: nobody asked for what is written: people go on with other things meanwhile.
        """
        if _beside():
            return
        if note:
            QApplication.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, LOOK_MS)
        else:
            words = f"The disk is slow. What you did is being written, {number(seconds, 0)} s … {NOT_TAKEN}"
            self._wait(seconds, words)

    def _wait(self, seconds: float, words: str) -> None:
        with standstill.of_an_action():
            if seconds <= SAID_AFTER_S or self.frame.notice is None:
                QApplication.processEvents(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents, LOOK_MS)
                return
            app = QApplication.instance()
            assert app is not None
            if not self.said:
                self.said = True
                QTimer.singleShot(0, self._over)  # its turn comes when no action waits
            if words != self._words:
                self._words = words
                self.frame.notice.say(words, warn=True, still=lambda: standstill.lasts, about="records")
            app.installEventFilter(self)
            try:
                QApplication.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, LOOK_MS)
            finally:
                app.removeEventFilter(self)

    def _over(self) -> None:
        standstill.after(self._hushed)

    def _hushed(self) -> None:
        self.said, self._words = False, ""
        self.frame.notice.second()
        if self.closing:
            self.frame.close()

    def eventFilter(self, target: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Close:
            if not isinstance(target, QWidget):
                return False  # the window's handle; the window itself is asked next
            self.closing = self.closing or target is self.frame
            event.ignore()
            return True
        return event.type() in PRESSES
