"""A keyboard-wedge scanner anywhere in the application: a burst of keys with Enter.

Keys are held back for a moment where they enter a window, before any field sees them. A burst that ends with Enter
and looks like a code is a scan and reaches no field; anything else is handed on to where it was typed, in order.
"""

from __future__ import annotations

import re

from PySide6.QtCore import QEvent, QObject, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication, QWidget

GAP_MS = 45
GRACE_MS = 20
"""After a gap the event loop gets one more turn: keys that came while the program was busy must not be torn apart."""
CODE = re.compile(
    r"^(?:(?=.{2,16}$)(?=\D*\d)[A-Za-z][A-Za-z0-9]*(?:[-./][A-Za-z0-9]+){0,3}|\d{4,7}"
    r"|[Ss][Uu]-[A-Za-z0-9_-]{3,40}|[Pp][Ee]-[A-Za-z0-9]{1,4}|[Dd][Oo]-[A-Za-z]{1,12})$"
)
"""A tag, a supply, a person, or a key. What begins with a digit and is no plain number is the reading of a device that
types: it stays in its field."""
_PLAIN = Qt.KeyboardModifier.NoModifier | Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier
_MODIFIERS = (
    Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_AltGr, Qt.Key.Key_Meta, Qt.Key.Key_CapsLock,
    Qt.Key.Key_NumLock,
)  # fmt: skip
_KEYS = (QEvent.Type.KeyPress, QEvent.Type.KeyRelease)


class Scanner(QObject):
    """Event filter of the windows it is told to watch; emits ``scanned`` with the code."""

    scanned = Signal(str)

    def __init__(self, parent: QObject | None = None):
        super().__init__(parent)
        self._held: list[QKeyEvent] = []
        self._text = ""
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._paused)
        self._grace = False

    def watch(self, window: QWidget) -> None:
        """Listen to the keys that enter a shown window."""
        handle = window.windowHandle()
        if handle is not None:
            handle.installEventFilter(self)

    def eventFilter(self, target: QObject, event: QEvent) -> bool:
        if event.type() not in _KEYS:
            return False
        assert isinstance(event, QKeyEvent)
        if event.key() in _MODIFIERS:
            return False  # a scanner presses Shift for capitals like anybody; that ends no burst
        if event.type() == QEvent.Type.KeyRelease:
            if any(held.key() == event.key() for held in self._held):
                self._held.append(event.clone())
                return True
            return False
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            text = self._text
            if CODE.match(text):
                self._drop()
                self.scanned.emit(text)
                return True
            self.flush()
            return False
        text = event.text()
        plain = not (event.modifiers() & ~_PLAIN) and len(text) == 1 and text.isprintable()
        if not plain or event.isAutoRepeat():
            self.flush()
            return False
        self._held.append(event.clone())
        self._text += text
        self._grace = False
        self._timer.start(GAP_MS)
        return True

    def _paused(self) -> None:
        if self._grace:
            self.flush()
        else:
            self._grace = True
            self._timer.start(GRACE_MS)

    def _drop(self) -> None:
        self._timer.stop()
        self._grace = False
        self._held, self._text = [], ""

    def flush(self) -> None:
        """Pass on the keys that were held back: they were typed, not scanned."""
        held = self._held
        self._drop()
        for event in held:
            receiver = QApplication.focusWidget() or QApplication.activeWindow()
            if receiver is not None:
                QApplication.sendEvent(receiver, event)
