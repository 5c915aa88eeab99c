"""How long the window stands still: ``python -m benchmarks.blocking FOLDER [SECONDS] [JOBS] [EVENTS] [plain]``.

Opens the real window (drawn into memory) on a copy of a demo shop, lets it look for better plans in the background,
does what people do at the bench and on an instrument's page, asks the plan what it can be asked, lets things happen
at random (done early or late, new, away, back, somebody leaves, a place breaks, the clock is set), and measures the
longest time between two turns of the window's loop: at most 50 ms is wanted. In brackets stands how long the processor
worked for the window meanwhile; the rest went by because others had it, on this machine or beside it, or the disk.
With "plain" Python's own garbage collector runs, in place of the one between actions.
"""

from __future__ import annotations

import json
import os
import random
import shutil
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtWidgets import QApplication

from creekbed.core.planning.plan_checker import violations
from creekbed.window.frame.frame import Frame
from creekbed.window.frame.garbage import Tidying, settle_memory
from creekbed.window.shared import theme
from creekbed.window.shared.turns import at_rest
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps
from creekbed.workshop.inspection import findings
from creekbed.workshop.planning import fixed_starts
from creekbed.workshop.shop import bench_capacity as room
from creekbed.workshop.shop import staff
from creekbed.workshop.shop.clock import SystemClock, Tick
from creekbed.workshop.shop.departures import coming_departures
from creekbed.workshop.shop.shop import Shop

LEAST_S = 0.005
"""Shorter pauses are not kept."""
MOST_MS = 50.0
LOOK_MS = 2
"""How often the window is looked at. One that never rests, as with 0, holds up the threads that talk to the planner,
which no window at a bench does.
"""


class QuickClock(SystemClock):
    """The computer's clock, with time that has passed besides."""

    def __init__(self, offset: timedelta):
        super().__init__(offset)
        self.skipped = timedelta(0)

    def tick(self) -> Tick:
        tick = super().tick()
        return replace(tick, boot_seconds=tick.boot_seconds + self.skipped.total_seconds())

    def now(self) -> datetime:
        return super().now() + self.skipped


class Pauses:
    """The longest times between two turns of the window's loop, by what goes on."""

    def __init__(self) -> None:
        self.found: dict[str, list[tuple[float, float]]] = {}
        self.seen: list[float] = []
        self.replanned: list[float] = []
        self.wrong: list[str] = []
        self.what = ""
        self._last, self._worked = 0.0, 0.0
        self._timer = QTimer()
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._turn)
        self._timer.start(LOOK_MS)

    def about(self, what: str) -> None:
        """From now on this goes on; "": what is not measured."""
        self.what = what
        if what:
            self.found.setdefault(what, [])
            self._last, self._worked = time.perf_counter(), time.thread_time()

    def _turn(self) -> None:
        now, worked = time.perf_counter(), time.thread_time()
        if self._last and self.what and now - self._last > LEAST_S:
            self.found[self.what].append((1000 * (now - self._last), 1000 * (worked - self._worked)))
        self._last, self._worked = now, worked

    def words(self, what: str) -> str:
        """The three longest, ms."""
        rows = sorted(self.found[what], reverse=True)[:3]
        return ", ".join(f"{ms:.0f} ({own:.0f})" for ms, own in rows) or f"< {1000 * LEAST_S:.0f}"


def acts_at_the_bench(frame: Frame, act: Callable[[Callable[[], object]], None]) -> None:
    """What is next is taken up, put aside, done; as often as something can be done with one press."""
    for _ in range(8):
        following = frame.home.next
        if following is None:
            return
        job, key = following.view.job.id, following.step.step.key
        act(lambda job=job, key=key: job_steps.take_up(frame.shop, job, key))  # type: ignore[misc]
        act(lambda: job_steps.put_aside(frame.shop))
        if following.step.step.kind == "do":
            act(lambda job=job, key=key: job_steps.finish_step(frame.shop, job, key))  # type: ignore[misc]


