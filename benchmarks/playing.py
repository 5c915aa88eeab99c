"""Play-tests and tunings of simulated instruments with planted faults: how many are found, how many falsely accused.

``python -m benchmarks.playing [INSTRUMENTS [every]]``: so many seeded instruments, 500 if not said, two thirds of them
with a fault; with "every" winds only, each played by semitones through two octaves whose registers differ by nature.
The players, tones and rooms are those of ``tests/worlds/``, which share no code with what judges them.
"""

from __future__ import annotations

import os
import sys
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import numpy as np
from tests.worlds.playing import RATE, Ill, Style, open_string, performance, rattle

from creekbed.core.catalogue.load import shipped
from creekbed.core.sound.listening import heard_in
from creekbed.core.sound.notes import heard_notes
from creekbed.core.sound.play_test import judged, scale_of
from creekbed.core.sound.string_tuning import IN_TUNE_CENTS, Tuner, targets
from creekbed.core.strings.tension import lies_in_fifths

WINDS = ("alto_saxophone", "clarinet", "flute", "trumpet", "trombone", "oboe", "tuba", "horn")
FAMILIES = ("violin", "clarinet", "acoustic_guitar", "alto_saxophone", "trumpet", "double_bass", "trombone", "flute")
Found = tuple[str, str, bool, bool]
"""Family, fault, whether it was found, whether something sound was accused."""


