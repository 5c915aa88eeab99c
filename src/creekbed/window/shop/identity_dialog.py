"""What the shop is called, where it is, which paper it prints on."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QDialog, QPlainTextEdit, QVBoxLayout

from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import button, entry, label, row
from creekbed.workshop.shop.identity import PAPERS, Identity, identity, set_identity


class IdentityDialog(QDialog):
    """Asks, and keeps it; what is wrong is said, and the dialog stays."""

    def __init__(self, page: Page):
        super().__init__(page.frame)
        self.page = page
        self.setModal(True)
        self.setWindowTitle("This shop")
        self.setMinimumWidth(theme.current.px(520))
        now = identity(page.shop)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 20, 24, 20)
        box.setSpacing(theme.STEP)
        box.addWidget(label("This shop", "title"))
        box.addWidget(label("Its name and address stand on what goes out with a hire.", tone="muted"))
        self.name = entry("shop_name", "Name of the shop", "as it stands on your papers")
        self.name.setText(now.name)
        self.address = QPlainTextEdit("\n".join(now.address))
        self.address.setObjectName("shop_address")
        self.address.setAccessibleName("Address, a line each")
        self.address.setTabChangesFocus(True)
        self.address.setFixedHeight(theme.current.px(110))
        self.paper = QComboBox()
        self.paper.setObjectName("shop_paper")
        self.paper.setAccessibleName("Paper")
        self.paper.addItems(list(PAPERS))
        self.paper.setCurrentText(now.paper)
        for words, field in (("Name", self.name), ("Address", self.address), ("Paper", self.paper)):
            box.addWidget(label(words, "small"))
            box.addWidget(field)
        keep = button("Keep", self._keep, "primary", "identity_keep")
        box.addLayout(row(keep, button("Leave it", self.reject, "", "identity_leave"), None))

    def _keep(self) -> None:
        paper = next((p for p in PAPERS if p == self.paper.currentText()), PAPERS[0])
        said = Identity(self.name.text(), tuple(self.address.toPlainText().splitlines()), paper)
        if self.page.do(lambda: set_identity(self.page.shop, said)):
            self.accept()
