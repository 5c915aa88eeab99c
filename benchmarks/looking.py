"""How quick looking over is: ``.venv/bin/python -m benchmarks.looking``.

* The leak fit of half a minute's record: at most 50 ms. * A length in a photograph with its uncertainty: at most 20 ms.
* Opening a photograph of 24 megapixels: the window is never blocked over 100 ms.
"""

from __future__ import annotations

import os
import statistics
import time
from io import BytesIO
from typing import Any

os.environ["QT_QPA_PLATFORM"] = "offscreen"

import numpy as np

RUNS = 15


def leak_fit() -> float:
    """Median of fits of a record as the gauge gives it, s; the first, which loads libraries, is left out."""
    from creekbed.core.airtight.decay import P_ATM, fit_leak
    from creekbed.core.airtight.fall import P_REF

    rng = np.random.default_rng(5)
    quiet, after = np.arange(0, 5, 0.1), np.arange(0, 30, 0.1)
    times = []
    for n in range(RUNS + 1):
        rate = 12.0 / 60_000 * P_ATM / (P_REF * 0.1)
        p = 2500 * np.exp(-rate * after) + (250 * np.exp(-after / 3) if n % 2 else 0)
        pressures = np.concatenate([np.zeros(50), p]) + rng.normal(0, 3, 350)
        record = np.concatenate([quiet, 5.5 + after])
        begin = time.perf_counter()
        fit_leak(record.tolist(), pressures.tolist(), 0.1)
        times.append(time.perf_counter() - begin)
    return statistics.median(times[1:])


def photo_measure() -> float:
    """Median of a length with its uncertainty, s."""
    from creekbed.core.inspection.photo import card, measure

    reference = card([(100.0, 120.0), (900.0, 100.0), (930.0, 640.0), (80.0, 600.0)])
    times = []
    for _ in range(RUNS):
        begin = time.perf_counter()
        measure("length", reference, [(200.0, 200.0), (700.0, 500.0)])
        times.append(time.perf_counter() - begin)
    return statistics.median(times)


def longest_block() -> tuple[float, float]:
    """Longest time between two beats of the window while 24 megapixels are opened, and how long that took, s."""
    from PIL import Image
    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication

    from creekbed.window.measuring.photo_measurement import open_picture
    from creekbed.window.measuring.photo_view import PointPicture
    from creekbed.window.shared.background_task import Ask

    app = QApplication.instance() or QApplication([])
    noise = np.random.default_rng(1).integers(0, 255, (500, 750, 3), dtype=np.uint8)
    out = BytesIO()
    Image.fromarray(noise).resize((6000, 4000)).save(out, "JPEG", quality=90)
    data = out.getvalue()
    view = PointPicture()
    view.resize(760, 330)
    view.show()
    beats: list[float] = []
    beat = QTimer()
    beat.setInterval(5)
    beat.timeout.connect(lambda: beats.append(time.perf_counter()))
    done: list[Any] = []
    ask = Ask(lambda: open_picture(data))
    ask.answered.connect(lambda opened: (view.set_image(opened.whole, opened.drawn), done.append(opened)))
    beat.start()
    begin = time.perf_counter()
    ask.start()
    while not done or len(beats) < 5 or time.perf_counter() - begin < 0.3:
        app.processEvents()
        time.sleep(0.001)
    for _ in range(20):
        app.processEvents()
        time.sleep(0.005)
    ask.wait()
    return max(b - a for a, b in zip([begin, *beats], beats, strict=False)), time.perf_counter() - begin


def main() -> int:
    """Measure and print."""
    print(f"leak fit                     {1000 * leak_fit():.0f} ms (at most 50)")
    print(f"photograph, a length with u  {1000 * photo_measure():.1f} ms (at most 20)")
    block, whole = longest_block()
    print(f"24 megapixels opened         in {whole:.1f} s, window blocked at most {1000 * block:.0f} ms (at most 100)")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
