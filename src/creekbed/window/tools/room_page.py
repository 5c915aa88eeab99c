"""The storage room over weeks: humidity and temperature, hours outside the band, mould, how fast wood is driven."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from creekbed.core.climate.storage import BAND, LONGEST_GAP_H, MOULD_FROM
from creekbed.core.conventions import number, temperature
from creekbed.core.measure import Reading
from creekbed.window.shared import theme
from creekbed.window.shared.plots import bare_plot, free, shown
from creekbed.window.shared.widgets import button, how_sure, label, restyle, row
from creekbed.window.tools.base import Fields, ToolPage
from creekbed.workshop.shop import room_climate
from creekbed.workshop.shop.room_climate import AirLog

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

RISKS = {"none": "No mould in this", "watch": "Damp: watch it", "act": "Mould grows in this"}


class RoomPage(ToolPage):
    """What the last four weeks were like, and a reading now."""

    key = "room"

    def __init__(self, frame: Frame):
        super().__init__(frame)
        left, right = self.two(62, 38, fixed=("left",))
        self.humidity = bare_plot("days ago", "humidity, %", 250, "humidity")
        self.warmth = bare_plot("days ago", "degC", 160, "room")
        for plot, share in ((self.humidity, 62), (self.warmth, 38)):
            free(plot)
            left.addWidget(plot, share)
        self.humidity.save.setText("Save the upper plot")
        self.warmth.save.setText("Save the lower plot")
        left.addLayout(row(self.humidity.save, self.warmth.save, None))
        right.addWidget(label("The storage room", "title"))
        self.risk = label("", "numeral")
        self.words = label("", "name")
        self.facts = label("")
        for words in (self.risk, self.words, self.facts):
            right.addWidget(words)
        right.addWidget(how_sure("storage"))
        right.addStretch(1)
        self.fields = Fields(right, lambda: None)
        self.fields.line("room_c", "Now", "", temperature(18))
        self.fields.line("room_rh", "Humidity", "", "52 %")
        acts = row(button("Note it", self._note, "primary", "room_note", "F2"), None)
        if frame.devices.ports.get("thermometer") and frame.devices.ports.get("hygrometer"):
            acts.insertWidget(1, button("Read the devices", self._ask, "", "room_ask"))
        right.addLayout(acts)
        right.addLayout(row(button("A logger's file …", self._file, "quiet", "room_file"), None))
        right.addWidget(
            label("With thermometer and hygrometer connected, it is noted by itself every hour.", tone="muted")
        )

    def refresh(self) -> None:
        log = room_climate.air_log(self.shop)
        self._say(log)
        self._draw(log)

    def _say(self, log: AirLog) -> None:
        s = log.found
        if s is None:
            self.risk.setText("No log yet")
            self.words.setText("Note the air now and then, or take a logger's file in.")
            self.facts.setText("")
            return
        self.risk.setText(RISKS[s.risk])
        restyle(self.risk, tone="warn" if s.risk == "act" else "")
        self.words.setText(s.words())
        trend = "steady" if abs(s.trend_week) < 0.01 else f"{100 * s.trend_week:+.0f} points a week"
        self.facts.setText(
            f"{number(s.hours / 24, 0)} days on record, {s.mean_rh:.0%} in the mean, {trend}.\n"
            f"Below {BAND[0]:.0%}: {number(s.dry_h, 0)} h. Above {BAND[1]:.0%}: {number(s.damp_h, 0)} h.\n"
            f"Above {MOULD_FROM:.0%}: {number(s.mould_h, 0)} h, the longest spell {number(s.longest_h, 0)} h.\n"
            f"Wood came to {number(s.moistures[0], 1)} to {number(s.moistures[1], 1)} % moisture; most within a day: "
            f"{number(s.fastest_day, 1)} points."
        )

    def _draw(self, log: AirLog) -> None:
        c = theme.current.c
        for plot in (self.humidity, self.warmth):
            plot.clear()
        if not log.at:
            return
        days = [(t - self.shop.now).total_seconds() / 86400 for t in log.at]
        joined = [1] * len(days)
        for n in range(1, len(days)):
            joined[n - 1] = int((days[n] - days[n - 1]) * 24 <= LONGEST_GAP_H)
        band = pg.LinearRegionItem(
            [100 * x for x in BAND], orientation="horizontal", movable=False, brush=c.q("water"),
            pen=pg.mkPen(c.q("line")),
        )  # fmt: skip
        band.setZValue(-10)
        self.humidity.addItem(band)
        self.humidity.addItem(
            pg.InfiniteLine(
                100 * MOULD_FROM, angle=0, pen=pg.mkPen(c.q("warn"), width=1.5, style=Qt.PenStyle.DotLine),
                label="mould above, held for days", labelOpts={"position": 0.3, "color": c.q("warn")},
            )
        )  # fmt: skip
        connect = np.array(joined)
        pen = pg.mkPen(c.q("deep"), width=2)
        self.humidity.plot(days, [100 * h for h in log.humidity], pen=pen, connect=connect)
        warm = shown(log.celsius, "degC")
        self.warmth.plot(days, warm, pen=pen, connect=connect)
        for plot, values in ((self.humidity, [100 * h for h in log.humidity]), (self.warmth, warm)):
            plot.setXRange(min(days[0], -1.0), 0.2, padding=0)
            low, high = min(values), max(values)
            plot.setYRange(low - 3, high + 3, padding=0)
        self.humidity.setYRange(min(30, 100 * min(log.humidity) - 3), max(75, 100 * max(log.humidity) + 3), padding=0)

    def _note(self) -> None:
        def act() -> None:
            c = self.fields.read("room_c", "degC")
            h = self.fields.read("room_rh", "percent", 1, 100) / 100
            room_climate.log_air(self.shop, c, h)
            for field in self.fields.fields.values():
                field.clear()

        self.do(act)
        self.refresh()

    def _ask(self) -> None:
        def warm(t: Reading) -> None:
            self.frame.devices.read_meter("hygrometer", 0.0, lambda h: both(t, h))

        def both(t: Reading, h: Reading) -> None:
            room_climate.log_air(self.shop, t.value, h.value / 100, "devices")
            self.refresh()

        self.frame.devices.read_meter("thermometer", 0.0, warm)

    def _file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A logger's file", "", "CSV (*.csv)")
        if name:
            self.take_file(Path(name))

    def take_file(self, path: Path) -> None:
        """Take a logger's file in."""
        self.do(lambda: room_climate.import_air(self.shop, path))
        self.refresh()
