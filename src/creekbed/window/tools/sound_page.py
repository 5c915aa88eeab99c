"""What the pages have in common that listen: the microphone, a recording instead, the job they were opened for."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QTimer
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QComboBox, QFileDialog, QLabel, QVBoxLayout, QWidget

from creekbed.core.errors import CreekbedError
from creekbed.core.progress import Progress
from creekbed.devices.microphone import Block
from creekbed.devices.sound_file import Recording, read_sound, sound_in
from creekbed.devices.sound_memory import SoundMemory
from creekbed.store.recordings import RecordingStore
from creekbed.window.shared.kept_sounds import KeptSounds
from creekbed.window.shared.long_work import LongWork
from creekbed.window.shared.sound_listening import Listens, SoundListening
from creekbed.window.shared.widgets import button, label, restyle, row
from creekbed.window.tools.base import ToolPage
from creekbed.workshop.bench.job_view import JobView, StepView
from creekbed.workshop.inspection import recordings
from creekbed.workshop.inspection.recordings import EncodedSound, RecordingView

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

DRAW_MS = 33
LEAST_S = 0.5
"""A shorter sound is not worth keeping: house default."""


class SoundPage(ToolPage):
    """Listens while its button is pressed and it is on show; nobody is overheard by a page that is not.

    Attributes:
        every: nothing that is heard may be skipped. recording_of: what a recording is asked for.
        family: the choice of the instrument; made by the page itself. mind: what is wrong, in words.
    """

    every = False
    recording_of = ""
    family: QComboBox

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.job_id: int | None = None
        self.step_key = ""
        self.listening: SoundListening | None = None
        self.mind: QLabel = label("", tone="warn")
        self.listen = button("Listen", self.toggle, "primary", f"{self.key}_listen", "F4")
        self.file = button("From a recording …", self.choose_file, "quiet", f"{self.key}_file")
        self.back = button("Back to the job", self.to_the_job, "quiet", f"{self.key}_back")
        self.keep = button("Keep this sound with the job", self.keep_sound, "quiet", f"{self.key}_keep")
        self.kept = KeptSounds(self, hear=self.hear_again, gone=self.show_kept)
        self.keep_hint = label("Voices in the room are on it too. It stays until it is taken away.", tone="muted")
        self.memory: SoundMemory | None = None
        self.reading = LongWork(frame.could_not)
        self.timer = QTimer(self)
        self.timer.setInterval(DRAW_MS)
        self.timer.timeout.connect(self.draw)
        self.timer.timeout.connect(self._memory_changed)

    def put_listening(self, box: QVBoxLayout, *more: QWidget) -> None:
        """Put the buttons that listen into a box, and others beside them."""
        box.addLayout(row(self.listen, *more, self.file, None))
        box.addWidget(self.reading)

    def put_kept(self, box: QVBoxLayout) -> None:
        """Put the way back and what keeps sounds into a box; both are there only while the page is open for a job."""
        box.addLayout(row(self.back, None, self.keep))
        box.addWidget(self.keep_hint)
        box.addWidget(self.kept)

    # --- what a page says of itself ---------------------------------------------------------------------------------

    def make_listener(self, rate: float) -> Listens:
        """What hears the microphone."""
        raise NotImplementedError

    def draw(self) -> None:
        """Show what was heard since the last time."""
        raise NotImplementedError

    def anew(self) -> None:
        """Forget what was heard; the instrument may be another."""
        raise NotImplementedError

    def begun(self) -> None:
        """It has begun to listen."""

    def ended(self) -> None:
        """It has ended; what was heard last can still be taken."""

    def work_through(self, recording: Recording, progress: Progress) -> Any:
        """Hear a recording, beside the window."""
        raise NotImplementedError

    def worked_through(self, heard: Any) -> None:
        """Show what was heard in a recording."""
        raise NotImplementedError

    # --- for a job --------------------------------------------------------------------------------------------------

    def start_for(self, view: JobView, step: StepView) -> None:
        """Listen to the instrument of a job for one of its steps."""
        self.end()
        self.job_id, self.step_key = view.job.id, step.step.key
        self.memory = None
        self.family.setCurrentIndex(max(0, self.family.findData(view.family.key)))
        self.anew()

    def start(self) -> None:
        self.job_id, self.step_key = None, ""
        self.memory = None
        self.anew()

    def view(self) -> JobView | None:
        """The job that it was opened for, as it stands now; ``None`` where it was opened alone."""
        return None if self.job_id is None else self.frame.records.job(self.job_id)

    def to_the_job(self) -> None:
        """Back to the steps of the job."""
        self.end()
        if self.job_id is not None:
            self.frame.nav.open_job(self.job_id, "steps")

    # --- listening --------------------------------------------------------------------------------------------------

    def toggle(self) -> None:
        """Listen, or end it."""
        if self.listening is not None:
            self.end()
            return
        if self.reading.busy:
            return
        self.frame.devices.about_to_play(self.family.currentData())
        address = self.frame.devices.ports.get("microphone", "")
        self.memory = SoundMemory() if self.job_id is not None else None
        self.listening = SoundListening(address, self.make_listener, every=self.every, memory=self.memory)
        self.listening.failed.connect(self._failed)
        self.listening.start()
        self.timer.start()
        self.listen.setText("Stop listening")
        restyle(self.listen, kind="")
        self.mind.setText("")
        self.begun()

    def _failed(self, problem: CreekbedError) -> None:
        self.draw()  # what was heard before is kept
        self.end()
        self.mind.setText(problem.words())

    def end(self) -> None:
        """Listen no more."""
        listening, self.listening = self.listening, None
        self.timer.stop()
        self.listen.setText("Listen")
        restyle(self.listen, kind="primary")
        if listening is not None:
            listening.stop()
            self.ended()

    def hideEvent(self, event: QHideEvent) -> None:
        self.end()
        super().hideEvent(event)

    # --- a recording ------------------------------------------------------------------------------------------------

    def choose_file(self) -> None:
        """Ask for a recording."""
        title = f"A recording of {self.recording_of}"
        path, _ = QFileDialog.getOpenFileName(self, title, "", "Sound (*.wav *.flac *.ogg)")
        if path:
            self.read_file(Path(path))

    def read_file(self, path: Path) -> None:
        """Hear a recording as if it were played now; it is worked through beside the window."""
        self.end()

        self._hear(lambda: read_sound(path), keeps=self.job_id is not None)

    def _hear(self, get: Callable[[], Recording], *, keeps: bool) -> None:
        """Work a recording through beside the window; ``keeps``: it can be kept with the job then.

        Whoever has gone on to another job or instrument meanwhile does not get what was heard of this one.
        """
        about = self._about()

        def work(progress: Progress) -> tuple[Recording, Any]:
            recording = get()
            return recording, self.work_through(recording, progress)

        def then(found: tuple[Recording, Any]) -> None:
            recording, heard = found
            if self._about() != about:
                return
            if keeps:
                self.memory = SoundMemory(recording.seconds)
                self.memory.push(Block(recording.samples, recording.rate))
            self.worked_through(heard)
            self._memory_changed()

        self.reading.start("Listening to the recording …", work, then)

    def _about(self) -> tuple[int | None, str, str]:
        """What is listened to now: job, step and family."""
        return self.job_id, self.step_key, self.family.currentData()

    # --- kept with the job ------------------------------------------------------------------------------------------

    def show_kept(self) -> None:
        """Show the sounds of the job, and whether one can be kept now."""
        there = self.job_id is not None
        self.kept.set_rows(recordings.recordings_of(self.shop, self.job_id) if self.job_id is not None else [])
        self.keep.setVisible(there)
        self._memory_changed()

    def _memory_changed(self) -> None:
        heard = self.memory is not None and self.memory.seconds >= LEAST_S
        self.keep.setEnabled(heard and not self.reading.busy)
        self.keep_hint.setVisible(heard and self.job_id is not None)

    def keep_sound(self) -> None:
        """Keep what was heard with the job; it is encoded beside the window, and goes on listening meanwhile."""
        job, key, memory = self.job_id, self.step_key, self.memory
        if job is None or memory is None:
            return
        samples, rate = memory.sound()

        def then(sound: EncodedSound) -> None:
            about: recordings.About = "playing" if self.key == "playing" else "tuning"
            self.do(lambda: recordings.add_recording(self.shop, job, sound, about, key))
            self.show_kept()

        self.reading.start("Keeping the sound …", lambda _: recordings.encoded(samples, rate), then)
        self._memory_changed()

    def hear_again(self, view: RecordingView) -> None:
        """Hear a kept sound as if it were played now, from the beginning."""
        self.end()
        if self.reading.busy:
            return
        self.memory = None
        self.anew()
        store = RecordingStore(self.shop.folder)
        self._hear(lambda: sound_in(store.read(view.name), "That sound"), keeps=False)
