"""Sounds kept with a job: only on request, whole on disk, taken away and brought back, in copies, swept, refused."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

import numpy as np
import pytest

from creekbed.core.errors import BadInput, Refused, StoreProblem
from creekbed.devices.microphone import Block
from creekbed.devices.sound_file import flac_of, sixteen_bits, sound_in
from creekbed.devices.sound_memory import SoundMemory
from creekbed.store.recordings import RecordingStore
from creekbed.store.sqlite.backup import back_up, prune
from creekbed.store.sqlite.copies import find, restore
from creekbed.workshop.inspection import recordings
from creekbed.workshop.inspection.recordings import EncodedSound
from creekbed.workshop.shop.privacy import UNDO_TIME, sweep_files
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand

RATE = 22_050.0


def sound(seed: int = 1, seconds: float = 1.0) -> EncodedSound:
    samples = np.random.default_rng(seed).integers(-20_000, 20_000, round(RATE * seconds)).astype(np.int16)
    return EncodedSound(flac_of(samples, RATE), seconds, RATE)


def aged(path: Path) -> None:
    """A file that was written longer ago than undo reaches."""
    before = path.stat().st_mtime - UNDO_TIME.total_seconds() - 60
    os.utime(path, (before, before))


def test_what_was_kept_comes_out_sample_by_sample(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    kept = recordings.add_recording(shop, job, sound(), "tuning", "retune_1")
    assert recordings.recordings_of(shop, job) == [kept] and kept.key == "retune_1" and kept.person == shop.person
    path = RecordingStore(shop.folder).path(kept.name)
    assert path.stat().st_mode & 0o077 == 0 and path.stat().st_size == kept.size
    heard = sound_in(recordings.flac_kept(shop, kept.id)[1], "it")
    drawn = np.random.default_rng(1).integers(-20_000, 20_000, round(RATE)).astype(np.int16)
    assert heard.rate == RATE and np.array_equal(np.rint(heard.samples * 32768).astype(np.int16), drawn)


def test_taking_away_can_be_undone_until_it_has_left_the_disk(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    kept = recordings.add_recording(shop, job, sound(), "playing")
    path = RecordingStore(shop.folder).path(kept.name)
    recordings.remove_recording(shop, kept.id)
    assert recordings.recordings_of(shop, job) == [] and sweep_files(shop) == 0 and path.exists()
    with pytest.raises(Refused, match="not on record"):
        recordings.remove_recording(shop, kept.id)
    shop.undo()
    aged(path)
    assert sweep_files(shop) == 0 and recordings.flac_kept(shop, kept.id)[1]  # it is named again
    recordings.remove_recording(shop, kept.id)
    aged(path)
    assert sweep_files(shop) == 1 and not path.exists()
    with pytest.raises(Refused, match="left the disk"):
        shop.undo()


def test_copies_hold_it_and_give_it_back_and_forget_it_with_their_age(shop: Shop, hand: Hand) -> None:
    kept = recordings.add_recording(shop, hand.book(), sound(), "playing")
    made = back_up(shop.folder, "daily")
    mirrored = shop.folder / "backups" / "sounds"
    assert [p.name for p in mirrored.glob("??/*")] == [f"{kept.name}.flac"]
    shutil.rmtree(shop.folder / "sounds")
    with pytest.raises(StoreProblem, match="not in its place"):
        recordings.flac_kept(shop, kept.id)
    recordings.remove_recording(shop, kept.id)
    shop.close()
    restore(shop.folder, find(shop.folder, made.name))
    assert RecordingStore(shop.folder).read(kept.name)
    shutil.rmtree(made)
    prune(shop.folder)
    assert not list(mirrored.glob("??/*"))


def test_what_is_refused(shop: Shop, hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    job = hand.book()
    kept = recordings.add_recording(shop, job, sound(), "playing")
    with pytest.raises(Refused, match="kept already"):
        recordings.add_recording(shop, job, sound(), "playing")
    with pytest.raises(BadInput):
        recordings.add_recording(shop, job, sound(2), "voices")  # type: ignore[arg-type]
    with pytest.raises(BadInput):
        recordings.add_recording(shop, job, EncodedSound(b"", 1.0, RATE), "playing")
    with pytest.raises(Refused):
        recordings.add_recording(shop, job + 50, sound(2), "playing")
    monkeypatch.setattr(recordings, "MOST", 1)
    with pytest.raises(Refused, match="kept with this job"):
        recordings.add_recording(shop, job, sound(2), "playing")
    assert recordings.recordings_of(shop, job) == [kept]
    with pytest.raises(Refused, match="cannot be written"):
        recordings.save_copy(shop, kept.id, Path("/proc/nowhere/a.flac"))
    recordings.save_copy(shop, kept.id, tmp_path / "copy.flac")
    assert (tmp_path / "copy.flac").read_bytes() == sound().flac
    path = RecordingStore(shop.folder).path(kept.name)
    path.chmod(0o600)
    path.write_bytes(sound(3).flac)
    with pytest.raises(StoreProblem, match="changed on disk"):
        recordings.flac_kept(shop, kept.id)


def test_memory_holds_the_last_minutes_and_fills_what_was_lost_with_silence() -> None:
    memory = SoundMemory(longest_s=2.0)
    assert memory.seconds == 0.0 and memory.sound()[0].size == 0
    with pytest.raises(BadInput, match="Nothing was heard"):
        flac_of(*memory.sound())
    for n in range(50):
        memory.push(Block(np.full(100, (n + 1) / 100.0), 1000.0))
    samples, rate = memory.sound()
    assert rate == 1000.0 and 2.0 <= memory.seconds <= 2.1 and samples[-1] == sixteen_bits(np.array([0.5]))[0]
    memory.push(Block(np.full(100, 0.9), 1000.0, lost=300))
    assert not memory.sound()[0][-400:-100].any() and memory.sound()[0][-1] > 0
    memory.push(Block(np.full(80, 0.1), 8000.0))  # another microphone: what was heard before is another sound
    assert memory.sound()[0].size == 80 and memory.sound()[1] == 8000.0
    assert sixteen_bits(np.array([-3.0, 3.0])).tolist() == [-32767, 32767]
