"""Two windows on one shop: each sees what was done at the other, and undoes its own only."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from creekbed.core.errors import Refused
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps
from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.shop import bench_capacity as room
from creekbed.workshop.shop import staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand


@pytest.fixture
def two(tmp_path: Path, clock: HandClock) -> Iterator[tuple[Shop, Shop]]:
    """Two programs on one folder, for IW and for TO."""
    one = Shop(tmp_path / "shop", clock)
    other = Shop(tmp_path / "shop", clock, person="TO")
    yield one, other
    one.close()
    other.close()


def test_each_sees_what_the_other_does(two: tuple[Shop, Shop], clock: HandClock) -> None:
    one, other = two
    staff.add_worker(one, "TO")
    job = Hand(one, clock).book("MH-0142")
    assert one.others() == []
    seen = other.others()
    assert seen[-1].tag == "MH-0142" and len(seen) == 3
    assert all(e.person == "IW" for e in seen) and other.others() == []
    assert [v.tag for v in home(other).jobs] == ["MH-0142"]
    job_steps.take_up(other, job, "contents")
    assert [e.person for e in one.others()] == ["TO"]
    assert [q.person for q in home(one).queues if q.held] == ["TO"]
    intake.tick_rest(one, job)
    clock.advance(minutes=1)
    job_steps.finish_step(one, job, "contents")
    assert one.others() == [] and len(other.others()) == 2
    with pytest.raises(Refused, match="done already"):
        job_steps.finish_step(other, job, "contents")


def test_nobody_undoes_what_another_did(two: tuple[Shop, Shop], clock: HandClock) -> None:
    one, other = two
    job = Hand(one, clock).book("MH-0142")
    job_steps.take_up(other, job, "contents")
    assert len(other.undoable()) == 1
    assert all(e.person == "IW" for e in one.undoable())
    other.undo()
    with pytest.raises(Refused, match="nothing to undo"):
        other.undo()
    assert one.others()[-1].action == "undo" and home(one).jobs[0].tag == "MH-0142"


def test_own_values_of_one_hold_at_the_other(two: tuple[Shop, Shop]) -> None:
    one, other = two
    room.change(one, {"tub": 5}, {})
    assert home(other).problem.capacity["tub"] == 2  # not asked yet
    assert [e.action for e in other.others()] == ["own_value"]
    assert home(other).problem.capacity["tub"] == 5
