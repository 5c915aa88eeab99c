"""An afternoon of the demo shop in the real window, four bench minutes to each beat of its clock.

The technician does what the window says is next, quicker or slower than planned; the helper does theirs from 13:00 on.
"""

from __future__ import annotations

import json
import random
from collections.abc import Callable
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import pytest

from creekbed.core.errors import Refused
from creekbed.core.planning.lower_bounds import _Pool, _Shape
from creekbed.store.records import Job, Wait
from creekbed.window.frame.frame import Frame
from creekbed.workshop.bench import job_steps
from creekbed.workshop.bench.bench_view import HomeView
from creekbed.workshop.release import release_check
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.window.conftest import Driver, opened, rest
from tests.window.test_whole_jobs import fill_case, look_over_sound

BEAT = timedelta(minutes=4)
AFTERNOON = timedelta(minutes=56)


class Play:
    """A technician at the window, a helper at the sink, and the clock."""

    def __init__(self, driver: Driver, shop: Shop, until: datetime, seed: int):
        self.driver, self.shop, self.until = driver, shop, until
        self.frame, self.clock = driver.frame, driver.clock
        self.helper = Shop(shop.folder, driver.clock, person="TO")
        self.chance = random.Random(seed)
        self.busy_till: datetime | None = None
        self.doing: tuple[int, str] | None = None
        self.done = 0

    @property
    def home(self) -> HomeView:
        found: HomeView = self.frame.home
        return found

    def pass_to(self, at: datetime) -> None:
        """Time goes on, beat by beat; the helper goes on with theirs meanwhile."""
        while self.clock.now() < min(at, self.until):
            self.clock.advance(seconds=min(BEAT, at - self.clock.now()).total_seconds())
            self.frame.ticking.tick()
            rest(self.frame)
            self.help()

    def help(self) -> None:
        """The helper finishes what is in hand when it is time, and takes up what is next for them."""
        now = self.clock.now()
        if self.doing is not None and self.busy_till is not None and now >= self.busy_till:
            try:
                job_steps.finish_step(self.helper, *self.doing)
                self.done += 1
            except Refused:
                job_steps.put_aside(self.helper)
            self.doing = None
            self.frame.refresh()
            rest(self.frame)
        queue = next(q for q in self.home.queues if q.person == "TO")
        if self.doing is None and queue.here and queue.then:
            start, end, _, _, job, key = queue.then[0]
            if start <= now + timedelta(seconds=20):
                try:
                    job_steps.take_up(self.helper, job, key)
                except Refused:
                    return
                self.doing, self.busy_till = (job, key), now + (end - start) * self.chance.lognormvariate(0.0, 0.25)
                self.frame.refresh()
                rest(self.frame)

    def go(self) -> None:
        """Until the boat has left, or nothing is to do before it."""
        while self.clock.now() < self.until:
            self.frame.nav.go_home()
            rest(self.frame)
            following = self.home.next
            if following is None:
                self.pass_to(self.clock.now() + BEAT)
                continue
            if following.start > self.clock.now() + timedelta(seconds=20):
                self.pass_to(min(following.start, self.clock.now() + 5 * BEAT) if self._open() else following.start)
                continue
            self.work(following.view.job.id, following.step.step)

    def _open(self) -> bool:
        return any(q.here for q in self.home.queues)

    def work(self, job: int, step: Any) -> None:
        """Take up what is next, work on it for as long as it takes, say that it is done."""
        driver, kind = self.driver, step.kind
        if kind in ("do", "apart", "together", "test"):
            driver.press("take")
        self.pass_to(self.clock.now() + timedelta(minutes=step.hands_min) * self.chance.lognormvariate(0.0, 0.25))
        if self.clock.now() >= self.until:
            return
        self.frame.nav.go_home()
        self.frame.nav.open_job(job, "steps")
        page = self.frame.page("job")
        view = page.view
        state = view.step(step.key)
        if state is None or state.work is not None or state.state not in ("ready",):
            return
        page.steps.choose(step.key)
        if kind == "contents":
            fill_case(driver)
        elif kind == "look":
            driver.press("primary")
            look_over_sound(driver)
            driver.press("look_done")
        elif kind == "mix":
            driver.press("primary")
            driver.press("mix_made")
        elif kind == "retune":
            driver.type("cents", "14 cents")
            driver.press("retuned")
        elif kind == "pack":
            for name in ("all_in", "closes", "nothing_presses", "latches_hold", "packed"):
                driver.press(name)
            if view.tag not in {tag for tag, _, _ in self.home.blocked}:  # a part is missing: it is packed, not ready
                release_check.make_ready(self.shop, job)
        else:
            driver.press("primary")
        self.done += 1


@pytest.fixture
def play(qtbot: Any, demo_folder: Path) -> Callable[[int], Play]:
    def make(seed: int) -> Play:
        clock = HandClock(datetime.fromisoformat(json.loads((demo_folder / "demo.json").read_text())["began"]))
        shop = Shop(demo_folder, clock)
        stock.book_in_stock(shop, "peroxide_6_ml", 2000.0, lot="PX-12", strength_pct=6.0, contact_min=10.0)
        frame = opened(qtbot, Frame(lambda: shop))
        return Play(Driver(qtbot, frame, clock, "mouse"), shop, clock.now() + AFTERNOON, seed)

    return make


def can_make(home: HomeView) -> set[str]:
    """Tags that make their boat if nothing else wants hands: what the bound leaves possible for each alone."""
    pool = _Pool([p.windows for p in home.problem.hands])
    held = dict(home.problem.in_hand)
    return {
        j.key for j in home.problem.jobs
        if not j.blocked and j.due is not None
        and _Shape(j, held.get(j.key, ""), home.problem.hands).chain(pool) <= j.due
    }  # fmt: skip


@pytest.mark.parametrize("seed", [1])
def test_an_afternoon_at_the_bench(play: Callable[[int], Play], seed: int) -> None:
    day = play(seed)
    began = day.clock.now()
    possible = can_make(day.home)
    hindered = {tag for tag, _, _ in day.home.blocked}
    friday = {a.tag for x in day.home.shipments if x.departure.name == "Friday boat" for a in x.items} - hindered
    planned = {a.tag for x in day.home.shipments for a in x.items if a.late_min <= 0}
    assert len(possible & friday & planned) >= 6
    day.go()
    with day.shop.reading() as session:
        ready = {j.tag for j in session.all_of(Job, state="ready")}
        ended = [w for w in session.all_of(Wait) if w.ended_at is not None and w.ended_at > began]
        over = [w for w in ended if "past its longest" in w.ended_why]
        lying = [w for w in session.all_of(Wait, ended_at=None) if w.max_minutes is not None]
    assert len(ended) > 3 and over == []
    assert all(w.started_at + timedelta(minutes=w.max_minutes or 0) > day.clock.now() for w in lying)
    item = {a.tag: a.late_min for x in day.home.shipments for a in x.items}
    late = {tag: item[tag] for tag in (possible & friday) - ready if item[tag] > 0}
    assert len(late) <= 1 and sum(late.values()) < 120  # the bench is full: all but one that could are on their way
    assert day.done > 12
