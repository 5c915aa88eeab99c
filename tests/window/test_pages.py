"""Pages: errors in words, scans at odd moments, switches, waits, the look at every size."""

from __future__ import annotations

import os
import sqlite3
import sys
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QFontDatabase, QKeyEvent, QPainterPath, QRawFont
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLabel, QLineEdit, QPushButton, QWidget

from creekbed.core.catalogue.load import shipped
from creekbed.store.layout import FILE
from creekbed.store.sqlite.backup import back_up
from creekbed.window.frame import wedge_scanner
from creekbed.window.frame.frame import Frame
from creekbed.window.frame.wedge_scanner import CODE
from creekbed.window.home.departures import ItemButton
from creekbed.window.home.running_waits import WaitCard
from creekbed.window.job.case_panel import CaseRow
from creekbed.window.shared import theme
from creekbed.window.shared.dialogs import AskDialog
from creekbed.window.tools.base import TOOLS
from creekbed.words.times import clock_words, count_down, in_words
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps
from creekbed.workshop.cleaning import shelf
from creekbed.workshop.inspection import findings as inspection
from creekbed.workshop.release import release_check
from creekbed.workshop.shop import policies
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.departures import add_departure
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.conftest import MORNING, Hand
from tests.window.conftest import Driver, answer, rest, rest_of_all, when_asked

# --- scans ----------------------------------------------------------------------------------------------------------


