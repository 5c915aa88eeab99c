"""The case: what went out against what came back."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from creekbed.core.catalogue.models import CaseItem
from creekbed.core.units import parse_quantity
from creekbed.store.tables import ContentLine
from creekbed.window import theme
from creekbed.window.times import clock_words
from creekbed.window.widgets import button, card, clear, label, restyle, row, scroll
from creekbed.workshop import intake
from creekbed.workshop.history import UNSEEN, marks_of
from creekbed.workshop.views import ACCLIMATISING, JobView

if TYPE_CHECKING:
    from creekbed.window.job_page import JobPage

STATE_WORDS = {
    "present": "here", "missing": "missing", "worn": "worn", "replaced": "replaced from stock",
    "waived": "goes without",
}  # fmt: skip

TICKS = (("present", "Here"), ("worn", "Worn"), ("missing", "Missing"))


class CaseRow(QWidget):
    """One piece of the case: its name, and big targets for what is the matter with it. Made once, filled anew."""

    def __init__(self, panel: CasePanel, item: CaseItem):
        super().__init__()
        self.panel, self.item = panel, item
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(theme.STEP)
        safety = ", safety part" if item.kind == "safety" else ""
        self.name = label(item.name.capitalize() + safety)
        box.addWidget(self.name, 26)
        self.ticks = {state: self._tick(state, words) for state, words in TICKS}
        self.words = label("", tone="muted")
        self.replace = button("Replace from stock", self._replace, "", f"{item.key}_replace")
        self.waive = button("Waive …", lambda: panel.waive(item), "", f"{item.key}_waive")
        self.here = button("It is here", lambda: self._set("present"), "quiet", f"{item.key}_is_here")
        right = QHBoxLayout()
        right.setSpacing(theme.STEP)
        for tick in self.ticks.values():
            right.addWidget(tick, 1)
        right.addWidget(self.words, 2)
        for action in (self.replace, self.waive, self.here):
            right.addWidget(action)
        box.addLayout(right, 74)

    def _tick(self, state: str, words: str) -> QPushButton:
        tick = button(words, lambda: self._set(state), "", f"{self.item.key}_{state}")
        tick.setCheckable(True)
        return tick

    def _set(self, state: str) -> None:
        page = self.panel.page
        page.do(lambda: intake.tick_item(page.shop, self.panel.job, self.item.key, state))

    def _replace(self) -> None:
        page = self.panel.page
        page.do(lambda: intake.replace_item(page.shop, self.panel.job, self.item.key))

    def set_line(self, line: ContentLine | None) -> None:
        """Show what was ticked, or that nothing was."""
        state = line.state if line is not None else ""
        settled = state in ("missing", "worn", "replaced", "waived")
        for name, tick in self.ticks.items():
            tick.setVisible(not settled)
            tick.setChecked(name == state)
        self.words.setVisible(settled)
        self.here.setVisible(settled)
        self.replace.setVisible(state in ("missing", "worn") and self.item.stock is not None)
        self.waive.setVisible(state in ("missing", "worn"))
        if line is not None and settled:
            words = STATE_WORDS[state] + (f": {line.reason}" if state == "waived" else "")
            if state == "missing" and self.item.kind == "safety":
                words = "missing, blocks ready"
            self.words.setText(words.capitalize())
            restyle(self.words, tone="warn" if state == "missing" else "muted")


class CasePanel(QWidget):
    """One line for each piece; marks on the instrument beside it."""

    def __init__(self, page: JobPage):
        super().__init__()
        self.page = page
        self.job = 0
        self.rows: dict[str, CaseRow] = {}
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(theme.STEP * 2)
        frame, left = card(margin=12)
        self.head = label("", "name")
        left.addWidget(self.head)
        inner = QWidget()
        self.lines = QVBoxLayout(inner)
        self.lines.setContentsMargins(0, 0, 8, 0)
        self.lines.setSpacing(4)
        left.addWidget(scroll(inner), 1)
        self.rest = button("The rest is here", self._rest, "primary", "rest", "F2")
        self.done = button("Case is done", self._done, "primary", "case_done", "F2")
        left.addLayout(row(self.rest, self.done, None))
        box.addWidget(frame, 65)
        side, right = card(margin=16)
        right.addWidget(label("Marks on the instrument", "name"))
        self.marks = label("", tone="muted")
        right.addWidget(self.marks)
        self.zone, self.kind, self.size = QComboBox(), QComboBox(), QLineEdit()
        for field, name in ((self.zone, "Zone"), (self.kind, "Kind"), (self.size, "Size, for example 9 mm")):
            field.setAccessibleName(name)
            right.addWidget(label(name, "small"))
            right.addWidget(field)
        self.kind.addItems(intake.MARK_KINDS)
        self.size.setPlaceholderText("9 mm")
        right.addWidget(button("Note this mark", self._mark, "", "note_mark"))
        right.addStretch(1)
        box.addWidget(scroll(side), 35)

    def show_job(self, view: JobView) -> None:
        """Draw the case of a job."""
        self.job = view.job.id
        items = intake.expected_items(view)
        left = [i for i in items if i.key not in view.lines]
        went = bool(view.hire and view.hire.contents_out)
        out = f"{len(items)} pieces went out" if went else f"{len(items)} pieces belong in it"
        self.head.setText(f"{out}. {len(left)} not ticked yet." if left else f"{out}. All are ticked.")
        shut = next((w for w in view.waits if w.key == ACCLIMATISING), None)
        if shut is not None:
            opens = clock_words(self.page.shop.now + shut.contact.remaining, self.page.shop.now)
            self.head.setText(f"Keep the case shut until {opens}: it must come to the room's temperature first.")
        restyle(self.head, tone="warn" if shut is not None else "")
        self.rest.setEnabled(shut is None)
        if [i.key for i in items] != list(self.rows) or any(self.rows[i.key].item is not i for i in items):
            clear(self.lines)
            self.rows = {item.key: CaseRow(self, item) for item in items}
            for line in self.rows.values():
                self.lines.addWidget(line)
            self.lines.addStretch(1)
        for key, line in self.rows.items():
            line.set_line(view.lines.get(key))
        contents = view.step("contents")
        self.rest.setVisible(bool(left))
        self.done.setVisible(not left and contents is not None and contents.work is None)
        if self.zone.itemText(0) != view.family.zones[0]:
            self.zone.clear()
            self.zone.addItems(list(view.family.zones))
        rows = marks_of(self.page.shop, self.job)
        words = [f"{c.what[6:].capitalize()}: {c.out if c.came_in == UNSEEN else c.came_in} ({c.status})" for c in rows]
        self.marks.setText("\n".join(words) or "None noted, now or before.")

    def _rest(self) -> None:
        self.page.do(lambda: intake.tick_rest(self.page.shop, self.job))

    def _done(self) -> None:
        if self.page.finish("contents"):
            self.page.show_tab("steps")

    def waive(self, item: CaseItem) -> None:
        """Ask why it may go without a piece."""
        job = self.job
        reason = self.page.ask(
            f"Goes without {item.name}", f"Why may it go without? {item.why}".strip(),
            ready=("the renter has one", "to follow on the next boat"), ok="Waive it",
        )  # fmt: skip
        if reason is not None:
            self.page.do(lambda: intake.waive_item(self.page.shop, job, item.key, reason))

    def _mark(self) -> None:
        job = self.job

        def act() -> None:
            text = self.size.text()
            size = None
            if text.strip():
                size = parse_quantity(text, "millimeter", what="The size", minimum=0.1, maximum=2000)
            intake.add_mark(self.page.shop, job, self.zone.currentText(), self.kind.currentText(), size)
            self.size.clear()

        self.page.do(act)
