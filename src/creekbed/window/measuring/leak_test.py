"""The leak test, live: pump the closed joint up, let it stand, read the leak with its interval."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt, QThread, QTimer, Signal
from PySide6.QtWidgets import QFileDialog, QLineEdit

from creekbed.core.airtight.decay import LAW_WORDS, LeakFit, cone_volume_l, fit_leak
from creekbed.core.airtight.fall import P_REF
from creekbed.core.conventions import number
from creekbed.core.errors import CreekbedError, DeviceProblem
from creekbed.core.units import parse_quantity, with_doubt
from creekbed.devices.gauge import PressureGauge
from creekbed.window.measuring.method import Method
from creekbed.window.shared import theme
from creekbed.window.shared.plots import bare_plot
from creekbed.window.shared.widgets import button, how_sure, label, restyle, row

DRAW_MS = 100
HOSE_AND_BULB_L = 0.06
"""Added to the joint's own volume unless the shop types its own: house default."""


class Listen(QThread):
    """Hears the gauge in a thread of its own; what it heard is kept when the plug is pulled."""

    failed = Signal(object)

    def __init__(self, port: str):
        super().__init__()
        self.port = port
        self.times: list[float] = []
        self.pressures: list[float] = []
        self.wanted = True

    def run(self) -> None:
        try:
            PressureGauge(self.port).record(self._told)
        except DeviceProblem as problem:
            self.failed.emit(problem)

    def _told(self, t: float, p: float) -> bool:
        self.pressures.append(p)
        self.times.append(t)
        return self.wanted


