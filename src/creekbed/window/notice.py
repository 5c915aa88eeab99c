"""What was done, or what is wrong: a strip over the course, so that nothing on the page moves when it comes or goes."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QWidget

from creekbed.window import theme
from creekbed.window.widgets import button, label, restyle

STAYS_S = 12
"""A plain word goes by itself after so many seconds, a warning stays till it is hidden: house default."""
SIDE, ABOVE = 24, 6


class Notice(QFrame):
    """One message at a time.

    Args:
        over: what it lies on, from its left edge; it is as high as that, or as its words need.
        beside: what it leaves free on the right.
    """

    def __init__(self, parent: QWidget, over: QWidget, beside: QWidget):
        super().__init__(parent)
        self.setObjectName("notice")
        self._over, self._beside = over, beside
        self._left_s = 0
        self.words: QLabel = label("", "name")
        self.words.setObjectName("notice_words")
        self.hide_button = button("Hide", self.hide, "quiet", "hush", "Esc")
        box = QHBoxLayout(self)
        box.setContentsMargins(16, 4, 8, 4)
        box.addWidget(self.words, 1)
        box.addWidget(self.hide_button, 0, Qt.AlignmentFlag.AlignVCenter)
        over.installEventFilter(self)
        self.hide()

    @property
    def warns(self) -> bool:
        """Whether what it says is a warning."""
        return self.property("state") == "warn"

    def say(self, words: str, warn: bool = False) -> None:
        """Say something; it takes the place of what was said before."""
        self.words.setText(words)
        self.words.setFont(theme.current.font(17, warn))
        restyle(self, state="warn" if warn else "")
        self.setAccessibleName(words)
        self._left_s = STAYS_S
        self._place()
        self.show()
        self.raise_()

    def second(self) -> None:
        """A second has gone by; who points at it, or has its key under the finger, still reads it."""
        if self.isHidden() or self.warns or self.underMouse() or self.hide_button.hasFocus():
            return
        self._left_s -= 1
        if self._left_s <= 0:
            self.hide()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.Resize, QEvent.Type.Move):
            self._place()
        return False

    def _place(self) -> None:
        area = self._over.geometry()
        wide = max(area.width() - self._beside.width() - 2 * SIDE - 12, 300)
        for_words = wide - 24 - self.hide_button.sizeHint().width() - 8
        needed = self.words.heightForWidth(for_words) + 20
        self.setGeometry(area.left() + SIDE, area.top() + ABOVE, wide, max(area.height() - 2 * ABOVE, needed))