def test_a_scan_goes_to_the_instrument_from_anywhere(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    job = hand.book()
    for way in ("way_stock", "way_mix", "way_house", "way_journal", "way_book_in"):
        driver.press(way)
        driver.scan("MH-0142")
        assert driver.frame.here == "job" and driver.frame.page("job").job_id == job


def test_a_scan_into_a_field_leaves_the_field_as_it_was(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    hand.book()
    driver.press("way_mix")
    driver.type("make", "250 ml")
    driver.find("make", QLineEdit).setFocus()
    driver.scan("MH-0142")
    assert driver.frame.here == "job"
    assert driver.frame.page("mix").make.text() == "250 ml"


def test_scanned_twice(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    hand.book()
    driver.scan("MH-0142")
    driver.scan("MH-0142")
    assert driver.frame.here == "job" and "on the screen already" in driver.frame.words.text()


def test_scanned_while_a_question_is_open(drive: Callable[[str], Driver], hand: Hand, qtbot: Any) -> None:
    driver = drive("mouse")
    first, second = hand.book("MH-0142"), hand.book("MH-0150")
    intake.tick_item(driver.frame.shop, first, "strap", "missing")
    driver.scan("MH-0142")
    driver.frame.page("job").show_tab("case")
    held: list[str] = []

    def scan_then_answer(dialog: AskDialog) -> None:
        driver.scan("MH-0150")
        held.append(dialog.held.text())
        dialog.field.setText("the renter has one")
        dialog.ok.click()

    when_asked(scan_then_answer)
    driver.press("strap_waive")
    assert "Scanned MH-0150" in held[0]
    assert hand.view(first).lines["strap"].state == "waived"  # the answer was kept
    qtbot.waitUntil(lambda: driver.frame.page("job").job_id == second)


def test_a_strange_code_is_said(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.scan("SU-UNKNOWN-THING")
    assert "no code of this shop" in driver.frame.words.text()


def test_a_drawer_label_opens_its_supply(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.scan("SU-REED-ALTO-2")
    assert driver.frame.here == "stock"
    assert driver.frame.page("stock").item.currentData() == "reed_alto_2"


def test_a_scan_presses_no_button(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    job = hand.book()
    hand.do(job, "contents")
    driver.frame.nav.go_home()
    driver.frame.page("home").hand.primary.setFocus()
    before = len(driver.frame.shop.undoable(500))
    driver.scan("MH-0142")
    assert len(driver.frame.shop.undoable(500)) == before


def test_slow_keys_are_typing_and_come_through_by_themselves(drive: Callable[[str], Driver], qtbot: Any) -> None:
    driver = drive("keyboard")
    driver.frame.nav.open_book_in()
    field = driver.frame.page("book_in").tag
    field.setFocus()
    driver.letters("MH-0")
    assert field.text() == ""  # held back: it might be a scan
    qtbot.waitUntil(lambda: field.text() == "MH-0")


def test_a_busy_program_does_not_tear_a_scan_apart(
    drive: Callable[[str], Driver], hand: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The pause is noticed, but keys are waiting in the queue: they still belong to the burst."""
    for name in ("GAP_MS", "GRACE_MS"):  # the one pause is made here; a busy machine makes no others
        monkeypatch.setattr(wedge_scanner, name, 60_000)
    driver = drive("keyboard")
    job = hand.book()
    driver.letters("MH-")
    driver.frame.scanner._paused()
    driver.letters("0142")
    driver.key(Qt.Key.Key_Return)
    assert driver.frame.page("job").job_id == job


def test_keys_that_are_no_letters_keep_their_order(drive: Callable[[str], Driver], qtbot: Any) -> None:
    driver = drive("keyboard")
    driver.frame.nav.open_book_in()
    field = driver.frame.page("book_in").tag
    field.setFocus()
    driver.letters("MH-02")
    driver.key(Qt.Key.Key_Backspace)
    driver.letters("7")
    qtbot.waitUntil(lambda: field.text() == "MH-07")


def test_a_key_held_down_repeats(drive: Callable[[str], Driver]) -> None:
    driver = drive("keyboard")
    driver.frame.nav.open_book_in()
    field = driver.frame.page("book_in").came_from
    field.setFocus()
    for _ in range(5):
        QApplication.sendEvent(
            driver.frame.windowHandle(),
            QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_A, Qt.KeyboardModifier.NoModifier, "a", True),
        )
    assert field.text() == "aaaaa"


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("MH-0142", True),
        ("mh0142", True),
        ("SU-REED", True),
        ("1047", True),
        ("VLN-034/2", True),
        ("A.17", True),
        ("2.4 mm", False),
        ("16", False),
        ("hello", False),
        ("12.34", False),
        ("12.34mm", False),
        ("40063813", False),
    ],
)
def test_what_looks_like_a_code(text: str, code: bool) -> None:
    assert bool(CODE.match(text)) is code


# --- bad input ------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ("", "is empty"),
        ("banana", "not a number"),
        ("-3 mm", "cannot be less"),
        ("3 kg", "does not measure"),
        ("3 furlongs!", "not a unit"),
        ("99 in", "cannot be more"),
    ],
)
def test_measurements_that_cannot_be(drive: Callable[[str], Driver], hand: Hand, typed: str, words: str) -> None:
    driver = drive("mouse")
    job = hand.book()
    driver.frame.nav.open_job(job, "look_over")
    if typed:
        driver.type("neck_cork_value", typed)
    driver.press("neck_cork_record")
    assert words in driver.frame.words.text() and driver.frame.notice.property("state") == "warn"
    assert hand.view(job).findings == {}


def test_the_caliper_pulled_out(drive: Callable[[str], Driver], hand: Hand, caliper: Any) -> None:
    driver = drive("mouse")
    job = hand.book()
    driver.frame.nav.open_job(job, "look_over")
    caliper.value_mm = None
    driver.caliper("neck_cork_caliper", lambda: "The caliper says: open" in driver.frame.words.text())
    assert hand.view(job).findings == {}
    caliper.value_mm = 7.4
    driver.caliper("neck_cork_caliper", lambda: bool(hand.view(job).findings))
    assert hand.view(job).findings["neck_cork"].band == "green"


def test_not_sure_asks_again_and_takes_the_mean(drive: Callable[[str], Driver], hand: Hand, caliper: Any) -> None:
    driver = drive("mouse")
    job = hand.book()
    driver.frame.nav.open_job(job, "look_over")
    caliper.value_mm = 10.9
    driver.caliper("neck_cork_caliper", lambda: "Measure again" in driver.frame.words.text())
    driver.caliper("neck_cork_caliper", lambda: len(hand.view(job).findings["neck_cork"].readings) == 2)


def test_a_silent_caliper_does_not_stop_the_window(drive: Callable[[str], Driver], hand: Hand, qtbot: Any) -> None:
    """While it is asked the window goes on working; a second press asks no second time."""
    driver = drive("mouse")
    job = hand.book()
    driver.frame.nav.open_job(job, "look_over")
    master, slave = os.openpty()
    driver.frame.devices.ports["caliper"] = os.ttyname(slave)
    driver.press("neck_cork_caliper")
    asked = driver.frame.devices.asking
    assert asked is not None and asked.isRunning()
    driver.press("neck_cork_caliper")
    assert driver.frame.devices.asking is asked
    driver.press("mouthpiece_sound")  # other work goes on meanwhile
    assert hand.view(job).findings["mouthpiece"].choice == "sound"
    qtbot.waitUntil(lambda: "does not answer" in driver.frame.words.text())
    os.close(master)
    os.close(slave)


@pytest.mark.parametrize(
    ("target", "make", "words"),
    [
        ("9 %", "500 ml", "weaker"),
        ("3 %", "0 ml", "more than 0"),
        ("0 %", "500 ml", "more than 0"),
        ("3 %", "5 l", "are needed"),
        ("x", "500 ml", "not a number"),
        ("3 %", "2 mm", "does not measure"),
    ],
)
def test_mixes_that_cannot_be(window: Frame, target: str, make: str, words: str) -> None:
    window.nav.open_mix()
    page = window.page("mix")
    page.target.setText(target)
    page.make.setText(make)
    assert words in page.then.text()
    assert not page.made.isEnabled()


def test_a_step_says_what_it_takes_and_a_mix_what_to_write(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    job = hand.book()
    hand.until(job, "mouth_wash")
    driver.frame.nav.open_job(job, "steps")
    panel = driver.frame.page("job").steps
    panel.choose("disinfect")
    assert panel.card.uses == "100 ml of Peroxide mix 3 %"
    panel.choose("mix")
    driver.press("primary")
    words = driver.frame.page("mix").label_words.text()
    assert "hydrogen peroxide 3.00 %" in words and "by IW" in words and "discard Thu" in words


def test_a_mix_alone_becomes_stock(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.press("way_mix")
    page = driver.frame.page("mix")
    page.make.setText("1 cup")
    assert "237" in page.then.text() or "236" in page.then.text()  # US cup 236.6 ml
    driver.press("mix_made")
    mix = next(v for v in stock.stock_list(driver.frame.shop) if v.supply.key == "peroxide_3_ml")
    assert mix.amount == pytest.approx(236.588, abs=0.01)
    assert mix.lots[0].strength_pct == pytest.approx(6 * 125 / 236.588, abs=0.01)  # 118 ml rounds to the 125 ml mark


def test_stock_in_and_counted(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.frame.nav.open_stock("pad_paper")
    driver.type("stock_amount", "ten")
    driver.press("stock_in")
    assert "is not a count" in driver.frame.words.text()
    driver.type("stock_amount", "10")
    driver.press("stock_in")
    assert "Stock in: 10 sheets" in driver.frame.words.text()
    driver.frame.nav.open_stock("pad_paper")
    driver.type("stock_amount", "3")
    driver.press("stock_count")
    assert "run short" in driver.frame.page("stock").head.text()
    driver.frame.nav.open_stock("peroxide_6_ml")
    driver.type("stock_amount", "1 l")
    driver.press("stock_in")
    assert "strength of the bottle is missing" in driver.frame.words.text()


def test_booking_in_says_what_a_tag_means(drive: Callable[[str], Driver], hand: Hand, qtbot: Any) -> None:
    driver = drive("mouse")
    job = hand.book()
    driver.press("way_book_in")
    page = driver.frame.page("book_in")
    driver.type("tag", "MH-0142")
    assert "booked in already" in page.known.text()
    driver.press("book_in")
    assert driver.frame.page("job").job_id == job
    driver.press("way_book_in")
    driver.type("tag", "MH-0555")
    assert page.new.isVisible()
    driver.press("book_in")
    assert "new here" in driver.frame.words.text()
    driver.type("case_c", "4 °C")
    assert "gather water" in page.climate.text()
    driver.type("case_c", "900 °C")
    assert "cannot be more" in page.climate.text()


def test_a_cold_case_stays_shut(window: Frame, hand: Hand, clock: HandClock) -> None:
    job = hand.book(case_c=4.0)
    window.nav.open_job(job, "case")
    panel = window.page("job").case
    assert "Keep the case shut until" in panel.head.text() and not panel.rest.isEnabled()
    window.nav.go_home()
    rest(window)
    assert window.page("home").cards[0].name.text() == "Shut case, coming to room"
    clock.advance(minutes=80)
    window.ticking.tick()
    rest(window)
    window.nav.open_job(job, "case")
    assert "Keep the case shut" not in panel.head.text() and panel.rest.isEnabled()


def test_a_departure_is_added_and_taken(drive: Callable[[str], Driver], clock: HandClock) -> None:
    driver = drive("mouse")
    driver.press("way_book_in")
    driver.press("add_departure")
    assert driver.frame.page("book_in").departure_id == 1
    assert "Friday departure" in driver.frame.words.text()


# --- questions ------------------------------------------------------------------------------------------------------


def test_waiving_and_replacing_in_the_case(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    job = hand.book()
    driver.frame.nav.open_job(job, "case")
    driver.press("end_plug_missing")
    driver.press("end_plug_replace")
    assert "order more" in driver.frame.words.text()
    driver.press("strap_missing")
    seen: list[str] = []
    answer(None, seen)
    driver.press("strap_waive")
    assert seen == ["Goes without neck strap"] and hand.view(job).lines["strap"].state == "missing"
    answer("the renter has one")
    driver.press("strap_waive")
    assert hand.view(job).lines["strap"].state == "waived"
    driver.press("strap_is_here")
    assert hand.view(job).lines["strap"].state == "present"


def test_marks_on_the_instrument(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    job = hand.book()
    driver.frame.nav.open_job(job, "case")
    panel = driver.frame.page("job").case
    driver.press("mode_marks")
    panel.kind.setCurrentText("dent")
    panel.size_field.setText("3/8 in")
    driver.press("note_mark")
    words = [w.text() for w in panel.form.findChildren(QLabel)]
    assert any("dent, 9.525 mm (new)" in w for w in words)
    panel.size_field.setText("-2")
    driver.press("note_mark")
    assert "cannot be less" in driver.frame.words.text()


def test_deciding_otherwise(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    job = hand.book("MH-0300", "violin")
    hand.look(job, bridge_lean=5)
    driver.frame.nav.open_job(job, "look_over")
    seen: list[bool] = []

    def decide(dialog: AskDialog) -> None:
        dialog.field.setText("set last week by the luthier")
        seen.append(dialog.ok.isEnabled())  # a reason alone decides nothing
        dialog.choice_buttons["ready"].click()
        dialog.ok.click()

    when_asked(decide)
    driver.press("bridge_lean_overrule")
    finding = hand.view(job).findings["bridge_lean"]
    assert seen == [False]
    assert (finding.overruled, finding.overrule_reason) == ("ready", "set last week by the luthier")


def test_sent_out_and_back(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    job = hand.book("MH-0300", "violin")
    hand.until(job, "look_tuned", bridge_lean=5)
    driver.frame.nav.open_job(job)
    answer("luthier")
    driver.press("send_out")
    assert driver.frame.page("job").forecast.text() == "At the luthier"
    assert not driver.find("primary").isEnabled()
    answer("bridge set square")
    driver.press("back")
    assert hand.view(job).findings["bridge_lean"].closed == "bridge set square"


def test_quarantine(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    job = hand.book()
    driver.frame.nav.open_job(job)
    answer("mould")
    driver.press("quarantine")
    assert hand.view(job).job.quarantine == "Quarantine: mould" and "FFP2" in driver.frame.words.text()
    driver.press("lift")
    assert hand.view(job).job.quarantine == ""


def test_a_test_that_failed(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    job = hand.book("MH-0300", "violin")
    hand.until(job, "hands")
    driver.frame.nav.go_home()
    driver.frame.refresh()
    rest(driver.frame)
    assert driver.frame.home.next.step.step.key == "play"
    answer("the G string buzzes")
    driver.press("failed")
    assert "buzzes" in hand.view(job).findings["play"].reason
    answer("string seated again")
    driver.press("play_close")
    assert hand.view(job).findings["play"].closed


def test_leaving_out_and_ending_early(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    job = hand.book()
    hand.until(job, "body_air")
    driver.frame.nav.open_job(job, "steps")
    for _ in driver.frame.page("job").view.waits:
        answer("weighed dry")
        driver.press("early")
        assert "ended early" in driver.frame.words.text()
    driver.frame.page("job").steps.choose("together")
    answer("it was together all the time")
    driver.press("waive")
    assert hand.view(job).step("together").state == "waived"  # type: ignore[union-attr]


def test_the_focus_stays_where_the_work_is(drive: Callable[[str], Driver], hand: Hand, qtbot: Any) -> None:
    """A rebuilt panel hands the focus on: a keyboard user need not come all the way again."""
    driver = drive("keyboard")
    job = hand.book()
    driver.frame.nav.open_job(job, "look_over")

    def focus() -> str:
        return getattr(QApplication.focusWidget(), "objectName", str)()

    driver.press("mouthpiece_lime")
    qtbot.waitUntil(lambda: focus() == "mouthpiece_lime")
    driver.press("patch_none")  # good: the next check is opened, and F2 or the space bar goes on
    qtbot.waitUntil(lambda: focus() == "check_main")


def test_a_fault_of_the_program_is_said_and_nothing_is_lost(window: Frame, hand: Hand, capsys: Any) -> None:
    job = hand.book()
    try:
        raise RuntimeError("a mistake of ours")
    except RuntimeError as error:
        window.something_broke(type(error), error, error.__traceback__)
    assert "What was acknowledged is safe" in window.words.text()
    assert "a mistake of ours" in capsys.readouterr().err
    assert hand.view(job).tag == "MH-0142"


# --- waits ----------------------------------------------------------------------------------------------------------


def test_vessels_drain_and_say_what_then(window: Frame, hand: Hand, clock: HandClock, monkeypatch: Any) -> None:
    beeps: list[int] = []
    monkeypatch.setattr(QApplication, "beep", staticmethod(lambda: beeps.append(1)))
    job = hand.book()
    hand.until(job, "disinfect")
    window.nav.go_home()
    rest(window)
    page = window.page("home")
    wait_card: WaitCard = page.cards[0]
    assert wait_card.left.text() == "10 min" and "keep it wet" in wait_card.then.text()
    latest = clock_words(clock.now() + timedelta(minutes=20), clock.now())
    assert f"by {latest} at the latest" in wait_card.then.text()
    clock.advance(minutes=2.5)
    window.ticking.tick()
    assert (
        wait_card.left.text() == "7:30"
        and 0.74 < wait_card.level.share < 0.76
        and "still wet?" in wait_card.then.text()
    )
    clock.advance(minutes=8)
    window.ticking.tick()
    assert page.cards[0].left.text() == "due" and beeps == [1]
    window.ticking.tick()
    assert beeps == [1]  # once
    clock.advance(minutes=12)
    window.ticking.tick()
    wait_card = page.cards[0]
    assert (
        wait_card.left.text() == "over" and wait_card.property("state") == "warn" and "at once" in wait_card.then.text()
    )


def test_many_waits_stand_closer_so_that_all_are_in_sight(window: Frame, hand: Hand, clock: HandClock) -> None:
    jobs = [hand.book(f"MH-01{n}0", departure_id=None, case_c=4.0) for n in range(3)]
    window.nav.go_home()
    rest(window)
    page = window.page("home")
    assert [c.compact for c in page.cards] == [False] * 3
    first = page.cards[0]
    hand.book("MH-0142", departure_id=None, case_c=4.0)
    rest(window)
    assert [c.compact for c in page.cards] == [True] * 4 and page.cards[0] is not first
    kept = page.cards[0]
    intake.set_quarantine(window.shop, jobs[0], "mould")
    rest(window)
    assert page.cards[0] is kept  # nothing about it changed: the card stays
    tags = [page.running.itemAt(n).widget().wait.tag for n in range(4)]
    assert tags == [c.wait.tag for c in page.cards]


def test_waits_are_seen_and_heard_on_every_page(window: Frame, hand: Hand, clock: HandClock, monkeypatch: Any) -> None:
    beeps: list[int] = []
    monkeypatch.setattr(QApplication, "beep", staticmethod(lambda: beeps.append(1)))
    assert window.next_wait.isHidden()
    job = hand.book()
    hand.until(job, "disinfect")
    window.nav.open_stock()
    assert (window.next_wait.big, window.next_wait.small) == ("10 min", "MH-0142 +1")
    clock.advance(minutes=4)
    window.ticking.tick()
    assert window.next_wait.big == "6:00" and not beeps
    clock.advance(minutes=6)
    window.ticking.tick()
    assert window.next_wait.big == "due" and beeps == [1]
    assert "Due now: MH-0142, mouthpiece, contact: lift out and rinse" in window.words.text()
    assert window.here == "stock"
    window.next_wait.click()
    assert window.here == "home"


def test_what_has_no_boat_is_not_forgotten(window: Frame, hand: Hand) -> None:
    hand.book("MH-0142")
    hand.book("MH-0150", departure_id=None)
    window.nav.go_home()
    rest(window)
    cards = window.page("home").shipments.cards
    assert len(cards) == 2 and cards["undated"].head.text() == "No departure set"
    assert [s.item.tag for s in cards["undated"].item_buttons] == ["MH-0150"]


def test_wet_again_and_dried_from_the_bench(drive: Callable[[str], Driver], hand: Hand, clock: HandClock) -> None:
    driver = drive("mouse")
    job = hand.book()
    hand.until(job, "disinfect")
    driver.frame.nav.go_home()
    driver.press("dried")
    assert driver.frame.page("home").cards[0].left.text() == "dry"
    driver.press("rewet")
    assert driver.frame.page("home").cards[0].left.text() == "10 min"
    assert hand.wait(job).restarts == 1


def test_a_moved_clock_is_said_in_the_window(window: Frame, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    clock.step(hours=-1)
    for _ in range(60):
        window.ticking.tick()
    assert "set back by 60 min" in window.words.text()


def test_the_settling_curve_stands_beside_the_retune(window: Frame, hand: Hand, clock: HandClock) -> None:
    job = hand.book("MH-0300", "violin")
    hand.until(job, "hang", strings={"A": "worn"})
    window.nav.open_job(job, "steps")
    curve = window.page("job").steps.curve
    assert curve is not None and "cents flat" in curve.words.text()
    before = curve.words.text()
    clock.advance(minutes=13)
    job_steps.finish_step(window.shop, job, "retune_1", cents="40 cents")
    assert curve.words.text() != before and "Let it hang longer" in curve.words.text()
    other = hand.book("MH-0301", "violin")
    window.nav.open_job(other, "steps")
    assert curve.isHidden()


# --- the bench ------------------------------------------------------------------------------------------------------


def test_stones_tell_and_lead(drive: Callable[[str], Driver], hand: Hand, shop: Shop) -> None:
    driver = drive("mouse")
    good, bad = hand.book("MH-0142"), hand.book("MH-0150")
    intake.tick_item(shop, bad, "cap", "missing")
    driver.frame.nav.go_home()
    rest(driver.frame)
    bars = {s.item.tag: s for s in driver.frame.page("home").findChildren(ItemButton) if s.isVisible()}
    assert bars["MH-0150"].trouble and "cap missing" in bars["MH-0150"].accessibleName()
    assert not bars["MH-0142"].trouble
    bars["MH-0142"].click()
    assert driver.frame.page("job").job_id == good


def test_help_for_the_late(drive: Callable[[str], Driver], hand: Hand, shop: Shop, clock: HandClock) -> None:
    driver = drive("mouse")
    hand.book(departure_id=add_departure(shop, "Noon packet", clock.now() + timedelta(minutes=20)))
    driver.frame.nav.go_home()
    driver.press("help")
    page = driver.frame.page("day")
    driver.qtbot.waitUntil(lambda: "MH-0142: Even at once" in page.why.text())
    assert driver.frame.here == "day" and page.about.text().startswith("Noon packet: what would help")


def test_pools_list_what_lies_in_them(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    driver.frame.nav.open_stage("book_in")
    page = driver.frame.page("list")
    assert page.nothing.isVisible() and not page.list.isVisible()
    job = hand.book()
    hand.book("MH-0900", family="violin")
    driver.frame.nav.go_home()
    driver.press("stage_book_in")
    assert page.list.isVisible() and not page.nothing.isVisible()
    page.list.setCurrentRow(1)
    driver.frame.refresh()
    assert page.list.currentRow() == 1  # what is chosen stays chosen
    assert page.title.text() == "Book in: 2" and "MH-0142" in page.list.item(0).text()
    page.list.itemClicked.emit(page.list.item(0))
    assert driver.frame.page("job").job_id == job


def test_take_up_put_aside_found_something(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("keyboard")
    job = hand.book()
    hand.do(job, "contents")
    driver.frame.nav.go_home()
    driver.press("take")
    assert driver.frame.page("home").hand.over.text().startswith("In your hands")
    driver.press("aside")
    assert driver.frame.page("home").hand.over.text().startswith("Next for your hands")
    driver.press("found")
    assert driver.frame.here == "job" and driver.frame.page("job").tabs["look_over"].isChecked()


def test_a_new_look_over_during_the_job_adds_steps(window: Frame, hand: Hand, shop: Shop) -> None:
    job = hand.book()
    hand.until(job, "look")
    assert hand.view(job).step("pads_blot") is None
    window.nav.open_job(job, "steps")
    inspection.record_places(shop, job, "pads", {"low B": "wet"})
    keys = [
        window.page("job").steps.list.item(n).data(Qt.ItemDataRole.UserRole)
        for n in range(window.page("job").steps.list.count())
    ]
    assert "pads_blot" in keys


# --- house rules, looks ---------------------------------------------------------------------------------------------


def test_a_policy_shows_its_effect_before_it_is_chosen(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.press("way_house")
    driver.press("sax_body_pulls_one")
    QApplication.processEvents()
    words = " ".join(w.text() for w in driver.frame.page("house").findChildren(QLabel) if w.isVisible())
    assert (
        "Before: Swab the body from the bell: 2 slow pulls" in words
        and "Then: Swab the body from the bell: 1 slow pull" in words
    )
    assert "−1.6 min" in words
    driver.press("choose_it")
    assert "exactly 1" in driver.frame.words.text()
    assert driver.find("sax_body_pulls_one").text() == "Exactly 1 (house rule)"


def test_light_targets_and_text_size_are_kept(drive: Callable[[str], Driver], qtbot: Any, shop: Shop) -> None:
    driver = drive("mouse")
    driver.frame.nav.open_house("this_window")
    for name in ("theme_bench_lamp", "theme_gloves", "theme_150_%"):
        driver.press(name)
    assert (theme.current.dark, theme.current.gloves, theme.current.scale) == (True, True, 1.5)
    assert driver.find("undo").height() >= 64
    theme.current.dark, theme.current.gloves, theme.current.scale = False, False, 1.0
    again = Frame(lambda: shop)
    qtbot.addWidget(again)
    again.show()
    again.open_shop()
    assert (theme.current.dark, theme.current.gloves, theme.current.scale) == (True, True, 1.5)


@pytest.mark.parametrize(
    ("wide", "high", "scale", "gloves"),
    [
        (1280, 800, 1.0, False), (1024, 768, 1.0, False), (1024, 768, 1.5, True),
        (1920, 1080, 1.5, True),
    ],
)  # fmt: skip
def test_nothing_is_cut_at_any_size(
    window: Frame, hand: Hand, shop: Shop, wide: int, high: int, scale: float, gloves: bool
) -> None:
    """Every button shows its whole text, every target is high enough, no page needs to be scrolled sideways."""
    job = hand.book(next_group="Lamplighters' band")
    hand.until(job, "disinfect", pads={"G sharp": "sticks"})
    theme.current.gloves = gloves
    window.change_theme(scale=scale)
    window.resize(wide, high)
    tools = [lambda key=key: window.nav.open_tool(key) for key in TOOLS]
    nav = window.nav
    tabs = [lambda tab=tab: nav.open_job(job, tab) for tab in ("case", "look_over", "steps", "ready")]
    lists = (nav.open_instruments, nav.open_stock, nav.open_count, nav.open_house, nav.open_days, nav.open_bring)
    lists += (nav.open_find, lambda: nav.open_house("this_shop"), lambda: nav.open_house("this_window"))
    cut = []
    for go in (nav.go_home, *tabs, nav.open_book_in, *lists, nav.open_journal, *tools):
        go()
        rest_of_all(window)
        for _ in range(4):  # new widgets are shown, laid out and laid out again when scroll bars come
            QApplication.processEvents()
        assert window.width() == wide and window.height() == high, f"{window.here} makes the window larger"
        for target in window.findChildren(QPushButton):
            if not target.isVisible():
                continue
            if target.height() < (64 if gloves else 44) and not isinstance(target.parent(), type(window.course)):
                cut.append(f"{window.here}: {target.objectName()} is {target.height()} px high")
            if target.text() and target.width() < target.fontMetrics().horizontalAdvance(target.text()):
                cut.append(f"{window.here}: “{target.text()}” is cut")
        if window.here == "count":
            table = window.page("count").table
            names = max(table.fontMetrics().horizontalAdvance(v.supply.name) for v in window.page("count").model.rows)
            if names > table.columnWidth(0) - 12:
                cut.append(f"count: names need {names} px and have {table.columnWidth(0)}")
        for inner in window.stack.currentWidget().findChildren(QWidget):
            if inner.isVisible() and inner.objectName() == "card":
                right = inner.mapTo(window, inner.rect().topRight()).x()
                if right > wide:
                    cut.append(f"{window.here}: a card ends at {right}")
    assert not cut, "\n".join(sorted(set(cut)))


def test_every_control_has_a_name_for_screen_readers(window: Frame, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    for go in (
        window.nav.go_home,
        lambda: window.nav.open_job(job, "look_over"),
        window.nav.open_book_in,
        window.nav.open_stock,
        window.nav.open_mix,
    ):
        go()
        for control in (*window.findChildren(QPushButton), *window.findChildren(QLineEdit)):
            if control.isVisible() and not control.objectName().startswith("qt_"):
                assert control.accessibleName() or control.text(), control.objectName()


def test_everything_can_be_reached_with_the_keyboard(window: Frame, hand: Hand, qtbot: Any) -> None:
    job = hand.book()
    window.nav.open_job(job, "case")
    QApplication.processEvents()
    seen: set[str] = set()
    for _ in range(90):
        QTest.keyClick(window.windowHandle(), Qt.Key.Key_Tab)
        focus = QApplication.focusWidget()
        if focus is not None:
            seen.add(focus.objectName())
    assert {"neck_present", "cap_missing", "rest", "way_stock", "undo", "mode_marks", "tab_steps"} <= seen


def test_shipped_type_is_used_and_has_every_sign() -> None:
    """Every sign that stands in the catalogue and in the window's words is in the shipped type."""
    assert theme.FAMILY in QFontDatabase.families()
    raw = QRawFont(str(theme.FONTS / "AtkinsonHyperlegibleNext-Regular.ttf"), 16)
    catalogue = shipped()
    words = "".join(
        s.what + s.how + s.caution + s.reason + s.source for f in catalogue.families.values() for s in f.step
    )
    for f in catalogue.families.values():
        words += "".join(j.off + j.on + j.turn + j.line_up + j.off_note + j.on_note + j.never for j in f.joint)
        words += "".join(o.why for o in f.order) + "".join(i.name + i.why for i in f.item) + f.name + f.tells
    words += "".join(c.name + c.reason for t in catalogue.topics.values() for c in t.choice)
    source = Path(theme.__file__).parent
    for file in source.rglob("*.py"):
        words += file.read_text(encoding="utf-8")
    missing = {c for c in words if ord(c) > 126 and not raw.supportsCharacter(ord(c))}
    assert missing == set()


def test_words_for_times() -> None:
    assert clock_words(MORNING + timedelta(days=1)).startswith("Fri")
    assert clock_words(MORNING, MORNING) == f"{MORNING.astimezone():%H:%M}"
    assert [count_down(timedelta(seconds=s)) for s in (0, 59, 160, 600, 3900)] == [
        "0:00",
        "0:59",
        "2:40",
        "10 min",
        "1 h 05",
    ]
    assert in_words(MORNING + timedelta(hours=2), MORNING) == "in 2 h 00"
    assert in_words(MORNING, MORNING + timedelta(minutes=5)) == "left 5 min ago"


# --- when the records cannot be opened ------------------------------------------------------------------------------


def test_a_damaged_file_shows_the_way_back(qtbot: Any, tmp_path: Path, clock: HandClock) -> None:
    folder = tmp_path / "data"
    first = Shop(folder, clock)
    intake.book_in(first, "MH-0142", family="violin")
    back_up(folder, "daily")
    first.close()
    (folder / FILE).write_bytes(b"rubbish" * 3000)
    frame = Frame(lambda: Shop(folder, clock))
    qtbot.addWidget(frame)
    frame.show()
    assert not frame.open_shop()
    words = " ".join(w.text() for w in frame.findChildren(QLabel))
    assert "damaged" in words and "kept aside" in words
    go_back = frame.findChild(QPushButton, "go_back")
    qtbot.waitUntil(go_back.isEnabled)
    words = " ".join(w.text() for w in frame.findChildren(QLabel))
    assert "1 job, 1 instrument, 1 action" in words and "Nothing that is on record now would be missing" in words
    go_back.click()
    assert frame.home is not None and [v.tag for v in frame.home.jobs] == ["MH-0142"]


def test_locked_then_free(qtbot: Any, tmp_path: Path, clock: HandClock) -> None:
    folder = tmp_path / "data"
    Shop(folder, clock).close()
    other = sqlite3.connect(folder / FILE, isolation_level=None)
    for statement in ("PRAGMA locking_mode=EXCLUSIVE", "BEGIN EXCLUSIVE", "DELETE FROM setting", "COMMIT"):
        other.execute(statement)  # it holds the file for itself from now on
    frame = Frame(lambda: Shop(folder, clock, busy_ms=30))
    qtbot.addWidget(frame)
    frame.show()
    assert not frame.open_shop()
    assert frame.findChild(QPushButton, "go_back") is None
    other.close()
    frame.findChild(QPushButton, "again").click()
    assert frame.home is not None


def test_locked_in_the_middle_of_the_day(window: Frame, hand: Hand, shop: Shop) -> None:
    job = hand.book()
    shop.store.patience_s = 0.2
    other = sqlite3.connect(shop.folder / FILE, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    try:
        assert not window.do(lambda: intake.tick_item(shop, job, "neck", "present"))
    finally:
        other.execute("ROLLBACK")
        other.close()
    assert "Another program holds the records" in window.words.text()
    assert hand.view(job).lines == {}
    assert window.do(lambda: intake.tick_item(shop, job, "neck", "present"))


def test_working_on_what_was_undone_elsewhere(window: Frame, hand: Hand, shop: Shop) -> None:
    job = hand.book()
    shop.undo()
    assert not window.do(lambda: job_steps.take_up(shop, job, "contents"))
    assert "finished or was undone" in window.words.text()


def test_the_toolkit_counts_fairly() -> None:
    """A version of the toolkit lost a reference to None at every call: open all day, it would have fallen over."""
    path = QPainterPath()
    before = sys.getrefcount(None)
    for _ in range(500):
        path.lineTo(1.0, 1.0)
    assert sys.getrefcount(None) > before - 250


def test_a_price_for_the_bill(drive: Callable[[str], Driver], shop: Shop) -> None:
    driver = drive("keyboard")
    driver.frame.nav.open_stock("strap_sax")
    driver.type("stock_price", "12,50", enter=True)
    page = driver.frame.page("stock")
    assert stock.prices(shop) == {"strap_sax": 12.5} and page.price.text() == "12.50"
    driver.type("stock_price", "dear", enter=True)
    assert "is no price" in driver.frame.words.text() and stock.prices(shop) == {"strap_sax": 12.5}
    page.price.selectAll()
    page.price.del_()
    driver.press("keep_price")
    assert stock.prices(shop) == {}


def test_a_group_asks_for_another_policy(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    policies.ask(driver.frame.shop, "Netloft fiddles", "bow_loosening", "turns")
    driver.press("way_house")
    page = driver.frame.page("house")
    page.group = "violin"
    page.refresh()
    assert "cleaning_cloth" in page.topics and page.who == ""
    whose = driver.find("for_whom", QComboBox)
    page._whose_chosen(whose.findData("Netloft fiddles"))
    assert "cleaning_cloth" not in page.topics and driver.find("bow_loosening_turns").isChecked()
    driver.press("bow_loosening_touch")
    driver.press("choose_it")
    assert policies.asks(driver.frame.shop) == {"Netloft fiddles": {"bow_loosening": "touch"}}
    assert policies.chosen(driver.frame.shop)["bow_loosening"] == "hairs"
    answer("Aunt Ada, violin")
    page._whose_chosen(whose.findText("somebody else asks …"))
    assert page.who == "Aunt Ada, violin"
    driver.press("bow_loosening_turns")
    driver.press("choose_it")
    assert policies.asks(driver.frame.shop)["Aunt Ada, violin"] == {"bow_loosening": "turns"}


def test_what_does_not_belong_in_a_case(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    job = hand.book()
    driver.frame.nav.open_job(job, "case")
    answer("a mitten and two coins")
    driver.press("surplus")
    assert hand.view(job).surplus == ("a mitten and two coins",)
    assert "a mitten and two coins" in driver.frame.page("job").case.surplus.text()
    hand.until(job, "pack")
    facts = release_check.make_ready(driver.frame.shop, job)
    assert facts["surplus"] == ["a mitten and two coins"]


def test_water_is_weighed_and_amounts_are_noted_at_the_step(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("keyboard")
    stock.book_in_stock(driver.frame.shop, "slide_liquid_ml", 20)
    job = hand.book("MH-0415", "trombone")
    hand.until(job, "bath_dry")
    hand.clock.advance(minutes=60)
    driver.frame.refresh()
    rest(driver.frame)
    driver.frame.nav.open_job(job, "steps")
    steps = driver.frame.page("job").steps
    steps.choose("slide_two_part")
    steps.took.setText("0.4 ml")
    driver.press("taken")
    assert hand.view(job).step("slide_two_part").work.data["took_ml"] == pytest.approx(0.4)  # type: ignore[union-attr]
    steps.choose("after_air")
    assert steps.water_frame.isVisibleTo(steps)
    steps.gained.setText("1.1 g")
    driver.press("weighed")
    with driver.frame.shop.reading() as session:
        assert len(shelf.shelf_of(session).weighed["trombone"]) == 1


def test_hands_are_washed_between_instruments(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("keyboard")
    clean, other = hand.book("MH-0142"), hand.book("MH-0150")
    hand.until(clean, "hands")
    hand.until(other, "look")
    driver.frame.nav.open_job(clean, "steps")
    steps = driver.frame.page("job").steps
    steps.choose("cloths_swap")
    head, text = steps.card.rows[0]
    assert head.text() == "Hands" and "MH-0150" in text.text() and text.property("tone") == "warn"
    assert steps.card.wash.isVisibleTo(steps)
    steps.choose("hands")
    assert not steps.card.wash.isVisibleTo(steps)
    steps.choose("cloths_swap")
    driver.press("hands_washed")
    assert not steps.card.wash.isVisibleTo(steps) and steps.card.rows[0][0].text() != "Hands"


def test_a_material_without_an_entry_is_asked_once(drive: Callable[[str], Driver], hand: Hand) -> None:
    driver = drive("mouse")
    driver.press("way_book_in")
    page = driver.frame.page("book_in")

    def made_of_words() -> list[str]:
        pick = driver.find("material_mouthpiece", QComboBox)
        return [pick.itemText(n) for n in range(pick.count())]

    def begin(tag: str) -> Any:
        page.tag.setText(tag)
        page._choose_family("alto_saxophone")
        return driver.find("material_mouthpiece", QComboBox)

    pick = begin("MH-0900")
    assert made_of_words()[-1] == "something else …" and "rose gold" not in made_of_words()
    pick.setCurrentIndex(pick.count() - 1)
    answer(None)
    page._something_else(pick, "mouthpiece")
    assert pick.currentIndex() == 0, "left unsaid, the first answer stands"
    pick.setCurrentIndex(pick.count() - 1)
    answer("rose gold")
    page._something_else(pick, "mouthpiece")
    assert pick.currentData() == "unknown:rose gold"
    driver.press("book_in")
    found = intake.find_instrument(driver.frame.shop, "MH-0900")
    assert found is not None and found.materials["mouthpiece"] == "unknown:rose gold"
    driver.press("way_book_in")
    begin("MH-0901")
    assert "rose gold" in made_of_words(), "met before, it is not asked again"
    job = intake.book_in(driver.frame.shop, "MH-0902", family="alto_saxophone")
    driver.frame.nav.open_job(job, "case")

    def choose(words: str, name: str = "") -> None:
        def act(dialog: AskDialog) -> None:
            key = next(k for k, w in dialog.choices if w == words)
            dialog.choice_buttons[key].click()
            dialog.field.setText(name)
            dialog.ok.click()

        when_asked(act)
        driver.press("made_of")

    choose("Mouthpiece: something else", "old ivory")
    assert hand.view(job).instrument.materials["mouthpiece"] == "unknown:old ivory"
    choose("Mouthpiece: hard rubber")
    assert hand.view(job).instrument.materials["mouthpiece"] == "hard_rubber"


def test_one_case_after_another_shows_its_own_pieces(drive: Callable[[str], Driver], hand: Hand) -> None:
    """Rows are shown for one instrument after another: nothing of the one before stays in them."""
    driver = drive("mouse")
    large, small = hand.book(), hand.book("MH-0300", "violin")
    panel = driver.frame.page("job").case

    def shown(job: int) -> list[str]:
        driver.frame.nav.open_job(job, "case")
        rest(driver.frame)
        rows = [r for r in panel.findChildren(CaseRow) if r.isVisible()]
        expected = [i.key for i in intake.expected_items(hand.view(job))]
        assert [r.item.key for r in rows] == expected == list(panel.rows)
        words = [r.words.text() if r.words is not None and r.words.isVisible() else "" for r in rows]
        assert [bool(w) for w in words] == [
            hand.view(job).lines.get(k) is not None and not panel.rows[k].ticks["present"].isVisible() for k in expected
        ]
        return [f"{r.name.text()} {w}".strip() for r, w in zip(rows, words, strict=True)]

    first = list(panel.rows)
    shown(large)
    names = list(panel.rows)
    driver.press(f"{names[0]}_missing")
    driver.press(f"{names[1]}_present")
    assert "missing" in shown(large)[0].lower()
    pieces = shown(small)
    assert len(pieces) < len(names) and not any("missing" in text.lower() for text in pieces)
    assert not any(tick.isChecked() for row in panel.rows.values() for tick in row.ticks.values())
    driver.press(f"{list(panel.rows)[1]}_missing")
    assert hand.view(large).lines[names[1]].state == "present" and first == []
    again = shown(large)
    assert "missing" in again[0].lower() and "missing" not in again[1].lower()
    assert panel.rows[names[1]].ticks["present"].isChecked()
    driver.press(f"{names[0]}_is_here")
    assert hand.view(large).lines[names[0]].state == "present"
    assert hand.view(small).lines[next(iter(hand.view(small).lines))].state == "missing"
