"""What the pages have in common that listen: the microphone, a recording instead, the job they were opened for."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QTimer
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QComboBox, QFileDialog, QLabel, QVBoxLayout, QWidget

from creekbed.core.errors import CreekbedError
from creekbed.core.progress import Progress
from creekbed.devices.sound_file import Recording
from creekbed.window.shared.long_work import LongWork
from creekbed.window.shared.sound_listening import Listens, SoundListening
from creekbed.window.shared.widgets import button, label, restyle, row
from creekbed.window.tools.base import ToolPage
from creekbed.workshop.bench.job_view import JobView, StepView

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

DRAW_MS = 33


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
        self.reading = LongWork(frame.could_not)
        self.timer = QTimer(self)
        self.timer.setInterval(DRAW_MS)
        self.timer.timeout.connect(self.draw)

    def put_listening(self, box: QVBoxLayout, *more: QWidget) -> None:
        """Put the buttons that listen into a box, and others beside them."""
        box.addLayout(row(self.listen, *more, self.file, None))
        box.addWidget(self.reading)

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
        self.family.setCurrentIndex(max(0, self.family.findData(view.family.key)))
        self.anew()

    def start(self) -> None:
        self.job_id, self.step_key = None, ""
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
        self.listening = SoundListening(address, self.make_listener, every=self.every)
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
        from creekbed.devices.sound_file import read_sound

        self.end()
        self.reading.start(
            "Listening to the recording …", lambda progress: self.work_through(read_sound(path), progress),
            self.worked_through,
        )  # fmt: skip
