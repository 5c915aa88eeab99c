"""A disk that takes its time: the window lives on, nothing is pressed twice, and what was done is on record or told."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton
from sqlalchemy import event
from sqlalchemy.exc import OperationalError

from creekbed.store.records import ShownPlan
from creekbed.store.store import Store
from creekbed.window.frame.frame import Frame
from creekbed.window.records import waiting
from creekbed.workshop.arrival.photos import PACKING, add_photo
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand
from tests.window.conftest import Driver, rest

LONGEST_S = 60
"""A disk that is never let go answers in the end, so that a failing test ends too."""


class SlowDisk:
    """Holds what is written next until it is let go; ``refuses`` makes it fail then."""

    def __init__(self, store: Store):
        self.refuses = False
        self.asked, self._answers = threading.Event(), threading.Event()
        self._slow = False
        event.listen(store.engine, "commit", self._commit)

    def hold(self, look: Callable[[], None]) -> None:
        """Be slow with the next thing; ``look`` is done in the window meanwhile, and then the disk answers."""
        self.asked.clear()
        self._answers.clear()
        self._slow = True

        def try_to() -> None:
            if not self.asked.is_set():
                QTimer.singleShot(1, try_to)
                return
            try:
                look()
            finally:
                self._answers.set()

        QTimer.singleShot(0, try_to)

    def _commit(self, connection: Any) -> None:
        if not self._slow or not threading.current_thread().name.startswith("disk"):
            return
        self._slow = False
        self.asked.set()
        self._answers.wait(LONGEST_S)
        if self.refuses:
            error = sqlite3.OperationalError("database or disk is full")
            error.sqlite_errorcode = sqlite3.SQLITE_FULL
            raise OperationalError("COMMIT", {}, error)


@pytest.fixture
def disk(window: Frame) -> Iterator[SlowDisk]:
    rest(window)
    yield SlowDisk(window.shop.store)


@pytest.fixture
def said_at_once(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(waiting, "SAID_AFTER_S", -1.0)


def _way_on(window: Frame) -> QPushButton:
    """A way to another page."""
    found: QPushButton = window.findChild(QPushButton, "way_stock")
    return found


def _on_record(shop: Shop) -> int:
    with shop.reading() as records:
        return records.journal.newest()


def test_the_window_lives_and_presses_are_not_taken(
    window: Frame, hand: Hand, disk: SlowDisk, said_at_once: None, drive: Callable[[str], Driver]
) -> None:
    """What is pressed meanwhile would meet another page than the one it was meant for."""
    before, driver, seen = _on_record(window.shop), drive("mouse"), []

    def look() -> None:
        seen.append(window.words.text())
        here = window.here
        for _ in range(3):
            QTest.mouseClick(_way_on(window), Qt.MouseButton.LeftButton)
            driver.key(Qt.Key.Key_F7)
            QApplication.processEvents()
        window.scans.scanned("MH-0999")
        assert window.here == here
        assert _on_record(window.shop) == before  # nobody sees what is not yet on disk

    disk.hold(look)
    assert window.do(lambda: hand.book("MH-0142"))
    assert "disk is slow" in seen[0] and "not taken" in seen[0]
    assert "MH-0142" in window.words.text() and _on_record(window.shop) > before
    rest(window)
    assert window.here == "home"  # the scan was not followed later either
    QTest.mouseClick(_way_on(window), Qt.MouseButton.LeftButton)
    rest(window)
    assert window.here != "home"  # presses are taken again


def test_a_scan_in_the_first_moment_is_followed_when_it_is_written(window: Frame, hand: Hand, disk: SlowDisk) -> None:
    job = hand.book("MH-0142")
    window.refresh()
    rest(window)
    disk.hold(lambda: window.scans.scanned("MH-0142"))
    assert window.do(lambda: hand.book("MH-0143", "flute"))
    assert window.here == "home"
    rest(window)
    assert window.here == "job" and window.page("job").job_id == job


def test_what_the_disk_does_not_take_is_told_and_not_done(
    window: Frame, hand: Hand, disk: SlowDisk, said_at_once: None
) -> None:
    before, disk.refuses = _on_record(window.shop), True
    disk.hold(lambda: None)
    assert not window.do(lambda: hand.book("MH-0142"))
    assert "full" in window.words.text() and _on_record(window.shop) == before
    assert window.do(lambda: hand.book("MH-0142"))


def test_the_message_goes_when_the_wait_is_over(window: Frame, hand: Hand, disk: SlowDisk, said_at_once: None) -> None:
    disk.hold(lambda: None)
    hand.book("MH-0142")  # without a word of its own
    rest(window)
    assert window.notice.isHidden()


def test_a_window_that_is_closed_meanwhile_closes_when_it_is_written(
    window: Frame, hand: Hand, disk: SlowDisk, said_at_once: None, qtbot: Any
) -> None:
    def look() -> None:
        window.close()
        assert window.isVisible()

    folder = window.shop.folder
    disk.hold(look)
    assert window.do(lambda: hand.book("MH-0142"))
    qtbot.waitUntil(window.isHidden)
    store = Store(folder)
    with store.read() as records:
        assert records.jobs.open_of("MH-0142") is not None
    store.close()


def test_people_go_on_while_a_note_is_written(window: Frame, hand: Hand, disk: SlowDisk) -> None:
    """A note is nobody's action: it does not hold up what people do, and is on record before it."""
    done: list[bool] = []

    def look() -> None:
        QTimer.singleShot(0, lambda: done.append(window.do(lambda: hand.book("MH-0142"))))

    disk.hold(look)
    with window.shop.noting() as change:
        number = (change.planning.plan_number() or 0) + 1
        change.forget(ShownPlan, 1)
        change.add(ShownPlan(number=number, at=window.shop.now, steps=[], assessment=None))
    rest(window)
    assert done == [True]
    with window.shop.reading() as records:
        assert records.jobs.open_of("MH-0142") is not None and (records.planning.plan_number() or 0) >= number


