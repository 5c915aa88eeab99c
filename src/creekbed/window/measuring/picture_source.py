"""Every way in which a picture comes in: camera, file, paste, drop."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Generic, TypeVar

from PySide6.QtCore import QBuffer, QByteArray, QIODevice
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication, QImage
from PySide6.QtWidgets import QFileDialog

from creekbed.core.bounded import read_at_most
from creekbed.core.errors import BadInput
from creekbed.store.photos import LARGEST_BYTES

if TYPE_CHECKING:
    from creekbed.window.shared.page import Page

P = TypeVar("P", bound="Page")
Into = Callable[[Callable[[], bytes]], None]
"""Takes what gives a picture's bytes; it may be slow, and is to be called off the interface thread."""


class PictureSource(Generic[P]):
    """Mixed into a widget that takes pictures; it says with :meth:`receiver` where they go, when they are asked for."""

    page: P

    def receiver(self) -> Into:
        """Where a picture that is asked for now will go."""
        raise NotImplementedError

    def take(self, into: Into | None = None) -> None:
        """Ask the camera."""
        into = into or self.receiver()
        self.page.frame.devices.take_picture(lambda data: into(lambda: data))

    def choose_file(self, into: Into | None = None) -> None:
        """Ask for a picture file."""
        into = into or self.receiver()
        path, _ = QFileDialog.getOpenFileName(self.page, "A photograph", "", "Pictures (*.jpg *.jpeg *.png *.webp)")
        if path:
            into(lambda: read_picture(Path(path)))

    def open_file(self, path: Path) -> None:
        """Take a picture file."""
        self.receiver()(lambda: read_picture(path))

    def open_data(self, data: bytes) -> None:
        """Take a picture as it came."""
        self.receiver()(lambda: data)

    def paste(self) -> None:
        """Take the picture that was copied elsewhere."""
        data = seen_in(QGuiApplication.clipboard().mimeData())
        if data is None:
            self.page.frame.say("There is no picture to paste.", warn=True)
        else:
            self.open_data(data)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasImage() or event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        urls = [u for u in event.mimeData().urls() if u.isLocalFile()]
        data = seen_in(event.mimeData())
        if urls:
            self.open_file(Path(urls[0].toLocalFile()))
        elif data is not None:
            self.open_data(data)
        event.acceptProposedAction()


def read_picture(path: Path) -> bytes:
    """The bytes of a picture file.

    Raises:
        BadInput: it cannot be read, or is more than a photograph.
    """
    try:
        return read_at_most(path, LARGEST_BYTES)
    except OSError as error:
        raise BadInput("That file cannot be read.", todo="Choose another.") from error


def seen_in(mime: object) -> bytes | None:
    """The picture of a clipboard or a drop, as PNG; ``None`` where there is none."""
    image = mime.imageData() if mime.hasImage() else None  # type: ignore[attr-defined]
    if not isinstance(image, QImage) or image.isNull():
        return None
    held = QByteArray()
    buffer = QBuffer(held)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]
    return bytes(held.data())
