"""The card of one step: what, how much, how, mind, why, and the one big action."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from creekbed.core.catalogue.models import MARK_WORDS
from creekbed.window import theme
from creekbed.window.times import clock_words
from creekbed.window.widgets import button, clear, label, restyle, row, scroll
from creekbed.workshop.views import JobView, StepView

PRIMARY = {
    "do": "Done", "contents": "Tick the case", "look": "Look over", "mix": "Open the mix bench", "retune": "Retuned …",
    "test": "Passed", "pack": "Check the case …",
}  # fmt: skip


class StepCard(QFrame):
    """Shows a step and forwards what the person wants. ``full`` shows how, tools and source too."""

    done = Signal(int, str)
    opened = Signal(int, str)
    failed = Signal(int, str)
    waived = Signal(int, str)
    found = Signal(int)
    aside = Signal()
    taken = Signal(int, str)

    def __init__(self, full: bool = False):
        super().__init__()
        self.setObjectName("card")
        self.full = full
        self.text_size = theme.TEXT_SIZE if full else theme.TEXT_SIZE + 1
        self.view: JobView | None = None
        self.step: StepView | None = None
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 16, 24, 16)
        box.setSpacing(theme.STEP)
        self.over = label("", "small")
        self.who = label("", "name")
        self.for_whom = label("", tone="muted", wrap=True)
        self.title = QLabel()
        self.title.setWordWrap(True)
        self.title.setTextFormat(Qt.TextFormat.PlainText)
        self.title.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        self.title.setObjectName("step_title")
        self.title.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(theme.STEP * 3)
        self.grid.setVerticalSpacing(theme.STEP)
        self.buttons = QHBoxLayout()
        self.buttons.setSpacing(theme.STEP)
        if not full:
            box.addWidget(self.over)
            head = row(self.who, self.for_whom, spacing=theme.STEP * 2)
            head.setStretch(1, 1)
            box.addLayout(head)
        body = QWidget()
        inner = QVBoxLayout(body)
        inner.setContentsMargins(0, 0, 4, 0)
        inner.setSpacing(theme.STEP)
        inner.addWidget(self.title)
        inner.addLayout(self.grid)
        inner.addStretch(1)
        box.addWidget(scroll(body), 1)
        box.addLayout(self.buttons)

    def set_step(self, view: JobView, step: StepView, why: str, in_hand: bool, start: str = "") -> None:
        """Show a step of a job."""
        self.view, self.step = view, step
        s = step.step
        done = len(view.steps) - len(view.open_steps)
        head = "In your hands" if in_hand else f"Next for your hands, {start}" if start else "Next for your hands"
        self.over.setText(f"{head} · step {min(done + 1, len(view.steps))} of {len(view.steps)}")
        self.who.setText(f"{view.tag}  {view.family.name}")
        self.who.setWordWrap(False)
        boat = f"{view.boat.name}, {clock_words(view.boat.leaves_at)}" if view.boat else "no boat set"
        self.for_whom.setText(f"for {view.job.next_group}, {boat}" if view.job.next_group else f"for the {boat}")
        size = theme.STEP_SIZE if len(s.what) < 62 else 32 if len(s.what) < 90 else 28
        if self.full:
            size = 28
        self._title_size(size)
        self.title.setText(s.what)
        self._details(why)
        self._actions(in_hand)

    def _title_size(self, size: int) -> None:
        self.title.setStyleSheet(f"font-size: {theme.current.big(size)}px; font-weight: bold;")

    def _details(self, why: str) -> None:
        clear(self.grid)
        assert self.step is not None
        s = self.step.step
        rows: list[tuple[str, str, str]] = []
        if s.amount and s.amount not in s.what:
            rows.append(("How much", s.amount, ""))
        if s.how and (self.full or s.kind in ("do", "retune")):
            rows.append(("How", s.how, ""))
        if s.caution:
            rows.append(("Mind", s.caution, "warn" if s.caution.startswith("Stop") else ""))
        reason = f"{s.reason}" + (f"  House rule: {s.school.lower()}." if s.school else "")
        if self.full or not why:
            rows.append(("Why", reason, ""))
            if why:
                rows.append(("Now", why, ""))
        else:
            rows.append(("Why", f"{reason}\nNow: {why}", ""))
        if self.full:
            if s.tools:
                rows.append(("With", ", ".join(s.tools), ""))
            if s.wait is not None:
                longest = f", {s.wait.max_minutes:g} min at the longest" if s.wait.max_minutes else ""
                rows.append(("Then", f"{s.wait.name}: {s.wait.min_minutes:g} min {s.wait.where}{longest}", ""))
            rows.append(("Source", f"{MARK_WORDS[s.mark].capitalize()}: {s.source}", "muted"))
        for n, (name, words, tone) in enumerate(rows):
            head = label(name, "small", wrap=False)
            head.setAlignment(Qt.AlignmentFlag.AlignTop)
            text = label(words, tone=tone)
            text.setFont(theme.current.font(self.text_size))
            text.setStyleSheet(f"font-size: {theme.current.px(self.text_size)}px;")
            self.grid.addWidget(head, n, 0)
            self.grid.addWidget(text, n, 1)
        self.grid.setColumnStretch(1, 1)

    def _actions(self, in_hand: bool) -> None:
        clear(self.buttons)
        assert self.view is not None and self.step is not None
        view, step = self.view, self.step
        job, key, kind = view.job.id, step.step.key, step.step.kind
        opens = kind in ("contents", "look", "mix", "retune", "pack")
        signal = self.opened if opens else self.done
        primary = button(PRIMARY[kind], lambda: signal.emit(job, key), "primary", "primary", "F2")
        primary.setMinimumWidth(theme.current.big(180))
        primary.setEnabled(step.state == "ready" and not view.blocked)
        self.primary: QPushButton = primary
        self.buttons.addWidget(primary)
        if kind == "test":
            failed = button("Failed …", lambda: self.failed.emit(job, key), "warn", "failed")
            failed.setEnabled(step.state == "ready")
            self.buttons.addWidget(failed)
        if not self.full:
            self.buttons.addWidget(button("Found something", lambda: self.found.emit(job), "", "found", "F3"))
            if in_hand:
                self.buttons.addWidget(button("Put aside", self.aside.emit, "", "aside", "F4"))
            elif not opens:
                self.buttons.addWidget(button("Take up", lambda: self.taken.emit(job, key), "", "take", "F4"))
        elif kind not in ("contents", "look", "pack") and step.step.ends is None:
            leave = button("Leave out …", lambda: self.waived.emit(job, key), "", "waive")
            leave.setEnabled(step.state == "ready")
            self.buttons.addWidget(leave)
        self.buttons.addStretch(1)

    def set_nothing(self, words: str, detail: str) -> None:
        """Nothing waits for hands."""
        self.view = self.step = None
        self.over.setText("In your hands")
        self.who.setText("")
        self.for_whom.setText("")
        self._title_size(theme.STEP_SIZE)
        self.title.setText(words)
        clear(self.grid)
        clear(self.buttons)
        self.grid.addWidget(label(detail, tone="muted"), 0, 0)

    def mark(self, warn: bool) -> None:
        """Draw the card as a warning or as usual."""
        restyle(self, state="warn" if warn else "")
