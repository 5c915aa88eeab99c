"""Clocks: a step is noticed before anything is written, waits keep their true length, times typed are local ones."""

from __future__ import annotations

import subprocess
import sys
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from creekbed.core.errors import CreekbedError, Refused
from creekbed.demo.seed import STOCK
from creekbed.store.records import Disinfection
from creekbed.store.sqlite.damage import find
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps
from creekbed.workshop.inspection.findings import read_back
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.shop.staff import Worker, open_spans, windows_of
from creekbed.workshop.supplies import stock

from ..conftest import MORNING, Hand


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
    assert hand.view(job).waits[0].contact.remaining == timedelta(minutes=9)
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
    left = hand.view(job).waits[0].contact.remaining
    assert left == pytest.approx(timedelta(minutes=9, seconds=30), abs=timedelta(seconds=1))


ACTS = st.sampled_from(("pass", "forward", "back", "look", "stock", "undo", "other", "restart"))


@settings(max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(ACTS, st.floats(0.2, 90.0)), max_size=14))
def test_a_wait_keeps_its_true_length_whatever_is_done(
    tmp_path_factory: pytest.TempPathFactory, acts: list[tuple[str, float]]
) -> None:
    """Two windows, a clock that is set about, programs closed and opened: the true time is counted beside."""
    folder = tmp_path_factory.mktemp("time")
    clock = HandClock(MORNING)
    shop = Shop(folder, clock)
    other = Shop(folder, clock, person="TO")
    for item, amount, more in STOCK:
        stock.book_in_stock(shop, item, amount, **more)
    hand = Hand(shop, clock)
    job = hand.book("MH-0001")
    hand.until(job, "disinfect")
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
    left = hand.view(job).waits[0].contact.remaining.total_seconds() / 60
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
    assert hand.view(job).waits[0].contact.remaining == pytest.approx(timedelta(minutes=4), abs=timedelta(seconds=1))


def test_a_clock_row_that_changed_by_itself_is_no_clock_that_was_set(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    with shop.store.engine.begin() as connection:
        connection.exec_driver_sql("UPDATE clock_anchor SET boot_seconds = boot_seconds + 4096")
    stock.book_in_stock(shop, "soap_ml", 1.0)
    assert hand.view(job).waits[0].contact.remaining == timedelta(minutes=10)


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
