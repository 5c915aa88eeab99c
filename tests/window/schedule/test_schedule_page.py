"""The day as a creek: chosen by mouse and keys, dragged, set, tried beside the day as it is, thought about."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLabel, QPushButton

from creekbed.core.catalogue.load import shipped
from creekbed.core.planning.model import DelayedStart
from creekbed.core.planning.plan_request import answer_request
from creekbed.window.frame.frame import Frame
from creekbed.window.home.departures import ItemButton
from creekbed.window.schedule.schedule_page import SchedulePage
from creekbed.window.schedule.schedule_picture import TimeScale, bar_path
from creekbed.window.schedule.schedule_widget import ScheduleView
from creekbed.window.shared import theme
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps
from creekbed.workshop.shop import staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.departures import add_departure
from creekbed.workshop.shop.shop import Shop
from tests.conftest import MORNING, Hand
from tests.window.conftest import Driver, opened, rest, when_open


@pytest.fixture
def day(drive: Callable[[str], Driver], hand: Hand, shop: Shop) -> Driver:
    """The page of the day, with four instruments and two people."""
    for n in range(4):
        hand.book(f"MH-01{n}0", family=("alto_saxophone", "violin")[n % 2])
    staff.add_worker(shop, "AB")
    driver = drive("mouse")
    driver.press("way_day")
    rest(driver.frame)
    return driver


def page(driver: Driver) -> SchedulePage:
    found: SchedulePage = driver.frame.page("day")
    return found


def middle(schedule: ScheduleView, n: int = 0, person: str = "IW") -> QPoint:
    """Where a stone of somebody's lies."""
    boxes = [box for box, run in schedule.look().bars if run.person == person]
    return boxes[n].center().toPoint()


def test_choosing_a_stone_tells_why(day: Driver) -> None:
    found = page(day)
    QTest.mouseClick(found.schedule, Qt.MouseButton.LeftButton, pos=middle(found.schedule))
    run = found.schedule.run()
    assert run is not None and found.about.text().startswith(run.tag)
    assert found.why.text().startswith("IW, ")  # at once
    rest(day.frame)
    assert "IW," in found.why.text() and "to spare for the Friday boat" in found.why.text()
    day.key(Qt.Key.Key_Right)
    rest(day.frame)
    assert found.schedule.run() is not run and "Done first" in found.why.text()
    day.key(Qt.Key.Key_Down)
    other = found.schedule.run()
    assert other is not None and other.person == "AB"
    assert other.tag in found.schedule.accessibleDescription()
    day.press("open_it")
    assert day.frame.here == "job" and day.frame.page("job").view.tag == other.tag


def test_set_let_go_and_first(day: Driver) -> None:
    found = page(day)
    QTest.mouseClick(found.schedule, Qt.MouseButton.LeftButton, pos=middle(found.schedule, 1))
    run = found.schedule.run()
    assert run is not None
    day.press("keep_it")
    assert f"{run.tag}: set to" in day.frame.words.text()
    locked = found.schedule.run()
    assert locked is not None and locked.state == "fixed" and locked.start == run.start
    day.press("unlock")
    assert "may move it again" in day.frame.words.text()
    day.press("do_first")
    first = day.frame.home.plan.of("IW")[0]
    assert (first.job, first.start) == (run.tag, 0.0)
    day.press("undo")
    assert not any(p.kind == "fixed" for p in day.frame.home.problem.pins)


