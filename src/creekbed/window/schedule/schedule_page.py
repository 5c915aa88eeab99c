"""The schedule: people, places and departures in one picture; ask why, move a bar, try another day."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from creekbed.core.conventions import clock
from creekbed.core.errors import CreekbedError
from creekbed.core.planning.model import Pin, Problem
from creekbed.core.planning.replanning import same_later
from creekbed.core.planning.requests import CompareRequest
from creekbed.core.text import before_list
from creekbed.core.turns import Turns, whole
from creekbed.window.schedule import what_if
from creekbed.window.schedule.hands import Hands
from creekbed.window.schedule.schedule_widget import ScheduleView
from creekbed.window.schedule.week import Week
from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.turns import InTurns
from creekbed.window.shared.widgets import Flow, button, card, clear, label, row, scroll
from creekbed.words.explanations import remedy_words, shift_words
from creekbed.words.phrases import sentence
from creekbed.words.times import clock_words
from creekbed.workshop.bench.bench_view import HomeView, with_plan
from creekbed.workshop.bench.schedule_view import DaySchedule, ScheduledBar, day_in_turns
from creekbed.workshop.planning import fixed_starts
from creekbed.workshop.planning.explanations import comes_first, side_of, why_in_turns
from creekbed.workshop.planning.remedies import Help, help_in_turns

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

HOURS = {"today": 3.5, "longer": 14.0}
HELP_S, HELPED = 6.0, 3
"""How long remedies are looked for, seconds, and for how many late jobs: house default."""
TRIED_FOR_MIN, SAME_MIN = 5.0, 1.0
"""How long a trial plan stays valid while nobody acts, and within what difference two starts count as the same,
minutes: house default."""
BELOW_PX, HEAD_MOST = 190, 44
HINT = (
    "Drag one to another time or to other hands. Round stones will be ready in time, corners mean doubt, a point "
    "means late. A peg: set by you. A drop: it ends a wait in time."
)


class SchedulePage(Page):
    """The plan as people can take hold of it."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP)
        self.shown = "today"
        self.trial: Callable[[], object] | None = None
        """What makes the day that is tried come true, while one is tried."""
        self.again: Callable[[], object] | None = None
        """Tries the same once more, when the plan has changed under what is tried; beside which plan it was tried."""
        self.tried_on: HomeView | None = None
        self.helped: what_if.HelpState | None = None
        """What would help, while that is what is told; it stays through new plans until something else is asked."""
        self.trying, self.asking, self.drawing = (InTurns(self, frame.could_not) for _ in range(3))
        """A day being tried; what would come of doing the chosen stone first being found out; the page drawn again."""
        self.helping = InTurns(self, self._no_help)
        """What would help being looked for."""
        self.title = label("The day", "title", wrap=False)
        self.gap = label("", tone="muted", wrap=False)
        self.ways = {
            key: button(words, partial(self.show_span, key), "quiet", f"day_{key}")
            for key, words in (("today", "Next hours"), ("longer", "Two days"), ("week", "A week ahead"))
        }
        for way in self.ways.values():
            way.setCheckable(True)
        box.addLayout(row(self.title, *self.ways.values(), None, self.gap))
        self.gap.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.schedule, self.then, self.week = ScheduleView(tall=True), ScheduleView(tall=True), Week()
        self.schedule.setObjectName("schedule")
        self.then.setObjectName("schedule_then")
        self.schedule.chosen.connect(self._chosen)
        self.schedule.dropped.connect(self._dropped)
        self.schedule.wait_chosen.connect(lambda job: frame.nav.open_job(job, "steps"))
        self.schedule.departure_chosen.connect(self.help_departure)
        both = QWidget()
        pair = self.pair = QVBoxLayout(both)
        pair.setContentsMargins(0, 0, 0, 0)
        pair.setSpacing(4)
        self.head_now, self.head_then = label("As it is", "small"), label("Then", "small")
        for widget in (self.head_now, self.schedule, self.head_then, self.then):
            pair.addWidget(widget, 1 if isinstance(widget, ScheduleView) else 0)
            widget.setVisible(widget is self.schedule)
        self.views = QStackedWidget()
        self.views.addWidget(both)
        self.views.addWidget(self.week)
        holder, inner = card(margin=12)
        inner.addWidget(self.views)
        box.addWidget(holder, 1)
        box.addLayout(self._below())

    def _below(self) -> QHBoxLayout:
        """What is told about a stone, and who is here."""
        below = QHBoxLayout()
        below.setSpacing(theme.STEP * 2)
        told, left = card(margin=14)
        told.setFixedHeight(theme.current.px(BELOW_PX) + (40 if theme.current.roomy else 0))
        self.about: QLabel = label("Choose a stone: press it, or use the arrow keys.", "name")
        self.why: QLabel = label("")
        self.acts = QWidget()
        self.acts_flow = Flow()
        self.acts.setLayout(self.acts_flow)
        words = QWidget()
        inner = QVBoxLayout(words)
        inner.setContentsMargins(0, 0, 8, 0)
        inner.addWidget(self.why)
        inner.addStretch(1)
        left.addWidget(self.about)
        left.addWidget(scroll(words), 1)
        left.addWidget(self.acts)
        below.addWidget(told, 62)
        asked, right = card(margin=14)
        asked.setFixedHeight(theme.current.px(BELOW_PX) + (40 if theme.current.roomy else 0))
        self.pick = QComboBox()
        self.pick.setAccessibleName("What if")
        self.pick.setObjectName("what_if")
        self.pick.activated.connect(self._try)
        right.addLayout(row(label("What if", "name", wrap=False), self.pick))
        self.pick.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.hands = Hands(self)
        right.addLayout(self.hands.head)
        right.addWidget(scroll(self.hands), 1)
        below.addWidget(asked, 38)
        return below

    # --- showing ------------------------------------------------------------------------------------------------

    def start(self) -> None:
        """Open the page."""
        self._forget_help()
        self.drawing.start(self._opened())
        self.schedule.setFocus(Qt.FocusReason.OtherFocusReason)

    def _opened(self) -> Turns[None]:
        """Draw the page; the old picture stays until it is ready."""
        self.setUpdatesEnabled(False)
        try:
            yield from self._shown()
        finally:
            self.setUpdatesEnabled(True)

    def show_span(self, key: str) -> None:
        """The next hours, two days, or a week."""
        self.shown = key
        for name, way in self.ways.items():
            way.setChecked(name == key)
        self.drawing.start(self._opened())

    def refresh(self) -> None:
        whole(self.show_in_turns())

    def show_in_turns(self) -> Turns[None]:
        self.drawing.drop()
        yield from self._shown()

    def _shown(self) -> Turns[None]:
        home, week = self.frame.home, self.shown == "week"
        self.ways[self.shown].setChecked(True)
        day = yield from day_in_turns(self.shop, home, week=week)
        yield None
        self.views.setCurrentIndex(1 if week else 0)
        self.schedule.hours = self.then.hours = HOURS.get(self.shown, 5.0)
        if week:
            self.week.set_day(day)
        yield from self._arranged(day)
        yield None
        self.gap.setText(self._gap_words())
        if self.trial is None and not self.trying.busy:
            self._fill_what_if(day)
        self.hands.show_queues(self.frame.home.queues)
        yield None
        run = self.schedule.run()
        if self.trial is not None:
            if self.again is not None and not self._as_tried(home):
                self.again()
            return
        if run is not None:
            self._tell(run)
        elif self.helped is not None:
            self._tell_help(self.helped)
        else:
            self.about.setText("Choose a stone: press it, or use the arrow keys.")
            self.why.setText(home.moved + "." if home.moved else HINT)
            self._buttons()

    def _arranged(self, day: DaySchedule, then: DaySchedule | None = None) -> Turns[None]:
        """Show the day, alone or beside a trial; both appear when they are drawn completely.

        Args:
            then: the day that is tried, if that is new.
        """
        beside = self.trial is not None
        moved = beside == self.then.isHidden()
        if moved:
            self.views.setUpdatesEnabled(False)
            for widget in (self.head_now, self.head_then, self.then):
                widget.setVisible(beside)
            self.pair.activate()
        try:
            yield from self.schedule.show_day_in_turns(day)
            if then is not None:
                yield from self.then.show_day_in_turns(then)
        finally:
            if moved:
                self.views.setUpdatesEnabled(True)

    def _gap_words(self) -> str:
        late = sum(a.late_min > 0 and not a.blocked for x in self.frame.home.shipments for a in x.items)
        words = f"{late} late. " if late else "Nothing is late. "
        thinker = self.frame.planner.worker
        looking, gap = thinker.words if thinker is not None else "", self.shop.planner.gap()
        if gap and thinker is not None and thinker.thinking:
            return words + gap
        return words + " ".join(w for w in (gap, looking) if w)

    def _buttons(self, *wanted: QWidget) -> None:
        clear(self.acts_flow)
        for widget in wanted:
            self.acts_flow.addWidget(widget)

    def _chosen(self, run: ScheduledBar) -> None:
        self._forget_help()
        self._tell(run)

    def _tell(self, run: ScheduledBar) -> None:
        """Explain a bar, and offer what can be done with it; during a trial the trial's buttons stay."""
        self.asking.drop()
        now = self.frame.home.now
        more = f" and {len(run.steps) - 1} more" if len(run.steps) > 1 else ""
        what = run.steps[0][1]
        if len(what) > HEAD_MOST:  # the list of its parts stands on its own page
            what = before_list(what)
        self.about.setText(f"{run.tag}: {what}{more}")
        when = f"{run.person}, {clock_words(run.start, now)} to {clock_words(run.end, now)}."
        acts = []
        if run.state != "held":
            first = button("Do it first", lambda: self._lock(run, now, run.person), "", "do_first")
            first.hide()  # until it is known that it can be
            acts.append(first)
            if run.state == "fixed":
                acts.append(button("Unpin", lambda: self._unlock(run), "", "unlock"))
            else:
                at = clock_words(run.start, now)
                acts.append(button(f"Keep it at {at}", lambda: self._lock(run, run.start, run.person), "", "keep_it"))
        acts.append(button("Open it", lambda: self.frame.nav.open_job(run.job_id, "steps"), "quiet", "open_it"))
        self.why.setText(when)
        if self.trial is None:
            self._buttons(*acts)
        self.asking.start(self._asked(run, when))

    def _asked(self, run: ScheduledBar, when: str) -> Turns[None]:
        """Ask why a bar begins when it does, and what would come of doing it first."""
        home = self.frame.home
        yield None
        why, first, other = yield from why_in_turns(self.shop, home, run)
        offered = self.findChild(QPushButton, "do_first")
        if offered is not None:  # what cannot be is not offered
            offered.setVisible(other is not None and comes_first(home, run, other))
        held = run.state == "held"
        self.why.setText(f"{when} {why} It is in hand and stays there." if held else f"{when} {why} {first}".rstrip())

    # --- moving -------------------------------------------------------------------------------------------------

    def _lock(self, run: ScheduledBar, at: datetime, person: str) -> None:
        self.do(lambda: fixed_starts.lock(self.shop, run.job_id, run.key, person, at, what_if.also(run)))

    def _unlock(self, run: ScheduledBar) -> None:
        self.do(lambda: fixed_starts.unlock(self.shop, run.job_id, run.key, what_if.also(run)))

    def _dropped(self, run: ScheduledBar, at: datetime, person: str) -> None:
        """A stone was dragged: show the day then, beside the day as it is."""
        home = self.frame.home
        minutes = max(0.0, (at - home.now).total_seconds() / 60)
        keys = [k for k, _ in run.steps]
        rest = tuple(p for p in home.problem.pins if p.job != run.tag or p.operation not in keys)
        put = tuple(Pin(run.tag, k, person, "fixed", minutes) for k in keys)
        other = replace(home.problem, pins=(*rest, *put))
        words = f"{run.tag} at {clock_words(at, home.now)} with {person}"
        self._forget_help()
        self.again = lambda: self._dropped(run, at, person)
        self._find_out(
            words, home, other, lambda: fixed_starts.lock(self.shop, run.job_id, run.key, person, at, what_if.also(run))
        )

    # --- what if ------------------------------------------------------------------------------------------------

    def _fill_what_if(self, day: DaySchedule) -> None:
        """What can be tried, by what the bench is like now."""
        self.pick.blockSignals(True)
        self.pick.clear()
        self.pick.addItem("Try another day …", None)
        for choice in what_if.choices(self.frame.home, day):
            self.pick.addItem(choice.words, choice)
        self.pick.blockSignals(False)

    def _try(self, at: int) -> None:
        """Show a day with something changed, beside the day as it is."""
        self._forget_help()
        choice, home = self.pick.itemData(at), self.frame.home
        if choice is None or not what_if.still_there(home, choice):
            self._leave_trial()
            return
        trial = what_if.trial_of(self.shop, home, choice)
        self.again = lambda: self._try(at)
        self._find_out(trial.words, home, trial.problem, trial.act)

    def _find_out(self, words: str, home: HomeView, other: Problem, act: Callable[[], object] | None) -> None:
        self.asking.drop()
        self.trying.start(self._tried(words, home, other, act))

    def _tried(self, words: str, home: HomeView, other: Problem, act: Callable[[], object] | None) -> Turns[None]:
        """Compute the trial, then show it beside the plan on show."""
        request = CompareRequest(home.revision, home.problem, home.plan, other)
        found = yield from self.shop.planner.answers.ask(request)
        yield None
        day = yield from day_in_turns(self.shop, with_plan(home, other, found.plan), week=False)
        yield None
        if home.plan is not self.frame.home.plan and self.again is not None:  # it has changed under what was tried
            self.again()
            return
        self.trial, self.tried_on = act or (lambda: None), home
        ready = sum(a.ready for x in home.shipments for a in x.items)
        booked = sum(len(x.items) for x in home.shipments)
        now, then = (side_of(p, plan, ready, booked) for p, plan in ((home.problem, home.plan), (other, found.plan)))
        self.head_now.setText(f"As it is: {what_if.side_words(now)}")
        self.head_then.setText(f"{words}: {what_if.side_words(then)}")
        self.about.setText(words)
        self.why.setText(sentence(shift_words(found)))
        acts = []
        if act is not None:
            acts.append(button("Do it", self._do_trial, "primary", "do_trial"))
        acts.append(button("Leave it", self._leave_trial, "", "leave_trial"))
        self._buttons(*acts)
        yield None
        self.drawing.drop()
        if self.schedule.day is not None:
            yield from self._arranged(self.schedule.day, day)

    def _as_tried(self, home: HomeView) -> bool:
        """Whether the plan on show is still the one beside which the trial was made, apart from the time."""
        if self.tried_on is None or {v.tag for v in home.jobs} != {v.tag for v in self.tried_on.jobs}:
            return False
        passed = (home.now - self.tried_on.now).total_seconds() / 60
        return passed < TRIED_FOR_MIN and same_later(self.tried_on.plan, home.plan, passed, SAME_MIN)

    def _do_trial(self) -> None:
        act, self.trial = self.trial, None
        self.trying.drop()
        if act is not None:
            self.do(act)

    def _leave_trial(self) -> None:
        self.trial = None
        self.trying.drop()
        self.drawing.start(self._shown())

    # --- what would help ----------------------------------------------------------------------------------------

    def help_departure(self, departure_id: int) -> None:
        """Look for remedies for a departure's late jobs in the background, and show them below.

        Asked again about the same departure while that is looked for, it goes on.
        """
        if self.helping.busy and self.helped is not None and self.helped.departure_id == departure_id:
            return
        home = self.frame.home
        departure = next((x.departure.name for x in home.shipments if x.departure.id == departure_id), "")
        self.schedule.choose(None)
        self.helped = what_if.HelpState(departure_id, departure, what_if.hours_of(home))
        self._tell_help(self.helped)
        if self.trial is not None or self.trying.busy:
            self._leave_trial()
        self.helping.start(help_in_turns(self.shop, departure_id, home, seconds=HELP_S, most=HELPED), self._found_help)

    def _found_help(self, rows: list[Help]) -> None:
        told = self.helped
        if told is not None:
            told.rows, told.at = rows, self.shop.now
            if self.trial is None:
                self._tell_help(told)

    def _no_help(self, error: CreekbedError) -> None:
        self._forget_help()
        self.about.setText("What would help could not be found out.")
        self.frame.could_not(error)

    def _tell_help(self, told: what_if.HelpState) -> None:
        self.asking.drop()
        if told.rows is None or told.at is None:
            head = f"{told.departure}: looking for what would help …"
        elif told.rows:
            head = f"{told.departure}: what would help, found at {clock(told.at)}"
        else:
            head = f"{told.departure}: nothing is late for it"
        if self.about.text() == head:  # who reads it, or has a button of it under the finger, is left in peace
            return
        rows = told.rows or []
        self.about.setText(head)
        self.why.setText("\n".join(f"{r.tag}: {sentence(r.words)} Its time: {r.why}." for r in rows))
        self._buttons(*(button(f"Try {r.tag}", partial(self._see, r), "", f"see_{r.tag}") for r in rows if r.remedies))

    def _see(self, row: Help) -> None:
        """Show the day with what would help a job, beside the day as it is."""
        home = self.frame.home
        if self.helped is None or self.helped.hours != what_if.hours_of(home) or row.tag not in home.plan.forecasts:
            self._forget_help()  # a break has begun, somebody has left, or it has gone: it is not what it was
            self._leave_trial()
            self.frame.say("Things have changed since: ask again what would help.")
            return
        other = home.problem
        for option in row.remedies[0].options:
            other = option.change(other)
        self.again = lambda: self._see(row)
        self._find_out(f"{row.tag}: {remedy_words(self.shop.catalogue, row.remedies[0])}", home, other, None)

    def _forget_help(self) -> None:
        self.helped = None
        self.helping.drop()
