"""The case: what went out against what came back."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QComboBox, QFrame, QGridLayout, QHBoxLayout, QLineEdit, QWidget

from creekbed.core.catalogue.models import CaseItem
from creekbed.core.units import parse_quantity
from creekbed.store.tables import ContentLine
from creekbed.window import theme
from creekbed.window.widgets import button, card, clear, label, scroll
from creekbed.workshop import intake
from creekbed.workshop.views import JobView

if TYPE_CHECKING:
    from creekbed.window.job_page import JobPage

STATE_WORDS = {
    "present": "here", "missing": "missing", "worn": "worn", "replaced": "replaced from stock",
    "waived": "goes without",
}  # fmt: skip


class CasePanel(QWidget):
    """One line for each piece, with big targets; marks on the instrument beside it."""

    def __init__(self, page: JobPage):
        super().__init__()
        self.page = page
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(theme.STEP * 2)
        frame, left = card(margin=12)
        self.head = label("", "name")
        left.addWidget(self.head)
        inner = QWidget()
        self.lines = QGridLayout(inner)
        self.lines.setContentsMargins(0, 0, 8, 0)
        self.lines.setHorizontalSpacing(theme.STEP)
        self.lines.setVerticalSpacing(4)
        left.addWidget(scroll(inner), 1)
        self.actions = QHBoxLayout()
        left.addLayout(self.actions)
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
        clear(self.lines)
        items = intake.expected_items(view)
        left = [i for i in items if i.key not in view.lines]
        out = (
            f"{len(items)} pieces went out"
            if view.hire and view.hire.contents_out
            else f"{len(items)} pieces belong in it"
        )
        self.head.setText(f"{out}. {len(left)} not ticked yet." if left else f"{out}. All are ticked.")
        for n, item in enumerate(items):
            self._line(n, view, item)
        self.lines.setRowStretch(len(items), 1)
        self.lines.setColumnStretch(0, 1)
        clear(self.actions)
        job = view.job.id
        if left:
            rest = button(
                "The rest is here",
                lambda: self.page.do(lambda: intake.tick_rest(self.page.shop, job)),
                "primary",
                "rest",
                "F2",
            )
            self.actions.addWidget(rest)
        elif (step := view.step("contents")) is not None and step.work is None:
            self.actions.addWidget(button("Case is done", lambda: self._done(), "primary", "case_done", "F2"))
        self.actions.addStretch(1)
        if self.zone.count() == 0 or self.zone.itemText(0) != view.family.zones[0]:
            self.zone.clear()
            self.zone.addItems(list(view.family.zones))
        self._show_marks(view)

    def _show_marks(self, view: JobView) -> None:
        from creekbed.workshop.history import history

        period = next((p for p in history(self.page.shop, view.tag).periods if p.job and p.job.id == view.job.id), None)
        rows = [c for c in period.compared if c.what.startswith("Mark: ")] if period else []
        words = [
            f"{c.what[6:].capitalize()}: {c.came_in if c.came_in != 'not noted again' else c.out} ({c.status})"
            for c in rows
        ]
        self.marks.setText("\n".join(words) or "None noted, now or before.")

    def _done(self) -> None:
        if self.page.finish("contents"):
            self.page.show_tab("steps")

    def _line(self, n: int, view: JobView, item: CaseItem) -> None:
        line = view.lines.get(item.key)
        safety = item.kind == "safety"
        name = label(item.name.capitalize() + (", safety part" if safety else ""), wrap=True)
        self.lines.addWidget(name, n, 0)
        holder = QFrame()
        inner = QHBoxLayout(holder)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(theme.STEP)
        job, shop, do = view.job.id, self.page.shop, self.page.do
        if line is not None and line.state in ("missing", "worn", "replaced", "waived"):
            self._sorted_out(inner, view, item, line)
        else:
            for state, words in (("present", "Here"), ("worn", "Worn"), ("missing", "Missing")):
                tick = button(
                    words,
                    lambda s=state: do(lambda: intake.tick_item(shop, job, item.key, s)),
                    "",
                    f"{item.key}_{state}",
                )
                tick.setCheckable(True)
                tick.setChecked(line is not None and line.state == state)
                inner.addWidget(tick)
        self.lines.addWidget(holder, n, 1)

    def _sorted_out(self, inner: QHBoxLayout, view: JobView, item: CaseItem, line: ContentLine) -> None:
        job, shop, do = view.job.id, self.page.shop, self.page.do
        bad = line.state == "missing"
        words = STATE_WORDS[line.state] + (f": {line.reason}" if line.state == "waived" else "")
        if bad and item.kind == "safety":
            words = "missing, blocks ready"
        inner.addWidget(label(words.capitalize(), tone="warn" if bad else "muted"), 1)
        if line.state in ("missing", "worn"):
            if item.stock is not None:
                inner.addWidget(
                    button(
                        "Replace from stock",
                        lambda: do(lambda: intake.replace_item(shop, job, item.key)),
                        "",
                        f"{item.key}_replace",
                    )
                )
            inner.addWidget(button("Waive …", lambda: self._waive(job, item), "", f"{item.key}_waive"))
        inner.addWidget(
            button(
                "It is here",
                lambda: do(lambda: intake.tick_item(shop, job, item.key, "present")),
                "quiet",
                f"{item.key}_present",
            )
        )

    def _waive(self, job: int, item: CaseItem) -> None:
        why = f" {item.why}" if item.why else ""
        reason = self.page.ask(
            f"Goes without {item.name}", f"Why may it go without?{why}",
            ready=("the renter has one", "to follow on the next boat"),
            ok="Waive it",
        )  # fmt: skip
        if reason is not None:
            self.page.do(lambda: intake.waive_item(self.page.shop, job, item.key, reason))

    def _mark(self) -> None:
        view = self.page.view
        assert view is not None

        def act() -> None:
            text = self.size.text()
            size = None
            if text.strip():
                size = parse_quantity(text, "millimeter", what="The size", minimum=0.1, maximum=2000)
            intake.add_mark(self.page.shop, view.job.id, self.zone.currentText(), self.kind.currentText(), size)
            self.size.clear()

        self.page.do(act)
