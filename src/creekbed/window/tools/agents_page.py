"""What may touch what: a part and all agents, and which agents must never meet."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from creekbed.core.catalogue.models.agents import Agent
from creekbed.core.catalogue.models.base import MARK_WORDS
from creekbed.core.catalogue.surfaces import surfaces
from creekbed.core.errors import CreekbedError
from creekbed.core.hygiene.products import Named, understand
from creekbed.core.hygiene.together import never_together
from creekbed.core.hygiene.touch import Answer, carried, may_touch_part
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button, clear, entry, label, restyle, row, scroll
from creekbed.window.tools.base import Fields, ToolPage, refill
from creekbed.workshop.cleaning import products

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

BEARS = {
    "yes": "may", "cool": "may, cool only", "short": "a few minutes, then rinse", "brief": "a damp wipe",
    "label": "only as its label says", "no": "must not",
}  # fmt: skip
ORDER = ("yes", "cool", "short", "brief", "label", "no")


class ContactSign(QWidget):
    """A shape for how far a part bears something: full disc, half disc, dot, crossed ring."""

    def __init__(self, bears: str):
        super().__init__()
        self.bears = bears
        self.setFixedSize(QSize(22, 22))

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(3, 3, 16, 16)
        bad = self.bears in ("no", "label")
        painter.setPen(QPen(c.q("warn" if bad else "deep"), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(box)
        if bad:
            painter.drawLine(QPointF(6, 16), QPointF(16, 6))
            return
        painter.setBrush(c.q("deep"))
        if self.bears in ("yes", "cool"):
            painter.drawEllipse(box)
        elif self.bears == "short":
            painter.drawPie(box, 90 * 16, 180 * 16)
        else:
            painter.drawEllipse(QPointF(11, 11), 3, 3)


class AgentsPage(ToolPage):
    """Left: a part and what it bears. Right: agents to be ticked, and what would form."""

    key = "agents"

    def __init__(self, frame: Frame):
        super().__init__(frame)
        left, right = self.two(54, 46, fixed=("left", "right"))
        left.addWidget(label("What may touch it", "title"))
        self.fields = Fields(left, self.refresh)
        families = [(f.name, f.key) for f in self.shop.catalogue.families.values()]
        self.family = self.fields.choice("touch_family", "Instrument", families)
        self.part = self.fields.choice("touch_part", "Part", [])
        self.made = label("", tone="muted")
        left.addWidget(self.made)
        inner = QWidget()
        self.rows = QVBoxLayout(inner)
        self.rows.setContentsMargins(0, 0, 8, 0)
        self.rows.setSpacing(4)
        left.addWidget(scroll(inner), 1)
        left.addWidget(label("The product's own label and local rules come first.", tone="muted"))
        right.addWidget(label("Would they meet?", "title"))
        right.addWidget(label("Tick what is in one vessel, or was on one part without a rinse between.", tone="muted"))
        ticks = QWidget()
        self.column = QVBoxLayout(ticks)
        self.column.setContentsMargins(0, 0, 8, 0)
        self.column.setSpacing(0)
        self.ticks: dict[str, QCheckBox] = {}
        self.own: dict[str, Agent] = {}
        self._own_shown: dict[str, Agent] | None = None
        right.addWidget(scroll(ticks), 1)
        self.product = entry("product_name", "What it is called", "its name: bleach, lime gone", self._add)
        self.label_of = entry(
            "product_label", "Ingredients on its label", "label: water, citric acid, perfume", self._add
        )
        right.addLayout(row(self.product, self.label_of, button("Add it", self._add, "", "product_add")))
        self.verdict = label("", "name")
        right.addWidget(self.verdict)
        said = QWidget()
        self.clashes = QVBoxLayout(said)
        self.clashes.setContentsMargins(0, 0, 8, 0)
        self.clashes.setSpacing(4)
        right.addWidget(scroll(said), 1)
        self._shown: tuple[str, ...] = ()
        self.named: dict[str, Named] = {}
        """Products that were typed by name and are none of the ticks."""
        self.refresh()
        self._meet()

    def _fill_ticks(self) -> None:
        """Ticks of the bench's agents, of the shop's own products, and of what has no label."""
        self.own = products.own_products(self.shop)
        if self.own == self._own_shown:
            return
        self._own_shown = self.own
        ticked = {key for key, tick in self.ticks.items() if tick.isChecked()}
        clear(self.column)
        self.ticks = {}
        for agent in self.own.values():
            self._tick(agent.key, f"{agent.name} (yours)", own=True)
        for agent in self.shop.catalogue.agents.values():
            if agent.holds:
                self._tick(agent.key, agent.name)
        self._tick("unknown", "something without a label")
        self.column.addStretch(1)
        for key in ticked & set(self.ticks):
            self.ticks[key].setChecked(True)

    def _tick(self, key: str, name: str, own: bool = False) -> None:
        tick = QCheckBox(name.replace("&", "&&"))
        tick.setObjectName(f"meets_{key}")
        tick.setFont(theme.current.font(theme.TEXT_SIZE))
        tick.setMinimumHeight(theme.current.target - 8)
        tick.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        tick.toggled.connect(lambda on: self._meet())
        if own:
            gone = button("Forget it", lambda: self._forget(key), "quiet", f"forget_{key}")
            line = row(tick, gone)
            line.setStretch(0, 1)
            holder = QWidget()
            holder.setLayout(line)
            self.column.addWidget(holder)
        else:
            self.column.addWidget(tick)
        self.ticks[key] = tick

    def _add(self) -> None:
        """What is typed: a name alone is looked up and ticked; with its label it is entered."""
        name, label_of = self.product.text(), self.label_of.text()
        if not label_of.strip():
            try:
                named = understand(self.shop.catalogue, name, self.own)
            except CreekbedError as error:
                self.frame.could_not(error)
                return
            if named.agent.key in self.ticks:
                self.ticks[named.agent.key].setChecked(True)
                self.product.clear()
            else:
                self.named[named.agent.key] = named
                self._meet()
            return
        unknown: list[str] = []
        if self.do(lambda: unknown.extend(products.add_product(self.shop, name, label_of))):
            self.product.clear()
            self.label_of.clear()
            self.refresh()
            if unknown:
                self.frame.say(f"Not known here, so it counts as unknown too: {', '.join(unknown)}.")

    def _forget(self, key: str) -> None:
        if self.do(lambda: products.forget_product(self.shop, key)):
            self.refresh()

    def start_at(self, family: str, part: str) -> None:
        """Open with a part of an instrument chosen."""
        self.family.setCurrentIndex(max(0, self.family.findData(family)))
        self.part.setCurrentIndex(max(0, self.part.findData(part)))

    def refresh(self) -> None:
        self._fill_ticks()
        family = self.shop.catalogue.families[self.family.currentData()]
        refill(self.part, [(p.name, p.key) for p in family.part if p.materials])
        part = family.find_part(self.part.currentData() or "")
        shown = (family.key, part.key if part is not None else "")
        if shown == self._shown or part is None:
            return
        self._shown = shown
        materials = self.shop.catalogue.materials
        made = " or ".join(materials[m].name for m in part.materials)
        finish = " or ".join(materials[f].name for f in part.finishes)
        self.made.setText(f"Of {made}{', finish ' + finish if finish else ''}. Shown is what all of them bear.")
        clear(self.rows)
        found = []
        for agent in self.shop.catalogue.agents.values():
            answers = [
                may_touch_part(materials[m], materials[f] if f else None, agent.key, bears_not=part.bears_not)
                for m, f in surfaces(part)
            ]
            worst = max(answers, key=lambda a: ORDER.index(a.bears))
            wet = agent.key not in ("dry_cloth", "vacuum")
            on_it = carried(family, part, materials, agent.key, "short") if worst.allowed and wet else []
            found.append((agent.name, worst, ", ".join(c.part.name for c in on_it)))
        for name, answer, parts in sorted(found, key=lambda row: ORDER.index(row[1].bears)):
            self.rows.addWidget(self._row(name, answer, parts))
        self.rows.addStretch(1)

    def _row(self, name: str, answer: Answer, on_it: str) -> QWidget:
        line = QWidget()
        line.setAccessibleName(f"{name}: {BEARS[answer.bears]}" + (f", not its {on_it}" if on_it else ""))
        inner = QHBoxLayout(line)
        inner.setContentsMargins(0, 2, 0, 2)
        inner.addWidget(ContactSign(answer.bears), 0, Qt.AlignmentFlag.AlignTop)
        words = f"{name}: {BEARS[answer.bears]}." + (f" Not its {on_it}." if on_it else "")
        inner.addWidget(label(words, tone="" if answer.allowed else "muted"), 48)
        why = answer.why if answer.bears in ("no", "label") else ""
        said = f"{why} ({MARK_WORDS[answer.mark]})" if why else MARK_WORDS[answer.mark]
        inner.addWidget(label(said.strip(), tone="muted"), 52)
        return line

    def _meet(self) -> None:
        """What the ticked agents would do to one another."""
        named = [key for key, tick in self.ticks.items() if tick.isChecked()]
        catalogue = self.shop.catalogue
        agents = catalogue.agents | self.own | {key: n.agent for key, n in self.named.items()}
        named += list(self.named)
        found = never_together(agents, catalogue.never.values(), named)
        clear(self.clashes)
        for one in self.named.values():
            self.clashes.addWidget(label(one.words or f"{one.agent.name}: {', '.join(one.agent.holds)}.", tone="muted"))
        if len(named) < 2 and not found:
            self.verdict.setText("Tick two or more.")
            restyle(self.verdict, tone="")
            return
        bad = [c for c in found if c.kind != "useless" and c.second]
        alone = "Not known: read its label" if found and not bad and found[0].kind == "unknown" else "Useless together"
        self.verdict.setText("Never together" if bad else alone if found else "Nothing we know speaks against it")
        restyle(self.verdict, tone="warn" if found else "")
        names = {k: a.name.partition(",")[0] for k, a in agents.items()} | {"unknown": "Something without a label"}
        for clash in found:
            pair = f"{names[clash.first]} and {names[clash.second]}" if clash.second else names[clash.first]
            words = f"{pair}: {clash.forms.rstrip('.')}. {clash.do}"
            self.clashes.addWidget(label(words[0].upper() + words[1:]))
        self.clashes.addStretch(1)
