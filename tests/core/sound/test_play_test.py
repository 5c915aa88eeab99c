"""The play-test against players, instruments and faults that it does not assume."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from creekbed.core.airtight.pads import Locator
from creekbed.core.catalogue.load import shipped
from creekbed.core.errors import BadInput
from creekbed.core.sound.notes import MOST_HELD, NoteHeard, ScaleListener, Tried, breath_db, heard_notes
from creekbed.core.sound.play_test import (
    EVERY_NOTES,
    NoteResult,
    PlayTestResult,
    ScaleNote,
    as_played,
    every_note,
    judged,
    move_of,
    scale_of,
)
from creekbed.core.sound.tuning import warmth_cents
from creekbed.words.play_test import failed_words, move_words, note_words, result_words
from tests.worlds.playing import RATE, Ill, Style, performance, wind

STUFFY = Ill(late_s=0.2, weaker_db=11.0, wind=0.15)
SILENT = Ill(silent=True, wind=0.2)


def scale(family: str, *, every: bool = False) -> tuple[ScaleNote, ...]:
    catalogue = shipped()
    voice = catalogue.families[family].voice
    assert voice is not None
    return scale_of(voice, catalogue.leak_table(catalogue.families[family]), 440.0, every=every)


def play(
    family: str, seed: int, ills: dict[int, Ill] | None = None, order: list[int] | None = None, **style: float
) -> PlayTestResult:
    notes = scale(family)
    voice = shipped().families[family].voice
    assert voice is not None
    rng = np.random.default_rng(seed)
    order = list(range(len(notes))) if order is None else order
    ills = {n: ill for n, k in enumerate(order) if (ill := (ills or {}).get(k)) is not None}
    sound = performance(
        rng, [notes[k].hz for k in order], Style(odd=voice.partials == "odd", **style), ills  # type: ignore[arg-type]
    )  # fmt: skip
    return judged(notes, heard_notes(sound, RATE, voice.partials, [n.hz for n in notes]))


def faults(result: PlayTestResult) -> dict[str, tuple[str, ...]]:
    return {n.note.written: n.faults for n in result.faulty}


def test_written_notes_as_they_sound() -> None:
    """B flat clarinet and trumpet a major second lower, alto a major sixth, tuba as written: common practice."""
    assert scale("clarinet")[0] == ScaleNote("A4", pytest.approx(391.995, abs=1e-3))
    assert scale("trumpet")[0].hz == pytest.approx(233.082, abs=1e-3)
    assert scale("alto_saxophone")[-1].hz == pytest.approx(138.591, abs=1e-3)
    assert scale("piccolo")[-1].hz == pytest.approx(587.330, abs=1e-3)
    assert all(scale(f.key) for f in shipped().families.values() if f.voice is not None)


def test_a_sound_instrument_is_not_accused() -> None:
    result = play("clarinet", 1, lies=-14.0)
    assert not faults(result) and not result.missing
    assert result.lies_cents == pytest.approx(-14, abs=3 * result.u_lies_cents)
    assert "14 cents flat" in result_words(result) or "cents flat: that is where" in result_words(result)


def test_a_leak_spoils_the_notes_below_it_and_is_found() -> None:
    """From D down everything is stuffy, the lowest stays silent: a pad that must close for D. No pad above is named."""
    notes = scale("alto_saxophone")
    low = [n.written for n in notes].index("D4")
    ills = dict.fromkeys(range(low, len(notes) - 1), STUFFY) | {len(notes) - 1: SILENT}
    result = play("alto_saxophone", 2, ills)
    assert [n.note.written for n in result.notes if n.stuffy] == [n.written for n in notes[low:]]
    table = shipped().leaks["saxophone"]
    best = [key for key, p in Locator(table).locate(as_played(result, table)).ranked[:3]]
    assert set(best) <= {"low_e_flat", "d", "e", "side_f_sharp", "low_c_sharp"}


def test_sharp_throat_notes() -> None:
    result = play("clarinet", 3, {0: Ill(cents=46.0), 1: Ill(cents=42.0)}, lies=8.0, scatter=2.0)
    assert faults(result) == {"A4": ("sharp",), "G4": ("sharp",)}
    assert "cents sharp" in result_words(result)


def test_how_far_to_push_or_pull() -> None:
    """A clarinet 14 cents flat: its middle note, about 220 Hz, has 390 mm of tube; 1 % of that is 17 cents.

    Arithmetic; a whole scale on its pitch, or of three notes, is left as it is.
    """
    voice = shipped().families["clarinet"].voice
    assert voice is not None
    result = play("clarinet", 1, lies=-14.0)
    said = move_words(voice, result, 20.0)
    assert said.startswith("Push the barrel in by about ") and said.endswith("then play it again.")
    move = move_of(voice, result, 20.0)
    assert move is not None and move.mm == pytest.approx(-390 * 14 / 1731, abs=2 * move.u_mm)
    assert move_words(voice, replace(result, lies_cents=0.4), 20.0) == ""
    assert move_words(voice, replace(result, notes=result.notes[:3]), 20.0) == ""
    oboe = shipped().families["oboe"].voice
    assert oboe is not None and oboe.tuned is None


def test_up_again_with_some_left_out() -> None:
    """The player goes back and forth and skips one: the page knows which, and that nothing is wrong with it."""
    result = play("trumpet", 4, order=[0, 1, 2, 1, 0, 1, 2, 3, 5, 6, 7])
    assert [n.note.written for n in result.missing] == ["G4"] and not faults(result)


def test_a_note_that_does_not_speak_is_not_one_that_was_left_out() -> None:
    result = play("flute", 5, {9: SILENT})
    assert faults(result) == {"C4": ("silent",)} and not result.missing


def test_warmth_is_allowed_for() -> None:
    """In a hall of 28 °C all winds play 23 cents sharp: nothing is wrong with them. c ∝ √T."""
    warm = warmth_cents(28.0)
    assert warm == pytest.approx(23.3, abs=0.1)
    events = [_note(n, hz.hz * 2 ** (warm / 1200)) for n, hz in enumerate(scale("trumpet"))]
    assert judged(scale("trumpet"), events, warm).lies_cents == pytest.approx(0, abs=0.5)


def _note(n: int, hz: float) -> NoteHeard:
    rng = np.random.default_rng(n)
    at = np.arange(int(0.3 * RATE)) / RATE
    sound = sum(np.sin(2 * np.pi * k * hz * at) / k for k in range(1, 8)) + 0.003 * rng.normal(size=at.size)
    after_quiet = np.concatenate([1e-3 * rng.normal(size=4000), 0.2 * sound])
    [heard] = [e for e in heard_notes(after_quiet, RATE, "harmonic", [hz]) if isinstance(e, NoteHeard)]
    return NoteHeard(1.0 * n, heard.seconds, heard.pitch, heard.level_db, heard.breath_db, 0.03)


def test_who_listens_all_day_holds_the_last_notes() -> None:
    """Three thousand notes: all are counted, the last thousand at least are there."""
    listener = ScaleListener(RATE, "harmonic", 200.0, 800.0)
    for n in range(3000):
        listener._add(Tried(float(n), 0.4))
    assert listener.count == 3000 and MOST_HELD <= len(listener.events) <= 2 * MOST_HELD
    assert listener.events[-1].start_s == 2999.0 and listener.events[0].start_s == 3000.0 - len(listener.events)


def test_two_notes_far_apart_lie_between() -> None:
    notes = scale("trumpet")
    events = [_note(n, notes[n].hz * 2 ** (cents / 1200)) for n, cents in ((0, -30.0), (1, 32.0))]
    result = judged(notes, events)
    assert result.lies_cents == pytest.approx(1.0, abs=1.0) and result.u_lies_cents > 10
    assert judged(notes, events[:1]).lies_cents == pytest.approx(-30.0, abs=1.0)


def test_hours_of_playing_are_judged_by_the_last_notes() -> None:
    """A trumpet was flat on G for an hour, then mended: the last notes count, and the first are not looked at."""
    notes = scale("trumpet")
    good = [_note(n, note.hz) for n, note in enumerate(notes)]
    flat = [_note(n, note.hz * 2 ** (-45 / 1200 if note.written == "G4" else 0)) for n, note in enumerate(notes)]
    played = [
        replace(e, start_s=8.0 * turn + n) for turn in range(200) for n, e in enumerate(flat if turn < 150 else good)
    ]
    assert not faults(judged(notes, played)) and set(faults(judged(notes, played[:1200]))) == {"G4"}


def test_another_register_and_what_is_no_note_of_it() -> None:
    notes = scale("trumpet")
    events = [_note(n, note.hz) for n, note in enumerate(notes)]
    events[2] = _note(2, notes[2].hz * 3)  # a twelfth higher
    result = judged(notes, events)
    assert result.notes[2].faults == ("jumps",) and result.notes[2].stuffy
    assert judged(notes, [_note(0, 1000.0)]).others == 1
    assert judged(notes, []).missing == judged(notes, []).notes
    assert result_words(judged(notes, [])) == "No note of the scale was heard."


def test_a_note_half_a_semitone_off_is_the_one_whose_turn_it_is() -> None:
    """B flat 50 cents flat lies as near to A: it is not taken for an A that is sharp."""
    notes = scale("trombone")
    flat = [_note(n, note.hz * 2 ** (-52 / 1200 if note.written == "A#3" else 0)) for n, note in enumerate(notes)]
    down = [replace(e, start_s=20.0 - e.start_s) for e in flat][::-1]
    result = judged(notes, flat)
    assert faults(result) == {"A#3": ("flat",)} and not result.missing
    first = judged(notes, down)  # nothing was played before it: what follows says which it was
    assert faults(first) == {"A#3": ("flat",)} and not first.missing


def test_who_was_meant_by_breath_alone() -> None:
    """Only where one note can have been meant is one accused."""
    notes = scale("trumpet")
    played = {n: _note(n, note.hz) for n, note in enumerate(notes)}

    def silent(left_out: set[int], at: float) -> list[str]:
        events = [e for n, e in played.items() if n not in left_out]
        found = judged(notes, sorted([*events, Tried(at, 0.4)], key=lambda e: e.start_s))
        return [n.note.written for n in found.notes if "silent" in n.faults]

    assert silent({3}, 3.0) == ["F4"]
    assert silent({3, 4}, 3.0) == []
    assert silent({7}, 9.0) == ["C5"]
    assert silent(set(), 9.0) == []


def test_breath_is_told_from_a_pitch_that_wanders() -> None:
    """White noise of a known share: harmonics-to-noise ratio as Boersma 1993 defines it, to a decibel; and the same
    tone with a slow vibrato, which leaves much around its partials, is no breathier."""
    rng = np.random.default_rng(7)
    at = np.arange(int(0.8 * RATE)) / RATE
    for hz in (150.0, 554.0):
        for cents in (0.0, 12.0):
            turns = hz * (at + cents * np.log(2) / 1200 / (2 * np.pi * 5) * np.sin(2 * np.pi * 5 * at))
            clean = sum(np.sin(2 * np.pi * k * turns) / k for k in range(1, 6))
            noise = rng.normal(size=at.size)
            for share in (-20.0, -10.0):
                dirty = clean + noise * np.sqrt((clean**2).mean() * 10 ** (share / 10))
                assert breath_db(dirty, RATE, hz) == pytest.approx(share, abs=1.5)


@pytest.mark.parametrize(
    ("written", "said"), [("A#3", "B flat 3"), ("F#4", "F sharp 4"), ("D#4", "E flat 4"), ("C5", "C5")]
)
def test_notes_as_players_say_them(written: str, said: str) -> None:
    assert note_words(written) == said


def test_a_busy_machine_that_notices_late_measures_the_same() -> None:
    """Only every eighth look is taken: notes begin when they did, and none is called slow."""
    notes = scale("trumpet")
    sound = performance(np.random.default_rng(12), [n.hz for n in notes], Style(slurs=0.0))
    often, seldom = (heard_notes(sound, RATE, "harmonic", [n.hz for n in notes], hop) for hop in (0.03, 0.15))
    assert len(often) == len(seldom) == 8
    for a, b in zip(often, seldom, strict=True):
        assert isinstance(a, NoteHeard) and isinstance(b, NoteHeard)
        assert b.start_s == pytest.approx(a.start_s, abs=0.02) and b.speaks_s == pytest.approx(a.speaks_s, abs=0.04)
    assert not judged(notes, seldom).faulty


def test_the_reason_of_a_failed_test_is_short_enough_for_a_finding() -> None:
    """Whatever is wrong with how many notes: a reason has at most 200 characters."""
    catalogue = shipped()
    for key in (f.key for f in catalogue.families.values() if f.voice is not None):
        for faults in (("silent",), ("slow", "weak", "breathy"), ("sharp", "unsteady"), ("flat",)):
            result = PlayTestResult(tuple(NoteResult(n, None, 33.0, 5.0, faults) for n in scale(key)))  # type: ignore[arg-type]
            words = failed_words(result)
            assert 10 < len(words) <= 200 and words.startswith(note_words(scale(key)[0].written))


def test_wind_alone_is_no_note() -> None:
    rng = np.random.default_rng(8)
    sound = np.concatenate([2e-4 * rng.normal(size=RATE), 0.05 * wind(rng, RATE), 2e-4 * rng.normal(size=RATE)])
    events = heard_notes(sound, RATE, "harmonic", [n.hz for n in scale("flute")])
    assert [type(e) for e in events] == [Tried]


def test_every_note_is_named_once_and_a_semitone_from_the_next() -> None:
    """From A#3 to A5 there are 24 semitones (arithmetic); every note of a table of pads is among those of its range."""
    assert every_note("A#3", "C#4") == ("A#3", "B3", "C4", "C#4") and every_note("Bb3", "B3") == ("A#3", "B3")
    with pytest.raises(BadInput, match="no notes"):
        every_note("C4", "B3")
    for family in (f for f in shipped().families.values() if f.voice is not None):
        notes = scale(family.key, every=True)
        steps = [1200 * np.log2(b.hz / a.hz) for a, b in pairwise(notes)]
        assert len(notes) == len({n.written for n in notes}) == EVERY_NOTES and np.allclose(steps, 100)
        assert {n.written for n in scale(family.key)} <= {n.written for n in notes}


