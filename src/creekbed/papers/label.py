"""The label of a mix as PDF: what, how strong, made when and by whom, when to discard, what to mind; with its code."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from io import BytesIO
from typing import Any

from reportlab.lib.units import mm
from reportlab.lib.utils import simpleSplit

from creekbed.core.conventions import clock
from creekbed.papers.tag import code, small_sheet, text_line

CAUTION_LINES = 4


def label_pdf(facts: Mapping[str, Any]) -> bytes:
    """A label for a bottle.

    Args:
        facts: as :func:`creekbed.workshop.supplies.stock.label_facts` gives them.

    Returns:
        The bytes of a one-page PDF, as large as a ready tag.
    """
    out = BytesIO()
    page = small_sheet(out, f"{facts['what']} {facts['strength']}")
    text_line(page, "Strong", 17, 6, 50, str(facts["what"]), 54)
    text_line(page, "Strong", 20, 6, 41.5, str(facts["strength"]), 54)
    text_line(page, "Body", 10, 6, 36, f"{facts['amount']}, {facts['lot']}", 54)
    text_line(page, "Body", 10, 6, 31, f"Made {_when(facts['made_at'])} by {facts['person']}", 54)
    if facts.get("discard_at"):
        text_line(page, "Strong", 11.5, 6, 25.5, f"Discard {_when(facts['discard_at'])}", 78)
    text_line(page, "Strong", 9.5, 6, 20.5, "Not for drinking. Keep from children.", 78)
    y = 16.0
    for line in simpleSplit(str(facts["caution"]), "Body", 7.5, 78 * mm)[:CAUTION_LINES]:
        text_line(page, "Body", 7.5, 6, y, line, 78)
        y -= 3.4
    code(page, str(facts["code"]))
    page.showPage()
    page.save()
    return out.getvalue()


def tray_pdf(tray: str, tag: str, name: str) -> bytes:
    """A label for the tray that holds the small parts of one instrument.

    Returns:
        The bytes of a one-page PDF, as large as a ready tag.
    """
    out = BytesIO()
    page = small_sheet(out, f"Tray {tray} {tag}")
    text_line(page, "Strong", 64, 6, 32, tray, 50)
    text_line(page, "Strong", 20, 6, 21, tag, 78)
    text_line(page, "Body", 12, 6, 15, name, 78)
    text_line(page, "Body", 9.5, 6, 8, "Small parts of this one only. Valves in their order.", 78)
    code(page, tag)
    page.showPage()
    page.save()
    return out.getvalue()


def _when(text: str) -> str:
    return clock(datetime.fromisoformat(text), "%a %d %b %Y, ")
