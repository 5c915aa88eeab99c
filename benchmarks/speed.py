"""How quick Creekbed is, as ratios measured in one run: ``.venv/bin/python -m benchmarks.speed``.

* Bench drawn against a bare PySide6 window with one label, both as whole processes: at most 4 is wanted. When the
  window shows itself, still without the bench, is reported beside it.
* An action at the bench, from the press to the drawn window: at most 100 ms.
* Start with 5,000 instruments and 50,000 journal entries against the demo's: at most 1.5.
* The catalogue at a start: at most 150 ms; read anew after its files have changed, it takes longer.
* Building a job, the slowest family: at most 20 ms.
* Planning anew after an event, by the number of open jobs: at most 100 ms for the demo's.
"""

from __future__ import annotations

import os
import random
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

os.environ["QT_QPA_PLATFORM"] = "offscreen"

BARE = """
from PySide6.QtWidgets import QApplication, QLabel
app = QApplication([])
window = QLabel("Creekbed")
window.show()
app.processEvents()
"""
RUNS = 7


def timed(arguments: list[str]) -> tuple[float, str]:
    """Wall time of a whole process, s, and what it printed."""
    begin = time.perf_counter()
    done = subprocess.run(arguments, capture_output=True, text=True, check=True)
    return time.perf_counter() - begin, done.stdout


def start(folder: Path) -> tuple[float, float]:
    """Process start to window visible, and to bench drawn, s."""
    begin = time.time()
    done = subprocess.run(
        [sys.executable, "-m", "creekbed", "--demo", "--folder", str(folder), "demo", "--offscreen",
         "--quit-when-shown"],
        capture_output=True, text=True, check=True, env={**os.environ, "CREEKBED_TELL_TIMES": "1"},
    )  # fmt: skip
    visible, drawn = (float(x) for x in done.stdout.splitlines()[-1].split()[-2:])
    return visible - begin, drawn - begin


def grow(folder: Path, instruments: int, entries: int) -> None:
    """Fill a copy of the demo shop with more of the past."""
    import sqlite3

    chance = random.Random(8)
    with sqlite3.connect(folder / "records.sqlite3") as connection:
        connection.executemany(
            "INSERT OR IGNORE INTO instrument (tag, family, size, serial, materials, created_at) "
            "VALUES (?, 'violin', '4/4', '', '{}', '2024-01-01 00:00:00')",
            [(f"XX-{n:05d}",) for n in range(instruments)],
        )
        connection.executemany(
            "INSERT INTO job (tag, state, opened_at, came_from, next_group, weight, policies, quarantine, waiting_for) "
            "VALUES (?, 'gone', '2025-01-01 00:00:00', '', '', 1.0, '{}', '', '')",
            [(f"XX-{n:05d}",) for n in range(instruments)],
        )
        changes = '[{"t": "work", "k": {"id": 1}, "b": null, "a": {"id": 1, "what": "%s"}}]' % ("x" * 200)
        connection.executemany(
            "INSERT INTO journal (at, person, action, words, tag, undoable, changes) "
            "VALUES ('2025-01-01 00:00:00', 'IW', 'step.done', 'Swab the body', ?, 1, ?)",
            [(f"XX-{chance.randrange(instruments):05d}", changes) for _ in range(entries)],
        )


def actions(folder: Path) -> list[float]:
    """Press to drawn window for some forty actions: take up, put aside, tick, record a check, finish a step, s."""
    from PySide6.QtWidgets import QApplication

    from creekbed.demo.folder import demo_clock
    from creekbed.window.frame.frame import Frame
    from creekbed.window.frame.garbage import settle_memory
    from creekbed.window.shared import theme
    from creekbed.workshop.arrival import intake
    from creekbed.workshop.bench import job_steps
    from creekbed.workshop.inspection import findings
    from creekbed.workshop.shop.shop import Shop

    app = QApplication.instance() or QApplication([])
    assert isinstance(app, QApplication)
    app.setStyle("Fusion")
    theme.load_fonts()
    theme.apply(app)
    frame = Frame(lambda: Shop(folder, demo_clock(folder)))
    frame.show()
    frame.open_shop()
    settle_memory()
    frame.resize(1280, 800)
    app.processEvents()
    times: list[float] = []
    job = next(v.job.id for v in frame.home.jobs if v.stage == "book_in" and not v.blocked and v.job.release_at is None)

    def measure(act: Any) -> None:
        begin = time.perf_counter()
        frame.do(act)
        app.processEvents()
        times.append(time.perf_counter() - begin)

    for _ in range(10):
        following = frame.home.next
        if following is None:
            break
        key, held = following.step.step.key, following.view.job.id

        def take(held: int = held, key: str = key) -> None:
            job_steps.take_up(frame.shop, held, key)

        measure(take)
        measure(lambda: job_steps.put_aside(frame.shop))
    frame.nav.open_job(job, "case")
    app.processEvents()
    view = next(v for v in frame.home.jobs if v.job.id == job)
    for item in view.family.item[:6]:
        measure(lambda key=item.key: intake.tick_item(frame.shop, job, key, "present"))
    frame.nav.open_job(job, "look_over")
    app.processEvents()
    for check in view.family.check:
        if check.kind == "choice":
            for option in check.options:
                measure(lambda c=check.key, o=option.key: findings.record_choice(frame.shop, job, c, o))
        elif check.kind == "places":
            measure(lambda c=check.key: findings.record_places(frame.shop, job, c, {}))
    frame.nav.go_home()
    app.processEvents()
    for _ in range(12):
        following = frame.home.next
        if following is not None and following.step.step.kind == "do":
            held, key = following.view.job.id, following.step.step.key
            measure(lambda h=held, k=key: job_steps.finish_step(frame.shop, h, k))
        elif following is not None and following.step.step.kind == "retune":
            held, key = following.view.job.id, following.step.step.key
            measure(lambda h=held, k=key: job_steps.finish_step(frame.shop, h, k, cents="12"))
        else:
            break
    frame.close()
    return times


