"""The shop's pull-throughs: which goes through which joint and from which end, drawn; uses and washes counted."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from creekbed.core.catalogue.models.parts import Bore, Part
from creekbed.core.catalogue.models.steps import STUFFS
from creekbed.core.conventions import millimetres, number
from creekbed.core.hygiene.swabs import SwabFit, jam
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button, label, listing, restyle, row
from creekbed.window.tools.base import Fields, ToolPage, refill
from creekbed.words.times import clock_words
from creekbed.workshop.cleaning import cloths, shelf
from creekbed.workshop.cleaning.cloths import ClothView

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

FIT_WORDS = {"passes": "passes", "snug": "snug, slowly", "jams": "would jam"}
JAM = (
    "If it jams: stop. Draw it back the way it came, straight and slowly. Never push it with a rod, never pull harder. "
    "If it does not move, the repairer takes it out."
)


class JointPicture(QWidget):
    """A joint in section with the gathered cloth in its narrowest place and an arrow where it goes in."""

    def __init__(self) -> None:
        super().__init__()
        self.bore: Bore | None = None
        self.ends = ("wide end", "narrow end")
        self.fit: SwabFit | None = None
        self.setMinimumHeight(theme.current.px(206))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def set_joint(self, part: Part | None, fit: SwabFit | None) -> None:
        """Show a cloth in a joint, or nothing."""
        self.bore = part.bore if part is not None else None
        if part is not None and len(part.ends) == 2:
            self.ends = (part.ends[0], part.ends[1])
        self.fit = fit
        if part is not None and fit is not None:
            self.setAccessibleName(f"{part.name}: {fit.why}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.bore is None or self.fit is None:
            return
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        w, h = float(self.width()), float(self.height())
        left, right, middle = w * 0.2, w * 0.82, h * 0.38
        tall = h * 0.56
        shown = max(self.bore.wide_mm, 1e-6)
        scale = tall / (shown if shown < 3 * self.bore.narrow_mm else 3 * self.bore.narrow_mm)
        wide, narrow = min(self.bore.wide_mm * scale, tall), self.bore.narrow_mm * scale
        wall = 9.0
        for side in (-1, 1):
            a, b = middle + side * wide / 2, middle + side * narrow / 2
            outer = [QPointF(right, b + side * wall), QPointF(left, a + side * wall)]
            shell = QPolygonF([QPointF(left, a), QPointF(right, b), *outer])
            painter.setPen(QPen(c.q("ink"), 1.6))
            painter.setBrush(c.q("silt"))
            painter.drawPolygon(shell)
        at = left + (right - left) * 0.84
        half = (wide + (narrow - wide) * 0.84) / 2
        if self.bore.in_way_mm > 0:  # what stands into the bore
            painter.setBrush(c.q("muted"))
            painter.drawRect(QRectF(at, middle - half, 7, self.bore.in_way_mm * scale))
        rope = self.fit.rope_mm * scale
        jams = self.fit.fit == "jams"
        low = middle + half - rope / 2 if self.bore.in_way_mm > 0 else middle
        cloth = QPainterPath(QPointF(left + (right - left) * 0.12, middle - min(wide * 0.36, rope)))
        end = left + (right - left) * (0.6 if jams else 0.97)
        cloth.cubicTo(QPointF(left + (right - left) * 0.4, middle - rope / 2), QPointF(at - 60, low - rope / 2),
                      QPointF(end, low - rope / 2))  # fmt: skip
        cloth.lineTo(end, low + rope / 2)
        cloth.cubicTo(QPointF(at - 60, low + rope / 2), QPointF(left + (right - left) * 0.4, middle + rope / 2),
                      QPointF(left + (right - left) * 0.12, middle + min(wide * 0.36, rope)))  # fmt: skip
        cloth.closeSubpath()
        painter.setPen(QPen(c.q("warn" if jams else "deep"), 2))
        painter.setBrush(c.q("warn_soft" if jams else "water"))
        painter.drawPath(cloth)
        painter.drawLine(QPointF(end, low), QPointF(w * 0.93, low))  # the cord goes ahead
        painter.setPen(QPen(c.q("ink"), 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        tip = QPointF(left - 10, middle)
        painter.drawLine(QPointF(w * 0.05, middle), tip)
        painter.drawLine(tip, tip + QPointF(-9, -7))
        painter.drawLine(tip, tip + QPointF(-9, 7))
        if jams:
            for one, other in ((QPointF(-8, -8), QPointF(8, 8)), (QPointF(-8, 8), QPointF(8, -8))):
                painter.setPen(QPen(c.q("warn"), 3))
                painter.drawLine(QPointF(w * 0.07, middle - 22) + one, QPointF(w * 0.07, middle - 22) + other)
        painter.setPen(c.q("ink"))
        painter.setFont(theme.current.font(theme.TEXT_SIZE))
        line = painter.fontMetrics().height() + 2.0
        base = h - 2 * line
        painter.drawText(QRectF(0, base, w, line), Qt.AlignmentFlag.AlignLeft, f"in: {self.ends[0]}")
        painter.drawText(QRectF(0, base, w, line), Qt.AlignmentFlag.AlignRight, f"out: {self.ends[1]}")
        words = f"{millimetres(self.fit.rope_mm, 1)} of cloth, {millimetres(self.fit.clear_mm, 1)} clear"
        painter.drawText(QRectF(0, base + line, w, line), Qt.AlignmentFlag.AlignCenter, words)


class ClothsPage(ToolPage):
    """Left: the cloths. Right: a joint with the chosen cloth in it, and every joint's answer."""

    key = "cloths"

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.chosen = ""
        self.keys: list[str] = []
        left, right = self.two(46, 54)
        self.head = label("", "title")
        left.addWidget(self.head)
        self.list = listing("Cloths")
        self.list.setObjectName("cloth_list")
        self.list.currentRowChanged.connect(self._row_chosen)
        self.list.setMinimumHeight(theme.current.px(190))
        left.addWidget(self.list, 1)
        self.about = label("", tone="muted")
        left.addWidget(self.about)
        self.own = Fields(left, lambda: None)
        self.own.line("cloth_rope", "Gathered, it measures", "", millimetres(8.5))
        left.addLayout(
            row(
                button("Washed", self._washed, "primary", "cloth_washed", "F2"),
                button("Replaced", self._replaced, "", "cloth_replaced"),
                button("Calibrate", self._calibrate, "", "cloth_calibrate"), None,
            )
        )  # fmt: skip
        left.addWidget(label("On the shelf, for swapping and for after playing", "small"))
        self.shelf = Fields(left, self.refresh)
        self.stuff = self.shelf.choice("cloth_stuff", "Of", [(s.capitalize(), s) for s in STUFFS])
        self.counted = label("")
        left.addWidget(self.counted)
        left.addLayout(
            row(
                button("The dirty ones are washed", self._hang_up, "", "cloth_hang"),
                button("Count again …", self._count, "quiet", "cloth_count"), None,
            )
        )  # fmt: skip
        self._joint(right)

    def _joint(self, right: QVBoxLayout) -> None:
        """Whether a cloth passes a joint, and a cloth of one's own."""
        self.fields = Fields(right, self.refresh)
        families = [
            (f.name, f.key) for f in self.shop.catalogue.families.values() if any(p.bore is not None for p in f.part)
        ]
        self.family = self.fields.choice("cloth_family", "Instrument", families)
        self.part = self.fields.choice("cloth_part", "Joint", [])
        self.picture = JointPicture()
        right.addWidget(self.picture)
        self.said = label("", "name")
        right.addWidget(self.said)
        self.stuck = self.fields.choice(
            "cloth_stuck", "Does it stick?", [("no", ""), ("it went in at the wide end", "wide"),
                                              ("it went in at the narrow end", "narrow")],
        )  # fmt: skip
        self.stuck_words = label("", tone="warn")
        right.addWidget(self.stuck_words)
        self.best = label("")
        right.addWidget(self.best)
        self.others = label("")
        right.addWidget(self.others)
        right.addStretch(1)
        right.addWidget(label(JAM, tone="muted"))
        new = Fields(right, lambda: None, 3)
        self.new = new
        new.line("cloth_name", "A cloth of your own", "", "name")
        new.line("cloth_width", "Width, across the pull", "", millimetres(150))
        new.line("cloth_thick", "Thickness", "", millimetres(0.2))
        right.addLayout(row(button("Add it for this instrument", self._add, "", "cloth_add"), None))

    def start_at(self, family: str, part: str) -> None:
        """Open with a joint chosen, and the cloth that the shop would take for it."""
        self.family.setCurrentIndex(max(0, self.family.findData(family)))
        self.part.setCurrentIndex(max(0, self.part.findData(part)))
        taken = cloths.cloth_for(self.shop, self.shop.catalogue.families[family], (part,))
        if taken is not None:
            self._choose(taken[0].cloth.key)

    def refresh(self) -> None:
        views = cloths.cloths(self.shop)
        family = self.shop.catalogue.families[self.family.currentData()]
        refill(self.part, [(p.name, p.key) for p in family.part if p.bore is not None])
        mine = [v for v in views if family.group in v.cloth.groups or family.key in v.cloth.groups]
        if self.chosen not in {v.cloth.key for v in views} or not self.chosen:
            self.chosen = (mine or views)[0].cloth.key
        wash = sum(v.to_wash for v in views)
        self.head.setText(f"Cloths: {wash} to wash" if wash else "Cloths: none wants washing")
        self._list(sorted(views, key=lambda v: (v not in mine, not v.to_wash)))
        cloth = next(v for v in views if v.cloth.key == self.chosen)
        c = cloth.cloth
        how = "calibrated" if cloth.calibrated else "the house's until you measure it"
        self.about.setText(
            f"{millimetres(c.width_mm)} × {millimetres(c.thickness_mm)}, packing {number(cloth.phi, 2)} "
            f"({how}). Wash with mild soap, rinse, dry "
            "in the air; no softener. A damp one lies loose in an airy case."
        )
        part = family.find_part(self.part.currentData() or "")
        fit = cloth.fit(family, part.key) if part is not None else None
        self.picture.set_joint(part, fit)
        self.said.setText(fit.why if fit is not None else "")
        restyle(self.said, tone="warn" if fit is not None and fit.fit == "jams" else "")
        entered, found = self.stuck.currentData(), None
        if entered and part is not None and part.bore is not None and fit is not None:
            found = jam(fit.rope_mm, part.bore, entered, part.name)
        self.stuck_words.setVisible(bool(entered))
        self.stuck_words.setText(
            f"It sticks {found.where}. {found.do}" if found is not None
            else "By its measures it passes: wadded or knotted, then. Draw it back the way it came." if entered else ""
        )  # fmt: skip
        here = shelf.counts(self.shop)[self.stuff.currentData() or STUFFS[0]]
        following = f", the next dry {clock_words(here.next_dry, self.shop.now)}" if here.next_dry else ""
        jobs = self.frame.records.views if self.frame.records is not None else ()
        asked = cloths.how_far(self.shop, self.stuff.currentData() or STUFFS[0], jobs)
        wanted, urgent = asked.words(), asked.urgent
        self.counted.setText(f"{here.words()}{following}. {wanted}")
        restyle(self.counted, tone="warn" if urgent else "")
        taken = cloths.cloth_for(self.shop, family, (part.key,)) if part is not None else None
        if taken is None:
            self.best.setText("None of the shop's cloths passes here.")
        else:
            self.best.setText(f"Take: {taken[0].cloth.name} ({taken[1].share:.0%} of the bore).")
        said = [
            f"{other.name} {FIT_WORDS[found.fit]} ({found.share:.0%})"
            for other in family.part
            for found in [cloth.fit(family, other.key)]
            if found is not None
        ]
        self.others.setText(f"{c.name}: {'; '.join(said)}.")

    def _list(self, views: list[ClothView]) -> None:
        self.list.blockSignals(True)
        self.list.clear()
        for view in views:
            c = view.cloth
            state = f"{view.uses} of {c.wash_after} uses"
            state = "worn out, replace it" if view.worn else "wash it" if view.to_wash else state
            self.list.addItem(f"{c.name}: {state}, {view.washes} washes")
        self.keys = [v.cloth.key for v in views]
        self.list.setCurrentRow(self.keys.index(self.chosen))
        self.list.blockSignals(False)

    def _row_chosen(self, at: int) -> None:
        if 0 <= at < len(self.keys):
            self._choose(self.keys[at])

    def _choose(self, key: str) -> None:
        self.chosen = key
        self.refresh()

    def _hang_up(self) -> None:
        self.do(lambda: shelf.hang_up(self.shop, self.stuff.currentData()))
        self.refresh()

    def _count(self) -> None:
        said = self.ask("Count again", "How many are dry, and how many dirty? Such as “5 dry, 2 dirty”.", ok="Counted")
        if said is not None:
            self.do(lambda: shelf.count_again(self.shop, self.stuff.currentData(), *shelf.read_count(said)))
            self.refresh()

    def _washed(self) -> None:
        self.do(lambda: cloths.washed(self.shop, self.chosen))
        self.refresh()

    def _replaced(self) -> None:
        self.do(lambda: cloths.replaced(self.shop, self.chosen))
        self.refresh()

    def _calibrate(self) -> None:
        def act() -> None:
            cloths.calibrate(self.shop, self.chosen, self.own.read("cloth_rope", "millimeter", 0))
            self.own.fields["cloth_rope"].clear()

        self.do(act)
        self.refresh()

    def _add(self) -> None:
        def act() -> None:
            width = self.new.read("cloth_width", "millimeter", 0)
            thick = self.new.read("cloth_thick", "millimeter", 0)
            cloths.add_cloth(self.shop, self.new.fields["cloth_name"].text(), width, thick, self.family.currentData())
            for field in self.new.fields.values():
                field.clear()

        self.do(act)
        self.refresh()
