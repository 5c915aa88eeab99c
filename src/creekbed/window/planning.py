"""What the window does about the plan: looks for a better one meanwhile, asks what would help, lets others sit down."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QTimer

from creekbed.core.errors import CreekbedError

THOUGHT_MS = 250
HELP_S, HELPED = 6.0, 3
"""So long is looked for what would help, and for so many late jobs at once: house default."""


class Planning:
    """The part of the frame that thinks about the plan; mixed into it.

    Attributes:
        thinker: thinks in a process of its own, or ``None``.
    """

    shop: Any
    home: Any
    here: str
    thinker: Any
    course: Any
    say: Callable[..., None]
    page: Callable[..., Any]
    refresh: Callable[[], None]
    _thought: QTimer
    _helping: Any

    def start_thinking(self) -> None:
        """Look for better plans from now on."""
        from creekbed.workshop.thinker import Thinker

        self.stop_thinking()
        self.thinker = Thinker(self.shop)
        self._thought.start(THOUGHT_MS)

    def stop_thinking(self) -> None:
        """Leave the plan as it is."""
        self._thought.stop()
        if self.thinker is not None:
            self.thinker.close()
            self.thinker = None

    def _take_thought(self) -> None:
        """Show what came of thinking, where the plan is on show; ask for more."""
        if self.thinker is None:
            return
        waited = self.thinker.thinking
        if not self.thinker.poll():
            if waited and not self.thinker.thinking:  # it was about a bench that has changed meanwhile: think anew
                QTimer.singleShot(0, lambda: self._quietly(lambda: self.thinker.look(self.home)))
            return
        found = self.shop.planner.conflict
        if found is not None:
            from creekbed.workshop.why import conflict_words

            self.say(conflict_words(self.shop, self.home, found), warn=True)
        QTimer.singleShot(0, self._plan_again)

    def _plan_again(self) -> None:
        """What was thought becomes the plan on show; pictured and drawn in turns of their own: nothing stands still."""
        from creekbed.workshop.bench import plan_bench

        if self.thinker is None:
            return
        seen = self.home
        laid = plan_bench(self.shop, seen)
        QTimer.singleShot(0, lambda: self._picture_again(seen, laid))

    def _picture_again(self, seen: Any, laid: Any) -> None:
        from creekbed.workshop.bench import picture

        if self.thinker is None or self.home is not seen:  # something was done meanwhile, and is shown
            return
        self.home = picture(self.shop, laid)
        QTimer.singleShot(0, self._draw_again)

    def _draw_again(self) -> None:
        if self.thinker is None:
            return
        self.course.set_home(self.home)
        if self.here == "home":
            self.page("home").show_home(self.home)
        elif self.here == "day":
            self.page("day").refresh()
        QTimer.singleShot(0, lambda: self._quietly(lambda: self.thinker.look(self.home)))
        QTimer.singleShot(0, lambda: self._quietly(self._keep_chances))

    def _keep_chances(self) -> None:
        from creekbed.workshop.kept import keep

        keep(self.shop, self.home)

    def _quietly(self, act: Callable[[], Any]) -> None:
        """Do what belongs to thinking in a turn of its own; what goes wrong is said."""
        if self.thinker is None:
            return
        try:
            act()
        except CreekbedError as error:
            self.say(error.words(), warn=True)

    def ask_help(self, boat_id: int, then: Callable[[list[Any]], None]) -> None:
        """What would help the jobs that are late for a boat, looked for in a thread of its own; ``then`` gets it here.

        A second press while one is being looked for does nothing.
        """
        from creekbed.window.ask import Ask
        from creekbed.workshop.whatif import help_for

        if self._helping is not None:
            return
        view = self.home

        def told(rows: list[Any]) -> None:
            asked, self._helping = self._helping, None
            asked.wait()
            then(rows)

        self.say("Looking for what would help …")
        self._helping = Ask(lambda: help_for(self.shop, boat_id, view, seconds=HELP_S, most=HELPED))
        self._helping.answered.connect(told)
        self._helping.start()

    def sit_down(self, person: str) -> None:
        """Somebody else works at this window from now on: what is next is next for their hands."""
        self.shop.person = person
        self.refresh()
        self.say(f"{person} works at this window now.")
