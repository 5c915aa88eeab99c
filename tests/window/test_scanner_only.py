"""Everything by scanner: a sheet of codes stands for the keys, and nothing else is touched."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pypdfium2
import pytest
import zxingcpp
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QLineEdit, QPushButton, QWidget

from creekbed.cli.main import main
from creekbed.core.text import code as plain
from creekbed.papers.label_sheet import label_sheets
from creekbed.store.records import Hire
from creekbed.window.frame.frame import Frame
from creekbed.window.frame.scan_keys import SHORTCUTS
from creekbed.window.frame.wedge_scanner import CODE
from creekbed.workshop.arrival.intake import TAG
from creekbed.workshop.arrival.scan import understand
from creekbed.workshop.arrival.scan_codes import PREFIX, SIGNS, all_codes, key_of
from creekbed.workshop.fleet.fleet import fleet
from creekbed.workshop.shop import shop as shop_module
from creekbed.workshop.shop import staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.departures import coming_departures
from creekbed.workshop.shop.shop import Shop
from tests.window.conftest import Driver, opened, rest
from tests.window.fleet.test_instruments_page import settle as fleet_settled
from tests.window.test_new_shop import SEMICOLONS
from tests.window.test_whole_jobs import look_over_sound, work

NAMES = {sign: name for name, sign in SIGNS.items()}
LONGEST_WAY = 90


class ScannerOnly(Driver):
    """Holds nothing but a scanner: every press is a key that is scanned."""

    scans = 0

    def key_code(self, name: str) -> None:
        self.scans += 1
        self.scan(PREFIX + name)

    def walk_to(self, target: QWidget) -> None:
        """From one thing to the next until the focus is there."""
        for _ in range(LONGEST_WAY):
            if QApplication.focusWidget() is target:
                return
            self.key_code("NEXT")
        raise AssertionError(f"{target.objectName()} is not reached")

    def press(self, name: str) -> None:
        target = self.find(name)
        assert target.isEnabled(), f"{name} cannot be pressed: {self.frame.words.text()}"
        key = next((k for k, short in SHORTCUTS.items() if target.property("key") == short), "")
        same = [
            b
            for b in self.frame.findChildren(QPushButton)
            if b.isVisible() and b.isEnabled() and b.property("key") and b.property("key") == target.property("key")
        ]
        if key and same[0] is target:
            self.key_code(key)
        else:
            self.walk_to(target)
            self.key_code("PRESS")
        rest(self.frame)

    def type(self, name: str, text: str, enter: bool = False) -> None:
        field = self.find(name, QLineEdit)
        self.walk_to(field)
        for _ in field.text():
            self.key_code("DELETE")
        text = "".join(sign for sign in text.upper() if sign in NAMES).strip()  # a bare number is in the unit shown
        for letter in text:
            self.key_code(NAMES[letter])
        assert field.text().upper() == text
        if enter:
            self.key_code("ENTER")


@pytest.fixture
def new(tmp_path: Path, clock: HandClock, monkeypatch: pytest.MonkeyPatch) -> Iterator[Shop]:
    monkeypatch.setattr(shop_module, "NOBODY", "NN")
    found = Shop(tmp_path / "new", clock)
    yield found
    found.close()


def in_dialogue(driver: ScannerOnly, *names: str) -> None:
    """Scan these once a question is open; the scanner is heard there too."""

    def act() -> None:
        for name in names:
            driver.frame.scans.scanned(PREFIX + name)

    def look() -> None:
        if QApplication.activeModalWidget() is None:  # a busy machine opens it later
            QTimer.singleShot(20, look)
        else:
            QTimer.singleShot(250, act)

    QTimer.singleShot(0, look)


def test_a_new_shop_from_the_door_to_the_tag(qtbot: Any, new: Shop, clock: HandClock) -> None:
    driver = ScannerOnly(qtbot, opened(qtbot, Frame(lambda: new)), clock, "scanner")
    frame = driver.frame
    in_dialogue(driver, "A", "B", "SPACE", "EIGHT", "MINUS", "ONE", "SEVEN", "MAIN")
    driver.press("say_people")
    assert new.person == "AB"
    driver.press("say_leaving")
    driver.type("name", "VAN")
    driver.press("weekday_0")
    driver.type("time_of_day", "8:30")
    driver.press("keep_way")
    assert len(coming_departures(new)) == 6
    lists = new.folder / "lists"
    lists.mkdir()
    (lists / "fleet.csv").write_text(SEMICOLONS, encoding="utf-8")
    driver.key_code("BENCH")
    driver.press("first_list")
    driver.press("recent_0")
    bring = frame.page("bring")
    qtbot.waitUntil(lambda: bring.found is not None and not bring.work.busy)
    driver.press("bring_list")
    qtbot.waitUntil(lambda: not bring.work.busy and len(fleet(new)) == 2)
    driver.scan("V-1")
    assert frame.here == "book_in"
    driver.press("book_in")
    assert frame.here == "job", frame.words.text()
    work(driver, "V-1", look_over_sound)
    frame.page("job").show_tab("ready")
    driver.press("make_ready")
    assert frame.here == "history"
    driver.key_code("INSTRUMENTS")
    page = fleet_settled(frame, qtbot)
    assert [r.place for r in page.model.every] == ["ready", "here"]
    driver.press("fleet_labels")
    qtbot.waitUntil(lambda: not page.drawing.busy)
    sheet = pypdfium2.PdfDocument((new.folder / "papers" / "labels-2-70x37.pdf").read_bytes())[0]
    assert {b.text for b in zxingcpp.read_barcodes(sheet.render(scale=3).to_pil())} == {"V-1", "V-2"}
    driver.type("find", "V-1")
    in_dialogue(driver, "K", "ONE", "MAIN")
    driver.press("fleet_hire")
    fleet_settled(frame, qtbot)
    with new.reading() as records:
        out = records.first_of(Hire, tag="V-1", back_at=None)
    assert out is not None and out.renter == "K1"
    driver.pass_time(days=90)
    driver.scan("V-1")
    driver.press("book_in")
    assert next(r for r in fleet(new) if r.tag == "V-1").place == "bench"


def test_no_code_is_a_tag_and_every_one_is_read_back(shop: Shop) -> None:
    staff.add_worker(shop, "AB")
    rows = all_codes(shop)
    codes = [row["tag"] for row in rows]
    assert len(set(codes)) == len(codes) > 80
    for code in codes:
        assert CODE.match(code), code
        if code.startswith(PREFIX):
            assert key_of(code) and key_of(code.lower()) and not TAG.fullmatch(plain(code))
        else:
            assert understand(shop, code).kind in ("supply", "person"), code
    for size in ("52x30", "67x25"):
        read: set[str] = set()
        for page in pypdfium2.PdfDocument(label_sheets(rows, size)):
            read |= {b.text for b in zxingcpp.read_barcodes(page.render(scale=2.5).to_pil())}
        assert read == set(codes)
    assert key_of("DO-2") == "" == key_of("D-1") == key_of("")


def test_what_a_key_finds_nothing_to_do_for_is_said(qtbot: Any, new: Shop, clock: HandClock) -> None:
    driver = ScannerOnly(qtbot, opened(qtbot, Frame(lambda: new)), clock, "scanner")
    driver.key_code("DAY")
    assert driver.frame.here == "day"
    driver.key_code("SECOND")
    assert "has the key F3" in driver.frame.words.text()
    driver.key_code("ESCAPE")
    assert not driver.frame.notice.isVisible()
    driver.key_code("UNDO")
    assert "nothing to undo" in driver.frame.words.text().lower()


def test_the_shell_writes_the_sheets(tmp_path: Path, capsys: Any) -> None:
    folder = str(tmp_path / "shop")
    assert main(["--folder", folder, "codes", "--to", str(tmp_path / "codes.pdf")]) == 0
    assert len(pypdfium2.PdfDocument((tmp_path / "codes.pdf").read_bytes())) >= 2
    assert main(["--folder", folder, "codes", "--size", "9x9", "--to", str(tmp_path / "x.pdf")]) == 1
    assert "no size of labels" in capsys.readouterr().err
