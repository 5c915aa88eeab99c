"""Finding a leaking pad by playing: tables by general fingering knowledge (from memory), every pad by simulation."""

from __future__ import annotations

import random
from itertools import pairwise

import numpy as np
import pytest

from creekbed.core.airtight.pads import Located, Locator, Played, Probe, along_joint, closed_for, note_words, semitones
from creekbed.core.catalogue.load import shipped
from creekbed.core.errors import BadInput

TABLES = shipped().leaks


def search(locator: Locator, leaking: set[str], rng: random.Random, wrong: float = 0.05) -> tuple[Located, int]:
    """Play the scale, then at most eight notes that the method asks for, on an instrument with these leaks."""
    played: list[Played] = []

    def play(probe: Probe) -> None:
        needs = closed_for(locator.table, probe.note) - {probe.held}
        good = not (leaking & needs)
        played.append(Played(probe, good != (rng.random() < wrong)))

    for note in locator.table.scale:
        play(Probe(note))
    asked = 0
    found = locator.locate(played)
    while found.following is not None and asked < 8:
        play(found.following)
        asked += 1
        found = locator.locate(played)
    return found, asked


@pytest.mark.parametrize("key", TABLES)
def test_every_pad_alone(key: str) -> None:
    """With one wrong answer in twenty the true pad ranks first in at least 95 of a hundred."""
    locator, rng = Locator(TABLES[key]), random.Random(f"{key} alone")
    tries = [(pad, n) for pad in locator.keys for n in range(40)]
    first = sum(search(locator, {pad}, rng)[0].ranked[0][0] == pad for pad, _ in tries)
    assert first / len(tries) >= 0.95


@pytest.mark.parametrize("key", TABLES)
def test_every_pad_is_found_when_no_answer_is_wrong(key: str) -> None:
    locator, rng = Locator(TABLES[key]), random.Random(1)
    for pad in locator.keys:
        found, asked = search(locator, {pad}, rng, wrong=0.0)
        assert found.ranked[0][0] == pad and asked <= 8, pad


@pytest.mark.parametrize("key", TABLES)
def test_pairs_lead_to_one_of_the_two(key: str) -> None:
    locator, rng = Locator(TABLES[key]), random.Random(f"{key} pairs")
    pairs = [(a, b) for n, a in enumerate(locator.keys) for b in locator.keys[n + 1 :]]
    found = [[key for key, _ in search(locator, {a, b}, rng)[0].ranked[:3]] for a, b in pairs]
    first = sum(keys[0] in pair for keys, pair in zip(found, pairs, strict=True))
    among = sum(bool(set(keys) & set(pair)) for keys, pair in zip(found, pairs, strict=True))
    assert first / len(pairs) >= 0.88 and among / len(pairs) >= 0.95


def test_a_sound_instrument_is_not_blamed() -> None:
    locator = Locator(TABLES["clarinet"])
    good = [Played(Probe(n.key), True) for n in locator.table.notes]
    found = locator.locate(good)
    assert found.none > 0.85 and found.ranked[0][1] < 0.05


def test_tables_say_what_players_know() -> None:
    sax, clarinet = TABLES["saxophone"], TABLES["clarinet"]
    assert "g_sharp" in closed_for(sax, "F4") and "g_sharp" not in closed_for(sax, "G#4")
    assert "g_sharp" not in closed_for(sax, "A4")  # below the first open hole it does no harm
    assert {"low_c_sharp", "low_e_flat"} <= closed_for(sax, "A#3")
    assert closed_for(sax, "D5") == closed_for(sax, "D4") - {"octave_body"}
    assert "register" in closed_for(clarinet, "E3") and "register" not in closed_for(clarinet, "B4")
    assert closed_for(clarinet, "C5") | {"register"} == closed_for(clarinet, "F3")
    assert "whisper" in closed_for(TABLES["bassoon"], "F2")


@pytest.mark.parametrize("key", TABLES)
def test_lower_notes_need_all_that_higher_ones_need(key: str) -> None:
    """Down the scale pads only close: without fingerings that open one on purpose."""
    table = TABLES[key]
    plain = sorted((n.key for n in table.notes if not n.of and not n.opens), key=semitones)
    for low, high in pairwise(plain):
        assert closed_for(table, high) <= closed_for(table, low)


def test_the_next_note_tells_most() -> None:
    """Expected information by hand: entropy before less entropy after, over both answers."""
    locator = Locator(TABLES["flute"])
    played = [Played(Probe(n), semitones(n) > semitones("F4")) for n in locator.table.scale]
    found = locator.locate(played)
    assert found.following is not None

    def entropy(p: np.ndarray) -> float:
        q = p[p > 0]
        return float(-(q * np.log2(q)).sum())

    def gain(probe: Probe) -> float:
        now = locator.posterior(played)
        total = entropy(now)
        row = locator._chance_bad(probe)
        for good in (True, False):
            chance = float(((1 - row) if good else row) @ now)
            total -= chance * entropy(locator.posterior([*played, Played(probe, good)]))
        return total

    best = max(gain(p) for p in locator.probes)
    assert found.bits == pytest.approx(best, abs=1e-9) and gain(found.following) == pytest.approx(best, abs=1e-9)


def test_words_and_wrong_notes() -> None:
    locator = Locator(TABLES["saxophone"])
    assert note_words("F#4") == "F sharp 4" and note_words("A4") == "A4"
    assert Probe("F#4").words(locator.table) == "Play F sharp 4"
    assert "presses the G sharp pad shut" in Probe("A#3", "g_sharp").words(locator.table)
    with pytest.raises(BadInput, match="not in the table"):
        locator.locate([Played(Probe("H9"), True)])
    with pytest.raises(BadInput, match="no pad"):
        locator.locate([Played(Probe("A4", "gong"), True)])


@pytest.mark.parametrize("key", TABLES)
def test_pads_lie_in_the_order_of_their_notes(key: str) -> None:
    """A fact of acoustics: along one joint, the hole of a lower note lies farther from the top."""
    table = TABLES[key]
    for part in {p.part for p in table.pads}:
        rows = [(along_joint(table, p.key), p) for p in table.pads if p.part == part]
        assert all(0 <= at <= 1 for at, _ in rows)
        holes = sorted(((at, p) for at, p in rows if not p.register), key=lambda row: row[0])
        pitches = [semitones(p.vents) for _, p in holes]
        assert pitches == sorted(pitches, reverse=True)