def test_a_stone_is_dragged_and_the_plan_answers(day: Driver) -> None:
    found = page(day)
    schedule = found.schedule
    start = middle(schedule)
    chosen = next(run for box, run in schedule.look().bars if box.contains(QPointF(start)))
    QTest.mousePress(schedule, Qt.MouseButton.LeftButton, pos=start)
    for step in (20, 120, 300):
        QTest.mouseMove(schedule, start + QPoint(step, 0))
    schedule.grab()  # the ghost is drawn
    QTest.mouseRelease(schedule, Qt.MouseButton.LeftButton, pos=start + QPoint(300, 0))
    rest(day.frame)
    assert found.then.isVisible() and found.head_now.text().startswith("As it is")
    assert chosen.tag in found.head_then.text() and not any(
        p.kind == "fixed" for p in day.frame.home.problem.pins
    )  # nothing is done yet
    day.press("leave_trial")
    assert not found.then.isVisible()
    scale = schedule.look().scale
    assert scale is not None
    at = scale.at(scale.x(day.clock.now() + timedelta(minutes=62)))
    found._dropped(chosen, at, "AB")
    day.press("do_trial")
    pins = [p for p in day.frame.home.problem.pins if p.kind == "fixed"]
    assert {(p.job, p.operation, p.person) for p in pins} == {(chosen.tag, k, "AB") for k, _ in chosen.steps}
    assert all(55 <= p.at <= 62 for p in pins)
    rest(day.frame)
    moved = {s.operation: s for s in day.frame.home.plan.steps if s.job == chosen.tag}
    assert all(moved[k].start >= 55 and moved[k].person == "AB" for k, _ in chosen.steps)  # the whole stone
    bar = next(r for s in found.schedule.day.rows for r in s.runs if r.tag == chosen.tag and r.key == chosen.key)
    assert bar.state == "fixed" and bar.steps == chosen.steps
    found._tell(bar)
    day.press("unlock")
    assert not any(p.kind == "fixed" for p in day.frame.home.problem.pins)


def test_a_stone_far_ahead_is_tried_where_it_was_dropped(day: Driver) -> None:
    """What comes before it is still to be done."""
    found = page(day)
    last = [run for _, run in found.schedule.look().bars if run.tag == "MH-0100" and run.person == "IW"][-1]
    at = last.start + timedelta(minutes=30)
    found._dropped(last, at, "IW")
    rest(day.frame)
    assert found.then.day is not None
    mine = [r for s in found.then.day.rows if s.person == "IW" for r in s.runs if r.tag == "MH-0100"]
    there = next(r for r in mine if last.key in [k for k, _ in r.steps])
    assert there.state == "fixed" and abs((there.start - at).total_seconds()) <= 60


def test_another_day_is_tried(day: Driver, shop: Shop, hand: Hand, clock: HandClock) -> None:
    departure = add_departure(shop, "Packet", clock.now() + timedelta(minutes=45))
    late = hand.book("MH-0900", departure_id=departure)
    found = page(day)
    box = day.find("what_if", QComboBox)
    offers = [box.itemText(n) for n in range(box.count())]
    assert any("stays an hour longer" in o for o in offers) and any("works through the break" in o for o in offers)
    wanted = next(n for n, o in enumerate(offers) if o.startswith("MH-0900 goes with"))
    found._try(wanted)
    rest(day.frame)
    assert "nothing late" in found.head_then.text() and "late by" in found.head_now.text()
    day.press("do_trial")
    assert day.frame.home.job(late).departure.name == "Friday boat"
    stays = next(n for n in range(box.count()) if "IW stays" in box.itemText(n))
    before = day.frame.home.problem.people[0].windows
    found._try(stays)
    day.press("do_trial")
    assert day.frame.home.problem.people[0].windows != before
    found._try(0)
    assert not found.then.isVisible()


def test_people_leave_and_come(day: Driver, monkeypatch: pytest.MonkeyPatch) -> None:
    found = page(day)
    day.press("leave_AB")
    assert "AB has left" in day.frame.words.text()
    day.press("back_AB")
    assert next(q for q in day.frame.home.queues if q.person == "AB").here
    monkeypatch.setattr(found, "ask_choice", lambda *a, **k: ("helper", "to 13-17"))
    day.press("new_hands")
    assert [q.person for q in day.frame.home.queues] == ["IW", "AB", "TO"]
    assert len(found.schedule.look().lines) == 3 or found.schedule.grab() is not None


