"""Counting the shelf in the real window: by keyboard alone, by scan, in one action; and nothing stops for a count."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QLineEdit

from creekbed.core.errors import BadInput, Refused
from creekbed.store.records import Instrument
from creekbed.window.frame.frame import Frame
from creekbed.window.supplies.count_page import COUNTED
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from creekbed.workshop.supplies.needed import needed
from tests.conftest import Hand
from tests.window.conftest import Driver, answer, opened, rest


@pytest.fixture
def new(tmp_path: Path, clock: HandClock) -> Iterator[Shop]:
    """A shop in which nothing was ever counted."""
    found = Shop(tmp_path / "new", clock)
    yield found
    found.close()


def amounts(shop: Shop) -> dict[str, float]:
    return {v.supply.key: v.amount for v in stock.stock_list(shop) if v.counted}


def test_nothing_is_short_before_it_was_counted(new: Shop) -> None:
    views = stock.stock_list(new)
    assert len(views) > 80 and not any(v.short or v.counted for v in views)
    stock.count_stock(new, "pad_paper", 1.0, "the drawer")
    assert [v.supply.key for v in stock.stock_list(new) if v.short] == ["pad_paper"]
    stock.count_stock(new, "pad_paper", 0.0, "the drawer")
    assert [v.supply.key for v in stock.stock_list(new) if v.short] == ["pad_paper"], "none left is short"


def test_a_whole_count_is_one_action(new: Shop) -> None:
    assert stock.count_many(new, {"pad_paper": 40, "cork_grease_ml": 12.5, "soap_ml": 0}) == 3
    assert amounts(new) == {"pad_paper": 40.0, "cork_grease_ml": 12.5, "soap_ml": 0.0}
    stock.count_many(new, {"pad_paper": 38})
    new.undo()
    assert amounts(new)["pad_paper"] == 40.0
    new.undo()
    assert amounts(new) == {}
    for wrong in ({}, {"pad_paper": -1}, {"pad_paper": 1e6}, {"kazoo": 3}):
        with pytest.raises(BadInput):
            stock.count_many(new, wrong)
    for bottle in ("peroxide_6_ml", "peroxide_3_ml"):  # its strength is not known, or it is made here
        if bottle in new.catalogue.supplies:
            with pytest.raises(Refused):
                stock.count_many(new, {"pad_paper": 3, bottle: 500})
    assert amounts(new) == {}, "all or nothing"


def test_what_the_fleet_uses_comes_first(new: Shop) -> None:
    assert needed(new) == set(new.catalogue.supplies)
    with new.act("test") as act:
        act.records.add(Instrument(tag="V-1", family="violin", size="4/4", created_at=new.now))
    found = needed(new)
    assert "pad_paper" not in found and 0 < len(found) < len(new.catalogue.supplies) / 2


def test_work_goes_on_where_nothing_was_counted(new: Shop, clock: HandClock) -> None:
    """A violin from the door to its tag in a shop that has counted nothing: no count stops it."""
    from creekbed.workshop.arrival import intake
    from creekbed.workshop.release.release_check import make_ready

    hand = Hand(new, clock)
    job = hand.book("V-1", "violin")
    intake.tick_rest(new, job)
    hand.until(job, "pack")
    assert make_ready(new, job)["tag"] == "V-1"
    assert amounts(new) == {}


def test_by_keyboard_alone(qtbot: Any, new: Shop, clock: HandClock) -> None:
    frame = opened(qtbot, Frame(lambda: new))
    driver = Driver(qtbot, frame, clock, "keys")
    driver.press("first_stock")
    page = frame.page("count")
    rest(frame)
    assert page.table.hasFocus() and not page.keep.isEnabled()
    first, second = (page.model.rows[n].supply.key for n in (0, 1))
    for number in ("12", "3,5"):
        for letter in number:  # at a person's pace: the first one opens the field
            driver.letters(letter)
            driver.settle()
            rest(frame)
        editor = page.table.findChild(QLineEdit)
        assert editor is not None and editor.text() == number
        driver.key(Qt.Key.Key_Return)
        rest(frame)
        driver.key(Qt.Key.Key_Down)
    assert page.model.counted == {first: 12.0, second: 3.5} and amounts(new) == {}
    assert page.keep.text().startswith("Keep 2 counts")
    driver.press("keep_count")
    assert amounts(new) == {first: 12.0, second: 3.5} and page.model.counted == {}
    assert "Counted 2 supplies" in frame.words.text()
    frame.undo()
    assert amounts(new) == {}


def test_find_filter_scan_and_bad_counts(qtbot: Any, window: Frame, clock: HandClock) -> None:
    driver = Driver(qtbot, window, clock, "mouse")
    window.nav.open_count()
    page = window.page("count")
    driver.type("count_find", "cork grease")
    assert {v.supply.key for v in page.model.rows} == {"cork_grease_ml", "cork_grease_tube"}
    index = page.model.index(0, COUNTED)
    for wrong in ("many", "-4", "1,000.5.2"):
        assert not page.model.setData(index, wrong) and page.model.counted == {}
        assert window.words.text()
    assert page.model.setData(index, "4")
    driver.press("count_now")
    assert page.model.rowCount() == 1
    page.model.setData(page.model.index(0, COUNTED), "")
    assert page.model.counted == {} and not page.keep.isEnabled()
    page.table.setFocus()
    window.scans.go_to_tag("SU-PAD-PAPER")
    rest(window)
    at = page.table.currentIndex()
    assert window.here == "count" and page.model.rows[at.row()].supply.key == "pad_paper" and at.column() == COUNTED
    bottle = next(n for n, v in enumerate(page.model.rows) if v.supply.key in page.model.labelled)
    spoken = page.model.data(page.model.index(bottle, 0), Qt.ItemDataRole.AccessibleTextRole)
    assert "on record" in spoken and QApplication.focusWidget() is not None


def test_aside_place_and_minimums_by_keyboard(qtbot: Any, new: Shop, clock: HandClock) -> None:
    with new.act("made") as act:
        act.records.add(Instrument(tag="A-1", family="alto_saxophone", size="", created_at=clock.now()))
    driver = Driver(qtbot, opened(qtbot, Frame(lambda: new)), clock, "keys")
    driver.frame.nav.open_count("pad_paper")
    rest(driver.frame)
    page = driver.frame.page("count")
    qtbot.waitUntil(lambda: not page.proposing.busy)
    assert [v.supply.key for v in page._chosen()] == ["pad_paper"] and "a year" in page.why.text()
    answer("drawer 3")
    driver.press("count_place")
    assert next(v for v in stock.stock_list(new) if v.supply.key == "pad_paper").place == "drawer 3"
    page.group.setCurrentIndex(page.group.findData("place drawer 3"))
    page.show_found()
    assert [v.supply.key for v in page.model.rows] == ["pad_paper"]
    page.go_to_item("pad_paper")
    answer("7")
    driver.press("count_order_at")
    assert next(v for v in stock.stock_list(new) if v.supply.key == "pad_paper").minimum == 7
    page.go_to_item("pad_paper")
    driver.press("put_aside")
    assert "pad_paper" not in {v.supply.key for v in page.model.rows}
    page.choose("aside")
    assert [v.supply.key for v in page.model.rows] == ["pad_paper"] and page.aside.text() == "Use again"
    page.go_to_item("pad_paper")
    driver.press("put_aside")
    page.choose("needed")
    page.group.setCurrentIndex(0)
    page.show_found()
    qtbot.waitUntil(lambda: not page.proposing.busy)
    driver.press("count_propose")
    said = {v.supply.key: v for v in stock.stock_list(new)}
    assert all(said[k].minimum == p.amount for k, p in page.model.proposed.items() if k in page.needed)
    new.undo()
    assert next(v for v in stock.stock_list(new) if v.supply.key == "pad_paper").minimum == 7


def test_supplies_of_one_family(qtbot: Any, new: Shop, clock: HandClock) -> None:
    with new.act("made") as act:
        for tag, family in (("A-1", "alto_saxophone"), ("V-1", "violin")):
            act.records.add(Instrument(tag=tag, family=family, size="", created_at=clock.now()))
    frame = opened(qtbot, Frame(lambda: new))
    frame.nav.open_count()
    rest(frame)
    page = frame.page("count")
    every = {v.supply.key for v in page.model.rows}
    page.group.setCurrentIndex(page.group.findData("family violin"))
    page.show_found()
    assert {v.supply.key for v in page.model.rows} < every and "pad_paper" not in {
        v.supply.key for v in page.model.rows
    }


def test_what_is_typed_survives_what_others_do(qtbot: Any, new: Shop, clock: HandClock) -> None:
    frame = opened(qtbot, Frame(lambda: new))
    frame.nav.open_count("pad_paper")
    rest(frame)
    page = frame.page("count")
    index = page.table.currentIndex()
    page.table.edit(index)
    editor = page.table.findChild(QLineEdit)
    assert editor is not None
    editor.setText("12")
    stock.count_stock(new, "soap_ml", 5.0, "elsewhere")
    frame.refresh()
    rest(frame)
    assert page.table.findChild(QLineEdit) is editor and editor.text() == "12"
    assert [v.supply.key for v in page._chosen()] == ["pad_paper"]
