"""Inspection: the checks beside the drawing, each with its scale, bands, uncertainty, verdict and reason."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from creekbed.core.catalogue.models.parts import Check
from creekbed.window.job.step_card import found_on
from creekbed.window.measuring.method import Method, make_way
from creekbed.window.shared import theme
from creekbed.window.shared.instrument_picture import Picture
from creekbed.window.shared.widgets import (
    button,
    card,
    clear,
    focus_name,
    label,
    listing,
    refocus,
    row,
    scroll,
)
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.inspection import findings as lookover
from creekbed.workshop.release.release_check import open_findings, test_name

if TYPE_CHECKING:
    from creekbed.window.job.job_page import JobPage
from creekbed.window.job.check_card import CheckCard
from creekbed.window.job.check_state import LATER, asks_of, check_line, close, open_checks, state_of


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
        self.rest = button("Mark the rest as sound", self._rest, "", "rest_sound", "F3")
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
            words, bold = check_line(self.view, key, names.get(key) or test_name(key))
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
        step = view.look
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
            if step is not None and step.state in ("later", "held"):
                self.hint.setText(f"The rest {LATER[asks_of(view, step)]}: first the steps before it.")
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
        elif view.look is not None and self.page.finish(view.look.step.key):
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