def test_somebody_else_sits_down(day: Driver) -> None:
    def following() -> tuple[str, str]:
        return day.frame.home.next.view.tag, day.frame.home.next.step.step.key

    first, theirs = following(), next(q for q in day.frame.home.queues if q.person == "AB").then[0]
    day.press("sits_AB")
    assert day.frame.shop.person == "AB" and "AB works at this window" in day.frame.words.text()
    assert following() == (theirs[2], theirs[5]) != first and day.frame.home.queues[0].person == "AB"
    day.scan("PE-IW")
    assert day.frame.shop.person == "IW" and following() == first


def test_two_days_and_a_week(day: Driver) -> None:
    found = page(day)
    day.press("day_longer")
    assert found.schedule.hours == 14.0 and not found.week.isVisible()
    day.press("day_week")
    assert found.week.isVisible() and "A week ahead. Thursday" in found.week.accessibleName()
    found.week.grab()
    day.press("day_today")
    assert found.schedule.isVisible()


def test_the_boats_post_tells_what_would_help(day: Driver, shop: Shop, hand: Hand, clock: HandClock) -> None:
    departure = add_departure(shop, "Packet", clock.now() + timedelta(minutes=30))
    hand.book("MH-0900", departure_id=departure)
    rest(day.frame)
    page(day).schedule.grab()
    post = next(box for box, b in page(day).schedule.look().posts if b.departure_id == departure)
    QTest.mouseClick(
        page(day).schedule, Qt.MouseButton.LeftButton, pos=QPoint(round(post.center().x()), round(post.bottom()) - 6)
    )
    found = page(day)
    assert found.about.text() == "Packet: looking for what would help …"
    found.help_departure(departure)  # asked again meanwhile, it goes on
    day.qtbot.waitUntil(lambda: found.about.text().startswith("Packet: what would help, found at 09:"), timeout=20_000)
    assert found.why.text().startswith("MH-0900: ")


def test_what_a_thought_puts_off_is_said(day: Driver, shop: Shop) -> None:
    frame = day.frame
    task = shop.planner.task(frame.home.named, (), 0.1, person="IW")
    assert task is not None
    thought, tag = answer_request(task), frame.home.next.view.tag
    moved = (DelayedStart(tag, frame.home.next.step.step.key, 4.0, "departure"),)
    assert shop.planner.take(replace(thought, plan=replace(thought.plan, moved=moved)))
    frame.planner.plan_anew()
    rest(frame)
    told = f"{tag} begins 4 min later, so that less is late"
    assert frame.words.text() == told and page(day).why.text() == f"{told}."
    frame.say("Something else.")
    frame.planner.plan_anew()
    rest(frame)
    assert frame.words.text() == "Something else."  # once


@pytest.fixture
def late(day: Driver, shop: Shop, hand: Hand, clock: HandClock) -> Driver:
    """The page of the day, where one instrument is late, and what would help is told."""
    departure = add_departure(shop, "Packet", clock.now() + timedelta(minutes=154))
    hand.book("MH-0900", family="alto_saxophone", departure_id=departure)
    rest(day.frame)
    page(day).help_departure(departure)
    day.qtbot.waitUntil(lambda: not page(day).helping.busy, timeout=20_000)
    return day


def test_what_would_help_stays_till_something_else_is_asked(late: Driver, hand: Hand, shop: Shop) -> None:
    found = page(late)
    told = found.why.text()
    assert "it is in time" in told
    hand.book("MH-0950", family="violin")
    late.frame.say("Something else.", warn=True)
    late.frame.refresh()
    rest(late.frame)
    assert found.why.text() == told  # through a new plan
    QTest.mouseClick(found.schedule, Qt.MouseButton.LeftButton, pos=middle(found.schedule))
    rest(late.frame)
    assert found.why.text() != told and found.helped is None
    late.frame.refresh()
    rest(late.frame)
    assert found.about.text().startswith(found.schedule.run().tag)


