"""Sounds that are kept with a job, only when somebody asks for it: what was heard at tuning or in a play-test."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Literal, get_args

from creekbed.core.errors import BadInput, Refused
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.files import write_whole
from creekbed.store.reader import Reader
from creekbed.store.recordings import RecordingStore
from creekbed.store.records import Instrument, SoundRecording
from creekbed.workshop.arrival.intake import clean_tag, need_job
from creekbed.workshop.shop.shop import Act, Shop

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

About = Literal["tuning", "playing"]
MOST = 20
"""So many are kept with one job: house default."""
LARGEST_BYTES = 60_000_000
"""Five minutes at 96,000 samples of 16 bits in a second, uncompressed, fit: house default."""


@dataclass(frozen=True)
class EncodedSound:
    """A sound as it is kept.

    Attributes:
        flac: its file. seconds: how long it is. rate: samples per second.
    """

    flac: bytes
    seconds: float
    rate: float


def encoded(samples: NDArray[np.int16], rate: float) -> EncodedSound:
    """A sound as it is kept; takes a moment for a long one, and needs no shop.

    Args:
        samples: shape (N,). rate: samples per second.

    Raises:
        BadInput: there is nothing in it, or a rate that cannot be kept.
    """
    from creekbed.devices.sound_file import flac_of  # the window opens without what it loads

    return EncodedSound(flac_of(samples, rate), samples.size / rate, rate)


@dataclass(frozen=True)
class RecordingView:
    """One sound on record.

    Attributes:
        name: of the sound in the store. about: what somebody listened to. key: of the step, or "". seconds: how long.
            size: bytes on disk.
    """

    id: int
    name: str
    tag: str
    job_id: int
    about: str
    key: str
    seconds: float
    size: int
    made_at: datetime
    person: str


def add_recording(shop: Shop, job_id: int, sound: EncodedSound, about: About, key: str = "") -> RecordingView:
    """Keep a sound with a job: it is on disk before the record names it.

    Args:
        key: the step for which somebody listened.

    Raises:
        BadInput: nothing that is kept, or too large. Refused: there is no such open job, it is kept already, or too
            many are. StoreProblem: it cannot be kept.
    """
    if about not in get_args(About):
        raise BadInput("There is nothing that this sound could belong to.")
    if not 0 < len(sound.flac) <= LARGEST_BYTES:
        raise BadInput("That sound is empty or too large to be kept.", todo="Keep a shorter one.")
    store = RecordingStore(shop.folder)
    with shop.act("recording.add") as act:
        view = need_job(shop, act.records, job_id, act.now)
        there = act.records.all_of(SoundRecording, job_id=job_id)
        if len(there) >= MOST:
            raise Refused(f"{MOST} sounds are kept with this job already.", todo="Take one away first.")
        name = shop.store.on_disk(lambda: store.keep(sound.flac))
        if any(row.name == name for row in there):
            raise Refused("That sound is kept already.")
        made = act.records.add(SoundRecording(
            name=name, tag=view.tag, job_id=job_id, about=about, key=key, seconds=round(sound.seconds, 2),
            rate=sound.rate, size=len(sound.flac), made_at=act.now, person=shop.person,
        ))  # fmt: skip
        act.tag, act.words = view.tag, f"{view.tag}: a sound was kept"
        return _view(made)


def recordings_of(shop: Shop, job_id: int) -> list[RecordingView]:
    """The sounds of a job, the oldest first."""
    with shop.reading() as records:
        return [_view(r) for r in records.readable(SoundRecording, job_id=job_id)]


def open_job(shop: Shop, tag: str) -> int:
    """The number of the open job of an instrument.

    Raises:
        BadInput: that is no tag. Refused: it is not on the bench.
    """
    tag = clean_tag(tag)
    with shop.reading() as records:
        job = records.fleet.jobs_here([tag]).get(tag)
    if job is None or job.state != "open":
        raise Refused(f"{tag} is not on the bench.", todo="Look at its tag.")
    return job.id


def recordings_of_instrument(shop: Shop, tag: str) -> list[RecordingView]:
    """The sounds of an instrument, the newest first.

    Raises:
        BadInput: that is no tag. Refused: no such instrument is known.
    """
    with shop.reading() as records:
        if records.get(Instrument, clean_tag(tag)) is None:
            raise Refused(f"No instrument {clean_tag(tag)} is known here.")
        return recordings_in(records, clean_tag(tag))


def recordings_in(records: Reader, tag: str) -> list[RecordingView]:
    """The sounds of an instrument, the newest first."""
    return [_view(r) for r in records.readable(SoundRecording, newest=True, tag=tag)]


def remove_recording(shop: Shop, recording_id: int) -> None:
    """Take a sound away. It leaves the disk some days later, so that this can be undone, and the copies with their age.

    Raises:
        Refused: it is not on record.
    """
    with shop.act("recording.remove") as act:
        row = _need(act, recording_id)
        act.tag, act.words = row.tag, f"{row.tag}: a sound was taken away"
        act.records.remove(row)


def flac_kept(shop: Shop, recording_id: int) -> tuple[RecordingView, bytes]:
    """A sound that is kept: what is known of it, and its FLAC.

    Raises:
        Refused: it is not on record. StoreProblem: it is not on disk, or was changed there.
    """
    with shop.reading() as records:
        row = records.get(SoundRecording, recording_id)
    if row is None:
        raise Refused("That sound is not on record any more.")
    return _view(row), RecordingStore(shop.folder).read(row.name)


def save_copy(shop: Shop, recording_id: int, to: Path) -> None:
    """Write a copy of a sound for somebody else, whole or not at all.

    Raises:
        Refused: it is not on record, or the file cannot be written. StoreProblem: it is not on disk.
    """
    _, content = flac_kept(shop, recording_id)
    try:
        write_whole(to, content)
    except OSError as error:
        raise Refused(f"{str(to)[:120]} cannot be written.", todo="Choose another folder.") from error


def _need(act: Act, recording_id: int) -> SoundRecording:
    row = act.records.get(SoundRecording, recording_id)
    if row is None:
        raise Refused("That sound is not on record any more.")
    return row


def _view(row: SoundRecording) -> RecordingView:
    return RecordingView(
        row.id, row.name, row.tag, row.job_id, row.about, row.key, row.seconds, row.size, row.made_at, row.person
    )
