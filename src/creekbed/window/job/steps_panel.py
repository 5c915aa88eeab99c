"""The steps of a job: all of them in order on the left, the chosen one beside them, its waits below."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget
from shiboken6 import isValid

from creekbed.core.turns import Turns, whole
from creekbed.window.home.running_waits import WaitCard
from creekbed.window.job.step_card import StepCard
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import Flow, button, card, clear, entry, how_sure, label, listing, row
from creekbed.window.tools.for_step import beside
from creekbed.words.times import clock_words
from creekbed.workshop.arrival import photos
from creekbed.workshop.bench import job_steps, waits
from creekbed.workshop.bench.job_view import JobView, StepView
from creekbed.workshop.bench.settling import settling_of
from creekbed.workshop.bench.wait_view import WaitView
from creekbed.workshop.cleaning import shelf
from creekbed.workshop.cleaning.cloths import cloth_words
from creekbed.workshop.inspection import findings
from creekbed.workshop.release.packing import Piece, pieces_to_pack
from creekbed.workshop.supplies import awaited_parts
from creekbed.workshop.supplies.stock import uses_words

if TYPE_CHECKING:
    from creekbed.window.job.job_page import JobPage

STATE_SIGNS = {
    "done": "done", "waived": "skipped", "ready": "now", "waiting": "waits", "later": "later", "held": "not now",
}  # fmt: skip


FOLD = ""
"""Stands for the line into which the steps fold that are done."""


class StepsPanel(QWidget):
    """List and card of the steps; a step can be read at any time, and done when its turn has come."""

    def __init__(self, page: JobPage, made: StepCard | None = None):
        """Make it.

        Args:
            made: its card, where that was made before.
        """
        super().__init__()
        self.page = page
        self.chosen: str | None = None
        self.view: JobView | None = None
        self.cards: list[WaitCard] = []
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(theme.STEP * 2)
        self.list = listing("Steps of this job")
        self.list.setObjectName("steps")
        self.list.currentItemChanged.connect(self._choose)
        box.addWidget(self.list, 36)
        self.card = made or StepCard(full=True)
        self._follow_card(page)
        right = self.card.below
        self.boxes = QVBoxLayout()
        self.boxes.setSpacing(theme.STEP)
        self.card.asks.addLayout(self.boxes)
        self._unmade = [self._retune_box, self._took_box, self._water_box, self._pack_box, self._again_box]
        """Makes each of the boxes that some steps need, before a job is shown."""
        self.settling = QVBoxLayout()
        right.addLayout(self.settling)
        self.curve: QWidget | None = None
        self.waits = QVBoxLayout()
        self.waits.setSpacing(theme.STEP)
        right.addLayout(self.waits)
        box.addWidget(self.card, 64)
        self.unfolded = False
        """Whether the steps that are done are listed one by one."""

    def ready_in_turns(self) -> Turns[None]:
        """Make the boxes one after another."""
        while self._unmade:
            self.boxes.addWidget(self._unmade.pop(0)())
            yield None

    def _follow_card(self, page: JobPage) -> None:
        """What is pressed on the card is done."""
        self.card.done.connect(lambda job, key: self.page.finish(key))
        self.card.opened.connect(lambda job, key: page.frame.nav.open_step(job, key))
        self.card.failed.connect(page.frame.nav.ask_what_failed)
        self.card.tooled.connect(page.frame.nav.open_tool_for)
        self.card.washed.connect(page.frame.hands_washed)
        self.card.together.connect(page.frame.do_together)
        self.card.waived.connect(self._waive)
        self.card.awaits.connect(self._await)
        self.card.arrived.connect(lambda job, key: page.do(lambda: awaited_parts.is_here(page.shop, job, key)))
        self.card.booked.connect(lambda family, key: page.frame.nav.open_book(family, "job", key))

    def _retune_box(self) -> QWidget:
        self.retune_frame, retune = card(margin=12)
        self.cents = entry("cents", "How flat was it, in cents", "16 cents, or leave empty", self._retuned)
        retune.addWidget(label("How flat was the new string before you turned?", "small"))
        retune.addLayout(row(self.cents, button("Retuned", self._retuned, "primary", "retuned")))
        return self.retune_frame

    def _again_box(self) -> QWidget:
        self.again_frame, again = card(margin=12)
        self.again_cents = entry("again_cents", "How flat it was, in cents", "9 cents, or leave empty", self._again)
        again.addWidget(label("Retuned once more, so that it holds? How flat was the new string?", "small"))
        again.addLayout(row(self.again_cents, button("Retuned once more", self._again, "", "retuned_again")))
        return self.again_frame

    def _took_box(self) -> QWidget:
        self.took_frame, took = card(margin=12)
        self.took = entry("took", "How much it took", "0.4 ml, or leave empty", self._taken)
        took.addWidget(label("How much did this one take? It is offered the next time.", "small"))
        took.addLayout(row(self.took, button("Noted, done", self._taken, "primary", "taken")))
        return self.took_frame

    def _water_box(self) -> QWidget:
        self.water_frame, water = card(margin=12)
        self.gained = entry("gained", "How much it gained", "1.6 g", self._weighed)
        water.addWidget(label("Weighed? How much did it, or the cloth, gain by being played?", "small"))
        water.addLayout(row(self.gained, button("Keep it", self._weighed, "", "weighed")))
        water.addWidget(how_sure("water"))
        return self.water_frame

    def _pack_box(self) -> QWidget:
        self.pack_frame, pack = card(margin=12)
        self.closes = button("Lid closes without force", None, "", "closes")
        self.presses = button("Nothing presses on it", None, "", "nothing_presses")
        self.latched = button("Latches tugged, lifted a hand's breadth", None, "", "latches_hold")
        for tick in (self.closes, self.presses, self.latched):
            tick.setCheckable(True)
        self.packing = button("See how it was packed", self._see_packing, "quiet", "see_packing")
        self.next_in = button("In", lambda: self._turn(*self._not_in()[:1]), "primary", "piece_in", "F2")
        self.all_in = button("All of it is in", lambda: self._turn(*self._not_in()), "", "all_in")
        pack.addLayout(row(self.next_in, self.all_in, self.packing, None))
        self.piece_flow, holder = Flow(6), QWidget()
        holder.setLayout(self.piece_flow)
        pack.addWidget(holder)
        self.pieces: tuple[Piece, ...] = ()
        self.piece_ticks: dict[str, QPushButton] = {}
        self.pieces_in: set[str] = set()
        pack.addWidget(label("Try it, then press all three:", "small"))
        pack.addLayout(row(self.closes, self.presses))
        pack.addLayout(row(self.latched, button("Packed", self._packed, "primary", "packed")))
        return self.pack_frame

    def show_job(self, view: JobView) -> None:
        """Draw the steps of a job."""
        whole(self.ready_in_turns())
        if self.view is None or self.view.job.id != view.job.id:
            self.pieces_in = set()
        self.view = view
        keys = [s.step.key for s in view.steps]
        if self.chosen not in keys or self._is_done(self.chosen):
            self.chosen = next((s.step.key for s in view.steps if s.state == "ready"), None) or next(
                (s.step.key for s in view.open_steps), keys[-1] if keys else None
            )
        self._fill_list(view)
        self._show_chosen()
        self._show_settling(view)
        self._show_waits(view)
        if not isinstance(self.focusWidget(), QLineEdit):
            (self.card.primary if self.card.primary.isEnabled() else self.list).setFocus()

    def _fill_list(self, view: JobView) -> None:
        """The steps in order; those that are done fold into one line until somebody opens it."""
        self.list.blockSignals(True)
        self.list.clear()
        done = [s for s in view.steps if s.work is not None]
        if done:
            self._add(f"{len(done)} done" + ("" if self.unfolded else ": show them"), FOLD, "muted")
        for step in view.steps:
            if step.work is not None and not self.unfolded and step.step.key != self.chosen:
                continue
            item = self._add(
                f"{self._sign(view, step)}:  {step.step.what}", step.step.key,
                "muted" if step.state in ("done", "waived", "later", "held") else "",
            )  # fmt: skip
            item.setFont(theme.current.font(theme.TEXT_SIZE, step.state == "ready"))
            if step.step.key == self.chosen:
                self.list.setCurrentItem(item)
                QTimer.singleShot(0, lambda at=item: self._scroll_to(at))
        self.list.blockSignals(False)

    def _add(self, words: str, key: str, tone: str) -> QListWidgetItem:
        item = QListWidgetItem(words)
        item.setData(Qt.ItemDataRole.UserRole, key)
        if tone:
            item.setForeground(theme.current.c.q(tone))
        self.list.addItem(item)
        return item

    def _sign(self, view: JobView, step: StepView) -> str:
        """How a step stands: what is waiting says until when, and for what."""
        if step.state != "waiting" or step.until is None:
            return STATE_SIGNS[step.state]
        for_what = [w.name for w in view.waits if w.key in step.step.waits_for and not w.contact.may_end]
        said = f", {for_what[0]}" if for_what else ""
        return f"from {clock_words(step.until, self.page.shop.now)}{said}"

    def _scroll_to(self, item: QListWidgetItem) -> None:
        if isValid(item) and self.list.row(item) >= 0:
            self.list.scrollToItem(item, QListWidget.ScrollHint.PositionAtCenter)

    def _is_done(self, key: str | None) -> bool:
        step = self.view.step(key) if self.view is not None and key is not None else None
        return step is not None and step.work is not None

    def _choose(self, item: QListWidgetItem | None, before: QListWidgetItem | None) -> None:
        if item is None:
            return
        key = item.data(Qt.ItemDataRole.UserRole)
        if key == FOLD:
            self.unfolded = not self.unfolded
            QTimer.singleShot(0, self._fold_anew)  # the list is not filled anew while it tells what was chosen
            return
        self.chosen = key
        self._show_chosen()

    def _fold_anew(self) -> None:
        if self.view is not None:
            self._fill_list(self.view)

    def choose(self, key: str) -> None:
        """Choose a step by its key, also one that is done."""
        if self._is_done(key) and not self.unfolded:
            self.unfolded = True
            self._fold_anew()
        for n in range(self.list.count()):
            if self.list.item(n).data(Qt.ItemDataRole.UserRole) == key:
                self.list.setCurrentRow(n)

    def _step(self) -> StepView | None:
        return self.view.step(self.chosen) if self.view is not None and self.chosen is not None else None

    def _show_chosen(self) -> None:
        step = self._step()
        self.retune_frame.hide()
        self.pack_frame.hide()
        if step is None or self.view is None:
            self.card.set_nothing("No steps", "")
            return
        why = ""
        if step.state == "held":
            names = ", ".join(self.view.family.find_check(k).name.lower() for k in step.step.held)
            why = f"what was found forbids it: {names}"
        elif step.state == "later":
            before = [b.step.what for b in self.view.steps if b.step.key in step.step.after and b.work is None]
            why = f"later; first: {before[0]}" if before else ""
            if self.view.kept_back(step.step):
                first = self.view.treatment
                why = f"in quarantine; first: {first}" if first else "when the quarantine is lifted"
        elif step.work is not None:
            state = "skipped" if step.state == "waived" else "done"
            why = f"{state} {clock_words(step.work.at)} by {step.work.person}" + (
                f": {step.work.reason}" if step.work.reason else ""
            )
        if step.parts and step.work is None:
            now = self.page.shop.now
            coming = ", ".join(f"{p.what} {clock_words(p.at, now)}" for p in step.parts)
            here = all(p.at <= now for p in step.parts)
            why = f"{coming}: it should be here by now" if here else f"it waits for this: {coming}"
        uses = uses_words(self.page.shop.catalogue, step.step, cloth_words(self.page.shop, self.view, step.step))
        self.card.set_step(self.view, step, why, False, uses=uses, beside=beside(self.page.frame, self.view, step))
        ready = step.state == "ready" and not self.view.blocked
        self.retune_frame.setVisible(step.step.kind == "retune" and ready)
        self.pack_frame.setVisible(step.step.kind == "pack" and ready)
        self.took_frame.setVisible(step.step.logs is not None and ready)
        self.water_frame.setVisible(step.step.base == "after_air" and self.view.family.breath is not None)
        if self.pack_frame.isVisibleTo(self):
            self.packing.setVisible(photos.packing_photo(self.page.shop, self.view.tag) is not None)
            self._show_pieces()
        self.card.fit_picture()
        self.closes.setChecked(False)
        self.presses.setChecked(False)
        self.latched.setChecked(False)

    def _show_pieces(self) -> None:
        """Every piece that goes out, as a button that is pressed when it is in."""
        assert self.view is not None
        self.pieces = pieces_to_pack(self.view)
        clear(self.piece_flow)
        self.piece_ticks = {
            p.key: button(p.name[:1].upper() + p.name[1:], partial(self._turn, p.key), "", f"in_{p.key}")
            for p in self.pieces
        }
        for tick in self.piece_ticks.values():
            tick.setCheckable(True)
            self.piece_flow.addWidget(tick)
        self.pieces_in &= self.piece_ticks.keys()
        self._show_what_is_in()

    def _show_what_is_in(self) -> None:
        """Press the buttons of what is in, and put the next piece on the big action."""
        for key, tick in self.piece_ticks.items():
            tick.setChecked(key in self.pieces_in)
        left = [p.name for p in self.pieces if p.key not in self.pieces_in]
        for way in (self.next_in, self.all_in):
            way.setVisible(bool(left))
        if left:
            words = f"In: {left[0]}"
            self.next_in.setText(words + ("   F2" if theme.current.scale < 1.3 else ""))
            self.next_in.setAccessibleName(words)

    def _not_in(self) -> list[str]:
        return [p.key for p in self.pieces if p.key not in self.pieces_in]

    def _turn(self, *pieces: str) -> None:
        """These pieces are in now, or, where they were, out again."""
        self.pieces_in ^= set(pieces)
        self._show_what_is_in()
        self.card.fit_picture()

    def _see_packing(self) -> None:
        photo = photos.packing_photo(self.page.shop, self.view.tag) if self.view is not None else None
        if photo is not None:
            from creekbed.window.shared.photo_strip import show_photo

            show_photo(self.page, photo)

    def _show_settling(self, view: JobView) -> None:
        """The settling curve of a new string, while there is one."""
        found = settling_of(self.page.shop, view)
        left = any(s.step.kind == "retune" for s in view.open_steps)
        self.again_frame.setVisible(found is not None and not left)
        if found is None:
            if self.curve is not None:
                self.curve.hide()
            return
        if self.curve is None:
            from creekbed.window.job.settling_plot import SettleCard  # the plotting library loads only when wanted

            self.curve = SettleCard()
            self.settling.addWidget(self.curve)
        self.curve.show()
        self.curve.set_settling(found)  # type: ignore[attr-defined]

    def _show_waits(self, view: JobView) -> None:
        clear(self.waits)
        self.cards = []
        for wait in view.waits:
            wait_card = WaitCard(wait, self.page.frame.where(wait.place), early=True)
            wait_card.warm.connect(self.page.frame.nav.open_case)
            wait_card.rewet.connect(lambda w: self.page.do(lambda: waits.rewet(self.page.shop, w)))
            wait_card.dried.connect(lambda w: self.page.do(lambda: waits.dried(self.page.shop, w)))
            wait_card.early.connect(self._early)
            wait_card.weigh.connect(self._weigh)
            self.waits.addWidget(wait_card)
            self.cards.append(wait_card)
        self.tick()

    def tick(self) -> None:
        """Draw the waits at this second."""
        for wait_card in self.cards:
            wait_card.tell(self.page.shop.now, self.page.shop.catalogue.house.limits.rewet_every_min)

    def _weigh(self, wait: int) -> None:
        from creekbed.window.job.drying_dialog import DryDialog  # the plotting library loads only when wanted

        self.page.open_dialog(DryDialog(self.page, wait))

    def _early(self, wait: WaitView) -> None:
        reason = self.page.ask(
            "End it early", "Why is it dry or settled already?", ready=("weighed dry", "holds its pitch")
        )
        if reason is not None:
            if wait.id is None:
                self.page.do(lambda: waits.open_case_early(self.page.shop, wait.job_id, reason))
            else:
                number = wait.id
                self.page.do(lambda: waits.end_early(self.page.shop, number, reason))

    def _waive(self, job: int, key: str) -> None:
        reason = self.page.ask("Leave this step out", "Why? It stays on record and on the gate.", ok="Leave it out")
        if reason is not None:
            self.page.do(lambda: job_steps.waive_step(self.page.shop, job, key, reason))

    def _await(self, job: int, key: str) -> None:
        assert self.view is not None
        missing = {i for i, line in self.view.lines.items() if line.state == "missing"}
        names = tuple(i.name for i in self.view.family.item if i.key in missing)
        said = self.page.ask(
            "Wait for a part", "What is it, and when does it come? Such as “end plug, Fri 10:15”.",
            ready=names, ok="Wait for it",
        )  # fmt: skip
        if said is not None:
            what, at = findings.read_back(said, self.page.shop.now)
            self.page.do(lambda: awaited_parts.wait_for(self.page.shop, job, key, what, at))

    def _retuned(self) -> None:
        if self.chosen is not None and self.page.finish(self.chosen, cents=self.cents.text()):
            self.cents.clear()

    def _again(self) -> None:
        view, said = self.view, self.again_cents.text()
        if view is not None and self.page.do(lambda: job_steps.retune_again(self.page.shop, view.job.id, said)):
            self.again_cents.clear()

    def _weighed(self) -> None:
        view, said = self.view, self.gained.text()
        if view is not None and self.page.do(lambda: shelf.weigh_played(self.page.shop, view, said)):
            self.gained.clear()

    def _taken(self) -> None:
        if self.chosen is not None and self.page.finish(self.chosen, took=self.took.text()):
            self.took.clear()

    def _packed(self) -> None:
        if self.chosen is not None and self.page.finish(
            self.chosen, closes=self.closes.isChecked(), nothing_presses=self.presses.isChecked(),
            latches_hold=self.latched.isChecked(), packed=sorted(self.pieces_in),
        ):  # fmt: skip
            self.page.show_tab("ready")
