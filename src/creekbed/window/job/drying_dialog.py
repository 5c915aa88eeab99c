"""Drying by weight: weigh it now and then; the curve says how much water is left and when it will be dry."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QVBoxLayout

from creekbed.core.measure import Reading
from creekbed.core.units import parse_quantity
from creekbed.devices.meter import KINDS
from creekbed.window.shared import theme
from creekbed.window.shared.plots import bare_plot
from creekbed.window.shared.widgets import button, entry, how_sure, label, restyle, row
from creekbed.workshop.cleaning import drying

if TYPE_CHECKING:
    from creekbed.window.shared.page import Page


class DryDialog(QDialog):
    """Weighings of one drying, their curve, and the end of it."""

    def __init__(self, page: Page, wait_id: int):
        super().__init__(page.frame)
        self.page, self.wait_id = page, wait_id
        self.setWindowTitle("Drying by weight")
        self.setModal(True)
        self.setMinimumWidth(theme.current.px(640))
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 24, 24, 24)
        box.setSpacing(theme.STEP)
        self.title = label("", "title")
        box.addWidget(self.title)
        box.addWidget(
            label("Weigh the same piece each time, dry hands, scale zeroed. No heat to hurry it.", tone="muted")
        )
        self.weight = entry("weight", "Weight now", "452.3 g", self.add)
        line = row(self.weight, button("Note it", self.add, "", "weigh_note"))
        if page.frame.devices.ports.get("scale"):
            line.addWidget(button("From the scale", self.ask, "", "weigh_scale"))
        box.addLayout(line)
        self.plot = bare_plot("minutes", "g", 220, "drying")
        box.addWidget(self.plot)
        self.said = label("", "name")
        box.addWidget(self.said)
        box.addWidget(how_sure("drying"))
        self.end = button("It is dry: end the wait", self.finish, "primary", "weigh_dry", "F2")
        box.addLayout(row(self.end, button("Close", self.reject, "", "weigh_close"), None, self.plot.save))
        self.show_view(drying.drying_of(page.shop, wait_id))
        self.weight.setFocus()

    def add(self) -> None:
        """Note the weight that is typed."""

        def act() -> None:
            grams = parse_quantity(self.weight.text(), "gram", what="The weight", minimum=0.1, maximum=30_000)
            self._note(grams)

        self.page.do(act)

    def ask(self) -> None:
        """Take the weight from the scale."""

        def note(reading: Reading) -> None:
            self._note(reading.value)

        self.page.frame.devices.read_meter("scale", 0.0, note)

    def _note(self, grams: float) -> None:
        view = drying.add_weighing(self.page.shop, self.wait_id, grams, KINDS["scale"].resolution)
        self.weight.clear()
        self.show_view(view)

    def finish(self) -> None:
        """End the wait."""
        if self.page.do(lambda: drying.end_dry(self.page.shop, self.wait_id)):
            self.accept()

    def show_view(self, view: drying.DryingView) -> None:
        """Draw the weighings and what they say."""
        c = theme.current.c
        self.title.setText(f"{view.tag}: {view.name}")
        self.plot.clear()
        if view.grams:
            out = set(view.fit.left_out) if view.fit is not None else set()
            kept = [n for n in range(len(view.grams)) if n not in out]
            if view.fit is not None:
                f, last = view.fit, view.minutes[-1]
                end = max(last * 1.3, last + min(f.minutes_95[1], 4 * max(last, 10.0)), 5.0)
                t = np.linspace(view.minutes[0], end, 200)
                curve = f.curve(t)
                past = t <= last
                self.plot.plot(t[past], curve[past], pen=pg.mkPen(c.q("deep"), width=3))
                self.plot.plot(t[~past], curve[~past], pen=pg.mkPen(c.q("deep"), width=2, style=Qt.PenStyle.DashLine))
                self.plot.addItem(
                    pg.InfiniteLine(
                        f.likeliest[1] + view.limit_g, angle=0, pen=pg.mkPen(c.q("warn"), style=Qt.PenStyle.DotLine),
                        label="dry enough", labelOpts={"position": 0.85, "color": c.q("warn")},
                    )
                )  # fmt: skip
            self.plot.plot(
                [view.minutes[n] for n in kept], [view.grams[n] for n in kept], pen=None, symbol="o", symbolSize=9,
                symbolBrush=c.q("card"), symbolPen=pg.mkPen(c.q("ink"), width=2),
            )  # fmt: skip
            if out:
                self.plot.plot(
                    [view.minutes[n] for n in out], [view.grams[n] for n in out], pen=None, symbol="x", symbolSize=10,
                    symbolBrush=c.q("warn"), symbolPen=pg.mkPen(c.q("warn")),
                )  # fmt: skip
        out_words = ""
        if view.fit is not None and not view.fit.notes and view.fit.left_out:
            out_words = f" {len(view.fit.left_out)} left out."
        self.said.setText(view.words() + out_words)
        restyle(self.said, tone="" if view.fit is not None else "muted")
        self.end.setEnabled(view.fit is not None and view.fit.is_dry)