def by_nature(count: int) -> dict[int, Ill]:
    """Registers differ on a sound instrument: the low ones are stronger, the upper ones take more breath."""
    return {n: Ill(weaker_db=4.0 * n / count + (2.0 if n > 14 else 0.0), wind=0.02 * n / count) for n in range(count)}


def test_every_note_by_semitones() -> None:
    """One note is 42 cents out, nearly half way to the next, and is known as what it was meant to be."""
    notes, voice = scale("trumpet", every=True), shipped().families["trumpet"].voice
    assert voice is not None
    rng, ills = np.random.default_rng(8), by_nature(len(notes))
    ills[9] = replace(ills[9], cents=-42.0)
    sound = performance(rng, [n.hz for n in notes], Style(odd=voice.partials == "odd"), ills)
    result = judged(notes, heard_notes(sound, RATE, voice.partials, [n.hz for n in notes]))
    assert not result.missing and faults(result) == {notes[9].written: ("flat",)}


def test_a_leak_under_every_note_is_looked_for_by_the_notes_of_its_table() -> None:
    notes, table = scale("clarinet", every=True), shipped().leak_table(shipped().families["clarinet"])
    assert table is not None
    ills = by_nature(len(notes)) | dict.fromkeys(range(5), STUFFY)
    sound = performance(np.random.default_rng(4), [n.hz for n in notes], Style(odd=True), ills)
    result = judged(notes, heard_notes(sound, RATE, "odd", [n.hz for n in notes]))
    stuffy = [n.note.written for n in result.notes if n.stuffy]
    assert stuffy == [n.written for n in notes[:5]]
    played = as_played(result, table)
    assert {p.probe.note for p in played} == set(table.scale)
    assert [p.good for p in played].count(False) == len(set(table.scale) & set(stuffy)) == 3
