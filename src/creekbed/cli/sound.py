"""Shell commands about sound."""

from __future__ import annotations

import argparse
from pathlib import Path

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
    return [pitch]


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
