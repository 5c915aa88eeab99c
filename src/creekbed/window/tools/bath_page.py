"""The bath: how much hot and cold, drawn as it is filled; then its curve with now on it, and what brings it back."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from creekbed.core.conventions import litres, number, temperature
from creekbed.core.errors import CreekbedError, Refused
from creekbed.core.hygiene.baths import (
    BathState,
    fill,
    scald_seconds,
    top_up_l,
    useful_minutes,
    warmest_c,
)
from creekbed.window.shared import theme
from creekbed.window.shared.plots import bare_plot, shown
from creekbed.window.shared.widgets import button, how_sure, label, restyle, row
from creekbed.window.tools.base import Fields, ToolPage
from creekbed.words.times import clock_words
from creekbed.workshop.bench.job_view import JobView, StepView
from creekbed.workshop.cleaning import running_bath as tub
from creekbed.workshop.cleaning.running_bath import RunningBath

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


class Tub(QWidget):
    """A tub with cold below and hot above, as it is filled; mixed once it runs."""

    def __init__(self) -> None:
        super().__init__()
        self.bath: BathState | None = None
        self.hot_c = self.cold_c = 0.0
        self.now_c: float | None = None
        self.setMinimumHeight(theme.current.px(170))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def set_filling(self, bath: BathState | None, hot_c: float = 0.0, cold_c: float = 0.0) -> None:
        """Show how it is filled, or an empty tub."""
        self.bath, self.hot_c, self.cold_c, self.now_c = bath, hot_c, cold_c, None
        words = "empty" if bath is None else f"{litres(bath.cold_l, 1)} cold, then {litres(bath.hot_l, 1)} hot"
        self.setAccessibleName(f"Tub: {words}")
        self.update()

    def set_now(self, celsius: float) -> None:
        """Show it filled, at its temperature now."""
        self.now_c = celsius
        self.setAccessibleName(f"Tub: {temperature(celsius, 1)}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        w, h = float(self.width()), float(self.height())
        left, right, top, bottom = w * 0.12, w * 0.88, h * 0.08, h * 0.92
        lean = (right - left) * 0.06
        tub = QPainterPath(QPointF(left, top))
        for point in (QPointF(left + lean, bottom), QPointF(right - lean, bottom), QPointF(right, top)):
            tub.lineTo(point)
        painter.save()
        painter.setClipPath(tub)
        full, rim = bottom - top, top + (bottom - top) * 0.16
        painter.setFont(theme.current.font(theme.TEXT_SIZE, True))
        if self.now_c is not None:
            self._layer(
                painter, QRectF(left, rim, right - left, bottom - rim), "water", f"{temperature(self.now_c, 1)} now"
            )
        elif self.bath is not None:
            share = self.bath.cold_l / (self.bath.cold_l + self.bath.hot_l)
            middle = bottom - (full * 0.84) * share
            cold = f"first {litres(self.bath.cold_l, 1)} cold, {temperature(self.cold_c)}"
            hot = f"then {litres(self.bath.hot_l, 1)} hot, {temperature(self.hot_c)}"
            self._layer(painter, QRectF(left, middle, right - left, bottom - middle), "water", cold)
            self._layer(painter, QRectF(left, rim, right - left, middle - rim), "warn_soft", hot)
        painter.restore()
        painter.setPen(QPen(c.q("deep"), 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
        painter.drawPath(tub)
        painter.drawLine(QPointF(left - 14, top), QPointF(left, top))
        painter.drawLine(QPointF(right, top), QPointF(right + 14, top))
        painter.end()

    def _layer(self, painter: QPainter, box: QRectF, colour: str, words: str) -> None:
        painter.fillRect(box, theme.current.c.q(colour))
        painter.setPen(theme.current.c.q("ink"))
        if box.height() > 18:
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


class BathPage(ToolPage):
    """Fill it, watch it, top it up, empty it; one bath runs at a time and survives a restart."""

    key = "bath"

    def __init__(self, frame: Frame):
        super().__init__(frame)
        limits = self.shop.catalogue.house.limits
        left, right = self.two(50, 50)
        self.head = label("", "title")
        left.addWidget(self.head)
        self.fields = Fields(left, self._compute)
        bathed = [
            (m.name, m.key)
            for m in self.shop.catalogue.materials.values()
            if m.may.get("cool_water", "no") not in ("no", "brief") or m.may.get("lukewarm_water", "no") == "yes"
        ]
        self.goes_in = self.fields.choice("bath_for", "What goes in", [("nothing that minds", ""), *bathed], wide=True)
        self.fields.line("bath_volume", "Water", litres(12))
        self.fields.line("bath_at", "Wanted", temperature(limits.bath_c))
        self.fields.line("bath_hot", "Hot tap", temperature(limits.tap_hot_c))
        self.fields.line("bath_cold", "Cold tap", temperature(limits.tap_cold_c))
        self.fields.line("bath_room", "Room", temperature(limits.room_c))
        self.fields.line("bath_lowest", "Useful down to", temperature(limits.bath_useful_c))
        self.amounts = label("", "numeral")
        self.then = label("", "name")
        self.mind = label("")
        for words in (self.amounts, self.then, self.mind):
            left.addWidget(words)
        left.addWidget(how_sure("bath"))
        left.addStretch(1)
        self.filled = button("It is filled", self._filled, "primary", "bath_filled", "F2")
        self.topped = button("Topped up", self._topped, "", "bath_topped")
        self.empty = button("Emptied", self._empty, "", "bath_empty")
        left.addLayout(row(self.filled, self.topped, self.empty, None))
        self.tub = Tub()
        right.addWidget(self.tub)
        self.plot = bare_plot("minutes", "degC", 220, "bath")
        right.addWidget(self.plot)
        reads = Fields(right, lambda: None)
        self.reads = reads
        reads.line("bath_reads", "A thermometer in it reads", "", temperature(35))
        right.addLayout(row(button("Take this reading", self._reading, "", "bath_read"), None, self.plot.save))
        right.addWidget(label("One reading tells how fast this tub cools; the curve follows.", tone="muted"))
        right.addStretch(1)
        self._drawn: tuple[Any, ...] | None = None

    # --- what is known ------------------------------------------------------------------------------------------------

    @property
    def running(self) -> RunningBath | None:
        """The bath that runs."""
        return tub.running(self.shop)

    def refresh(self) -> None:
        self._compute()

    def start_for(self, view: JobView, step: StepView) -> None:
        """Open for a step: its litres, and the finish that bears least."""
        plain = next((s for s in view.family.step if s.key == step.step.base), None)
        if self.running is not None or plain is None or plain.bath_l is None:
            return
        self.fields.fields["bath_volume"].setText(litres(plain.bath_l))
        surfaces = [x for key in step.step.touches if (part := view.family.find_part(key)) is not None
                    for x in view.situation.surface(part) if x]  # fmt: skip
        limits = self.shop.catalogue.house.limits

        def bears(key: str) -> float:
            try:
                found = warmest_c(self.shop.catalogue.materials[key], limits.lukewarm_c, limits.cool_c)
            except Refused:
                return -1.0
            return 100.0 if found is None else found

        least = min(surfaces, key=bears, default="")
        self.goes_in.setCurrentIndex(max(0, self.goes_in.findData(least)))

    def tick(self) -> None:
        running = self.running
        if running is not None:
            self._show_running(running)

    def _read(self) -> dict[str, float]:
        f = self.fields
        return {
            "volume_l": f.read("bath_volume", "liter", 0), "target_c": f.read("bath_at", "degC"),
            "hot_c": f.read("bath_hot", "degC"), "cold_c": f.read("bath_cold", "degC"),
            "room_c": f.read("bath_room", "degC"), "lowest_c": f.read("bath_lowest", "degC"),
        }  # fmt: skip

    def _compute(self) -> None:
        running = self.running
        for key in self.fields.fields:
            self.fields.fields[key].setEnabled(running is None)
        self.goes_in.setEnabled(running is None)
        self.filled.setVisible(running is None)
        self.topped.setVisible(running is not None)
        self.empty.setVisible(running is not None)
        if running is not None:
            self._show_running(running)
            return
        self.head.setText("A bath")
        self._drawn = None
        limits = self.shop.catalogue.house.limits
        try:
            given = self._read()
            ceiling = None
            if self.goes_in.currentData():
                material = self.shop.catalogue.materials[self.goes_in.currentData()]
                ceiling = warmest_c(material, limits.lukewarm_c, limits.cool_c)
            bath = fill(given["volume_l"], given["target_c"], given["hot_c"], given["cold_c"], ceiling)
        except CreekbedError as error:
            self.amounts.setText("Not like this")
            self.then.setText(error.happened)
            self.mind.setText(error.todo)
            self.filled.setEnabled(False)
            self.tub.set_filling(None)
            self.plot.clear()
            return
        self.filled.setEnabled(True)
        self.amounts.setText(f"{litres(bath.cold_l, 1)} cold, {litres(bath.hot_l, 1)} hot")
        soap = limits.detergent_ml_per_l * given["volume_l"]
        useful = useful_minutes(given["target_c"], given["lowest_c"], given["room_c"], limits.tub_tau_min)
        lasts = "as long as you like" if math.isinf(useful) else f"about {number(useful, 0)} min"
        self.then.setText(f"Cold first. Then {number(soap, 0)} ml of mild soap. Useful for {lasts}.")
        said = []
        if bath.scald_s is not None:
            said.append(f"The hot tap scalds skin in about {number(bath.scald_s, 0)} s: gloves, and never hot first.")
        if ceiling is not None:
            said.append(f"What goes in bears {temperature(ceiling)} at most.")
        self.mind.setText(" ".join(said))
        restyle(self.mind, tone="warn" if bath.scald_s is not None else "")
        self.tub.set_filling(bath, given["hot_c"], given["cold_c"])
        self._curve(given["lowest_c"], given["room_c"], given["target_c"], limits.tub_tau_min)

    # --- while it runs ------------------------------------------------------------------------------------------------

    def _show_running(self, bath: RunningBath) -> None:
        now = self.shop.now
        since, now_c, left = bath.minutes(now), bath.celsius(now), bath.left_min(now)
        self.head.setText(f"The bath that runs, since {clock_words(bath.filled_at)}")
        self.tub.set_now(now_c)
        self.amounts.setText(f"{temperature(now_c, 1)} by now")
        cold = left <= 0
        if math.isinf(left):
            self.then.setText("It stays useful in this room.")
        elif cold:
            self.then.setText("Too cool to clean well: top it up.")
        else:
            self.then.setText(f"Useful for {number(left, 0)} min more.")
        restyle(self.then, tone="warn" if cold else "")
        try:
            more = top_up_l(bath.volume_l, now_c, bath.target_c, bath.hot_c)
            words = f"Take {litres(more, 1)} out, put as much of the hot tap in: back at {temperature(bath.target_c)}."
            if scald_seconds(bath.hot_c) is not None:
                words += " Lift the pieces and your hands out before the hot water goes in."
        except Refused as error:
            words = error.words()
        self.mind.setText(words)
        restyle(self.mind, tone="")
        drawn = (bath.since, bath.tau_min, int(since * 4))
        if drawn != self._drawn:
            self._drawn = drawn
            self._curve(bath.lowest_c, bath.room_c, bath.start_c, bath.tau_min, since)

    def _curve(
        self, lowest_c: float, room_c: float, start_c: float, tau_min: float, now_min: float | None = None
    ) -> None:
        c = theme.current.c
        useful = useful_minutes(start_c, lowest_c, room_c, tau_min)
        end = min(max(60.0, 1.4 * (useful if math.isfinite(useful) else 60.0), (now_min or 0.0) * 1.2), 600.0)
        t = np.linspace(0, end, 200)
        y = shown(room_c + (start_c - room_c) * np.exp(-t / tau_min), "degC")
        lowest, top = (float(x) for x in shown([lowest_c, start_c], "degC"))
        self.plot.clear()
        self.plot.plot(t, y, pen=pg.mkPen(c.q("deep"), width=3))
        self.plot.addItem(
            pg.InfiniteLine(
                lowest, angle=0, pen=pg.mkPen(c.q("warn"), width=1.5, style=Qt.PenStyle.DotLine),
                label="useful down to here", labelOpts={"position": 0.75, "color": c.q("warn")},
            )
        )  # fmt: skip
        if now_min is not None:
            self.plot.addItem(
                pg.InfiniteLine(
                    now_min, angle=90, pen=pg.mkPen(c.q("ink"), width=2), label="now",
                    labelOpts={"position": 0.9, "color": c.q("ink")},
                )
            )  # fmt: skip
        self.plot.setXRange(0, end, padding=0.01)
        self.plot.setYRange(min(lowest, float(y.min())) - 2, top + 2, padding=0)

    # --- what people do -----------------------------------------------------------------------------------------------

    def _filled(self) -> None:
        self.do(lambda: tub.fill(self.shop, self._read()))
        self._compute()

    def _topped(self) -> None:
        self.do(lambda: tub.top_up(self.shop))
        self._compute()

    def _empty(self) -> None:
        self.do(lambda: tub.empty(self.shop))
        self._compute()

    def _reading(self) -> None:
        """A thermometer's reading: how fast this tub cools."""

        def act() -> None:
            tub.read(self.shop, self.reads.read("bath_reads", "degC", 0, 100))
            self.reads.fields["bath_reads"].clear()

        self.do(act)
        self._compute()
