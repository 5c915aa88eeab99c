"""The page of strings: what is on the shelf, what suits, what to ask for."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from creekbed.core.catalogue.load import shipped
from creekbed.core.measure import Reading
from creekbed.workshop.inspection import findings
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.conftest import Hand
from tests.window.conftest import Driver, rest, rest_of_all


@pytest.fixture
def driver(drive: Callable[[str], Driver]) -> Driver:
    found = drive("mouse")
    found.press("way_mix")
    found.press("tool_strings")
    return found


def test_full_size_suits_and_a_quarter_does_not(driver: Driver, shop: Shop) -> None:
    page = driver.frame.page("strings")
    assert [f.string.key for f in (page._fit(w.key) for w in page.wanted)] == [
        "string_violin_e", "string_violin_a", "string_violin_d", "string_violin_g"
    ]  # fmt: skip
    assert "as wanted: suits" in page.said["A"].text() and page.order.text() == ""
    page.of_size.setCurrentIndex(page.of_size.findData("1/4"))
    rest(driver.frame)
    assert "too slack" in page.said["D"].text() and "D string: Ask for one stated 62 N" in page.order.text()
    assert "D 21 % less than wanted" in page.picture.accessibleName().replace("D string", "D")
    assert not page.picture.grab().isNull()


def test_another_string_and_an_angle(driver: Driver) -> None:
    page = driver.frame.page("strings")
    box = page.boxes["A"]
    box.setCurrentIndex(box.findData("string_viola_a"))
    assert "than wanted" in page.said["A"].text()
    page.fields.fields["strings_angle"].setText("158°")
    assert "on the bridge" in page.together.text()
    page.fields.fields["strings_angle"].setText("20°")
    assert "angle over a bridge" in page.together.text()
    page.fields.fields["strings_angle"].setText("steep")
    assert page.mind.text()


def test_the_angle_that_was_measured_is_reckoned_with(driver: Driver, hand: Hand, shop: Shop) -> None:
    """From the step that puts a string on: the instrument, its size, and the angle over its bridge."""
    job = hand.book("MH-0300", "violin")
    hand.until(job, "apart")
    findings.record_reading(shop, job, "string_angle", Reading(156.4, 0.4, "degree", "from a photograph"))
    hand.until(job, "look", strings={"A": "worn"})
    step = next(s for s in hand.view(job).steps if s.step.base == "string_on")
    driver.frame.refresh()
    driver.frame.nav.open_tool_for(job, step.step.key)
    page = driver.frame.page("strings")
    assert driver.frame.here == "strings" and page.family.currentData() == "violin"
    assert page.fields.fields["strings_angle"].text() == "156.4°" and "on the bridge" in page.together.text()


def test_how_long_such_strings_last(driver: Driver, hand: Hand, shop: Shop) -> None:
    """The house's number once for all; where a string was put on here, its age stands with it."""
    page = driver.frame.page("strings")
    rest_of_all(driver.frame)
    assert page.lasts.text().startswith("A string lasts about 9 months") and "Lasts" not in page.said["A"].text()
    job = hand.book("MH-0300", "violin")
    hand.until(job, "string_on.A", strings={"A": "worn"})
    driver.frame.refresh()
    page.start_for(hand.view(job))
    rest_of_all(driver.frame)
    assert "On since" in page.said["A"].text() and "On since" not in page.said["D"].text()


def test_how_many_there_are(driver: Driver, shop: Shop) -> None:
    stock.count_stock(shop, "string_violin_a", 7, "counted")
    page = driver.frame.page("strings")
    page.shown = ("", "")
    page.refresh()
    assert any("(7 there)" in page.boxes["A"].itemText(n) for n in range(page.boxes["A"].count()))


def test_every_family_and_size_can_be_shown(driver: Driver) -> None:
    page = driver.frame.page("strings")
    for family in (f for f in shipped().families.values() if f.stringed is not None):
        page.family.setCurrentIndex(page.family.findData(family.key))
        for n in range(page.of_size.count()):
            page.of_size.setCurrentIndex(n)
            assert len(page.boxes) == len(family.stringed.strings)
            assert not page.picture.grab().isNull()
