"""Rows that go to another process and back: nothing changes, the same rows stay one object, memory is bounded."""

from __future__ import annotations

import pickle
import threading
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.planning.dispatch import dispatch_plan
from creekbed.core.planning.model import Operation, PlanJob, Problem
from creekbed.core.planning.packed_rows import PackedRows


def loaded(raw: bytes) -> Any:
    """What another process makes of these bytes."""
    return pickle.loads(raw)  # noqa: S301  # made in this test


@given(
    st.integers(1, 4),
    st.lists(st.tuples(st.booleans(), st.lists(st.integers(0, 3), max_size=2)), max_size=40),
)
def test_what_comes_out_is_what_went_in_and_no_more_is_kept(most: int, what: list[tuple[bool, list[int]]]) -> None:
    """Whatever is packed and unpacked in whatever order, alike rows among it."""
    here, there = PackedRows(most), PackedRows(most)
    made = [tuple(values) for _, values in what]
    for (both, _), rows in zip(what, made, strict=True):
        raw = here.pack(rows)
        assert loaded(raw) == rows
        assert there.unpack(raw) == rows
        if both:
            assert here.unpack(raw) == rows and there.pack(there.unpack(raw)) == raw
        for side in (here, there):
            assert len(side._by_rows) <= most and len(side._by_raw) <= most
            assert all(k in side._by_rows.values() for k in side._by_raw.values())


def test_rows_that_come_back_are_those_that_went() -> None:
    here, there = PackedRows(8), PackedRows(8)
    rows = (1.5, "a")
    sent = there.unpack(here.pack(rows))
    assert there.unpack(here.pack(rows)) is sent
    assert here.unpack(there.pack(sent)) is rows
    alike = (*rows,)
    assert alike is not rows and here.pack(alike) == here.pack(rows) and here.unpack(here.pack(alike)) is rows


def test_other_rows_at_the_same_place_in_memory_are_other_rows() -> None:
    packed = PackedRows(2)
    for n in range(1000):
        assert loaded(packed.pack((n, str(n)))) == (n, str(n))


def test_several_threads_may_use_it() -> None:
    packed, wrong = PackedRows(5), []

    def work(seed: int) -> None:
        for n in range(400):
            rows = (seed * n % 7, "x")
            if packed.unpack(packed.pack(rows)) != rows:
                wrong.append(rows)

    threads = [threading.Thread(target=work, args=(k,)) for k in range(1, 5)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert not wrong and len(packed._by_rows) <= 5 and len(packed._by_raw) <= 5


@pytest.fixture
def problem() -> Problem:
    """Three jobs, two of them alike."""
    operations = [Operation("wash", 5.0, wait_min=20.0, place="rack"), Operation("dry", 2.0, ends="wash")]
    jobs = [PlanJob(f"MH-{n}", tuple(operations[: 2 - n // 2]), due=100.0) for n in range(3)]
    return Problem(tuple(jobs), {"rack": 3}, ((0.0, 600.0),))


def test_a_problem_and_its_plan_travel_whole(problem: Problem) -> None:
    plan = dispatch_plan(problem)

    def travels(value: Any) -> Any:
        return loaded(pickle.dumps(value))

    assert travels(problem) == problem and travels(plan) == plan
    assert travels(problem).jobs[0].operations is problem.jobs[0].operations
    assert travels(plan).steps is plan.steps
