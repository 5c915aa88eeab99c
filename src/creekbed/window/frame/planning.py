"""Keeps the plan of one window up to date: repairs it after actions, and looks for a better one between them."""

from __future__ import annotations

from collections.abc import Collection
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer

from creekbed.core.turns import Turns
from creekbed.window.shared.standstill import standstill
from creekbed.window.shared.turns import InTurns

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame
    from creekbed.workshop.bench.bench_view import PlannedBench
    from creekbed.workshop.planning.planner_worker import PlannerWorker

THOUGHT_MS = 250
PICTURES = ("home", "day", "list")
"""Pages that are a picture of the plan: they are drawn when it is made anew."""


class WindowPlanner:
    """Keeps the plan on show of one window.

    Attributes:
        worker: asks the planner's process, or ``None``.
        work: the plan being made anew while people go on.
        behind: whether something was done that the plan on show does not know of yet.
    """

    def __init__(self, frame: Frame):
        self.frame = frame
        self.worker: PlannerWorker | None = None
        self.work = InTurns(frame, frame.could_not)
        self.behind = False
        self._conflict: object = None
        """What the last search found that cannot all be kept."""
        self._to_draw: Collection[str] | None = ()
        """Pages that a plan under way is to draw, so that one that takes its place draws them too."""
        self.timer = QTimer(frame)
        self.timer.timeout.connect(self.take_answer)

    def start(self) -> None:
        """Look for better plans from now on."""
        from creekbed.workshop.planning.planner_worker import PlannerWorker

        self.stop()
        self.worker = self.frame.shop.planner.answers = PlannerWorker(self.frame.shop)
        self.timer.start(THOUGHT_MS)

    def stop(self) -> None:
        """Leave the plan as it is."""
        from creekbed.workshop.planning.bench_planner import AtOnce

        self.timer.stop()
        if self.worker is not None:
            self.worker.close()
            self.worker = None
            if self.frame.shop is not None:
                self.frame.shop.planner.answers = AtOnce()

    def take_answer(self) -> None:
        """Take in a better plan and show it; search on."""
        if standstill.lasts or self.worker is None:
            return
        if self.work.busy:  # what is laid out now is the plan that was thought about
            return
        if self.worker.may_go_on:  # its process had ended
            self.work.start(self._settled())
            return
        waited = self.worker.thinking
        if not self.worker.poll():
            if waited and not self.worker.thinking:  # it was about a bench that has changed meanwhile: think anew
                self.work.start(self._settled())
            return
        found = self._conflict = self.frame.shop.planner.conflict
        if found is not None:
            from creekbed.workshop.planning.explanations import told_conflict

            self.frame.say(
                told_conflict(self.frame.shop, self.frame.home, found), warn=True,
                still=lambda: self._conflict is found, about="conflict",
            )  # fmt: skip
        self.work.start(self.planned_anew(PICTURES))

    def plan_anew(self, pages: Collection[str] | None = None) -> None:
        """Read and plan anew in the background, then show it; an action of somebody goes first.

        Args:
            pages: drawn where they are on show, any if ``None``; what stands beside every page is drawn always.
        """
        waiting = self._to_draw if self.work.busy else ()
        self._to_draw = None if pages is None or waiting is None else {*pages, *waiting}
        self.work.start(self.planned_anew(self._to_draw))

    def planned_anew(self, pages: Collection[str] | None) -> Turns[None]:
        """Plan the bench and draw it; then search for a better plan, and keep the chances."""
        from creekbed.workshop.bench.bench_records import read_in_turns
        from creekbed.workshop.bench.bench_view import plan_in_turns
        from creekbed.workshop.planning.forecast_calibration import keep

        records = yield from read_in_turns(self.frame.shop, self.frame.shop.now, self.frame.records)
        yield None
        laid = yield from plan_in_turns(self.frame.shop, records)
        told = self.frame.home.moved
        yield from self._shown(laid, pages)
        if self.frame.home.moved != told:
            self._tell_moved()
        keep(self.frame.shop, self.frame.home)
        yield None
        yield from self._settled()

    def follow(self, *, drawn: bool = True) -> None:
        """After an action: repair the plan on show for the bench as it is now, and show it.

        Args:
            drawn: whether the page on show is drawn as things stood; else it is drawn first.
        """
        self.behind, self._to_draw = True, PICTURES
        self.work.start(self._followed(drawn))

    def _followed(self, drawn: bool) -> Turns[None]:
        from creekbed.workshop.bench.bench_view import plan_in_turns

        if not drawn:
            yield from self._drawn()
            yield None
        laid = yield from plan_in_turns(self.frame.shop, self.frame.records, keep_it=True)
        yield from self._shown(laid, PICTURES)
        self._tell_moved()
        yield from self._thorough() if self.frame.shop.planner.hasty else self._settled()

    def go_on(self) -> None:
        """After a first plan is on show: replan fully, then search for a better one."""
        self.work.start(self._thorough() if self.frame.shop.planner.hasty else self._settled())

    def _thorough(self) -> Turns[None]:
        from creekbed.core.planning.replanning import alike
        from creekbed.workshop.bench.bench_view import plan_in_turns

        kept = self.frame.home
        laid = yield from plan_in_turns(self.frame.shop, self.frame.records)
        if laid.plan.moved or not alike(kept.plan, laid.plan):
            yield from self._shown(laid, PICTURES)
            if self.frame.home.moved != kept.moved:
                self._tell_moved()
        yield from self._settled()

    def _tell_moved(self) -> None:
        """Say why the next step has changed, after the message on show."""
        moved, notice = self.frame.home.moved, self.frame.notice
        if moved:
            said = self.frame.words.text().rstrip(".") if notice.isVisible() and not notice.lasts else ""
            self.frame.say(
                f"{said}. {moved}" if said else moved,
                warn=bool(said) and notice.warns,
            )

    def _shown(self, laid: PlannedBench, pages: Collection[str] | None) -> Turns[None]:
        """Show a plan; the page on show is drawn only if it is one of these."""
        from creekbed.workshop.bench.bench_view import picture

        yield None
        self.frame.home, self.frame.records = picture(self.frame.shop, laid), laid.records
        yield None
        self.frame.stage_bar.set_home(self.frame.home)
        self.frame.ticking.ring()
        yield None
        if pages is None or self.frame.here in pages:
            yield from self._drawn()
        elif self.frame.here:
            self.frame.page(self.frame.here).planned()
        self.behind, self._to_draw = False, ()
        yield None
        self.frame.tell_undo()
        yield None

    def _drawn(self) -> Turns[None]:
        """Draw the page on show in turns; it is painted when all of it is drawn."""
        if not self.frame.here:
            return
        page = self.frame.page(self.frame.here)
        page.setUpdatesEnabled(False)
        try:
            yield from page.show_in_turns()
        finally:
            page.setUpdatesEnabled(True)

    def _settled(self) -> Turns[None]:
        """Start a search for a better plan, and put the plan on show on record for other windows."""
        from creekbed.workshop.planning.plan_sharing import leave_in_turns

        if self.worker is not None:
            self.worker.look(self.frame.home)
        yield None
        yield from leave_in_turns(self.frame.shop)
