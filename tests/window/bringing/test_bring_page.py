"""Bringing a list in the real window: columns, questions, what becomes of each row, all of it back."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QLabel, QTableView

from creekbed.store.records import Instrument
from creekbed.window.frame.frame import Frame
from creekbed.workshop.shop.shop import Shop
from tests.window.conftest import Driver, rest

LIST = """Tag,Instrument,Serial
V-1,Violin 1/2,S1
S-1,Sax,S2
S-2,Sax,S3
C-1,Clarinet,
,Viola,
"""


def tags(shop: Shop) -> set[str]:
    with shop.reading() as records:
        return {i.tag for i in records.all_of(Instrument)}


def opened(driver: Driver, qtbot: Any, file: Path) -> Any:
    driver.frame.nav.open_bring()
    page = driver.frame.page("bring")
    page.open_file(file)
    settle(driver.frame, qtbot)
    return page


def settle(frame: Frame, qtbot: Any) -> None:
    page = frame.page("bring")
    qtbot.waitUntil(lambda: not page.work.busy and page._waiting is None, timeout=20_000)
    rest(frame)


def texts(page: Any) -> str:
    return " | ".join(w.text() for w in page.findChildren(QLabel) if w.isVisible())


@pytest.mark.parametrize("way", ["mouse", "keys"])
def test_a_list_from_the_file_to_the_records_and_back(
    drive: Callable[[str], Driver], qtbot: Any, tmp_path: Path, way: str
) -> None:
    driver = drive(way)
    (tmp_path / "list.csv").write_text(LIST)
    page = opened(driver, qtbot, tmp_path / "list.csv")
    assert "5 rows. CSV, commas, UTF-8" in texts(page) and "“Sax”" in texts(page)
    assert page.shown == "problem" and page.model.rowCount() == 3 and not driver.find("bring_list").isEnabled()
    ask = driver.find("ask_0", QComboBox)
    assert ask.itemText(0) == "say for 2 rows"
    ask.setCurrentIndex(ask.findData("tenor_saxophone"))
    ask.activated.emit(ask.currentIndex())
    settle(driver.frame, qtbot)
    assert page.found.count("new") == 4 and page.found.asks == ()
    made = driver.find("made_clarinet_barrel", QComboBox)
    made.setCurrentIndex(made.findData("resin_body"))
    made.activated.emit(made.currentIndex())
    settle(driver.frame, qtbot)
    driver.press("show_all")
    assert page.model.rowCount() == 5
    first = page.model.index(0, 1)
    assert page.model.data(first) == "+ new"
    assert "V-1" in page.model.data(first, Qt.ItemDataRole.AccessibleTextRole)
    driver.find("leave_out", QCheckBox).setChecked(True)
    assert driver.find("bring_list").text().startswith("Bring 4 rows")
    driver.press("bring_list")
    settle(driver.frame, qtbot)
    assert tags(driver.frame.shop) == {"V-1", "S-1", "S-2", "C-1"}
    assert "4 new" in driver.frame.words.text() and "1 row was left out" in driver.frame.words.text()
    with driver.frame.shop.reading() as records:
        clarinet = records.get(Instrument, "C-1")
    assert clarinet is not None and clarinet.materials["upper"] == "resin_body"
    assert page.found.count("same") == 4 and not driver.find("bring_list").isEnabled()
    driver.frame.undo()
    assert tags(driver.frame.shop) == set()


def test_columns_are_chosen_by_hand(drive: Callable[[str], Driver], qtbot: Any, tmp_path: Path) -> None:
    driver = drive("mouse")
    (tmp_path / "list.csv").write_text("One,Two,Three\nred,Violin,V-1\nblue,Cello,V-2\n")
    page = opened(driver, qtbot, tmp_path / "list.csv")
    assert page.columns == {"tag": "Three", "what": "Two"}
    pick = driver.find("column_0", QComboBox)
    pick.setCurrentIndex(pick.findData("serial"))
    pick.activated.emit(pick.currentIndex())
    settle(driver.frame, qtbot)
    assert page.columns == {"tag": "Three", "what": "Two", "serial": "One"}
    pick = driver.find("column_0", QComboBox)
    pick.setCurrentIndex(pick.findData("tag"))  # two columns cannot be one field: the other loses it
    pick.activated.emit(pick.currentIndex())
    settle(driver.frame, qtbot)
    assert page.columns == {"what": "Two", "tag": "One"} and page.found.count("problem") == 2
    pick = driver.find("column_0", QComboBox)
    pick.setCurrentIndex(0)
    pick.activated.emit(0)
    settle(driver.frame, qtbot)
    assert page.found is None and "Still to say: tag" in texts(page) and "Which column" in driver.frame.words.text()


def test_files_that_are_none_say_so(drive: Callable[[str], Driver], qtbot: Any, tmp_path: Path) -> None:
    driver = drive("mouse")
    (tmp_path / "empty.csv").write_text("")
    page = opened(driver, qtbot, tmp_path / "empty.csv")
    assert "nothing in that file" in driver.frame.words.text() and page.table is None
    page.open_file(tmp_path / "none.csv")
    settle(driver.frame, qtbot)
    assert "cannot be read" in driver.frame.words.text() and "A table that a spreadsheet saved" in texts(page)


def test_the_kind_is_changed_with_the_file_open(drive: Callable[[str], Driver], qtbot: Any, tmp_path: Path) -> None:
    driver = drive("mouse")
    (tmp_path / "people.csv").write_text("Initials,Hours\nAB,9-13\nTO,13-17\n")
    page = opened(driver, qtbot, tmp_path / "people.csv")
    assert page.found is None
    driver.press("bring_people")
    settle(driver.frame, qtbot)
    assert page.found.count("new") == 2
    driver.press("bring_list")
    settle(driver.frame, qtbot)
    assert "list of people" in driver.frame.words.text()


def test_a_file_that_is_opened_while_another_is_read_comes_next(
    drive: Callable[[str], Driver], qtbot: Any, tmp_path: Path
) -> None:
    driver = drive("mouse")
    (tmp_path / "long.csv").write_text("Tag,What\n" + "".join(f"V-{n:05d},Violin\n" for n in range(4000)))
    (tmp_path / "short.csv").write_text("Tag,What\nC-1,Cello\n")
    driver.frame.nav.open_bring()
    page = driver.frame.page("bring")
    page.open_file(tmp_path / "long.csv")
    page.open_file(tmp_path / "short.csv")
    settle(driver.frame, qtbot)
    qtbot.waitUntil(lambda: page.found is not None and not page.work.busy)
    assert [r.key for r in page.found.rows] == ["C-1"] and "short.csv" in texts(page)
    page.start()
    page.open_file(tmp_path / "long.csv")  # while the page looks at the other one again
    qtbot.waitUntil(lambda: page.found is not None and not page.work.busy and len(page.found.rows) == 4000)


def test_reading_can_be_stopped_and_the_window_lives_meanwhile(
    drive: Callable[[str], Driver], qtbot: Any, tmp_path: Path
) -> None:
    driver = drive("mouse")
    rows = "".join(f"V-{n:05d},Violin,{n % 28 + 1}.{n % 12 + 1}.2021\n" for n in range(8000))
    (tmp_path / "long.csv").write_text(f"Tag,What,Bought\n{rows}")
    driver.frame.nav.open_bring()
    page = driver.frame.page("bring")
    page.open_file(tmp_path / "long.csv")
    qtbot.waitUntil(lambda: page.table is not None and page.work.busy and page.bar.value() > 0, timeout=20_000)
    assert page.bar.isVisible() and page.stop.isVisible()
    page.stop.click()
    settle(driver.frame, qtbot)
    assert page.found is None and "Given up" in driver.frame.words.text() and tags(driver.frame.shop) == set()
    page.look()
    settle(driver.frame, qtbot)
    assert page.found.count("new") == 8000 and driver.find("rows", QTableView).model().rowCount() == 8000
