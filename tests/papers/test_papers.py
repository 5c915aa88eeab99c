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

from creekbed.papers.export import export_csv, export_json
from creekbed.papers.tag import tag_pdf
from creekbed.store.files import write_whole
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
    assert codes == ["MH-0142"] and "…" in words


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
