"""How long the window stands still while it thinks: ``python -m benchmarks.blocking FOLDER [SECONDS] [JOBS]``.

Opens the real window (drawn into memory) on a copy of a demo shop, lets it look for better plans in the background, and
measures the longest time between two turns of its loop: at most 50 ms is wanted. What an action of somebody takes until
it is drawn is measured by ``benchmarks.speed``.
"""

from __future__ import annotations

import json
import os
import shutil
import sys
import tempfile
import time
from datetime import datetime, timedelta
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from creekbed.window import theme
from creekbed.window.app import settle_memory
from creekbed.window.frame import Frame
from creekbed.workshop import intake
from creekbed.workshop.clock import SystemClock
from creekbed.workshop.shop import Shop


def main() -> int:
    """Print the longest pauses."""
    seconds = float(sys.argv[2]) if len(sys.argv) > 2 else 25.0
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
        gaps: list[float] = []
        last = [0.0]

        def turn() -> None:
            now = time.perf_counter()
            if last[0]:
                gaps.append(now - last[0])
            last[0] = now

        timer = QTimer()
        timer.timeout.connect(turn)
        QTimer.singleShot(1500, lambda: timer.start(0))
        QTimer.singleShot(round(1000 * seconds), app.quit)
        app.exec()
        worst = sorted(gaps)[-5:]
        print(
            f"{len(frame.home.jobs)} jobs, {sum(len(j.operations) for j in frame.home.problem.jobs)} operations: "
            f"{len(gaps)} turns in {seconds:.0f} s, longest pauses "
            f"{', '.join(f'{1000 * g:.0f}' for g in worst)} ms (50); {shop.planner.gap()}"
        )
        frame.close()
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