class LeakTest(Method):
    """Plot, volume, result."""

    title = "leak test"
    how = (
        "Close the joint. Start, wait four seconds, pump to 2.5 kPa with the bulb, let it stand for half a minute. "
        "Room air, never breath; keys held, so that sprung pads do not lift."
    )

    def fill(self) -> None:
        self.volume = QLineEdit(self._guess())
        self.volume.setObjectName("leak_volume")
        self.volume.setAccessibleName("Volume of joint, hose and bulb")
        self.volume.textChanged.connect(lambda text: self.work())
        self.start = button("Start", self.toggle, "", "leak_start", "F4")
        self.start.setEnabled(bool(self.page.frame.devices.ports.get("pressure")))
        file = button("From a file …", self.choose_file, "quiet", "leak_file")
        line = row(label("Volume", wrap=False), self.volume, self.start, file)
        line.setStretch(1, 1)
        self.box.addLayout(line)
        c = theme.current.c
        self.plot = bare_plot("seconds", "kPa", 190, "leak")
        mark = pg.InfiniteLine(
            P_REF / 1000, angle=0, pen=pg.mkPen(c.q("muted"), style=Qt.PenStyle.DotLine), label="pump to here",
            labelOpts={"position": 0.9, "color": c.q("muted")},
        )  # fmt: skip
        self.plot.addItem(mark)
        self.heard = self.plot.plot(pen=None, symbol="o", symbolSize=4, symbolPen=None, symbolBrush=c.q("ink"))
        self.curve = self.plot.plot(pen=pg.mkPen(c.q("deep"), width=3))
        self.alone = self.plot.plot(pen=pg.mkPen(c.q("deep"), width=2, style=Qt.PenStyle.DashLine))
        self.plot.setXRange(0, 35)
        self.plot.setYRange(0, 3.2)
        self.box.addWidget(self.plot)
        self.result = label("", "name")
        line = row(self.result, self.plot.save)
        line.setStretch(0, 1)
        self.box.addLayout(line)
        self.notes = label("", tone="muted")
        self.box.addWidget(self.notes)
        self.box.addWidget(how_sure("leak"))
        if not self.page.frame.devices.ports.get("pressure"):
            self.notes.setText("No pressure gauge is connected: a record from a file works too.")
        self.listen: Listen | None = None
        self.times: list[float] = []
        self.pressures: list[float] = []
        self.fit: LeakFit | None = None
        self.timer = QTimer(self)
        self.timer.setInterval(DRAW_MS)
        self.timer.timeout.connect(self.draw)

    def _guess(self) -> str:
        part = self.view.family.find_part(self.check.part or "")
        bore = part.bore if part is not None else None
        if bore is None or not bore.length_mm:
            return "120 ml" if bore is None or bore.wide_mm < 40 else "1.4 l"
        return f"{number(1000 * (cone_volume_l(bore.wide_mm, bore.narrow_mm, bore.length_mm) + HOSE_AND_BULB_L), 0)} ml"

    # --- hearing ----------------------------------------------------------------------------------------------------

    def toggle(self) -> None:
        """Start hearing the gauge, or end it."""
        if self.listen is not None:
            self._end()
            return
        self.times, self.pressures, self.fit = [], [], None
        self.curve.setData([], [])
        self.alone.setData([], [])
        self.result.setText("Listening. Pump it up in a moment.")
        self.notes.setText("")
        self.listen = Listen(self.page.frame.devices.ports.get("pressure", ""))
        self.listen.failed.connect(self._failed)
        self.listen.finished.connect(self._end)
        self.listen.start()
        self.timer.start()
        self.start.setText("End")

    def _failed(self, problem: DeviceProblem) -> None:
        self.notes.setText(problem.words())
        restyle(self.notes, tone="warn")

    def _end(self) -> None:
        listen, self.listen = self.listen, None
        self.timer.stop()
        self.start.setText("Start")
        if listen is None:
            return
        listen.wanted = False
        listen.wait()
        self.times, self.pressures = listen.times[:], listen.pressures[:]
        self._draw_heard()
        self.work()

    def stop(self) -> None:
        self.timer.stop()
        if self.listen is not None:
            self.listen.finished.disconnect(self._end)
            self.listen.wanted = False
            self.listen.wait()
            self.listen = None

    def draw(self) -> None:
        """Draw the readings so far; half a minute of falling pressure ends the test."""
        if self.listen is None:
            return
        n = len(self.listen.times)
        self.times, self.pressures = self.listen.times[:n], self.listen.pressures[:n]
        self._draw_heard()
        if n and max(self.pressures) > 1500:
            peak = self.times[int(np.argmax(self.pressures))]
            since = self.times[-1] - peak
            low = self.pressures[-1] < 0.05 * max(self.pressures)
            self.result.setText(f"Let it stand: {number(since, 0)} of 25 s")
            if since >= 25 or (low and since >= 5):
                self._end()

    def _draw_heard(self) -> None:
        self.heard.setData(self.times, [p / 1000 for p in self.pressures])
        if self.times:
            self.plot.setXRange(0, max(35, self.times[-1]))

    def choose_file(self) -> None:
        """Ask for a CSV file."""
        path, _ = QFileDialog.getOpenFileName(self, "A record of times and pressures", "", "CSV (*.csv)")
        if path:
            self.read_file(Path(path))

    def read_file(self, path: Path) -> None:
        """Take a record from a CSV file."""
        from creekbed.devices.record import read_record

        def act() -> None:
            self.times, self.pressures = read_record(path)
            self._draw_heard()

        if self.page.do(act):
            self.work()

    # --- working it out ---------------------------------------------------------------------------------------------

    def work(self) -> None:
        """Fit what was heard and say it."""
        self.fit = None
        self.curve.setData([], [])
        self.alone.setData([], [])
        if not self.times:
            return
        try:
            volume = parse_quantity(self.volume.text(), "liter", what="The volume")
            fit = fit_leak(self.times, self.pressures, volume, 0.05 * volume)
        except CreekbedError as error:
            self.result.setText(error.happened)
            self.notes.setText(error.todo or error.words())
            self.changed.emit()
            return
        self.fit = fit
        t = np.linspace(fit.start_s, self.times[-1], 200)
        self.curve.setData(t, fit.pressure(t) / 1000)
        self.alone.setData(t, fit.leak_only(t) / 1000)
        kind = LAW_WORDS[fit.law]
        flow = with_doubt(fit.flow.value, fit.flow.expanded, fit.flow.unit)
        self.result.setText(f"{flow} at {number(P_REF / 1000)} kPa (k = 2), like {kind}")
        restyle(self.notes, tone="muted")
        self.notes.setText(" ".join(fit.notes) or "Nothing else is seen to take pressure away.")
        self.changed.emit()

    def can_finish(self) -> bool:
        return self.fit is not None

    def finish(self) -> None:
        if self.fit is not None:
            self.record(self.fit.flow)
