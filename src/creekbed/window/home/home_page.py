"""The bench page: the next step, running waits, departures."""

from __future__ import annotations

import sys
from typing import TYPE_CHECKING

from PySide6.QtCore import QProcess, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from creekbed.core.turns import Turns, whole
from creekbed.window.home.departures import DeparturesPanel
from creekbed.window.home.running_waits import WaitCard
from creekbed.window.job.step_card import StepCard
from creekbed.window.schedule.schedule_widget import ScheduleView
from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import card as new_card
from creekbed.window.shared.widgets import label, scroll
from creekbed.window.tools.for_step import beside
from creekbed.words.times import clock_words
from creekbed.workshop.bench.bench_view import HomeView
from creekbed.workshop.bench.schedule_view import day_in_turns
from creekbed.workshop.bench.wait_view import WaitView
from creekbed.workshop.cleaning.cloths import cloth_words
from creekbed.workshop.supplies.stock import uses_words

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame
    from creekbed.window.home.first_steps import FirstSteps, SetUpList


class HomePage(Page):
    """The bench in one look."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 8, 10, 8)
        body = QWidget()
        box = QVBoxLayout(body)
        box.setContentsMargins(0, 0, 14, 0)
        box.setSpacing(6)
        outer.addWidget(scroll(body))
        top = QHBoxLayout()
        top.setSpacing(theme.STEP * 3)
        self.hand = StepCard()
        self.hand.done.connect(self._done)
        self.hand.opened.connect(frame.nav.open_step)
        self.hand.tooled.connect(frame.nav.open_tool_for)
        self.hand.washed.connect(frame.hands_washed)
        self.hand.together.connect(frame.do_together)
        self.hand.failed.connect(self._failed)
        self.hand.found.connect(lambda job: frame.nav.open_job(job, "look_over"))
        self.hand.aside.connect(self._put_aside)
        self.hand.taken.connect(self._take_up)
        roomy = theme.current.roomy
        self.hand.setMinimumHeight(560 if theme.current.scale > 1.1 else 380 if roomy else 296)
        self.first: FirstSteps | None = None
        """What an empty bench offers; made when it is first wanted."""
        self.to_say: SetUpList | None = None
        self.top = top
        top.addWidget(self.hand, 55 if roomy else 63)
        self.right = right = QVBoxLayout()
        right.setSpacing(theme.STEP)
        self.running_head = label("Timers", "small")
        right.addWidget(self.running_head)
        inner = QWidget()
        self.running = QVBoxLayout(inner)
        self.running.setContentsMargins(0, 0, 4, 0)
        self.running.setSpacing(6)
        self.nothing_runs = label("Nothing soaks, dries or settles just now.", tone="muted")
        self.running.addWidget(self.nothing_runs)
        self.running.addStretch(1)
        self.running_area = area = scroll(inner)
        area.setMinimumWidth(420 if roomy else 380)
        right.addWidget(area, 1)
        top.addLayout(right, 45 if roomy else 37)
        box.addLayout(top, 1)
        holder, inner_schedule = new_card(margin=8)
        self.schedule = ScheduleView(hours=3.0)
        self.schedule.chosen.connect(lambda run: self.frame.nav.open_day_at(run))
        self.schedule.wait_chosen.connect(lambda job: frame.nav.open_job(job, "steps"))
        self.schedule.departure_chosen.connect(frame.nav.open_help)
        inner_schedule.addWidget(self.schedule)
        self.schedule_card = holder
        box.addWidget(holder)
        self.shipments = DeparturesPanel()
        self.shipments.opened.connect(frame.nav.open_any_job)
        self.shipments.help_wanted.connect(frame.nav.open_help)
        self.shipments.setFixedHeight(theme.current.px(176) + (70 if theme.current.gloves else 0))
        box.addWidget(self.shipments)
        self.cards: list[WaitCard] = []

    def resizeEvent(self, event: QResizeEvent) -> None:
        """A wide window shows more of the day."""
        super().resizeEvent(event)
        self.schedule.hours = 3.0 * max(1.0, event.size().width() / 1280)

    def _done(self, job: int, key: str) -> None:
        """Finish the step on the card. A second press before the next step is shown counts once."""
        if self._is_open(job, key):
            from creekbed.workshop.bench import job_steps

            self.do(lambda: job_steps.finish_step(self.shop, job, key))

    def _is_open(self, job: int, key: str) -> bool:
        view = self.frame.records.job(job)
        step = view.step(key) if view is not None else None
        return step is not None and step.work is None

    def _failed(self, job: int, key: str) -> None:
        if self._is_open(job, key):
            self.frame.nav.ask_what_failed(job, key)

    def _take_up(self, job: int, key: str) -> None:
        from creekbed.workshop.bench import job_steps

        if self.frame.records.in_hand_of(self.shop.person) != (job, key):
            self.do(lambda: job_steps.take_up(self.shop, job, key))

    def _put_aside(self) -> None:
        from creekbed.workshop.bench import job_steps

        if self.frame.records.in_hand_of(self.shop.person) is not None:
            self.do(lambda: job_steps.put_aside(self.shop))

    def refresh(self) -> None:
        whole(self.show_in_turns())

    def show_in_turns(self) -> Turns[None]:
        home = self.frame.home
        if home.next is not None:
            n = home.next
            later = n.start > home.now and (n.start - home.now).total_seconds() > 90
            start = f"from {clock_words(n.start, home.now)}" if later else ""
            uses = uses_words(self.shop.catalogue, n.step.step, cloth_words(self.shop, n.view, n.step.step))
            self.hand.set_step(n.view, n.step, n.why, n.in_hand, start, uses, beside(self.frame, n.view, n.step))
        elif home.jobs:
            blocked = sum(1 for v in home.jobs if v.blocked)
            self.hand.set_nothing(
                "Nothing waits for your hands", f"{len(home.jobs)} open, {blocked} of them stand still."
            )
        else:
            self.hand.set_nothing("The bench is clear", "Scan a tag or press Book in when something comes back.")
        self._show_first_steps(home)
        self._show_waits(home)
        count = len(home.waits)
        self.running_head.setText(f"Timers: {count}" if count > 2 else "Timers")
        yield None
        self.shipments.set_home(home)
        yield None
        day = yield from day_in_turns(self.shop, home, self.schedule.hours, week=False)
        yield None
        rows = max(1, len(day.rows))
        self.schedule_card.setFixedHeight(theme.current.px(64) + theme.current.px(34 if rows < 3 else 28) * rows)
        yield from self.schedule.show_day_in_turns(day)
        if self.hand.step is not None and not isinstance(self.frame.focusWidget(), QLineEdit):
            self.hand.primary.setFocus(Qt.FocusReason.OtherFocusReason)

    def _show_first_steps(self, home: HomeView) -> None:
        """On an empty bench, the ways to begin and what a new shop has not said yet; else the step in hand."""
        empty = not home.jobs
        self.shipments.setVisible(not empty or bool(home.shipments))
        if empty and self.first is None:
            from creekbed.window.home.first_steps import FirstSteps, SetUpList

            self.first, self.to_say = FirstSteps(self), SetUpList(self)
            self.first.setMinimumHeight(self.hand.minimumHeight())
            self.top.insertWidget(0, self.first, self.top.stretch(self.top.indexOf(self.hand)))
            self.right.addWidget(self.to_say, 3)
        self.hand.setVisible(not empty)
        if self.first is None or self.to_say is None:
            return
        self.first.setVisible(empty)
        unsaid = False
        if empty:
            from creekbed.workshop.shop.set_up import set_up

            found = set_up(self.shop)
            self.first.set_up(found)
            self.to_say.set_up(found)
            unsaid = bool(found.unsaid)
        self.to_say.setVisible(unsaid)
        for widget in (self.running_head, self.running_area):
            widget.setVisible(self.to_say.isHidden() or bool(home.waits))

    def ask_who(self) -> None:
        """Ask who works here: the first one sits at this window from now on."""
        from creekbed.workshop.shop import staff

        said = self.ask(
            "Who works here?", "Your initials, up to four letters; hours too if they are not the shop's: AB 9-13.",
            least=1, ok="Keep",
        )  # fmt: skip
        names: list[str] = []
        if said is not None and self.do(lambda: names.append(staff.add_worker(self.shop, said))):
            self.frame.sit_down(names[0])

    def ask_hours(self) -> None:
        """Ask when the bench is open, and how much room there is."""
        from creekbed.window.shop.capacity_dialog import RoomDialog

        self.open_dialog(RoomDialog(self))

    def ask_identity(self) -> None:
        """Ask what the shop is called, where it is, and which paper it prints on."""
        from creekbed.window.shop.identity_dialog import IdentityDialog

        self.open_dialog(IdentityDialog(self))

    def ask_formats(self) -> None:
        """Ask how the shop writes times, money and quantities, which pitch it tunes to, how warm its room is."""
        from creekbed.window.shop.formats_dialog import FormatsDialog

        self.open_dialog(FormatsDialog(self))

    def open_demo(self) -> None:
        """Open the demo shop: another window, another folder, nothing of it comes here."""
        if QProcess.startDetached(sys.executable, ["-m", "creekbed", "demo"])[0]:
            self.frame.say("The demo opens in a window of its own; it takes some seconds the first time.")
        else:
            self.frame.say("The demo could not be started.", warn=True)

    def _show_waits(self, home: HomeView) -> None:
        """Keep the cards of waits that still run, make those of new ones, the most urgent first."""
        rewet = self.shop.catalogue.house.limits.rewet_every_min
        compact = len(home.waits) > 3  # so that all of them are in sight
        old = {card.wait.of: card for card in self.cards}
        keep = {key: card for key, card in old.items() if card.compact == compact}
        self.cards = [keep.get(wait.of) or self._card(wait, compact) for wait in home.waits]
        for card in self.cards:
            if old.get(card.wait.of) is card:
                del old[card.wait.of]
        for gone in old.values():
            gone.hide()
            self.running.removeWidget(gone)
            gone.deleteLater()
        for n, card in enumerate(self.cards):
            if self.running.indexOf(card) != n:
                self.running.insertWidget(n, card)
        self.nothing_runs.setVisible(not self.cards)
        for card, wait in zip(self.cards, home.waits, strict=True):
            card.wait = wait
            card.tell(home.now, rewet)

    def _card(self, wait: WaitView, compact: bool) -> WaitCard:
        card = WaitCard(wait, self.frame.where(wait.place), compact=compact)
        card.opened.connect(lambda job: self.frame.nav.open_job(job, "steps"))
        card.rewet.connect(self._rewet)
        card.dried.connect(self._dried)
        card.warm.connect(self.frame.nav.open_case)
        return card

    def _rewet(self, wait: int) -> None:
        from creekbed.workshop.bench import waits

        self.do(lambda: waits.rewet(self.shop, wait))

    def _dried(self, wait: int) -> None:
        from creekbed.workshop.bench import waits

        self.do(lambda: waits.dried(self.shop, wait))

    def tick(self) -> None:
        now = self.shop.now
        rewet = self.shop.catalogue.house.limits.rewet_every_min
        on_record = {w.of: w for w in self.frame.records.waits} if self.frame.records is not None else {}
        for card in self.cards:
            card.wait = on_record.get(card.wait.of, card.wait)  # a clock that was set has moved it since the picture
            card.tell(now, rewet)
