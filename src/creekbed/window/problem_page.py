"""When the records cannot be opened: what happened, what is safe, what to do."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QVBoxLayout, QWidget

from creekbed.core.errors import StoreProblem
from creekbed.window.widgets import button, card, label, row


class ProblemPage(QWidget):
    """Shows a store problem with the actions that can mend it."""

    def __init__(self, problem: StoreProblem, again: Callable[[], None], restore: Callable[[], None] | None):
        super().__init__()
        self.setObjectName("page")
        box = QVBoxLayout(self)
        box.setContentsMargins(120, 60, 120, 60)
        frame, inner = card(margin=32)
        inner.setSpacing(16)
        inner.addWidget(label(problem.happened, "title"))
        inner.addWidget(label(problem.safe, "name"))
        inner.addWidget(label(problem.todo))
        inner.addWidget(label(f"Folder: {problem.fields.get('folder', '')}", tone="muted"))
        inner.addStretch(1)
        actions = [button("Try again", again, "primary", "again", "F5")]
        if restore is not None:
            actions.append(button("Go back to the newest backup", restore, "warn", "restore"))
        inner.addLayout(row(*actions, None))
        box.addWidget(frame)
