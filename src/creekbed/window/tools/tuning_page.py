"""Tuning strings by the microphone: the gauge post, what to do, and a line for each string."""

from __future__ import annotations

import math
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QGridLayout, QLabel, QPushButton, QVBoxLayout

from creekbed.core.conventions import number
from creekbed.core.progress import Progress, advance
from creekbed.core.sound.listening import Heard, Listener, heard_in
from creekbed.core.sound.string_tuning import StringReading, StringState, Tuner
from creekbed.core.strings.tension import lies_in_fifths
from creekbed.devices.sound_file import Recording
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button, clear, how_sure, label, restyle, row
from creekbed.window.tools.base import Fields
from creekbed.window.tools.gauge_post import GaugePost
from creekbed.window.tools.sound_page import SoundPage
from creekbed.words import tuning as words
from creekbed.workshop.bench import job_steps, tuning

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

STAYS_S = 1.5
"""What was heard last stays on show so long after it has faded: house default."""


class TuningPage(SoundPage):
    """Left: the post with the advice. Right: the strings, and what listens."""

    key = "tuning"
    recording_of = "the strings"

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.shown_at = -math.inf
        left, right = self.two(52, 48)
        self.title = label("Tuning", "title")
        left.addWidget(self.title)
        self.post = GaugePost()
        self.string = label("Play a string", "title")
        self.advice = label("")
        self.advice.setFont(theme.current.font(theme.STEP_SIZE, True, large=True))
        self.cents = label("", "numeral")
        self.doubt = label("", tone="muted")
        self.how = label("")
        side = row(self.post, spacing=3 * theme.STEP)
        column = QVBoxLayout()
        column.setSpacing(theme.STEP)
        for words_of in (self.string, self.advice, self.cents, self.doubt, self.how, self.mind):
            column.addWidget(words_of)
        column.addStretch(1)
        side.addLayout(column, 1)
        left.addLayout(side, 1)
        self.put_listening(left)
        left.addWidget(how_sure("pitch"))
        self.fields = Fields(right, self.anew)
        families = [(f.name, f.key) for f in self.shop.catalogue.families.values() if f.stringed is not None]
        self.family = self.fields.choice("tuning_family", "Instrument", families)
        self.intervals = self.fields.choice(
            "tuning_fifths", "Between the strings", [("even, as a piano", False), ("pure fifths", True)]
        )
        self.strings = QGridLayout()
        self.strings.setHorizontalSpacing(theme.STEP * 2)
        right.addLayout(self.strings)
        self.rows: dict[str, tuple[QPushButton, QLabel, QLabel]] = {}
        self.hint = label("", tone="muted")
        right.addWidget(self.hint)
        self.done = button("Tuned, done", self.finish, "primary", "tuning_done")
        self.bad = button("It fails: make it a finding", self.fail, "warn", "tuning_bad")
        for widget in (self.done, self.bad):
            right.addWidget(widget)
        self.put_kept(right)
        right.addStretch(1)
        self.anew()

    # --- what is tuned ----------------------------------------------------------------------------------------------

    def anew(self) -> None:
        """Other strings, or the same from the beginning."""
        if not hasattr(self, "hint"):
            return
        stringed = self.shop.catalogue.families[self.family.currentData()].stringed
        assert stringed is not None
        fifths = lies_in_fifths(stringed)
        self.intervals.setEnabled(fifths)
        pure = bool(self.intervals.currentData()) and fifths
        self.tuner = Tuner(tuning.strings_of(self.shop, self.family.currentData(), pure_fifths=pure))
        self.pegs = fifths  # bowed strings; all others have machine heads
        self.shown_at = -math.inf
        view = self.view()
        new = tuning.new_strings(view) if view is not None else ()
        clear(self.strings)
        self.rows = {}
        for column, head in enumerate(("String", "should be", "found", "now")):
            self.strings.addWidget(label(head, "small"), 0, column)
        for n, state in enumerate(reversed(self.tuner.states.values()), 1):
            target = state.target
            name = f"{target.name}, new" if target.key in new else target.name
            hold = button(name, partial(self.hold, target.key), "", f"string_{target.key}")
            hold.setCheckable(True)
            found, now = label("", wrap=False), label("", "name", wrap=False)
            self.strings.addWidget(hold, n, 0)
            self.strings.addWidget(label(f"{number(target.hz, 1)} Hz", wrap=False), n, 1)
            self.strings.addWidget(found, n, 2)
            self.strings.addWidget(now, n, 3)
            self.rows[target.key] = (hold, found, now)
        self.strings.setColumnStretch(3, 1)
        a4 = number(self.shop.catalogue.house.limits.a4_hz)
        self.hint.setText(
            f"A4 = {a4} Hz. The string that is played is known by itself; press one to keep to it, such as a new one "
            "that is far flat yet."
        )
        restart = self.listening is not None
        if restart:
            self.end()
            self.toggle()
        self.refresh()

    def hold(self, key: str) -> None:
        """Keep to a string, or to none when it is pressed again."""
        self.tuner.hold("" if self.tuner.held == key else key)
        self.refresh()

    def refresh(self) -> None:
        view = self.view()
        step = view.step(self.step_key) if view is not None else None
        self.title.setText(f"{view.tag}: tuning" if view is not None else "Tuning")
        for widget in (self.done, self.back):
            widget.setVisible(view is not None)
        if view is not None and step is not None:
            self.done.setText(
                "Retuned, done"
                if step.step.kind == "retune"
                else "It plays in tune: done"
                if tuning.is_test(step)
                else "Tuned, back to the step"
            )
        self.bad.setVisible(step is not None and tuning.is_test(step))
        self.show_kept()
        self._show_strings()
        self._show_heard(None)

    # --- listening --------------------------------------------------------------------------------------------------

    def make_listener(self, rate: float) -> Listener:
        return Listener(rate, "stretched", self.tuner.lowest_hz, self.tuner.highest_hz)

    def begun(self) -> None:
        self.tuner.listen_anew()
        self.shown_at = -math.inf
        self.string.setText("Play a string")

    def draw(self) -> None:
        """Show what was heard since the last time."""
        if self.listening is None:
            return
        heard = self.listening.take()
        for one in heard:
            self.tuner.hear(one)
        if heard:
            self._show_heard(heard[-1])

    def work_through(self, recording: Recording, progress: Progress) -> tuple[Tuner, list[Heard]]:
        fresh = Tuner([s.target for s in self.tuner.states.values()])
        found = []
        for heard in heard_in(
            recording.samples, recording.rate, "stretched", fresh.lowest_hz, fresh.highest_hz, long=True
        ):
            found.append(heard)
            advance(progress, heard.at_s, recording.seconds)
        return fresh, found

    def worked_through(self, heard: tuple[Tuner, list[Heard]]) -> None:
        self.tuner, found = heard
        for one in found:
            self.tuner.hear(one)
        self.refresh()
        self.string.setText("From the recording" if self.tuner.playing else "There is no string in it")

    # --- on show ----------------------------------------------------------------------------------------------------

    def _show_heard(self, heard: Heard | None) -> None:
        state = self.tuner.states.get(self.tuner.playing)
        sounds = heard is not None and heard.pitch is not None and state is not None and self.tuner.advice is not None
        if sounds and heard is not None and state is not None and state.live is not None:
            self.shown_at = heard.at_s
            self._show_reading(state, state.live)
        elif heard is None or heard.at_s - self.shown_at > STAYS_S:
            self.post.set_reading(None, False, "Pitch: nothing is heard")
            self.advice.setText("")
            self.cents.setText("")
            self.doubt.setText("")
            self.how.setText("")
            if self.listening is not None:
                self.string.setText("Play a string")
        self.mind.setText(words.microphone_words(heard) if heard is not None else self.mind.text())
        self._show_strings()

    def _show_reading(self, state: StringState, live: StringReading) -> None:
        assert self.tuner.advice is not None
        reading = state.now if state.steady and state.now is not None else live
        advice = words.ADVICE[self.tuner.advice]
        self.string.setText(f"{state.target.name}, {number(state.target.hz, 1)} Hz")
        self.advice.setText(advice)
        self.cents.setText(words.cents_words(reading))
        self.doubt.setText(words.doubt_words(reading))
        self.how.setText(words.suspicion_words(state) or words.where_words(live, pegs=self.pegs))
        holds = self.tuner.advice == "holds"
        self.post.set_reading(live, holds, f"{state.target.name}: {advice}, {words.cents_words(reading)}")

    def _show_strings(self) -> None:
        for key, (hold, found, now) in self.rows.items():
            state = self.tuner.states[key]
            hold.setChecked(self.tuner.held == key)
            found.setText(words.cents_words(state.found) if state.found is not None else "")
            now.setText(words.state_words(state))
            restyle(now, tone="muted" if state.now is None else "")
        self.done.setEnabled(self.tuner.all_hold)
        self.bad.setEnabled(bool(words.failed_words(self.tuner.states.values())))
        to_hand_on = self.job_id is not None and self.tuner.all_hold
        restyle(self.listen, kind="" if to_hand_on or self.listening is not None else "primary")
        restyle(self.done, kind="primary" if to_hand_on else "")

    # --- back to the job --------------------------------------------------------------------------------------------

    def finish(self) -> None:
        """Hand the readings to the step."""
        view = self.view()
        step = view.step(self.step_key) if view is not None else None
        if view is None or step is None:
            return
        test = tuning.is_test(step)
        if step.step.kind != "retune" and not test:
            self.to_the_job()
            return
        states = tuple(self.tuner.states.values())
        flat = "" if test else tuning.flat_words(states, tuning.new_strings(view))
        kept = tuning.readings_of(states)
        shop, job, key = self.shop, view.job.id, self.step_key
        if self.do(lambda: job_steps.finish_step(shop, job, key, cents=flat, strings=kept)):
            self.to_the_job()

    def fail(self) -> None:
        """The test fails: what was heard of the strings becomes a finding."""
        if self.job_id is None:
            return
        shop, job, key = self.shop, self.job_id, self.step_key
        said = words.failed_words(self.tuner.states.values())
        if self.do(lambda: job_steps.fail_test(shop, job, key, said)):
            self.end()
            self.frame.nav.open_job(job, "look_over")
