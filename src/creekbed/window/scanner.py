"""A keyboard-wedge scanner anywhere in the window: a burst of keys with Enter.

Keys are held back for a moment. A burst that ends with Enter and looks like a code is a scan and reaches no field;
anything else is handed on to where it was typed, in order.
"""

from __future__ import annotations

import re

from PySide6.QtCore import QEvent, QObject, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication

GAP_MS = 45
CODE = re.compile(r"^(?:[A-Za-z]{1,4}-?\d{2,6}|[Ss][Uu]-[A-Za-z0-9_-]{3,40})$")
_PLAIN = Qt.KeyboardModifier.NoModifier | Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier


class Scanner(QObject):
    """Event filter of the application; emits ``scanned`` with the code."""

    scanned = Signal(str)

    def __init__(self, app: QApplication):
        super().__init__(app)
        self._held: list[tuple[QObject, QKeyEvent]] = []
        self._text = ""
        self._passing = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(GAP_MS)
        self._timer.timeout.connect(self.flush)
        self._app = app
        app.installEventFilter(self)

    def stop(self) -> None:
        """Listen no longer."""
        self._app.removeEventFilter(self)
        self._drop()

    def eventFilter(self, target: QObject, event: QEvent) -> bool:
        if self._passing or event.type() not in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
            return False
        if not target.isWidgetType():
            return False
        assert isinstance(event, QKeyEvent)
        if event.type() == QEvent.Type.KeyRelease:
            if self._held and any(k.key() == event.key() for _, k in self._held):
                self._held.append((target, event.clone()))
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
        self._held.append((target, event.clone()))
        self._text += text
        self._timer.start()
        return True

    def _drop(self) -> None:
        self._timer.stop()
        self._held, self._text = [], ""

    def flush(self) -> None:
        """Hand on what was held back: it was typing, not a scan."""
        held = self._held
        self._drop()
        self._passing = True
        try:
            for target, event in held:
                receiver = QApplication.focusWidget() or target
                QApplication.sendEvent(receiver, event)
        finally:
            self._passing = False
