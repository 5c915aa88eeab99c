"""A shop of one's own, from the first minute, in the real window: what somebody does who has never seen the demo."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pypdfium2
import pytest
import zxingcpp

from creekbed.store.records import Hire, Instrument
from creekbed.window.frame.frame import Frame
from creekbed.workshop.fleet.fleet import fleet
from creekbed.workshop.inspection.history import history
from creekbed.workshop.shop import shop as shop_module
from creekbed.workshop.shop import staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.departures import coming_departures
from creekbed.workshop.shop.shop import Shop
from tests.interchange.test_tables import workbook
from tests.window.conftest import Driver, answer, opened, rest
from tests.window.fleet.test_instruments_page import choose, hire
from tests.window.fleet.test_instruments_page import settle as fleet_settled
from tests.window.test_whole_jobs import look_over_sound, work

SEMICOLONS = "Inventar-Nr.;Instrument;Größe;Kaufpreis\nV-1;Geige;4/4;1.249,50\nV-2;Geige;3/4;349,00\n"
TABS = "Nummer\tWas\tSchule\tvermietet seit\nB-1\tBratsche 15 in\tHill school\t1.9.2026\n"


class Counting(Driver):
    """Counts what a person does."""

    actions = 0

    def press(self, name: str) -> None:
        self.actions += 1
        super().press(name)

    def type(self, name: str, text: str, enter: bool = False) -> None:
        self.actions += 1
        super().type(name, text, enter)

    def scan(self, code: str) -> None:
        self.actions += 1
        super().scan(code)


@pytest.fixture
def new(tmp_path: Path, clock: HandClock, monkeypatch: pytest.MonkeyPatch) -> Iterator[Shop]:
    monkeypatch.setattr(shop_module, "NOBODY", "NN")
    found = Shop(tmp_path / "new", clock)
    yield found
    found.close()


def active(frame: Frame, qtbot: Any) -> None:
    """A dialog is closed: the window has the keyboard again, as a window manager sees to."""
    frame.activateWindow()
    qtbot.waitUntil(frame.isActiveWindow)
    rest(frame)


def bring(driver: Counting, qtbot: Any, file: Path, kind: str = "") -> None:
    """One list: the file is chosen, and all of it is brought."""
    page = driver.frame.page("bring")
    if kind:
        driver.press(f"bring_{kind}")
    driver.actions += 1  # the file is chosen
    page.open_file(file)
    qtbot.waitUntil(lambda: page.found is not None and not page.work.busy)
    rest(driver.frame)
    assert page.found.count("problem") == 0, [r.words for r in page.found.rows]
    driver.press("bring_list")
    qtbot.waitUntil(lambda: not page.work.busy and page.found is not None and not page.found.to_write)
    rest(driver.frame)


@pytest.mark.parametrize("way", ["keys", "mouse"] if os.environ.get("EVERY_WAY") else ["keys"])
def test_from_an_empty_folder_to_the_first_hire_and_back(
    qtbot: Any, new: Shop, clock: HandClock, tmp_path: Path, way: str
) -> None:
    driver = Counting(qtbot, opened(qtbot, Frame(lambda: new)), clock, way)
    frame = driver.frame
    # who works here, and how instruments leave
    answer("AB 8-17")
    driver.actions += 1
    driver.press("say_people")
    assert new.person == "AB"
    active(frame, qtbot)
    driver.press("say_leaving")
    rest(frame)
    assert frame.here == "days"
    driver.type("name", "Monday van")
    driver.press("weekday_0")
    driver.type("time_of_day", "8:30")
    driver.press("keep_way")
    assert len(coming_departures(new)) == 6
    # the list
    frame.nav.go_home()
    rest(frame)
    driver.press("first_list")
    (tmp_path / "a.csv").write_text(SEMICOLONS, encoding="utf-8")
    bring(driver, qtbot, tmp_path / "a.csv")
    assert driver.actions < 15, "what a shop has to say before its first instrument"
    setup = driver.actions
    # an instrument that is on the table, from the door to its tag
    frame.nav.go_home()
    rest(frame)
    driver.scan("V-1")
    assert frame.here == "book_in"
    driver.press("book_in")
    work(driver, "V-1", look_over_sound)
    frame.page("job").show_tab("ready")
    driver.press("make_ready")
    assert frame.here == "history" and driver.actions - setup <= 60, driver.actions - setup
    with new.reading() as records:
        assert records.get(Instrument, "V-1").cost == 1249.5  # type: ignore[union-attr]
    # two more lists, of other makes
    frame.nav.open_bring()
    (tmp_path / "b.txt").write_text(TABS, encoding="utf-16")
    bring(driver, qtbot, tmp_path / "b.txt")
    (tmp_path / "c.xlsx").write_bytes(
        workbook(("Initials", "Hours", "Helper"), ("AB", "8-17", "no"), ("TO", "13-17", "yes"))
    )
    bring(driver, qtbot, tmp_path / "c.xlsx", "people")
    assert [(w.key, w.helper) for w in staff.workers(new)] == [("AB", False), ("TO", True)]
    # a sheet of labels, printed to PDF and read back
    frame.nav.open_instruments()
    page = fleet_settled(frame, qtbot)
    assert {r.tag: r.place for r in page.model.every} == {"B-1": "hired", "V-1": "ready", "V-2": "here"}
    driver.press("fleet_labels")
    qtbot.waitUntil(lambda: not page.drawing.busy)
    sheet = pypdfium2.PdfDocument((new.folder / "papers" / "labels-3-70x37.pdf").read_bytes())[0]
    codes = {b.text for b in zxingcpp.read_barcodes(sheet.render(scale=3).to_pil())}
    assert codes == {"B-1", "V-1", "V-2"}
    # hired out, and back with its condition beside the one it went out with
    choose(page, "V-1")
    hire("K-17", "Hill school")
    driver.press("fleet_hire")
    active(frame, qtbot)
    fleet_settled(frame, qtbot)
    with new.reading() as records:
        out = records.first_of(Hire, tag="V-1", back_at=None)
    assert out is not None and out.renter == "K-17" and out.contents_out and out.condition_out
    driver.pass_time(days=120)
    driver.scan("V-1")
    driver.press("book_in")
    driver.frame.page("job").show_tab("case")
    driver.press("rest")
    driver.frame.page("job").show_tab("look_over")
    look_over_sound(driver)
    compared = history(new, "V-1").periods[0].compared
    assert sum(c.status == "unchanged" for c in compared) >= 3
    assert next(r for r in fleet(new) if r.tag == "V-1").place == "bench"
