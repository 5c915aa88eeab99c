"""The settling curve: the string's deviation from pitch, the readings, now, and when it needs retuning."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QVBoxLayout

from creekbed.core.conventions import number
from creekbed.core.strings.settling import DAY_MIN, pitch_over_time
from creekbed.window.shared import theme
from creekbed.window.shared.plots import bare_plot
from creekbed.window.shared.widgets import how_sure, label, restyle, row
from creekbed.workshop.bench.settling import Settling


class SettleCard(QFrame):
    """A plot and the forecast in words."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        box = QVBoxLayout(self)
        box.setContentsMargins(14, 10, 14, 10)
        box.setSpacing(4)
        box.addWidget(label("How the new string settles", "name"))
        self.plot = bare_plot("minutes since tuned up", "cents", 150, "settling")
        for side in ("bottom", "left"):
            self.plot.getAxis(side).setPen(pg.mkPen(theme.current.c.q("muted")))
        box.addWidget(self.plot)
        self.words = label("")
        line = row(self.words, self.plot.save)
        line.setStretch(0, 1)
        box.addLayout(line)
        box.addWidget(how_sure("settling"))

    def set_settling(self, found: Settling) -> None:
        """Draw how it stands."""
        c = theme.current.c
        self.plot.clear()
        wanted = min(found.ahead.good_from, found.ahead.last_min + DAY_MIN)
        end = max(found.now_min, found.next_min, 0.0 if found.holds else wanted) * 1.15 + 2
        last = found.ahead.last_min
        if last > 0:
            times, cents = pitch_over_time(found.law, [t for t in found.retunes_min if t < last], last)
            self.plot.plot(times, cents, pen=pg.mkPen(c.q("deep"), width=3))
        ahead = last + np.linspace(0, 1, 80) ** 2 * (end - last)
        low, middle, high = found.ahead.curve(ahead)
        dash = pg.mkPen(c.q("deep"), width=2, style=Qt.PenStyle.DashLine)
        edge = pg.mkPen(c.q("deep"), width=1)
        ends = [pg.PlotDataItem(ahead, -side, pen=edge, name=name) for side, name in ((low, "least"), (high, "most"))]
        band = c.q("deep")
        band.setAlpha(45)
        self.plot.addItem(pg.FillBetweenItem(*ends, brush=band))
        for side in ends:
            self.plot.addItem(side)
        self.plot.plot(ahead, -middle, pen=dash)
        limit = pg.InfiniteLine(
            -found.tolerance_cents, angle=0, pen=pg.mkPen(c.q("warn"), width=1.5, style=Qt.PenStyle.DotLine),
            label=f"retune at −{number(found.tolerance_cents)}", labelOpts={"position": 0.4, "color": c.q("warn")},
        )  # fmt: skip
        now = pg.InfiniteLine(
            found.now_min, angle=90, pen=pg.mkPen(c.q("ink"), width=2), label="now",
            labelOpts={"position": 0.9, "color": c.q("ink")},
        )  # fmt: skip
        self.plot.addItem(limit)
        self.plot.addItem(now)
        if not found.holds and wanted > found.now_min:
            dots = pg.mkPen(c.q("deep"), width=2, style=Qt.PenStyle.DotLine)
            self.plot.addItem(pg.InfiniteLine(
                wanted, angle=90, pen=dots, label="holds from here",
                labelOpts={"position": 0.9, "color": c.q("deep"), "anchors": [(1, 0.5), (1, 0.5)]},
            ))  # fmt: skip
        if found.readings:
            at, read = zip(*found.readings, strict=True)
            self.plot.plot(
                at, [-r for r in read], pen=None, symbol="o", symbolSize=10, symbolBrush=c.q("card"),
                symbolPen=pg.mkPen(c.q("ink"), width=2),
            )  # fmt: skip
        lowest = max([found.tolerance_cents * 1.5, float(middle[-1]) * 1.3] + [r * 1.1 for _, r in found.readings])
        self.plot.setXRange(0, end, padding=0.01)
        self.plot.setYRange(-lowest, 2, padding=0.02)
        self.words.setText(found.words())
        restyle(self.words, tone="" if found.holds else "warn")
        self.setAccessibleName(f"Settling: {found.words()}")
