"""The mix bench: what is in the bottle, what it makes, in the measure the jug has, drawn as it will stand."""

from __future__ import annotations

from datetime import timedelta
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from creekbed.core.catalogue.models.house import Recipe
from creekbed.core.conventions import number
from creekbed.core.errors import CreekbedError
from creekbed.core.hygiene.mixes import most_from
from creekbed.core.hygiene.strengths import (
    METRIC,
    SPOONS,
    Measure,
    Strength,
    available_chlorine_ppm,
    in_measures,
    one_basis,
    parse_strength,
)
from creekbed.store.records import Lot
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button, how_sure, label, row
from creekbed.window.tools.base import Fields, ToolPage, refill
from creekbed.words.times import clock_words
from creekbed.workshop.bench import job_steps
from creekbed.workshop.supplies import stock
from creekbed.workshop.supplies.stock import MixPlan

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


MEASURES: dict[str, tuple[str, float, tuple[Measure, ...]]] = {
    "jug": ("The jug's marks", 0.0, ()),
    "cylinder": ("Cylinder, 5 ml marks", 5.0, METRIC[:3]),
    "syringe": ("Syringe, 1 ml marks", 1.0, METRIC[:3]),
    "dropper": ("Syringe and drops", 0.05, METRIC),
    "spoons": ("US cups and spoons", SPOONS[-1].ml, SPOONS),
}
"""Measures at hand: words, distance of marks in ml (0: the recipe's jug), what an amount is told in."""


def _filler(plan: MixPlan) -> str:
    return "water" if plan.second is None else f"{number(plan.second.strength_pct or 0.0)} %"


class Jug(QWidget):
    """A jug with its marks: stock below, water above, up to the mark."""

    def __init__(self) -> None:
        super().__init__()
        self.plan: MixPlan | None = None
        self.graduation_ml = 25.0
        self.setMinimumSize(theme.current.px(300), theme.current.px(320))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def set_plan(self, plan: MixPlan | None, graduation_ml: float = 25.0) -> None:
        """Draw a mix with the marks of its measure, or an empty jug."""
        self.plan, self.graduation_ml = plan, graduation_ml
        if plan is not None:
            mix = plan.mix
            self.setAccessibleName(
                f"Jug: {number(mix.stock_rounded_ml)} ml stock, {_filler(plan)} up to {number(mix.make_ml)} ml"
            )
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
            QRectF(left, y(mix.make_ml), right - left, y(mix.stock_rounded_ml) - y(mix.make_ml)),
            c.q("line" if self.plan.second is not None else "silt"),
        )
        painter.fillRect(
            QRectF(left, y(mix.stock_rounded_ml), right - left, bottom - y(mix.stock_rounded_ml)), c.q("water")
        )
        painter.restore()
        painter.setFont(theme.current.font(13))
        step = self.graduation_ml
        while mix.make_ml / step > 10:
            step *= 2
        mark = step
        while mark <= mix.make_ml + 1e-6:
            painter.setPen(QPen(c.q("muted"), 1))
            painter.drawLine(QPointF(right - 34, y(mark)), QPointF(right - 14, y(mark)))
            mark += step
        for ml, words in (
            (
                mix.stock_rounded_ml,
                f"{number(mix.stock_rounded_ml)} ml "
                f"{'of the first mix' if self.plan.only_in_steps else 'from the bottle'}",
            ),
            (mix.make_ml, f"{_filler(self.plan)} up to {number(mix.make_ml)} ml"),
        ):
            painter.setPen(QPen(c.q("ink"), 2))
            painter.drawLine(QPointF(left - 6, y(ml)), QPointF(left + 26, y(ml)))
            painter.setFont(theme.current.font(theme.TEXT_SIZE, True))
            box = QRectF(0, y(ml) - 30, left - 14, 60)
            painter.drawText(
                box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap, words
            )


