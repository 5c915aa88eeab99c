"""Instruments in the real window: found while typing, hired out, rested, booked in by the van, labels."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from PySide6.QtCore import QItemSelectionModel, Qt, QTimer
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit

from creekbed.store.records import Hire, Instrument
from creekbed.window.fleet.hire_dialog import HireDialog
from creekbed.window.frame.frame import Frame
from creekbed.workshop.arrival import intake
from creekbed.workshop.fleet.fleet import fleet
from creekbed.workshop.release import release_check
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand
from tests.window.conftest import Driver, answer, rest


def settle(frame: Frame, qtbot: Any) -> Any:
    page = frame.page("instruments")
    qtbot.waitUntil(lambda: not page.loading.busy and not page._stale)
    rest(frame)
    return page


def violins(shop: Shop, count: int) -> list[str]:
    tags = [f"V-{n}" for n in range(1, count + 1)]
    with shop.act("test") as act:
        act.records.add_all(
            Instrument(tag=t, family="violin", size="1/2" if n % 2 else "4/4", serial=f"S{n}", created_at=shop.now)
            for n, t in enumerate(tags)
        )
    return tags


def choose(page: Any, *tags: str) -> None:
    model, selection = page.model, page.table.selectionModel()
    selection.clearSelection()
    how = QItemSelectionModel.SelectionFlag.Select | QItemSelectionModel.SelectionFlag.Rows
    for n, row in enumerate(model.rows):
        if row.tag in tags:
            selection.select(model.index(n, 0), how)


def hire(renter: str, group: str = "") -> None:
    """Fill in the next hire dialog and keep it."""

    def fill() -> None:
        dialog = QApplication.activeModalWidget()
        if not isinstance(dialog, HireDialog):
            QTimer.singleShot(20, fill)
            return
        dialog.renter.setText(renter)
        dialog.group.setText(group)
        dialog.accept() if renter or group else dialog.reject()

    QTimer.singleShot(0, fill)


def test_an_empty_fleet_says_what_to_do(drive: Callable[[str], Driver], qtbot: Any) -> None:
    driver = drive("mouse")
    driver.press("way_instruments")
    page = settle(driver.frame, qtbot)
    assert "bring your list" in page.none.text() and not page.labels.isEnabled() and page.search.hasFocus()


@pytest.mark.parametrize("way", ["mouse", "keys"])
def test_found_while_typing(drive: Callable[[str], Driver], qtbot: Any, way: str) -> None:
    driver = drive(way)
    violins(driver.frame.shop, 30)
    driver.frame.nav.open_instruments()
    page = settle(driver.frame, qtbot)
    driver.type("find", "1/2 v-2")
    assert [r.tag for r in page.model.rows] == ["V-2", "V-20", "V-22", "V-24", "V-26", "V-28"]
    driver.type("find", "s17")
    assert [r.tag for r in page.model.rows] == ["V-18"] and page.head.text() == "Instruments: 1"
    driver.type("find", "v18")  # the hyphen may be left out
    assert [r.tag for r in page.model.rows] == ["V-18"]
    driver.type("find", "v18", enter=True)
    rest(driver.frame)
    assert driver.frame.here == "history"
    driver.frame.nav.open_instruments("nothing like that")
    settle(driver.frame, qtbot)
    assert page.none.text() == "Nothing like that."


def test_from_the_bench_to_the_renter_and_back(drive: Callable[[str], Driver], hand: Hand, qtbot: Any) -> None:
    driver, shop = drive("mouse"), hand.shop
    job = hand.book()
    intake.tick_rest(shop, job)
    hand.until(job, "pack")
    driver.frame.nav.open_instruments()
    page = settle(driver.frame, qtbot)
    assert page.model.rows[0].place == "bench" and not page.hire.isVisible() and not page.book.isVisible()
    driver.press("fleet_open")
    assert driver.frame.here == "job"
    release_check.make_ready(shop, job)
    driver.frame.nav.open_instruments()
    page = settle(driver.frame, qtbot)
    driver.press("fleet_ready")
    hire("")
    driver.press("fleet_hire")  # left
    assert fleet(shop)[0].place == "ready"
    hire("R-081", "Hill school")
    driver.press("fleet_hire")
    settle(driver.frame, qtbot)
    with shop.reading() as records:
        (out,) = records.all_of(Hire, back_at=None)
    assert (out.renter, out.group_name) == ("R-081", "Hill school") and out.due_on
    assert (shop.folder / "papers" / f"hire-{out.id}.pdf").read_bytes().startswith(b"%PDF")
    assert "sheet to sign" in driver.frame.words.text()
    driver.press("fleet_all")
    choose(page, "MH-0142")
    driver.press("fleet_book")
    assert driver.frame.here == "book_in" and driver.find("tag", QLineEdit).text() == "MH-0142"


def test_a_van_is_booked_in_at_once(drive: Callable[[str], Driver], qtbot: Any) -> None:
    driver = drive("mouse")
    tags = violins(driver.frame.shop, 12)
    driver.frame.nav.open_instruments()
    page = settle(driver.frame, qtbot)
    choose(page, *tags)
    assert page.book.text() == "Book in 12"
    answer("Hill school")
    driver.press("fleet_book")
    settle(driver.frame, qtbot)
    assert {r.place for r in fleet(driver.frame.shop)} == {"bench"} and "Booked in 12" in driver.frame.words.text()
    assert {r.tag for r in page.chosen()} == set(tags), "what was chosen stays chosen"


def test_resting_retiring_and_bringing_back(drive: Callable[[str], Driver], qtbot: Any) -> None:
    driver = drive("mouse")
    violins(driver.frame.shop, 3)
    driver.frame.nav.open_instruments()
    page = settle(driver.frame, qtbot)
    choose(page, "V-1", "V-2")
    answer("red rot")
    driver.press("fleet_retire")
    settle(driver.frame, qtbot)
    assert [r.place for r in fleet(driver.frame.shop)] == ["retired", "retired", "here"]
    assert not page.retire.isVisible() and page.back.isVisible() and not page.book.isVisible()
    driver.press("fleet_back")
    settle(driver.frame, qtbot)
    assert {r.place for r in fleet(driver.frame.shop)} == {"here"}
    choose(page, "V-3")
    answer(None)
    driver.press("fleet_rest")
    assert {r.place for r in fleet(driver.frame.shop)} == {"here"}
    answer("no demand")
    driver.press("fleet_rest")
    settle(driver.frame, qtbot)
    driver.press("fleet_resting")
    assert [r.tag for r in page.model.rows] == ["V-3"] and page.model.rows[0].where == "no demand"


def test_labels_of_what_is_shown_or_chosen(drive: Callable[[str], Driver], qtbot: Any) -> None:
    driver = drive("mouse")
    violins(driver.frame.shop, 9)
    driver.frame.nav.open_instruments()
    page = settle(driver.frame, qtbot)
    assert page.labels.text() == "Labels for 9"
    choose(page, "V-1", "V-2")
    driver.find("label_size", QComboBox).setCurrentIndex(1)
    driver.press("fleet_labels")
    driver.qtbot.waitUntil(lambda: not page.drawing.busy)
    assert (driver.frame.shop.folder / "papers" / "labels-2-52x30.pdf").exists()
    assert page.model.data(page.model.index(0, 0), Qt.ItemDataRole.AccessibleTextRole).startswith("V-1, Violin 4/4")