def test_one_s_own_action_is_not_taken_for_another_s(
    window: Frame, hand: Hand, disk: SlowDisk, said_at_once: None
) -> None:
    found: list[Any] = []
    window.shop.others()
    disk.hold(lambda: found.extend(window.shop.others()))
    hand.book("MH-0142")
    assert not found and not window.shop.others()


def test_plans_and_ticks_wait_for_the_action(window: Frame, hand: Hand, disk: SlowDisk, said_at_once: None) -> None:
    """What is drawn and read by itself goes on when the action is done; waits ring meanwhile."""
    window.planner.plan_anew()
    busy: list[bool] = []

    def look() -> None:
        for _ in range(20):
            QApplication.processEvents()
        window.ticking.tick()
        busy.append(window.planner.work.busy)

    disk.hold(look)
    hand.book("MH-0142")
    assert busy == [True]
    rest(window)
    assert not window.planner.work.busy


def test_work_beside_the_window_waits_without_touching_it(
    window: Frame, hand: Hand, disk: SlowDisk, said_at_once: None, qtbot: Any
) -> None:
    """A list that is brought in a thread of its own: its wait says nothing, and takes nobody's presses."""
    seen: list[tuple[bool, str]] = []

    def look() -> None:
        QTest.mouseClick(_way_on(window), Qt.MouseButton.LeftButton)
        seen.append((window.notice.isHidden(), window.here))

    disk.hold(look)
    window.notice.hush()
    work = threading.Thread(target=lambda: hand.book("MH-0142"))
    work.start()
    qtbot.waitUntil(lambda: bool(seen) and not work.is_alive())
    assert seen == [(True, "stock")]
    rest(window)
    with window.shop.reading() as records:
        assert records.jobs.open_of("MH-0142") is not None


def test_a_photograph_is_written_beside_the_window(window: Frame, hand: Hand, monkeypatch: pytest.MonkeyPatch) -> None:
    import io

    from PIL import Image

    from creekbed.store.photos import PhotoStore

    threads: list[str] = []
    keep = PhotoStore.keep

    def seen(self: PhotoStore, picture: Any) -> str:
        threads.append(threading.current_thread().name)
        return keep(self, picture)

    monkeypatch.setattr(PhotoStore, "keep", seen)
    data = io.BytesIO()
    Image.new("RGB", (64, 48), "tan").save(data, "JPEG")
    add_photo(window.shop, hand.book("MH-0142"), data.getvalue(), PACKING)
    assert threads and threads[0].startswith("disk")


def test_the_window_lives_while_its_records_are_opened(qtbot: Any, shop: Shop) -> None:
    """A copy is made, tables are migrated, a disk wakes up: the words that say so are drawn meanwhile."""
    let_go = threading.Event()

    def slowly() -> Shop:
        assert let_go.wait(LONGEST_S)
        return shop

    frame = Frame(slowly)
    qtbot.addWidget(frame)
    frame.show()
    QTimer.singleShot(0, let_go.set)
    assert frame.open_shop() and frame.here == "home"