class MixPage(ToolPage):
    """Opens from a step, filled in, and hands its result back; or alone."""

    key = "mix"

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.job_id: int | None = None
        self.plan: MixPlan | None = None
        self._recipe = ""
        left, right = self.two(58, 42, fixed=("right",))
        self.title = label("", "title")
        left.addWidget(self.title)
        self.bottle = label("", tone="muted")
        left.addWidget(self.bottle)
        self.fields = Fields(left, self._changed)
        recipes = [(r.name, r.key) for r in self.shop.catalogue.house.every_recipe]
        self.what = self.fields.choice("mix_what", "What", recipes)
        self.measure = self.fields.choice("mix_measure", "Measured with", [(m[0], k) for k, m in MEASURES.items()])
        self.target = self.fields.line("target", "Target strength", "", "3 %, 1000 ppm, 1 + 9")
        self.make = self.fields.line("make", "Make up to")
        self.from_bottle = self.fields.choice("mix_bottle", "From", [])
        self.with_bottle = self.fields.choice("mix_second", "Filled up with", [])
        left.addLayout(row(button("All that is left in the bottle", self._all, "quiet", "mix_all"), None))
        self.amounts = label("", "numeral")
        self.then = label("", "name")
        self.result = label("")
        self.label_words = label("", tone="deep")
        for words in (self.amounts, self.then, self.result, self.label_words):
            left.addWidget(words)
        left.addWidget(how_sure("mix"))
        self.caution = label("")
        left.addWidget(label("Caution", "small"))
        left.addWidget(self.caution)
        left.addStretch(1)
        self.jug = Jug()
        right.addWidget(self.jug, 1)
        self.made = button("Made: print its label", self._made, "primary", "mix_made", "F2")
        right.addLayout(row(None, self.made, None))

    @property
    def recipe(self) -> Recipe:
        """What is mixed."""
        key = self.what.currentData()
        return next(r for r in self.shop.catalogue.house.every_recipe if r.key == key)

    def start(self, job_id: int | None = None) -> None:
        """Begin for a step of a job, or alone."""
        self.job_id = job_id
        self.what.setEnabled(job_id is None)
        self._recipe = ""
        self.what.setCurrentIndex(0)
        self._changed()

    def refresh(self) -> None:
        if self._recipe:
            self._changed()

    def _changed(self) -> None:
        recipe = self.recipe
        every = stock.bottles(self.shop, recipe)
        mine = [(_lot_words(x), x.id) for x in every if x.item == recipe.stock]
        refill(self.from_bottle, [("the bottle in use", None), *mine])
        refill(self.with_bottle, [("water", None), *((_lot_words(x), x.id) for x in every)])
        if self._recipe != recipe.key:
            self._recipe = recipe.key
            self.title.setText(recipe.name)
            self.caution.setText(recipe.caution)
            self.from_bottle.setCurrentIndex(0)
            self.with_bottle.setCurrentIndex(0)
            self.target.setText(f"{number(recipe.target_pct)} %")
            self.make.setText(f"{number(recipe.make_ml)} ml")
        self._compute()

    def _target(self) -> float:
        """The strength wanted, % on the recipe's basis: a percentage, ppm, mg/l, or parts of the bottle as "1 + 9"."""
        recipe = self.recipe
        every = stock.bottles(self.shop, recipe)
        chosen = self.from_bottle.currentData()
        bottle = next((x for x in every if chosen in (None, x.id)), None)
        known = None if bottle is None else Strength(bottle.strength_pct or 0.0, recipe.basis)
        wanted = parse_strength(self.target.text(), what="The target strength", stock=known)
        one_basis(wanted, basis=recipe.basis)
        return wanted.percent

    @property
    def graduation_ml(self) -> float:
        """Distance of the marks of the measure that is used, ml."""
        return MEASURES[self.measure.currentData()][1] or self.recipe.graduation_ml

    def _compute(self) -> None:
        self.plan = None
        recipe = self.recipe
        try:
            target = self._target()
            make = self.fields.read("make", "milliliter", 0, 20_000)
            self.plan = plan = stock.plan_mix(
                self.shop, recipe, make, target, lot_id=self.from_bottle.currentData(),
                second_id=self.with_bottle.currentData(), graduation_ml=self.graduation_ml,
            )  # fmt: skip
        except CreekbedError as error:
            self.amounts.setText("Not like this")
            self.then.setText(error.happened)
            self.result.setText(error.todo)
            self.label_words.setText("")
            self.made.setEnabled(False)
            self.jug.set_plan(None)
            return
        mix, lot = plan.mix, plan.lot
        most = f"; enough for {_amount(plan.most_ml)}" if plan.second is None else ""
        opened = stock.opened_at(self.shop, lot.id)
        since = f", opened {opened.astimezone():%d %b}" if opened is not None else ", not opened yet"
        until = f", good until {lot.discard_at.astimezone():%d %b %Y}" if lot.discard_at is not None else ""
        self.bottle.setText(
            f"Bottle {lot.lot or lot.id}: {number(lot.strength_pct or 0.0)} %, {number(lot.amount)} ml "
            f"left{most}{since}{until}."
        )
        self.amounts.setText(f"{_amount(plan.bottle_ml)} from the bottle{self._in_measures(plan.bottle_ml)}")
        if plan.only_in_steps and plan.steps is not None:
            first, second = plan.steps.first, plan.steps.second
            filler = (
                f"with water up to {_amount(first.make_ml)}; of that {_amount(second.stock_rounded_ml)}, then cool "
                f"water up to the {_amount(mix.make_ml)} mark"
            )
        elif plan.second is not None:
            filler = f"then {_amount(mix.diluent_rounded_ml)} of the {number(plan.second.strength_pct or 0.0)} %"
        else:
            filler = f"then cool water up to the {_amount(mix.make_ml)} mark (about {_amount(plan.water_ml)})"
        self.then.setText(filler)
        self.result.setText(" ".join(self._result(plan)))
        discard = self.shop.now + timedelta(hours=recipe.keeps_hours)
        agent = self.shop.catalogue.agents[recipe.agent].name.split(",")[0]
        self.label_words.setText(
            f"Write on the label: {agent} {number(mix.strength_pct, 2)} %, made {clock_words(self.shop.now)} by "
            f"{self.shop.person}, discard {clock_words(discard)}"
        )
        self.made.setEnabled(True)
        self.jug.set_plan(plan, self.graduation_ml)

    def _in_measures(self, ml: float) -> str:
        measures = MEASURES[self.measure.currentData()][2]
        return f": {in_measures(ml, measures).words()}" if measures else ""

    def _result(self, plan: MixPlan) -> list[str]:
        mix, recipe = plan.mix, plan.recipe
        said = [f"It comes out at {mix.strength_pct:.3g} % {recipe.basis}."]
        if plan.only_in_steps:
            said.append(
                f"In one step the marks, {number(self.graduation_ml)} ml apart, would miss "
                f"{number(mix.target_pct)} % by more than "
                "a tenth of it."
            )
        elif abs(mix.stock_ml - mix.stock_rounded_ml) >= 0.05:
            said.append(
                f"Exact would be {number(mix.stock_ml, 1)} ml; the marks are {number(self.graduation_ml)} ml apart."
            )
        if plan.steps is not None and not plan.only_in_steps:
            first, second = plan.steps.first, plan.steps.second
            said.append(
                f"Nearer in two steps: {_amount(first.stock_rounded_ml)} up to {_amount(first.make_ml)}, and of that "
                f"{_amount(second.stock_rounded_ml)} up to {_amount(second.make_ml)}: {second.strength_pct:.3g} %."
            )
        if recipe.basis == "v/v":
            said.append("Alcohol and water shrink when mixed: fill up to the mark, do not add by volume.")
        if recipe.basis == "w/v" and recipe.agent == "hypochlorite":
            said.append(f"That is {number(available_chlorine_ppm(mix.strength_pct), 0)} ppm of available chlorine.")
        said.append(f"Discard {clock_words(self.shop.now + timedelta(hours=recipe.keeps_hours))}.")
        return said

    def _all(self) -> None:
        """Make what the bottle still gives."""
        try:
            target = self._target()
            plan = stock.plan_mix(self.shop, self.recipe, 1.0, target, lot_id=self.from_bottle.currentData(),
                                  graduation_ml=0.01)  # fmt: skip
        except CreekbedError as error:
            self.frame.could_not(error)
            return
        marks = self.graduation_ml
        whole = int(plan.lot.amount / marks + 1e-9) * marks
        self.with_bottle.setCurrentIndex(0)
        self.make.setText(f"{number(min(most_from(whole, plan.lot.strength_pct or target, target), 20_000), 1)} ml")

    def _made(self) -> None:
        plan, job = self.plan, self.job_id
        if plan is None:
            return
        made: list[int] = []

        def act() -> None:
            if job is not None:
                made.append(job_steps.finish_step(self.shop, job, "mix", mix=plan) or 0)
            else:
                made.append(stock.mix_alone(self.shop, plan))

        if self.do(act):
            self.job_id = None
            if made[0]:
                self.frame.papers.save_label(made[0])
            self.frame.nav.go_home()


def _amount(ml: float) -> str:
    if ml >= 10_000:
        return f"{ml / 1000:.4g} l"
    return f"{ml:.4g} ml" if ml >= 1 else f"{ml:.2g} ml"


def _lot_words(lot: Lot) -> str:
    return f"{lot.lot or lot.id}: {number(lot.strength_pct or 0.0)} %, {number(lot.amount)} ml"
