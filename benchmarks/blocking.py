"""How long the window stands still while it thinks: ``python -m benchmarks.blocking FOLDER [SECONDS] [JOBS]``.

Opens the real window (drawn into memory) on a copy of a demo shop, lets it look for better plans in the background,
does what people do at the bench and on an instrument's page, asks the plan what it can be asked, and measures the
longest time between two turns of the window's loop: at most 50 ms is wanted.
"""

from __future__ import annotations

import json
import os
import shutil
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import datetime, timedelta
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QApplication

from creekbed.window import theme
from creekbed.window.frame import Frame
from creekbed.window.memory import Tidying, settle_memory
from creekbed.workshop import doing, intake, lookover
from creekbed.workshop.clock import SystemClock
from creekbed.workshop.shop import Shop

LEAST_S = 0.005
"""Shorter pauses are not kept."""


class Pauses:
    """The longest times between two turns of the window's loop, by what goes on."""

    def __init__(self) -> None:
        self.found: dict[str, list[float]] = {}
        self.drawn: list[float] = []
        self.what = ""
        self._last = 0.0
        self._timer = QTimer()
        self._timer.timeout.connect(self._turn)
        self._timer.start(0)

    def about(self, what: str) -> None:
        """From now on this goes on."""
        self.what = what
        self.found.setdefault(what, [])

    def _turn(self) -> None:
        now = time.perf_counter()
        if self._last and self.what and now - self._last > LEAST_S:
            self.found[self.what].append(1000 * (now - self._last))
        self._last = now

    def words(self, what: str) -> str:
        """The three longest, ms."""
        return ", ".join(f"{ms:.0f}" for ms in sorted(self.found[what], reverse=True)[:3]) or f"< {1000 * LEAST_S:.0f}"


def acts_at_the_bench(frame: Frame, act: Callable[[Callable[[], object]], None]) -> None:
    """What is next is taken up, put aside, done; as often as something can be done with one press."""
    for _ in range(8):
        following = frame.home.next
        if following is None:
            return
        job, key = following.view.job.id, following.step.step.key
        act(lambda job=job, key=key: doing.take_up(frame.shop, job, key))  # type: ignore[misc]
        act(lambda: doing.put_aside(frame.shop))
        if following.step.step.kind == "do":
            act(lambda job=job, key=key: doing.finish_step(frame.shop, job, key))  # type: ignore[misc]


def go_through(frame: Frame, seconds: float) -> Pauses:
    """Let the window think on the bench and on the day; let minutes pass, try days, ask for help, choose stones."""
    pauses = Pauses()

    def until(done: Callable[[], bool], most_s: float, every: int = 20) -> None:
        loop, end = QEventLoop(), time.perf_counter() + most_s
        watch = QTimer()
        watch.timeout.connect(lambda: (done() or time.perf_counter() > end) and loop.quit())
        watch.start(every)
        loop.exec()

    def idle() -> bool:
        return not frame.planning.busy and not frame.helping.busy

    def act(do: Callable[[], object]) -> None:
        begin = time.perf_counter()
        frame.behind = True

        def doing_it() -> None:
            if not frame.do(do):  # it was refused
                frame.behind = False

        QTimer.singleShot(0, doing_it)
        until(lambda: not frame.behind, 5.0, every=1)
        pauses.drawn.append(1000 * (time.perf_counter() - begin))
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
    frame.open_job(job.job.id, "case")
    until(lambda: False, 0.5)
    pauses.about("its case is ticked")
    for item in job.family.item[:8]:
        act(lambda key=item.key: intake.tick_item(frame.shop, job.job.id, key, "present"))  # type: ignore[misc]
    pauses.about("it is looked over")
    frame.open_job(job.job.id, "look_over")
    until(lambda: False, 0.5)
    for check in (c for c in job.family.check if c.kind == "choice"):
        for option in check.options:
            act(lambda c=check.key, o=option.key: lookover.record_choice(frame.shop, job.job.id, c, o))  # type: ignore[misc]
    pauses.about("the bench is opened")
    frame.go_home()
    until(lambda: False, 0.5)
    pauses.about("thinking, bench on show")
    until(lambda: False, seconds)
    for _ in range(5):
        pauses.about("a minute passes")
        frame._minute()
        until(idle, 5.0)
    pauses.about("the day is opened")
    frame.open_day()
    until(lambda: False, 0.5)
    pauses.about("thinking, the day on show")
    frame.start_thinking()
    frame.plan_in_turns()
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
    for run in [run for _, run in day.creek.look().stones][:6]:
        pauses.about("a stone is asked why")
        day._tell(run)
        until(lambda: not day.asking.busy, 5.0)
    pauses.about("help for the late")
    for landing in frame.home.landings:
        frame.ask_help(landing.boat.id, lambda rows: None)
        until(idle, 20.0)
    return pauses


def main() -> int:
    """Print the longest pauses."""
    seconds = float(sys.argv[2]) if len(sys.argv) > 2 else 20.0
    jobs = int(sys.argv[3]) if len(sys.argv) > 3 else 0
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place) / "demo"
        shutil.copytree(sys.argv[1], folder)
        began = datetime.fromisoformat(json.loads((folder / "demo.json").read_text())["began"])
        clock = SystemClock(began - datetime.now(began.tzinfo) + timedelta(seconds=20))
        shop = Shop(folder, clock)
        families, boats = list(shop.catalogue.families), intake.sailings(shop)
        for n in range(max(0, jobs - 17)):
            intake.book_in(shop, f"MH-9{n:03d}", family=families[n % len(families)], boat_id=boats[-1].id)
        app = QApplication([])
        app.setStyle("Fusion")
        theme.load_fonts()
        theme.apply(app)
        frame = Frame(lambda: shop, thinking=True, ahead=True)
        frame.show()
        frame.open_shop()
        frame.resize(1280, 800)
        settle_memory()
        tidying = Tidying(frame)
        tidying.start()
        pauses = go_through(frame, seconds)
        operations = sum(len(j.operations) for j in frame.home.problem.jobs)
        print(f"{len(frame.home.jobs)} jobs, {operations} operations; longest pauses, ms (50):")
        for what in pauses.found:
            print(f"{what:<28} {pauses.words(what)}")
        middle, most = statistics.median(pauses.drawn), max(pauses.drawn)
        print(f"{'an action until it is drawn':<28} median {middle:.0f}, longest {most:.0f} of {len(pauses.drawn)}")
        tidying.stop()
        frame.close()
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