def test_what_would_help_can_be_seen_beside_the_day(late: Driver) -> None:
    found = page(late)
    told = found.why.text()
    see = next(b for b in found.acts.findChildren(QPushButton) if b.text().startswith("Try MH-090"))
    tag = see.text().removeprefix("Try ")
    late.press(see.objectName())
    rest(late.frame)
    assert not found.then.isHidden() and found.head_then.text().startswith(f"{tag}: ")
    assert "nothing late" in found.head_then.text() and "nothing late" not in found.head_now.text()
    late.frame.refresh()  # the same on a plan made anew
    rest(late.frame)
    assert not found.then.isHidden()
    late.press("leave_trial")
    assert found.then.isHidden() and found.why.text() == told


def test_help_that_is_out_of_date_is_not_tried(late: Driver, shop: Shop) -> None:
    found = page(late)
    see = next(b for b in found.acts.findChildren(QPushButton) if b.text().startswith("Try MH-090"))
    staff.add_worker(shop, "ZZ")
    late.frame.planner.plan_anew()
    rest(late.frame)
    see.click()
    rest(late.frame)
    assert found.trial is None and found.helped is None and "ask again" in late.frame.words.text()


def test_a_stone_asked_while_a_day_is_tried_leaves_the_way_out(late: Driver) -> None:
    found = page(late)
    see = next(b for b in found.acts.findChildren(QPushButton) if b.text().startswith("Try MH-090"))
    late.press(see.objectName())
    rest(late.frame)
    QTest.mouseClick(found.schedule, Qt.MouseButton.LeftButton, pos=middle(found.schedule))
    rest(late.frame)
    late.press("leave_trial")
    assert found.then.isHidden() and found.trial is None


def test_asking_for_help_leaves_what_is_tried(late: Driver) -> None:
    found = page(late)
    departure = found.helped.departure_id
    found._try(1)
    rest(late.frame)
    assert found.trial is not None and found.helped is None
    found.help_departure(departure)
    late.qtbot.waitUntil(lambda: not found.helping.busy, timeout=20_000)
    rest(late.frame)
    assert found.trial is None and found.then.isHidden() and "what would help" in found.about.text()


def test_from_the_bench_to_the_day(drive: Callable[[str], Driver], hand: Hand) -> None:
    hand.book()
    driver = drive("mouse")
    driver.frame.nav.go_home()
    rest(driver.frame)
    schedule = driver.frame.page("home").schedule
    schedule.grab()
    QTest.mouseClick(schedule, Qt.MouseButton.LeftButton, pos=middle(schedule))
    rest(driver.frame)
    assert driver.frame.here == "day" and page(driver).schedule.run() is not None


def test_an_empty_bench_has_a_day_too(drive: Callable[[str], Driver]) -> None:
    driver = drive("keyboard")
    driver.press("way_day")
    assert driver.frame.here == "day" and page(driver).schedule.run() is None
    driver.key(Qt.Key.Key_Right)
    page(driver).schedule.grab()
    assert page(driver).gap.text().startswith("Nothing is late")


