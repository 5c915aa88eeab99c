"""The few questions that need words: a reason, a reading. Everything else happens on the page."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QLineEdit, QVBoxLayout, QWidget

from creekbed.window import theme
from creekbed.window.widgets import Flow, button, label, row


class AskDialog(QDialog):
    """Asks for one line. ``ready`` answers are offered as buttons; a scan that comes meanwhile is held and named."""

    def __init__(
        self,
        parent: QWidget,
        title: str,
        words: str,
        *,
        ready: tuple[str, ...] = (),
        needed: bool = True,
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
        if ready:
            holder = QWidget()
            flow = Flow()
            holder.setLayout(flow)
            for text in ready:
                flow.addWidget(button(text, lambda t=text: self.field.setText(t), "", "ready_answer"))
            box.addWidget(holder)
        self.field = QLineEdit()
        self.field.setAccessibleName(words)
        self.field.setMaxLength(200)
        box.addWidget(self.field)
        self.held = label("", tone="deep")
        self.held.hide()
        box.addWidget(self.held)
        self.ok = button(ok, self.accept, "primary", "ok")
        self.ok.setEnabled(not needed)
        self.ok.setDefault(True)
        if needed:
            self.field.textChanged.connect(lambda text: self.ok.setEnabled(len(text.strip()) >= 3))
        box.addLayout(row(self.ok, button("Leave it", self.reject, "", "cancel"), None))
        self.field.setFocus(Qt.FocusReason.OtherFocusReason)

    def hold_scan(self, code: str) -> None:
        """Say that a scan waits until this question is answered."""
        self.held.setText(f"Scanned {code}: it opens when this is answered or left.")
        self.held.show()

    def text(self) -> str:
        return self.field.text().strip()
