"""Wood and the air: what moisture it comes to, how much that moves it, and whether that is too much or too fast."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyqtgraph as pg

from creekbed.core.climate.storage import FAST_PCT_DAY
from creekbed.core.climate.wood import WOODS, emc_pct, movement_mm
from creekbed.core.conventions import millimetres, number, temperature
from creekbed.core.errors import CreekbedError
from creekbed.core.units import show
from creekbed.window.shared import theme
from creekbed.window.shared.plots import bare_plot, free
from creekbed.window.shared.widgets import how_sure, label, restyle, row
from creekbed.window.tools.base import Fields, ToolPage
from creekbed.workshop.shop.room_climate import air_now

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

LARGE_PCT = 3.0
"""Change of moisture that is called large, percentage points: house default."""
VALID_PCT = (6.0, 14.0)
"""Moistures between which the coefficients hold: Wood Handbook, from memory."""


class WoodPage(ToolPage):
    """Left: wood, width, two airs and the answer. Right: the curve with both states on it."""

    key = "wood"

    def __init__(self, frame: Frame):
        super().__init__(frame)
        limits = self.shop.catalogue.house.limits
        room = air_now(self.shop) or (limits.room_c, limits.room_rh)
        left, right = self.two(52, 48, fixed=("right",))
        left.addWidget(label("Wood and air", "title"))
        self.fields = Fields(left, self.refresh)
        self.wood = self.fields.choice("wood_kind", "Wood", [(w.name, w.key) for w in WOODS.values()])
        self.cut = self.fields.choice(
            "wood_cut",
            "Its width lies",
            [("along the rays: quartered", "radial"), ("along the rings: slab", "tangential")],
        )
        self.fields.line("wood_width", "Width across the grain", millimetres(206))
        self.fields.line("wood_days", "Within", "7 day")
        self.fields.line("wood_from_c", "It comes from", temperature(20))
        self.fields.line("wood_from_rh", "at", "50 %")
        self.fields.line("wood_to_c", "It comes to", temperature(room[0], 1))
        self.fields.line("wood_to_rh", "at", f"{number(100 * room[1], 0)} %")
        self.moves = label("", "numeral")
        self.why = label("", "name")
        self.mind = label("")
        for words in (self.moves, self.why, self.mind):
            left.addWidget(words)
        left.addWidget(how_sure("wood"))
        left.addWidget(
            label("A glued plate cannot move freely: it arches or cracks instead. Read it as how hard the air pulls.",
                  tone="muted")
        )  # fmt: skip
        left.addStretch(1)
        self.plot = bare_plot("relative humidity, %", "moisture of the wood, %", 380, "wood")
        free(self.plot)
        right.addWidget(self.plot, 1)
        right.addLayout(row(None, self.plot.save))
        self.refresh()

    def refresh(self) -> None:
        self.plot.clear()
        f, wood = self.fields, WOODS[self.wood.currentData()]
        try:
            width = f.read("wood_width", "millimeter", 0)
            days = f.read("wood_days", "day", 0)
            states = [
                (f.read(f"wood_{k}_c", "degC"), f.read(f"wood_{k}_rh", "percent", 1, 98) / 100) for k in ("from", "to")
            ]
            before, after = (emc_pct(c, h) for c, h in states)
            coefficient = wood.radial if self.cut.currentData() == "radial" else wood.tangential
            moved = movement_mm(width, before, after, coefficient)
        except CreekbedError as error:
            self.moves.setText("Not like this")
            self.why.setText(error.happened)
            self.mind.setText(error.todo)
            restyle(self.mind, tone="")
            return
        size = show(abs(moved), "millimeter")
        self.moves.setText(
            f"{size} {'wider' if moved > 0 else 'narrower'}" if abs(moved) >= 0.005 else "It stays as it is"
        )
        self.why.setText(f"Its moisture goes from {number(before, 1)} to {number(after, 1)} %, in the end.")
        said = []
        change = abs(after - before)
        if change >= LARGE_PCT:
            said.append("That is a large change: seams and cracks. Bring it there in steps, in its closed case.")
        if days > 0 and change / days >= FAST_PCT_DAY:
            said.append(f"{number(change / days, 1)} points a day is fast: slow it down with the case shut.")
        if not all(VALID_PCT[0] <= m <= VALID_PCT[1] for m in (before, after)):
            said.append("Outside 6 to 14 % the number is a rough one.")
        self.mind.setText(" ".join(said) or "Nothing to do about that.")
        restyle(self.mind, tone="warn" if change >= LARGE_PCT or (days > 0 and change / days >= FAST_PCT_DAY) else "")
        self._draw(states, (before, after))

    def _draw(self, states: list[tuple[float, float]], moistures: tuple[float, float]) -> None:
        c = theme.current.c
        humidity = np.linspace(0, 0.95, 120)
        for n, ((celsius, _), colour) in enumerate(zip(states, ("muted", "deep"), strict=True)):
            if n == 0 and celsius == states[1][0]:
                continue
            curve = [emc_pct(celsius, float(h)) for h in humidity]
            self.plot.plot(100 * humidity, curve, pen=pg.mkPen(c.q(colour), width=3 if colour == "deep" else 2))
        (_, h0), (_, h1) = states
        self.plot.plot([100 * h0, 100 * h1], list(moistures), pen=pg.mkPen(c.q("ink"), width=2))
        for h, m, words, brush in ((h0, moistures[0], "from", "card"), (h1, moistures[1], "to", "ink")):
            self.plot.plot([100 * h], [m], pen=None, symbol="o", symbolSize=12, symbolBrush=c.q(brush),
                           symbolPen=pg.mkPen(c.q("ink"), width=2))  # fmt: skip
            text = pg.TextItem(
                f"{words} {number(m, 1)} %", color=c.q("ink"), anchor=(0, 1.2) if words == "from" else (0, -0.2)
            )
            text.setFont(theme.current.font(14, True))
            text.setPos(100 * h, m)
            self.plot.addItem(text)
        self.plot.setXRange(0, 100, padding=0.01)
        self.plot.setYRange(0, 25, padding=0.01)
