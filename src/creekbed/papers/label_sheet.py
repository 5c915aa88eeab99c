"""Sheets of labels for instruments, each with its tag and the tag's code (PDF), by the size of the labels."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from io import BytesIO

from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from creekbed.core.errors import BadInput
from creekbed.core.progress import Progress, untold
from creekbed.core.quick_dataclasses import dataclass
from creekbed.papers.tag import code_at, need_fonts, text_line


@dataclass(frozen=True)
class LabelSize:
    """A sheet of labels.

    Attributes:
        width_mm, height_mm: of one label. columns, rows: on a sheet. left_mm, top_mm: margin before the first one.
    """

    name: str
    paper: tuple[float, float]
    width_mm: float
    height_mm: float
    columns: int
    rows: int
    left_mm: float
    top_mm: float


LABEL_SIZES: dict[str, LabelSize] = {
    "70x37": LabelSize("70 × 37 mm, 24 on A4", A4, 70.0, 37.0, 3, 8, 0.0, 0.5),
    "52x30": LabelSize("52 × 30 mm, 36 on A4", A4, 52.0, 30.0, 4, 9, 1.0, 13.5),
    "38x21": LabelSize("38 × 21 mm, 65 on A4", A4, 38.0, 21.2, 5, 13, 10.0, 10.7),
    "67x25": LabelSize("66.7 × 25.4 mm, 30 on Letter", LETTER, 66.675, 25.4, 3, 10, 7.94, 12.7),
}
"""Common sheets of labels, from memory; a cut sheet of plain paper does as well."""
PAD_MM = 3.0
TOLD_EVERY = 10
"""Labels between two reports."""


def label_sheets(
    rows: Sequence[Mapping[str, str]], size: str = "70x37", skip: int = 0, progress: Progress = untold
) -> bytes:
    """Labels from left to right, row by row.

    Args:
        rows: ``tag`` and ``name`` of each. size: a key of :data:`LABEL_SIZES`. skip: labels of the first sheet that are
            used up. progress: told the share that is done; false gives up.

    Returns:
        The bytes of a PDF; a page for each sheet.

    Raises:
        BadInput: given up.
    """
    need_fonts()
    sheet = LABEL_SIZES[size]
    out, each = BytesIO(), sheet.columns * sheet.rows
    page = Canvas(out, pagesize=sheet.paper, invariant=1)
    page.setTitle(f"{len(rows)} labels")
    place = skip % each
    for n, row in enumerate(rows):
        if n % TOLD_EVERY == 0 and not progress(n / len(rows)):
            raise BadInput("Given up; no label was made.")
        if n and place == 0:
            page.showPage()
        column, line = place % sheet.columns, place // sheet.columns
        left = sheet.left_mm + column * sheet.width_mm
        bottom = sheet.paper[1] / mm - sheet.top_mm - (line + 1) * sheet.height_mm
        _label(page, sheet, row, left, bottom)
        place = (place + 1) % each
    page.showPage()
    page.save()
    return out.getvalue()


def _label(page: Canvas, sheet: LabelSize, row: Mapping[str, str], left: float, bottom: float) -> None:
    side = min(sheet.height_mm - 2 * PAD_MM, 0.42 * sheet.width_mm)
    code_at(page, row["tag"], left + sheet.width_mm - PAD_MM - side, bottom + (sheet.height_mm - side) / 2, side)
    room = sheet.width_mm - side - 3 * PAD_MM
    middle = bottom + sheet.height_mm / 2
    text_line(page, "Strong", min(sheet.height_mm * 0.5, 16.0), left + PAD_MM, middle + 0.5, row["tag"], room)
    below = middle - sheet.height_mm * 0.2
    text_line(page, "Body", min(sheet.height_mm * 0.3, 9.5), left + PAD_MM, below, row["name"], room)
