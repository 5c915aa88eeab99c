"""How far a joint is moved: against standing waves the other way round, and lengths that brass is known by."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.catalogue.load import shipped
from creekbed.core.errors import BadInput
from creekbed.core.sound.tuned_length import LONGEST_MM, Move, move_for, worth_it
from creekbed.core.strings.tension import pitch_hz

SOUND = 343.2
"""Speed of sound at 20 °C, m/s: acoustics texts, recalled."""


@given(st.floats(100.0, 900.0), st.floats(-20.0, 20.0), st.booleans())
def test_a_tube_that_was_moved_is_moved_back(hz: float, mm: float, quarter: bool) -> None:
    """A tube is made so many millimetres too short; what it then sounds leads back to just these."""
    waves = 4 if quarter else 2
    length = 1000 * SOUND / (waves * hz)
    cents = 1200 * math.log2(length / (length - mm))
    assert move_for(cents, 0.0, [hz], quarter=quarter).mm == pytest.approx(mm / (1 - mm / length), abs=0.03, rel=0.01)


@pytest.mark.parametrize(
    ("family", "metres"), [("trumpet", 1.48), ("trombone", 2.74), ("horn", 3.75), ("tuba", 5.5), ("euphonium", 2.74)]
)
def test_brass_tubes_are_as_long_as_they_are_known_to_be(family: str, metres: float) -> None:
    """Length of the open tube, from memory; what the lowest mode says is up to a tenth longer: the bell adds some."""
    voice = shipped().families[family].voice
    assert voice is not None and voice.tuned is not None and voice.tuned.lowest_mode is not None
    length = SOUND / (2 * pitch_hz(voice.tuned.lowest_mode))
    assert metres * 0.97 <= length <= metres * 1.1


def test_a_slide_with_two_legs_moves_half_as_far() -> None:
    """Half an inch of a trumpet's slide is somewhat over a quarter of a semitone: common practice, no source."""
    move = move_for(29.0, 2.0, [233.0], lowest_mode_hz=pitch_hz("A#2"), legs=2)
    assert move.mm == pytest.approx(12.4, abs=0.5)
    assert move_for(29.0, 2.0, [233.0], lowest_mode_hz=pitch_hz("A#2")).mm == pytest.approx(2 * move.mm)
    assert move_for(-29.0, 2.0, [233.0], lowest_mode_hz=pitch_hz("A#2"), legs=2).mm < 0


def test_what_is_not_worth_it() -> None:
    assert not worth_it(4.0, 1.0, Move(1.0, 0.3)) and not worth_it(12.0, 7.0, Move(3.0, 2.0))
    assert worth_it(12.0, 2.0, Move(3.0, 1.0)) and not worth_it(60.0, 2.0, Move(LONGEST_MM + 1, 3.0))


def test_what_is_no_tuning() -> None:
    for given_ in ((5.0, -1.0, [220.0]), (math.nan, 1.0, [220.0]), (5.0, 1.0, []), (5.0, 1.0, [0.0])):
        with pytest.raises(BadInput):
            move_for(*given_)
    with pytest.raises(BadInput):
        move_for(5.0, 1.0, [220.0], celsius=90.0)
