"""When the records cannot be opened: what happened, what is safe, what can be done; and what there is to go back to."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QVBoxLayout, QWidget

from creekbed.core.errors import CreekbedError
from creekbed.store.maintenance import Copy
from creekbed.window.records.copies_view import CopiesView
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button, card, label, row

WITH_COPIES = ("missing", "damaged", "foreign", "rolled_back", "cell", "unexpected")
"""Kinds of problem at which going back to a copy may help."""


class ProblemPage(QWidget):
    """Shows a problem with the actions that can mend it.

    Args:
        folder: the data folder. again: opens once more. restore: goes back to a copy.
        go_on: goes on with records from which actions are missing. new: begins a new shop beside an empty file.
    """

    def __init__(
        self, problem: CreekbedError, folder: Path, again: Callable[[], None], restore: Callable[[Copy], None],
        go_on: Callable[[], None], new: Callable[[], None],
    ):  # fmt: skip
        super().__init__()
        self.setObjectName("page")
        kind = problem.fields.get("kind", "")
        box = QVBoxLayout(self)
        box.setContentsMargins(48, 32, 48, 32)
        box.setSpacing(theme.STEP * 2)
        frame, inner = card(margin=24)
        inner.setSpacing(12)
        inner.addWidget(label(problem.happened, "title"))
        inner.addWidget(label(problem.safe, "name"))
        inner.addWidget(label(problem.todo))
        self.said = label("", "name", tone="warn")
        self.said.hide()
        inner.addWidget(self.said)
        detail = str(problem.fields.get("detail", "")).strip(". ")
        more = f" ({detail})" if detail and detail not in problem.happened else ""
        inner.addWidget(label(f"Folder: {folder}{more}", tone="muted"))
        actions = [button("Try again", again, "primary", "again", "F5")]
        if kind == "rolled_back":
            actions.append(button("Go on without them", go_on, "", "go_on"))
        if kind == "empty":
            actions.append(button("Begin a new shop here", new, "", "new_shop"))
        inner.addLayout(row(*actions, None))
        box.addWidget(frame)
        self.copies: CopiesView | None = None
        if kind in WITH_COPIES:
            self.copies = CopiesView(folder, restore)
            box.addWidget(self.copies, 1)
            self.copies.read()
        else:
            box.addStretch(1)

    def say(self, words: str) -> None:
        """Say what stands in the way."""
        self.said.setText(words)
        self.said.show()
