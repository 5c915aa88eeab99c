"""The player at the demo's bench: what its simulated microphone hears of the instrument that lies before it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

RATE = 48_000
PIECE = 480
FOUND_CENTS = (-6.0, 1.5, -14.0, -3.0, 4.0, -9.0)
"""How far each string is off when it is first played, the lowest first: invented."""
TIMBRES_OF = {
    "clarinet": "clarinet", "flute": "flute", "saxophone": "conical", "oboe": "conical", "bassoon": "conical",
}  # fmt: skip
"""Timbre of each group of woodwinds; all other winds are brass."""
FALLS, FALL_S = "falls", 0.238
"""What is put before the microphone for a slide's fall, and how long that takes over 20 cm: invented."""
STUFFY_FROM = 0.65
"""Below so much of a woodwind's scale the invented leak spoils every note."""


def as_pcm(samples: object) -> bytes:
    """Samples between −1 and 1, shape (N,), as 16 bits, little-endian."""
    import numpy as np

    return bytes(np.asarray(np.clip(np.asarray(samples) * 32767, -32768, 32767)).astype("<i2").tobytes())


def pieces(sound: bytes) -> Iterator[bytes]:
    """A sound in pieces as a sound card gives them."""
    for start in range(0, len(sound), 2 * PIECE):
        yield sound[start : start + 2 * PIECE]


def plays(family_key: str, seed: int = 11) -> Iterator[bytes]:
    """Somebody who tunes the strings of a family, or plays its scale, or lets a slide fall, again and again."""
    from creekbed.core.catalogue.load import shipped

    if family_key == FALLS:
        yield from _falls(seed)
    catalogue = shipped()
    family = catalogue.families[family_key]
    while True:
        if family.stringed is not None:
            yield from _tunes(family.stringed, seed)
        elif family.voice is not None:
            yield from _scale(family, catalogue.leak_table(family), seed)
        else:
            yield from _stillness(seed)


def _falls(seed: int) -> Iterator[bytes]:
    """A hand slide that hangs by a thread over foam: the snip, its fall, the thud; again and again."""
    import numpy as np

    random = np.random.default_rng(seed)
    ring, thud = np.arange(int(0.02 * RATE)) / RATE, np.arange(int(0.12 * RATE)) / RATE
    while True:
        sound = np.zeros(3 * RATE)
        fell = FALL_S + random.normal(0.0, 0.002)
        for at, knock in (
            (1.2, 0.12 * np.sin(2 * np.pi * 3100 * ring) * np.exp(-ring / 0.004)),
            (1.2 + fell, 0.2 * np.minimum(thud / 0.008, 1) * np.exp(-thud / 0.03) * random.normal(size=thud.size)),
        ):
            start = int(at * RATE)
            sound[start : start + knock.size] += knock
        yield from _heard([sound], seed)


def _heard(parts: list[Any], seed: int) -> Iterator[bytes]:
    import numpy as np

    from creekbed.core.sound.synthesis import in_a_room

    yield from pieces(as_pcm(in_a_room(np.concatenate(parts), RATE, np.random.default_rng(seed))))


def _stillness(seed: int) -> Iterator[bytes]:
    import numpy as np

    yield from _heard([np.zeros(5 * RATE)], seed)


def _tunes(stringed: Any, seed: int) -> Iterator[bytes]:
    """Each string from the top down: still, turned to its pitch while it sounds, at rest."""
    import numpy as np

    from creekbed.core.sound.string_tuning import targets
    from creekbed.core.sound.synthesis import TIMBRES, tone
    from creekbed.core.strings.tension import lies_in_fifths

    random = np.random.default_rng(seed)
    timbre = TIMBRES["bowed" if lies_in_fifths(stringed) else "plucked"]
    quiet = np.zeros(int(0.8 * RATE))
    for n, target in reversed(list(enumerate(targets(stringed, 440.0)))):
        cents, end = FOUND_CENTS[n % len(FOUND_CENTS)], random.normal(0.0, 0.5)
        turn = 0.5 - 0.5 * np.cos(np.linspace(0, np.pi, int(1.6 * RATE)))
        glide = np.concatenate([np.full(int(1.4 * RATE), cents), cents + (end - cents) * turn, np.full(2 * RATE, end)])
        sound = tone(timbre, target.hz, glide.size / RATE, RATE, random, glide_cents=glide)
        yield from _heard([quiet, sound, quiet], seed + n)


def _scale(family: Any, table: Any, seed: int) -> Iterator[bytes]:
    """The scale of the play-test; on a woodwind something leaks above its lowest notes."""
    from dataclasses import replace

    import numpy as np

    from creekbed.core.sound.play_test import scale_of
    from creekbed.core.sound.synthesis import SOUND, STUFFY, TIMBRES, tone

    random = np.random.default_rng(seed)
    notes = scale_of(family.voice, table, 440.0)
    timbre = TIMBRES[TIMBRES_OF.get(family.group, "brass")]
    for n, note in enumerate(notes):
        flaw = STUFFY if table is not None and n >= STUFFY_FROM * len(notes) else SOUND
        flaw = replace(flaw, cents=7.0 + random.normal(0.0, 4.0))
        sound = tone(timbre, note.hz, 0.9, RATE, random, flaw=flaw)
        yield from _heard([sound, np.zeros(int(0.25 * RATE))], seed + n)
    yield from _stillness(seed)