def wind(rng: np.random.Generator, key: str) -> Found:
    """One wind instrument, played through its scale."""
    catalogue = shipped()
    family = catalogue.families[key]
    assert family.voice is not None
    notes = scale_of(family.voice, catalogue.leak_table(family), 440.0)
    count = len(notes)
    low = max(range(count), key=lambda n: -notes[n].hz)
    faults = ["none", "silent low note", "out of tune"] + (["leak"] if catalogue.leak_table(family) else [])
    fault = faults[rng.integers(len(faults))]
    ills: dict[int, Ill] = {}
    if fault == "leak":
        first = int(rng.integers(count // 2, count - 1))
        stuffy = Ill(late_s=rng.uniform(0.14, 0.28), weaker_db=rng.uniform(9, 14), wind=rng.uniform(0.1, 0.2))
        ills = dict.fromkeys(range(first, count), stuffy)
    elif fault == "silent low note":
        ills = {low: Ill(silent=True, wind=0.2)}
    elif fault == "out of tune":
        off = rng.uniform(38, 50) * rng.choice([-1, 1])
        ills = {k: Ill(cents=off) for k in rng.choice(count, 2, replace=False)}
    style = Style(
        odd=family.voice.partials == "odd", lies=rng.uniform(-25, 25), scatter=rng.uniform(2, 5),
        loud_db=rng.uniform(0.5, 1.5), wind=rng.uniform(0.01, 0.05), lead_s=rng.uniform(0.015, 0.05),
    )  # fmt: skip
    sound = performance(rng, [n.hz for n in notes], style, ills)
    result = judged(notes, heard_notes(sound, RATE, family.voice.partials, [n.hz for n in notes]))
    found = all(result.notes[k].faults for k in ills)
    return key, fault, found, any(n.faults for k, n in enumerate(result.notes) if k not in ills)


def every_note(rng: np.random.Generator, key: str) -> Found:
    """One wind instrument, played by semitones through two octaves; its registers differ in strength and breath."""
    catalogue = shipped()
    family = catalogue.families[key]
    assert family.voice is not None
    notes = scale_of(family.voice, catalogue.leak_table(family), 440.0, every=True)
    up = np.linspace(0, 1, len(notes))
    weaker = -6.0 * up * rng.choice([-1, 1]) + np.where(up > 0.55, rng.uniform(-3, 3), 0)
    ills = {k: Ill(weaker_db=weaker[k], wind=0.02 * up[k]) for k in range(len(notes))}
    fault, bad = ("none", "out of tune", "silent low note", "leak")[rng.integers(4)], list[int]()
    if fault == "out of tune":
        off, bad = rng.uniform(36, 48) * rng.choice([-1, 1]), list(rng.choice(len(notes), 2, replace=False))
        ills |= {k: replace(ills[k], cents=off) for k in bad}
    elif fault == "silent low note":
        bad, ills[0] = [0], Ill(silent=True, wind=0.2)
    elif fault == "leak":
        bad, late, wind_ = list(range(int(rng.integers(3, 8)))), rng.uniform(0.14, 0.28), rng.uniform(0.1, 0.2)
        by = rng.uniform(9, 14)
        ills |= {k: Ill(late_s=late, weaker_db=by + weaker[k], wind=wind_) for k in bad}
    style = Style(odd=family.voice.partials == "odd", lies=rng.uniform(-25, 25), scatter=rng.uniform(2, 5))
    sound = performance(rng, [n.hz for n in notes], style, ills)
    result = judged(notes, heard_notes(sound, RATE, family.voice.partials, [n.hz for n in notes]))
    accused = any(n.faults for k, n in enumerate(result.notes) if k not in bad)
    return key, fault, all(result.notes[k].faults for k in bad), accused


def one_of_every_note(seed: int) -> Found:
    """The wind instrument of a seed, each note of it."""
    return every_note(np.random.default_rng([seed, 99]), WINDS[seed % len(WINDS)])


def strings(rng: np.random.Generator, key: str) -> Found:
    """One stringed instrument, each open string sounded once."""
    family = shipped().families[key]
    assert family.stringed is not None
    wanted = targets(family.stringed, 440.0)
    fault = ("none", "flat string", "false string", "buzzing string")[rng.integers(4)]
    ill = wanted[rng.integers(len(wanted))].key if fault != "none" else ""
    bowed = lies_in_fifths(family.stringed)
    hair_db = rng.uniform(-42, -32) if bowed else -99.0
    parts = [2e-4 * rng.normal(size=RATE // 2)]
    for target in wanted:
        cents = rng.uniform(-1.5, 1.5)
        if target.key == ill and fault == "flat string":
            cents = -rng.uniform(6, 40)
        false = rng.uniform(10, 18) if target.key == ill and fault == "false string" else 0.0
        hz, pulsed = target.hz * 2 ** (cents / 1200), hair_db + rng.uniform(-2, 2)
        sound = open_string(rng, hz, not bowed, false, pulsed_db=pulsed if bowed else -99.0)
        if target.key == ill and fault == "buzzing string":
            sound = sound + rattle(rng, hz, sound, (pulsed if bowed else -45.0) + rng.uniform(14, 22))
        parts += [sound, np.zeros(RATE // 3)]
    whole = np.concatenate(parts)
    whole = whole + 2e-4 * rng.normal(size=whole.size)
    tuner = Tuner(wanted)
    for heard in heard_in(whole, RATE, "stretched", tuner.lowest_hz, tuner.highest_hz, long=True):
        tuner.hear(heard)
    found, accused = fault == "none", False
    for state in tuner.states.values():
        off = state.now is not None and abs(state.now.cents) > IN_TUNE_CENTS
        false_found = state.may_be_false
        if state.target.key == ill:
            told = {"flat string": off, "false string": false_found, "buzzing string": state.buzz_db > 0}
            found = told[fault]
        else:
            accused |= off or false_found or state.buzz_db > 0 or state.now is None
    return key, fault, found, accused


def one(seed: int) -> Found:
    """The instrument of a seed."""
    rng = np.random.default_rng([seed, 21])
    key = FAMILIES[seed % len(FAMILIES)]
    return strings(rng, key) if shipped().families[key].stringed is not None else wind(rng, key)


def main(count: int, every: bool) -> None:
    """Try so many and print what came of it."""
    began = time.monotonic()
    with ProcessPoolExecutor() as pool:
        rows = list(pool.map(one_of_every_note if every else one, range(count), chunksize=4))
    planted = Counter((key, fault) for key, fault, _, _ in rows)
    found = Counter((key, fault) for key, fault, was, _ in rows if was)
    accused = Counter((key, fault) for key, fault, _, wrong in rows if wrong)
    for cell in sorted(planted):
        told = f"found {found[cell]:4}  something sound accused {accused[cell]}"
        print(f"  {cell[0]:16} {cell[1]:16} {planted[cell]:4}  {told}")
    ill = sum(n for (_, fault), n in planted.items() if fault != "none")
    hit = sum(n for (_, fault), n in found.items() if fault != "none")
    wrong = f"on {100 * accused.total() / count:.1f} % of all something sound was accused"
    print(f"{count} instruments, {ill} with a fault: {100 * hit / max(ill, 1):.1f} % found; {wrong}")
    print(f"{time.monotonic() - began:.0f} s")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 500, "every" in sys.argv[2:])
