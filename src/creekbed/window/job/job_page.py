"""One instrument's job: its case, its checks, its steps, its release check."""

from __future__ import annotations

from datetime import timedelta
from functools import partial
from typing import TYPE_CHECKING, Any, cast

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton, QStackedWidget, QVBoxLayout, QWidget

from creekbed.core.turns import Turns
from creekbed.window.job.case_panel import CasePanel
from creekbed.window.job.check_panel import CheckPanel
from creekbed.window.job.release_panel import GatePanel
from creekbed.window.job.step_card import StepCard
from creekbed.window.job.steps_panel import StepsPanel
from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import Beside, button, clear, label, row
from creekbed.words.times import clock_words
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps
from creekbed.workshop.bench.bench_view import HomeView
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.inspection import findings as inspection
from creekbed.workshop.inspection import specialist
from creekbed.workshop.release.release_check import release_check

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

TABS = {"case": "Case", "look_over": "Inspect", "steps": "Steps", "ready": "Ready"}
Panel = CasePanel | CheckPanel | StepsPanel | GatePanel
PANELS: dict[str, type[Panel]] = {
    "case": CasePanel, "look_over": CheckPanel, "steps": StepsPanel, "ready": GatePanel,
}  # fmt: skip


class JobPage(Page):
    """Shows one open job; the tabs follow the way of the work."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.job_id: int | None = None
        self.view: JobView | None = None
        self._stale: set[int] = set()
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP)
        self.name = label("", "title", wrap=False)
        self.about = label("", tone="muted")
        self.forecast = label("", "name", wrap=False)
        head = Beside(16)
        for words in (self.name, self.about, self.forecast):
            head.addWidget(words)
        head.setStretch(1, 1)
        box.addLayout(head)
        both, tabs = Beside(), row()
        self.tabs: dict[str, QPushButton] = {}
        for key, name in TABS.items():
            tab = button(name, partial(self.show_tab, key), "quiet", f"tab_{key}")
            tab.setCheckable(True)
            tab.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            self.tabs[key] = tab
            tabs.addWidget(tab)
        self.more = row()
        both.addLayout(tabs)
        both.addStretch(1)
        both.addLayout(self.more)
        box.addLayout(both)
        self.stack = QStackedWidget()
        self._panels: dict[str, Panel] = {}
        self._card: StepCard | None = None
        """The card of the steps, made before their panel."""
        for _ in TABS:
            self.stack.addWidget(QWidget())
        box.addWidget(self.stack, 1)

    def _panel(self, key: str) -> Any:
        """The panel of a tab, made when first wanted."""
        panel = self._made(key)
        if self.stack.indexOf(panel) < 0:
            at, current = list(TABS).index(key), self.stack.currentIndex()
            empty = self.stack.widget(at)
            if empty is not None:
                self.stack.removeWidget(empty)
                empty.deleteLater()
            self.stack.insertWidget(at, panel)
            self.stack.setCurrentIndex(current)
        return panel

    def _made(self, key: str) -> Any:
        """The panel of a tab, which may not have its place yet."""
        if key not in self._panels:
            self._panels[key] = StepsPanel(self, self._card) if key == "steps" else PANELS[key](self)
            self._panels[key].setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        return self._panels[key]

    @property
    def case(self) -> CasePanel:
        """What is in the case."""
        return cast(CasePanel, self._panel("case"))

    @property
    def checks(self) -> CheckPanel:
        """Looking over."""
        return cast(CheckPanel, self._panel("look_over"))

    @property
    def steps(self) -> StepsPanel:
        """What is to be done."""
        return cast(StepsPanel, self._panel("steps"))

    @property
    def release_check(self) -> GatePanel:
        """What must hold before it may leave."""
        return cast(GatePanel, self._panel("ready"))

    def ready_in_turns(self) -> Turns[None]:
        for key in TABS:
            if key == "steps" and key not in self._panels:
                self._card = StepCard(full=True)  # as much work again as the rest of its panel
                yield None
            panel = self._made(key)
            yield None
            if key in ("case", "steps"):
                yield from panel.ready_in_turns()
            self._panel(key)
            yield None
        yield from super().ready_in_turns()

    def open(self, job_id: int, tab: str = "") -> None:
        """Show a job, at the tab asked for or the one its work stands at."""
        self.job_id = job_id
        if "steps" in self._panels:
            self.steps.chosen = None
        self._load()
        if self.view is not None:
            stage = self.view.stage
            self.show_tab(tab or {"book_in": "case", "look_over": "steps", "ready": "steps"}.get(stage, "steps"))

    def show_tab(self, key: str) -> None:
        """Change the tab."""
        for name, tab in self.tabs.items():
            tab.setChecked(name == key)
        self._panel(key)
        self.stack.setCurrentIndex(list(TABS).index(key))
        self._show_panel()
        panel = self.stack.currentWidget()
        if key != "steps" and panel is not None:
            panel.setFocus(Qt.FocusReason.OtherFocusReason)  # Tab goes on from the top of the panel

    def _show_panel(self) -> None:
        """Draw the panel on show if it is out of date; the others are drawn when they are opened."""
        at = self.stack.currentIndex()
        if at in self._stale and self.view is not None:
            self._stale.discard(at)
            self._panel(list(TABS)[at]).show_job(self.view)

    def refresh(self) -> None:
        self._load()
        self._show_panel()

    def _load(self) -> None:
        if self.job_id is None:
            return
        view = self.view = self.frame.records.job(self.job_id)
        if view is None:
            self.job_id = None
            self.frame.nav.go_home()
            return
        size = view.family.size_words(view.instrument.size)
        self.name.setText(f"{view.tag}  {view.family.name} {size}".rstrip())
        departure = (
            f"{view.departure.name}, {clock_words(view.departure.leaves_at)}" if view.departure else "no departure set"
        )
        group = f"for {view.job.next_group}, " if view.job.next_group else ""
        came = f" · back from {view.job.came_from}" if view.job.came_from else ""
        self.about.setText(f"{group}{departure}{came}")
        self._forecast(self.frame.home)
        self._tab_words(view)
        self._more(view)
        self._stale = set(range(self.stack.count()))

    def planned(self) -> None:
        if self.view is not None:
            self._forecast(self.frame.home)

    def _tab_words(self, view: JobView) -> None:
        checks = len([c for c in view.needed if c.key in view.findings])
        done = len(view.steps) - len(view.open_steps)
        conditions = release_check(view)
        holds = sum(line.holds for line in conditions)
        counts = {
            "case": f"Case {len(view.lines)}/{len(intake.expected_items(view))}",
            "look_over": f"Inspect {checks}/{len(view.needed)}",
            "steps": f"Steps {done}/{len(view.steps)}",
            "ready": f"Ready {holds}/{len(conditions)}",
        }
        for key, text in counts.items():
            self.tabs[key].setText(text)
            self.tabs[key].setAccessibleName(text)

    def _forecast(self, home: HomeView | None) -> None:
        self.forecast.setText("")
        if home is None or self.view is None:
            return
        forecast = home.plan.forecasts.get(self.view.tag)
        if self.view.blocked:
            self.forecast.setText(self.view.blocked)
        elif forecast is not None and forecast.finish is not None:
            at = home.now + timedelta(minutes=forecast.finish)
            late = f", {round(forecast.late_by)} min late" if forecast.late_by > 0 else ""
            lifted = f"{self.view.job.quarantine}. Once that is lifted: " if self.view.job.quarantine else ""
            self.forecast.setText(f"{lifted}ready about {clock_words(at, home.now)}{late}")

    def _more(self, view: JobView) -> None:
        clear(self.more)
        job = view.job.id
        if view.job.waiting_for:
            self.more.addWidget(button("It is back …", lambda: self._back(job), "", "back"))
        else:
            self.more.addWidget(button("Send out …", lambda: self.send(job), "quiet", "send_out"))
        if view.job.quarantine:
            self.more.addWidget(
                button(
                    "Lift quarantine",
                    lambda: self.do(lambda: intake.set_quarantine(self.shop, job, "")),
                    "warn",
                    "lift",
                )
            )
        else:
            self.more.addWidget(button("Mould or insects …", lambda: self._quarantine(job), "quiet", "quarantine"))
        self.more.addWidget(button("History", lambda: self.frame.nav.open_history(view.tag), "quiet", "history"))

    def send(self, job: int) -> None:
        """Ask to whom it goes, and send it out."""
        wanted = specialist.trades(self.view) if self.view is not None else []
        to = self.ask(
            "Send it out",
            "Who mends it, and when it is back if you know: “luthier, Tue 14:00”. A note of what you found goes along.",
            ready=tuple(wanted) or ("luthier", "woodwind repairer", "brass repairer"), ok="Send out",
        )  # fmt: skip
        if to is None:
            return
        whom, back = inspection.read_back(to, self.shop.now)
        if self.do(lambda: inspection.send_out(self.shop, job, whom, back)):
            self.frame.papers.save_note(job, whom)

    def _back(self, job: int) -> None:
        what = self.ask(
            "It is back", "What was done? Open findings for the specialist are closed with this.", ok="Keep"
        )
        if what is not None:
            self.do(lambda: inspection.back_from(self.shop, job, what))

    def _quarantine(self, job: int) -> None:
        why = self.ask(
            "Quarantine", "What is it? Bag it, gloves and an FFP2 mask on, away from wood and felt.",
            ready=("mould", "insects", "came back wet"), ok="Quarantine",
        )  # fmt: skip
        if why is None or self.view is None:
            return
        smell = next((c for c in self.view.checks if any(o.quarantine for o in c.options)), None)
        seen = next((o for o in smell.options if o.quarantine and o.name == why), None) if smell is not None else None
        if smell is not None and seen is not None:  # kept as found, so that what treats it is among the steps
            check, found = smell.key, seen.key
            self.do(lambda: inspection.record_choice(self.shop, job, check, found))
        else:
            self.do(lambda: intake.set_quarantine(self.shop, job, why))

    def finish(self, key: str, **more: object) -> bool:
        """Finish a step of this job."""
        job = self.job_id
        assert job is not None
        return self.do(lambda: job_steps.finish_step(self.shop, job, key, **more))  # type: ignore[arg-type]

    def tick(self) -> None:
        if "steps" in self._panels:
            self.steps.tick()
