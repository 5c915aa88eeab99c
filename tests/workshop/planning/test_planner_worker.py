"""The planner's own process: it answers as this process would, and its end is heard of, said and mended."""

from __future__ import annotations

import os
import signal
import threading
from collections.abc import Iterator
from concurrent.futures import Future, wait
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import pytest
from benchmarks.planning import bench

from creekbed.core.planning.dispatch import dispatch_plan
from creekbed.core.planning.plan_checker import violations
from creekbed.core.planning.plan_request import PlanRequest, PlanResult
from creekbed.core.planning.remedies import RemedyOption, first_of_all
from creekbed.core.planning.requests import PlannerRequest, RemediesRequest, ReplanRequest, WhyRequest
from creekbed.core.turns import whole
from creekbed.words.planner import UNAVAILABLE
from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.planning import planner_process
from creekbed.workshop.planning.planner_process import PlannerProcess, PlannerUnavailable
from creekbed.workshop.planning.planner_server import QUESTION, REPLAN, SEARCH
from creekbed.workshop.planning.planner_worker import PlannerWorker
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand

LONG_S = 60.0


@dataclass(frozen=True)
class Echo(PlannerRequest):
    """Answers what it holds."""

    words: str

    def answer(self) -> str:
        return self.words


@dataclass(frozen=True)
class Slow(PlannerRequest):
    """Needs something whose import never ends; makes a file when that is begun."""

    mark: Path

    def prepare(self) -> None:
        self.mark.touch()
        threading.Event().wait()

    def answer(self) -> str:
        return "too early"


@dataclass(frozen=True)
class Stuck(PlannerRequest):
    """Never answers, and cannot be interrupted."""

    def answer(self) -> None:
        threading.Event().wait()


@dataclass(frozen=True)
class Patient(PlannerRequest):
    """Goes on until something more urgent comes; makes a file when it is begun."""

    mark: Path

    def answer(self) -> None:
        self.mark.touch()
        while True:
            threading.Event().wait(0.001)


@dataclass(frozen=True)
class Greedy(PlannerRequest):
    """Takes memory and keeps it, then never answers."""

    size: int

    def answer(self) -> None:
        kept = bytearray(self.size)
        kept[:: os.sysconf("SC_PAGE_SIZE")] = b"x" * len(kept[:: os.sysconf("SC_PAGE_SIZE")])
        threading.Event().wait()


@dataclass(frozen=True)
class Faulty(PlannerRequest):
    """Goes wrong."""

    def answer(self) -> None:
        raise ZeroDivisionError


@dataclass
class Time:
    """A clock for deadlines that a test moves."""

    now: float = field(default_factory=planner_process.monotonic)

    def __call__(self) -> float:
        return self.now


@pytest.fixture
def time(monkeypatch: pytest.MonkeyPatch) -> Time:
    clock = Time()
    monkeypatch.setattr(planner_process, "monotonic", clock)
    return clock


@pytest.fixture
def process() -> Iterator[PlannerProcess]:
    found = PlannerProcess()
    yield found
    found.close()


def begun(process: PlannerProcess, request: Patient | Slow, urgency: int) -> Future[Any]:
    """Asked, and being answered now."""
    request.mark.unlink(missing_ok=True)
    found = process.submit(request, urgency=urgency, seconds=LONG_S)
    while not request.mark.exists():
        assert not found.done()
        threading.Event().wait(0.002)
    return found


def came(future: Future[Any]) -> Any:
    """What was answered."""
    return future.result(LONG_S)


def why(future: Future[Any]) -> str:
    """Why there is no answer."""
    error = future.exception(LONG_S)
    assert isinstance(error, PlannerUnavailable)
    return str(error.fields["why"])


# --- the process -----------------------------------------------------------------------------------------------------


