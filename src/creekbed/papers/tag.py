"""The ready tag as PDF, 90 × 60 mm, with a QR code of the tag's text (ISO/IEC 18004) that any scanner reads."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from io import BytesIO
from itertools import groupby
from pathlib import Path
from typing import Any

import segno
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from creekbed.core.conventions import clock, number

WIDTH_MM, HEIGHT_MM = 90.0, 60.0
QUIET_MODULES = 4  # ISO/IEC 18004: quiet zone of a QR code
CODE_MM = 27.0
_FONTS = Path(__file__).parent.parent / "assets" / "fonts"


def tag_pdf(facts: Mapping[str, Any], head: str = "") -> bytes:
    """A ready tag as PDF.

    Args:
        facts: what :func:`creekbed.workshop.release.release_check.make_ready` returned. head: the name of the shop,
            which stands under the code.

    Returns:
        The bytes of a one-page PDF.
    """
    out = BytesIO()
    page = small_sheet(out, f"Ready tag {facts['tag']}")
    text_line(page, "Strong", 22, 6, 48, str(facts["tag"]), 52)
    name = f"{facts['family']} {facts.get('size') or ''}".strip()
    text_line(page, "Body", 11, 6, 42.5, name, 52)
    page.setLineWidth(0.6)
    page.line(6 * mm, 40 * mm, 58 * mm, 40 * mm)
    for font, size, y, line in laid_out(tag_lines(facts), house_rules(facts)):
        page.setFont(font, size)
        page.drawString(6 * mm, y * mm, line)
    code(page, str(facts["tag"]))
    text_line(page, "Body", 7, WIDTH_MM - CODE_MM - 1, HEIGHT_MM - CODE_MM - 5, head, CODE_MM - 2)
    page.showPage()
    page.save()
    return out.getvalue()


NAMED_BEFORE = "boat"
"""Key under which older tags have the name of their departure."""
TYPE_SIZES = (8.5, 8.0, 7.5, 7.0, 6.5, 6.0, 5.5, 5.0)
"""Sizes of the tag's type, points: the largest at which everything that must stand on it does."""
TOP_MM, BOTTOM_MM, LEADING = 35.5, 3.0, 0.5
BESIDE_CODE_MM, BELOW_CODE_MM, CODE_ENDS_MM = 52.0, 78.0, 29.0

Laid = list[tuple[str, float, float, str]]
"""Lines as they stand: font, size in points, height in mm, words."""


def laid_out(lines: Sequence[tuple[bool, str]], more: Sequence[str]) -> Laid:
    """All of the lines, wrapped, and smaller where there is too much for the tag; nothing of them is cut.

    Args:
        lines: what must stand on it: (bold, words). more: what follows where there is room, each whole or not at all.
    """
    for size in TYPE_SIZES:
        found, y = _lay(lines, size, TOP_MM)
        if y >= BOTTOM_MM - size * LEADING or size == TYPE_SIZES[-1]:
            break
    for line in more if size == TYPE_SIZES[0] else ():
        also, below = _lay([(False, line)], size, y)
        if below < BOTTOM_MM - size * LEADING:
            break
        found, y = found + also, below
    return found


def _lay(lines: Sequence[tuple[bool, str]], size: float, y: float) -> tuple[Laid, float]:
    """Lines of a size from a height downward, each as wide as there is room; and the height below them."""
    found: Laid = []
    for bold, words in lines:
        font, left = "Strong" if bold else "Body", words
        while left:
            wide = (BELOW_CODE_MM if y < CODE_ENDS_MM - size * LEADING else BESIDE_CODE_MM) * mm
            here, left = _fitting(left, font, size, wide)
            found.append((font, size, y, here))
            y -= size * LEADING
    return found, y


def _fitting(text: str, font: str, size: float, wide: float) -> tuple[str, str]:
    """As much of a text as fits a width, and the rest; broken between words where that can be."""
    fits = next((n for n in range(len(text), 1, -1) if pdfmetrics.stringWidth(text[:n], font, size) <= wide), 1)
    if fits == len(text):
        return text, ""
    at = text.rfind(" ", 0, fits + 1)
    at = at if at > 0 else fits
    return text[:at].rstrip(), text[at:].lstrip()


