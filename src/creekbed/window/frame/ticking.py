"""What the window does as time goes on: rings when a wait is due, looks at the clock and at what others have done."""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import Any

from PySide6.QtWidgets import QApplication, QStackedWidget

from creekbed.core.errors import CreekbedError, StoreProblem
from creekbed.window.frame.planning import PICTURES

OTHERS_S = 2
"""So often is asked what was done at other windows, seconds: house default."""
LIVELY = ("home", "day", "list", "journal")
"""Pages on which nothing is typed: they are drawn anew when somebody has done something elsewhere."""


class Ticking:
    """The part of the frame that is called once a second; mixed into it."""

    shop: Any
    home: Any
    records: Any
    here: str
    course: Any
    notice: Any
    next_wait: Any
    stack: QStackedWidget
    say: Callable[..., None]
    could_not: Callable[[CreekbedError], None]
    page: Callable[[str], Any]
    plan_in_turns: Callable[..., None]
    refresh: Callable[..., None]
    _note_air: Callable[[], None]
    _ticks = 0
    _rung: Collection[int] = frozenset()
    """Waits that are due, and were heard."""
    _pressed: Collection[int] = frozenset()
    """Waits whose last call was heard."""
    _reeds_rung = ""
    _bath_rung = False

    def _ring(self) -> None:
        """Show the most pressing wait on every page, and be heard once when one becomes due."""
        states = [(w, w.at(self.shop.now)) for w in self.records.waits]
        self.next_wait.set_waits(states)
        due = {w.id for w, state in states if state.may_end or state.over}
        fresh = [w for w, _ in states if w.id in due and w.id not in self._rung]
        self._rung = due
        pressing = {w.id for w, state in states if state.presses(self.shop.now)}
        last_call = [w for w, _ in states if w.id in pressing and w.id not in self._pressed]
        self._pressed = pressing
        heard = last_call or fresh
        if not heard:
            return
        QApplication.beep()
        ids = {w.id for w in heard}
        words = ". ".join(f"{w.tag}, {w.name.lower()}: {w.at_end.lower()}" for w in heard)
        if last_call:
            words = f"Last call, its longest time is nearly up: {words}"
            self.say(words, warn=True, still=lambda: not ids.isdisjoint(self._pressed))
        elif self.here != "home":
            self.say(f"Due now: {words}", warn=True, still=lambda: not ids.isdisjoint(self._rung))

    def _ring_bath(self) -> None:
        """Be heard once when the bath has become too cool to clean well."""
        from creekbed.workshop.cleaning.running_bath import running

        bath = running(self.shop)
        cold = bath is not None and bath.left_min(self.shop.now) <= 0
        if cold and not self._bath_rung:
            QApplication.beep()
            self.say(
                "The bath has become too cool to clean well: top it up, or take out what lies in it.",
                warn=True, still=lambda: self._bath_rung,
            )  # fmt: skip
        self._bath_rung = cold

    def _ring_reeds(self) -> None:
        """Be heard once when the bench's reeds may come out, and again before their longest time is passed."""
        from creekbed.workshop.cleaning.bench_reeds import bath

        lying = bath(self.shop)
        if lying is None:
            self._reeds_rung = ""
            return
        now = self.shop.now
        state = lying.at(now)
        rung = "last" if state.presses(now) or state.over else "due" if state.may_end else ""
        if rung and rung != self._reeds_rung:
            self._reeds_rung = rung
            QApplication.beep()
            words = "Last call, their longest time is nearly up: take" if rung == "last" else "Due now: take"
            self.say(
                f"{words} the bench's reeds out of the peroxide.", warn=True, still=lambda: self._reeds_rung == rung
            )

    def _tick(self) -> None:
        self._ticks += 1
        self.notice.second()
        self.course.tell(self.shop.now, self.home)
        due = set(self._rung)
        self._ring()
        if self._rung != due:
            self.plan_in_turns()  # something may go on now that could not before
        current = self.stack.currentWidget()
        if current is not None:
            current.tick()  # type: ignore[attr-defined]
        if self._ticks % OTHERS_S == 0:
            self._look_at_others()
        if self._ticks % 60 == 0:
            self._minute()
        if self._ticks % 10 == 0:
            self._ring_reeds()
            self._ring_bath()

    def _look_at_others(self) -> None:
        """What was done at another window is seen here too; a page on which somebody types is left as it is."""
        from creekbed.workshop.planning.plan_sharing import take_up

        try:
            found = self.shop.others()
            theirs = take_up(self.shop)
            if not found:
                if theirs:
                    self.plan_in_turns(PICTURES)
                return
            page = self.page("job") if self.here == "job" else None
            concerned = page is not None and page.view is not None and page.view.tag in {e.tag for e in found}
        except CreekbedError:
            return  # the next action here says what is wrong
        if any(e.action == "clock.moved" for e in found):
            self.refresh()  # what runs has been moved with the clock: at once, so that nothing seems over or due
        else:
            self.plan_in_turns((*LIVELY, "job") if concerned else LIVELY)
        last = found[-1]
        who = last.person if last.person != self.shop.person else "At another window"
        if self.notice.isHidden() or not self.notice.warns:
            self.say(f"{who}: {last.words}")

    def _minute(self) -> None:
        try:
            moved = self.shop.look_at_clock()
        except StoreProblem as problem:
            full = "The disk is full. " if problem.fields.get("kind") == "full" else ""
            words = f"{full}What time it is could not be noted. {problem.safe} {problem.todo}"
            self.say(words.replace(" and do it again", ""), warn=True)
            return
        self.tell_trouble(moved)
        self._note_air()
        if self.here in PICTURES:
            self.plan_in_turns()

    def tell_trouble(self, moved: str) -> bool:
        """Say that the clock was set, or what is wrong with the house rules; whether there was anything to say.

        Args:
            moved: what is known of the clock, in words; "" when all is well.
        """
        wrong = self.shop.catalogue.problems
        more = f" ({len(wrong) - 1} more on the page of house rules.)" if len(wrong) > 1 else ""
        words = moved or (f"{wrong[0].happened} The rest works on.{more}" if wrong else "")
        if words:
            self.say(words, warn=True)
        return bool(words)
