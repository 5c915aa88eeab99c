"""Days and departures in the real window: by mouse and by keyboard, on an empty shop too."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QDate, QDateTime, QTime, QTimer
from PySide6.QtWidgets import QComboBox, QDateEdit, QLabel

from creekbed.window.frame.frame import Frame
from creekbed.workshop.arrival import intake
from creekbed.workshop.shop import shop_days
from creekbed.workshop.shop.departures import coming_departures, kinds
from tests.conftest import Hand
from tests.window.conftest import Driver, rest


def texts(frame: Frame) -> str:
    page = frame.page("days")
    return " | ".join(w.text() for w in page.findChildren(QLabel) if w.isVisible())


@pytest.mark.parametrize("way", ["mouse", "keys"])
def test_a_van_on_mondays_is_set_changed_and_taken_off(drive: Callable[[str], Driver], way: str) -> None:
    driver = drive(way)
    driver.frame.nav.open_days()
    rest(driver.frame)
    assert "Nothing is known yet" in texts(driver.frame) and "No departure is on the list" in texts(driver.frame)
    driver.press("keep_way")
    assert "has no name" in driver.frame.words.text() or "what time" in driver.frame.words.text()
    driver.type("name", "Monday van")
    driver.press("weekday_0")
    driver.type("time_of_day", "8:30")
    driver.press("keep_way")
    (kind,) = kinds(driver.frame.shop)
    assert (kind.name, kind.weekdays, kind.minute) == ("Monday van", [0], 510)
    assert "Mondays 08:30; on a closed day it is left out" in texts(driver.frame)
    assert "Nothing is known yet" not in texts(driver.frame) and "Mon 23 Nov 08:30  Monday van" in texts(driver.frame)
    driver.press(f"change_way_{kind.id}")
    assert "Change: Monday van" in texts(driver.frame)
    driver.press("leave_way")
    assert "Another way" in texts(driver.frame)
    driver.press(f"change_way_{kind.id}")
    driver.find("on_closed", QComboBox).setCurrentIndex(1)
    driver.find("every_weeks", QComboBox).setCurrentIndex(1)
    driver.press("keep_way")
    (kind,) = kinds(driver.frame.shop)
    assert (kind.on_closed, kind.every_weeks, kind.weekdays) == ("before", 2, [0])
    driver.press(f"cancel_{coming_departures(driver.frame.shop)[0].id}")
    driver.press(f"drop_way_{kind.id}")
    assert kinds(driver.frame.shop) == [] and "Nothing is known yet" in texts(driver.frame)


def test_days_off_and_other_hours(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.frame.nav.open_days()
    driver.press("form_off")
    driver.type("name", "Midwinter")
    driver.find("off_first", QDateEdit).setDate(QDate(2026, 12, 24))
    assert driver.find("off_last", QDateEdit).date() == QDate(2026, 12, 24)  # it never ends before it begins
    driver.press("keep_off")
    assert "Thu 24 Dec 2026" in texts(driver.frame)
    driver.press("form_season")
    driver.type("name", "Summer")
    driver.find("season_first", QDateEdit).setDate(QDate(2027, 7, 1))
    for n in range(1, 7):
        driver.type(f"season_hours_{n}", "shut")
    driver.type("season_hours_0", "9-11")
    driver.press("keep_season")
    assert "Mon 09:00-11:00" in texts(driver.frame)
    found = shop_days.shop_days(driver.frame.shop)
    driver.press(f"drop_season_{found.seasons[0].id}")
    driver.press(f"drop_closed_days_{found.closed[0].id}")
    assert "No days off are known" in texts(driver.frame) and "usual hours hold" in texts(driver.frame)


def test_a_calendar_file_is_read_beside_the_window(drive: Callable[[str], Driver], tmp_path: Path, qtbot: Any) -> None:
    driver = drive("mouse")
    driver.frame.nav.open_days("off")
    page, file = driver.frame.page("days"), tmp_path / "days.ics"
    event = "BEGIN:VEVENT\r\nUID:1\r\nDTSTART;VALUE=DATE:20261224\r\nSUMMARY:Midwinter\r\nEND:VEVENT\r\n"
    file.write_bytes(f"BEGIN:VCALENDAR\r\nVERSION:2.0\r\n{event}END:VCALENDAR\r\n".encode())
    page.bring_file(file)
    qtbot.waitUntil(lambda: bool(shop_days.shop_days(driver.frame.shop).closed) and page._reading is None)
    rest(driver.frame)
    assert "Midwinter" in texts(driver.frame)
    for content, words in ((b"nothing", "no calendar file"), (b"BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n", "no days off")):
        file.write_bytes(content)
        page.bring_file(file)
        qtbot.waitUntil(lambda w=words: w in driver.frame.words.text() and page._reading is None)
    page.bring_file(tmp_path / "none.ics")
    qtbot.waitUntil(lambda: "cannot be read" in driver.frame.words.text() and page._reading is None)


def test_an_instrument_is_due_at_a_time_of_its_own(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    driver.press("way_book_in")
    page = driver.frame.page("book_in")
    page.when.setDateTime(QDateTime(QDate(2025, 1, 1), QTime(9, 0)))
    driver.press("due_then")
    assert "coming year" in driver.frame.words.text() and page.due_at is None
    page.when.setDateTime(QDateTime(QDate(2026, 11, 20), QTime(16, 30)))
    driver.press("due_then")
    driver.type("tag", "MH-0142")
    page._choose_family("alto_saxophone")
    driver.press("book_in")
    job = intake.find_instrument(driver.frame.shop, "MH-0142")
    assert job is not None
    (shipment,) = driver.frame.home.shipments
    assert shipment.departure.single
    local = shipment.departure.leaves_at.astimezone()
    assert (local.date(), local.hour, local.minute) == (date(2026, 11, 20), 16, 30)
    driver.frame.nav.go_home()
    rest(driver.frame)
    (card,) = driver.frame.page("home").shipments.cards.values()
    assert card.head.text().startswith("Due one by one")


def test_the_bench_shows_what_is_booked_first(window: Frame, hand: Hand) -> None:
    from creekbed.window.home.departures import cards_of
    from creekbed.workshop.bench.bench_view import home
    from creekbed.workshop.shop.departures import KindRequest, add_kind

    shop = window.shop
    add_kind(shop, KindRequest("Van", 510, weekdays=(0, 2, 4)))
    far = coming_departures(shop)[5]
    hand.book(departure_id=far.id)
    intake.book_in(shop, "MH-0143", family="alto_saxophone", due_at=shop.now + timedelta(days=2))
    cards = cards_of(home(shop).shipments, 3)
    assert [x[0].departure.id for x in cards.values()][-1] == far.id and len(cards) == 3
    assert [key for key in cards if key == "single"] == ["single"]
    assert next(iter(cards.values()))[0].items == ()  # the next van, for which nothing is booked yet
    assert len(cards_of(home(shop).shipments, 2)) == 2 and all(
        x[0].items for x in cards_of(home(shop).shipments, 2).values()
    )


def test_the_list_is_kept_up_each_day(window: Frame, qtbot: Any, clock: Any) -> None:
    from creekbed.window.frame.upkeep import Upkeep
    from creekbed.workshop.shop.departures import KindRequest, add_kind

    add_kind(window.shop, KindRequest("Van", 510, weekdays=(0,)))
    before = len(coming_departures(window.shop))
    clock.advance(minutes=60 * 24 * 7)
    upkeep = Upkeep(window)
    upkeep._list_departures(window.shop.now.astimezone().date())
    assert len(coming_departures(window.shop)) == before and upkeep.listed_on is not None


def test_the_shop_is_named_in_the_window(drive: Callable[[str], Driver]) -> None:
    from PySide6.QtWidgets import QApplication

    from creekbed.window.shop.identity_dialog import IdentityDialog
    from creekbed.workshop.shop.identity import Identity, identity

    driver, tried = drive("mouse"), []

    def fill() -> None:
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, IdentityDialog)
        dialog.name.setText("x" * 90)
        dialog._keep()
        tried.append(dialog.isVisible())  # what is wrong is said, and the dialog stays
        dialog.name.setText("Our own")
        dialog.address.setPlainText("3 Mill Lane\n\nAnytown\n")
        dialog.paper.setCurrentText("Letter")
        dialog._keep()

    driver.frame.nav.open_house("this_shop")
    rest(driver.frame)
    QTimer.singleShot(200, fill)
    driver.press("to_identity")
    assert tried == [True]
    assert identity(driver.frame.shop) == Identity("Our own", ("3 Mill Lane", "Anytown"), "Letter")
