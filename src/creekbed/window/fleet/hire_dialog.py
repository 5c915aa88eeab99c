"""To whom instruments go out, and until when."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta

from PySide6.QtCore import QDate
from PySide6.QtWidgets import QCheckBox, QDateEdit, QDialog, QVBoxLayout, QWidget

from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button, entry, label, row
from creekbed.workshop.fleet.hiring import HireTerms

USUAL = timedelta(days=300)
"""How long a hire usually lasts, about a school year: house default."""


class HireDialog(QDialog):
    """Asks for the terms; nothing is changed by it."""

    def __init__(self, parent: QWidget, tags: Sequence[str], today: date):
        super().__init__(parent)
        self.setModal(True)
        self.setWindowTitle("Hire out")
        self.setMinimumWidth(theme.current.px(520))
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 20, 24, 20)
        box.setSpacing(theme.STEP)
        what = tags[0] if len(tags) == 1 else f"{len(tags)} instruments"
        box.addWidget(label(f"Hire out {what}", "title"))
        self.renter = entry("hire_renter", "To whom: a code, not a name", "K-17", self.accept)
        self.group = entry("hire_group", "Band or group", "Hill school", self.accept)
        box.addWidget(label("To whom: a code, not a name", "small"))
        box.addWidget(self.renter)
        box.addWidget(label("Band or group", "small"))
        box.addWidget(self.group)
        self.until = QCheckBox("Back by")
        self.until.setObjectName("hire_until")
        self.until.setChecked(True)
        self.due = QDateEdit()
        self.due.setObjectName("hire_due")
        self.due.setAccessibleName("Back by")
        self.due.setDisplayFormat("ddd d MMM yyyy")
        self.due.setCalendarPopup(True)
        back = today + USUAL
        self.due.setDate(QDate(back.year, back.month, back.day))
        self.until.toggled.connect(self.due.setEnabled)
        box.addLayout(row(self.until, self.due, None))
        box.addWidget(
            label(
                "The condition and the case go on record as the ready tag has them; a sheet to sign is made.",
                tone="muted",
            )
        )
        box.addLayout(
            row(
                button("Hire out", self.accept, "primary", "hire_keep"),
                button("Leave it", self.reject, "", "hire_leave"),
                None,
            )
        )

    def terms(self) -> HireTerms:
        """What was said."""
        on = self.due.date()
        due = date(on.year(), on.month(), on.day()) if self.until.isChecked() else None
        return HireTerms(self.renter.text(), self.group.text(), due)
