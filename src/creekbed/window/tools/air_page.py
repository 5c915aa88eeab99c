"""The room's air and a shut case: dew point, what an open window would do, when the case may be opened."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from creekbed.core.climate.air import (
    dew_point_c,
    humidity_elsewhere,
    humidity_ratio,
    wet_bulb_c,
)
from creekbed.core.climate.drying import rate_ratio
from creekbed.core.conventions import number, temperature
from creekbed.core.errors import CreekbedError
from creekbed.core.measure import Reading
from creekbed.window.shared import theme
from creekbed.window.shared.plots import bare_plot, shown
from creekbed.window.shared.widgets import Flow, button, how_sure, label, restyle, row
from creekbed.window.tools.base import Fields, ToolPage, refill
from creekbed.words.instruments import LIDS
from creekbed.words.times import clock_words
from creekbed.workshop.arrival import acclimatisation
from creekbed.workshop.shop.room_climate import air_now

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


class AirPage(ToolPage):
    """Left: the air. Right: a case that came from heat or cold, its readings and its curve."""

    key = "air"

    def __init__(self, frame: Frame):
        super().__init__(frame)
        limits = self.shop.catalogue.house.limits
        room = air_now(self.shop) or (limits.room_c, limits.room_rh)
        left, right = self.two(46, 54)
        left.addWidget(label("The air", "title"))
        self.fields = Fields(left, self._compute)
        self.fields.line("air_c", "Room", temperature(room[0], 1))
        self.fields.line("air_rh", "Humidity in it", f"{number(100 * room[1], 0)} %")
        self.fields.line("out_c", "Outside", "", temperature(10))
        self.fields.line("out_rh", "Humidity outside", "", "90 %")
        asks = QWidget()
        devices = Flow()
        asks.setLayout(devices)
        for kind, field, words in (
            ("thermometer", "air_c", "Read the thermometer"), ("hygrometer", "air_rh", "Read the hygrometer"),
        ):  # fmt: skip
            if frame.devices.ports.get(kind):
                devices.addWidget(button(words, partial(self._ask, kind, field), "", f"air_{kind}"))
        left.addWidget(asks)
        self.dew = label("", "numeral")
        self.means = label("", "name")
        self.more = label("")
        self.airing = label("")
        for line in (self.dew, self.means, self.more, self.airing):
            left.addWidget(line)
        left.addStretch(1)
        right.addWidget(label("A case that came from heat or cold", "title"))
        self.case = Fields(right, self.refresh)
        self.which = self.case.choice("case_job", "Whose", [])
        self.lid = self.case.choice("case_lid", "Its lid", [(words, key) for key, words in LIDS.items()])
        self.case.line("case_c", "The thermometer on it reads", "", temperature(7))
        self.note = button("Note the reading", self._note, "primary", "case_note", "F2")
        self.use = button("Wait by these readings", self._use, "", "case_use")
        right.addLayout(row(self.note, self.use, None))
        self.when = label("", "numeral")
        self.why = label("", "name")
        right.addWidget(self.when)
        right.addWidget(self.why)
        right.addWidget(how_sure("acclimatise"))
        self.plot = bare_plot("minutes", "degC", 220, "case")
        right.addWidget(self.plot)
        right.addLayout(row(None, self.plot.save))
        right.addWidget(
            label("The probe lies on the instrument, with the lid shut on its wire: the air beside it runs ahead.",
                  tone="muted")
        )  # fmt: skip
        right.addStretch(1)

    def start_at(self, job_id: int) -> None:
        """Open with the case of a job."""
        self.refresh()
        self.which.setCurrentIndex(max(0, self.which.findData(job_id)))

    def tick(self) -> None:
        if self.shop.now.second == 0:
            self.refresh()

    def refresh(self) -> None:
        views = self.frame.records.views
        shut = [v for v in views if any(w.is_shut_case for w in v.waits)]
        others = [v for v in views if v not in shut and v.job.case_readings]
        refill(self.which, [(f"{v.tag}  {v.family.name}", v.job.id) for v in (*shut, *others)])
        self._compute()

    # --- air --------------------------------------------------------------------------------------------------------

    def _room(self) -> tuple[float, float]:
        c = self.fields.read("air_c", "degC", -10, 60)
        return c, self.fields.read("air_rh", "percent", 1, 100) / 100

    def _compute(self) -> None:
        try:
            c, h = self._room()
            dew = dew_point_c(c, h)
            wet = wet_bulb_c(max(c, 0.0), h)
        except CreekbedError as error:
            self.dew.setText("Not like this")
            self.means.setText(error.happened)
            self.more.setText(error.todo)
            self.airing.setText("")
            self._case(None)
            return
        self.dew.setText(f"Dew point {temperature(dew, 1)}")
        self.means.setText(f"What is colder than {temperature(dew, 1)} gathers water here: keep its case shut.")
        grams = 1000 * humidity_ratio(c, h)
        self.more.setText(
            f"{number(grams, 1)} g of water in each kg of air. Something wet stands at about "
            f"{temperature(wet, 1)} here and dries "
            f"{'well' if h < 0.55 else 'slowly' if h < 0.75 else 'hardly'}."
        )
        self.airing.setText(self._window(c, h))
        self._case((c, h))

    def _window(self, c: float, h: float) -> str:
        if not self.fields.fields["out_c"].text().strip() and not self.fields.fields["out_rh"].text().strip():
            return "Type the air outside: would an open window help?"
        try:
            out_c = self.fields.read("out_c", "degC", -40, 60)
            out_h = self.fields.read("out_rh", "percent", 1, 100) / 100
            inside = humidity_elsewhere(out_c, out_h, c)
            faster = rate_ratio(c, h, c, min(inside, 1.0))
        except CreekbedError as error:
            return error.words()
        says = f"That air, warmed to {temperature(c)}, has {inside:.0%}."
        if inside < h - 0.02:
            return f"{says} Open the window: things dry {number(faster, 1)} times as fast."
        return f"{says} Keep the window shut: it would not dry anything faster."

    def _ask(self, kind: str, field: str) -> None:
        def put(reading: Reading) -> None:
            unit = "°C" if kind == "thermometer" else "%"
            self.fields.fields[field].setText(f"{number(reading.value, 1)} {unit}")

        self.frame.devices.read_meter(kind, 0.0, put)

    # --- the case ---------------------------------------------------------------------------------------------------

    def _case(self, room: tuple[float, float] | None) -> None:
        job = self.which.currentData()
        self.plot.clear()
        for widget in (self.note, self.use):
            widget.setEnabled(job is not None)
        if job is None:
            self.when.setText("No case waits")
            self.why.setText("A case that is booked in cold or hot stands here until it may be opened.")
            return
        room_c, room_rh = room or (None, None)
        try:
            view = acclimatisation.case_of(self.shop, job, room_c, room_rh, self.lid.currentData())
        except CreekbedError as error:
            self.when.setText("Not like this")
            self.why.setText(error.words())
            return
        self.use.setEnabled(view.fit is not None)
        if view.opens_at is None or view.soonest is None or view.latest is None:
            self.when.setText("No reading yet")
            self.why.setText(f"Until then its wait follows the house's time constant, {number(view.tau_min)} min.")
            return
        self._say(view)
        self._draw(view)

    def _say(self, view: acclimatisation.CaseView) -> None:
        assert view.opens_at is not None and view.soonest is not None and view.latest is not None
        now = self.shop.now
        if view.opens_at <= now:
            self.when.setText("It may be opened")
        else:
            self.when.setText(f"Open it at {clock_words(view.opens_at, now)}")
        if view.fit is None:
            words = (
                f"By one reading and the house's time constant, {number(view.tau_min)} min. A second one tells its own."
            )
        else:
            f = view.fit
            between = f"between {clock_words(view.soonest, now)} and {clock_words(view.latest, now)}"
            words = (
                f"{between} (95 %). Its time constant is {number(f.tau_min, 0)} min "
                f"({number(f.low_min, 0)} to {number(f.high_min, 0)})."
            )
        if view.condenses:
            words = (
                f"Opened now it would gather water: it is colder than {temperature(view.dew_c, 1)}. Lid shut. {words}"
            )
        self.why.setText(words)
        restyle(self.why, tone="warn" if view.condenses else "")

    def _draw(self, view: acclimatisation.CaseView) -> None:
        c = theme.current.c
        assert view.began_at is not None and view.latest is not None
        now = (self.shop.now - view.began_at).total_seconds() / 60
        end = max(1.15 * (view.latest - view.began_at).total_seconds() / 60, now * 1.1, 30.0)
        last = view.minutes[-1]
        t = np.linspace(0, end, 200)
        if view.fit is not None:
            curves = view.fit.band(t)
        else:
            curves = (view.room_c + (view.celsius[-1] - view.room_c) * np.exp(-(t - last) / view.tau_min))[None]
        for n, y in enumerate(curves):
            style = Qt.PenStyle.SolidLine if n == 0 else Qt.PenStyle.DashLine
            keep = np.abs(y - view.room_c) < 60
            self.plot.plot(t[keep], shown(y[keep], "degC"), pen=pg.mkPen(c.q("deep"), width=1 if n else 3, style=style))
        for value, words, colour in ((view.room_c, "room", "muted"), (view.dew_c, "dew point: water below", "warn")):
            self.plot.addItem(
                pg.InfiniteLine(
                    float(shown(value, "degC")), angle=0, label=words,
                    pen=pg.mkPen(c.q(colour), width=1.5, style=Qt.PenStyle.DotLine),
                    labelOpts={"position": 0.78, "color": c.q(colour)},
                )
            )  # fmt: skip
        self.plot.addItem(
            pg.InfiniteLine(
                now, angle=90, pen=pg.mkPen(c.q("ink"), width=2), label="now",
                labelOpts={"position": 0.15, "color": c.q("ink")},
            )
        )  # fmt: skip
        self.plot.plot(
            list(view.minutes), shown(view.celsius, "degC"), pen=None, symbol="o", symbolSize=10,
            symbolBrush=c.q("card"), symbolPen=pg.mkPen(c.q("ink"), width=2),
        )  # fmt: skip
        values = shown([*view.celsius, view.room_c, view.dew_c], "degC")
        self.plot.setXRange(0, end, padding=0.01)
        self.plot.setYRange(float(values.min()) - 2, float(values.max()) + 2, padding=0)

    def _note(self) -> None:
        def act() -> None:
            celsius = self.case.read("case_c", "degC")
            acclimatisation.note_case(self.shop, self.which.currentData(), celsius)
            self.case.fields["case_c"].clear()

        self.do(act)
        self.refresh()

    def _use(self) -> None:
        self.do(lambda: acclimatisation.use_case(self.shop, self.which.currentData()))
        self.refresh()
