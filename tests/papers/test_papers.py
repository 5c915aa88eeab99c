"""The tag and its code, read back from the printed PDF; export in open formats."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path
from typing import Any

import pypdfium2
import pytest
import zxingcpp
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics

from creekbed.papers.export import export_csv, export_json
from creekbed.papers.tag import laid_out, tag_pdf
from creekbed.store.files import write_whole
from creekbed.window.job.release_panel import TagPreview
from creekbed.workshop.arrival.scan import understand
from creekbed.workshop.release import release_check
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand

FACTS: dict[str, Any] = {
    "tag": "MH-0142", "family": "Alto saxophone", "size": "", "ready_at": "2026-11-19T12:00:00+00:00", "person": "IW",
    "boat": "Friday boat", "leaves_at": "2026-11-20T10:15:00+00:00", "next_group": "Lamplighters' band",
    "disinfected_at": "2026-11-19T11:00:00+00:00", "policies": ["Saxophone body: pulls of the swab: at least 2"],
    "new_parts": ["Alto saxophone reed, strength 2", "end plug"], "without": [],
}  # fmt: skip


def read_back(pdf: bytes, scale: float = 4) -> tuple[list[str], str]:
    """The codes that a scanner finds on the page, and its text."""
    document = pypdfium2.PdfDocument(pdf)
    assert len(document) == 1
    page = document[0]
    codes = [c.text for c in zxingcpp.read_barcodes(page.render(scale=scale).to_pil())]
    return codes, page.get_textpage().get_text_range()


@pytest.mark.parametrize("tag", ["MH-0142", "A12", "WXYZ-123456"])
@pytest.mark.parametrize("scale", [2.8, 4.2, 8.3])  # 200, 300 and 600 dots for each inch
def test_the_code_reads_back(tag: str, scale: float) -> None:
    """ISO/IEC 18004, decoded by zxing-cpp from the rendered PDF."""
    codes, words = read_back(tag_pdf({**FACTS, "tag": tag}), scale)
    assert codes == [tag]
    assert tag in words


def test_the_tag_says_what_it_must() -> None:
    _, words = read_back(tag_pdf(FACTS))
    for part in ("Alto saxophone", "Friday boat", "Lamplighters", "disinfected", "at least 2", "New: ", "by IW"):
        assert part in words
    _, words = read_back(tag_pdf({**FACTS, "without": ["neck strap"]}))
    assert "Goes without: neck strap" in words


def test_long_words_do_not_run_off_the_paper() -> None:
    codes, words = read_back(
        tag_pdf({**FACTS, "new_parts": ["a very long name of a part " * 9], "next_group": "W" * 80})
    )
    assert codes == ["MH-0142"] and "…" not in words
    assert words.count("W") - words.count("Wed") >= 80  # wrapped, and none of it lost
    for font, size, y, line in laid_out([(False, "W" * 80), (True, "long words " * 30)], []):
        room = 78 if y < 29.0 - size / 2 else 52
        assert pdfmetrics.stringWidth(line, font, size) <= room * mm and y > 0


def test_the_tag_on_the_screen_is_the_one_that_is_printed(qtbot: Any) -> None:
    """The preview lays out the same lines, in the same places, as the page that a reader of PDF reads back."""
    preview = TagPreview()
    qtbot.addWidget(preview)
    facts = FACTS | {"new_parts": ["Alto saxophone reed, strength 2", "end plug", "neck strap " * 6]}
    preview.set_facts(facts)
    _, words = read_back(tag_pdf(facts))
    shown = [line for *_, line in preview.laid]
    assert len(shown) > 6 and all(line in words for line in shown)
    assert " ".join(shown).count("neck strap") == 6


def test_page_size() -> None:
    page = pypdfium2.PdfDocument(tag_pdf(FACTS))[0]
    assert page.get_size() == pytest.approx((90 / 25.4 * 72, 60 / 25.4 * 72), abs=0.1)


def test_the_same_facts_give_the_same_bytes() -> None:
    assert tag_pdf(FACTS) == tag_pdf(FACTS)


def test_creekbed_reads_its_own_tag(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "pack")
    facts = release_check.make_ready(shop, job)
    codes, _ = read_back(tag_pdf(facts))
    found = understand(shop, codes[0])
    assert (found.kind, found.key, found.job_id) == ("instrument", "MH-0142", job)


def test_papers_are_private_and_whole(tmp_path: Path) -> None:
    path = write_whole(tmp_path / "papers" / "tag.pdf", b"one")
    assert path.stat().st_mode & 0o777 == 0o600
    write_whole(tmp_path / "papers" / "tag.pdf", b"two")
    assert path.read_bytes() == b"two"
    assert [p.name for p in path.parent.iterdir()] == ["tag.pdf"]


def test_export_json_holds_everything(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "look")
    out = io.BytesIO()
    with shop.reading() as records:
        export_json(records.tables(), shop.now, out)
    document = json.loads(out.getvalue())
    assert document["format"] == "creekbed-export-2" and document["exported_at"] == shop.now.isoformat()
    tables = document["tables"]
    assert tables["instrument"][0]["tag"] == "MH-0142"
    assert (
        len(tables["finding"])
        == len([c for look in hand.view(job).looks if look.work for c in hand.view(job).needed_at(look.step)])
        and len(tables["journal"]) > 20
    )
    assert tables["job"][0]["opened_at"].endswith("+00:00")


def test_export_csv_reads_back(shop: Shop, hand: Hand) -> None:
    job = hand.book(came_from="=HYPERLINK()")
    hand.until(job, "contents")
    files: dict[str, bytes] = {}
    with shop.reading() as records:
        export_csv(records.tables(), lambda name, pieces: files.__setitem__(name, b"".join(pieces)))
    rows = list(csv.DictReader(io.StringIO(files["content_line.csv"].decode())))
    assert len(rows) == 11 and {r["state"] for r in rows} == {"present"}
    job_row = next(csv.DictReader(io.StringIO(files["job.csv"].decode())))
    assert job_row["came_from"] == "'=HYPERLINK()"  # a spreadsheet must not take it for a formula
    assert json.loads(job_row["policies"])["sax_body_pulls"] == "two"


def test_nothing_that_must_stand_on_the_tag_is_cut() -> None:
    """What is new, what it goes without, and how it was disinfected stand on it whole, however long they are."""
    at = "2026-11-19T13:10:00+00:00"
    facts = {
        "tag": "MH-0142", "family": "Alto saxophone", "size": "", "ready_at": at, "person": "IW",
        "departure": "Friday boat", "leaves_at": at,
        "next_group": "The lamplighters' wind band of the northern islands", "disinfected_at": at,
        "disinfected_part": "mouthpiece", "played_at": at, "aired_at": at, "policies": [f"Rule {n}" for n in range(9)],
        "disinfections": [
            {"part": "mouthpiece", "agent": "Hydrogen peroxide", "strength_pct": 3.0, "wet_min": 10, "person": "TO"}
        ],
        "new_parts": [f"a part with a long name, number {n}" for n in range(8)],
        "without": ["end plug", "cork grease", "neck strap"], "surplus": ["a green pencil case", "two sweets"],
    }  # fmt: skip
    page = pypdfium2.PdfDocument(tag_pdf(facts))[0].get_textpage().get_text_range()
    said = " ".join(page.split())
    for wanted in (
        "number 7",
        "Goes without: end plug, cork grease, neck strap",
        "10 min Hydrogen peroxide 3 %, by TO",
    ):
        assert wanted in said
    assert "…" not in said and "Rule" not in said  # house rules only where there is room
    short = {**facts, "new_parts": [], "without": [], "surplus": []}
    assert "Rule 0" in pypdfium2.PdfDocument(tag_pdf(short))[0].get_textpage().get_text_range()
