"""What the window says when the records cannot be opened or are held, what is kept, and going back, by hand."""

from __future__ import annotations

import shutil
import sqlite3
from collections.abc import Callable
from datetime import timedelta
from io import BytesIO
from pathlib import Path
from typing import Any

import pytest
from PIL import Image
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication, QDialog, QLabel, QPushButton

from creekbed.core.catalogue.own import OVERRIDES
from creekbed.store.layout import BACKUPS, FILE
from creekbed.store.problems import problem
from creekbed.store.sqlite.backup import back_up, copies_in
from creekbed.window.frame.frame import Frame
from creekbed.window.frame.upkeep import Upkeep
from creekbed.window.shared.dialogs import AskDialog
from creekbed.window.shared.widgets import PlainButton, tip
from creekbed.workshop.arrival import intake, photos
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.departures import add_departure, coming_departures
from creekbed.workshop.shop.shop import Shop
from tests.conftest import MORNING, Hand
from tests.core.catalogue.test_own_files import OWN_FAMILY
from tests.window.conftest import Driver, opened, rest, when_open


def words_on(frame: Frame) -> str:
    QApplication.processEvents()
    return " ".join(w.text() for w in frame.findChildren(QLabel) if w.isVisible())


def press(frame: Frame, name: str) -> None:
    QApplication.processEvents()
    found = [w for w in frame.findChildren(QPushButton, name) if w.isVisible()]
    assert found, f"{name} is nowhere to be seen: {words_on(frame)}"
    found[0].click()


@pytest.fixture
def folder(tmp_path: Path, clock: HandClock) -> Path:
    shop = Shop(tmp_path / "data", clock)
    intake.book_in(shop, "MH-0142", family="violin")
    back_up(tmp_path / "data", "daily", now=MORNING)
    clock.advance(minutes=1)
    intake.book_in(shop, "MH-0300", family="violin")
    shop.close()
    return tmp_path / "data"


def frame_on(qtbot: Any, folder: Path, clock: HandClock) -> Frame:
    frame = Frame(lambda: Shop(folder, clock))
    qtbot.addWidget(frame)
    frame.show()
    return frame


def tags(frame: Frame) -> list[str]:
    return sorted(v.tag for v in frame.home.jobs)


# --- opening --------------------------------------------------------------------------------------------------------


def test_missing_actions_can_be_gone_on_without(qtbot: Any, folder: Path, clock: HandClock, tmp_path: Path) -> None:
    shutil.copyfile(folder / BACKUPS / copies_in(folder / BACKUPS)[0].name / FILE, folder / FILE)
    frame = frame_on(qtbot, folder, clock)
    assert not frame.open_shop()
    assert "One action that was on record is missing" in words_on(frame)
    press(frame, "go_on")
    assert tags(frame) == ["MH-0142"]


def test_an_empty_file_becomes_a_shop_when_somebody_says_so(qtbot: Any, tmp_path: Path, clock: HandClock) -> None:
    (tmp_path / "data").mkdir()
    (tmp_path / "data" / FILE).touch()
    frame = frame_on(qtbot, tmp_path / "data", clock)
    assert not frame.open_shop() and "empty" in words_on(frame)
    press(frame, "new_shop")
    assert frame.home is not None and tags(frame) == []


STRANGE = ("a folder", "a link", "a file for a folder", "an unknown version", "something unforeseen")


@pytest.mark.parametrize("what", STRANGE)
def test_it_never_ends_in_an_empty_window(
    qtbot: Any, folder: Path, clock: HandClock, what: str, tmp_path: Path, capsys: Any
) -> None:
    place = folder
    if what in ("a folder", "a link"):
        (folder / FILE).unlink()
        (folder / FILE).mkdir() if what == "a folder" else (folder / FILE).symlink_to(tmp_path / "gone")
    elif what == "a file for a folder":
        place = folder / FILE
    elif what == "an unknown version":
        with sqlite3.connect(folder / FILE) as file:
            file.execute("UPDATE alembic_version SET version_num = 'gong'")
    frame = frame_on(qtbot, place, clock)
    if what == "something unforeseen":
        frame.opening._open = lambda: 1 / 0
    assert not frame.open_shop()
    words = words_on(frame)
    assert len(words) > 60 and frame.findChild(QPushButton, "again").isVisible(), words
    frame.scans.scanned("MH-0142")  # and nothing that comes from outside breaks it
    frame.close()


