"""The journal: what was done can be replayed, taken back exactly, and never rewritten."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError

from creekbed.core.errors import CreekbedError, Refused
from creekbed.store.journal import dump, invert, replay
from creekbed.store.records import Job
from creekbed.workshop.arrival import intake
from creekbed.workshop.arrival.condition_marks import add_mark
from creekbed.workshop.bench import job_steps
from creekbed.workshop.inspection import findings
from creekbed.workshop.release import release_check
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.conftest import Hand


def state_of(shop: Shop) -> Any:
    with shop.reading() as session:
        return dump(session.connection)


def replayed(shop: Shop) -> Any:
    with shop.reading() as session:
        return replay(session.journal.all_changes())


def test_replay_of_a_whole_job_is_the_state(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "pack", pads={"G sharp": "sticks"}, mouthpiece="lime")
    release_check.make_ready(shop, job)
    assert replayed(shop) == state_of(shop)


def test_undo_all_the_way_back(shop: Shop, hand: Hand) -> None:
    before = state_of(shop)
    count = len(shop.undoable(500))
    job = hand.book("MH-0300", "violin")
    hand.until(job, "retune_1", strings={"A": "worn"})
    while len(shop.undoable(500)) > count:
        last = shop.undoable(1)[0]
        done = shop.undo()
        assert done.words == f"Undone: {last.words}"
        assert replayed(shop) == state_of(shop)
    assert state_of(shop) == before


def test_undo_goes_back_one_by_one_and_names_each(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    intake.tick_item(shop, job, "neck", "present")
    intake.tick_item(shop, job, "cap", "missing")
    assert shop.undo().words == "Undone: MH-0142: mouthpiece cap missing"
    assert shop.undo().words == "Undone: MH-0142: neck present"
    assert hand.view(job).lines == {}


def test_undo_gives_stock_back(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    intake.tick_item(shop, job, "end_plug", "missing")
    before = {v.supply.key: v.amount for v in stock.stock_list(shop)}["end_plug_alto"]
    intake.replace_item(shop, job, "end_plug")
    assert {v.supply.key: v.amount for v in stock.stock_list(shop)}["end_plug_alto"] == before - 1
    shop.undo()
    assert {v.supply.key: v.amount for v in stock.stock_list(shop)}["end_plug_alto"] == before


def test_nothing_to_undo(shop: Shop) -> None:
    for _ in range(len(shop.undoable(500))):
        shop.undo()
    with pytest.raises(Refused, match="nothing to undo"):
        shop.undo()


def test_a_refused_action_leaves_no_trace(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    before, entries = state_of(shop), len(shop.undoable(500))
    with pytest.raises(CreekbedError):
        job_steps.finish_step(shop, job, "pack", closes=True, nothing_presses=True, latches_hold=True)
    with pytest.raises(CreekbedError):
        intake.replace_item(shop, job, "neck")
    assert state_of(shop) == before and len(shop.undoable(500)) == entries


def test_a_crash_in_the_middle_leaves_no_trace(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    before = state_of(shop)
    with pytest.raises(RuntimeError), shop.act("crash") as act:
        view = intake.need_job(shop, act.records, job, act.now)
        act.records.update(view.job, came_from="nobody")
        stock.draw_supplies(shop, act, [("reed_alto_2", 1)], "crash", job)
        raise RuntimeError("power cut")
    assert state_of(shop) == before


@pytest.mark.parametrize("statement", ["UPDATE journal SET words = 'x'", "DELETE FROM journal"])
def test_the_journal_cannot_be_rewritten(shop: Shop, statement: str) -> None:
    with pytest.raises(DBAPIError, match="append-only"), shop.store.engine.begin() as connection:
        connection.execute(text(statement))


def test_undo_refuses_where_something_else_changed_the_row(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    intake.tick_item(shop, job, "neck", "present")
    with shop.store.engine.begin() as connection:  # another program, without the journal
        connection.execute(text("UPDATE content_line SET state = 'worn'"))
    with pytest.raises(Refused, match="depends on this"):
        shop.undo()


def test_inverting_twice_is_the_same() -> None:
    changes = [
        {"t": "x", "k": {"id": 1}, "b": None, "a": {"id": 1, "n": 2}},
        {"t": "x", "k": {"id": 1}, "b": {"n": 2}, "a": {"n": 3}},
    ]
    assert invert(invert(changes)) == changes
    assert replay([changes, invert(changes)]) == {}


ACTIONS = (
    "tick",
    "missing",
    "replace",
    "waive",
    "mark",
    "quarantine",
    "lift",
    "check",
    "step",
    "aside",
    "undo",
    "stock",
    "leave",
)


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(st.sampled_from(ACTIONS), st.integers(0, 20)), max_size=25))
def test_any_sequence_replays_to_the_state(shop: Shop, hand: Hand, actions: list[tuple[str, int]]) -> None:
    """Whatever people do, in whatever order, with whatever is refused: journal and state agree."""
    with shop.reading() as session:
        held = session.count(Job)
    job = hand.book(f"MH-{1000 + held}")
    for what, n in actions:
        try:
            view = hand.view(job)
            item = view.family.item[n % len(view.family.item)].key
            if what == "tick":
                intake.tick_item(shop, job, item, "present")
            elif what == "missing":
                intake.tick_item(shop, job, item, "missing")
            elif what == "replace":
                intake.replace_item(shop, job, item)
            elif what == "waive":
                intake.waive_item(shop, job, item, "the renter has one")
            elif what == "mark":
                add_mark(shop, job, "bell", "dent", float(n + 1))
            elif what == "quarantine":
                intake.set_quarantine(shop, job, "mould")
            elif what == "lift":
                intake.set_quarantine(shop, job, "")
            elif what == "check":
                findings.record_places(shop, job, "pads", {"low B": "wet"} if n % 2 else {})
            elif what == "aside":
                job_steps.put_aside(shop)
            elif what == "undo":
                shop.undo()
            elif what == "stock":
                stock.count_stock(shop, "pad_paper", float(n), "again")
            else:
                ready = next((s for s in view.open_steps if s.state == "ready"), None)
                if ready is not None and what == "leave":
                    job_steps.waive_step(shop, job, ready.step.key, "not today")
                elif ready is not None:
                    job_steps.take_up(shop, job, ready.step.key)
                    hand.do(job, ready.step.key)
        except CreekbedError:
            pass
        except AssertionError:
            break  # the booking itself was undone
    assert replayed(shop) == state_of(shop)