class Chance:
    """What happens at a bench, at random."""

    def __init__(self, frame: Frame, clock: QuickClock, seed: int = 6):
        self.frame, self.clock, self.chance = frame, clock, random.Random(seed)
        self.shop: Shop = frame.shop
        self.count = 0

    def happens(self) -> None:
        """One thing; what cannot be just now is refused, as it would be."""
        what = self.chance.choice(
            (self.early, self.early, self.early, self.early, self.late, self.late, self.new, self.away, self.back,
             self.leaves, self.comes, self.breaks, self.mended, self.is_set, self.set_to, self.undo)
        )  # fmt: skip
        what()

    def early(self) -> None:
        """The next thing is done at once."""
        following = self.frame.home.next
        if following is not None:
            job, step = following.view.job.id, following.step.step
            view = following.view
            more = {"closes": True, "nothing_presses": True, "latches_hold": True} if step.kind == "pack" else {}
            if step.kind == "contents" and len(view.lines) < len(intake.expected_items(view)):
                self.frame.do(lambda: intake.tick_rest(self.shop, job))
            elif step.kind == "look" and findings.unlooked(view):
                self.frame.do(lambda: findings.rest_is_sound(self.shop, job))
            else:
                self.frame.do(lambda: job_steps.finish_step(self.shop, job, step.key, **more))

    def late(self) -> None:
        """Nobody does a thing for a while."""
        self.clock.skipped += timedelta(minutes=self.chance.choice((1, 4, 15)))
        self.frame.ticking.minute()

    def new(self) -> None:
        """Somebody brings something."""
        self.count += 1
        families, departures = list(self.shop.catalogue.families), coming_departures(self.shop)
        family, departure = self.chance.choice(families), self.chance.choice(departures).id if departures else None
        self.frame.do(lambda: intake.book_in(self.shop, f"MH-8{self.count:03d}", family=family, departure_id=departure))

    def away(self) -> None:
        """One goes to a specialist."""
        job = self.chance.choice(self.frame.home.jobs).job.id
        self.frame.do(lambda: findings.send_out(self.shop, job, "luthier"))

    def back(self) -> None:
        """One comes back from there."""
        away = [v.job.id for v in self.frame.home.jobs if v.job.waiting_for]
        if away:
            job = self.chance.choice(away)
            self.frame.do(lambda: findings.back_from(self.shop, job, "mended"))

    def leaves(self) -> None:
        self.frame.do(lambda: staff.goes_home(self.shop, self.chance.choice(("IW", "TO"))))

    def comes(self) -> None:
        self.frame.do(lambda: staff.is_back(self.shop, self.chance.choice(("IW", "TO"))))

    def _room(self, by: int) -> None:
        place = self.chance.choice([p for p in self.shop.catalogue.house.place if p.capacity + by >= 1])
        self.frame.do(lambda: room.change(self.shop, {place.key: place.capacity + by}, {}))

    def breaks(self) -> None:
        self._room(-1)

    def mended(self) -> None:
        self._room(1)

    def is_set(self) -> None:
        """The clock is set by somebody."""
        self.clock.offset += timedelta(minutes=self.chance.choice((-7, 7)))
        self.frame.ticking.minute()

    def set_to(self) -> None:
        """Something is set to a time."""
        steps = [s for s in self.frame.home.plan.steps if (s.job, s.operation) not in self.frame.home.problem.in_hand]
        if steps:
            step, at = self.chance.choice(steps), self.shop.now + timedelta(minutes=self.chance.choice((0, 40)))
            job = next(v.job.id for v in self.frame.home.jobs if v.tag == step.job)
            self.frame.do(lambda: fixed_starts.lock(self.shop, job, step.operation, step.person, at))

    def undo(self) -> None:
        self.frame.undo()


