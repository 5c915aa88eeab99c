"""Plain strings against published numbers and worked examples."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.errors import BadInput
from creekbed.core.strings.plain_string import (
    BENDS,
    MATERIALS,
    bridge_load_n,
    diameter_for,
    plain_string,
    slack_mm,
)
from creekbed.core.strings.tension import pitch_hz

STEEL = MATERIALS["steel"]


def test_a_string_of_the_charts() -> None:
    """0.010 in of steel, E4, 25.5 in: 72.5 N (Mersenne's law; charts print 16.2 lbf, from memory)."""
    found = plain_string(STEEL, 0.254, 647.7, pitch_hz("E4"))
    assert found.tension_n == pytest.approx(72.5, abs=0.1)
    assert found.tension_n / 4.44822 == pytest.approx(16.2, abs=0.15)


def test_the_stretch_of_a_plain_g() -> None:
    """0.017 in, G3, 648 mm: B = 1.07e-4 (direct calculation with E = 200 GPa)."""
    found = plain_string(STEEL, 0.4318, 648.0, 196.0)
    assert found.stretch * 200 / 205 == pytest.approx(1.07e-4, rel=0.02)
    k = np.array([1, 8])
    f = 196.0 * k * np.sqrt(1 + found.stretch * k**2)
    assert found.eighth_cents == pytest.approx(1200 * math.log2(f[1] / (8 * f[0])), abs=1e-9)


def test_music_wire_breaks_where_its_table_says() -> None:
    """ASTM A228: about 2700 MPa at 0.25 mm, 2211 at 1 mm (Shigley, table 10-4, from memory).

    Straight, √(σ/ρ)/(2L) is the same pitch for every diameter of one strength.
    """
    assert STEEL.strength_at(0.25) == pytest.approx(2700, rel=0.02) and STEEL.strength_at(1.0) == 2211
    found = plain_string(STEEL, 0.25, 648.0, 329.63)
    straight = math.sqrt(STEEL.strength_at(0.25) * 1e6 / 7850) / (2 * 0.648)
    assert found.breaks_at_hz == pytest.approx(straight * math.sqrt(BENDS))
    assert 100 < found.margin_cents < 900  # a plain first string bears a few semitones more: fact of the trade


def test_the_violin_s_bridge() -> None:
    """220 N over 158°: 84 N; published, about 90 N (Fletcher and Rossing, from memory)."""
    assert bridge_load_n(220, 158) == pytest.approx(84, abs=0.5)
    assert bridge_load_n(220, 180) == pytest.approx(0, abs=1e-9)


def test_slack_for_the_post() -> None:
    """Three turns round 6 mm and 10 mm to lock: 66.5 mm (arithmetic)."""
    assert slack_mm(3, 6, 10) == pytest.approx(66.55, abs=0.01)


@given(st.sampled_from(sorted(MATERIALS)), st.floats(0.15, 1.5), st.floats(200, 1100), st.floats(40, 700))
def test_the_diameter_for_a_tension_gives_it_back(key: str, diameter: float, length: float, hz: float) -> None:
    material = MATERIALS[key]
    found = plain_string(material, diameter, length, hz)
    assert diameter_for(material, found.tension_n, length, hz) == pytest.approx(diameter)
    shorter = plain_string(material, diameter, 0.75 * length, hz)  # a full-size string on a small instrument
    assert shorter.tension_n == pytest.approx(0.5625 * found.tension_n)
    assert shorter.margin_cents > found.margin_cents and shorter.stretch > found.stretch


@pytest.mark.parametrize(
    "act",
    [
        lambda: plain_string(STEEL, 0.01, 648, 330), lambda: plain_string(STEEL, 0.3, 0, 330),
        lambda: diameter_for(STEEL, -1, 648, 330), lambda: bridge_load_n(100, 60), lambda: bridge_load_n(-1, 150),
        lambda: slack_mm(-1, 6), lambda: plain_string(STEEL, math.nan, 648, 330),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused(act: object) -> None:
    with pytest.raises(BadInput):
        act()  # type: ignore[operator]
