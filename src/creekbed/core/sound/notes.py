"""Cuts a running sound into notes and measures each: its pitch, how it speaks, how loud and how breathy it is."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.signal import resample

from creekbed.core.progress import Progress, advance, untold
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.sound.fundamentals import Kind
from creekbed.core.sound.last_samples import LastSamples
from creekbed.core.sound.listening import Heard, Listener
from creekbed.core.sound.pitch import Pitch, pitch_of

Real = NDArray[np.float64]
LEAST_S, GAP_S = 0.15, 0.1
"""Shortest note, and longest gap within one, s: house default."""
TRIED_S, LONG_TRIED_S = 0.25, 0.4
"""Breath alone for so long is a note that somebody tried; for so long also where another note follows at once: house
default."""
ANOTHER_CENTS, SURE_TIMES = 40.0, 3
"""A tone that moves by more is another note when it stays there so many times: house default."""
UNSURE_S, SOFTER_DB = 0.25, 8.0
"""A note goes on so long without a pitch while it is not softer by so much: house default."""
FINE = 250.0
"""Samples of a period between which the best is sought: house default."""
MOST_HELD = 1000
"""Somebody may listen all day: of all that was heard so many events are held."""
FRAME_S, BEFORE_S, HELD_S = 0.005, 0.5, 8.0
"""Frames in which loudness is looked at, what is looked at before a note, and how much of one is held, s."""


@dataclass(frozen=True)
class NoteHeard:
    """A note that somebody played.

    Attributes:
        start_s, seconds: since listening began, and how long. pitch: of its steady part. level_db: of it, against the
            end of the scale. breath_db: what is not periodic in it, against what is. speaks_s: from the first breath to
            the tone; ``None`` where it is slurred.
    """

    start_s: float
    seconds: float
    pitch: Pitch
    level_db: float
    breath_db: float
    speaks_s: float | None


@dataclass(frozen=True)
class Tried:
    """Breath without a note."""

    start_s: float
    seconds: float


Event = NoteHeard | Tried


class ScaleListener:
    """Takes sound in and cuts it into notes; ``events`` has them as they end.

    Args:
        rate: samples per second. kind: of the partials. lowest_hz, highest_hz: of the scale.
    """

    def __init__(self, rate: float, kind: Kind, lowest_hz: float, highest_hz: float):
        self.rate, self.kind = rate, kind
        top = min(highest_hz * 3.2, 0.4 * rate)
        self.listener = Listener(rate, kind, lowest_hz * 0.8, max(top, lowest_hz * 1.7))
        self.events: list[Event] = []
        """The last events, :data:`MOST_HELD` of them at least where there were so many."""
        self.count = 0
        """How many events there were."""
        self.sounding_hz = 0.0
        """What sounds now; 0: nothing."""
        self._held = LastSamples(int((HELD_S + 2 * BEFORE_S) * rate))
        self._count = 0
        self._hz: list[float] = []
        self._other: list[tuple[float, float]] = []
        self._begun = self._last = self._noise = self._level = 0.0
        self._noisy = False
        self._blown: float | None = None
        """When the breath began that the tone which sounds came from."""

    @property
    def seconds(self) -> float:
        """How much sound was taken in, s."""
        return self._count / self.rate

    def push(self, samples: Real, lost: int = 0) -> None:
        """Take some sound in."""
        self.listener.push(samples, lost)
        if lost:
            self._hz = []
            self._held.clear()
            self._count += lost
        self._held.push(samples)
        self._count += samples.size

    def hear(self) -> Heard | None:
        """What is heard now; a note that has ended is added to ``events``."""
        heard = self.listener.hear(long=False)
        if heard is None:
            return None
        if heard.pitch is not None:
            self._tone(heard, heard.pitch.hz)
        else:
            self._no_tone(heard)
        self.sounding_hz = self._hz[-1] if self._hz else 0.0
        return heard

    def end(self) -> None:
        """The recording is over: what sounds has ended."""
        self._close()
        self._close_noise(self.seconds)

    def _tone(self, heard: Heard, hz: float) -> None:
        if self._noisy and heard.at_s - self._noise > LONG_TRIED_S:
            self._close_noise(heard.at_s)
        if not self._hz:
            self._blown = self._noise if self._noisy else None
        self._noisy = False
        if self._hz and abs(1200 * math.log2(hz / float(np.median(self._hz[-9:])))) > ANOTHER_CENTS:
            self._other.append((heard.at_s, hz))
            if len(self._other) < SURE_TIMES:
                return
            others, self._other = self._other, []
            self._close()
            self._begun = others[0][0]
            self._hz = [other for _, other in others]
            self._last = heard.at_s
            return
        self._other = []
        if not self._hz:
            self._begun = heard.at_s
        self._hz.append(hz)
        self._last, self._level = heard.at_s, heard.level_db
        if heard.at_s - self._begun > HELD_S:
            self._close()

    def _no_tone(self, heard: Heard) -> None:
        as_loud = heard.state in ("noise", "tone") and heard.level_db > self._level - SOFTER_DB
        if self._hz and heard.at_s - self._last > (UNSURE_S if as_loud else GAP_S):
            self._close()
        if self._hz:
            return
        if heard.state == "noise" and not self._noisy:
            self._noisy, self._noise = True, heard.at_s
        elif heard.state in ("quiet", "dead"):
            self._close_noise(heard.at_s)

    def _close_noise(self, at_s: float) -> None:
        if self._noisy and at_s - self._noise >= TRIED_S and self._noise > self._last + GAP_S:
            self._add(Tried(self._noise, at_s - self._noise))
        self._noisy = False

    def _close(self) -> None:
        found, self._hz, self._other = self._hz, [], []
        half = self.listener.short / (2 * self.rate)
        if not found:
            return
        blown, self._blown = self._blown, None
        if self._last - self._begun + half < LEAST_S:
            self._tried(blown)
            return
        first = self._begun - half - BEFORE_S
        start = self._held.size - self._count + int(first * self.rate)
        end = self._held.size - self._count + int((self._last + half) * self.rate)
        lead = int(BEFORE_S * self.rate) + min(start, 0)
        if lead < 0:
            self._tried(blown)
            return
        sound = self._held.last(self._held.size)[max(start, 0) : end]
        note = measure_note(sound, lead, self.rate, self.kind, float(np.median(found)))
        if note is not None:
            shifted = self._begun - half - lead / self.rate
            self._add(replace(note, start_s=shifted + note.start_s))
        else:
            self._tried(self._begun if blown is None else blown)

    def _add(self, event: Event) -> None:
        self.events.append(event)
        self.count += 1
        if len(self.events) > 2 * MOST_HELD:
            del self.events[:-MOST_HELD]

    def _tried(self, since: float | None) -> None:
        """A tone that came to nothing after breath: somebody tried a note."""
        if since is not None and self._last - since >= TRIED_S:
            self._add(Tried(since, self._last - since))


def measure_note(sound: Real, lead: int, rate: float, kind: Kind, about_hz: float) -> NoteHeard | None:
    """Measure one note.

    Args:
        sound: shape (N,), with what came before it. lead: samples before it was first heard as a tone.
        about_hz: its pitch, about.

    Returns:
        Times from the beginning of ``sound``; ``None`` where no steady part has that pitch.
    """
    size = max(int(max(FRAME_S, 1 / about_hz) * rate), 1)  # within a period it is loud and soft
    frames = sound.size // size
    if frames < 12:
        return None
    loud = np.sqrt((sound[: frames * size].reshape(frames, size) ** 2).mean(axis=1))
    first = min(lead // size, frames - 8)
    steady = float(np.median(loud[first + (frames - first) // 4 : max(first + 3 * (frames - first) // 4, first + 8)]))
    there = _there(loud >= 0.5 * steady, first)
    speaks = _speaks_s(loud, there, steady, size / rate)
    begin = min((there * size) + int(0.05 * rate), sound.size - int(0.06 * rate))
    part = sound[max(begin, 0) : min(begin + int(1.5 * rate), sound.size - int(0.02 * rate))]
    if part.size < 0.05 * rate:
        return None
    pitch = pitch_of(part, rate, kind, lowest_hz=0.75 * about_hz, highest_hz=min(1.35 * about_hz, 0.42 * rate))
    if pitch is None:
        return None
    level = 10 * math.log10(max(float((part**2).mean()), 1e-20))
    breath = breath_db(part, rate, pitch.hz)
    return NoteHeard(there * size / rate, (frames - there) * size / rate, pitch, level, breath, speaks)


def breath_db(sound: Real, rate: float, hz: float) -> float:
    """What is not periodic in a tone against what is, dB: the correlation of pieces of it with those a period later.

    A pitch that wanders slowly makes no difference, as it would to what is left around its partials.

    Source: Boersma 1993, Accurate short-term analysis of the fundamental frequency and the harmonics-to-noise ratio of
    a sampled sound (the correlation's meaning; from memory).
    """
    times = int(min(max(math.ceil(FINE * hz / rate), 1), 8))
    if times > 1:
        sound = np.asarray(resample(sound, times * sound.size))
        rate *= times
    period = rate / hz
    size = int(max(0.03 * rate, 3 * period))
    whole = int(period)
    count = max((sound.size - whole - 2) // size, 1)
    found = []
    for n in range(count):
        a = sound[n * size : (n + 1) * size]
        best = 0.0
        for late in (whole - 1, whole, whole + 1, whole + 2):  # it need not be a whole number of samples
            b = sound[n * size + late : n * size + late + a.size]
            if late < 1 or b.size < a.size:
                continue
            power = float(a @ a) * float(b @ b)
            if power > 0:
                best = max(best, float(a @ b) / math.sqrt(power))
        found.append(best)
    usual = min(max(float(np.median(found)), 1e-3), 1 - 1e-6)
    return 10 * math.log10((1 - usual) / usual)


def _there(loud_enough: NDArray[np.bool_], first: int) -> int:
    """The frame in which a tone is there: a busy machine may have noticed it too late."""
    if not loud_enough[first]:
        return first + int(np.argmax(loud_enough[first:]))
    softer = np.flatnonzero(~loud_enough[:first])
    return int(softer[-1]) + 1 if softer.size else 0


def _speaks_s(loud: Real, there: int, steady: float, frame_s: float) -> float | None:
    """From the first breath to the tone, s; ``None`` where something sounded until then."""
    before = loud[:there]
    if before.size < 6:
        return None
    quiet = float(np.quantile(before, 0.2))
    if quiet > 0.25 * steady:
        return None
    over = before > max(2.5 * quiet, 0.02 * steady)
    still = np.flatnonzero(~over)
    return float(before.size - 1 - still[-1]) * frame_s if still.size else None


def heard_notes(
    sound: Real, rate: float, kind: Kind, hz: Sequence[float], hop_s: float = 0.04, progress: Progress = untold
) -> list[Event]:
    """The notes of a whole recording, shape (N,).

    Args:
        hz: of the notes that may come. hop_s: how often it is looked at. progress: told how far it is.

    Raises:
        BadInput: given up.
    """
    listener = ScaleListener(rate, kind, min(hz), max(hz))
    hop = max(int(hop_s * rate), 1)
    for start in range(0, sound.size, hop):
        listener.push(sound[start : start + hop])
        listener.hear()
        advance(progress, start, sound.size)
    listener.end()
    return listener.events