def test_what_is_in_hand_cannot_be_dragged(day: Driver, hand: Hand, shop: Shop) -> None:
    job = day.frame.home.next.view.job.id
    job_steps.take_up(shop, job, day.frame.home.next.step.step.key)
    rest(day.frame)
    found = page(day)
    found.schedule.grab()
    box, run = next((b, r) for b, r in found.schedule.look().bars if r.state == "held")
    start = box.center().toPoint()
    QTest.mousePress(found.schedule, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(found.schedule, start + QPoint(200, 0))
    QTest.mouseRelease(found.schedule, Qt.MouseButton.LeftButton, pos=start + QPoint(200, 0))
    rest(day.frame)
    assert not found.then.isVisible() and "stays there" in found.why.text() and run.person == "IW"


@pytest.mark.parametrize("dress", [{}, {"dark": True}, {"gloves": True}, {"scale": 1.5}])
def test_in_every_dress(day: Driver, dress: dict[str, Any]) -> None:
    day.frame.change_theme(**dress)
    day.press("way_day")
    QApplication.processEvents()
    found = page(day)
    found.schedule.grab()
    assert found.schedule.look().bars and found.schedule.width() <= day.frame.width()
    assert theme.current.scale == dress.get("scale", 1.0)


def test_thinking_while_people_work(qtbot: Any, shop: Shop, hand: Hand) -> None:
    for n in range(3):
        hand.book(f"MH-02{n}0")
    frame = opened(qtbot, Frame(lambda: shop, thinking=True))
    frame.planner.worker.stretches = (0.2, 0.2)
    frame.refresh()
    rest(frame)
    assert frame.planner.worker.thinking
    hand.book("MH-0290")  # the answer that is on its way is about another bench
    frame.refresh()
    qtbot.waitUntil(lambda: bool(shop.planner.gap()), timeout=60_000)
    frame.nav.open_day()
    rest(frame)
    assert "possible" in page_of(frame).gap.text() or "proven" in page_of(frame).gap.text()
    bars = [s for c in page_of_home(frame).shipments.cards.values() for s in c.item_buttons]
    assert bars and all(isinstance(s, ItemButton) for s in bars)
    qtbot.waitUntil(lambda: all(a.chance is not None for x in frame.home.shipments for a in x.items))
    frame.close()
    assert frame.planner.worker is None


def page_of(frame: Frame) -> SchedulePage:
    found: SchedulePage = frame.page("day")
    return found


def page_of_home(frame: Frame) -> Any:
    return frame.page("home")


# --- the scale ------------------------------------------------------------------------------------------------------


def test_closed_time_is_folded() -> None:
    spans = [(MORNING, MORNING + timedelta(hours=3)), (MORNING + timedelta(hours=4), MORNING + timedelta(hours=8))]
    scale = TimeScale.over(MORNING, spans, 5.0, 100.0, 1000.0)
    assert scale.x(MORNING) == 100.0 and scale.x(scale.end) == pytest.approx(1000.0)
    assert scale.x(scale.end + timedelta(days=3)) == 1000.0
    assert scale.end == MORNING + timedelta(hours=6)
    minute = (scale.x(MORNING + timedelta(hours=1)) - 100.0) / 60
    again = (scale.x(MORNING + timedelta(hours=5)) - scale.x(MORNING + timedelta(hours=4))) / 60
    assert minute == pytest.approx(again)
    gone = scale.x(MORNING + timedelta(hours=3.5))
    assert scale.x(MORNING + timedelta(hours=3)) < gone < scale.x(MORNING + timedelta(hours=4))
    for hours in (0.5, 2.0, 4.5):
        at = MORNING + timedelta(hours=hours)
        assert abs(scale.at(scale.x(at)) - at) <= timedelta(minutes=5)
    shut = TimeScale.over(MORNING, [(MORNING + timedelta(hours=20), MORNING + timedelta(hours=24))], 3.0, 0.0, 500.0)
    assert shut.x(MORNING + timedelta(hours=20)) > 0 and TimeScale.over(MORNING, [], 3.0, 0.0, 500.0).x(MORNING) == 0.0


def test_the_less_likely_the_more_corners() -> None:
    from PySide6.QtCore import QRectF

    box = QRectF(0, 0, 60, 30)
    sure, doubt, late = (bar_path(box, False, 1.0), bar_path(box, False, 0.5), bar_path(box, True, 0.0))
    corner = QPointF(1.0, 1.0)
    assert not sure.contains(corner) and doubt.contains(corner) and not late.contains(corner)
    assert late.contains(QPointF(1.0, 15.0)) and late.elementCount() < sure.elementCount()


def test_room_and_hours_are_kept_from_the_page(day: Driver, shop: Shop, monkeypatch: pytest.MonkeyPatch) -> None:
    from creekbed.window.shop.capacity_dialog import RoomDialog

    monkeypatch.setattr(type(shop), "catalogue_without_values", lambda self: shipped())
    seen: list[str] = []

    def work(dialog: RoomDialog) -> None:
        dialog.findChild(QPushButton, "room_tub_more").click()
        dialog.counts["rack"].setText("many")
        dialog.keep.click()
        seen.append(dialog.wrong.text())
        assert dialog.isVisible() and dialog.wrong.isVisible()
        dialog.counts["rack"].setText("8")
        QTest.keyClick(dialog.counts["rack"], Qt.Key.Key_Tab)
        dialog.hours[5].setText("9-12")
        dialog.findChild(QPushButton, "gone_AB").click()
        seen.append(" ".join(w.key for w in staff.workers(shop)))
        dialog.keep.click()

    when_open(RoomDialog, work)
    day.press("room_hours")
    assert "Drying rack: 0 is no room" in seen[0] and seen[1] == "IW"
    assert next(p.capacity for p in shop.catalogue.house.place if p.key == "tub") == 3
    assert day.frame.home.problem.capacity["tub"] == 3 and "tub 3" in day.frame.words.text()
    assert shop.catalogue.house.hours.open["5"] == ((9.0, 12.0),)
    assert [q.person for q in day.frame.home.queues] == ["IW"]
    day.frame.nav.open_house("this_shop")
    told = [w.text() for w in day.frame.page("house").findChildren(QLabel)]
    assert "tub 3, Saturday 09:00-12:00" in told


def test_what_is_done_at_another_window_is_seen(day: Driver, shop: Shop, clock: HandClock) -> None:
    frame = day.frame
    frame.ticking.ticks = 0
    elsewhere = Shop(shop.folder, clock, person="AB", catalogue=shop.catalogue)
    try:
        intake.book_in(elsewhere, "MH-0777", family="violin")
        frame.ticking.tick()
        assert "MH-0777" not in [v.tag for v in frame.home.jobs]  # asked every second time only
        frame.ticking.tick()
        rest(frame)
        assert "MH-0777" in [v.tag for v in frame.home.jobs] and frame.words.text().startswith("AB: Booked in MH-0777")
        frame.say("Mind the clock.", warn=True)
        frame.nav.open_book_in()
        QApplication.processEvents()
        job_steps.take_up(elsewhere, next(v.job.id for v in frame.home.jobs if v.tag == "MH-0777"), "contents")
        frame.ticking.tick()
        frame.ticking.tick()
        rest(frame)
        assert frame.here == "book_in" and frame.words.text().startswith("Mind the clock.") and frame.notice.warns
        assert [q.person for q in frame.home.queues if q.held] == ["AB"]
    finally:
        elsewhere.close()


def test_what_is_tried_is_tried_again_when_the_plan_changes(day: Driver, hand: Hand) -> None:
    found = page(day)
    bar = middle(found.schedule)
    run = next(r for box, r in found.schedule.look().bars if box.center().toPoint() == bar)
    found._dropped(run, day.frame.home.now + timedelta(minutes=40), "IW")
    rest(day.frame)
    before = found.then.day
    assert found.then.isVisible() and found.tried_on is day.frame.home and before is not None
    day.clock.advance(seconds=30)
    day.frame.planner.plan_anew()
    rest(day.frame)
    assert found.tried_on is not day.frame.home and found.then.day is before  # only time has gone on
    hand.book("MH-0888", family="violin")  # somebody books another in meanwhile
    day.frame.refresh()
    rest(day.frame)
    assert found.tried_on is day.frame.home and found.then.isVisible()
    assert found.then.day is not before and "MH-0888" in {r.tag for s in found.then.day.rows for r in s.runs}
    found._leave_trial()
    rest(day.frame)
    assert not found.then.isVisible()


def test_what_can_no_more_be_tried_is_left(day: Driver, shop: Shop) -> None:
    found = page(day)
    box = day.find("what_if", QComboBox)
    stays = next(n for n in range(box.count()) if box.itemText(n).startswith("AB stays"))
    found._try(stays)
    rest(day.frame)
    assert found.then.isVisible()
    staff.remove_worker(shop, "AB")
    day.frame.refresh()
    rest(day.frame)
    assert not found.then.isVisible() and found.trial is None
    assert not any(box.itemText(n).startswith("AB") for n in range(box.count()))
