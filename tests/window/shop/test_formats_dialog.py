"""The dialogue of clock, money and units, from the list of a new shop and from the house rules."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QLabel

from creekbed.core import conventions
from creekbed.window.shop.formats_dialog import FormatsDialog
from creekbed.workshop.shop.formats import formats
from creekbed.workshop.shop.house_numbers import house_numbers
from creekbed.workshop.shop.identity import identity
from tests.window.conftest import Driver, rest


def _work(act: Callable[[FormatsDialog], object]) -> list[bool]:
    """Do something in the dialogue once it is there; empty as long as it never was."""
    seen: list[bool] = []

    def do() -> None:
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, FormatsDialog)
        seen.append(True)
        act(dialog)

    QTimer.singleShot(200, do)
    return seen


def test_a_country_fills_in_the_rest_and_all_pages_follow(drive: Callable[[str], Driver]) -> None:
    driver = drive("keys")
    driver.frame.nav.open_house("this_shop")
    rest(driver.frame)

    def fill(dialog: FormatsDialog) -> None:
        dialog.country.setCurrentIndex(dialog.country.findData("US"))
        dialog._country_chosen()
        assert "$1,234.50" in dialog.looks.text() and "68.9 °F" in dialog.looks.text()
        assert "paper Letter" in dialog.looks.text()
        dialog.pitch.setCurrentIndex(dialog.pitch.findData(442.0))
        dialog.room.setText("70 °F")
        dialog._keep()

    seen = _work(fill)
    driver.press("to_formats")
    rest(driver.frame)
    shop = driver.frame.shop
    assert seen == [True] and formats(shop).currency == "USD" and identity(shop).paper == "Letter"
    assert house_numbers(shop).a4_hz == 442 and round(house_numbers(shop).room_c, 1) == 21.1
    words = " ".join(w.text() for w in driver.frame.page("house").findChildren(QLabel))
    assert "12 h, USD, US units, A4 = 442 Hz, room 70 °F" in words
    driver.frame.nav.open_tool("bath")
    rest(driver.frame)
    assert driver.frame.page("bath").fields.fields["bath_at"].text().endswith("°F")
    assert "gal" in driver.frame.page("bath").amounts.text()


def test_what_is_wrong_is_said_and_nothing_is_kept(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.frame.nav.open_house("this_shop")
    rest(driver.frame)

    def fill(dialog: FormatsDialog) -> None:
        dialog.hours.setCurrentIndex(dialog.hours.findData(12))
        dialog.room.setText("warm")
        dialog._keep()
        assert dialog.isVisible()
        dialog.reject()

    seen = _work(fill)
    driver.press("to_formats")
    assert seen == [True] and formats(driver.frame.shop) == conventions.PLAIN
    assert "“warm”" in driver.frame.words.text()
