"""Long work with its progress and a way to leave it: a strip that is there only while something runs."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QProgressBar, QVBoxLayout, QWidget

from creekbed.core.errors import CreekbedError
from creekbed.core.progress import Progress
from creekbed.window.shared.background_writes import BackgroundWrites
from creekbed.window.shared.widgets import button, label, row

STEPS = 1000


class LongWork(QWidget):
    """Runs one piece of work at a time in a thread of its own.

    Args:
        failed: told of what went wrong, or that it was given up.
    """

    _share = Signal(float)

    def __init__(self, failed: Callable[[CreekbedError], None]):
        super().__init__()
        self._told_failed = failed
        self._left = False
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        self.words = label("", "small")
        self.bar = QProgressBar()
        self.bar.setRange(0, STEPS)
        self.bar.setTextVisible(False)
        self.bar.setAccessibleName("How far it is")
        self.leave = button("Give it up", self.give_up, "", "give_up")
        box.addWidget(self.words)
        line = row(self.bar, self.leave)
        line.setStretch(0, 1)
        box.addLayout(line)
        self.work = BackgroundWrites(self, self._failed)
        self._share.connect(lambda share: self.bar.setValue(round(STEPS * share)))
        self.hide()

    @property
    def busy(self) -> bool:
        """Whether something runs."""
        return self.work.busy

    def start(self, words: str, work: Callable[[Progress], Any], then: Callable[[Any], object]) -> bool:
        """Begin, unless something runs.

        Args:
            words: what is being done. work: is handed what to tell its progress to. then: gets what came of it.
        """

        def progress(share: float) -> bool:
            try:
                self._share.emit(share)
            except RuntimeError:  # the window has closed
                return False
            return not self._left

        def done(answer: Any) -> None:
            self.hide()
            then(answer)

        if self.busy:
            return False
        self._left = False
        self.bar.setValue(0)
        self.words.setText(words)
        self.leave.setEnabled(True)
        self.show()
        return self.work.start(lambda: work(progress), done)

    def give_up(self) -> None:
        """Leave it; what was not done yet is not done."""
        self._left = True
        self.leave.setEnabled(False)
        self.words.setText("It is being given up …")

    def _failed(self, error: CreekbedError) -> None:
        self.hide()
        self._told_failed(error)
