"""What is made ready before it is wanted, when memory is tidied, and that no action waits for the plan."""

from __future__ import annotations

import gc
import sys
import time
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from creekbed.window.frame import preloading
from creekbed.window.frame.frame import IDLE_S, PAGES, Frame
from creekbed.window.frame.garbage import ALL_EVERY, OLD_EVERY, Tidying
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand
from tests.window.conftest import Driver, opened, rest


@pytest.fixture
def soon(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(preloading, "AFTER_MS", 0)


def test_pages_are_made_before_they_are_wanted(qtbot: Any, shop: Shop, hand: Hand, soon: None) -> None:
    job = hand.book("MH-0901", "trumpet")
    frame = opened(qtbot, Frame(lambda: shop, ahead=True))
    qtbot.waitUntil(lambda: frame.ahead is not None and frame.ahead.done, timeout=60_000)
    assert set(frame._pages) == {"home", "job", "day"} and frame.here == "home"
    assert all(f"creekbed.window.{module}" in sys.modules for module, _ in PAGES.values())
    panels = frame.page("job")._panels
    assert panels["steps"].card is frame.page("job")._card
    assert len(panels) == 4 and all(p.testAttribute(Qt.WidgetAttribute.WA_WState_Polished) for p in panels.values())
    frame.nav.open_job(job, "look_over")
    rest(frame)
    assert frame.page("job").stack.currentWidget() is panels["look_over"] and panels["look_over"].isVisible()
    frame.close()


def test_a_window_that_closes_leaves_what_is_made_ready(qtbot: Any, shop: Shop, hand: Hand, soon: None) -> None:
    hand.book()
    for turns in (0, 1, 3):
        frame = opened(qtbot, Frame(lambda: Shop(shop.folder, shop.clock), ahead=True))
        for _ in range(turns):
            QApplication.processEvents()
        frame.close()
        assert frame.ahead is not None and frame.ahead.done and not frame.ahead._loading.isRunning()


def test_pages_made_by_hand_meanwhile_are_no_trouble(qtbot: Any, shop: Shop, hand: Hand, soon: None) -> None:
    job = hand.book("MH-0902", "violin")
    frame = opened(qtbot, Frame(lambda: shop, ahead=True))
    frame.nav.open_job(job, "steps")
    frame.nav.open_day()
    frame.change_theme(dark=True)  # every page anew, in the middle of it
    qtbot.waitUntil(lambda: frame.ahead is not None and frame.ahead.done, timeout=60_000)
    rest(frame)
    assert frame.here == "day" and frame.page("day").schedule.look() is not None
    frame.close()


# --- memory ---------------------------------------------------------------------------------------------------------


IDLE: list[bool] = []
"""Not empty: nobody is at the window."""


@pytest.fixture
def tidying(qapp: QApplication) -> Iterator[Tidying]:
    owner = QObject()
    found = Tidying(owner, lambda: bool(IDLE))
    found.start()
    yield found
    found.stop()


class Knot:
    """Something that refers to itself."""

    alive = 0

    def __init__(self) -> None:
        self.me = self
        Knot.alive += 1

    def __del__(self) -> None:
        Knot.alive -= 1


def test_garbage_is_collected_between_actions_only(tidying: Tidying) -> None:
    assert not gc.isenabled()
    gc.collect()
    for _ in range(5):
        Knot()
    rubbish = [[] for _ in range(20_000)]  # far more than Python's collector would wait for
    assert Knot.alive == 5 and rubbish
    tidying.tidy()
    assert Knot.alive == 0


def test_what_has_grown_old_is_collected_too(tidying: Tidying) -> None:
    knot = Knot()
    tidying.tidy()
    tidying.tidy()  # it is old by now
    del knot
    for _ in range(OLD_EVERY):
        tidying.tidy()
    assert Knot.alive == 0


def test_all_is_looked_at_when_nobody_is_there(tidying: Tidying) -> None:
    knot = Knot()
    tidying._times = OLD_EVERY - 1
    tidying.tidy()  # it has outlived a look at old objects
    del knot
    for times, idle, alive in ((2 * OLD_EVERY, True, 1), (ALL_EVERY, False, 1), (ALL_EVERY + OLD_EVERY, True, 0)):
        IDLE[:] = [True] if idle else []
        tidying._times = times - 1
        tidying.tidy()
        assert Knot.alive == alive
    IDLE.clear()


def test_who_does_nothing_for_long_is_not_at_the_window(
    drive: Callable[[str], Driver], monkeypatch: pytest.MonkeyPatch
) -> None:
    frame = drive("mouse").frame
    frame.nav.go_home()
    assert not frame.idle
    now = time.monotonic() + IDLE_S + 1
    monkeypatch.setattr("creekbed.window.frame.frame.time.monotonic", lambda: now)
    assert frame.idle
    frame.nav.open_stage("book_in")
    assert not frame.idle


def test_python_collects_again_when_the_window_is_gone(tidying: Tidying) -> None:
    tidying.stop()
    assert gc.isenabled()


# --- what is done is known at once, the plan follows ----------------------------------------------------------------


def test_a_second_press_before_the_card_has_changed_counts_once(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    job = hand.book("MH-0910", "violin")
    hand.until(job, "look")
    driver.frame.nav.go_home()
    rest(driver.frame)
    card, shown = driver.frame.page("home").hand, driver.frame.home.next
    assert shown.step.step.kind == "do"
    key = shown.step.step.key
    entries = len(driver.frame.shop.undoable(100))
    QTest.mouseClick(card.primary, Qt.MouseButton.LeftButton)
    assert driver.frame.planner.behind and driver.frame.home.next is shown  # the picture is that of before
    words = driver.frame.words.text()
    QTest.mouseClick(card.primary, Qt.MouseButton.LeftButton)
    assert driver.frame.words.text() == words and len(driver.frame.shop.undoable(100)) == entries + 1
    rest(driver.frame)
    assert not driver.frame.planner.behind and driver.frame.home.next.step.step.key != key
    assert hand.view(job).step(key).work is not None  # type: ignore[union-attr]


def test_taken_up_and_put_aside_twice_counts_once(drive: Callable[[str], Driver], hand: Hand, shop: Shop) -> None:
    hand.book("MH-0911", "violin")
    driver = drive("mouse")
    rest(driver.frame)
    page, following = driver.frame.page("home"), driver.frame.home.next
    job, key = following.view.job.id, following.step.step.key
    page.hand.taken.emit(job, key)
    page.hand.taken.emit(job, key)
    assert [e.action for e in shop.undoable(3)].count("take_up") == 1
    page.hand.aside.emit()
    page.hand.aside.emit()
    assert driver.frame.words.text() == "MH-0911: put aside"
    rest(driver.frame)
    page.hand.failed.emit(job, "no_such_step")  # what is not there cannot fail: nothing is asked
    assert QApplication.activeModalWidget() is None


def test_another_page_knows_at_once(window: Frame, hand: Hand, shop: Shop) -> None:
    job = hand.book("MH-0912", "violin")
    window.nav.open_job(job, "case")
    rest(window)
    page, item = window.page("job"), shop.catalogue.families["violin"].item[0].key
    before = page.tabs["case"].text()
    window.do(lambda: intake.tick_item(shop, job, item, "present"))
    assert (
        window.planner.behind and page.tabs["case"].text() != before and item in page.view.lines
    )  # drawn before the plan is
    assert page.forecast.text()
    rest(window)
    assert page.forecast.text().startswith("ready about")


def test_the_forecast_on_an_instruments_page_follows_the_plan(window: Frame, hand: Hand, shop: Shop) -> None:
    job = hand.book("MH-0913", "violin")
    window.nav.open_job(job, "steps")
    rest(window)
    page = window.page("job")
    before = page.forecast.text()
    for n in range(6):
        hand.book(f"MH-092{n}", "alto_saxophone")
    hand.clock.advance(minutes=50)
    window.refresh()
    rest(window)
    assert page.forecast.text() != before


def test_one_thing_after_another_before_the_plan_is_made(window: Frame, hand: Hand, shop: Shop) -> None:
    job = hand.book("MH-0914", "violin")
    rest(window)
    for item in shop.catalogue.families["violin"].item:
        window.do(lambda key=item.key: intake.tick_item(shop, job, key, "present"))  # type: ignore[misc]
    assert window.planner.behind and len(window.records.job(job).lines) == len(shop.catalogue.families["violin"].item)
    window.do(lambda: job_steps.finish_step(shop, job, "contents"))
    rest(window)
    assert not window.planner.behind and window.home.next.step.step.key != "contents"
    assert [v.tag for v in window.home.jobs] == [v.tag for v in window.records.views]


class Paints(QObject):
    """Counts how often a widget is painted."""

    def __init__(self, widget: QWidget):
        super().__init__(widget)
        self.count = 0
        widget.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        self.count += event.type() == QEvent.Type.Paint
        return False


def test_the_creek_is_painted_from_its_picture(window: Frame, hand: Hand) -> None:
    for n in range(3):
        hand.book(f"MH-093{n}", "violin")
    window.nav.go_home()
    rest(window)
    schedule = window.page("home").schedule
    drawn, paints = schedule.drawn, Paints(schedule)
    assert drawn is not None and drawn.bars
    schedule.update()
    QApplication.processEvents()
    schedule.choose(drawn.bars[0][1])
    QApplication.processEvents()
    assert paints.count and schedule.drawn is drawn  # what is chosen is painted over it
    before = schedule.grab().toImage()
    schedule.choose(None)
    QApplication.processEvents()
    assert schedule.grab().toImage() != before
    schedule.resize(schedule.width() - 40, schedule.height())
    schedule.grab()
    assert schedule.drawn is not drawn and schedule.drawn.size == schedule.size()  # another size is drawn anew


def test_two_days_stand_side_by_side_when_both_are_drawn(drive: Callable[[str], Driver], hand: Hand) -> None:
    for n in range(3):
        hand.book(f"MH-094{n}", "violin")
    driver = drive("mouse")
    driver.press("way_day")
    page = driver.frame.page("day")
    page._try(1)
    while page.trying.busy:
        QApplication.processEvents()
        if not page.views.updatesEnabled():
            assert not page.then.isHidden()  # it has its place, and is not painted before it is drawn for that
    assert page.views.updatesEnabled() and page.then.drawn is not None and page.then.drawn.size == page.then.size()
    assert page.schedule.drawn.size == page.schedule.size() and abs(page.schedule.height() - page.then.height()) <= 1
    page._leave_trial()
    page.frame.close()  # in the middle of it
    assert not page.drawing.busy
