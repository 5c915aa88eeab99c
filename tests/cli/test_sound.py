"""The shell command that hears a pitch, and what files it takes."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile

from creekbed.core.errors import BadInput
from creekbed.demo.player import as_pcm, pieces
from creekbed.devices.simulated import SimulatedMicrophone
from creekbed.devices.sound_file import read_sound
from tests.cli.test_cli import facts, run
from tests.worlds.playing import Ill, Style, performance, strings_played
from tests.worlds.tones import heard, tone

RATE = 44_100.0


def _plucked(hz: float, seconds: float = 1.5) -> Any:
    """A tone that begins after a moment and fades, in noise."""
    rng = np.random.default_rng(2)
    made = tone(rng, hz, seconds, "harmonic", rate=RATE, decay=2.0)
    silence = 1e-4 * rng.normal(size=int(0.3 * RATE))
    sound = np.concatenate([silence, heard(rng, made, 35.0, "pink", rate=RATE), silence])
    return 0.3 * sound / np.abs(sound).max()


@pytest.mark.parametrize(
    ("ending", "subtype"),
    [("wav", "PCM_16"), ("wav", "PCM_24"), ("wav", "FLOAT"), ("wav", "PCM_U8"), ("flac", "PCM_16"), ("ogg", "VORBIS")],
)
def test_a_tone_in_any_file(capsys: Any, tmp_path: Path, ending: str, subtype: str) -> None:
    """The same tone out of every kind of file: its pitch to a tenth of a cent, or to a cent where 8 bits are coarse."""
    path = tmp_path / f"tone.{ending}"
    soundfile.write(path, np.stack([0 * _plucked(441.0), _plucked(441.0)], axis=1), int(RATE), subtype=subtype)
    found = facts(capsys, "pitch", str(path))
    assert found["note"] == "A4" and found["cents"] == pytest.approx(3.930, abs=1.0 if subtype == "PCM_U8" else 0.1)
    assert 0 < found["expanded_u_cents"] < 1 and found["partials"][:3] == [1, 2, 3] and not found["clipped"]
    status, out, _ = run(capsys, "pitch", str(path), "--a4", "442", "--room", "25 °C", "--note", "A4")
    assert status == 0 and "below A4" in out and "14.6 cents up, is allowed for" in out


def test_strings_of_a_recording(capsys: Any, tmp_path: Path) -> None:
    """Each string by its own pitch; 440 Hz at A4 = 442 is 7.85 cents flat (1200·log2, ISO 16)."""
    path = tmp_path / "violin.flac"
    soundfile.write(path, strings_played("violin", {"G": [-6], "D": [1.0], "A": [0.0], "E": [0.5]}), 22_050)
    found = facts(capsys, "tune", str(path))
    told = {s["string"]: s for s in found["strings"]}
    assert told["G"]["cents"] == pytest.approx(-6, abs=0.2) and not told["G"]["holds"] and not found["all_hold"]
    assert told["A"]["holds"] and told["A"]["expanded_u_cents"] < 1
    assert facts(capsys, "tune", str(path), "--a4", "442")["strings"][2]["cents"] == pytest.approx(-7.85, abs=0.2)
    fifths = facts(capsys, "tune", str(path), "--fifths")["strings"][0]["cents"]
    assert fifths == pytest.approx(-6 + 3.91, abs=0.2)
    status, out, _ = run(capsys, "tune", str(path))
    assert status == 0 and "G string: 6.0 cents flat" in out
    status, _, err = run(capsys, "tune", str(path), "--family", "trumpet")
    assert status == 1 and "has no strings" in err
    assert run(capsys, "tune")[0] == 1 and run(capsys, "tune", str(path), "--microphone")[0] == 1


def test_a_play_test_from_the_shell(capsys: Any, tmp_path: Path) -> None:
    """A flute whose lowest note stays silent: its foot is looked at first; a violin has no scale."""
    path = tmp_path / "flute.wav"
    notes = [554.37, 523.25, 493.88, 440.0, 392.0, 349.23, 329.63, 293.66, 277.18, 261.63]  # C#5 to C4, ISO 16
    rng = np.random.default_rng(5)
    soundfile.write(path, performance(rng, notes, Style(), {9: Ill(silent=True, wind=0.2)}), 22_050)
    found = facts(capsys, "scale", str(path), "--family", "flute", "--room", "20 °C")
    assert [n["note"] for n in found["notes"] if n["faults"]] == ["C4"] and found["warmth_cents"] == 0
    assert found["notes"][-1]["stuffy"] and not found["notes"][-1]["off_cents"]
    assert found["pads"][0]["pad"] == "low_c_sharp" or found["pads"][0]["chance"] > 0.2
    status, out, _ = run(capsys, "scale", str(path), "--family", "flute")
    assert status == 0 and "C4: silent" in out and "A leak light or a feeler strip decides" in out
    status, _, err = run(capsys, "scale", str(path), "--family", "violin")
    assert status == 1 and "there is no scale" in err


def test_the_shell_listens(capsys: Any) -> None:
    with SimulatedMicrophone(lambda: pieces(as_pcm(strings_played("violin", {"A": [-9]}))), 22_050, paced=False) as box:
        found = facts(capsys, "tune", "--microphone", box.address, "--seconds", "1.6")
        assert found["strings"][2]["cents"] == pytest.approx(-9, abs=0.3) and found["strings"][0]["cents"] is None
        assert run(capsys, "tune", "--microphone", box.address, "--seconds", "0")[0] == 1
        status, _, err = run(capsys, "scale", "--family", "flute", "--microphone", "http://example.org/a.wav")
        assert status == 1 and "not one of this room" in err


def test_what_is_wrong_with_a_file_is_said(capsys: Any, tmp_path: Path) -> None:
    def told(name: str, sound: Any) -> str:
        path = tmp_path / name
        if isinstance(sound, bytes):
            path.write_bytes(sound)
        else:
            soundfile.write(path, sound, 8000)
        status, _, err = run(capsys, "pitch", str(path))
        assert status == 1 and err.count("\n") == 1
        return err

    noise = 0.1 * np.random.default_rng(0).normal(size=16_000)
    assert "silent" in told("silent.wav", np.zeros(8000))
    assert "empty" in told("empty.wav", np.zeros(0))
    assert "no sound that can be read" in told("text.wav", b"RIFF, but no more than that")
    assert "no sound that can be read" in told("none.wav", b"")
    assert "stands out of the noise" in told("noise.wav", noise)
    assert "too short" in told("short.wav", noise[:60])
    assert run(capsys, "pitch", str(tmp_path / "nowhere.wav"))[0] == 1
    os.mkfifo(tmp_path / "pipe.wav")
    with pytest.raises(BadInput):
        read_sound(tmp_path / "pipe.wav")
    soundfile.write(tmp_path / "long.wav", np.zeros(301 * 1000, dtype=np.int16) + 9, 1000)
    with pytest.raises(BadInput, match="five minutes"):
        read_sound(tmp_path / "long.wav")


def test_a_recording_that_is_cut_off_says_so(capsys: Any, tmp_path: Path) -> None:
    soundfile.write(tmp_path / "loud.wav", np.clip(9 * _plucked(220.0), -1, 1), int(RATE))
    status, out, _ = run(capsys, "pitch", str(tmp_path / "loud.wav"))
    assert status == 0 and "record it softer" in out


def test_a_part_of_a_recording(capsys: Any, tmp_path: Path) -> None:
    two = np.concatenate([_plucked(220.0), 0.3 * _plucked(330.0)])
    soundfile.write(tmp_path / "two.wav", two, int(RATE))
    path = str(tmp_path / "two.wav")
    assert facts(capsys, "pitch", path)["note"] == "A3"
    assert facts(capsys, "pitch", path, "--from", "2.5", "--to", "3.2")["note"] == "E4"
    assert run(capsys, "pitch", path, "--from", "3", "--to", "1")[0] == 1
    assert run(capsys, "pitch", path, "--from", "99")[0] == 1


def test_mutated_files_are_read_or_refused(tmp_path: Path) -> None:
    """300 spoilt recordings: a sound comes out, or words; nothing else."""
    soundfile.write(tmp_path / "whole.flac", _plucked(440.0)[:8000], int(RATE))
    soundfile.write(tmp_path / "whole.wav", _plucked(440.0)[:8000], int(RATE))
    rng = np.random.default_rng(4)
    for n in range(300):
        data = bytearray((tmp_path / ("whole.flac" if n % 2 else "whole.wav")).read_bytes())
        for _ in range(rng.integers(1, 12)):
            data[rng.integers(0, min(len(data), 200 if n % 3 else len(data)))] = rng.integers(0, 256)
        path = tmp_path / "spoilt.wav"
        path.write_bytes(bytes(data[: rng.integers(1, len(data))] if n % 5 == 0 else data))
        try:
            found = read_sound(path)
        except BadInput:
            continue
        assert found.samples.ndim == 1 and np.isfinite(found.samples).all() and found.seconds <= 301


def test_sounds_that_are_kept(capsys: Any, tmp_path: Path) -> None:
    """Kept with the open job of an instrument, listed, copied out, taken away; refused where there is no job."""
    shop = ("--demo", "--folder", str(tmp_path / "shop"))
    tag = facts(capsys, *shop, "instruments", "--place", "bench")["instruments"][0]["tag"]
    path = tmp_path / "tone.wav"
    soundfile.write(path, _plucked(441.0), int(RATE))
    (kept,) = facts(capsys, *shop, "recordings", tag, "--add", str(path), "--about", "tuning")["recordings"]
    assert kept["about"] == "tuning" and kept["seconds"] == pytest.approx(2.1, abs=0.01) and kept["tag"] == tag
    copy = tmp_path / "copy.flac"
    assert run(capsys, *shop, "recordings", tag, "--save", str(kept["number"]), "--to", str(copy))[0] == 0
    assert facts(capsys, "pitch", str(copy))["cents"] == pytest.approx(3.930, abs=0.1)
    status, out, _ = run(capsys, *shop, "recordings", tag, "--remove", str(kept["number"]))
    assert status == 0 and "No sound of it is kept" in out
    for wrong in (("XX-9999",), (tag, "--save", "1"), (tag, "--add", str(tmp_path / "none.wav"))):
        assert run(capsys, *shop, "recordings", *wrong)[0] == 1
