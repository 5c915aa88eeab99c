"""Looking over: every check with its scale, bands, uncertainty, verdict and reason."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from creekbed.core.catalogue.models import Check
from creekbed.core.inspection.verdicts import rule_words
from creekbed.core.measure import Reading
from creekbed.core.units import example
from creekbed.window import theme
from creekbed.window.band_scale import BandScale
from creekbed.window.widgets import Flow, button, card, clear, focus_name, label, refocus, row, scroll
from creekbed.workshop import lookover
from creekbed.workshop.gate import finding_open, test_name
from creekbed.workshop.views import JobView, measured

if TYPE_CHECKING:
    from creekbed.window.job_page import JobPage

VERDICT_WORDS = {
    "ready": "Good to go", "bench": "Mend at the bench", "specialist": "Specialist", "retire": "Replace or retire",
}  # fmt: skip


class CheckPanel(QWidget):
    """All checks of a job in a column."""

    def __init__(self, page: JobPage):
        super().__init__()
        self.page = page
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        inner = QWidget()
        self.column = QVBoxLayout(inner)
        self.column.setContentsMargins(0, 0, 8, 0)
        self.column.setSpacing(theme.STEP)
        self.job = 0
        self.drawn: dict[str, tuple[tuple[object, ...], QWidget]] = {}
        self.area = scroll(inner)
        box.addWidget(self.area, 1)
        self.actions = QHBoxLayout()
        box.addLayout(self.actions)

    def show_job(self, view: JobView) -> None:
        """Draw the checks of a job; a card is made anew only when its check says something else."""
        at, focused = self.area.verticalScrollBar().value(), focus_name(self)
        if view.job.id != self.job:
            clear(self.column)
            self.job, self.drawn = view.job.id, {}
            self.column.addStretch(1)
        rows: list[tuple[str, tuple[object, ...], Callable[[], QWidget]]] = [
            (c.key, state_of(view, c.key), lambda c=c: CheckCard(self.page, view, c)) for c in view.family.check
        ]
        tests = {s.key: s.what for s in view.family.step if s.kind == "test" and s.key in view.findings}
        for test in tests:
            rows.append((test, state_of(view, test), lambda key=test: self._tested(view, key)))
        for n, (key, state, make) in enumerate(rows):
            old = self.drawn.get(key)
            if old is not None and old[0] == state:
                continue
            if old is not None:
                old[1].hide()
                self.column.removeWidget(old[1])
                old[1].deleteLater()
            self.drawn[key] = (state, make())
            self.column.insertWidget(n, self.drawn[key][1])
        for key in set(self.drawn) - {key for key, _, _ in rows}:
            self.drawn.pop(key)[1].deleteLater()
        clear(self.actions)
        step = view.step("look")
        if step is not None and step.work is None:
            done = button("Looking over is done", self._done, "primary", "look_done", "F2")
            done.setEnabled(step.state == "ready")
            self.actions.addWidget(done)
            if step.state == "later":
                self.actions.addWidget(
                    label("First the steps before it; what you measure now is kept.", tone="muted", wrap=False)
                )
        self.actions.addStretch(1)
        self.area.verticalScrollBar().setValue(at)
        refocus(self, focused)

    def _tested(self, view: JobView, key: str) -> QWidget:
        frame, box = card()
        failed = view.findings[key]
        box.addWidget(label(test_name(key), "name"))
        box.addWidget(label(failed.reason, tone="" if failed.closed else "warn"))
        box.addLayout(self._close_row(view, key, failed.closed))
        return frame

    def _close_row(self, view: JobView, key: str, closed: str) -> QHBoxLayout:
        if closed:
            return row(label(f"Closed: {closed}", tone="muted"), None)
        return row(button("Close …", lambda: close(self.page, view, key), "", f"{key}_close"), None)

    def _done(self) -> None:
        if self.page.finish("look"):
            self.page.show_tab("steps")


def state_of(view: JobView, key: str) -> tuple[object, ...]:
    """Everything a card shows of a finding; two equal states look the same."""
    f = view.findings.get(key)
    if f is None:
        return ()
    return (
        f.readings, f.choice, f.places, f.band, f.verdict, f.reason, f.overruled, f.overrule_reason, f.closed,
        finding_open(view, f),
    )  # fmt: skip


def close(page: JobPage, view: JobView, key: str) -> None:
    """Ask how a finding was closed, and close it."""
    how = page.ask(
        "Close this finding",
        "What was done, or why is it accepted as it is?",
        ready=("part replaced", "accepted as it is"),
    )
    if how is not None:
        page.do(lambda: lookover.close_finding(page.shop, view.job.id, key, how))


class CheckCard(QWidget):
    """One check."""

    def __init__(self, page: JobPage, view: JobView, check: Check):
        super().__init__()
        self.page, self.view, self.check = page, view, check
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        frame, box = card()
        outer.addWidget(frame)
        self.finding = view.findings.get(check.key)
        head = QHBoxLayout()
        head.addWidget(label(check.name, "name", wrap=False))
        head.addStretch(1)
        head.addWidget(self._verdict())
        box.addLayout(head)
        box.addWidget(label(check.how, tone="muted"))
        columns = QHBoxLayout()
        columns.setSpacing(theme.STEP * 3)
        left = QVBoxLayout()
        left.setSpacing(theme.STEP)
        {"measure": self._measure, "choice": self._choice, "places": self._places}[check.kind](left)
        left.addStretch(1)
        columns.addLayout(left, 46)
        right = QVBoxLayout()
        right.setSpacing(4)
        if check.bands is not None:
            scale = BandScale(check.bands, check.unit, check.display)
            mean = measured(self.finding) if self.finding is not None else None
            scale.set_reading(None if mean is None else mean.value, 0.0 if mean is None else mean.expanded)
            right.addWidget(scale)
        if self.finding is not None:
            right.addWidget(label(self.finding.reason))
            if self.finding.overruled:
                decided = VERDICT_WORDS[self.finding.overruled].lower()
                words = f"Decided otherwise: {decided}. {self.finding.overrule_reason}"
                right.addWidget(label(words, tone="deep"))
            if self.finding.closed:
                right.addWidget(label(f"Closed: {self.finding.closed}", tone="deep"))
        right.addWidget(label(f"Rule: {rule_words(check)}", tone="muted"))
        if self.finding is not None:
            right.addLayout(self._after(view))
        right.addStretch(1)
        columns.addLayout(right, 54)
        box.addLayout(columns)

    def _verdict(self) -> QWidget:
        finding = self.finding
        if finding is None:
            return label("not done yet", tone="muted", wrap=False)
        if finding.band == "again" and not finding.overruled:
            return label("Measure again", "name", "warn", wrap=False)
        verdict = finding.overruled or finding.verdict
        words = VERDICT_WORDS[verdict]
        if verdict == "ready" and finding.band == "amber":
            words = "Good to go, watch it"
        tone = "warn" if finding_open(self.view, finding) and verdict in ("specialist", "retire") else "deep"
        return label(words, "name", tone, wrap=False)

    def _after(self, view: JobView) -> QHBoxLayout:
        assert self.finding is not None
        key = self.check.key
        buttons = [button("Decide otherwise …", self._overrule, "quiet", f"{key}_overrule")]
        if finding_open(view, self.finding) and self.finding.band != "again":
            buttons.append(button("Close …", lambda: close(self.page, view, key), "quiet", f"{key}_close"))
        return row(*buttons, None)

    def _overrule(self) -> None:
        now = (self.finding.overruled or self.finding.verdict) if self.finding is not None else ""
        answer = self.page.ask_choice(
            "Decide otherwise", "Choose the verdict, and say why. Both verdicts stay on record.",
            choices=tuple((key, name) for key, name in VERDICT_WORDS.items() if key != now), ok="Decide",
        )  # fmt: skip
        if answer is None:
            return
        verdict, reason = answer
        self.page.do(lambda: lookover.overrule(self.page.shop, self.view.job.id, self.check.key, verdict, reason))

    # --- ways of answering --------------------------------------------------------------------------------------

    def _measure(self, box: QVBoxLayout) -> None:
        check = self.check
        self.first = QLineEdit()
        self.first.setObjectName(f"{check.key}_value")
        self.first.setAccessibleName(f"{check.name}, value with unit")
        self.first.setPlaceholderText(example(check.unit))
        self.second = QLineEdit()
        self.second.setObjectName(f"{check.key}_second")
        self.second.setAccessibleName(f"{check.name}, gap at that height")
        self.second.setPlaceholderText("gap there, if lengths")
        self.first.returnPressed.connect(lambda: self._record(False))
        self.second.returnPressed.connect(lambda: self._record(False))
        fields = QHBoxLayout()
        fields.addWidget(self.first)
        if check.two_lengths:
            self.first.setPlaceholderText("2.5°, or height 30 mm")
            fields.addWidget(self.second)
        box.addLayout(fields)
        buttons = Flow()
        holder = QWidget()
        holder.setLayout(buttons)
        buttons.addWidget(button("Record", lambda: self._record(False), "", f"{check.key}_record"))
        if check.unit == "millimeter" and self.page.frame.caliper_port:
            buttons.addWidget(button("Take from caliper", self._caliper, "", f"{check.key}_caliper"))
        if self.finding is not None and self.finding.readings:
            count = len(self.finding.readings)
            buttons.addWidget(button("Add to the mean", lambda: self._record(True), "", f"{check.key}_again"))
            box.addWidget(holder)
            values = ", ".join(f"{r['value']:.2f}" for r in self.finding.readings)
            box.addWidget(label(f"{count} reading{'s' if count > 1 else ''}: {values}", tone="muted"))
        else:
            box.addWidget(holder)

    def _record(self, again: bool) -> None:
        def act() -> None:
            reading = lookover.typed_reading(self.check, self.first.text(), self.second.text())
            lookover.record_reading(self.page.shop, self.view.job.id, self.check.key, reading, again=again)

        self.page.do(act)

    def _caliper(self) -> None:
        again = self.finding is not None and self.finding.band == "again"
        shop, job, key = self.page.shop, self.view.job.id, self.check.key

        def record(reading: Reading) -> None:
            lookover.record_reading(shop, job, key, reading, again=again)

        self.page.frame.read_caliper(self.check.u, record)

    def _choice(self, box: QVBoxLayout) -> None:
        flow = Flow()
        holder = QWidget()
        holder.setLayout(flow)
        for option in self.check.options:
            tick = button(
                option.name.capitalize(), lambda k=option.key: self._choose(k), "", f"{self.check.key}_{option.key}"
            )
            tick.setCheckable(True)
            tick.setChecked(self.finding is not None and self.finding.choice == option.key)
            flow.addWidget(tick)
        box.addWidget(holder)

    def _choose(self, key: str) -> None:
        self.page.do(lambda: lookover.record_choice(self.page.shop, self.view.job.id, self.check.key, key))

    def _places(self, box: QVBoxLayout) -> None:
        flow = Flow(6)
        holder = QWidget()
        holder.setLayout(flow)
        found = dict(self.finding.places) if self.finding is not None else {}
        names = {o.key: o.name for o in self.check.options}
        none = button("None", lambda: self._record_places({}), "", f"{self.check.key}_none")
        none.setCheckable(True)
        none.setChecked(self.finding is not None and not found)
        flow.addWidget(none)
        for place in self.check.places:
            state = found.get(place)
            text = f"{place}: {names[state]}" if state else place
            tick = button(text, lambda p=place: self._cycle(found, p), "", f"{self.check.key}_{place}")
            tick.setCheckable(True)
            tick.setChecked(state is not None)
            flow.addWidget(tick)
        box.addWidget(holder)
        box.addWidget(label("Press again to change: " + ", then ".join([*names.values(), "good"]), tone="muted"))

    def _cycle(self, found: dict[str, str], place: str) -> None:
        order = [o.key for o in self.check.options]
        now = found.get(place)
        following = dict(found)
        if now is None:
            following[place] = order[0]
        elif order.index(now) + 1 < len(order):
            following[place] = order[order.index(now) + 1]
        else:
            del following[place]
        self._record_places(following)

    def _record_places(self, places: dict[str, str]) -> None:
        self.page.do(lambda: lookover.record_places(self.page.shop, self.view.job.id, self.check.key, places))
