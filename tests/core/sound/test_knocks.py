"""The time of a fall by its two knocks, in sounds of another world; what is no fall is refused in words."""

from __future__ import annotations

import numpy as np
import pytest

from creekbed.core.errors import BadInput
from creekbed.core.inspection.friction import from_drop
from creekbed.core.sound.knocks import FallListener, fall_in, knocks_in
from tests.worlds import drops

RATE = 44_100


def test_the_time_of_a_fall_lies_within_its_doubt() -> None:
    """60 falls on to harder and softer foam: within twice the doubt in 93 of a hundred and more, never far out."""
    rng = np.random.default_rng(31)
    off = []
    for _ in range(60):
        fell = float(rng.uniform(0.16, 0.45))
        fall = fall_in(drops.heard(rng, fell, RATE, float(rng.uniform(0.003, 0.014))), RATE)
        off.append((fall.time_s - fell) / np.hypot(fall.u_s, 0.002))
    away = np.abs(off)
    assert (away <= 2).mean() >= 0.93 and away.max() < 4 and abs(np.mean(off)) < 1


def test_the_friction_of_a_fall_that_was_heard() -> None:
    """From the sound alone, with the doubt of its beginnings: the truth lies within k = 2 of the ratio in most."""
    rng, hits = np.random.default_rng(32), 0
    for _ in range(30):
        one = drops.drop(rng, None)
        fell = float(np.sqrt(2 * one.drop / (drops.STANDARD_G * (1 - one.ratio))))
        fall = fall_in(drops.heard(rng, fell, RATE), RATE)
        found = from_drop(one.mass, one.drop, fall.time_s, "sound", u_time_s=fall.u_s).ratio
        hits += abs(found.value - one.ratio) <= 2 * found.u
    assert hits >= 27


def test_what_is_no_fall_is_said() -> None:
    rng = np.random.default_rng(33)
    quiet = 3e-4 * rng.normal(size=2 * RATE)
    with pytest.raises(BadInput, match="No knock"):
        fall_in(quiet, RATE)
    one = quiet.copy()
    one[RATE : RATE + 200] += 0.2 * rng.normal(size=200)
    with pytest.raises(BadInput, match="Only one"):
        fall_in(one, RATE)
    three = one.copy()
    for at in (RATE + RATE // 4, RATE + RATE // 2):
        three[at : at + 200] += 0.2 * rng.normal(size=200)
    assert len(knocks_in(three, RATE)) == 3
    with pytest.raises(BadInput, match="3 knocks"):
        fall_in(three, RATE)
    far = one.copy()
    far[:200] = far[100:300]
    far[RATE // 10 : RATE // 10 + 200] += 0.2 * rng.normal(size=200)
    far = np.concatenate([far[: RATE // 2], quiet, far[RATE // 2 :]])
    with pytest.raises(BadInput, match="none of a fall"):
        fall_in(far, RATE)
    assert knocks_in(np.zeros(10), RATE) == [] and knocks_in(np.zeros(RATE), RATE) == []


def test_a_fall_is_heard_as_it_comes() -> None:
    """In pieces, as a sound card gives them; two falls one after the other are no fall, until it is still."""
    rng = np.random.default_rng(34)
    sound = drops.heard(rng, 0.24, RATE)
    listener = FallListener(RATE)
    for start in range(0, sound.size, 480):
        listener.push(sound[start : start + 480])
        listener.hear()
    assert listener.fall is not None and listener.fall.time_s == pytest.approx(0.24, abs=0.008)
    again = FallListener(RATE)
    for start in range(0, RATE, 480):
        again.push(sound[start : start + 480])
    again.push(sound[RATE : RATE + 480], lost=4800)
    again.hear()
    assert again.fall is None
