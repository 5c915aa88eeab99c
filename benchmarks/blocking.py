"""How long the window stands still while it thinks: ``python -m benchmarks.blocking FOLDER [SECONDS] [JOBS]``.

Opens the real window (drawn into memory) on a copy of a demo shop, lets it look for better plans in the background and
answer what is asked of the plan, and measures the longest time between two turns of its loop: at most 50 ms is wanted.
What an action of somebody takes until it is drawn is measured by ``benchmarks.speed``.
"""

from __future__ import annotations

import json
import os
import shutil
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
from creekbed.window.app import settle_memory
from creekbed.window.frame import Frame
from creekbed.workshop import intake
from creekbed.workshop.clock import SystemClock
from creekbed.workshop.shop import Shop

LEAST_S = 0.005
"""Shorter pauses are not kept."""


class Pauses:
    """The longest times between two turns of the window's loop, by what goes on."""

    def __init__(self) -> None:
        self.found: dict[str, list[float]] = {}
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


def go_through(frame: Frame, seconds: float) -> Pauses:
    """Let the window think on the bench and on the day; let minutes pass, try days, ask for help, choose stones."""
    pauses = Pauses()

    def until(done: Callable[[], bool], most_s: float) -> None:
        loop, end = QEventLoop(), time.perf_counter() + most_s
        watch = QTimer()
        watch.timeout.connect(lambda: (done() or time.perf_counter() > end) and loop.quit())
        watch.start(20)
        loop.exec()

    def idle() -> bool:
        return not frame.planning.busy and not frame.helping.busy

    until(lambda: False, 1.0)  # what the first drawing leaves behind
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
    for run in [run for _, run in day.creek._stones][:6]:
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
        frame = Frame(lambda: shop, thinking=True)
        frame.show()
        frame.open_shop()
        frame.resize(1280, 800)
        settle_memory()
        pauses = go_through(frame, seconds)
        operations = sum(len(j.operations) for j in frame.home.problem.jobs)
        print(f"{len(frame.home.jobs)} jobs, {operations} operations; longest pauses, ms (50):")
        for what in pauses.found:
            print(f"{what:<28} {pauses.words(what)}")
        frame.close()
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
