"""Clocks: a step is noticed before anything is written, waits keep their true length, times typed are local ones."""

from __future__ import annotations

import shutil
import subprocess
import sys
import time
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from creekbed.core.errors import CreekbedError, Refused
from creekbed.demo.seed import STOCK
from creekbed.store.records import ClockAnchor, Disinfection
from creekbed.store.sqlite.damage import find
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps
from creekbed.workshop.bench.bench_records import job_now
from creekbed.workshop.inspection.findings import read_back
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.machine_clocks import ONE_CLOCK, UNPROVEN_S, MachineClocks
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.shop.staff import Worker, open_spans, windows_of
from creekbed.workshop.supplies import stock
from tests.conftest import MORNING, Hand


@pytest.mark.parametrize("step", [timedelta(minutes=30), timedelta(minutes=-30), timedelta(days=400)])
def test_an_action_right_after_a_step_does_not_hide_it(
    shop: Shop, hand: Hand, clock: HandClock, step: timedelta
) -> None:
    """One true minute of contact: whatever the clock was set to, it is one minute, and the record says so."""
    job = hand.book()
    hand.until(job, "disinfect")
    clock.advance(minutes=1)
    clock.step(seconds=step.total_seconds())
    stock.book_in_stock(shop, "soap_ml", 10.0)  # any action at all
    assert any("clock was set" in note for note in shop.last_done.notes)  # type: ignore[union-attr]
    assert hand.wait(job).contact.remaining == timedelta(minutes=9)
    with pytest.raises(Refused):
        job_steps.finish_step(shop, job, "rinse")
    clock.advance(minutes=9)
    job_steps.finish_step(shop, job, "rinse")
    with shop.reading() as session:
        (row,) = session.all_of(Disinfection)
    assert row.wet_min == pytest.approx(10.0, abs=0.05)
    assert find(shop.folder) == []


