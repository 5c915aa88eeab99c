"""Looking over: the checks beside the drawing, each with its scale, bands, uncertainty, verdict and reason."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from creekbed.core.catalogue.models import Check
from creekbed.core.inspection.verdicts import rule_words
from creekbed.core.measure import Reading
from creekbed.core.units import example, show
from creekbed.window.job.band_scale import BandScale
from creekbed.window.job.step_card import found_on
from creekbed.window.job.trend_plot import TrendPlot
from creekbed.window.measuring.method import METHODS, Method, make_way
from creekbed.window.shared import theme
from creekbed.window.shared.instrument_picture import Picture
from creekbed.window.shared.widgets import (
    Flow,
    button,
    card,
    clear,
    focus_name,
    how_sure,
    label,
    listing,
    refocus,
    row,
    scroll,
)
from creekbed.workshop.bench.job_view import JobView, measured
from creekbed.workshop.inspection import findings as lookover
from creekbed.workshop.inspection.trends import check_history
from creekbed.workshop.release.release_check import finding_open, open_findings, test_name

if TYPE_CHECKING:
    from creekbed.window.job.job_page import JobPage

VERDICT_WORDS = {
    "ready": "Good to go", "bench": "Mend at the bench", "specialist": "Specialist", "retire": "Replace or retire",
}  # fmt: skip


class CheckPanel(QWidget):
    """The checks of a job beside the drawing, one of them open; F2 always does the likeliest next thing."""

    def __init__(self, page: JobPage):
        super().__init__()
        self.page = page
        self.job = 0
        self.view: JobView | None = None
        self.chosen = ""
        self.way: Method | None = None
        self._drawn: tuple[object, ...] = ()
        self._open_before: set[str] = set()
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(theme.STEP * 2)
        left = QVBoxLayout()
        left.setSpacing(theme.STEP)
        self.list = listing("Checks")
        self.list.setObjectName("checks")
        self.list.currentRowChanged.connect(self._row_chosen)
        left.addWidget(self.list, 1)
        self.rest = button("The rest is sound", self._rest, "", "rest_sound", "F3")
        left.addWidget(self.rest)
        box.addLayout(left, 34)
        right = QVBoxLayout()
        right.setSpacing(theme.STEP)
        self.picture = Picture(150)
        self.picture.pointed.connect(self._pointed)
        right.addWidget(self.picture)
        inner = QWidget()
        self.column = QVBoxLayout(inner)
        self.column.setContentsMargins(0, 0, 8, 0)
        self.column.setSpacing(theme.STEP)
        self.area = scroll(inner)
        right.addWidget(self.area, 1)
        self.main = button("Record", self._main, "primary", "check_main", "F2")
        self.hint = label("", tone="muted")
        actions = row(self.main, self.hint)
        actions.setStretch(1, 1)
        right.addLayout(actions)
        box.addLayout(right, 66)
        self.keys: list[str] = []
        self.card: CheckCard | None = None

    # --- what is shown ----------------------------------------------------------------------------------------------

    def show_job(self, view: JobView) -> None:
        """Draw the checks of a job. A check that turned out good makes way for the next one."""
        focused = focus_name(self)
        if view.job.id != self.job:
            self.job, self.chosen, self._open_before = view.job.id, "", set()
            self._end_way()
        self.view = view
        tests = [s.key for s in view.family.step if s.kind == "test" and s.key in view.findings]
        self.keys = [c.key for c in view.checks] + tests
        now_open = set(open_checks(view))
        settled = self.chosen in self._open_before - now_open and self.chosen in view.findings
        if self.chosen not in self.keys or (settled and view.findings[self.chosen].band == "green"):
            self._end_way()
            wanting = [f.check for f in open_findings(view) if f.check in self.keys]
            here = self.chosen if self.chosen in self.keys else (wanting or self.keys)[0]
            self.chosen = self._following() or here
        self._open_before = now_open
        self._fill_list()
        self._show_chosen()
        inside = focused and focused not in ("checks", "rest_sound") and not focused.startswith(f"{self.chosen}_")
        refocus(self, self.main.objectName() if inside else focused)

    def choose(self, key: str) -> None:
        """Open one check."""
        if self.view is None or key not in self.keys:
            return
        if key != self.chosen:
            self._end_way()
        self.chosen = key
        self._fill_list()
        self._show_chosen()

    def _following(self) -> str:
        """The next needed check that is not done, after the one that is open."""
        assert self.view is not None
        left = open_checks(self.view)
        if not left:
            return ""
        at = self.keys.index(self.chosen) if self.chosen in self.keys else -1
        return next((k for k in self.keys[at + 1 :] if k in left), left[0])

    def _fill_list(self) -> None:
        assert self.view is not None
        self.list.blockSignals(True)
        names = {c.key: c.name for c in self.view.checks}
        while self.list.count() > len(self.keys):
            self.list.takeItem(self.list.count() - 1)
        for n, key in enumerate(self.keys):
            words, bold = _line(self.view, key, names.get(key) or test_name(key))
            item = self.list.item(n)
            if item is None:
                self.list.addItem(words)
                item = self.list.item(n)
            if item.text() != words:
                item.setText(words)
            if item.font().bold() != bold:
                item.setFont(theme.current.font(theme.TEXT_SIZE, bold))
        self.list.setCurrentRow(self.keys.index(self.chosen))
        self.list.blockSignals(False)

    def _show_chosen(self) -> None:
        view = self.view
        assert view is not None
        check = next((c for c in view.checks if c.key == self.chosen), None)
        in_case = check is not None and check.part == "case"
        self.picture.set_family(view.family, case=in_case)
        self.picture.set_counts({} if in_case else found_on(view))
        self.picture.light((check.part,) if check is not None and check.part else (), "")
        if self.way is not None:
            self.picture.hide()
        drawn = (self.job, self.chosen, state_of(view, self.chosen), self.way is not None)
        if drawn != self._drawn:
            self._drawn = drawn
            clear(self.column)
            self.card = None
            if self.way is not None:
                self.column.addWidget(self.way, 1)
            elif check is not None:
                self.card = CheckCard(self, view, check)
                self.column.addWidget(self.card)
            else:
                self.column.addWidget(self._tested(view, self.chosen))
            if self.way is None:
                self.column.addStretch(1)
        self._actions(check)

    def _actions(self, check: Check | None) -> None:
        view = self.view
        assert view is not None
        left = open_checks(view)
        step = view.step("look")
        to_do = step is not None and step.work is None
        looked = lookover.unlooked(view)
        self.rest.setVisible(len(looked) > 1)
        self.hint.setText("")
        finishing = False
        if self.way is not None:
            words = self.way.main_words()
            self.main.setEnabled(self.way.can_finish())
        elif check is not None and self.chosen in left:
            measured_one = check.kind == "measure"
            words = "Record" if measured_one else "It is sound"
            self.main.setEnabled(True)
            self.hint.setText("" if measured_one else "Or choose what you found.")
        elif left:
            words = "Next check"
            self.main.setEnabled(True)
        else:
            words, finishing = "Looking over is done", True
            self.main.setEnabled(to_do and step is not None and step.state == "ready")
            if step is not None and step.state == "later":
                self.hint.setText("First the steps before it; what you measure now is kept.")
        done = not left and not to_do and self.way is None
        self.main.setVisible(not done)
        self.main.setObjectName("look_done" if finishing else "check_main")
        self.main.setAccessibleName(words)
        self.main.setText(f"{words}   F2" if theme.current.scale < 1.3 else words)

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

    # --- what is done -----------------------------------------------------------------------------------------------

    def _row_chosen(self, at: int) -> None:
        if 0 <= at < len(self.keys):
            self.choose(self.keys[at])

    def _pointed(self, area: str) -> None:
        """The checks of the part that is pointed at, one after another."""
        assert self.view is not None and self.picture.drawn is not None
        shows = self.picture.drawn.shows
        here = [c.key for c in self.view.checks if c.part and area in shows(c.part)]
        if here:
            at = here.index(self.chosen) + 1 if self.chosen in here else 0
            self.choose(here[at % len(here)])

    def _main(self) -> None:
        view = self.view
        assert view is not None
        if self.way is not None:
            self.way.finish()
            return
        check = next((c for c in view.checks if c.key == self.chosen), None)
        if check is not None and self.chosen in open_checks(view):
            if check.kind == "measure":
                if self.card is not None:
                    self.card.record(self.chosen in view.findings)
            elif check.kind == "choice":
                job, key, answer = self.job, check.key, lookover.sound_answer(check)
                self.page.do(lambda: lookover.record_choice(self.page.shop, job, key, answer))
            else:
                self.page.do(lambda: lookover.record_places(self.page.shop, self.job, self.chosen, {}))
        elif open_checks(view):
            self.choose(self._following())
        elif self.page.finish("look"):
            self.page.show_tab("steps")

    def _rest(self) -> None:
        self.page.do(lambda: lookover.rest_is_sound(self.page.shop, self.job))

    # --- other ways to an answer ------------------------------------------------------------------------------------

    def start_way(self, name: str) -> None:
        """Open another way of answering the check that is open: "photo", "leak", "pull", "drop", "valves", "notes"."""
        assert self.view is not None
        check = next(c for c in self.view.checks if c.key == self.chosen)
        self._end_way()
        self.way = make_way(name, self.page, self.view, check)
        self.way.changed.connect(lambda: self._actions(check))
        self.way.left.connect(self.leave_way)
        self._show_chosen()
        self.way.begin()

    def leave_way(self) -> None:
        """Back to the check."""
        self._end_way()
        if self.view is not None:
            self._show_chosen()

    def _end_way(self) -> None:
        if self.way is not None:
            self.way.stop()
            self.way = None
            self._drawn = ()


def open_checks(view: JobView) -> list[str]:
    """Needed checks that are not done, or wait to be measured again."""
    found = view.findings
    return [
        c.key
        for c in view.needed
        if c.key not in found or (found[c.key].band == "again" and not found[c.key].overruled)
    ]


def _line(view: JobView, key: str, name: str) -> tuple[str, bool]:
    """A check in the list: its name, how it stands, and whether it wants somebody."""
    finding = view.findings.get(key)
    check = next((c for c in view.checks if c.key == key), None)
    if finding is None:
        return (f"{name}\nwhere there is reason" if check is not None and check.optional else name), False
    if finding.closed:
        return f"{name}\nclosed", False
    if finding.band == "again" and not finding.overruled:
        return f"{name}\nmeasure again", True
    verdict = finding.overruled or finding.verdict
    mean = measured(finding)
    value = f"{show(mean.value, mean.unit)}, " if mean is not None else ""
    if verdict == "ready":
        return f"{name}\n{value}{'watch it' if finding.band == 'amber' else 'good'}", False
    return f"{name}\n{value}{VERDICT_WORDS.get(verdict, verdict).lower()}", finding_open(view, finding)


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
        before = check_history(self.page.shop, view, check)
        if before is not None:
            words = before.words()
            if words:
                right.addWidget(label(words, tone="deep"))
            if before.trend.line is not None:
                right.addWidget(TrendPlot(before))
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
        if check.unit == "millimeter" and self.page.frame.devices.get("caliper"):
            buttons.addWidget(button("Take from caliper", self._caliper, "", f"{check.key}_caliper"))
        self._ways(buttons)
        if self.finding is not None and self.finding.readings:
            count = len(self.finding.readings)
            buttons.addWidget(button("Add to the mean", lambda: self.record(True), "", f"{check.key}_again"))
            box.addWidget(holder)
            values = ", ".join(f"{r['value']:.2f}" for r in self.finding.readings)
            box.addWidget(label(f"{count} reading{'s' if count > 1 else ''}: {values}", tone="muted"))
        else:
            box.addWidget(holder)

    def _ways(self, buttons: Flow) -> None:
        """Buttons of the other ways of answering."""
        for way in self.check.ways:
            if way in METHODS:
                words = METHODS[way][0]
                buttons.addWidget(button(words, lambda w=way: self.panel.start_way(w), "", f"{self.check.key}_{way}"))

    def record(self, again: bool) -> None:
        """Record what is typed; with ``again`` it is averaged with the readings before it."""

        def act() -> None:
            reading = lookover.typed_reading(self.check, self.first.text(), self.second.text())
            lookover.record_reading(self.page.shop, self.view.job.id, self.check.key, reading, again=again)

        self.page.do(act)

    def _caliper(self) -> None:
        again = self.finding is not None and self.finding.band == "again"
        shop, job, key = self.page.shop, self.view.job.id, self.check.key

        def record(reading: Reading) -> None:
            lookover.record_reading(shop, job, key, reading, again=again)

        self.page.frame.read_meter("caliper", self.check.u, record)

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
            tick = button(text, lambda p=place: self._cycle(found, p), "", f"{self.check.key}_{place}")
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