def test_going_back_while_another_window_is_open_is_refused_in_words(
    qtbot: Any, folder: Path, clock: HandClock
) -> None:
    other = Shop(folder, clock)
    frame = frame_on(qtbot, folder, clock)
    assert frame.open_shop()
    frame.nav.open_kept()
    page = frame.page("kept")
    qtbot.waitUntil(lambda: page.copies.go.isEnabled())
    assert "1 action since" in words_on(frame) and "would be missing" in words_on(frame)
    press(frame, "go_back")
    assert "open elsewhere" in words_on(frame) and frame.home is not None and len(tags(frame)) == 2
    other.close()
    frame.nav.open_kept()
    qtbot.waitUntil(lambda: frame.page("kept").copies.go.isEnabled())
    press(frame, "go_back")
    assert tags(frame) == ["MH-0142"]
    frame.nav.open_kept()
    page = frame.page("kept")
    qtbot.waitUntil(lambda: len(page.copies.copies) == 2)
    assert "kept aside" in page.copies.title.text()
    press(frame, "go_back")
    assert tags(frame) == ["MH-0142", "MH-0300"]


# --- held -----------------------------------------------------------------------------------------------------------


def test_an_action_waits_while_another_program_holds_the_records(window: Frame, hand: Hand, shop: Shop) -> None:
    job = hand.book()
    other = sqlite3.connect(shop.folder / FILE, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    said: list[str] = []

    def let_go() -> None:
        said.append(window.words.text())
        other.execute("ROLLBACK")

    QTimer.singleShot(700, let_go)
    assert window.do(lambda: intake.tick_item(shop, job, "neck", "present"))
    other.close()
    assert "Waiting" in said[0] and "neck present" in window.words.text()
    assert hand.view(job).lines["neck"].state == "present"


def test_what_runs_beside_does_not_wait_at_all(window: Frame, hand: Hand, shop: Shop) -> None:
    """The clock, the plan on record and the chances are left for later while somebody holds the records."""
    hand.book()
    rest(window)
    other = sqlite3.connect(shop.folder / FILE, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    waited: list[float] = []
    shop.store.on_wait = lambda seconds: waited.append(seconds) or False  # type: ignore[func-returns-value]
    for _ in range(120):
        window.ticking.tick()
    window.planner.plan_anew()
    rest(window)
    other.execute("ROLLBACK")
    other.close()
    assert waited == [] and "Another program" not in window.words.text()


# --- while it is open -----------------------------------------------------------------------------------------------


def test_a_copy_is_made_and_everything_read(qtbot: Any, shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    window = opened(qtbot, Frame(lambda: shop))
    upkeep = Upkeep(window)
    upkeep.look()
    qtbot.waitUntil(lambda: not upkeep.copying.busy and not upkeep.reading.busy, timeout=30_000)
    assert len(copies_in(shop.folder / BACKUPS)) == 1 and upkeep.damages == []
    upkeep.look()
    assert not upkeep.copying.busy and not upkeep.reading.busy  # once a day
    with sqlite3.connect(shop.folder / FILE) as file:
        file.execute("UPDATE job SET policies = '{' WHERE id = ?", (job,))
    clock.advance(days=1)
    upkeep.look()
    qtbot.waitUntil(lambda: not upkeep.copying.busy and not upkeep.reading.busy, timeout=30_000)
    assert len(copies_in(shop.folder / BACKUPS)) == 2
    assert upkeep.damages is not None and "policies" in upkeep.damages[0].what
    assert "not as it was written" in window.words.text() or "cannot be shown" in window.words.text()
    window.upkeep = upkeep
    window.nav.open_kept()
    press(window, "put_back_0")
    assert "Put back" in window.words.text()
    qtbot.waitUntil(lambda: not upkeep.reading.busy, timeout=30_000)
    rest(window)
    assert upkeep.damages == [] and [v.tag for v in window.home.jobs] == ["MH-0142"]


def test_a_copy_that_fails_is_said(qtbot: Any, shop: Shop, monkeypatch: pytest.MonkeyPatch) -> None:
    window = opened(qtbot, Frame(lambda: shop))
    upkeep = Upkeep(window)
    upkeep.read_on = shop.now.astimezone().date()
    monkeypatch.setattr("creekbed.store.sqlite.backup.free_bytes", lambda folder: 0)
    upkeep.look()
    qtbot.waitUntil(lambda: not upkeep.copying.busy, timeout=30_000)
    assert "Today's copy was not made" in window.words.text() and "too little room" in window.words.text()


def test_a_job_of_a_family_that_is_gone_says_so(qtbot: Any, shop: Shop, hand: Hand, clock: HandClock) -> None:
    own = shop.own_folder / "families" / "concertina.toml"
    own.parent.mkdir(parents=True)
    own.write_text(OWN_FAMILY)
    shop.read_own_files()
    job = hand.book("CO-0001", "concertina")
    hand.book("MH-0142")
    shop.close()
    own.write_text(OWN_FAMILY.replace('name = "Concertina"', "name = 3"))
    again = Shop(shop.folder, clock)
    window = opened(qtbot, Frame(lambda: again))
    assert [v.tag for v in window.home.jobs] == ["MH-0142"] and window.home.next is not None
    said = window.words.text()
    assert "CO-0001 cannot be shown" in said or "concertina.toml" in said
    window.nav.open_job(job)
    rest(window)
    window.nav.open_history("CO-0001")
    assert "not known here now" in window.words.text()
    rest(window)
    window.nav.open_house("this_shop")
    assert "concertina.toml, line" in words_on(window)
    window.nav.go_home()
    assert window.do(lambda: intake.set_quarantine(again, window.home.jobs[0].job.id, "mould"))
    own.write_text(OWN_FAMILY)
    again.read_own_files()
    window.refresh()
    rest(window)
    assert tags(window) == ["CO-0001", "MH-0142"]


@pytest.mark.parametrize("value", ["inf", "nan", "1e308", "true", "-1", '"x"', "[]", "{}"])
def test_no_value_of_a_file_stops_the_window(qtbot: Any, shop: Shop, hand: Hand, clock: HandClock, value: str) -> None:
    hand.book()
    shop.close()
    shop.own_folder.mkdir(exist_ok=True)
    (shop.own_folder / OVERRIDES).write_text(
        f"[family.alto_saxophone.step.body_swab]\nhands_min = {value}\n[limits]\nroom_c = {value}\n"
        f"[hours]\nopen = {value}\n[place.tub]\ncapacity = {value}\n"
    )
    again = Shop(shop.folder, clock)
    window = opened(qtbot, Frame(lambda: again))
    assert tags(window) == ["MH-0142"] and OVERRIDES in window.words.text()
    assert window.do(lambda: intake.set_quarantine(again, 1, "mould"))


# --- text -----------------------------------------------------------------------------------------------------------

NASTY = "<img src=file:///etc/passwd> <b>Fish & chips</b>"


def test_what_people_type_is_shown_as_they_typed_it(
    drive: Callable[[str], Driver], hand: Hand, shop: Shop, qapp: QApplication
) -> None:
    driver = drive("mouse")
    add_departure(shop, NASTY, shop.now + timedelta(hours=30))
    job = hand.book(departure_id=1, next_group=NASTY)
    intake.set_quarantine(shop, job, NASTY)
    driver.frame.nav.open_book_in()
    rest(driver.frame)
    pick = driver.find("departure_1")
    assert pick.text().startswith(NASTY)
    driver.frame.nav.go_home()
    rest(driver.frame)
    tips = [w.toolTip() for w in driver.frame.findChildren(QPushButton) if w.toolTip()]
    assert tips and all("<img" not in t and "<b>" not in t for t in tips)
    assert any("&lt;img" in t for t in tips)
    for found in driver.frame.findChildren(QLabel):
        assert found.textFormat() == Qt.TextFormat.PlainText or not Qt.mightBeRichText(found.text()), found.text()


def test_an_ampersand_is_no_shortcut(qtbot: Any) -> None:
    found = PlainButton("Fish & chips")
    qtbot.addWidget(found)
    assert found.text() == "Fish & chips" and found.shortcut().isEmpty()
    tip(found, "<b>&</b>")
    assert found.toolTip() == "<span>&lt;b&gt;&amp;&lt;/b&gt;</span>"
    tip(found, "")
    assert found.toolTip() == ""


# --- privacy --------------------------------------------------------------------------------------------------------


def test_a_renter_is_erased_by_hand(window: Frame, hand: Hand, shop: Shop, hired: Any) -> None:
    hired("MH-0142")
    hand.book("MH-0142")
    window.nav.open_kept()
    rest(window)

    def answer(dialog: AskDialog) -> None:
        assert "cannot be brought back" in " ".join(w.text() for w in dialog.findChildren(QLabel))
        dialog.field.setText("R-041")
        dialog.ok.click()

    when_open(AskDialog, answer)
    press(window, "erase_renter")
    assert "erased in 2 places" in window.words.text() and "Copies" in window.words.text()
    window.nav.open_history("MH-0142")
    assert "R-041" not in words_on(window)


def test_a_photograph_is_taken_away_by_hand(window: Frame, hand: Hand, shop: Shop) -> None:
    out = BytesIO()
    Image.new("RGB", (60, 40), "red").save(out, "JPEG")
    job = hand.book()
    view = photos.add_photo(shop, job, out.getvalue())
    window.nav.open_job(job, "case")
    rest(window)
    when_open(QDialog, lambda dialog: dialog.findChild(QPushButton, "photo_away").click())
    press(window, f"photo_{view.id}")
    rest(window)
    assert photos.photos_of(shop, job) == [] and "taken away" in window.words.text()
    window.undo()
    assert len(photos.photos_of(shop, job)) == 1


def test_what_is_kept_by_keyboard_alone_in_an_empty_shop(drive: Callable[[str], Driver], shop: Shop) -> None:
    driver = drive("keyboard")
    driver.key(Qt.Key.Key_F10)
    driver.press("to_kept")
    page = driver.frame.page("kept")
    driver.qtbot.waitUntil(lambda: not page.copies.reading.busy)
    assert "nothing to go back to yet" in words_on(driver.frame) and not page.copies.go.isEnabled()
    driver.press("make_copy")
    driver.qtbot.waitUntil(lambda: not page.making.busy and not page.copies.reading.busy and bool(page.copies.copies))
    assert "read back" in driver.frame.words.text()
    add_departure(shop, "Friday boat", shop.now + timedelta(hours=30))
    page.copies.list.setFocus()
    driver.key(Qt.Key.Key_Up)
    driver.press("go_back")
    assert driver.frame.home is not None and coming_departures(driver.frame.shop) == []


def test_a_clock_that_cannot_be_noted_is_said_in_words(
    window: Frame, shop: Shop, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full() -> str:
        raise problem("full", shop.folder)

    monkeypatch.setattr(shop, "look_at_clock", full)
    for _ in range(60):
        window.ticking.tick()
    words = window.words.text()
    assert "could not be noted" in words and "disk is full" in words and "last action" not in words


@pytest.mark.parametrize("way", ["an action", "a minute", "another window"])
def test_nothing_seems_over_for_a_moment_when_the_clock_was_set(
    window: Frame, hand: Hand, shop: Shop, clock: HandClock, way: str
) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    rest(window)
    window.nav.go_home()
    clock.advance(minutes=1)
    clock.step(minutes=40)
    if way == "an action":
        assert window.do(lambda: add_departure(shop, "Late boat", shop.now + timedelta(hours=40)))
    elif way == "a minute":
        window.ticking.minute()
    else:
        other = Shop(shop.folder, clock, person="TO")
        other.look_at_clock()
        other.close()
        window.ticking.look_at_others()
    window.ticking.tick()  # before anything is planned anew
    card = window.page("home").cards[0]
    assert card.left.text() == "9:00" and not card.wait.at(shop.now).over
    assert "Last call" not in window.words.text() and "Due now" not in window.words.text()
    rest(window)
    assert window.page("home").cards[0].left.text() == "9:00"
