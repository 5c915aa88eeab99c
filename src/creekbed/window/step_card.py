"""The card of one step: what, how much, how, mind, why, and the one big action."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFontMetrics, QResizeEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from creekbed.core.catalogue.models import MARK_WORDS
from creekbed.window import theme
from creekbed.window.times import clock_words
from creekbed.window.widgets import button, label, restyle, row, scroll
from creekbed.workshop.views import JobView, StepView

PRIMARY = {
    "do": "Done", "contents": "Tick the case", "look": "Look over", "mix": "Open the mix bench", "retune": "Retuned …",
    "test": "Passed", "pack": "Check the case …", "apart": "All apart", "together": "All together",
}  # fmt: skip
OPENS = ("contents", "look", "mix", "retune", "pack")
"""Kinds of step that want more than one press; their big action opens the place for it."""
ROWS = 9


class StepCard(QFrame):
    """Shows a step and forwards what the person wants. ``full`` shows how, tools and source too.

    The widgets are made once and filled anew for each step: an action at the bench must be seen at once.
    """

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
        self.view: JobView | None = None
        self.step: StepView | None = None
        self.uses = ""
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 16, 24, 16)
        box.setSpacing(theme.STEP)
        self.over = label("", "small")
        self.who = label("", "name", wrap=False)
        self.for_whom = label("", tone="muted")
        if not full:
            box.addWidget(self.over)
            head = row(self.who, self.for_whom, spacing=theme.STEP * 2)
            head.setStretch(1, 1)
            box.addLayout(head)
        self.title = label("")
        self.title.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        self.title.setObjectName("step_title")
        body = QWidget()
        inner = QVBoxLayout(body)
        inner.setContentsMargins(0, 0, 4, 0)
        inner.setSpacing(theme.STEP)
        inner.addWidget(self.title)
        inner.addLayout(self._make_rows())
        inner.addStretch(1)
        box.addWidget(scroll(body), 1)
        box.addLayout(self._make_buttons())

    def _make_rows(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(theme.STEP * 3)
        grid.setVerticalSpacing(theme.STEP)
        self.rows: list[tuple[QLabel, QLabel]] = []
        for n in range(ROWS):
            head, text = label("", "small", wrap=False), label("")
            head.setAlignment(Qt.AlignmentFlag.AlignTop)
            text.setFont(theme.current.font(theme.TEXT_SIZE if self.full else theme.TEXT_SIZE + 1))
            grid.addWidget(head, n, 0)
            grid.addWidget(text, n, 1)
            self.rows.append((head, text))
        grid.setColumnStretch(1, 1)
        return grid

    def _make_buttons(self) -> QHBoxLayout:
        self.primary = button("Done", self._primary, "primary", "primary", "F2")
        self.primary.setMinimumWidth(theme.current.big(180))
        self.test_failed = button("Failed …", lambda: self._tell(self.failed), "warn", "failed")
        self.found_button = button("Found something", lambda: self._job(self.found), "", "found", "F3")
        self.aside_button = button("Put aside", self.aside.emit, "", "aside", "F4")
        self.take = button("Take up", lambda: self._tell(self.taken), "", "take", "F4")
        self.leave = button("Leave out …", lambda: self._tell(self.waived), "", "waive")
        every = (self.primary, self.test_failed, self.found_button, self.aside_button, self.take, self.leave)
        return row(*every, None)

    def _primary(self) -> None:
        assert self.step is not None
        self._tell(self.opened if self.step.step.kind in OPENS else self.done)

    def _tell(self, signal: object) -> None:
        if self.view is not None and self.step is not None:
            signal.emit(self.view.job.id, self.step.step.key)  # type: ignore[attr-defined]

    def _job(self, signal: object) -> None:
        if self.view is not None:
            signal.emit(self.view.job.id)  # type: ignore[attr-defined]

    def set_step(self, view: JobView, step: StepView, why: str, in_hand: bool, start: str = "", uses: str = "") -> None:
        """Show a step of a job.

        Args:
            view, step: the step and its job. why: why now, in words. in_hand: it is being done.
            start: from when, if later. uses: what it takes from stock, in words.
        """
        self.view, self.step, self.uses = view, step, uses
        s = step.step
        done = len(view.steps) - len(view.open_steps)
        head = "In your hands" if in_hand else f"Next for your hands, {start}" if start else "Next for your hands"
        self.over.setText(f"{head} · step {min(done + 1, len(view.steps))} of {len(view.steps)}")
        self.who.setText(f"{view.tag}  {view.family.name}")
        boat = f"{view.boat.name}, {clock_words(view.boat.leaves_at)}" if view.boat else "no boat set"
        self.for_whom.setText(f"for {view.job.next_group}, {boat}" if view.job.next_group else f"for the {boat}")
        self._title(s.what, theme.TITLE_SIZE if self.full else self._fitting(s.what))
        self._details(why)
        self._actions(in_hand)

    def _fitting(self, words: str) -> int:
        """The largest size at which the step stands in one line; two lines of a middle size where none does."""
        room = self.title.width() - 8
        for size in (theme.STEP_SIZE, 34, 31, theme.TITLE_SIZE):
            if QFontMetrics(theme.current.font(size, True, large=True)).horizontalAdvance(words) <= room:
                return size
        return 31 if len(words) < 80 else theme.TITLE_SIZE

    def _title(self, words: str, size: int) -> None:
        self.title.setFont(theme.current.font(size, True, large=True))
        self.title.setText(words)

    def _details(self, why: str) -> None:
        assert self.step is not None
        s = self.step.step
        rows: list[tuple[str, str, str]] = []
        if s.amount and s.amount not in s.what:
            rows.append(("How much", s.amount, ""))
        if self.uses:
            rows.append(("Uses", self.uses, ""))
        if s.moves and not self.full:
            rows.append(("Moves", "\n".join(f"{n}  {m.what}" for n, m in enumerate(s.moves, 1)), ""))
        elif s.how and (self.full or s.kind in ("do", "retune")):
            rows.append(("How", s.how, ""))
        if s.caution:
            rows.append(("Mind", s.caution, "warn" if s.caution.startswith("Stop") else ""))
        rule = f" House rule: {s.school.lower()}." if self.full else " (House rule.)"
        reason = s.reason + (rule if s.school else "")
        if self.full:
            rows.append(("Why", reason, ""))
            if why:
                rows.append(("Now", why, ""))
            if s.tools:
                rows.append(("With", ", ".join(s.tools), ""))
            if s.wait is not None:
                longest = f", {s.wait.max_minutes:g} min at the longest" if s.wait.max_minutes else ""
                rows.append(("Then", f"{s.wait.name}: {s.wait.min_minutes:g} min {s.wait.where}{longest}", ""))
            rows.append(("Source", f"{MARK_WORDS[s.mark].capitalize()}: {s.source}", "muted"))
        else:
            rows.append(("Why", f"{reason}\nNow: {why}" if why else reason, ""))
        self._fill(rows)

    def _fill(self, rows: list[tuple[str, str, str]]) -> None:
        for n, (head, text) in enumerate(self.rows):
            shown = n < len(rows)
            head.setVisible(shown)
            text.setVisible(shown)
            if shown:
                name, words, tone = rows[n]
                head.setText(name)
                text.setText(words)
                restyle(text, tone=tone)

    def _actions(self, in_hand: bool) -> None:
        assert self.view is not None and self.step is not None
        kind, ready = self.step.step.kind, self.step.state == "ready" and not self.view.blocked
        key = "   F2" if theme.current.scale < 1.3 else ""
        self.primary.setText(PRIMARY[kind] + key)
        self.primary.setAccessibleName(PRIMARY[kind])
        self.primary.setEnabled(ready)
        self.primary.setVisible(not (self.full and kind in ("retune", "pack")))
        self.test_failed.setVisible(kind == "test")
        self.test_failed.setEnabled(ready)
        self.found_button.setVisible(not self.full)
        self.aside_button.setVisible(not self.full and in_hand)
        self.take.setVisible(not self.full and not in_hand and kind not in OPENS)
        self.leave.setVisible(self.full and kind not in ("contents", "look", "pack") and self.step.step.ends is None)
        self.leave.setEnabled(ready)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self.step is not None and not self.full:
            self._title(self.step.step.what, self._fitting(self.step.step.what))

    def set_nothing(self, words: str, detail: str) -> None:
        """Nothing waits for hands."""
        self.view = self.step = None
        self.over.setText("In your hands")
        self.who.setText("")
        self.for_whom.setText("")
        self._title(words, theme.STEP_SIZE)
        self._fill([("", detail, "muted")])
        for widget in (self.primary, self.test_failed, self.found_button, self.aside_button, self.take, self.leave):
            widget.hide()
