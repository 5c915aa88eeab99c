"""The few questions that need words: a reason, a reading. Everything else happens on the page."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QLineEdit, QPushButton, QVBoxLayout, QWidget

from creekbed.window.shared import theme
from creekbed.window.shared.widgets import Flow, button, label, row


class AskDialog(QDialog):
    """Asks for one line, and for one of several choices where there are any.

    ``ready`` answers are offered as buttons, ``least`` letters are needed; a scan that comes meanwhile is held.
    """

    def __init__(
        self,
        parent: QWidget,
        title: str,
        words: str,
        *,
        ready: tuple[str, ...] = (),
        choices: tuple[tuple[str, str], ...] = (),
        needed: bool = True,
        least: int = 3,
        ok: str = "Keep",
    ):
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setModal(True)
        self.setMinimumWidth(theme.current.px(560))
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 24, 24, 24)
        box.setSpacing(theme.STEP * 2)
        box.addWidget(label(title, "title"))
        box.addWidget(label(words))
        self.needed, self.least, self.choices, self.chosen = needed, least, choices, ""
        self.choice_buttons = {key: self._choice(key, name) for key, name in choices}
        if choices:
            holder = QWidget()
            flow = Flow()
            holder.setLayout(flow)
            for pick in self.choice_buttons.values():
                flow.addWidget(pick)
            box.addWidget(holder)
        self.field = QLineEdit()
        if ready:
            holder = QWidget()
            flow = Flow()
            holder.setLayout(flow)
            for text in ready:
                flow.addWidget(button(text, partial(self.field.setText, text), "", "ready_answer"))
            box.addWidget(holder)
        self.field.setAccessibleName(words)
        self.field.setMaxLength(200)
        box.addWidget(self.field)
        self.held = label("", tone="deep")
        self.held.hide()
        box.addWidget(self.held)
        self.ok = button(ok, self.accept, "primary", "ok")
        self.ok.setDefault(True)
        self.field.textChanged.connect(lambda text: self._check())
        self._check()
        box.addLayout(row(self.ok, button("Leave it", self.reject, "", "cancel"), None))
        box.addStretch(1)
        self.field.setFocus(Qt.FocusReason.OtherFocusReason)

    def _choice(self, key: str, name: str) -> QPushButton:
        pick = button(name, lambda: self.choose(key), "", f"choice_{key}")
        pick.setCheckable(True)
        return pick

    def choose(self, key: str) -> None:
        """Take one of the choices."""
        self.chosen = key
        for other, pick in self.choice_buttons.items():
            pick.setChecked(other == key)
        self._check()

    def _check(self) -> None:
        whole = not self.needed or len(self.text()) >= self.least
        self.ok.setEnabled(whole and (bool(self.chosen) or not self.choices))

    def hold_scan(self, code: str) -> None:
        """Say that a scan waits until this question is answered."""
        self.held.setText(f"Scanned {code}: it opens when this is answered or left.")
        self.held.show()

    def text(self) -> str:
        return self.field.text().strip()