def test_the_action_itself_is_judged_by_true_time(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    clock.advance(minutes=1)
    clock.step(minutes=30)
    with pytest.raises(Refused):
        job_steps.finish_step(shop, job, "rinse")  # nobody looked at the clock in between
    assert "set forward by 30 min" in shop.look_at_clock()  # what was refused has hidden nothing


def test_many_small_steps_add_up(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    for _ in range(30):  # each too small to be news
        clock.step(seconds=19)
        clock.advance(seconds=1)
        stock.book_in_stock(shop, "soap_ml", 1.0)
    left = hand.wait(job).contact.remaining
    assert left == pytest.approx(timedelta(minutes=9, seconds=30), abs=timedelta(seconds=1))


Before = tuple[Path, int, datetime]
"""A folder, the number of its job, and when it was left."""


@pytest.fixture(scope="module")
def before_disinfecting(tmp_path_factory: pytest.TempPathFactory) -> Before:
    """A shop with one job whose next step is disinfecting."""
    folder, clock = tmp_path_factory.mktemp("before") / "shop", HandClock(MORNING, "before")
    shop = Shop(folder, clock)
    for item, amount, more in STOCK:
        stock.book_in_stock(shop, item, amount, **more)
    hand = Hand(shop, clock)
    job = hand.book("MH-0001")
    while (
        key := next(s for s in hand.view(job).open_steps if s.state in ("ready", "waiting")).step.key
    ) != "disinfect":
        hand.do(job, key)
    shop.close()
    return folder, job, clock.now()


def _copy(before: Before, place: Path) -> Before:
    folder = place / "shop"
    shutil.copytree(before[0], folder)
    return folder, *before[1:]


ACTS = st.sampled_from(("pass", "forward", "back", "look", "stock", "undo", "other", "restart"))


@settings(max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(ACTS, st.floats(0.2, 90.0)), max_size=14))
def test_a_wait_keeps_its_true_length_whatever_is_done(
    tmp_path_factory: pytest.TempPathFactory, before_disinfecting: Before, acts: list[tuple[str, float]]
) -> None:
    """Two windows, a clock that is set about, programs closed and opened: the true time is counted beside."""
    folder, job, now = _copy(before_disinfecting, tmp_path_factory.mktemp("time"))
    clock = HandClock(now)
    shop = Shop(folder, clock)
    other = Shop(folder, clock, person="TO")
    hand = Hand(shop, clock)
    hand.do(job, "disinfect")
    true_min = 0.0
    for what, minutes in acts:
        if what == "pass":
            clock.advance(minutes=minutes)
            true_min += minutes
        elif what in ("forward", "back"):
            clock.step(minutes=minutes if what == "forward" else -minutes)
        elif what == "look":
            shop.look_at_clock()
        elif what == "stock":
            stock.book_in_stock(shop, "soap_ml", 1.0)
        elif what == "other":
            stock.book_in_stock(other, "soap_ml", 1.0)
        elif what == "undo" and shop.undoable(1) and shop.undoable(1)[0].action == "stock.in":
            shop.undo()
        elif what == "restart":
            other.close()
            other = Shop(folder, clock, person="TO")
    stock.book_in_stock(shop, "soap_ml", 1.0)
    left = hand.wait(job).contact.remaining.total_seconds() / 60
    assert left == pytest.approx(max(10.0 - true_min, 0.0), abs=0.4)
    shop.close()
    other.close()


def test_a_shell_command_looks_too(tmp_path: Path, clock: HandClock) -> None:
    """The records say that one boot's clock stood an hour apart: the command says so, and goes on."""
    shop = Shop(tmp_path / "shop")  # by this computer's own clock
    stock.book_in_stock(shop, "soap_ml", 1.0)
    anchor = shop.time.anchor
    assert anchor is not None
    shop.time.clock = HandClock(anchor.utc - timedelta(hours=1), shop.clock.machine)
    shop.time.clock.boot_id = anchor.boot_id  # type: ignore[attr-defined]
    shop.time.clock._boot = anchor.boot_seconds  # type: ignore[attr-defined]
    shop.look_at_clock()
    shop.close()
    done = subprocess.run(
        [sys.executable, "-m", "creekbed", "--folder", str(tmp_path / "shop"), "plan"], capture_output=True, text=True,
        timeout=60, check=False,
    )  # fmt: skip
    assert done.returncode == 0 and "set forward by 60 min" in done.stderr


def test_a_year_ahead_for_a_while_is_forgotten_after_it_was_put_right(shop: Shop, hand: Hand, clock: HandClock) -> None:
    clock.step(days=365)
    stock.book_in_stock(shop, "soap_ml", 1.0)
    clock.step(days=-365)
    stock.book_in_stock(shop, "soap_ml", 1.0)
    job = hand.book()
    hand.until(job, "disinfect")
    clock.advance(minutes=4)
    shop.look_at_clock()
    clock.reboot()
    clock.advance(minutes=2)
    assert "set back" not in shop.look_at_clock()
    assert hand.wait(job).contact.remaining == pytest.approx(timedelta(minutes=4), abs=timedelta(seconds=1))


def test_a_clock_row_that_changed_by_itself_is_no_clock_that_was_set(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    with shop.store.engine.begin() as connection:
        connection.exec_driver_sql("UPDATE clock_anchor SET boot_seconds = boot_seconds + 4096")
    stock.book_in_stock(shop, "soap_ml", 1.0)
    assert hand.wait(job).contact.remaining == timedelta(minutes=10)


def test_the_bench_opens_at_its_hours_on_the_days_of_the_change(shop: Shop, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("TZ", "Europe/Copenhagen")
    time.tzset()
    try:
        for start in (datetime(2026, 3, 23, 6, tzinfo=UTC), datetime(2026, 10, 19, 6, tzinfo=UTC)):
            spans = open_spans(shop, start)
            worker = Worker("TO", hours=(13.0, 17.0))
            for a, b in windows_of(worker, spans, start):
                first = (start + timedelta(minutes=a)).astimezone()
                last = (start + timedelta(minutes=b)).astimezone()
                assert first.hour >= 13 and (last.hour, last.minute) <= (17, 0)
            _, back = read_back("luthier, Tue 14:00", start)
            assert back is not None and back.astimezone(UTC).astimezone().hour == 14
    finally:
        monkeypatch.undo()
        time.tzset()


def test_what_is_refused_leaves_the_clock_as_it_was_seen(shop: Shop, clock: HandClock) -> None:
    clock.step(hours=2)
    with pytest.raises(CreekbedError):
        intake.book_in(shop, "MH-1", family="gong")
    assert shop.now == clock.now() - timedelta(hours=2)
    assert "forward by 120 min" in shop.look_at_clock() and shop.now == clock.now()


@settings(max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    apart=st.floats(-3000.0, 3000.0), waits=st.lists(st.floats(1.0, 150.0), min_size=1, max_size=12),
    sides=st.lists(st.booleans(), min_size=12, max_size=12),
)  # fmt: skip
def test_no_machine_ends_a_contact_time_too_soon(
    tmp_path_factory: pytest.TempPathFactory,
    before_disinfecting: Before,
    apart: float,
    waits: list[float],
    sides: list[bool],
) -> None:
    """Two machines, one clock ahead of the other or behind it: the true time is counted beside."""
    folder, job, now = _copy(before_disinfecting, tmp_path_factory.mktemp("apart"))
    here, there = HandClock(now, "here"), HandClock(now + timedelta(seconds=apart), "there")
    shop, other = Shop(folder, here), Shop(folder, there, person="TO")
    hand = Hand(shop, here)
    for at in (other, shop, other):  # both have been at work
        stock.book_in_stock(at, "soap_ml", 1.0)
    hand.do(job, "disinfect")
    other.others()
    true_s = 0.0
    for seconds, mine in zip(waits, sides, strict=False):
        for clock in (here, there):
            clock.advance(seconds=seconds)
        true_s += seconds
        stock.book_in_stock(shop if mine else other, "soap_ml", 1.0)
        other.others()
        left = max(600.0 - true_s, 0.0)
        with other.reading() as records:
            view = job_now(other, records, other.now, job)
        assert view is not None
        told = next(w for w in view.waits if w.key == "disinfect").contact.remaining.total_seconds()
        assert left - 0.01 <= told <= left + 1.0
        if left > 1.0:
            with pytest.raises(Refused):
                job_steps.finish_step(other, job, "rinse")
    shop.close()
    other.close()


def test_what_is_known_of_another_clock() -> None:
    """Bounds by hand: this clock 40 s ahead, seen 5 s after the other wrote, and the other saw this one's 6 s ago."""
    clocks = MachineClocks("b")
    a = ClockAnchor(machine="a", utc=MORNING, boot_id="a", boot_seconds=1.0)
    assert clocks.ahead("a") == timedelta(seconds=UNPROVEN_S) and clocks.behind("a") == timedelta(0)
    clocks.compare(MORNING + timedelta(seconds=45), [a])
    assert clocks.ahead("a") == timedelta(seconds=45)  # at most, whatever the other says
    clocks.compare(MORNING + timedelta(hours=3), [a])
    assert clocks.ahead("a") == timedelta(seconds=45)  # the other wrote nothing since: no news
    clocks.compare(MORNING + timedelta(hours=3), [replace(a, at_most={"b": -600.0})])
    assert clocks.at_least["a"] == 600.0
    clocks.forget()
    clocks.compare(MORNING - timedelta(seconds=40), [a])
    assert clocks.behind("a") == timedelta(seconds=40) and clocks.ahead("a") == timedelta(seconds=-40)
    assert clocks.ahead("b") == clocks.ahead("") == ONE_CLOCK.ahead("a") == timedelta(0)


def test_a_machine_that_is_behind_sees_a_longest_time_end_no_later(shop: Shop, hand: Hand, clock: HandClock) -> None:
    slow = HandClock(clock.now() - timedelta(seconds=50), "slow")
    other = Shop(shop.folder, slow, person="TO")
    job = hand.book()
    hand.until(job, "disinfect")
    other.others()
    with shop.reading() as mine, other.reading() as theirs:
        views = [job_now(s, r, s.now, job) for s, r in ((shop, mine), (other, theirs))]
        wait, seen = (next(w for w in v.waits if w.key == "disinfect") for v in views if v is not None)
    assert wait.contact.latest is not None and seen.contact.latest is not None
    assert seen.contact.latest - other.now <= wait.contact.latest - shop.now
    other.close()


@pytest.mark.parametrize("forward", [0.0, 120.0])
def test_no_contact_time_counts_while_the_computer_was_off(
    shop: Shop, hand: Hand, clock: HandClock, forward: float
) -> None:
    """A computer that starts with its clock two hours ahead looks like one that was off for two hours."""
    job = hand.book()
    hand.until(job, "disinfect")
    clock.advance(minutes=4)
    shop.look_at_clock()
    clock.advance(minutes=3)
    clock.step(minutes=forward)
    clock.reboot()
    clock.advance(minutes=1)
    assert "off for" in shop.look_at_clock() and shop.look_at_clock() == ""
    left = hand.wait(job).contact.remaining
    assert left == pytest.approx(timedelta(minutes=5), abs=timedelta(seconds=6))
    clock.advance(minutes=5, seconds=6)
    job_steps.finish_step(shop, job, "rinse")
    with shop.reading() as session:
        (row,) = session.all_of(Disinfection)
    assert row.wet_min == pytest.approx(10.0, abs=0.2)
    assert find(shop.folder) == []
