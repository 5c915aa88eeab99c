"""Which piston sits wrong: blow, say where air comes out, read what fits."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton

from creekbed.core.errors import CreekbedError
from creekbed.core.inspection.valves import OPEN, advice, asked_of, fitting, way_words
from creekbed.window.measuring.method import Method
from creekbed.window.shared.widgets import button, label, restyle
from creekbed.workshop.inspection import air_way
from creekbed.workshop.inspection import findings as lookover

WAYS = ((3, 2, 1), (1, 2, 3), (1, 2, 3, 4))
"""Ways of the air that are offered: as a trumpet, as a euphonium, and with a fourth valve."""


class ValveCheck(Method):
    """A question for each valve and one for none, answered air or none."""

    title = "which valve"
    how = "With a bulb. For a valve: press it, draw its slide, listen there."

    def fill(self) -> None:
        self.way = air_way.air_way(self.view)
        self.asked = asked_of(self.way)
        self.ways = QComboBox()
        self.ways.setObjectName("air_way")
        self.ways.setAccessibleName("Way of the air")
        for way in WAYS:
            self.ways.addItem(way_words(way), way)
        if self.way not in WAYS:
            self.ways.addItem(way_words(self.way), self.way)
        self.ways.setCurrentIndex(self.ways.findData(self.way))
        self.ways.activated.connect(self.choose)
        self.box.addWidget(self.ways)
        self.answers: dict[str, bool] = {}
        self.buttons: dict[tuple[str, bool], QPushButton] = {}
        for asked in self.asked:
            line = QHBoxLayout()
            words = "No valve down, at the bell" if asked == OPEN else f"Valve {asked} down, at its drawn slide"
            line.addWidget(label(words), 1)
            for air, name in ((True, "Air"), (False, "None")):
                key = f"valve_{asked}_{'air' if air else 'none'}"
                tick = button(name, partial(self.answer, asked, air), "", key)
                tick.setCheckable(True)
                tick.setAccessibleName(f"{words}: {name.lower()}")
                self.buttons[asked, air] = tick
                line.addWidget(tick)
            self.box.addLayout(line)
        self.said = label("", "name")
        self.box.addWidget(self.said)
        self.left_over = label("", tone="muted")
        self.box.addWidget(self.left_over)
        self.work()

    def choose(self, row: int) -> None:
        """Note the way of the air through this instrument; it is kept, and asked in that order."""
        way = self.ways.itemData(row)
        if tuple(way) != self.way and self.page.do(lambda: air_way.set_air_way(self.page.shop, self.view, way)):
            self.left.emit()

    def answer(self, asked: str, air: bool) -> None:
        """Record where air came out; the same answer again removes it."""
        if self.answers.get(asked) is air:
            del self.answers[asked]
        else:
            self.answers[asked] = air
        self.work()

    def work(self) -> None:
        """What fits now."""
        for (asked, air), tick in self.buttons.items():
            tick.setChecked(self.answers.get(asked) is air)
        self.contradiction = ""
        try:
            fit = fitting(self.answers, self.way)
            self.said.setText(advice(self.answers, self.way))
            restyle(self.said, tone="")
            some = "; or ".join(s.words() for s in fit[:3])
            more = f"; or {len(fit) - 3} other ways" if len(fit) > 3 else ""
            self.left_over.setText(f"Fits: {some}{more}." if self.answers else "")
        except CreekbedError as error:
            self.contradiction = error.happened
            self.said.setText(f"{error.happened} {error.todo}".strip())
            restyle(self.said, tone="warn")
            self.left_over.setText("")
        self.changed.emit()

    def main_words(self) -> str:
        return "It is free" if all(self.answers.get(a) for a in self.asked) else "Blocked: note it"

    def can_finish(self) -> bool:
        if self.contradiction:
            return False
        return all(self.answers.get(a) for a in self.asked) or any(v is False for v in self.answers.values())

    def finish(self) -> None:
        answer = "free" if all(self.answers.get(a) for a in self.asked) else "blocked"
        shop, job, key = self.page.shop, self.view.job.id, self.check.key
        if self.page.do(lambda: lookover.record_choice(shop, job, key, answer)):
            self.left.emit()