def planning(folder: Path) -> float:
    """One new plan of the demo's bench, records read and all, s."""
    from creekbed.demo.folder import demo_clock
    from creekbed.workshop.bench.bench_view import home
    from creekbed.workshop.shop.shop import Shop

    shop = Shop(folder, demo_clock(folder))
    home(shop)
    times = []
    for _ in range(15):
        begin = time.perf_counter()
        home(shop)
        times.append(time.perf_counter() - begin)
    shop.close()
    return statistics.median(times)


def catalogue() -> tuple[float, float, float, str]:
    """The catalogue in a fresh process, kept and read anew, s; building the slowest family's job, s, and its family."""

    def took(call: str) -> float:
        code = (
            f"import time; from creekbed.core.catalogue.load import load, shipped; b = time.perf_counter(); {call};"
            "print(time.perf_counter() - b)"
        )
        return statistics.median(float(timed([sys.executable, "-c", code])[1]) for _ in range(RUNS))

    from creekbed.core.catalogue.load import shipped
    from creekbed.core.procedure.build import build
    from creekbed.core.procedure.compare import telling

    slowest, name = 0.0, ""
    for family in shipped().families.values():
        for _, situation in telling(shipped(), family, {}):
            times = []
            for _ in range(9):
                begin = time.perf_counter()
                build(shipped(), situation)
                times.append(time.perf_counter() - begin)
            if statistics.median(times) > slowest:
                slowest, name = statistics.median(times), family.name
    return took("shipped()"), took("load(check=False)"), slowest, name


def main() -> int:
    """Measure and print."""
    from creekbed.demo.seed import make_demo

    with tempfile.TemporaryDirectory() as place:
        demo, large = Path(place) / "demo", Path(place) / "large"
        make_demo(demo, datetime.now(UTC) - timedelta(0))
        shutil.copytree(demo, large)
        grow(large, 5000, 50_000)
        timed([sys.executable, "-c", BARE])
        start(demo)
        start(large)
        bare, visible, drawn, drawn_large = [], [], [], []
        for _ in range(RUNS):
            bare.append(timed([sys.executable, "-c", BARE])[0])
            v, d = start(demo)
            visible.append(v)
            drawn.append(d)
            drawn_large.append(start(large)[1])
        middle = statistics.median
        base, seen, full, full_large = (middle(x) for x in (bare, visible, drawn, drawn_large))
        kept, loaded, built, slowest = catalogue()
        found = actions(shutil.copytree(demo, Path(place) / "acts"))
        for what, words in (
            ("bare window", f"{base:.3f} s"),
            ("window visible", f"{seen:.3f} s, {seen / base:.2f} × bare"),
            ("bench drawn", f"{full:.3f} s, {full / base:.2f} × bare (at most 4)"),
            ("the same, 5,000 instruments", f"{full_large:.3f} s, {full_large / full:.2f} × demo (at most 1.5)"),
            ("action to drawn window", f"median {1000 * middle(found):.0f} ms, worst {1000 * max(found):.0f} ms (100)"),
            ("catalogue at a start", f"{1000 * kept:.0f} ms (at most 150); read anew {1000 * loaded:.0f} ms"),
            ("a job built", f"{1000 * built:.1f} ms for the slowest, {slowest} (at most 20)"),
            ("new plan", f"{1000 * planning(demo):.0f} ms (at most 100)"),
        ):
            print(f"{what:<28} {words}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
