"""The bench's own reeds: which one to play next, which rest, which go into peroxide together, with its time."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from creekbed.core.errors import BadInput
from creekbed.core.units import parse_quantity
from creekbed.window.home.running_waits import draw_vessel
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import Flow, button, label, listing, restyle, row
from creekbed.window.tools.base import Fields, ToolPage
from creekbed.words.reeds import after_bath, too_long
from creekbed.words.times import clock_words, count_down, span
from creekbed.workshop.cleaning import bench_reeds

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

REEDED = ("saxophone", "clarinet", "oboe", "bassoon")


class Tall(QWidget):
    """A tall vessel with reeds in it, the playing ends down."""

    def __init__(self) -> None:
        super().__init__()
        self.count, self.share, self.warn = 0, 0.0, False
        self.setMinimumSize(theme.current.px(200), theme.current.px(190))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def set_batch(self, count: int, share: float, warn: bool) -> None:
        """Show a number of reeds; ``share`` of the time still to run."""
        self.count, self.share, self.warn = count, share, warn
        self.setAccessibleName(f"Vessel: {count} reeds in peroxide" if count else "Vessel: empty")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        w, h = min(float(self.width()), 190.0), float(self.height())
        draw_vessel(painter, QRectF(10, h * 0.14, w - 20, h * 0.82), 5.0, self.share if self.count else 0.0, self.warn)
        shown = min(self.count, 8)
        for n in range(shown):
            x = 10 + (w - 20) * (n + 1) / (shown + 1)
            reed = QPainterPath(QPointF(x - 9, h * 0.06))
            reed.lineTo(x + 9, h * 0.06)
            reed.lineTo(x + 8, h * 0.5)
            reed.quadTo(QPointF(x, h * 0.84), QPointF(x - 8, h * 0.5))
            reed.closeSubpath()
            painter.setPen(QPen(c.q("ink"), 1.6))
            painter.setBrush(c.q("silt"))
            painter.drawPath(reed)
        painter.end()


class ReedsPage(ToolPage):
    """Left: the reeds. Right: the batch in peroxide."""

    key = "reeds"

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.ids: list[int] = []
        left, right = self.two(52, 48)
        left.addWidget(label("Reeds for play-tests", "title"))
        self.fields = Fields(left, self.refresh)
        groups = [(g.capitalize(), g) for g in REEDED]
        self.group = self.fields.choice("reed_group", "For", groups)
        self.minutes = self.fields.line("reed_minutes", "Played for", hint="10 min, or as long as usual")
        self.next = label("", "name")
        left.addWidget(self.next)
        self.list = listing("Reeds")
        self.list.setObjectName("reed_list")
        self.list.setMinimumHeight(theme.current.px(170))
        left.addWidget(self.list, 1)
        holder = QWidget()
        acts = Flow()
        for words, act, kind, name, key in (
            ("Played", self._play, "primary", "reed_played", "F2"), ("A new one", self._add, "", "reed_add", ""),
            ("Throw away", self._throw, "", "reed_throw", ""),
        ):  # fmt: skip
            acts.addWidget(button(words, act, kind, name, key))
        holder.setLayout(acts)
        left.addWidget(holder)
        right.addWidget(label("In peroxide together", "title"))
        self.vessel = Tall()
        right.addWidget(self.vessel)
        self.left = label("", "numeral")
        self.then = label("", "name")
        for line in (self.left, self.then):
            right.addWidget(line)
        self.lay = button("Lay them in", self._lay, "", "reeds_in")
        self.out = button("Take them out", self._out, "", "reeds_out")
        right.addLayout(row(self.lay, self.out, None))
        right.addWidget(
            label(
                "Peroxide of 3 %, food grade, its label first. A tall open vessel, playing ends down: they float, so "
                "see that the ends are wet. Never capped. Thrown away after use. Porous cane is cleaned, not proven "
                "disinfected: a renter gets a new reed.", tone="muted",
            )
        )  # fmt: skip
        right.addStretch(1)

    def tick(self) -> None:
        if bench_reeds.bath(self.shop) is not None:
            self._batch()

    def refresh(self) -> None:
        now, group = self.shop.now, self.group.currentData()
        mine = [r for r in bench_reeds.reeds(self.shop) if r.group == group]
        chosen = self.ids[self.list.currentRow()] if 0 <= self.list.currentRow() < len(self.ids) else None
        following = bench_reeds.next_reed(self.shop, group)
        self.list.blockSignals(True)
        self.list.clear()
        self.ids = [r.id for r in mine]
        for r in mine:
            self.list.addItem(
                f"Reed {r.id}: {r.state(now)}. Played {r.uses} of {bench_reeds.LASTS} times, {span(r.minutes)} in all, "
                f"cleaned {r.cleanings}."
            )
        wanted = chosen if chosen in self.ids else following.id if following is not None else None
        self.list.setCurrentRow(self.ids.index(wanted) if wanted in self.ids else -1)
        self.list.blockSignals(False)
        if following is not None:
            self.next.setText(f"Take reed {following.id}: it has rested longest.")
        elif mine:
            self.next.setText("None is rested and clean. Take a new one, or let one rest a day.")
        else:
            self.next.setText("No reed yet for these.")
        self._batch()

    def _batch(self) -> None:
        now, lying = self.shop.now, bench_reeds.bath(self.shop)
        wanting = [r.id for r in bench_reeds.reeds(self.shop) if r.to_clean(now) and not r.worn]
        self.lay.setVisible(lying is None)
        self.lay.setEnabled(bool(wanting))
        self.out.setVisible(lying is not None)
        if lying is None:
            self.vessel.set_batch(0, 0.0, False)
            self.left.setText(f"{len(wanting)} want cleaning" if wanting else "None wants cleaning")
            self.then.setText(f"Number {', '.join(map(str, wanting))}: all as one batch." if wanting else "")
            restyle(self.then, tone="")
            return
        state = lying.at(now)
        assert state.latest is not None
        warn = bool(state.over) or state.presses(now)
        self.vessel.set_batch(len(lying.reeds), min(1.0, state.remaining / bench_reeds.CONTACT), warn)
        self.left.setText(count_down(state.remaining) if not state.may_end else "Take them out")
        named = "Reed" if len(lying.reeds) == 1 else "Reeds"
        words = f"{named} {', '.join(map(str, lying.reeds))}, by {clock_words(state.latest, now)} at the latest."
        if state.over:
            words = f"{count_down(state.over)} past the longest time. Take them out at once; look at each tip."
        self.then.setText(words)
        restyle(self.then, tone="warn" if warn else "")

    def _chosen(self) -> int:
        at = self.list.currentRow()
        if not 0 <= at < len(self.ids):
            raise BadInput("Choose a reed first.")
        return self.ids[at]

    def _play(self) -> None:
        if self.do(lambda: bench_reeds.play(self.shop, self._chosen(), self._minutes())):
            self.minutes.clear()
        self.list.setCurrentRow(-1)
        self.refresh()

    def _minutes(self) -> float | None:
        """What was typed; ``None``: as long as usual.

        Raises:
            BadInput: no length of time.
        """
        typed = self.minutes.text().strip()
        return parse_quantity(typed, "minute", what="How long it was played") if typed else None

    def _add(self) -> None:
        self.do(lambda: bench_reeds.add_reed(self.shop, self.group.currentData()))
        self.refresh()

    def _throw(self) -> None:
        self.do(lambda: bench_reeds.throw_away(self.shop, self._chosen()))
        self.refresh()

    def _lay(self) -> None:
        self.do(lambda: bench_reeds.lay_in(self.shop))
        self.refresh()

    def _out(self) -> None:
        over: list[float] = []
        if self.do(lambda: over.append(bench_reeds.take_out(self.shop))):
            self.frame.say(after_bath(over[0]), warn=bool(too_long(over[0])))
        self.refresh()
