"""The window between its turns: long work goes on while people do things, and what they do goes before."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest
from PySide6.QtCore import QObject
from PySide6.QtWidgets import QApplication

from creekbed.core.errors import BadInput, CreekbedError
from creekbed.core.planning.replanning import alike
from creekbed.core.turns import Turns, whole
from creekbed.window.frame.frame import Frame
from creekbed.window.shared import turns
from creekbed.window.shared.turns import InTurns
from creekbed.workshop.bench import job_steps
from creekbed.workshop.bench.bench_records import read
from creekbed.workshop.bench.bench_view import home, plan_in_turns
from creekbed.workshop.planning import fixed_starts
from creekbed.workshop.shop import staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand
from tests.window.conftest import Driver, opened, rest


class Worker:
    """Work of so many turns that tells how far it came."""

    def __init__(self) -> None:
        self.owner = QObject()
        self.wrong: list[CreekbedError] = []
        self.came: list[Any] = []
        self.turn = 0
        self.closed = False
        self.in_turns = InTurns(self.owner, self.wrong.append)

    def work(self, count: int, act: Callable[[], None] = lambda: None) -> Turns[int]:
        try:
            for n in range(count):
                self.turn = n
                act()
                yield
            return count
        finally:
            self.closed = True

    def until_done(self) -> None:
        while self.in_turns.busy:
            QApplication.processEvents()


@pytest.fixture
def worker(qapp: QApplication, monkeypatch: pytest.MonkeyPatch) -> Worker:
    monkeypatch.setattr(turns, "TURN_S", 0.0)  # one step a turn
    return Worker()


def test_work_is_done_in_turns_and_then_told(worker: Worker) -> None:
    worker.in_turns.start(worker.work(5), worker.came.append)
    assert worker.in_turns.busy and worker.turn == 0 and worker.came == []
    seen = []
    while worker.in_turns.busy:
        QApplication.processEvents()
        seen.append(worker.turn)
    assert worker.came == [5] and len(set(seen)) > 1  # others had their turn between


def test_what_is_left_comes_to_nothing(worker: Worker) -> None:
    worker.in_turns.start(worker.work(1000), worker.came.append)
    while not worker.turn:
        QApplication.processEvents()
    worker.in_turns.drop()
    assert not worker.in_turns.busy and worker.closed
    worker.in_turns.start(worker.work(1000), worker.came.append)
    QApplication.processEvents()
    worker.in_turns.start(worker.work(3), worker.came.append)  # the newer takes its place
    worker.until_done()
    assert worker.came == [3]


def test_what_goes_wrong_is_said_and_a_fault_is_raised(worker: Worker, qtbot: Any) -> None:
    def refused() -> None:
        raise BadInput("It is not so.")

    def fault() -> None:
        raise ZeroDivisionError("a fault of the program")

    worker.in_turns.start(worker.work(2, refused), worker.came.append)
    worker.until_done()
    assert [e.happened for e in worker.wrong] == ["It is not so."] and worker.came == []
    with qtbot.captureExceptions() as raised:
        worker.in_turns.start(worker.work(2, fault), worker.came.append)
        worker.until_done()
    assert [r[0] for r in raised] == [ZeroDivisionError] and worker.came == [] and not worker.in_turns.busy


def test_work_may_begin_itself_anew_or_leave_itself(worker: Worker) -> None:
    worker.in_turns.start(worker.work(3, worker.in_turns.drop), worker.came.append)
    worker.until_done()
    assert worker.came == []
    again = worker.work(4)
    worker.in_turns.start(
        worker.work(3, lambda: worker.in_turns.start(again, worker.came.append)), lambda n: worker.came.append(-n)
    )
    worker.until_done()
    assert worker.came == [4]


def test_a_dialog_that_work_opens_does_not_go_on_with_it(worker: Worker) -> None:
    depth: list[int] = []

    def dialog() -> None:
        depth.append(worker.turn)
        for _ in range(5):
            QApplication.processEvents()  # as a dialog's loop does

    worker.in_turns.start(worker.work(3, dialog), worker.came.append)
    worker.until_done()
    assert depth == [0, 1, 2] and worker.came == [3]


# --- the plan -------------------------------------------------------------------------------------------------------


def test_an_action_goes_before_a_plan_that_is_being_made(window: Frame, hand: Hand, clock: HandClock) -> None:
    for n in range(4):
        hand.book(f"MH-01{n}0", family=("alto_saxophone", "violin")[n % 2])
    window.nav.go_home()
    rest(window)
    clock.advance(minutes=1)
    window.planner.plan_anew()
    following = window.home.next
    assert window.planner.work.busy and following is not None
    window.do(lambda: job_steps.take_up(window.shop, following.view.job.id, following.step.step.key))
    assert window.planner.behind and window.records.in_hand_of("IW") is not None  # known at once
    rest(window)
    assert (
        not window.planner.behind
        and window.home.next.in_hand
        and window.home.plan.of("IW")[0].job == following.view.tag
    )


def test_at_once_the_plan_is_kept_then_a_better_one_is_looked_for(window: Frame, hand: Hand, shop: Shop) -> None:
    for n in range(4):
        hand.book(f"MH-01{n}0", family=("alto_saxophone", "violin")[n % 2])
    window.nav.go_home()
    rest(window)
    alone = window.home.plan
    assert not shop.planner.hasty and {s.person for s in alone.steps} == {"IW"}
    staff.add_worker(shop, "AB")
    assert window.planner.behind and window.home.plan is alone  # the picture is whole, and of the plan there was
    while window.planner.behind:
        QApplication.processEvents()
    assert shop.planner.hasty and window.home.plan.of("IW")[0].job == alone.of("IW")[0].job
    rest(window)
    assert not shop.planner.hasty
    both = window.home.plan
    assert {s.person for s in both.steps} == {"IW", "AB"}
    assert both.cost(window.home.problem) < alone.cost(window.home.problem)
    assert alike(both, home(shop).plan)  # what is planned at once comes to the same


def test_a_plan_that_is_as_good_is_not_drawn_again(window: Frame, hand: Hand, monkeypatch: pytest.MonkeyPatch) -> None:
    job = hand.book()
    window.nav.go_home()
    rest(window)
    drawn: list[int] = []
    show = type(window.page("home")).show_in_turns

    def counted(page: Any) -> Turns[None]:
        drawn.append(1)
        yield from show(page)

    monkeypatch.setattr(type(window.page("home")), "show_in_turns", counted)
    window.do(lambda: job_steps.take_up(window.shop, job, "contents"))
    rest(window)
    assert drawn == [1]


def test_a_plan_left_half_way_changes_nothing_that_is_shown(shop: Shop, hand: Hand, clock: HandClock) -> None:
    for n in range(3):
        hand.book(f"MH-01{n}0")
    seen = home(shop)
    shown, about, at = shop.planner.shown, shop.planner.about(), shop.planner.at
    clock.advance(minutes=3)
    records = read(shop, shop.now)
    work = plan_in_turns(shop, records)
    next(work)
    work.close()
    assert (shop.planner.shown, shop.planner.about(), shop.planner.at) == (shown, about, at)
    later = whole(plan_in_turns(shop, records))
    assert records.now > seen.now and shop.planner.shown is later.plan and shop.planner.at == records.now


def test_thinking_begins_when_the_plan_is_settled(qtbot: Any, shop: Shop, hand: Hand) -> None:
    for n in range(3):
        hand.book(f"MH-02{n}0")
    frame = opened(qtbot, Frame(lambda: shop, thinking=True))
    rest(frame)
    frame.planner.worker.close()
    staff.add_worker(shop, "AB")
    while frame.planner.behind:
        QApplication.processEvents()
    assert shop.planner.hasty and not frame.planner.worker.thinking  # it would think about a plan that was kept only
    rest(frame)
    assert not shop.planner.hasty and frame.planner.worker.thinking
    frame.close()


def test_a_page_that_was_to_be_drawn_is_drawn_by_the_plan_that_takes_its_place(window: Frame, hand: Hand) -> None:
    job = hand.book()
    window.nav.open_job(job, "steps")
    rest(window)
    drawn: list[str] = []
    page = window.page("job")
    show = page.refresh
    page.refresh = lambda: (drawn.append("job"), show())
    window.planner.plan_anew(("home",))
    window.planner.plan_anew(("day",))
    rest(window)
    assert drawn == []
    window.planner.plan_anew()  # a wait is due: any page
    window.planner.plan_anew(("home", "day"))  # and another window has left a plan
    rest(window)
    assert drawn == ["job"]
    window.planner.plan_anew(("home", "day"))
    rest(window)
    assert drawn == ["job"]


def test_another_page_is_left_as_it_is_when_thinking_comes_to_something(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.press("way_book_in")
    driver.type("tag", "MH-05")
    before = driver.frame.home
    driver.frame.planner.work.start(driver.frame.planner.planned_anew(("home", "day")))
    rest(driver.frame)
    assert driver.frame.home is not before and driver.frame.here == "book_in"
    assert driver.frame.page("book_in").tag.text() == "MH-05"


def test_two_windows_show_one_plan(qtbot: Any, window: Frame, hand: Hand, shop: Shop, clock: HandClock) -> None:
    for n in range(6):
        hand.book(f"MH-01{n}0", family=("oboe", "violin", "acoustic_guitar")[n % 3])
    staff.add_worker(shop, "AB")
    rest(window)
    elsewhere = Shop(shop.folder, clock, person="AB", catalogue=shop.catalogue)
    second = opened(qtbot, Frame(lambda: elsewhere))
    rest(second)

    def agree() -> bool:
        return alike(window.home.plan, second.home.plan)

    def look() -> None:
        for frame in (second, window):
            for _ in range(2):
                frame.ticking.tick()
            rest(frame)

    for _ in range(3):  # each may still better what the other has left
        look()
    assert agree()
    last = window.home.plan.of("IW")[-1].job
    job = next(v.job.id for v in window.home.jobs if v.tag == last)
    window.do(lambda: fixed_starts.lock(shop, job, "contents", "IW", shop.now + timedelta(hours=2)))
    rest(window)
    assert not agree()
    for _ in range(3):
        look()
    assert agree()
    assert second.home.queues[0].person == "AB" and window.home.queues[0].person == "IW"
    assert [q.then for q in second.home.queues if q.person == "IW"] == [window.home.queues[0].then]
    second.close()
