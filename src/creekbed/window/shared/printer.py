"""Prints a paper that was saved: the system's own dialogue, and each page at its true size."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from creekbed.core.errors import CreekbedError, Refused

if TYPE_CHECKING:
    from PySide6.QtPrintSupport import QPrinter

    from creekbed.window.frame.frame import Frame

POINTS = 72.0
"""Points to an inch."""
FINEST_DPI = 300
"""Finer than this nobody sees; it would only take memory."""


def print_paper(frame: Frame, path: Path) -> bool:
    """Ask for a printer and print a PDF; what went wrong is said. True when it was handed to the printer."""
    try:
        from PySide6.QtPrintSupport import QPrintDialog, QPrinter
    except ImportError as error:  # the printing libraries of the system are missing
        frame.say(f"Printing needs a library of the system: {error}. The paper lies in {path}", warn=True)
        return False
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setDocName(path.name)
    try:
        prepare(printer, path.read_bytes())
        dialog = QPrintDialog(printer, frame)
        if not dialog.exec():
            return False
        pages = paint_pdf(printer, path.read_bytes())
    except (CreekbedError, OSError) as error:
        frame.say(f"It was not printed: {error}. The paper lies in {path}", warn=True)
        return False
    frame.say(f"{path.name}: {pages} {'page' if pages == 1 else 'pages'} went to {printer.printerName() or 'a file'}")
    return True


def prepare(printer: QPrinter, data: bytes) -> None:
    """Set the paper that the first page asks for.

    Raises:
        Refused: it is no PDF.
    """
    from PySide6.QtCore import QSizeF
    from PySide6.QtGui import QPageLayout, QPageSize

    with _document(data) as document:
        wide, high = document[0].get_size()
    turned = wide > high
    size = QSizeF(min(wide, high), max(wide, high))
    found = QPageSize(size, QPageSize.Unit.Point, "", QPageSize.SizeMatchPolicy.FuzzyMatch)
    printer.setPageSize(found)
    printer.setPageOrientation(QPageLayout.Orientation.Landscape if turned else QPageLayout.Orientation.Portrait)


def paint_pdf(printer: QPrinter, data: bytes) -> int:
    """Print every page of a PDF at its true size, from the upper left corner of the paper.

    Returns:
        How many pages were printed.

    Raises:
        Refused: it is no PDF, or the printer takes nothing.
    """
    from PySide6.QtCore import QRectF
    from PySide6.QtGui import QImage, QPainter

    printer.setFullPage(True)
    painter = QPainter()
    with _document(data) as document:
        first, last = printer.fromPage() or 1, printer.toPage() or len(document)
        wanted = range(first - 1, min(last, len(document)))
        if not painter.begin(printer):
            raise Refused("The printer takes nothing.", todo="Is it on, and is there paper?")
        try:
            dots = printer.resolution() / POINTS
            fine = min(printer.resolution(), FINEST_DPI) / POINTS
            for n in wanted:
                if n != wanted[0]:
                    printer.newPage()
                page = document[n]
                wide, high = page.get_size()
                picture = page.render(scale=fine, rev_byteorder=True).to_pil().convert("RGB")
                pixels = picture.tobytes()
                w, h = picture.size
                image = QImage(pixels, w, h, 3 * w, QImage.Format.Format_RGB888)
                painter.drawImage(QRectF(0, 0, wide * dots, high * dots), image)
        finally:
            painter.end()
    return len(wanted)


def _document(data: bytes) -> Any:
    import pypdfium2

    try:
        return pypdfium2.PdfDocument(data)
    except pypdfium2.PdfiumError as error:
        raise Refused("That is no PDF that can be printed.") from error