def test_it_starts_when_asked_and_answers_in_the_order_of_urgency(process: PlannerProcess, tmp_path: Path) -> None:
    assert not process.runs and process.pid is None
    patient = Patient(tmp_path / "begun")
    blocked = begun(process, patient, SEARCH)
    assert process.runs and process.pid != os.getpid()
    answers: list[str] = []
    question = process.submit(Echo("question"), urgency=QUESTION, seconds=LONG_S)
    assert came(blocked) is None  # it was left for the question
    assert came(question) == "question"
    blocked = begun(process, patient, QUESTION)
    waiting = [
        process.submit(Echo("search"), urgency=SEARCH, seconds=LONG_S),
        process.submit(Echo("question"), urgency=QUESTION, seconds=LONG_S),
        process.submit(Echo("replan"), urgency=REPLAN, seconds=LONG_S),
    ]
    for future in waiting:
        future.add_done_callback(lambda done: answers.append(done.result()))
    wait(waiting, LONG_S)
    assert came(blocked) is None and answers == ["replan", "question", "search"]


def test_a_question_is_not_left_for_another_question(process: PlannerProcess, tmp_path: Path) -> None:
    first = begun(process, Patient(tmp_path / "begun"), QUESTION)
    second = process.submit(Echo("second"), urgency=QUESTION, seconds=LONG_S)
    assert not second.done() and not first.done()
    process.submit(Echo("replan"), urgency=REPLAN, seconds=LONG_S)
    assert came(first) is None and came(second) == "second"


def test_what_is_made_ready_is_left_too(process: PlannerProcess, tmp_path: Path) -> None:
    asked = begun(process, Slow(tmp_path / "begun"), SEARCH)
    assert came(process.submit(Echo("question"), urgency=QUESTION, seconds=LONG_S)) == "question"
    assert came(asked) is None


def test_what_nobody_waits_for_is_left_and_never_begun(process: PlannerProcess, tmp_path: Path) -> None:
    under_way = begun(process, Patient(tmp_path / "begun"), REPLAN)
    never_begun = process.submit(Stuck(), urgency=REPLAN, seconds=LONG_S)
    process.drop(never_begun)
    process.drop(under_way)
    assert came(process.submit(Echo("next"), urgency=SEARCH, seconds=LONG_S)) == "next"
    assert not under_way.done() and not never_begun.done()
    process.drop(under_way)  # once more is no harm


def test_a_crash_is_heard_of_and_it_starts_again_later_and_later(process: PlannerProcess, time: Time) -> None:
    for n, after in enumerate((*planner_process.AGAIN_S, planner_process.AGAIN_S[-1])):
        asked = process.submit(Stuck(), urgency=REPLAN, seconds=1e6)
        assert process.pid is not None
        os.kill(process.pid, signal.SIGKILL)
        assert why(asked) == "crash" and not process.runs and process.why == "crash", n
        time.now += after - 0.1
        assert process.rests and not process.may_start_again
        assert why(process.submit(Echo("no"), urgency=REPLAN, seconds=LONG_S)) == "crash"
        time.now += 0.2
        assert not process.rests and process.may_start_again
    assert came(process.submit(Echo("again"), urgency=REPLAN, seconds=1e6)) == "again"
    assert process.why == "" and not process.may_start_again
    asked = process.submit(Stuck(), urgency=REPLAN, seconds=1e6)
    assert process.pid is not None
    os.kill(process.pid, signal.SIGKILL)
    assert why(asked) == "crash"
    time.now += planner_process.AGAIN_S[0] + 0.1  # an answer has made good what was before
    assert process.may_start_again


def test_a_hang_is_ended_at_its_deadline(process: PlannerProcess, time: Time) -> None:
    asked = process.submit(Stuck(), urgency=QUESTION, seconds=8.0)
    behind = process.submit(Echo("behind"), urgency=QUESTION, seconds=30.0)
    pid = process.pid
    time.now += 7.9
    process.check()
    assert process.runs and not asked.done()
    time.now += 0.2
    process.check()
    assert why(asked) == why(behind) == "hang" and not process.runs and pid is not None
    with pytest.raises(ProcessLookupError):
        os.kill(pid, 0)


