"""What the shop is called, and the head of its papers."""

from __future__ import annotations

import pypdfium2
import pytest

from creekbed.core.errors import BadInput
from creekbed.papers.hire_sheet import hire_pdf
from creekbed.store.records import Setting
from creekbed.workshop.arrival import intake
from creekbed.workshop.fleet.hiring import HireTerms, hire_facts, hire_out
from creekbed.workshop.release import release_check
from creekbed.workshop.shop.identity import KEY, Identity, identity, set_identity
from creekbed.workshop.shop.set_up import set_up
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand

SAID = Identity("Our Own Strings & Winds", ("3 Mill Lane", "Anytown"), "Letter")


def test_it_stands_on_the_sheet_of_a_hire(shop: Shop, hand: Hand) -> None:
    assert identity(shop) == Identity() and set_up(shop).lacks("identity")
    set_identity(shop, SAID)
    assert identity(shop) == SAID and not set_up(shop).lacks("identity")
    job = hand.book()
    intake.tick_rest(shop, job)
    hand.until(job, "pack")
    release_check.make_ready(shop, job)
    (number,) = hire_out(shop, ["MH-0142"], HireTerms("K-17"))
    page = pypdfium2.PdfDocument(hire_pdf([hire_facts(shop, number)], identity(shop).paper))[0]
    words = page.get_textpage().get_text_range()
    assert "Our Own Strings & Winds" in words and "3 Mill Lane" in words
    assert page.get_size() == pytest.approx((612, 792), abs=1)  # US Letter, ANSI/ASME Y14.1: 8.5 in × 11 in


def test_it_can_be_taken_back_and_changed(shop: Shop) -> None:
    set_identity(shop, SAID)
    set_identity(shop, Identity("Other", (), "A4"))
    shop.undo()
    assert identity(shop) == SAID


@pytest.mark.parametrize(
    "wrong",
    [Identity("x" * 61), Identity("x", ("y" * 61,)), Identity("x", ("a",) * 6), Identity("x", (), "B5")],  # type: ignore[arg-type]
)
def test_what_cannot_stand_on_paper(shop: Shop, wrong: Identity) -> None:
    with pytest.raises(BadInput):
        set_identity(shop, wrong)
    assert identity(shop) == Identity()


@pytest.mark.parametrize("spoilt", [7, "x", {"name": 3, "address": 5, "paper": "B5"}, [], None])
def test_a_spoilt_setting_stops_nothing(shop: Shop, spoilt: object) -> None:
    with shop.act("test") as act:
        act.records.put(Setting(key=KEY, value={"v": spoilt}))
    found = identity(shop)
    assert isinstance(found.name, str) and found.paper == "A4" and found.address == ()