def go_through(frame: Frame, seconds: float, clock: QuickClock, events: int) -> Pauses:
    """Let the window think on the bench and on the day; let minutes pass, try days, ask for help, choose stones."""
    pauses = Pauses()

    def until(done: Callable[[], bool], most_s: float, every: int = 20) -> None:
        loop, end = QEventLoop(), time.perf_counter() + most_s
        watch = QTimer()
        watch.timeout.connect(lambda: (done() or time.perf_counter() > end) and loop.quit())
        watch.start(every)
        loop.exec()

    def idle() -> bool:
        return at_rest(frame)

    def act(do: Callable[[], object]) -> None:
        begin = time.perf_counter()
        frame.planner.behind = True

        def doing_it() -> None:
            if not frame.do(do):  # it was refused
                frame.planner.behind = False
            QTimer.singleShot(0, lambda: pauses.seen.append(1000 * (time.perf_counter() - begin)))  # it is painted

        QTimer.singleShot(0, doing_it)
        until(lambda: not frame.planner.behind, 5.0, every=2)
        pauses.replanned.append(1000 * (time.perf_counter() - begin) - pauses.seen[-1])
        until(idle, 5.0)
        until(lambda: False, 0.1)

    until(lambda: False, 0.3)  # what the first drawing leaves behind
    pauses.about("pages are made ready")
    until(lambda: frame.ahead is not None and frame.ahead.done, 30.0)
    until(idle, 5.0)
    pauses.about("somebody acts, bench on show")
    acts_at_the_bench(frame, act)
    pauses.about("an instrument is opened")
    job = next(v for v in frame.home.jobs if v.stage == "book_in" and not v.blocked and v.job.release_at is None)
    frame.nav.open_job(job.job.id, "case")
    until(lambda: False, 0.5)
    pauses.about("its case is ticked")
    for item in job.family.item[:8]:
        act(lambda key=item.key: intake.tick_item(frame.shop, job.job.id, key, "present"))  # type: ignore[misc]
    pauses.about("it is looked over")
    frame.nav.open_job(job.job.id, "look_over")
    until(lambda: False, 0.5)
    for check in (c for c in job.family.check if c.kind == "choice"):
        for option in check.options:
            act(lambda c=check.key, o=option.key: findings.record_choice(frame.shop, job.job.id, c, o))  # type: ignore[misc]
    pauses.about("the bench is opened")
    frame.nav.go_home()
    until(lambda: False, 0.5)
    pauses.about("thinking, bench on show")
    until(lambda: False, seconds)
    for _ in range(5):
        pauses.about("a minute passes")
        frame.ticking.minute()
        until(idle, 5.0)
    pauses.about("the day is opened")
    frame.nav.open_day()
    until(lambda: False, 0.5)
    pauses.about("thinking, the day on show")
    frame.planner.start()
    frame.planner.plan_anew()
    until(lambda: False, seconds)
    day = frame.page("day")
    for at in range(1, min(day.pick.count(), 4)):
        pauses.about("a day is tried")
        day._try(at)
        until(lambda: not day.trying.busy, 10.0)
        until(lambda: False, 0.2)
        pauses.about("a trial is left")
        day._leave_trial()
        until(lambda: False, 0.2)
    for run in [run for _, run in day.schedule.look().bars][:6]:
        pauses.about("a stone is asked why")
        day._tell(run)
        until(lambda: not day.asking.busy, 5.0)
    pauses.about("help for the late")
    for shipment in frame.home.shipments:
        day.help_departure(shipment.departure.id)
        until(idle, 20.0)
    chance = Chance(frame, clock)
    for n in range(events):
        if n % 20 == 0:
            pauses.about("")
            (frame.nav.go_home, frame.nav.open_day)[n // 20 % 2]()
            until(lambda: False, 0.5)
            pauses.about("things happen at random")
        QTimer.singleShot(0, chance.happens)
        until(lambda: False, 0.02)
        until(idle, 10.0)
        until(lambda: False, 0.3)
        pauses.about("")
        pauses.wrong += violations(frame.home.problem, frame.home.plan)
        pauses.about("things happen at random")
    return pauses


def main() -> int:
    """Print the longest pauses."""
    seconds = float(sys.argv[2]) if len(sys.argv) > 2 else 20.0
    jobs = int(sys.argv[3]) if len(sys.argv) > 3 else 0
    events = int(sys.argv[4]) if len(sys.argv) > 4 else 100
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place) / "demo"
        shutil.copytree(sys.argv[1], folder)
        began = datetime.fromisoformat(json.loads((folder / "demo.json").read_text())["began"])
        clock = QuickClock(began - datetime.now(began.tzinfo) + timedelta(seconds=20))
        shop = Shop(folder, clock)
        families, departures = list(shop.catalogue.families), coming_departures(shop)
        for n in range(max(0, jobs - 17)):
            intake.book_in(shop, f"MH-9{n:03d}", family=families[n % len(families)], departure_id=departures[-1].id)
        app = QApplication([])
        app.setStyle("Fusion")
        theme.load_fonts()
        theme.apply(app)
        frame = Frame(lambda: shop, thinking=True, ahead=True)
        frame.show()
        frame.open_shop()
        frame.resize(1280, 800)
        tidying = Tidying(frame, lambda: False)
        if "plain" not in sys.argv:
            settle_memory()
            tidying.start()
        pauses = go_through(frame, seconds, clock, events)
        operations = sum(len(j.operations) for j in frame.home.problem.jobs)
        print(f"{len(frame.home.jobs)} jobs, {operations} operations; longest pauses, ms (50):")
        for what in pauses.found:
            print(f"{what:<28} {pauses.words(what)}")
        every = pauses.found.get("things happen at random", [])
        over = sum(ms > MOST_MS for ms, _ in every)
        print(f"{'':<28} {events} events, {over} pauses over {MOST_MS:.0f}, {len(pauses.wrong)} plans wrong")
        for words, rows in (("an action until it is seen", pauses.seen), ("until its plan is shown", pauses.replanned)):
            print(f"{words:<28} median {statistics.median(rows):.0f}, longest {max(rows):.0f} of {len(rows)}")
        tidying.stop()
        frame.close()
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
