"""The ready tag as PDF, 90 × 60 mm, with a QR code of the tag's text (ISO/IEC 18004) that any scanner reads."""

from __future__ import annotations

from collections.abc import Mapping
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
    y = 35.5
    for bold, line in tag_lines(facts):
        text_line(page, "Strong" if bold else "Body", 8.5, 6, y, line, 78 if y < 24 else 52)
        y -= 4.3
        if y < 3:
            break
    code(page, str(facts["tag"]))
    text_line(page, "Body", 7, WIDTH_MM - CODE_MM - 1, HEIGHT_MM - CODE_MM - 5, head, CODE_MM - 2)
    page.showPage()
    page.save()
    return out.getvalue()


NAMED_BEFORE = "boat"
"""Key under which older tags have the name of their departure."""
POLICIES = 3
"""House rules that a tag has room for; the job's page has them all."""


def tag_lines(facts: Mapping[str, Any]) -> list[tuple[bool, str]]:
    """The lines below the name: (bold, words)."""
    lines = [(True, f"Ready {_when(facts['ready_at'])}, by {facts['person']}")]
    if departure := facts.get("departure", facts.get(NAMED_BEFORE)):
        lines.append((False, f"For: {departure}, {_when(facts['leaves_at'])}"))
    if facts.get("next_group"):
        lines.append((False, f"To: {facts['next_group']}"))
    if facts.get("disinfected_at"):
        part = str(facts.get("disinfected_part") or "mouthpiece").capitalize()
        with_what = next((r for r in facts.get("disinfections", ()) if r["part"].lower() == part.lower()), None)
        agent = ""
        if with_what is not None:
            strength = f" {with_what['strength_pct']:.3g} %" if with_what["strength_pct"] else ""
            agent = f", {number(with_what['wet_min'], 0)} min {with_what['agent']}{strength}"
        lines.append((False, f"{part} disinfected {_when(facts['disinfected_at'])}{agent}"))
    if facts.get("played_at"):
        after = "swabbed, aired" if facts.get("aired_at") else "wiped" if facts.get("wiped_at") else ""
        lines.append((False, f"Played {_when(facts['played_at'])}" + (f", then {after}" if after else "")))
    policies = [str(policy) for policy in facts.get("policies", facts.get("schools", ()))]  # as older tags have it
    lines += [(False, policy) for policy in policies[:POLICIES]]
    if len(policies) > POLICIES:
        lines.append((False, f"and {len(policies) - POLICIES} more house rules, on the job's page"))
    if facts.get("new_parts"):
        lines.append((False, "New: " + ", ".join(facts["new_parts"])))
    if facts.get("without"):
        lines.append((True, "Goes without: " + ", ".join(facts["without"])))
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
