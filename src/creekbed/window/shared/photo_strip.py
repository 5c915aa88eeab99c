"""Photographs of a job in a row, and every way to add one: camera, file, paste, drop."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from creekbed.core.conventions import clock
from creekbed.core.errors import CreekbedError
from creekbed.store.photos import Clean, clean, decoded
from creekbed.window.measuring.picture_source import Into, PictureSource
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import Flow, button, label, row
from creekbed.workshop.arrival import photos
from creekbed.workshop.arrival.photos import PhotoView

if TYPE_CHECKING:
    from creekbed.window.shared.page import Page

AWAY = 2
"""What a photograph's dialog answers when it is to be taken away."""
THUMB = 58
LARGE = 1400
"""Longest side of a photograph that is only looked at, px."""


class PhotoStrip(PictureSource["Page"], QWidget):
    """Small pictures that open large, and the buttons to add one."""

    def __init__(self, page: Page):
        super().__init__()
        self.page = page
        self.job = 0
        self._shown: tuple[tuple[int, str], ...] = ()
        self.setAcceptDrops(True)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(4)
        self.camera = button("Photograph", self.take, "", "strip_camera")
        self.file = button("File …", self.choose_file, "quiet", "strip_file")
        self.pasted = button("Paste", self.paste, "quiet", "strip_paste")
        self.what = label("", tone="muted")
        box.addWidget(self.what)
        holder, ways = QWidget(), Flow()
        holder.setLayout(ways)
        for way in (self.camera, self.file, self.pasted):
            ways.addWidget(way)
        box.addWidget(holder)
        self.thumbs = QHBoxLayout()
        self.thumbs.setSpacing(6)
        self.thumbs.addStretch(1)
        box.addLayout(self.thumbs)
        self.buttons: list[QPushButton] = []

    def show_job(self, job: int, words: str) -> None:
        """Show the photographs of a job, under these words."""
        self.job = job
        self.what.setText(words)
        self.camera.setVisible(bool(self.page.frame.devices.ports.get("camera")))
        found = photos.photos_of(self.page.shop, job)
        shown = tuple((p.id, p.name) for p in found)
        if shown == self._shown:
            return
        self._shown = shown
        for old in self.buttons:
            old.hide()
            self.thumbs.removeWidget(old)
            old.deleteLater()
        self.buttons = []
        for n, photo in enumerate(found[-6:]):
            said = f"Photograph {n + 1}: {photo.about.partition(':')[0]}"
            thumb = thumbnail(self.page, photo, partial(show_photo, self.page, photo), f"photo_{photo.id}", said, THUMB)
            self.thumbs.insertWidget(n, thumb)
            self.buttons.append(thumb)

    # --- adding -----------------------------------------------------------------------------------------------------

    def receiver(self, about: str = photos.PACKING) -> Into:
        """The target of a picture that is asked for now: the job on show now, not the one on show when it comes.

        Args:
            about: "packing", "mark:ID" or "check:KEY".
        """
        job = self.job

        def keep(picture: Clean) -> None:
            photos.add_photo(self.page.shop, job, picture, about)

        return lambda get: self.page.frame.devices.ask("picture", lambda: clean(get()), keep)


def thumbnail(
    page: Page, photo: PhotoView, on: Callable[[], object], name: str, said: str, size_px: int
) -> QPushButton:
    """A button with a small picture of a photograph on it; what stands against it is its name.

    Args:
        on: when it is pressed. name: of the widget. said: for who hears it. size_px: before the text scale.
    """
    found = button("", on, "quiet", name)
    found.setAccessibleName(said)
    try:
        picture = QPixmap()
        picture.loadFromData(photos.store_of(page.shop).read(photo.name, thumb=True))
        size = theme.current.px(size_px)
        found.setIcon(picture.scaled(size, size, Qt.AspectRatioMode.KeepAspectRatioByExpanding))
        found.setIconSize(picture.rect().size().scaled(size, size, Qt.AspectRatioMode.KeepAspectRatio))
    except CreekbedError as problem:
        found.setText("?")
        found.setAccessibleName(problem.words())
    return found


def show_photo(page: Page, photo: PhotoView) -> None:
    """One photograph, large."""
    dialog = QDialog(page.frame)
    dialog.setWindowTitle("Photograph")
    dialog.setModal(True)
    box = QVBoxLayout(dialog)
    picture = label("")
    picture.setAccessibleName(f"Photograph of {clock(photo.taken_at, '%d %b %Y ')}")
    try:
        room = page.frame.size() * 0.85
        pixels, (w, h) = decoded(photos.store_of(page.shop).read(photo.name), LARGE)
        shown = QPixmap.fromImage(QImage(pixels, w, h, 3 * w, QImage.Format.Format_RGB888))
        picture.setPixmap(
            shown.scaled(room, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation)
        )
    except CreekbedError as problem:
        picture.setText(problem.words())
    box.addWidget(picture)
    away = button("Take it away", lambda: dialog.done(AWAY), "", "photo_away")
    box.addLayout(row(label(f"{clock(photo.taken_at, '%d %b %Y, ')}", tone="muted"), away,
                      button("Close", dialog.accept, "primary", "photo_close")))  # fmt: skip
    page.open_dialog(dialog)
    if dialog.result() == AWAY:
        page.do(lambda: photos.remove_photo(page.shop, photo.id))
