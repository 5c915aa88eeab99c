"""Slide friction: from steady pulls with the force gauge, or from a short drop timed by sound or video."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QComboBox, QFileDialog, QHBoxLayout, QLineEdit, QVBoxLayout

from creekbed.core.conventions import number
from creekbed.core.errors import BadInput, CreekbedError
from creekbed.core.inspection.friction import Friction, from_drop, from_pull
from creekbed.core.measure import Reading
from creekbed.core.progress import Progress
from creekbed.core.units import parse_quantity
from creekbed.window.measuring.method import Method
from creekbed.window.shared.long_work import LongWork
from creekbed.window.shared.widgets import button, entry, how_sure, label, row

if TYPE_CHECKING:
    from creekbed.core.sound.knocks import Fall, FallListener
    from creekbed.window.shared.sound_listening import SoundListening

LOOK_MS = 100


class _SlideWay(Method):
    """Weight of the slide, something measured, and the friction that follows."""

    sure = "pull"
    """The kind of number that it makes, for how far that may be trusted."""

    def fill(self) -> None:
        self.mass = self._field("mass", "Weight of the part that moves, 450 g", "Weight of the part that moves")
        line = row(self.mass)
        if self.page.frame.devices.ports.get("scale"):
            line.addWidget(button("From the scale", lambda: self._ask("scale", self.mass), "", "mass_scale"))
        self.box.addLayout(line)
        self.more(self.box)
        self.said = label("")
        self.box.addWidget(self.said)
        self.box.addWidget(how_sure(self.sure))
        self.found: Friction | None = None

    def more(self, box: QVBoxLayout) -> None:
        """Fields of its own."""
        raise NotImplementedError

    def work_out(self, mass_kg: float) -> Friction:
        """The friction from what is typed.

        Raises:
            BadInput: something that cannot be.
        """
        raise NotImplementedError

    def _field(self, name: str, shown: str, spoken: str) -> QLineEdit:
        field = entry(name, spoken, shown)
        field.textChanged.connect(lambda text: self.work())
        return field

    def _ask(self, kind: str, field: QLineEdit) -> None:
        unit = {"scale": "g", "force": "N"}[kind]

        def put(reading: Reading) -> None:
            text = f"{reading.value:.4g} {unit}"
            typed = field.text().strip()
            field.setText(f"{typed}; {text}" if kind == "force" and typed else text)

        self.page.frame.devices.read_meter(kind, 0.0, put)

    def begin(self) -> None:
        self.mass.setFocus()
        self.work()

    def work(self) -> None:
        """Work it out anew and say it."""
        self.found = None
        try:
            mass = parse_quantity(self.mass.text(), "kilogram", what="The weight")
            self.found = self.work_out(mass)
        except CreekbedError as error:
            typed = any(f.text().strip() for f in self.findChildren(QLineEdit))
            self.said.setText(error.words(safe=False) if typed else "")
        else:
            f = self.found
            self.said.setText(
                f"{number(f.force_n, 2)} N ± {number(2 * f.u_force_n, 2)} N (k = 2): "
                f"{number(f.ratio.value, 2)} ± {number(2 * f.ratio.u, 2)} of "
                "its weight. Beside it the lift test: the outer slide must stay down."
            )
        self.changed.emit()

    def can_finish(self) -> bool:
        return self.found is not None

    def finish(self) -> None:
        if self.found is not None:
            self.record(self.found.ratio)


class PullMeasurement(_SlideWay):
    """Steady pulls."""

    title = "from pulls"
    how = (
        "Slide lying level, mouthpiece end open. Pull the outer slide slowly and steadily with the gauge; three times."
    )

    def more(self, box: QVBoxLayout) -> None:
        self.pulls = self._field("pulls", "1.2 N; 1.25 N; 1.22 N", "Pulls, with semicolons between them")
        line = row(self.pulls)
        if self.page.frame.devices.ports.get("force"):
            line.addWidget(button("From the gauge", lambda: self._ask("force", self.pulls), "", "pull_gauge"))
        box.addLayout(line)

    def work_out(self, mass_kg: float) -> Friction:
        texts = [t for t in self.pulls.text().split(";") if t.strip()]
        return from_pull([parse_quantity(t, "newton", what="The pull") for t in texts], mass_kg)


class DropMeasurement(_SlideWay):
    """A short drop."""

    sure = "friction"

    title = "from a drop"
    how = (
        "Hang the outer slide by a thread, 20 cm over foam, mouthpiece end open, feet away; snip the thread. The "
        "microphone hears snip and thud; or read the two moments from a video. A stop-watch in the hand is not good "
        "enough."
    )
    TIMED = {"sound": "from a sound recording", "video": "from a video", "hand": "by hand"}

    def more(self, box: QVBoxLayout) -> None:
        self.listening: SoundListening | None = None
        self.listener: FallListener | None = None
        self.heard: tuple[str, float] | None = None
        """The time as it was heard, as it stands in its field, and its standard uncertainty, s."""
        self.timer = QTimer(self)
        self.timer.setInterval(LOOK_MS)
        self.timer.timeout.connect(self._look)
        self.listen = button("Listen to the fall", self.toggle, "", "drop_listen", "F4")
        box.addLayout(row(self.listen, button("From a recording …", self.choose_file, "quiet", "drop_file"), None))
        self.reading = LongWork(lambda problem: self.said.setText(problem.words(safe=False)))
        box.addWidget(self.reading)
        fields = QHBoxLayout()
        self.drop = self._field("drop", "20 cm", "How far it falls")
        self.time = self._field("drop_time", "0.25 s", "How long it takes")
        self.timed = QComboBox()
        self.timed.setObjectName("timed_by")
        self.timed.setAccessibleName("How it was timed")
        self.timed.addItems(list(self.TIMED.values()))
        self.timed.currentIndexChanged.connect(lambda n: self.work())
        self.frames = self._field("drop_frames", "60 frames a second", "Frames of the video each second")
        self.frames.hide()
        self.timed.currentIndexChanged.connect(lambda n: self.frames.setVisible(list(self.TIMED)[n] == "video"))
        for widget in (self.drop, self.time, self.timed, self.frames):
            fields.addWidget(widget)
        box.addLayout(fields)

    def work_out(self, mass_kg: float) -> Friction:
        how = list(self.TIMED)[self.timed.currentIndex()]
        drop = parse_quantity(self.drop.text(), "meter", what="The drop")
        time = parse_quantity(self.time.text(), "second", what="The time")
        if how not in ("sound", "video", "hand"):
            raise BadInput("How was it timed?")
        rate = self._rate() if how == "video" else None
        u = self.heard[1] if self.heard is not None and how == "sound" and self.heard[0] == self.time.text() else 0.0
        return from_drop(mass_kg, drop, time, how, frames_per_s=rate, u_time_s=u)  # type: ignore[arg-type]

    # --- by the microphone ------------------------------------------------------------------------------------------

    def toggle(self) -> None:
        """Listen for snip and thud, or listen no more."""
        if self.listening is not None:
            self.stop()
            return
        from creekbed.core.sound.knocks import FallListener
        from creekbed.window.shared.sound_listening import SoundListening

        def made(rate: float) -> FallListener:
            self.listener = FallListener(rate)
            return self.listener

        devices = self.page.frame.devices
        devices.about_to_play("falls")
        address = devices.ports.get("microphone", "")
        self.listening = SoundListening(address, made, every=True)
        self.listening.failed.connect(self._failed)
        self.listening.start()
        self.timer.start()
        self.listen.setText("Stop listening")
        self.said.setText("Listening: snip the thread.")

    def _look(self) -> None:
        """What was heard of the fall so far."""
        if self.listener is None:
            return
        if self.listener.fall is not None:
            fall = self.listener.fall
            self.stop()
            self._put(fall)
        elif self.listener.problem:
            self.said.setText(self.listener.problem)

    def _put(self, fall: Fall) -> None:
        text = f"{fall.time_s:.4f} s"
        self.heard = (text, fall.u_s)
        self.timed.setCurrentIndex(list(self.TIMED).index("sound"))
        self.time.setText(text)
        self.work()

    def _failed(self, problem: CreekbedError) -> None:
        self._look()  # what was heard before counts
        if self.listening is not None:
            self.stop()
            self.said.setText(problem.words())

    def stop(self) -> None:
        """Listen no more."""
        self.timer.stop()
        listening, self.listening, self.listener = self.listening, None, None
        self.listen.setText("Listen to the fall")
        if listening is not None:
            listening.stop()

    def choose_file(self) -> None:
        """Take snip and thud from a recording."""
        path, _ = QFileDialog.getOpenFileName(self, "A recording of the fall", "", "Sound (*.wav *.flac *.ogg)")
        if path:
            self.read_file(Path(path))

    def read_file(self, path: Path) -> None:
        """Take snip and thud from a recording; it is worked through beside the window."""
        from creekbed.core.sound.knocks import fall_in
        from creekbed.devices.sound_file import read_sound

        def heard(progress: Progress) -> Fall:
            recording = read_sound(path)
            return fall_in(recording.samples, recording.rate)

        self.stop()
        self.reading.start("Listening to the recording …", heard, self._put)

    def _rate(self) -> float | None:
        text = self.frames.text().removesuffix("frames a second").removesuffix("fps").strip()
        return parse_quantity(text, "count", what="The frames", minimum=1, maximum=100_000) if text else None
