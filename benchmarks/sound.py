"""Pitch against its bound, its intervals, its octaves, and against other estimators on the same signals, in one run.

``python -m benchmarks.sound [TONES]``: TONES for each cell, 60 if not said. The other estimators are optional:
``pip install -r benchmarks/requirements.txt``. Times are ratios of one run.
"""

from __future__ import annotations

import os
import sys
import time
from collections.abc import Callable

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import numpy as np
from numpy.typing import NDArray
from tests.worlds.tones import KINDS, RATE, WORLDS, bound_hz, heard, tone

from creekbed.core.sound.pitch import pitch_of

Real = NDArray[np.float64]
PITCHES = (27.5, 55.0, 110.0, 220.0, 440.0, 880.0, 1760.0, 4186.0)
SECONDS = (0.1, 0.3, 1.0, 2.0)
SNRS = (0.0, 10.0, 20.0, 40.0)
LIMIT = 1.1
Estimator = Callable[[Real, float], float | None]


def _as(kind: str) -> str:
    return "harmonic" if kind == "missing" else kind


def grid(count: int) -> None:
    """Root mean square error over the bound in each cell, and what misses 1.1 beyond chance."""
    print(f"RMS error / bound, {count} tones a cell; columns {SNRS} dB; * above {LIMIT} by more than two deviations")
    missed = []
    for kind in KINDS:
        for seconds in SECONDS:
            for hz in PITCHES:
                if kind == "missing" and 3 * hz > 0.4 * RATE:
                    continue
                row = []
                for snr in SNRS:
                    ratio, lost = _cell(kind, hz, seconds, snr, count)
                    bad = lost > 0 or ratio > LIMIT * (1 + 2 / np.sqrt(2 * count))
                    row.append(f"{ratio:5.2f}{'*' if bad else ' '}" + (f"({lost})" if lost else ""))
                    if bad:
                        missed.append((kind, hz, seconds, snr, round(ratio, 2), lost))
                print(f"  {kind:9} {seconds:4} s {hz:7} Hz  {'  '.join(row)}", flush=True)
    print(f"{len(missed)} cells missed:")
    for cell in missed:
        print("  ", *cell)


def _cell(kind: str, hz: float, seconds: float, snr: float, count: int) -> tuple[float, int]:
    rng = np.random.default_rng([int(hz * 10), int(seconds * 10), int(snr), KINDS.index(kind)])
    errors, lost = [], 0
    for _ in range(count):
        made = tone(rng, hz * 2 ** rng.uniform(-0.04, 0.0), seconds, kind)
        found = pitch_of(heard(rng, made, snr), RATE, _as(kind), lowest_hz=max(24.0, 2.01 / seconds))  # type: ignore[arg-type]
        if found is None or abs(found.cents_from(made.first_hz)) > 60:
            lost += 1
            continue
        free = kind == "stretched" and made.numbers.size >= 2
        errors.append((found.hz - made.first_hz) / bound_hz(made, snr, free_stretch=free))
    return (float(np.sqrt(np.mean(np.square(errors)))) if errors else np.nan), lost


def octaves(count: int = 10_000) -> None:
    """Tones whose pitch is off by more than 60 cents, or not heard."""
    rng = np.random.default_rng(2026)
    wrong, silent, hardest = 0, 0, []
    for n in range(count):
        kind = KINDS[n % 4]
        hz = 2 ** rng.uniform(np.log2(27), np.log2(1800 if kind == "missing" else 4200))
        seconds = max(10 ** rng.uniform(-1, 0.3), 3 / hz)
        made, snr = tone(rng, hz, seconds, kind), rng.uniform(0, 40)
        found = pitch_of(heard(rng, made, snr), RATE, _as(kind), lowest_hz=max(24.0, 2.01 / seconds))  # type: ignore[arg-type]
        if found is None:
            silent += 1
        elif abs(found.cents_from(made.first_hz)) > 60:
            wrong += 1
            hardest.append((kind, round(hz, 1), round(seconds, 2), round(snr, 1), round(found.hz, 1)))
    print(f"{count} tones, 27 Hz to 4.2 kHz, 0.1 to 2 s, 0 to 40 dB: {wrong} wrong, {silent} not heard")
    for row in hardest[:20]:
        print("  ", *row)


def intervals(count: int = 1000) -> None:
    """How often the interval of 95 % holds."""
    for name, world in WORLDS.items():
        rng, inside = np.random.default_rng(5), []
        for _ in range(count):
            case = world(rng)
            found = pitch_of(case.sound, RATE, case.kind)
            if found is not None:
                inside.append(abs(found.hz - case.hz) < 1.96 * found.u_hz)
        print(f"  {name:26} {100 * np.mean(inside):5.1f} of a hundred ({len(inside)} heard)", flush=True)


def others(count: int = 30) -> None:
    """Error and time beside other estimators, as ratios to ours, on the same signals."""
    found = _estimators()
    if len(found) == 1:
        print("neither librosa nor aubio is there: nothing to compare with")
        return
    print("median |error| in cents, and time as a multiple of ours")
    for seconds in SECONDS:
        for hz in (82.0, 440.0, 1760.0):
            rng = np.random.default_rng(9)
            made = [tone(rng, hz * 2 ** rng.uniform(-0.04, 0.04), seconds, "harmonic") for _ in range(count)]
            sounds = [heard(rng, t, 20.0) for t in made]
            row, ours = [], 1.0
            for name, estimate in found.items():
                estimate(sounds[0], hz)
                began = time.process_time()
                answers = [estimate(x, hz) for x in sounds]
                took = time.process_time() - began
                ours = took if name == "ours" else ours
                off = [abs(1200 * np.log2(a / t.first_hz)) if a else np.inf for a, t in zip(answers, made, strict=True)]
                row.append(f"{name} {np.median(off):8.4f} x{took / ours:5.2f}")
            print(f"  {seconds:4} s {hz:6} Hz  {'   '.join(row)}", flush=True)


def _estimators() -> dict[str, Estimator]:
    def ours(sound: Real, hz: float) -> float | None:
        found = pitch_of(sound, RATE)
        return None if found is None else found.hz

    found: dict[str, Estimator] = {"ours": ours}
    try:
        import librosa

        found["yin"] = lambda x, hz: float(np.median(librosa.yin(x, fmin=60.0, fmax=4500.0, sr=RATE)))
        found["pyin"] = lambda x, hz: float(np.nanmedian(librosa.pyin(x, fmin=60.0, fmax=4500.0, sr=RATE)[0]))
    except ImportError:
        pass
    try:
        import aubio

        def with_aubio(x: Real, hz: float) -> float | None:
            listener, heard_hz = aubio.pitch("yinfft", 2048, 512, int(RATE)), []
            for start in range(0, x.size - 511, 512):
                heard_hz.append(float(listener(x[start : start + 512].astype(np.float32))[0]))
            return float(np.median([h for h in heard_hz if h > 0] or [0.0])) or None

        found["aubio"] = with_aubio
    except ImportError:
        pass
    return found


if __name__ == "__main__":
    tones = int(sys.argv[1]) if len(sys.argv) > 1 else 60
    others()
    intervals()
    octaves()
    grid(tones)
