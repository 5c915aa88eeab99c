"""One instrument: serial number, when and for what it was bought, and its photographs, newest first."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QDialog, QVBoxLayout, QWidget

from creekbed.core.conventions import clock, number
from creekbed.interchange.tables import date_in, number_in
from creekbed.window.shared import theme
from creekbed.window.shared.kept_sounds import KeptSounds
from creekbed.window.shared.page import Page
from creekbed.window.shared.photo_strip import THUMB, show_photo, thumbnail
from creekbed.window.shared.widgets import Flow, button, clear, entry, label, row
from creekbed.workshop.arrival import photos
from creekbed.workshop.fleet.instrument_details import details_of, set_details


class DetailsDialog(QDialog):
    """Shows and corrects; what is wrong is said, and the dialogue stays."""

    def __init__(self, page: Page, tag: str, name: str):
        super().__init__(page.frame)
        self.page, self.tag = page, tag
        self.setModal(True)
        self.setWindowTitle(tag)
        self.setMinimumWidth(theme.current.px(560))
        known = details_of(page.shop, tag)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 20, 24, 20)
        box.setSpacing(theme.STEP)
        box.addWidget(label(f"{tag}  {name}", "title"))
        self.serial = entry("detail_serial", "Serial number", "as it is stamped or on the label", self.keep)
        self.serial.setText(known.serial)
        self.bought = entry("detail_bought", "Bought on", "such as 3 Sep 2024", self.keep)
        self.bought.setText(f"{known.bought_on:%d %b %Y}" if known.bought_on is not None else "")
        self.cost = entry("detail_cost", "Bought for", "such as 480", self.keep)
        self.cost.setText(number(known.cost, 2) if known.cost is not None else "")
        for words, field in (("Serial number", self.serial), ("Bought on", self.bought), ("Bought for", self.cost)):
            box.addWidget(label(words, "small"))
            box.addWidget(field)
        box.addWidget(label("Photographs", "small"))
        self.holder = QWidget()
        self.strip = Flow(6)
        self.holder.setLayout(self.strip)
        box.addWidget(self.holder)
        self.none = label("None yet: they are taken with a job, in its case and its checks.", tone="muted")
        box.addWidget(self.none)
        self.sounds_head = label("Sounds", "small")
        self.sounds = KeptSounds(page, gone=self._fill)
        box.addWidget(self.sounds_head)
        box.addWidget(self.sounds)
        self._fill()
        keep = button("Keep", self.keep, "primary", "detail_keep")
        box.addLayout(row(keep, button("Close", self.reject, "", "detail_close"), None))

    def _fill(self) -> None:
        clear(self.strip)
        known = details_of(self.page.shop, self.tag)
        self.none.setVisible(not known.photos)
        self.holder.setVisible(bool(known.photos))
        self.sounds.set_rows(known.sounds)
        self.sounds_head.setVisible(bool(known.sounds))
        for photo in known.photos:
            said = f"Photograph, {photo.about.partition(':')[0]}, {clock(photo.taken_at, '%d %b %Y ')}"
            name = f"detail_photo_{photo.id}"
            thumb = thumbnail(self.page, photo, partial(self._show, photo), name, said, 2 * THUMB)
            self.strip.addWidget(thumb)

    def _show(self, photo: photos.PhotoView) -> None:
        show_photo(self.page, photo)
        self._fill()

    def keep(self) -> None:
        """Keep what was typed."""

        def act() -> None:
            cost, bought = self.cost.text().strip(), self.bought.text().strip()
            set_details(
                self.page.shop, self.tag, serial=self.serial.text(),
                bought_on=date_in(bought, days_first=True) if bought else None,
                cost=number_in(cost, "," in cost and "." not in cost) if cost else None,
            )  # fmt: skip

        if self.page.do(act):
            self.accept()
