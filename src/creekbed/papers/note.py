"""The note to a specialist: what was found and measured, where, and what not to do meanwhile; text and PDF."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from io import BytesIO
from pathlib import Path
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A5
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import Flowable, Image, KeepTogether, Paragraph, SimpleDocTemplate, Spacer

from creekbed.core.conventions import clock

_FONTS = Path(__file__).parent.parent / "assets" / "fonts"
MOST_PHOTOS = 6
PHOTO_MM = 60.0


def note_text(facts: Mapping[str, Any]) -> str:
    """The note as plain text.

    Args:
        facts: ``tag``, ``family``, ``size``, ``serial``, ``to``, ``written_at`` (ISO 8601), ``person``, ``wanted_by``,
            ``findings``: rows of ``name``, ``where``, ``reason``, ``until_then``, ``before``.
    """
    lines = [*_head(facts), _title(facts), _instrument(facts), ""]
    for n, row in enumerate(facts["findings"], 1):
        lines.append(f"{n}. {row['name']} ({row['where']})" if row["where"] else f"{n}. {row['name']}")
        lines.append(f"   {row['reason']}")
        if row["before"]:
            lines.append(f"   {row['before']}")
        if row["until_then"]:
            lines.append(f"   Until then: {row['until_then']}")
    return "\n".join([*lines, "", _foot(facts)]) + "\n"


def note_pdf(facts: Mapping[str, Any], photos: Sequence[bytes] = ()) -> bytes:
    """The note as PDF, A5.

    Args:
        facts: as :func:`note_text`. photos: JPEGs; at most six are printed.
    """
    for name, file in (("Body", "Regular"), ("Strong", "Bold")):
        if name not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(name, str(_FONTS / f"AtkinsonHyperlegibleNext-{file}.ttf")))
    body = ParagraphStyle("body", fontName="Body", fontSize=9.5, leading=12.5)
    strong = ParagraphStyle("strong", fontName="Strong", fontSize=10.5, leading=13.5, spaceBefore=6)
    title = ParagraphStyle("title", fontName="Strong", fontSize=15, leading=19)
    flow: list[Flowable] = [
        Paragraph(escape(words), strong if n == 0 else body) for n, words in enumerate(_head(facts))
    ]
    flow += [Paragraph(escape(_title(facts)), title), Paragraph(escape(_instrument(facts)), body)]
    for n, row in enumerate(facts["findings"], 1):
        where = f" ({row['where']})" if row["where"] else ""
        block: list[Flowable] = [
            Paragraph(escape(f"{n}. {row['name']}{where}"), strong), Paragraph(escape(row["reason"]), body)
        ]  # fmt: skip
        if row["before"]:
            block.append(Paragraph(escape(row["before"]), body))
        if row["until_then"]:
            block.append(Paragraph(escape(f"Until then: {row['until_then']}"), body))
        flow.append(KeepTogether(block))
    for jpeg in photos[:MOST_PHOTOS]:
        flow += [Spacer(1, 3 * mm), _picture(jpeg)]
    flow += [Spacer(1, 4 * mm), Paragraph(escape(_foot(facts)), body)]
    out = BytesIO()
    page = SimpleDocTemplate(
        out, pagesize=A5, title=_title(facts), author="Creekbed", invariant=1,
        leftMargin=14 * mm, rightMargin=14 * mm, topMargin=12 * mm, bottomMargin=12 * mm,
    )  # fmt: skip
    page.build(flow)
    return out.getvalue()


def _picture(jpeg: bytes) -> Image:
    picture = Image(BytesIO(jpeg))
    scale = min(PHOTO_MM * mm / picture.imageHeight, 118 * mm / picture.imageWidth)
    picture.drawWidth, picture.drawHeight = picture.imageWidth * scale, picture.imageHeight * scale
    picture.hAlign = "LEFT"
    return picture


def _head(facts: Mapping[str, Any]) -> list[str]:
    """The shop's name and address, as far as it has said them."""
    return [line for line in (facts.get("shop", ""), *facts.get("address", ())) if line]


def _title(facts: Mapping[str, Any]) -> str:
    return f"For the {facts['to']}: {facts['tag']}"


def _instrument(facts: Mapping[str, Any]) -> str:
    name = f"{facts['family']} {facts['size'] or ''}".strip()
    serial = f", serial {facts['serial']}" if facts["serial"] else ""
    wanted = f" Wanted back by {_when(facts['wanted_by'])}." if facts["wanted_by"] else ""
    return f"{name}{serial}.{wanted}"


def _foot(facts: Mapping[str, Any]) -> str:
    return (
        f"Found and measured {_when(facts['written_at'])} by {facts['person']}. Nothing of this was tried to mend here."
    )


def _when(text: str) -> str:
    return clock(datetime.fromisoformat(text), "%a %d %b %Y, ")
