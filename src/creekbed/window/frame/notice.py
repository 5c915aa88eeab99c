"""Messages: a strip under the stages, which draw together while it is there; the page stays where it is."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QFontMetrics, QHideEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QWidget

from creekbed.core.quick_dataclasses import dataclass
from creekbed.window.frame.stage_bar import StageBar
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button, label, restyle

STAYS_S = 12
"""How long a plain message stays, seconds; a warning stays until it is hidden: house default."""
SIDE = 24
FREE = 82
"""So far down from the top of the stage bar begins what is read on a page, px: the strip ends above it."""
LEAST_STAGES, MOST_STAGES = 32, 38
"""Height of the stages while a message is shown, px."""


@dataclass(frozen=True)
class Said:
    """Something that was said; ``still``: whether it is true yet, where that is known; ``about``: what it is about;
    ``act``: words and what happens when they are pressed."""

    words: str
    warn: bool
    still: Callable[[], bool] | None = None
    about: object = None
    act: tuple[str, Callable[[], object]] | None = None


class Notice(QFrame):
    """One message at a time. A warning that is still true comes back after the message that covers it.

    Args:
        stages: the bar whose lower part it takes; the clock in it stays free.
        page: what lies below; a message of many lines moves it down, and hides nothing of it.
    """

    def __init__(self, parent: QWidget, stages: StageBar, page: QWidget):
        super().__init__(parent)
        self.setObjectName("notice")
        self._stages, self._page = stages, page
        self._left_s = 0
        self._said = Said("", False)
        self._covered: list[Said] = []
        """Warnings under the one on show that are as true as they were; the last one first."""
        self.words: QLabel = label("", "name")
        self.words.setObjectName("notice_words")
        self.act_button = button("", self._act, "", "notice_act")
        self.hide_button = button("Hide", self.hush, "quiet", "hush", "Esc")
        box = QHBoxLayout(self)
        box.setContentsMargins(16, 0, 0, 0)
        box.addWidget(self.words, 1)
        box.addWidget(self.act_button, 0, Qt.AlignmentFlag.AlignVCenter)
        box.addWidget(self.hide_button, 0, Qt.AlignmentFlag.AlignVCenter)
        stages.installEventFilter(self)
        self.hide()

    @property
    def warns(self) -> bool:
        """Whether what it says is a warning."""
        return bool(self.property("state") == "warn")

    @property
    def lasts(self) -> bool:
        """Whether the message comes back as long as it is true."""
        return self._said.still is not None

    def say(
        self, words: str, warn: bool = False, still: Callable[[], bool] | None = None, about: object = None,
        act: tuple[str, Callable[[], object]] | None = None,
    ) -> None:  # fmt: skip
        """Show a message in place of the one before.

        Args:
            still: whether a warning is true yet. With it, the warning comes back after what covers it, and goes by
                itself when it is true no more; without it, it is gone when something else is said.
            about: what such a warning is about; it takes the place of one about the same. act: the words of a button
                beside it, and what it does.
        """
        if not self.isHidden() and self._said.still is not None:
            self._covered.append(self._said)
        self._covered = [said for said in self._covered if about is None or said.about != about]
        self._show(Said(words, warn, still, about, act))

    def hush(self) -> None:
        """Hide the message; a covered warning that is still true is shown again."""
        while self._covered:
            below = self._covered.pop()
            if below.still is not None and below.still():
                self._show(below)
                return
        self.hide()

    def _act(self) -> None:
        act = self._said.act
        if act is not None:
            self.hush()
            act[1]()

    def second(self) -> None:
        """A second has passed; a message under the pointer or with the focus stays."""
        if self.isHidden():
            return
        if self._said.still is not None and not self._said.still():
            self.hush()
            return
        if self.warns or self.underMouse() or self.hide_button.hasFocus():
            return
        self._left_s -= 1
        if self._left_s <= 0:
            self.hush()

    def _show(self, said: Said) -> None:
        self._said = said
        self.words.setText(said.words)
        self.act_button.setText(said.act[0] if said.act is not None else "")
        self.act_button.setAccessibleName(self.act_button.text())
        self.act_button.setVisible(said.act is not None)
        restyle(self, state="warn" if said.warn else "")
        self.setAccessibleName(said.words)
        self._left_s = STAYS_S
        self._place()
        self.show()
        self.raise_()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.Resize, QEvent.Type.Move) and not self.isHidden():
            self._place()
        return False

    def hideEvent(self, event: QHideEvent) -> None:
        self._stages.make_room(0)
        self._page.setContentsMargins(0, 0, 0, 0)
        super().hideEvent(event)

    def _place(self) -> None:
        """As high as its words or its button need; the stages above give way as far as they can."""
        area = self._stages.geometry()
        wide = max(area.width() - self._stages.clock.width() - 2 * SIDE - 12, 300)
        for_words = wide - 16 - self.hide_button.sizeHint().width() - theme.STEP
        if self._said.act is not None:
            for_words -= self.act_button.sizeHint().width() + theme.STEP
        one_line = (
            QFontMetrics(theme.current.font(17, self._said.warn)).horizontalAdvance(self._said.words) <= for_words
        )
        self.words.setFont(theme.current.font(17 if one_line else theme.TEXT_SIZE, self._said.warn))
        high = max(theme.current.target, self.words.heightForWidth(for_words) + 4)
        stages = min(max(FREE - high, LEAST_STAGES), MOST_STAGES)
        self._stages.make_room(area.height() - stages)
        self._page.setContentsMargins(0, max(stages + high - FREE, 0), 0, 0)
        self.setGeometry(area.left() + SIDE, area.top() + stages, wide, high)
