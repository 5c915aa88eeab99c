"""The sheet that goes out with a hire, to be signed: what went out, and in what condition (PDF, A4 or Letter)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, datetime
from io import BytesIO
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib import colors
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table

from creekbed.core.conventions import millimetres
from creekbed.core.units import show
from creekbed.papers.tag import need_fonts

SIZES = {"A4": A4, "Letter": LETTER}


def hire_pdf(sheets: Sequence[Mapping[str, Any]], paper: str = "A4") -> bytes:
    """One page for each hire.

    Args:
        sheets: as :func:`creekbed.workshop.fleet.hiring.hire_facts` gives them. paper: "A4" or "Letter".
    """
    need_fonts()
    flow: list[Flowable] = []
    for n, facts in enumerate(sheets):
        flow += [PageBreak()] if n else []
        flow += _sheet(facts)
    out = BytesIO()
    title = f"Hire of {sheets[0]['tag']}" if len(sheets) == 1 else f"{len(sheets)} hires"
    page = SimpleDocTemplate(
        out, pagesize=SIZES[paper], title=title, author="Creekbed", invariant=1,
        leftMargin=20 * mm, rightMargin=20 * mm, topMargin=18 * mm, bottomMargin=16 * mm,
    )  # fmt: skip
    page.build(flow)
    return out.getvalue()


def _styles() -> tuple[ParagraphStyle, ParagraphStyle, ParagraphStyle]:
    return (
        ParagraphStyle("title", fontName="Strong", fontSize=20, leading=25),
        ParagraphStyle("head", fontName="Strong", fontSize=11.5, leading=15, spaceBefore=8),
        ParagraphStyle("body", fontName="Body", fontSize=10.5, leading=14),
    )


def _sheet(facts: Mapping[str, Any]) -> list[Flowable]:
    title, head, body = _styles()

    def words(text: str, style: ParagraphStyle = body) -> Paragraph:
        return Paragraph(escape(text), style)

    out = datetime.fromisoformat(facts["out_at"]).astimezone()
    name = f"{facts['family']} {facts['size'] or ''}".strip()
    serial = f", serial {facts['serial']}" if facts["serial"] else ""
    group = f", {facts['group']}" if facts["group"] and facts["group"] != facts["renter"] else ""
    due = f", back by {date.fromisoformat(facts['due_on']):%d %B %Y}" if facts["due_on"] else ""
    flow: list[Flowable] = []
    if facts.get("shop"):
        flow += [
            words(str(facts["shop"]), head),
            *(words(line) for line in facts.get("address", ())),
            Spacer(1, 8 * mm),
        ]
    flow += [
        words(str(facts["tag"]), title), words(f"{name}{serial}"),
        words(f"Out with {facts['renter']}{group} on {out:%d %B %Y}{due}."),
        words("In the case", head), words(", ".join(facts["contents"]) or "Nothing was counted."),
        words("Condition as it goes out", head),
    ]  # fmt: skip
    rows = [(r["name"], _value(r)) for r in facts["condition"]]
    rows += [(f"Mark: {m['zone']}", f"{m['kind']}{_size(m)}") for m in facts["marks"]]
    flow.append(_rows(rows, body) if rows else words("Nothing was measured."))
    flow += [
        Spacer(1, 12 * mm),
        _rows([("Handed out by", str(facts["person"]))], body), Spacer(1, 6 * mm),
        _rows([("Received, as above", "")], body),
    ]  # fmt: skip
    return flow


def _value(row: Mapping[str, Any]) -> str:
    if row["value"] is None:
        return str(row["words"])
    return show(row["value"], row["unit"])


def _size(mark: Mapping[str, Any]) -> str:
    return f", {millimetres(mark['size_mm'])}" if mark.get("size_mm") else ""


def _rows(rows: Sequence[tuple[str, str]], body: ParagraphStyle) -> Table:
    cells = [[Paragraph(escape(a), body), Paragraph(escape(b), body)] for a, b in rows]
    lines: list[Any] = [("LINEBELOW", (0, 0), (-1, -1), 0.3, colors.grey), ("VALIGN", (0, 0), (-1, -1), "TOP")]
    return Table(cells, colWidths=[70 * mm, 100 * mm], style=lines)
