"""What is said lies over the course: nothing moves for it, a plain word goes by itself, a warning stays."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from creekbed.window.frame.frame import Frame
from creekbed.window.frame.notice import STAYS_S
from tests.conftest import Hand
from tests.window.conftest import Driver, rest

LONG = "Cannot all be kept: " + ", ".join(f"MH-{n:04d}, mouthpiece, contact" for n in range(12)) + "."


def test_nothing_moves_when_it_comes_or_goes(window: Frame, hand: Hand) -> None:
    hand.book()
    window.nav.go_home()
    rest(window)
    page = window.page("home")
    before = (page.geometry(), page.shipments.geometry(), page.hand.geometry())
    window.say("Booked in MH-0142.")
    QApplication.processEvents()
    assert window.notice.isVisible() and (page.geometry(), page.shipments.geometry(), page.hand.geometry()) == before
    for stage in window.stage_bar.stages.values():  # they draw together, and stay in sight
        assert stage.height() >= 32 and stage.mapTo(window.body, QPoint(0, stage.height())).y() <= window.notice.y() + 1
    clock = window.stage_bar.clock
    assert window.notice.geometry().right() < clock.mapTo(window.body, QPoint(0, 0)).x()
    assert window.notice.accessibleName() == "Booked in MH-0142."
    window.notice.hush()
    QApplication.processEvents()
    assert all(stage.height() == 72 for stage in window.stage_bar.stages.values())


def test_long_words_have_room_and_it_keeps_its_place(window: Frame) -> None:
    window.nav.go_home()
    window.say(LONG, warn=True)
    QApplication.processEvents()
    words = window.notice.words
    assert words.height() >= words.heightForWidth(words.width())
    high = window.notice.height()
    page = window.page("home")
    assert page.mapTo(window.body, QPoint(0, 0)).y() >= window.notice.geometry().bottom() - 12  # it hides nothing of it
    assert high > window.stage_bar.height()
    window.resize(1000, 700)
    QApplication.processEvents()
    assert window.notice.geometry().right() < window.width() and window.notice.height() >= high
    window.say("Short.")
    assert window.notice.height() < window.stage_bar.height()


def test_a_plain_word_goes_by_itself_and_a_warning_stays(window: Frame) -> None:
    window.nav.go_home()
    window.say("Done.")
    for _ in range(STAYS_S - 1):
        window.ticking.tick()
    assert window.notice.isVisible()
    window.say("Done again.")  # its time begins anew
    window.ticking.tick()
    assert window.notice.isVisible()
    for _ in range(STAYS_S):
        window.ticking.tick()
    assert not window.notice.isVisible() and window.words.text() == "Done again."
    window.say("The clock was set.", warn=True)
    for _ in range(3 * STAYS_S):
        window.ticking.tick()
    assert window.notice.isVisible() and window.notice.warns
    window.hush()
    assert not window.notice.isVisible()


def test_what_is_true_yet_comes_back(window: Frame) -> None:
    window.nav.go_home()
    cold, due = [True], [True]
    window.say("The bath is too cool.", warn=True, still=lambda: cold[0])
    window.say("Due now: MH-0142.", warn=True, still=lambda: due[0])
    window.say("Done.")
    for _ in range(STAYS_S):
        window.ticking.tick()
    assert window.notice.isVisible() and window.notice.warns and window.words.text() == "Due now: MH-0142."
    due[0] = False
    window.ticking.tick()
    assert window.notice.isVisible() and window.words.text() == "The bath is too cool."
    window.say("Said again.")
    cold[0] = False
    window.notice.hide_button.click()
    assert not window.notice.isVisible()


def test_a_refusal_does_not_come_back(window: Frame) -> None:
    window.nav.go_home()
    window.say("That cannot be.", warn=True)
    window.say("Done.")
    window.hush()
    assert not window.notice.isVisible()


def test_more_words_behind_a_warning_do_not_cover_it(window: Frame) -> None:
    window.nav.go_home()
    window.say("The bath is too cool.", warn=True, still=lambda: True, about="bath")
    window.say("The bath is too cool. More.", warn=True, still=lambda: True, about="bath")
    window.hush()
    assert not window.notice.isVisible()


def test_who_points_at_it_still_reads_it(window: Frame) -> None:
    window.nav.go_home()
    window.say("Done.")
    window.notice.hide_button.setFocus(Qt.FocusReason.TabFocusReason)
    QApplication.processEvents()
    for _ in range(2 * STAYS_S):
        window.ticking.tick()
    assert window.notice.isVisible()
    QTest.keyClick(window.notice.hide_button, Qt.Key.Key_Space)
    assert not window.notice.isVisible()


@pytest.mark.parametrize("dress", [{"dark": True}, {"gloves": True}, {"scale": 1.5}])
def test_it_is_there_in_every_dress(drive: Callable[[str], Driver], dress: dict[str, float]) -> None:
    frame = drive("mouse").frame
    old = frame.notice
    frame.say("Said before.", warn=True)
    frame.change_theme(**dress)
    assert not old.isVisible()
    frame.say(LONG, warn=True)
    QApplication.processEvents()
    assert frame.notice is not old and frame.notice.isVisible()
    assert frame.notice.words.height() >= frame.notice.words.heightForWidth(frame.notice.words.width())
    frame.notice.hide_button.click()
    assert not frame.notice.isVisible()
