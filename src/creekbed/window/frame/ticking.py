"""What the window does every second: rings when a wait is due, checks the clock, looks for actions of others."""

from __future__ import annotations

from collections.abc import Collection
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from creekbed.core.errors import CreekbedError, StoreProblem
from creekbed.window.frame.planning import PICTURES
from creekbed.window.shared.standstill import standstill

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

SECOND_MS = 1000
OTHERS_S = 2
"""How often the actions of other windows are looked for, seconds: house default."""
LIVELY = ("home", "day", "list", "journal")
"""Pages on which nothing is typed: they are drawn anew when somebody has done something elsewhere."""


class Ticking:
    """What one window does once a second."""

    def __init__(self, frame: Frame):
        self.frame = frame
        self.ticks = 0
        self._rung: Collection[tuple[int, str]] = frozenset()
        """Waits that are due, and were heard."""
        self._pressed: Collection[tuple[int, str]] = frozenset()
        """Waits whose last call was heard."""
        self._reeds_rung = ""
        self._bath_rung = False
        self.timer = QTimer(frame)
        self.timer.setInterval(SECOND_MS)
        self.timer.timeout.connect(self.tick)

    def ring(self) -> None:
        """Show the most urgent wait on every page, and ring once when one becomes due."""
        states = [(w, w.at(self.frame.shop.now)) for w in self.frame.records.waits]
        self.frame.next_wait.set_waits(states)
        due = {w.of for w, state in states if state.may_end or state.over}
        fresh = [w for w, _ in states if w.of in due and w.of not in self._rung]
        self._rung = due
        pressing = {w.of for w, state in states if state.presses(self.frame.shop.now)}
        last_call = [w for w, _ in states if w.of in pressing and w.of not in self._pressed]
        self._pressed = pressing
        heard = last_call or fresh
        if not heard:
            return
        QApplication.beep()
        ids = {w.of for w in heard}
        words = ". ".join(f"{w.tag}, {w.name.lower()}: {w.at_end.lower()}" for w in heard)
        if last_call:
            words = f"Last call, its longest time is nearly up: {words}"
            self.frame.say(words, True, still=lambda: not ids.isdisjoint(self._pressed), about=("pressed", ids))
        elif self.frame.here != "home":
            self.frame.say(f"Due now: {words}", True, still=lambda: not ids.isdisjoint(self._rung), about=("due", ids))

    def ring_bath(self) -> None:
        """Ring once when the bath has become too cool to clean well."""
        from creekbed.workshop.cleaning.running_bath import running

        bath = running(self.frame.shop)
        cold = bath is not None and bath.left_min(self.frame.shop.now) <= 0
        if cold and not self._bath_rung:
            QApplication.beep()
            self.frame.say(
                "The bath has become too cool to clean well: top it up, or take out what lies in it.",
                warn=True, still=lambda: self._bath_rung, about="bath",
            )  # fmt: skip
        self._bath_rung = cold

    def ring_reeds(self) -> None:
        """Ring when the bench's reeds may come out, and again before their longest time is over."""
        from creekbed.workshop.cleaning.bench_reeds import bath

        lying = bath(self.frame.shop)
        if lying is None:
            self._reeds_rung = ""
            return
        now = self.frame.shop.now
        state = lying.at(now)
        rung = "last" if state.presses(now) or state.over else "due" if state.may_end else ""
        if rung and rung != self._reeds_rung:
            self._reeds_rung = rung
            QApplication.beep()
            words = "Last call, their longest time is nearly up: take" if rung == "last" else "Due now: take"
            self.frame.say(
                f"{words} the bench's reeds out of the peroxide.", warn=True,
                still=lambda: self._reeds_rung == rung, about="reeds",
            )  # fmt: skip

    def tick(self) -> None:
        self.ticks += 1
        self.frame.notice.second()
        self.frame.stage_bar.tell(self.frame.shop.now, self.frame.home)
        due = set(self._rung)
        self.ring()
        if self._rung != due:
            self.frame.planner.plan_anew()  # something may go on now that could not before
        current = self.frame.stack.currentWidget()
        if current is not None:
            current.tick()  # type: ignore[attr-defined]
        if standstill.lasts:
            return  # an action waits for the records: they are read when it is done
        if self.ticks % OTHERS_S == 0:
            self.look_at_others()
        if self.ticks % 60 == 0:
            self.minute()
        if self.ticks % 10 == 0:
            self.ring_reeds()
            self.ring_bath()

    def look_at_others(self) -> None:
        """Show what was done at another window; a page on which somebody types is left as it is."""
        from creekbed.workshop.planning.plan_sharing import take_up

        try:
            found = self.frame.shop.others()
            theirs = take_up(self.frame.shop)
            if not found:
                if theirs:
                    self.frame.planner.plan_anew(PICTURES)
                return
            page = self.frame.page("job") if self.frame.here == "job" else None
            concerned = page is not None and page.view is not None and page.view.tag in {e.tag for e in found}
        except CreekbedError:
            return  # the next action here says what is wrong
        if any(e.action == "clock.moved" for e in found):
            self.frame.refresh()  # what runs has been moved with the clock: at once, so that nothing seems over or due
        else:
            self.frame.planner.plan_anew((*LIVELY, "job") if concerned else LIVELY)
        last = found[-1]
        who = last.person if last.person != self.frame.shop.person else "At another window"
        if self.frame.notice.isHidden() or not self.frame.notice.warns:
            self.frame.say(f"{who}: {last.words}")

    def minute(self) -> None:
        try:
            moved = self.frame.shop.look_at_clock()
        except StoreProblem as problem:
            said = f"What time it is could not be noted. {problem.safe}"
            if problem.fields.get("kind") == "full":
                self.frame.say(f"The disk is full. {said} Make room on the disk.", warn=True)
            else:
                self.frame.say(f"{said} {problem.todo}", warn=True)
            return
        self.tell_trouble(moved)
        self.frame.devices.note_air()
        if self.frame.here in PICTURES:
            self.frame.planner.plan_anew()

    def tell_trouble(self, moved: str) -> bool:
        """Say that the clock was set, or what is wrong with the house rules; whether there was anything to say.

        Args:
            moved: what is known of the clock, in words; "" when all is well.
        """
        wrong = self.frame.shop.catalogue.problems
        more = f" ({len(wrong) - 1} more on the page of house rules.)" if len(wrong) > 1 else ""
        words = moved or (f"{wrong[0].happened} The rest works on.{more}" if wrong else "")
        if words:
            self.frame.say(words, warn=True)
        return bool(words)
