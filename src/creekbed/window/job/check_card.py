"""One check: its scale, its answer, its verdict, and the override."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from creekbed.core.catalogue.models.parts import Check
from creekbed.core.conventions import number
from creekbed.core.inspection.verdicts import rule_words
from creekbed.core.measure import Reading
from creekbed.core.units import example
from creekbed.window.job.band_scale import BandScale
from creekbed.window.job.check_state import VERDICT_WORDS, close
from creekbed.window.job.trend_plot import TrendPlot
from creekbed.window.measuring.method import METHODS
from creekbed.window.shared import theme
from creekbed.window.shared.plots import save_button
from creekbed.window.shared.widgets import (
    Flow,
    button,
    card,
    how_sure,
    label,
    row,
)
from creekbed.words.findings import answers_words
from creekbed.workshop.bench.job_situation import measured
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.inspection import findings as lookover
from creekbed.workshop.inspection.answers import answers, worked_since
from creekbed.workshop.inspection.trends import check_history
from creekbed.workshop.release.release_check import finding_open

if TYPE_CHECKING:
    from creekbed.window.job.check_panel import CheckPanel


class CheckCard(QWidget):
    """One check."""

    def __init__(self, panel: CheckPanel, view: JobView, check: Check):
        super().__init__()
        self.panel, self.page, self.view, self.check = panel, panel.page, view, check
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
        size = view.instrument.size
        bands = check.bands_for(size)
        if bands is not None:
            scale = BandScale(bands, check.unit, check.display)
            mean = measured(self.finding) if self.finding is not None else None
            scale.set_reading(None if mean is None else mean.value, 0.0 if mean is None else mean.expanded)
            right.addWidget(scale)
        if self.finding is not None:
            right.addWidget(label(self.finding.reason))
            if check.kind != "measure" and self.finding.earlier:
                right.addWidget(
                    label(answers_words([(a.at, a.reason) for a in answers(self.finding)[:-1]]), tone="deep")
                )
        before = check_history(self.page.shop, view, check)
        if before is not None:
            words = before.words()
            if words:
                right.addWidget(label(words, tone="deep"))
            if before.trend.line is not None:
                plot = TrendPlot(before)
                right.addWidget(plot)
                right.addLayout(row(None, save_button(plot, f"trend-{check.key}")))
        if self.finding is not None:
            if self.finding.overruled:
                decided = VERDICT_WORDS[self.finding.overruled].lower()
                words = f"Decided otherwise: {decided}. {self.finding.overrule_reason}"
                right.addWidget(label(words, tone="deep"))
            if self.finding.closed:
                right.addWidget(label(f"Closed: {self.finding.closed}", tone="deep"))
        right.addWidget(label(f"Rule: {rule_words(check, size)}", tone="muted"))
        if check.kind == "measure":
            right.addWidget(how_sure("typed"))
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
        buttons = [button("Override …", self._overrule, "quiet", f"{key}_overrule")]
        if finding_open(view, self.finding) and self.finding.band != "again":
            buttons.append(button("Close …", lambda: close(self.page, view, key), "quiet", f"{key}_close"))
        return row(*buttons, None)

    def _overrule(self) -> None:
        now = (self.finding.overruled or self.finding.verdict) if self.finding is not None else ""
        answer = self.page.ask_choice(
            "Override", "Choose the verdict, and say why. Both verdicts stay on record.",
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
        self.first.returnPressed.connect(lambda: self.record(False))
        self.second.returnPressed.connect(lambda: self.record(False))
        fields = QHBoxLayout()
        fields.addWidget(self.first)
        if check.two_lengths:
            self.first.setPlaceholderText("2.5°, or height 30 mm")
            fields.addWidget(self.second)
        box.addLayout(fields)
        buttons = Flow()
        holder = QWidget()
        holder.setLayout(buttons)
        buttons.addWidget(button("Record", lambda: self.record(False), "", f"{check.key}_record"))
        if check.by_eye and self.finding is None:
            buttons.addWidget(button("Sound, by eye", self._by_eye, "", f"{check.key}_by_eye"))
        if check.unit == "millimeter" and self.page.frame.devices.ports.get("caliper"):
            buttons.addWidget(button("Take from caliper", self._caliper, "", f"{check.key}_caliper"))
        self._ways(buttons)
        if self.finding is not None and self.finding.readings and worked_since(self.finding, self.view.all_work):
            box.addWidget(holder)
            box.addWidget(label("Work was done since: read it again, the last reading is kept.", tone="muted"))
        elif self.finding is not None and self.finding.readings:
            count = len(self.finding.readings)
            buttons.addWidget(
                button("Average with the last reading", lambda: self.record(True), "", f"{check.key}_again")
            )
            box.addWidget(holder)
            values = ", ".join(number(r["value"], 2) for r in self.finding.readings)
            box.addWidget(label(f"{count} reading{'s' if count > 1 else ''}: {values}", tone="muted"))
        else:
            box.addWidget(holder)

    def _ways(self, buttons: Flow) -> None:
        """Buttons of the other ways of answering."""
        for way in self.check.ways:
            if way in METHODS:
                words = METHODS[way][0]
                buttons.addWidget(button(words, partial(self.panel.start_way, way), "", f"{self.check.key}_{way}"))

    def record(self, again: bool) -> None:
        """Record what is typed; with ``again`` it is averaged with the readings before it."""

        def act() -> None:
            reading = lookover.typed_reading(self.check, self.first.text(), self.second.text())
            lookover.record_reading(self.page.shop, self.view.job.id, self.check.key, reading, again=again)

        self.page.do(act)

    def _by_eye(self) -> None:
        self.page.do(lambda: lookover.record_by_eye(self.page.shop, self.view.job.id, self.check.key))

    def _caliper(self) -> None:
        again = self.finding is not None and self.finding.band == "again"
        shop, job, key = self.page.shop, self.view.job.id, self.check.key

        def record(reading: Reading) -> None:
            lookover.record_reading(shop, job, key, reading, again=again)

        self.page.frame.devices.read_meter("caliper", self.check.u, record)

    def _choice(self, box: QVBoxLayout) -> None:
        flow = Flow()
        holder = QWidget()
        holder.setLayout(flow)
        for option in self.check.options:
            tick = button(
                option.name.capitalize(), partial(self._choose, option.key), "", f"{self.check.key}_{option.key}"
            )
            tick.setCheckable(True)
            tick.setChecked(self.finding is not None and self.finding.choice == option.key)
            flow.addWidget(tick)
        self._ways(flow)
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
        for place in dict.fromkeys((*self.check.places, *found)):
            state = found.get(place)
            text = f"{place}: {names[state]}" if state else place
            tick = button(text, partial(self._cycle, found, place), "", f"{self.check.key}_{place}")
            tick.setCheckable(True)
            tick.setChecked(state is not None)
            flow.addWidget(tick)
        if self.check.key == "pads" and self.page.shop.catalogue.leak_table(self.view.family) is not None:
            flow.addWidget(button(METHODS["notes"][0], lambda: self.panel.start_way("notes"), "", "pads_notes"))
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
