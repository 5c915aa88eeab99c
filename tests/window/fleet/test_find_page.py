"""The page Find: by keyboard alone, and where each thing found leads."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from PySide6.QtCore import Qt

from creekbed.window.frame.frame import PAGES as WINDOW
from creekbed.workshop.fleet.finding import PAGES, Found
from tests.conftest import Hand
from tests.window.conftest import Driver, rest


def found(driver: Driver) -> None:
    """Wait until what was typed last was looked for."""
    driver.qtbot.waitUntil(lambda: not driver.frame.page("find").looking.busy)
    rest(driver.frame)


def test_from_a_few_letters_to_the_job(drive: Callable[[str], Driver], hand: Hand) -> None:
    job = hand.book("MH-0142")
    driver = drive("keys")
    driver.press("way_find")
    page = driver.frame.page("find")
    found(driver)
    assert driver.frame.here == "find" and page.search.hasFocus() and "Type a few letters" in page.told.text()
    driver.type("find_all", "0142", enter=True)
    driver.qtbot.waitUntil(lambda: driver.frame.here == "job")
    rest(driver.frame)
    assert driver.frame.here == "job" and driver.frame.page("job").job_id == job


def test_arrows_choose_another_line(drive: Callable[[str], Driver]) -> None:
    driver = drive("keys")
    driver.press("way_find")
    page = driver.frame.page("find")
    driver.type("find_all", "swab")
    found(driver)
    assert len(page.found) > 2
    driver.key(Qt.Key.Key_Down)
    driver.key(Qt.Key.Key_Down)
    driver.key(Qt.Key.Key_Up)
    assert page.list.currentRow() == 1 and page.search.hasFocus()
    chosen = page.found[1]
    driver.key(Qt.Key.Key_Return)
    rest(driver.frame)
    assert driver.frame.here == {"supply": "stock", "rule": "house", "step": "book", "reference": "book"}[chosen.kind]


def test_nothing_found_says_so(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.press("way_find")
    driver.type("find_all", "xyzzy", enter=True)
    found(driver)
    page = driver.frame.page("find")
    assert driver.frame.here == "find" and "Nothing here" in page.told.text() and not page.go_button.isEnabled()


@pytest.mark.parametrize(
    ("found", "here"),
    [
        (Found("instrument", "MH-0142", "", ""), "history"), (Found("group", "Harbour winds", "", ""), "instruments"),
        (Found("family", "violin", "", ""), "book"), (Found("supply", "pad_paper", "", ""), "stock"),
        (Found("rule", "sax_body_pulls", "", ""), "house"), (Found("step", "", "", "", "violin", "job"), "book"),
        *[(Found("page", key, "", ""), key if key in WINDOW else "house") for key in PAGES],
    ],
)  # fmt: skip
def test_each_thing_found_leads_to_its_page(
    drive: Callable[[str], Driver], hand: Hand, found: Found, here: str
) -> None:
    hand.book("MH-0142")
    driver = drive("mouse")
    driver.frame.nav.follow(found)
    rest(driver.frame)
    assert driver.frame.here == here
    if found.kind == "page" and found.key.startswith("this_"):
        assert driver.frame.page("house").key == found.key


def test_a_person_that_was_found_sits_down(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.frame.nav.follow(Found("person", "AB", "AB", ""))
    assert driver.frame.shop.person == "AB"
