"""Printing by the system's dialogue: pages at their true size, and what happens where there is no printer."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
from PySide6.QtPrintSupport import QPrintDialog, QPrinter

from creekbed.core.errors import Refused
from creekbed.papers.label_sheet import label_sheets
from creekbed.papers.tag import HEIGHT_MM, WIDTH_MM, tag_pdf
from creekbed.window.shared.printer import paint_pdf, prepare, print_paper
from tests.window.conftest import Driver, rest

MM = 72 / 25.4
FACTS = {"tag": "MH-0142", "family": "Alto saxophone", "ready_at": "2026-11-19T09:00:00+00:00", "person": "IW"}


def to_file(path: Path) -> QPrinter:
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(path))
    return printer


def ink(page: pypdfium2.PdfPage) -> tuple[float, float, float, float]:
    """Left, top, right and bottom of what is printed, mm."""
    dark = np.asarray(page.render(scale=2).to_pil().convert("L")) < 160
    rows, columns = np.flatnonzero(dark.any(1)), np.flatnonzero(dark.any(0))
    return tuple(x / 2 / MM for x in (columns[0], rows[0], columns[-1], rows[-1]))  # type: ignore[return-value]


def test_every_page_is_printed_at_its_true_size(qtbot: object, tmp_path: Path) -> None:
    rows = [{"tag": f"V-{n}", "name": "Violin"} for n in range(30)]
    data = label_sheets(rows, "70x37")
    printer = to_file(tmp_path / "out.pdf")
    prepare(printer, data)
    assert paint_pdf(printer, data) == 2
    made, wanted = pypdfium2.PdfDocument(tmp_path / "out.pdf"), pypdfium2.PdfDocument(data)
    assert len(made) == 2 and made[0].get_size() == pytest.approx(wanted[0].get_size(), abs=1.5)
    for n in range(2):
        assert ink(made[n]) == pytest.approx(ink(wanted[n]), abs=0.6)


def test_a_tag_keeps_its_90_by_60_mm(qtbot: object, tmp_path: Path) -> None:
    data = tag_pdf(FACTS, "Our Own Strings")
    printer = to_file(tmp_path / "out.pdf")
    prepare(printer, data)
    assert paint_pdf(printer, data) == 1
    page = pypdfium2.PdfDocument(tmp_path / "out.pdf")[0]
    left, top, right, bottom = ink(page)
    assert 0 <= left < right <= WIDTH_MM + 0.5 and 0 <= top < bottom <= HEIGHT_MM + 0.5
    assert "Our Own Strings" in pypdfium2.PdfDocument(data)[0].get_textpage().get_text_range()


def test_what_is_no_pdf_is_refused(qtbot: object, tmp_path: Path) -> None:
    with pytest.raises(Refused, match="no PDF"):
        prepare(to_file(tmp_path / "out.pdf"), b"no pdf")


def test_a_saved_paper_offers_to_be_printed(
    drive: Callable[[str], Driver], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    driver = drive("keys")
    asked: list[QPrinter] = []

    def agree(dialog: QPrintDialog) -> int:
        printer = dialog.printer()
        printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
        printer.setOutputFileName(str(tmp_path / "printed.pdf"))
        asked.append(printer)
        return 1

    monkeypatch.setattr(QPrintDialog, "exec", agree)
    driver.frame.nav.open_instruments()
    work = driver.frame.page("instruments").drawing
    driver.frame.papers.save_labels([{"tag": "V-1", "name": "Violin"}], "70x37", work)
    driver.qtbot.waitUntil(lambda: not work.busy)
    rest(driver.frame)
    assert driver.frame.notice.act_button.isVisible() and "1 labels: " in driver.frame.words.text()
    driver.press("notice_act")
    assert len(asked) == 1 and "1 page went to" in driver.frame.words.text()
    assert len(pypdfium2.PdfDocument(tmp_path / "printed.pdf")) == 1
    assert not driver.frame.notice.act_button.isVisible()
    monkeypatch.setattr(QPrintDialog, "exec", lambda dialog: 0)  # it is left: nothing is said, nothing is printed
    assert not print_paper(driver.frame, tmp_path / "printed.pdf")


def test_a_paper_that_is_gone_is_said(drive: Callable[[str], Driver], tmp_path: Path) -> None:
    driver = drive("mouse")
    assert not print_paper(driver.frame, tmp_path / "none.pdf")
    assert "It was not printed" in driver.frame.words.text() and driver.frame.notice.warns
