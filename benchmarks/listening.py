"""Hours of listening: whether memory and the time of a look stay as they were.

``python -m benchmarks.listening [HOURS]``, 8 if not said: the listeners of both pages hear a player who plays a third
of the time, in a room with noise, as fast as the machine can. What the last half hour took is said beside the
first, as ratios of one run.
"""

from __future__ import annotations

import os
import statistics
import sys
import time
from collections.abc import Iterator
from pathlib import Path

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import numpy as np
from numpy.typing import NDArray
from tests.worlds.playing import RATE, Style, open_string, performance

from creekbed.core.catalogue.load import shipped
from creekbed.core.sound.listening import Listener
from creekbed.core.sound.notes import ScaleListener
from creekbed.core.sound.play_test import judged, scale_of
from creekbed.core.sound.string_tuning import Tuner, targets
from creekbed.devices.microphone import BLOCK_S, Block
from creekbed.devices.sound_memory import SoundMemory

EVERY_S, PART_S = 0.03, 1800.0
Real = NDArray[np.float64]


def resident_mb() -> float:
    """Memory of this process that is in use, MB."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


def minutes(parts: list[Real]) -> Iterator[Real]:
    """A minute of sound after another without end: a third of it is played, the rest is the room."""
    rng = np.random.default_rng(8)
    n = 0
    while True:
        room = 2e-4 * rng.normal(size=60 * RATE)
        played = parts[n % len(parts)][: 20 * RATE]
        room[: played.size] += played
        yield room
        n += 1


def heard_for(hours: float, name: str) -> list[tuple[float, float]]:
    """Memory, MB, and mean time of a look, ms, after each half hour of sound."""
    catalogue, rng = shipped(), np.random.default_rng(1)
    memory, rows, took = SoundMemory(), [], []
    saxophone, violin = catalogue.families["alto_saxophone"], catalogue.families["violin"]
    assert saxophone.voice is not None and violin.stringed is not None
    notes = scale_of(saxophone.voice, catalogue.leak_table(saxophone), 440.0)
    tuner = Tuner(targets(violin.stringed, 440.0))
    if name == "play-test":
        hz = [n.hz for n in notes]
        listener: Listener | ScaleListener = ScaleListener(RATE, "harmonic", min(hz), max(hz))
        parts = [performance(rng, hz, Style(), {}) for _ in range(6)]
    else:
        listener = Listener(RATE, "stretched", tuner.lowest_hz, tuner.highest_hz)
        hz = [state.target.hz for state in tuner.states.values()]
        parts = [np.concatenate([open_string(rng, h, False, 0.0) for h in hz]) for _ in range(6)]
    size, at, following = round(BLOCK_S * RATE), 0.0, 0.0
    for minute in minutes(parts):
        for start in range(0, minute.size - size + 1, size):
            block = Block(minute[start : start + size], RATE)
            memory.push(block)
            listener.push(block.samples, 0)
            at += BLOCK_S
            if at >= following:
                following = at + EVERY_S
                began = time.perf_counter()
                heard = listener.hear()
                if heard is not None and name == "tuning":
                    tuner.hear(heard)
                took.append(time.perf_counter() - began)
        if isinstance(listener, ScaleListener):
            judged(notes, list(listener.events))
        if at >= PART_S * (len(rows) + 1):
            rows.append((resident_mb(), 1000 * statistics.fmean(took)))
            print(f"  {name:10} {at / 3600:4.1f} h  {rows[-1][0]:7.1f} MB  {rows[-1][1]:5.2f} ms a look", flush=True)
            took.clear()
        if at >= hours * 3600:
            return rows
    raise AssertionError


def main(hours: float) -> None:
    """Listen and print."""
    for name in ("tuning", "play-test"):
        rows = heard_for(hours, name)
        first, last = rows[0], rows[-1]
        print(f"{name}: memory {last[0] / first[0]:.3f}, a look {last[1] / first[1]:.2f} of the first half hour's")


if __name__ == "__main__":
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 8.0)
