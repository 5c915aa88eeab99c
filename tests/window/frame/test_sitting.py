"""Sitting down by key."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from creekbed.window.frame.sitting import seat_key
from creekbed.workshop.shop import staff
from tests.window.conftest import Driver, rest


def ctrl(driver: Driver, digit: Qt.Key) -> None:
    QTest.keyClick(driver.frame.windowHandle(), digit, Qt.KeyboardModifier.ControlModifier)
    rest(driver.frame)


def test_people_sit_down_by_their_number(drive: Callable[[str], Driver]) -> None:
    driver = drive("keys")
    shop = driver.frame.shop
    for initials in ("TO", "AB"):
        staff.add_worker(shop, initials)
    assert [seat_key(driver.frame, p) for p in ("AB", "IW", "TO", "XX")] == ["Ctrl+1", "Ctrl+2", "Ctrl+3", ""]
    ctrl(driver, Qt.Key.Key_3)
    assert shop.person == "TO" and "TO works at this window now" in driver.frame.words.text()
    assert seat_key(driver.frame, "TO") == "Ctrl+3", "the order does not change with who sits there"
    ctrl(driver, Qt.Key.Key_3)
    assert "already" in driver.frame.words.text()
    ctrl(driver, Qt.Key.Key_9)
    assert shop.person == "TO" and "Nobody has Ctrl+9" in driver.frame.words.text()