def house_rules(facts: Mapping[str, Any]) -> list[str]:
    """The house rules that were followed; the job's page has them all."""
    return [str(policy) for policy in facts.get("policies", facts.get("schools", ()))]  # as older tags have it


def tag_lines(facts: Mapping[str, Any]) -> list[tuple[bool, str]]:
    """What must stand below the name, the most important first: (bold, words)."""
    lines = [(True, f"Ready {_when(facts['ready_at'])}, by {facts['person']}")]
    if facts.get("disinfected_at"):
        part = str(facts.get("disinfected_part") or "mouthpiece").capitalize()
        with_what = next((r for r in facts.get("disinfections", ()) if r["part"].lower() == part.lower()), None)
        agent = ""
        if with_what is not None:
            strength = f" {with_what['strength_pct']:.3g} %" if with_what["strength_pct"] else ""
            who = f", by {with_what['person']}" if with_what.get("person") else ""
            agent = f", {number(with_what['wet_min'], 0)} min {with_what['agent']}{strength}{who}"
        lines.append((False, f"{part} disinfected {_when(facts['disinfected_at'])}{agent}"))
    if facts.get("new_parts"):
        lines.append((False, "New: " + ", ".join(facts["new_parts"])))
    if facts.get("without"):
        lines.append((True, "Goes without: " + ", ".join(facts["without"])))
    if departure := facts.get("departure", facts.get(NAMED_BEFORE)):
        lines.append((False, f"For: {departure}, {_when(facts['leaves_at'])}"))
    if facts.get("next_group"):
        lines.append((False, f"To: {facts['next_group']}"))
    if facts.get("played_at"):
        after = "swabbed, aired" if facts.get("aired_at") else "wiped" if facts.get("wiped_at") else ""
        lines.append((False, f"Played {_when(facts['played_at'])}" + (f", then {after}" if after else "")))
    if facts.get("surplus"):
        lines.append((False, "In a bag, to hand back: " + ", ".join(facts["surplus"])))
    return lines


def _when(text: str) -> str:
    return clock(datetime.fromisoformat(text), "%a %d %b ")


def need_fonts() -> None:
    """Make the fonts "Body" and "Strong" known."""
    for name, file in (("Body", "Regular"), ("Strong", "Bold")):
        if name not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(name, str(_FONTS / f"AtkinsonHyperlegibleNext-{file}.ttf")))


def small_sheet(out: BytesIO, title: str) -> Canvas:
    """A sheet of the tag's size with the fonts "Body" and "Strong"."""
    need_fonts()
    page = Canvas(out, pagesize=(WIDTH_MM * mm, HEIGHT_MM * mm), invariant=1)
    page.setTitle(title)
    page.setAuthor("Creekbed")
    return page


def text_line(page: Canvas, font: str, size: float, x_mm: float, y_mm: float, text: str, width_mm: float) -> None:
    """One line of text, cut to a width; size in points."""
    while pdfmetrics.stringWidth(text, font, size) > width_mm * mm and len(text) > 4:
        text = text[:-2].rstrip(" ,…") + "…"
    page.setFont(font, size)
    page.drawString(x_mm * mm, y_mm * mm, text)


def code(page: Canvas, text: str) -> None:
    """The QR code of a text in the upper right corner."""
    code_at(page, text, WIDTH_MM - CODE_MM - 2, HEIGHT_MM - 2 - CODE_MM, CODE_MM)


def code_at(page: Canvas, text: str, left: float, bottom: float, size: float) -> None:
    """The QR code of a text with its quiet zone, from a lower left corner, mm."""
    matrix = segno.make(text, error="q", micro=False).matrix
    modules = len(matrix)
    step = size / (modules + 2 * QUIET_MODULES)
    top = bottom + size
    drawn = page.beginPath()
    for n, line in enumerate(matrix):
        at, y = 0, (top - (n + QUIET_MODULES + 1) * step) * mm
        for dark, run in groupby(line):  # one rectangle for each run of dark modules
            count = len(list(run))
            if dark:
                drawn.rect((left + (at + QUIET_MODULES) * step) * mm, y, count * step * mm, 1.01 * step * mm)
            at += count
    page.drawPath(drawn, stroke=0, fill=1)