def test_much_memory_ends_it(process: PlannerProcess, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(planner_process, "MOST_BYTES", 200_000_000)
    assert came(process.submit(Echo("small"), urgency=QUESTION, seconds=LONG_S)) == "small"
    process.check()
    assert process.runs
    asked = process.submit(Greedy(250_000_000), urgency=QUESTION, seconds=LONG_S)
    while process.runs:
        process.check()
    assert why(asked) == "memory" and process.why == "memory"


def test_a_machine_that_allows_no_process_is_said(
    process: PlannerProcess, time: Time, monkeypatch: pytest.MonkeyPatch
) -> None:
    def no(*args: Any) -> Any:
        raise OSError("no process")

    spawn = planner_process.multiprocessing.get_context("spawn")
    monkeypatch.setattr(spawn.Process, "start", no)
    asked = process.submit(Echo("no"), urgency=REPLAN, seconds=LONG_S)
    assert why(asked) == "start" and process.rests
    monkeypatch.undo()
    monkeypatch.setattr(planner_process, "monotonic", time)
    time.now += 5.0
    assert process.may_start_again
    assert came(process.submit(Echo("yes"), urgency=REPLAN, seconds=1e6)) == "yes"


def test_a_fault_is_told_and_the_process_goes_on(process: PlannerProcess) -> None:
    asked = process.submit(Faulty(), urgency=QUESTION, seconds=LONG_S)
    with pytest.raises(RuntimeError, match="ZeroDivisionError"):
        came(asked)
    pid = process.pid
    assert came(process.submit(Echo("on"), urgency=QUESTION, seconds=LONG_S)) == "on" and process.pid == pid


def test_closing_waits_for_nothing(process: PlannerProcess) -> None:
    asked = process.submit(Stuck(), urgency=REPLAN, seconds=LONG_S)
    pid = process.pid
    process.close()
    assert asked.done() and not process.runs and process.why == "" and pid is not None
    with pytest.raises(ProcessLookupError):
        os.kill(pid, 0)
    for thread in threading.enumerate():
        if thread.name in ("to planner", "from planner"):
            thread.join(LONG_S)
            assert not thread.is_alive()
    process.close()


# --- what a shop asks ------------------------------------------------------------------------------------------------


@pytest.fixture
def worker(shop: Shop, hand: Hand) -> Iterator[PlannerWorker]:
    for n, family in enumerate(("alto_saxophone", "violin", "alto_saxophone")):
        hand.book(f"MH-01{n}0", family=family)
    found = PlannerWorker(shop, (0.1, 0.1))
    yield found
    found.close()


def test_it_answers_what_this_process_would(worker: PlannerWorker) -> None:
    problem = bench(12)
    plan = dispatch_plan(problem)
    step = plan.steps[-1]
    for request in (
        ReplanRequest(4, problem, plan, 3.0),
        ReplanRequest(4, problem, plan, 3.0, keep_it=True),
        WhyRequest(4, problem, plan, step.job, step.operation, step.person),
    ):
        assert whole(worker.ask(request)) == request.answer()


def test_help_that_was_left_for_a_plan_is_asked_for_again(worker: PlannerWorker) -> None:
    problem = bench(10)
    plan = dispatch_plan(problem)
    job = plan.steps[-1].job
    options = [RemedyOption("first", job, 0.0, 1.0, first_of_all(job))]
    request = RemediesRequest(1, problem, plan, job, options, 20.0)
    helping = worker.ask(request)
    asked = next(helping)
    assert asked is not None
    wait([worker.process.submit(Echo("replan"), urgency=REPLAN, seconds=LONG_S)])
    found = whole(helping)
    assert [r.cost for r in found] == [r.cost for r in request.answer()]


def test_work_that_is_dropped_drops_what_it_asked(worker: PlannerWorker, tmp_path: Path) -> None:
    blocked = begun(worker.process, Patient(tmp_path / "begun"), REPLAN)
    asking = worker.ask(Stuck())
    next(asking)
    asking.close()
    worker.process.drop(blocked)
    assert whole(worker.ask(Echo("next"))) == "next"


def test_the_plan_on_show_is_repaired_where_there_is_no_planner(
    worker: PlannerWorker, shop: Shop, hand: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    view = home(shop)
    shop.planner.answers = worker
    hand.book("MH-0190", "violin")
    monkeypatch.setattr(PlannerProcess, "rests", True)
    after = home(shop)
    assert violations(after.problem, after.plan) == [] and len(after.plan.steps) > len(view.plan.steps)
    monkeypatch.undo()
    again = home(shop)
    assert violations(again.problem, again.plan) == [] and not shop.planner.hasty


def test_better_plans_are_looked_for_until_there_is_none(worker: PlannerWorker, shop: Shop) -> None:
    worker.look(home(shop))
    assert worker.thinking and worker.words == "Looking for a better plan …"
    searches = 0
    while worker.thinking:
        assert worker._search is not None
        wait([worker._search], LONG_S)
        assert worker.poll() or shop.planner.learned.records
        searches += 1
        worker.look(home(shop))
    assert 1 <= searches <= 2 and shop.planner.gap() and worker.words == ""
    worker.close()
    assert not worker.thinking and not worker.poll()


def test_a_search_is_left_for_an_action_and_taken_up_again(shop: Shop, hand: Hand, worker: PlannerWorker) -> None:
    worker.stretches = (LONG_S,)
    view = home(shop)
    worker.look(view)
    assert worker._search is not None
    while not worker._search.done():  # it may not have been begun when the first of these came
        result = whole(worker.ask(shop.planner.request(view.problem, view.now)))
        assert violations(replace(view.problem, pins=result.pins), result.plan) == []
    assert worker._search.result() is None and not worker.poll() and not worker.thinking
    worker.look(home(shop))
    assert worker.thinking


def test_an_answer_about_another_bench_is_not_shown(shop: Shop, hand: Hand, worker: PlannerWorker) -> None:
    worker.look(home(shop))
    hand.book("MH-0191", "violin")
    after = home(shop)
    assert worker._search is not None
    wait([worker._search], LONG_S)
    assert not worker.poll() and shop.planner.shown is after.plan and shop.planner.known_now is None


@pytest.mark.parametrize("ended", ["crash", "hang", "memory", "start"])
def test_it_says_that_nobody_looks_for_better_plans_and_why(worker: PlannerWorker, shop: Shop, ended: str) -> None:
    worker.stretches = (LONG_S,)
    worker.look(home(shop))
    worker.process._rest(ended, worker.process._link)
    assert not worker.poll() and not worker.thinking
    assert worker.words == UNAVAILABLE[ended] and "not being looked for" in worker.words
    worker.look(home(shop))
    assert not worker.thinking and not worker.may_go_on
    worker.process._again_at = 0.0  # a while later
    assert worker.may_go_on
    worker.stretches = (0.1,)
    worker.look(home(shop))
    assert worker.thinking and worker._search is not None and worker.words == "Looking for a better plan …"
    result = came(worker._search)
    assert isinstance(result, PlanResult) and not worker.may_go_on


def test_a_fault_in_searching_is_told_once_and_that_bench_is_left(worker: PlannerWorker, shop: Shop) -> None:
    def wrong(*args: Any, **more: Any) -> PlanRequest:
        return Faulty()  # type: ignore[return-value]

    view = home(shop)
    task, shop.planner.task = shop.planner.task, wrong  # type: ignore[method-assign]
    worker.look(view)
    assert worker._search is not None
    wait([worker._search], LONG_S)
    with pytest.raises(RuntimeError, match="Traceback"):
        worker.poll()
    assert worker.words == UNAVAILABLE["fault"] and not worker.thinking
    shop.planner.task = task  # type: ignore[method-assign]
    worker.look(view)
    assert not worker.thinking
