"""What the tests share: a clock of their own, an empty shop, a hand that works jobs, the demo shop made once."""

from __future__ import annotations

import fcntl
import os
import shutil
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import pytest
from hypothesis import settings

from creekbed.core import conventions
from creekbed.core.catalogue.models.parts import Check
from creekbed.core.measure import Reading
from creekbed.demo.seed import STOCK, make_demo
from creekbed.store.records import Hire, Instrument
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps
from creekbed.workshop.bench.bench_records import job_now
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.bench.wait_view import WaitView
from creekbed.workshop.inspection import findings
from creekbed.workshop.shop import shop as shop_module
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.departures import add_departure, coming_departures
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock

shop_module.NOBODY = "IW"  # somebody sits at every shop of the tests, unless a test says otherwise

settings.register_profile("bench", deadline=None, max_examples=60)
settings.load_profile("bench")

LONG = ("test_morning", "test_kill", "test_day.py", "test_whole_jobs", "test_trust")
"""Files whose tests take longest: they begin first, so that no process waits for another in the end."""


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    items.sort(key=lambda item: not any(name in item.nodeid for name in LONG))


MORNING = datetime(2026, 11, 19, 9, 0, tzinfo=UTC)  # a Thursday


def sound(check: Check, size: str = "") -> Any:
    """What a check finds on a sound instrument."""
    bands = check.bands_for(size)
    if bands is not None:
        return bands.good()
    return findings.sound_answer(check) if check.kind == "choice" else {}


@pytest.fixture(autouse=True)
def written_plainly() -> Iterator[None]:
    """How a shop writes holds for the process: the next test begins as a new shop does."""
    yield
    conventions.use(conventions.PLAIN)


@pytest.fixture
def clock() -> HandClock:
    return HandClock(MORNING)


@pytest.fixture(scope="session")
def stocked(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A shop's folder with stock on the shelf and nothing on the bench, made once for each process."""
    folder = tmp_path_factory.mktemp("stocked") / "shop"
    found = Shop(folder, HandClock(MORNING))
    for item, amount, more in STOCK:
        stock.book_in_stock(found, item, amount, **more)
    found.close()
    return folder


@pytest.fixture
def shop(stocked: Path, tmp_path: Path, clock: HandClock) -> Iterator[Shop]:
    """A shop with stock on the shelf and nothing on the bench."""
    shutil.copytree(stocked, tmp_path / "shop")
    found = Shop(tmp_path / "shop", clock)
    yield found
    found.close()


class Hand:
    """A technician who can take a job as far as asked, in the order the job allows."""

    def __init__(self, shop: Shop, clock: HandClock):
        self.shop, self.clock = shop, clock

    def book(self, tag: str = "MH-0142", family: str = "alto_saxophone", **more: Any) -> int:
        """Book an instrument in, make it on the spot, give it a boat tomorrow unless told otherwise."""
        if "departure_id" not in more:
            departures = coming_departures(self.shop)
            leaves = self.clock.now() + timedelta(hours=26)
            more["departure_id"] = departures[0].id if departures else add_departure(self.shop, "Friday boat", leaves)
        return intake.book_in(self.shop, tag, family=family, **more)

    def view(self, job: int) -> JobView:
        with self.shop.reading() as records:
            view = job_now(self.shop, records, self.clock.now(), job)
        assert view is not None
        return view

    def look(self, job: int, at: str = "", **found: Any) -> None:
        """Record every check, or those of one look; what is not named is sound, what falls away is left out."""
        view = self.view(job)
        for check in view.checks:
            if check.optional and check.key not in found:
                continue
            asked = self.view(job).asked_at(check.key)
            if asked is None or (at and asked.step.key != at):
                continue
            key, value = check.key, found.get(check.key, sound(check, view.instrument.size))
            if check.kind == "measure":
                findings.record_reading(self.shop, job, key, Reading(float(value), check.u, check.unit))
            elif check.kind == "choice":
                findings.record_choice(self.shop, job, key, value)
            else:
                findings.record_places(self.shop, job, key, value)

    def do(self, job: int, key: str, **found: Any) -> None:
        """Do one step, with what it needs, waiting first where it must."""
        step = self.view(job).step(key)
        assert step is not None, f"{key} is no step of this job"
        if step.state == "waiting":
            assert step.until is not None
            self.clock.advance(seconds=(step.until - self.clock.now()).total_seconds() + 1)
        kind = step.step.kind
        if kind == "contents" and len(self.view(job).lines) < len(self.view(job).family.item):
            intake.tick_rest(self.shop, job)
        if kind == "look":
            self.look(job, key, **found)
        self.clock.advance(minutes=step.step.hands_min)
        more = {"closes": True, "nothing_presses": True, "latches_hold": True} if kind == "pack" else {}
        job_steps.finish_step(self.shop, job, key, **more)

    def wait(self, job: int, key: str = "disinfect") -> WaitView:
        """The wait that a step began and that runs."""
        return next(w for w in self.view(job).waits if w.key == key)

    def until(self, job: int, last: str, **found: Any) -> None:
        """Do steps in order up to and with ``last``."""
        for _ in range(60):
            view = self.view(job)
            step = next((s for s in view.open_steps if s.state in ("ready", "waiting")), None)
            assert step is not None, f"nothing can go on before {last}"
            self.do(job, step.step.key, **found)
            if step.step.key == last:
                return
        raise AssertionError(f"never came to {last}")


@pytest.fixture
def hand(shop: Shop, clock: HandClock) -> Hand:
    return Hand(shop, clock)


@pytest.fixture
def hired(shop: Shop) -> Callable[..., None]:
    """Puts an instrument on record that is out on hire."""

    def put(tag: str, family: str = "alto_saxophone", condition: list[Any] | None = None, **more: Any) -> None:
        kind = shop.catalogue.families[family]
        with shop.act("put") as act:
            if act.records.get(Instrument, tag) is None:
                act.records.add(Instrument(
                    tag=tag, family=family, size=more.get("size", kind.sizes[0]), serial="12345",
                    materials=more.get("materials", {}), created_at=MORNING - timedelta(days=900),
                ))  # fmt: skip
            act.records.add(
                Hire(
                    tag=tag, renter="R-041", group_name="Boatyard strings",
                    out_at=more.get("out_at", MORNING - timedelta(days=200)),
                    back_at=None, contents_out=more.get("contents", [i.key for i in kind.item]),
                    condition_out=condition or [],
                )
            )  # fmt: skip
            act.words = f"put {tag}"

    return put


@pytest.fixture(scope="session")
def demo_template(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo shop, made once for the whole run, also where several processes share it."""
    base = tmp_path_factory.getbasetemp()
    shared = base.parent if os.environ.get("PYTEST_XDIST_WORKER") else base
    folder = shared / "template" / "demo"
    with (shared / "template.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not folder.exists():
            made = shared / "template-made"
            shutil.rmtree(made, ignore_errors=True)
            make_demo(made / "demo", MORNING + timedelta(hours=3))
            made.rename(shared / "template")
    return folder


@pytest.fixture
def demo_folder(demo_template: Path, tmp_path: Path) -> Path:
    """A copy of the demo shop for one test."""
    folder = tmp_path / "demo"
    shutil.copytree(demo_template, folder)
    return folder
