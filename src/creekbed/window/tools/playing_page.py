"""The play-test by the microphone: the player plays on, the page follows, and says what is wrong with which note."""

from __future__ import annotations

from dataclasses import replace
from math import log2
from typing import TYPE_CHECKING

from creekbed.core.airtight.pads import Locator
from creekbed.core.conventions import number, temperature
from creekbed.core.errors import CreekbedError
from creekbed.core.progress import Progress
from creekbed.core.sound.listening import Heard
from creekbed.core.sound.notes import Event, ScaleListener, heard_notes
from creekbed.core.sound.play_test import MOST_EVENTS, PlayTestResult, as_played, judged
from creekbed.core.sound.tuning import nearest_note, warmth_cents
from creekbed.devices.sound_file import Recording
from creekbed.store.records import Playing
from creekbed.window.measuring.play_test import Odds
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button, how_sure, label, restyle
from creekbed.window.tools.base import Fields
from creekbed.window.tools.scale_picture import ScalePicture
from creekbed.window.tools.sound_page import SoundPage
from creekbed.words.play_test import REED_FIRST, failed_words, faults_words, lies_words, move_words, note_words
from creekbed.words.tuning import microphone_words
from creekbed.workshop.bench import job_steps
from creekbed.workshop.bench.job_view import JobView, StepView
from creekbed.workshop.inspection import playing
from creekbed.workshop.shop.room_climate import air_now

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


WHICH = [("its scale", False), ("every note of two octaves", True)]
NO_AIR = "The air's temperature cannot be read: its warmth is not allowed for."


