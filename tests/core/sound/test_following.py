"""Which note was meant: against every way that a player may have gone, and players who wander."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from creekbed.core.sound.following import OTHER_SHARE, OTHER_SPAN_CENTS, REPEATED, TURNED_TOO, Meant, meant

SCALE = [220.0 * 2 ** (n / 12) for n in (0, 2, 4, 5, 7, 9, 11, 12, 14, 16, 17, 19)]


def sounds(order: list[int], off: dict[int, float] | None = None) -> list[float | None]:
    return [SCALE[n] * 2 ** ((off or {}).get(at, 0.0) / 1200) for at, n in enumerate(order)]


def notes(found: list[Meant]) -> list[int | None]:
    return [m.note for m in found]


def test_the_chances_are_those_of_all_ways_together() -> None:
    """A scale of two notes and three sounds: every way is written out and added up, as the sum and product rules ask.

    All three tones lie on the first note; the ways are to play it, to repeat it, or that a tone was none of the scale.
    """
    hz, far = [220.0, 440.0 * 2 ** (200 / 1200)], 2 ** (1400 / 1200)
    assert hz[1] / hz[0] == pytest.approx(far)
    near = 0.93 / (9 * np.sqrt(2 * np.pi)) + 0.05 / (38 * np.sqrt(2 * np.pi))
    note, none = (1 - OTHER_SHARE) * near, OTHER_SHARE / OTHER_SPAN_CENTS
    forward, backward = 0.05 + 0.8 * 0.75, 0.05  # begun at the first note, going forward or backward
    again = {"same": REPEATED, "turned": TURNED_TOO / 2}
    total = meant_first = 0.0
    for way in itertools.product((True, False), repeat=3):
        weight = {"f": 0.0, "b": 0.0, "not": 1.0}
        for is_note in way:
            if not is_note:
                weight = {k: v * none for k, v in weight.items()}
                continue
            f, b, start = weight["f"], weight["b"], weight["not"]
            weight = {
                "f": note * (f * again["same"] + b * again["turned"] + start * forward),
                "b": note * (b * again["same"] + f * again["turned"] + start * backward),
                "not": 0.0,
            }
        here = 0.125 * (weight["f"] + weight["not"]) + 0.375 * weight["b"]  # backward at the first note is an end
        total += here
        meant_first += here if way[0] else 0.0
    found = meant(hz, [220.0, 220.0, 220.0])
    assert found[0].note == 0 and found[0].chance == pytest.approx(meant_first / total, rel=1e-6)


def wanderer(seed: int) -> tuple[list[int], list[float | None]]:
    """On, back, again, some left out, begun elsewhere; every tone within some cents of its note."""
    rng = np.random.default_rng(seed)
    at, way, order = int(rng.choice([0, 11, rng.integers(12)])), int(rng.choice([1, -1])), []
    for _ in range(20):
        order.append(at)
        way = -way if rng.random() < 0.1 else way
        step = way * int(rng.choice([1, 1, 1, 1, 0, 2, 3]))
        at = at + step if 0 <= at + step < 12 else at - step
    return order, sounds(order, {n: float(rng.normal(0, 12)) for n in range(20)})


def test_a_player_who_wanders_is_followed() -> None:
    """Of 4,000 notes that are played about at random, no more than one in 100 is taken for another or for none."""
    wrong = 0
    for seed in range(200):
        order, heard = wanderer(seed)
        wrong += sum(m.note != was for m, was in zip(meant(SCALE, heard), order, strict=True))
    assert wrong <= 40


def test_a_tone_half_way_to_its_neighbour_is_the_one_whose_turn_it_is() -> None:
    up = list(range(12))
    for n in up:
        for cents in (-52.0, 52.0):
            assert notes(meant(SCALE, sounds(up, {n: cents}))) == up, (n, cents)


def test_two_in_a_row_far_out_do_not_lead_the_rest_astray() -> None:
    up = list(range(12))
    assert notes(meant(SCALE, sounds(up, {3: -60.0, 4: -58.0}))) == up


def test_another_register_is_told_from_a_leap_of_the_player() -> None:
    """The octave of a note is a note of the scale itself: once it is a register, played on from it is a leap."""
    order = list(range(12))
    heard = sounds(order)
    heard[0] = SCALE[0] * 2
    found = meant(SCALE, heard)
    assert notes(found) == order and found[0].leapt and not any(m.leapt for m in found[1:])
    leap = meant(SCALE, sounds([0, 1, 2, 7, 8, 9, 10]))
    assert notes(leap) == [0, 1, 2, 7, 8, 9, 10] and not any(m.leapt for m in leap)


def test_what_is_no_note_is_none_and_breath_is_the_note_whose_turn_it_was() -> None:
    heard: list[float | None] = [*sounds([0, 1, 2]), None, *sounds([4, 5])]
    found = meant(SCALE, heard)
    assert notes(found) == [0, 1, 2, 3, 4, 5] and found[3].chance > 0.75
    talk = meant(SCALE, [*sounds([0, 1]), 1234.5, *sounds([2, 3])])
    assert notes(talk) == [0, 1, None, 2, 3]
    two_left_out = meant(SCALE, [*sounds([0, 1]), None, *sounds([4, 5])])
    assert two_left_out[2].chance < 0.75
    assert meant(SCALE, []) == [] and meant([], [440.0]) == [Meant(None)]
