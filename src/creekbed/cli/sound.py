"""Shell commands about sound."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from creekbed.cli.show import Add, plain_number, show
from creekbed.core.conventions import number


def add_sound(add: Add) -> list[argparse.ArgumentParser]:
    """Add the commands.

    Returns:
        The parsers, each of which prints JSON too.
    """
    pitch = add("pitch", _pitch, "the pitch of the loudest tone of a recording, with its uncertainty")
    pitch.add_argument("file", type=Path, help="WAV, FLAC or OGG")
    pitch.add_argument(
        "--partials", choices=["harmonic", "stretched", "odd"], default="harmonic",
        help="of winds and bowed strings, of plucked strings, of clarinets",
    )  # fmt: skip
    pitch.add_argument("--a4", type=plain_number, default=440.0, metavar="HZ", help="what it is tuned to")
    pitch.add_argument("--note", metavar="NOTE", help="what it should be; the nearest note if not said")
    pitch.add_argument("--room", metavar="TEMP", help="of a wind's air: what warmth does to it is allowed for")
    pitch.add_argument("--from", dest="start", type=plain_number, metavar="S", help="begin there, seconds")
    pitch.add_argument("--to", type=plain_number, metavar="S", help="and end there")
    tune = add("tune", _tune, "how far each string is off, from a recording or the microphone")
    tune.add_argument("file", type=Path, nargs="?", help="WAV, FLAC or OGG; or --microphone")
    tune.add_argument("--family", default="violin", help='key or name, "guitar"')
    tune.add_argument("--fifths", action="store_true", help="pure fifths instead of even steps")
    scale = add("scale", _scale, "a play-test: each note of a scale, in tune, speaking, steady")
    scale.add_argument("file", type=Path, nargs="?", help="WAV, FLAC or OGG; or --microphone")
    scale.add_argument("--family", required=True, help='key or name, "alto saxophone"')
    scale.add_argument("--every-note", action="store_true", help="each note of two octaves")
    scale.add_argument("--room", metavar="TEMP", help="of the air: what warmth does to the pitch is allowed for")
    for command in (tune, scale):
        command.add_argument("--a4", type=plain_number, default=440.0, metavar="HZ", help="what it is tuned to")
        command.add_argument(
            "--microphone", nargs="?", const="default", metavar="ADDRESS",
            help="listen instead: a sound card's input, or the address of a microphone in the network",
        )  # fmt: skip
        command.add_argument("--seconds", type=plain_number, default=30.0, metavar="S", help="how long to listen")
    kept = add("recordings", _recordings, "the sounds that are kept of an instrument, or one more with its job")
    kept.add_argument("tag", help="of the instrument, such as VN-0104")
    kept.add_argument("--add", type=Path, metavar="FILE", help="keep a recording: WAV, FLAC or OGG")
    kept.add_argument("--about", choices=["tuning", "playing"], default="playing", help="what it was; with --add")
    kept.add_argument("--save", type=int, metavar="NUMBER", help="write a copy of one; with --to")
    kept.add_argument("--to", type=Path, metavar="FILE", help="FLAC file to write")
    kept.add_argument("--remove", type=int, metavar="NUMBER", help="take one away; that can be undone")
    return [pitch, tune, scale, kept]


def _sound(given: argparse.Namespace) -> tuple[Any, float]:
    """Samples and rate of the recording, or of what the microphone hears now."""
    import numpy as np

    from creekbed.core.errors import BadInput, Refused
    from creekbed.devices.microphone import Block, Microphone
    from creekbed.devices.sound_file import LONGEST_S, read_sound

    if (given.file is None) == (given.microphone is None):
        raise BadInput("Name a recording, or say --microphone.")
    if given.file is not None:
        recording = read_sound(given.file)
        return recording.samples, recording.rate
    if not 1 <= given.seconds <= LONGEST_S:
        raise BadInput(f"It listens for 1 to {LONGEST_S:.0f} seconds.")
    blocks: list[Block] = []
    heard_s = 0.0

    def told(block: Block) -> bool:
        nonlocal heard_s
        if block.lost:
            raise Refused("Some of the sound was lost.", todo="Listen again, with less going on beside it.")
        blocks.append(block)
        heard_s += block.samples.size / block.rate
        return heard_s < float(given.seconds)

    Microphone(given.microphone).listen(told)
    return np.concatenate([b.samples for b in blocks]), blocks[0].rate


def _tune(given: argparse.Namespace) -> int:
    from creekbed.core.catalogue.load import shipped
    from creekbed.core.errors import BadInput, Refused
    from creekbed.core.procedure.imagine import find_family
    from creekbed.core.sound.listening import heard_in
    from creekbed.core.sound.string_tuning import Tuner, targets
    from creekbed.words.tuning import cents_words, state_words

    family = find_family(shipped(), given.family)
    if family.stringed is None:
        raise BadInput(f"A {family.noun} has no strings.", todo="For winds there is “scale”.")
    tuner = Tuner(targets(family.stringed, given.a4, pure_fifths=given.fifths))
    samples, rate = _sound(given)
    for heard in heard_in(samples, rate, "stretched", tuner.lowest_hz, tuner.highest_hz, long=True):
        tuner.hear(heard)
    states = list(tuner.states.values())
    if not any(s.now for s in states):
        raise Refused("No string of it was heard long enough.", todo="Let each sound alone for a second.")
    facts = {
        "strings": [
            {
                "string": s.target.key, "hz": round(s.target.hz, 3),
                "found_cents": None if s.found is None else round(s.found.cents, 3),
                "cents": None if s.now is None else round(s.now.cents, 3),
                "expanded_u_cents": None if s.now is None else round(2 * s.now.u_cents, 3), "k": 2,
                "holds": s.holds, "false_cents": round(s.false_cents, 2), "may_be_false": s.may_be_false,
                "buzz_db": round(s.buzz_db, 1),
            }
            for s in states
        ],
        "all_hold": tuner.all_hold,
    }  # fmt: skip
    words = "; ".join(f"{s.target.name}: {cents_words(s.now) if s.now else state_words(s)}" for s in states)
    return show(given, facts, f"{words}.", "pitch")


def _scale(given: argparse.Namespace) -> int:
    from creekbed.core.airtight.pads import Locator
    from creekbed.core.catalogue.load import shipped
    from creekbed.core.errors import BadInput, Refused
    from creekbed.core.procedure.imagine import find_family
    from creekbed.core.sound.notes import heard_notes
    from creekbed.core.sound.play_test import as_played, judged, move_of, scale_of
    from creekbed.core.sound.tuning import UNWARMED_C, warmth_cents
    from creekbed.core.units import parse_quantity
    from creekbed.words.play_test import move_words, result_words

    catalogue = shipped()
    family = find_family(catalogue, given.family)
    table = catalogue.leak_table(family)
    notes = scale_of(family.voice, table, given.a4, every=given.every_note) if family.voice is not None else ()
    if family.voice is None or not notes:
        raise BadInput(f"For a {family.noun} there is no scale.", todo="For strings there is “tune”.")
    celsius = parse_quantity(given.room, "degC", what="The room") if given.room else UNWARMED_C
    warm = warmth_cents(celsius)
    samples, rate = _sound(given)
    result = judged(notes, heard_notes(samples, rate, family.voice.partials, [n.hz for n in notes]), warm)
    if not any(n.played for n in result.notes):
        raise Refused("No note of its scale is in it.", todo="Play the written notes, one after another.")
    facts: dict[str, Any] = {
        "lies_cents": round(result.lies_cents, 2), "u_lies_cents": round(result.u_lies_cents, 2),
        "warmth_cents": round(warm, 2), "others": result.others,
        "notes": [
            {
                "note": n.note.written, "hz": round(n.note.hz, 3), "played": n.played, "stuffy": n.stuffy,
                "off_cents": None if n.heard is None else round(n.off_cents, 2),
                "u_cents": None if n.heard is None else round(n.u_cents, 2),
                "speaks_s": None if n.heard is None else n.heard.speaks_s,
                "level_db": None if n.heard is None else round(n.heard.level_db, 1), "faults": list(n.faults),
            }
            for n in result.notes
        ],
    }  # fmt: skip
    move = move_of(family.voice, result, celsius)
    if move is not None:
        facts |= {"move_mm": round(move.mm, 2), "u_move_mm": round(move.u_mm, 2)}
    words = f"{result_words(result)} {move_words(family.voice, result, celsius)}".strip()
    if table is not None and any(n.stuffy for n in result.notes):
        found = Locator(table).locate(as_played(result, table))
        facts["pads"] = [{"pad": key, "chance": round(p, 4)} for key, p in found.ranked[:5]]
        first = [f"{table.pad(key).name} {p:.0%}" for key, p in found.ranked[:3]]
        words += f" Look first at these pads: {', '.join(first)}. A leak light or a feeler strip decides."
    return show(given, facts, words, "pitch")


def _pitch(given: argparse.Namespace) -> int:
    import math

    from creekbed.core.errors import BadInput, Refused
    from creekbed.core.sound.pitch import pitch_of
    from creekbed.core.sound.tuning import CLOCK_CENTS, nearest_note, warmth_cents
    from creekbed.core.sound.windows import loudest_part
    from creekbed.core.strings.tension import pitch_hz
    from creekbed.core.units import parse_quantity
    from creekbed.devices.sound_file import read_sound

    heard = read_sound(given.file)
    start, end = given.start or 0.0, heard.seconds if given.to is None else given.to
    if not 0 <= start < end <= heard.seconds + 1e-6:
        raise BadInput(f"The recording lasts {number(heard.seconds, 1)} s.", todo="Name a part within it.")
    samples = heard.samples[int(start * heard.rate) : int(end * heard.rate)]
    part = loudest_part(samples, heard.rate) if given.start is None and given.to is None else slice(None)
    samples = samples[part]
    if samples.size < 0.02 * heard.rate:
        raise BadInput("That is too short to have a pitch.", todo="Let it sound for a second.")
    lowest = min(max(24.0, 2.1 * heard.rate / samples.size), 4000.0)
    found = pitch_of(samples, heard.rate, given.partials, lowest_hz=lowest)
    if found is None:
        raise Refused("There is no tone in it that stands out of the noise.", todo="Record it louder, or nearer.")
    warm = warmth_cents(parse_quantity(given.room, "degC", what="The room")) if given.room else 0.0
    reference = given.a4 * 2 ** (warm / 1200)
    note = nearest_note(found.hz, reference)
    if given.note:
        wanted = pitch_hz(given.note, given.a4) * 2 ** (warm / 1200)
        name, cents = given.note, 1200 * math.log2(found.hz / wanted)
    else:
        name, cents = note.name, note.cents
    u = 2 * math.hypot(found.u_cents, CLOCK_CENTS)
    facts = {
        "hz": round(found.hz, 5), "u_hz": round(found.u_hz, 6), "note": name, "cents": round(cents, 4),
        "expanded_u_cents": round(u, 4), "k": 2, "warmth_cents": round(warm, 2), "stretch": found.stretch,
        "u_stretch": found.u_stretch, "wander_cents": round(found.wander_cents, 3), "snr_db": round(found.snr_db, 1),
        "partials": found.partials.tolist(), "off_cents": [round(float(x), 3) for x in found.off_cents],
        "u_off_cents": [round(float(x), 3) for x in found.u_off_cents], "clipped": heard.clipped,
        "seconds": round(samples.size / heard.rate, 3),
    }  # fmt: skip
    digits = 0 if u >= 5 else 1 if u >= 0.5 else 2
    way = "above" if cents >= 0 else "below"
    words = f"{number(abs(cents), digits)} cents {way} {name} (± {number(u, digits)}, k = 2): {number(found.hz, 2)} Hz."
    if warm:
        words += f" The room's warmth, {number(abs(warm), 1)} cents {'up' if warm > 0 else 'down'}, is allowed for."
    if found.wander_cents:
        words += f" It is not steady: it wanders by {number(found.wander_cents, 1)} cents."
    if heard.clipped:
        words += " The recording is cut off where it is loudest: record it softer."
    return show(given, facts, words, "pitch")


def _recordings(given: argparse.Namespace) -> int:
    from creekbed.cli.shop import shop_of
    from creekbed.core.errors import BadInput
    from creekbed.devices.sound_file import read_sound, sixteen_bits
    from creekbed.words.backups import size_words
    from creekbed.words.recordings import recording_words
    from creekbed.workshop.inspection import recordings

    if (given.save is None) != (given.to is None):
        raise BadInput("A copy needs --save NUMBER and --to FILE.")
    sound = read_sound(given.add) if given.add is not None else None
    shop = shop_of(given)
    try:
        if sound is not None:
            encoded = recordings.encoded(sixteen_bits(sound.samples), sound.rate)
            recordings.add_recording(shop, recordings.open_job(shop, given.tag), encoded, given.about)
        if given.save is not None:
            recordings.save_copy(shop, given.save, given.to)
        if given.remove is not None:
            recordings.remove_recording(shop, given.remove)
        rows = recordings.recordings_of_instrument(shop, given.tag)
    finally:
        shop.close()
    facts = {
        "recordings": [
            {
                "number": r.id, "tag": r.tag, "about": r.about, "seconds": r.seconds, "size_bytes": r.size,
                "made_at": r.made_at.isoformat(), "person": r.person,
            }
            for r in rows
        ]
    }  # fmt: skip
    lines = [f"{r.id:5d}  {recording_words(r.about, r.made_at, r.seconds)}, {size_words(r.size)}" for r in rows]
    return show(given, facts, "\n".join(lines) or "No sound of it is kept.")
