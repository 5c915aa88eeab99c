"""The mix bench: what is in the bottle, what it makes, in the measure the jug has, drawn as it will stand."""

from __future__ import annotations

from datetime import timedelta
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QSizePolicy, QWidget

from creekbed.core.errors import CreekbedError
from creekbed.core.units import parse_quantity
from creekbed.window import theme
from creekbed.window.page import Page
from creekbed.window.times import clock_words
from creekbed.window.widgets import button, card, label, row, scroll
from creekbed.workshop import doing
from creekbed.workshop.stock import MixPlan, make_mix, plan_mix

if TYPE_CHECKING:
    from creekbed.window.frame import Frame


class Jug(QWidget):
    """A jug with its marks: stock below, water above, up to the mark."""

    def __init__(self) -> None:
        super().__init__()
        self.plan: MixPlan | None = None
        self.setMinimumSize(theme.current.px(300), theme.current.px(320))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def set_plan(self, plan: MixPlan | None) -> None:
        self.plan = plan
        if plan is not None:
            mix = plan.mix
            self.setAccessibleName(f"Jug: {mix.stock_rounded_ml:g} ml stock, water up to {mix.make_ml:g} ml")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        w, h = float(self.width()), float(self.height())
        left, right, top, bottom = w * 0.34, w * 0.34 + min(w * 0.5, h * 0.62), h * 0.08, h * 0.93
        lean = (right - left) * 0.08
        jug = QPainterPath(QPointF(left, top))
        for point in (QPointF(left + lean, bottom), QPointF(right - lean, bottom), QPointF(right, top)):
            jug.lineTo(point)
        if self.plan is not None:
            self._fill(painter, jug, left, right, top, bottom)
        painter.setPen(QPen(c.q("deep"), 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(jug)
        upper, lower = (
            QPointF(right - lean * (y - top) / (bottom - top), y) for y in (top + h * 0.12, top + h * 0.46)
        )  # where the handle meets the wall
        handle = QPainterPath(upper)
        handle.cubicTo(upper + QPointF(w * 0.13, 0), lower + QPointF(w * 0.13, 0), lower)
        painter.drawPath(handle)
        painter.drawLine(QPointF(left, top), QPointF(left - 14, top - 8))
        painter.end()

    def _fill(self, painter: QPainter, jug: QPainterPath, left: float, right: float, top: float, bottom: float) -> None:
        assert self.plan is not None
        c, mix = theme.current.c, self.plan.mix
        full = mix.make_ml / 0.86
        painter.save()
        painter.setClipPath(jug)

        def y(ml: float) -> float:
            return bottom - (bottom - top) * ml / full

        painter.fillRect(
            QRectF(left, y(mix.make_ml), right - left, y(mix.stock_rounded_ml) - y(mix.make_ml)), c.q("silt")
        )
        painter.fillRect(
            QRectF(left, y(mix.stock_rounded_ml), right - left, bottom - y(mix.stock_rounded_ml)), c.q("water")
        )
        painter.restore()
        painter.setFont(theme.current.font(13))
        step = self.plan.recipe.graduation_ml
        while mix.make_ml / step > 10:
            step *= 2
        mark = step
        while mark <= mix.make_ml + 1e-6:
            painter.setPen(QPen(c.q("muted"), 1))
            painter.drawLine(QPointF(right - 34, y(mark)), QPointF(right - 14, y(mark)))
            mark += step
        for ml, words in (
            (mix.stock_rounded_ml, f"{mix.stock_rounded_ml:g} ml from the bottle"),
            (mix.make_ml, f"water up to {mix.make_ml:g} ml"),
        ):
            painter.setPen(QPen(c.q("ink"), 2))
            painter.drawLine(QPointF(left - 6, y(ml)), QPointF(left + 26, y(ml)))
            painter.setFont(theme.current.font(theme.TEXT_SIZE, True))
            box = QRectF(0, y(ml) - 30, left - 14, 60)
            painter.drawText(
                box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap, words
            )


class MixPage(Page):
    """Opens from a step, filled in, and hands its result back; or alone."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.job_id: int | None = None
        self.plan: MixPlan | None = None
        box = QHBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP * 2)
        frame_left, left = card(margin=24)
        self.title = label("", "title")
        left.addWidget(self.title)
        self.bottle = label("", tone="muted")
        left.addWidget(self.bottle)
        self.target, self.make = QLineEdit(), QLineEdit()
        for field, name, key in ((self.target, "Target strength", "target"), (self.make, "Make up to", "make")):
            field.setObjectName(key)
            field.setAccessibleName(name)
            field.textChanged.connect(lambda text: self._compute())
            left.addWidget(label(name, "small"))
            left.addWidget(field)
        self.amounts = label("", "numeral")
        self.then = label("", "name")
        self.result = label("")
        left.addSpacing(8)
        self.label_words = label("", tone="deep")
        for words in (self.amounts, self.then, self.result, self.label_words):
            left.addWidget(words)
        self.caution = label("")
        left.addSpacing(8)
        left.addWidget(label("Mind", "small"))
        left.addWidget(self.caution)
        left.addStretch(1)
        self.made = button("Made: label it", self._made, "primary", "mix_made", "F2")
        left.addLayout(row(self.made, None))
        box.addWidget(scroll(frame_left), 55)
        frame_right, right = card(margin=16)
        self.jug = Jug()
        right.addWidget(self.jug, 1)
        box.addWidget(frame_right, 45)

    @property
    def recipe(self):  # type: ignore[no-untyped-def]
        return self.shop.catalogue.house.recipe[0]

    def start(self, job_id: int | None) -> None:
        """Begin for a step of a job, or alone."""
        self.job_id = job_id
        self.title.setText(self.recipe.name)
        self.target.setText(f"{self.recipe.target_pct:g} %")
        self.make.setText(f"{self.recipe.make_ml:g} ml")
        self.caution.setText(self.recipe.caution)
        self._compute()

    def refresh(self) -> None:
        if self.target.text():
            self._compute()

    def _compute(self) -> None:
        self.plan = None
        try:
            target = parse_quantity(self.target.text(), "percent", what="The target strength", minimum=0, maximum=100)
            make = parse_quantity(self.make.text(), "milliliter", what="The volume", minimum=0, maximum=20_000)
            self.plan = plan = plan_mix(self.shop, self.recipe, make, target)
        except CreekbedError as error:
            self.amounts.setText("Not like this")
            self.then.setText(error.happened)
            self.result.setText(error.todo)
            self.label_words.setText("")
            self.made.setEnabled(False)
            self.jug.set_plan(None)
            return
        mix, lot = plan.mix, plan.lot
        self.bottle.setText(
            f"Bottle {lot.lot or lot.id}: {lot.strength_pct:g} %, {lot.amount:g} ml left; "
            f"enough for {plan.most_ml:.0f} ml."
        )
        self.amounts.setText(f"{mix.stock_rounded_ml:g} ml from the bottle")
        self.then.setText(f"then cool water up to the {mix.make_ml:g} ml mark (about {mix.diluent_rounded_ml:g} ml)")
        exact = (
            ""
            if abs(mix.stock_ml - mix.stock_rounded_ml) < 0.05
            else f" Exact would be {mix.stock_ml:.1f} ml; the jug has marks every {self.recipe.graduation_ml:g} ml."
        )
        discard = self.shop.now + timedelta(hours=self.recipe.keeps_hours)
        self.result.setText(f"It comes out at {mix.strength_pct:.2f} %.{exact} Discard {clock_words(discard)}.")
        agent = self.shop.catalogue.agents[self.recipe.agent].name.split(",")[0]
        self.label_words.setText(
            f"Write on the label: {agent} {mix.strength_pct:.2f} %, made {clock_words(self.shop.now)} by "
            f"{self.shop.person}, discard {clock_words(discard)}"
        )
        self.made.setEnabled(True)
        self.jug.set_plan(plan)

    def _made(self) -> None:
        plan, job = self.plan, self.job_id
        if plan is None:
            return

        def act() -> None:
            if job is not None:
                doing.finish_step(self.shop, job, "mix", mix=plan)
                return
            with self.shop.act("mix") as done:
                made = make_mix(self.shop, done, plan, None)
                done.words = f"Made {plan.mix.make_ml:g} ml of {made.strength_pct:g} % peroxide"

        if self.do(act):
            self.job_id = None
            self.frame.go_home()
