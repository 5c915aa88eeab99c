"""After a press the focus stays where the work is: on the page, never in the stages above or the bar below."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from PySide6.QtWidgets import QApplication, QPushButton

from creekbed.store.records import Instrument
from creekbed.window.frame.frame import Frame
from tests.conftest import Hand
from tests.window.conftest import Driver, rest


def outside(frame: Frame) -> str:
    """Where the focus is, if that is not the page on show."""
    here = QApplication.focusWidget()
    page = frame.stack.currentWidget()
    if here is None or here is frame or here is page or page.isAncestorOf(here):
        return ""
    return f"{type(here).__name__} {here.objectName()}"


def visible(frame: Frame, names: tuple[str, ...]) -> list[str]:
    found = {b.objectName() for b in frame.stack.currentWidget().findChildren(QPushButton)
             if b.isVisible() and b.isEnabled()}  # fmt: skip
    return [name for name in names if name in found]


PRESSES: dict[str, tuple[str, ...]] = {
    "home": ("take", "aside", "take", "found", "primary"),
    "job case": ("rest", "mode_marks", "mode_case", "case_done"),
    "job look_over": ("rest_sound", "check_main"),
    "job steps": ("primary", "primary"),
    "instruments": ("fleet_bench", "fleet_all"),
    "count": ("count_all", "count_needed", "count_now", "put_aside"),
    "house": ("sax_body_pulls_one", "choose_it"),
    "days": ("weekday_0", "weekday_1", "keep_way"),
    "bath": ("bath_filled", "bath_topped", "bath_empty"),
    "agents": (), "mix": ("mix_made",), "room": ("save_plot_room",), "book": (), "kept": ("read_all",),
    "stock": ("stock_in",), "find": (), "journal": (),
}  # fmt: skip


WALKS = [(place, "keys") for place in sorted(PRESSES)] + [(place, "mouse") for place in ("home", "count", "house")]


@pytest.mark.parametrize(("place", "way"), WALKS)
def test_the_focus_stays_on_the_page(drive: Callable[[str], Driver], hand: Hand, place: str, way: str) -> None:
    job = hand.book("MH-0142")
    with hand.shop.act("made") as act:
        act.records.add(Instrument(tag="VLN-1", family="violin", size="4/4", created_at=hand.shop.now))
    if place in ("home", "job steps"):
        hand.until(job, "disinfect")
    driver = drive(way)
    page, _, tab = place.partition(" ")
    if page == "job":
        driver.frame.nav.open_job(job, tab)
    else:
        driver.frame.nav.open_page(page) if page != "find" else driver.frame.nav.open_find()
    rest(driver.frame)
    assert driver.frame.here == page and outside(driver.frame) == ""
    pressed = 0
    for name in PRESSES[place]:
        if name == "found" or not visible(driver.frame, (name,)):
            continue
        driver.press(name)
        pressed += 1
        assert outside(driver.frame) == "", f"after {name} the focus is at {outside(driver.frame)}"
    assert pressed >= min(len(PRESSES[place]), 1)
