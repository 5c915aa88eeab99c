"""What the window does about the plan: looks for a better one meanwhile, lets others sit down."""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import Any

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QLabel

from creekbed.core.turns import Turns
from creekbed.window.shared.turns import InTurns

THOUGHT_MS = 250
PICTURES = ("home", "day", "list")
"""Pages that are a picture of the plan: they are drawn when it is made anew."""


class Planning:
    """The part of the frame that thinks about the plan; mixed into it.

    Attributes:
        thinker: thinks in a process of its own, or ``None``.
        planning: the plan being made anew while people go on.
        behind: whether something was done that the plan on show does not know of yet.
    """

    shop: Any
    home: Any
    records: Any
    here: str
    thinker: Any
    course: Any
    planning: InTurns
    words: QLabel
    notice: Any
    say: Callable[..., None]
    refresh: Callable[[], None]
    page: Callable[[str], Any]
    tell_undo: Callable[[], None]
    _ring: Callable[[], None]
    _thought: QTimer
    behind = False
    _conflict: Any = None
    """What the last thought found that cannot all be kept."""
    _to_draw: Collection[str] | None = ()
    """Pages that a plan under way is to draw, so that one that takes its place draws them too."""

    def start_thinking(self) -> None:
        """Look for better plans from now on."""
        from creekbed.workshop.planning.planner_worker import PlannerWorker

        self.stop_thinking()
        self.thinker = PlannerWorker(self.shop)
        self._thought.start(THOUGHT_MS)

    def stop_thinking(self) -> None:
        """Leave the plan as it is."""
        self._thought.stop()
        if self.thinker is not None:
            self.thinker.close()
            self.thinker = None

    def _take_thought(self) -> None:
        """Take in what came of thinking, and show it; ask for more."""
        if self.thinker is None or self.planning.busy:  # what is laid out now is the plan that was thought about
            return
        if self.thinker.may_go_on:  # its process had ended
            self.planning.start(self._settled())
            return
        waited = self.thinker.thinking
        if not self.thinker.poll():
            if waited and not self.thinker.thinking:  # it was about a bench that has changed meanwhile: think anew
                self.planning.start(self._settled())
            return
        found = self._conflict = self.shop.planner.conflict
        if found is not None:
            from creekbed.workshop.planning.explanations import conflict_words

            self.say(
                conflict_words(self.shop, self.home, found), warn=True,
                still=lambda: self._conflict is found,
            )  # fmt: skip
        self.planning.start(self._planned_again(PICTURES))

    def plan_in_turns(self, pages: Collection[str] | None = None) -> None:
        """Read and plan anew while people go on, then show it; what somebody does meanwhile goes before.

        Args:
            pages: drawn where they are on show, any if ``None``; what stands beside every page is drawn always.
        """
        waiting = self._to_draw if self.planning.busy else ()
        self._to_draw = None if pages is None or waiting is None else {*pages, *waiting}
        self.planning.start(self._planned_again(self._to_draw))

    def _planned_again(self, pages: Collection[str] | None) -> Turns[None]:
        """The bench planned, pictured and drawn; then it is thought about, and the chances are kept."""
        from creekbed.workshop.bench.bench_records import read_in_turns
        from creekbed.workshop.bench.bench_view import plan_in_turns
        from creekbed.workshop.planning.forecast_calibration import keep

        records = yield from read_in_turns(self.shop, self.shop.now, self.records)
        yield
        laid = yield from plan_in_turns(self.shop, records)
        told = self.home.moved
        yield from self._shown(laid, pages)
        if self.home.moved != told:
            self._tell_moved()
        keep(self.shop, self.home)
        yield
        yield from self._settled()

    def follow(self, *, drawn: bool = True) -> None:
        """After something was done: lay out the plan that people see on the bench as it is now, and show it.

        Args:
            drawn: whether the page on show is drawn as things stood; else it is drawn first.
        """
        self.behind, self._to_draw = True, PICTURES
        self.planning.start(self._followed(drawn))

    def _followed(self, drawn: bool) -> Turns[None]:
        from creekbed.workshop.bench.bench_view import plan_in_turns

        if not drawn:
            yield from self._drawn()
            yield
        laid = yield from plan_in_turns(self.shop, self.records, keep_it=True)
        yield from self._shown(laid, PICTURES)
        self._tell_moved()
        yield from self._thorough() if self.shop.planner.hasty else self._settled()

    def go_on_planning(self) -> None:
        """After a first plan is on show: look whether another is better, then think about it."""
        self.planning.start(self._thorough() if self.shop.planner.hasty else self._settled())

    def _thorough(self) -> Turns[None]:
        from creekbed.core.planning.replanning import alike
        from creekbed.workshop.bench.bench_view import plan_in_turns

        kept = self.home
        laid = yield from plan_in_turns(self.shop, self.records)
        if laid.plan.moved or not alike(kept.plan, laid.plan):
            yield from self._shown(laid, PICTURES)
            if self.home.moved != kept.moved:
                self._tell_moved()
        yield from self._settled()

    def _tell_moved(self) -> None:
        """Why what was to be next is not, behind what was said."""
        if self.home.moved:
            said = self.words.text().rstrip(".") if self.notice.isVisible() and not self.notice.lasts else ""
            self.say(f"{said}. {self.home.moved}" if said else self.home.moved, warn=bool(said) and self.notice.warns)

    def _shown(self, laid: Any, pages: Collection[str] | None) -> Turns[None]:
        """The picture of a plan made and drawn; the page on show only if it is one of these."""
        from creekbed.workshop.bench.bench_view import picture

        yield
        self.home, self.records = picture(self.shop, laid), laid.records
        yield
        self.course.set_home(self.home)
        self._ring()
        yield
        if pages is None or self.here in pages:
            yield from self._drawn()
        elif self.here:
            self.page(self.here).planned()
        self.behind, self._to_draw = False, ()
        yield
        self.tell_undo()
        yield

    def _drawn(self) -> Turns[None]:
        """The page on show, a little at a time; it is painted when all of it is drawn."""
        if not self.here:
            return
        page = self.page(self.here)
        page.setUpdatesEnabled(False)
        try:
            yield from page.show_in_turns()
        finally:
            page.setUpdatesEnabled(True)

    def _settled(self) -> Turns[None]:
        """The plan on show is thought about, and left on record for other windows."""
        from creekbed.workshop.planning.plan_sharing import leave_in_turns

        if self.thinker is not None:
            self.thinker.look(self.home)
        yield
        yield from leave_in_turns(self.shop)

    def sit_down(self, person: str) -> None:
        """Somebody else works at this window from now on: what is next is next for their hands."""
        self.shop.person = person
        self.refresh()
        self.say(f"{person} works at this window now.")
