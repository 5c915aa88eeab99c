"""The note to a specialist, read back from its PDF and its text."""

from __future__ import annotations

import pypdfium2
import pytest

from creekbed.core.errors import Refused
from creekbed.core.measure import Reading
from creekbed.demo.devices import bridge_picture
from creekbed.papers.note import note_pdf, note_text
from creekbed.workshop.arrival import photos
from creekbed.workshop.inspection import findings, specialist
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand


@pytest.fixture
def leaning(shop: Shop, hand: Hand, hired: object) -> int:
    hired("MH-0207", "violin", [{"check": "bridge_lean", "value": 1.2, "unit": "degree", "band": "amber", "words": ""}])  # type: ignore[operator]
    job = hand.book("MH-0207", "violin")
    findings.record_reading(shop, job, "bridge_lean", Reading(5.2, 0.4, "degree"))
    findings.record_choice(shop, job, "sound_post", "stands")
    photos.add_photo(shop, job, bridge_picture(), "check:bridge_lean")
    return job


def test_the_note_says_what_was_measured_and_what_not_to_do(shop: Shop, hand: Hand, leaning: int) -> None:
    assert specialist.trades(hand.view(leaning)) == ["luthier"]
    note = specialist.note_for(shop, leaning, "luthier")
    text = note_text(note.facts)
    assert "For the luthier: MH-0207" in text and "Violin 4/4, serial 12345." in text and "Wanted back by Fri" in text
    assert "1. Bridge lean (bridge)" in text and "5.2 ± 0.8° (k = 2) is beyond the limit." in text
    assert "Until then: The luthier sets it. Never straighten it here." in text and "Went out with: 1.2°" in text
    assert "ound post" not in text and "R-041" not in text
    document = pypdfium2.PdfDocument(note_pdf(note.facts, note.photos))
    printed = "".join(p.get_textpage().get_text_range() for p in document).replace("\r\n", " ")
    assert "5.2 ± 0.8°" in printed and "Never straighten it here" in printed
    pictures = [o for p in document for o in p.get_objects() if o.type == pypdfium2.raw.FPDF_PAGEOBJ_IMAGE]
    assert len(pictures) == 1


def test_a_long_note_with_signs_that_markup_would_eat(shop: Shop, leaning: int) -> None:
    note = specialist.note_for(shop, leaning, "luthier")
    row = {**note.facts["findings"][0], "reason": "<b>& 5 < 6 > 4 " + "long words " * 60}
    facts = {**note.facts, "findings": [row] * 12}
    document = pypdfium2.PdfDocument(note_pdf(facts, note.photos * 9))
    assert len(document) > 2 and "<b>& 5 < 6 > 4" in document[0].get_textpage().get_text_range()


def test_nothing_to_tell_is_refused(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0301", "clarinet")
    with pytest.raises(Refused, match="No finding"):
        specialist.note_for(shop, job, "woodwind repairer")
    with pytest.raises(Refused, match="no such job"):
        specialist.note_for(shop, 999, "luthier")
