"""Which piston sits wrong: blow, say where air comes out, read what fits."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QPushButton

from creekbed.core.errors import CreekbedError
from creekbed.core.inspection.valves import ASKED, OPEN, advice, fitting
from creekbed.window.looking.way import Way
from creekbed.window.widgets import button, label, restyle
from creekbed.workshop import lookover


class ValvesWay(Way):
    """Four questions, answered air or none."""

    title = "which valve"
    how = "With a bulb or your own mouthpiece. For a valve: press it, draw its slide, listen there."

    def fill(self) -> None:
        self.answers: dict[str, bool] = {}
        self.buttons: dict[tuple[str, bool], QPushButton] = {}
        for asked in ASKED:
            line = QHBoxLayout()
            words = "No valve down, at the bell" if asked == OPEN else f"Valve {asked} down, at its drawn slide"
            line.addWidget(label(words), 1)
            for air, name in ((True, "Air"), (False, "None")):
                key = f"valve_{asked}_{'air' if air else 'none'}"
                tick = button(name, lambda a=asked, v=air: self.answer(a, v), "", key)
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

    def answer(self, asked: str, air: bool) -> None:
        """Say where air came out; the same again takes it back."""
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
            fit = fitting(self.answers)
            self.said.setText(advice(self.answers))
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
        return "It is free" if all(self.answers.get(a) for a in ASKED) else "Blocked: note it"

    def can_finish(self) -> bool:
        if self.contradiction:
            return False
        return all(self.answers.get(a) for a in ASKED) or any(v is False for v in self.answers.values())

    def finish(self) -> None:
        answer = "free" if all(self.answers.get(a) for a in ASKED) else "blocked"
        shop, job, key = self.page.shop, self.view.job.id, self.check.key
        if self.page.do(lambda: lookover.record_choice(shop, job, key, answer)):
            self.left.emit()