class PlayingPage(SoundPage):
    """Left: the note that is wanted, and all notes as a picture. Right: what it comes to."""

    key = "playing"
    every = True
    recording_of = "the scale"

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.scaled: ScaleListener | None = None
        self.before: list[Event] = []
        left, right = self.two(62, 38)
        self.title = label("Play-test", "title")
        self.asked = label("")
        self.asked.setFont(theme.current.font(theme.STEP_SIZE, True, large=True))
        self.how = label("", tone="muted")
        self.picture = ScalePicture()
        for words in (self.title, self.asked, self.how):
            left.addWidget(words)
        left.addWidget(self.picture, 1)
        left.addWidget(self.mind)
        self.again = button("Begin anew", self.anew, "quiet", "playing_anew")
        self.put_listening(left, self.again)
        self.fields = Fields(right, self._changed)
        families = [(f.name, f.key) for f in self.shop.catalogue.families.values() if playing.scale_for(self.shop, f)]
        self.family = self.fields.choice("playing_family", "Instrument", families)
        self.which = self.fields.choice("playing_which", "Notes", WHICH)
        room = air_now(self.shop) or (self.shop.catalogue.house.limits.room_c, 0.5)
        self.room = self.fields.line("playing_room", "Air where it is played", temperature(room[0], 1))
        self.lies = label("")
        self.wrong = label("", "name")
        self.moved = label("")
        self.pads_head = label("Where to look for a leak", "name")
        self.pads = right
        self.odds: Odds | None = None
        for words in (self.lies, self.wrong, self.moved, self.pads_head):
            right.addWidget(words)
        self.odds_at = right.count()
        self.decides = label("A leak light or a feeler strip decides.", tone="muted")
        right.addWidget(self.decides)
        self.good = button("It plays well: done", self.finish, "primary", "playing_good")
        self.bad = button("It fails: make it a finding", self.fail, "warn", "playing_bad")
        for widget in (self.good, self.bad):
            right.addWidget(widget)
        self.put_kept(right)
        right.addWidget(how_sure("playing"))
        right.addStretch(1)
        self.earlier: list[Playing] = []
        self.anew()

    # --- what is played ---------------------------------------------------------------------------------------------

    def start_for(self, view: JobView, step: StepView) -> None:
        self.earlier = playing.earlier(self.shop, view.tag)
        super().start_for(view, step)

    def start(self) -> None:
        self.earlier = []
        super().start()

    def _changed(self) -> None:
        """Another instrument begins anew; another temperature judges what was heard anew."""
        if not hasattr(self, "earlier"):
            return
        if (self.family.currentData(), bool(self.which.currentData())) != (self.of_family, self.every_note):
            self.anew()
        else:
            self._show()

    def anew(self) -> None:
        """Forget what was heard; the instrument or the room may be another."""
        heard = self.listening is not None
        self.end()
        self.of_family, self.every_note = self.family.currentData(), bool(self.which.currentData())
        family = self.shop.catalogue.families[self.of_family]
        assert family.voice is not None
        self.voice, self.kind = family.voice, family.voice.partials
        self.scale = playing.scale_for(self.shop, family, every=self.every_note)
        self.table = self.shop.catalogue.leak_table(family)
        self.on_single_reed = any(check.key == "reed_aside" for check in family.check)
        self.before = []
        self.scaled = None
        if self.odds is not None:
            self.odds.deleteLater()
            self.odds = None
        if self.table is not None:
            self.odds = Odds(self.table)
            self.pads.insertWidget(self.odds_at, self.odds)
        self.mind.setText("")
        self.refresh()
        if heard:
            self.toggle()

    def refresh(self) -> None:
        view = self.view()
        self.title.setText(f"{view.tag}: play-test" if view is not None else "Play-test")
        for widget in (self.good, self.bad, self.back):
            widget.setVisible(view is not None)
        self.show_kept()
        self._show()

    def warmth(self) -> float:
        """How far the room's warmth raises every note, cents; 0 where the field cannot be read."""
        celsius = self._celsius()
        return 0.0 if celsius is None else warmth_cents(celsius)

    def _celsius(self) -> float | None:
        """The air where it is played, °C; ``None`` where the field cannot be read."""
        try:
            celsius = self.fields.read("playing_room", "degC")
            warmth_cents(celsius)  # nobody plays in any air
        except CreekbedError:
            return None
        return celsius

    def events(self) -> list[Event]:
        """What was heard so far, in the order of time."""
        return self.before + (list(self.scaled.events) if self.scaled is not None else [])

    # --- listening --------------------------------------------------------------------------------------------------

    def make_listener(self, rate: float) -> ScaleListener:
        hz = [n.hz for n in self.scale]
        self.scaled = ScaleListener(rate, self.kind, min(hz), max(hz))
        return self.scaled

    def begun(self) -> None:
        self._show()

    def ended(self) -> None:
        self.picture.set_sounding(-1)
        if self.scaled is not None:
            self.scaled.end()
            self._keep(list(self.scaled.events))
            self.scaled = None
        self._show()

    def _keep(self, events: list[Event]) -> None:
        """Put events after those that were heard before."""
        since = self.before[-1].start_s + self.before[-1].seconds if self.before else 0.0
        self.before = [*self.before, *(replace(e, start_s=e.start_s + since) for e in events)][-MOST_EVENTS:]

    def draw(self) -> None:
        """Show what was heard since the last time."""
        if self.listening is None:
            return
        heard = self.listening.take()
        if not heard or self.scaled is None:
            return
        self._mark_sounding(self.scaled.sounding_hz)
        self.mind.setText(microphone_words(heard[-1]) if not self._breathes(heard[-1]) else "")
        if self.scaled.count != self.shown:
            self._show()

    def _breathes(self, heard: Heard) -> bool:
        """Noise without a pitch is what somebody makes who tries a note: nothing is wrong with the microphone."""
        return heard.state == "noise" and not heard.clipped

    def _mark_sounding(self, hz: float) -> None:
        which = -1
        if hz > 0:
            off = [abs(1200 * log2(hz / n.hz) - self.warmth()) for n in self.scale]
            which = min(range(len(off)), key=off.__getitem__)
            which = which if off[which] < 90 else -1
        self.picture.set_sounding(which)

    def work_through(self, recording: Recording, progress: Progress) -> list[Event]:
        hz = [n.hz for n in self.scale]
        return heard_notes(recording.samples, recording.rate, self.kind, hz, progress=progress)

    def worked_through(self, heard: list[Event]) -> None:
        self._keep(heard)
        self.refresh()
        if not any(n.played for n in self.result.notes):
            self.mind.setText("There is no note of its scale in the recording.")

    # --- on show ----------------------------------------------------------------------------------------------------

    def _show(self) -> None:
        events = self.events()
        self.shown = self.scaled.count if self.scaled is not None else 0
        self.result = result = judged(self.scale, events, self.warmth())
        asked = next((n for n, note in enumerate(result.notes) if not note.played), -1)
        self._ask(asked)
        self.picture.set_notes(result.notes, playing.curves(self.earlier), asked)
        played = [n for n in result.notes if n.played]
        lies = lies_words(result) if any(n.heard for n in played) else "Nothing was played yet."
        celsius = self._celsius()
        more = NO_AIR if celsius is None else move_words(self.voice, result, celsius)
        self.lies.setText(f"{lies} {more}".strip())
        wrong = [f"{note_words(n.note.written)}: {faults_words(n)}" for n in result.faulty]
        if self.on_single_reed and any(n.stuffy for n in result.faulty):
            wrong.append(REED_FIRST)
        self.wrong.setText("\n".join(wrong) or ("Every note is as good as the others." if len(played) >= 4 else ""))
        restyle(self.wrong, tone="warn" if wrong else "")
        self.moved.setText(self._moved_words(result))
        for words in (self.wrong, self.moved):
            words.setVisible(bool(words.text()))
        self._show_pads(result)
        self.again.setEnabled(bool(events))
        whole = bool(played) and not result.missing
        self.good.setEnabled(whole and not result.faulty)
        self.bad.setEnabled(bool(result.faulty))
        at_work = self.listening is not None
        ready = self.job_id is not None and self.good.isEnabled()
        restyle(self.listen, kind="" if at_work or ready else "primary")
        restyle(self.good, kind="primary" if ready else "")

    def _ask(self, which: int) -> None:
        if which < 0:
            self.asked.setText("That was the whole scale")
            self.how.setText("Play any note again: the last time counts.")
            return
        note = self.scale[which]
        a4 = self.shop.catalogue.house.limits.a4_hz
        self.asked.setText(f"Play {note_words(note.written)}")
        self.how.setText(
            f"Written; it sounds {nearest_note(note.hz, a4).name}, {number(note.hz, 1)} Hz. Play on, tongue each note: "
            "the page follows. Only what was disinfected, or your own mouthpiece."
        )

    def _moved_words(self, result: PlayTestResult) -> str:
        if not self.earlier:
            return ""
        before = self.earlier[0]
        found = playing.moved(result, before)
        when = before.at.astimezone().strftime("%d %b %Y")
        if not found:
            return f"Beside {when}: nothing has moved beyond its doubt." if any(n.heard for n in result.notes) else ""
        said = ", ".join(
            f"{note_words(m.written)} {number(abs(m.cents), 0)} cents {'sharper' if m.cents > 0 else 'flatter'}"
            for m in found
        )
        return f"Beside {when}: {said}."

    def _show_pads(self, result: PlayTestResult) -> None:
        stuffy = any(n.stuffy for n in result.notes)
        shown = self.table is not None and stuffy and self.odds is not None
        for widget in (self.pads_head, self.decides):
            widget.setVisible(shown)
        if self.odds is not None:
            self.odds.setVisible(shown)
        if shown and self.table is not None and self.odds is not None:
            self.odds.set_found(Locator(self.table).locate(as_played(result, self.table)))

    # --- back to the job --------------------------------------------------------------------------------------------

    def finish(self) -> None:
        """The test is passed: what was heard goes with it."""
        if self.job_id is None:
            return
        shop, job, key = self.shop, self.job_id, self.step_key
        heard = playing.kept(shop, self.result, self.warmth())
        if self.do(lambda: job_steps.finish_step(shop, job, key, playing=heard)):
            self.to_the_job()

    def fail(self) -> None:
        """The test fails: its words become a finding, and what was heard is kept."""
        if self.job_id is None:
            return
        shop, job, key = self.shop, self.job_id, self.step_key
        heard = playing.kept(shop, self.result, self.warmth())
        said = failed_words(self.result)
        if self.do(lambda: job_steps.fail_test(shop, job, key, said, heard)):
            self.end()
            self.frame.nav.open_job(job, "look_over")
