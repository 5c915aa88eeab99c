"""Friction of a hand slide by mechanics; seating of valves by trying all of them."""

from __future__ import annotations

import math
from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.catalogue.load import shipped
from creekbed.core.errors import BadInput
from creekbed.core.inspection.friction import G, from_drop, from_pull
from creekbed.core.inspection.valves import ALL, ASKED, advice, fitting
from creekbed.core.inspection.verdicts import judge_reading

FRICTION = shipped().families["trombone"].find_check("friction")


def test_the_force_behind_a_drop() -> None:
    """F = m(g − 2s/t²), mechanics: 0.45 kg, 0.25 m in 0.25 s."""
    found = from_drop(0.45, 0.25, 0.25, "sound")
    assert found.force_n == pytest.approx(0.45 * (G - 2 * 0.25 / 0.0625), rel=1e-12)
    assert found.ratio.value == pytest.approx(found.force_n / (0.45 * G), rel=1e-12)


def test_why_hands_do_not_time_it() -> None:
    """dF/dt = 4ms/t³: 0.45 kg over 0.25 m in 0.25 s, a twentieth of a second is 1.4 N, more than the friction."""
    by_hand = from_drop(0.45, 0.25, 0.25, "video", u_time_s=0.05)
    assert by_hand.u_force_n == pytest.approx(4 * 0.45 * 0.25 / 0.25**3 * 0.05, rel=0.01)
    assert by_hand.u_force_n > by_hand.force_n
    with pytest.raises(BadInput, match="by hand"):
        from_drop(0.45, 0.25, 0.25, "hand")


@given(st.floats(0.2, 1.5), st.floats(0.06, 0.25), st.floats(0.0, 0.9))
def test_a_drop_gives_back_its_friction(mass: float, drop: float, share: float) -> None:
    """Constant acceleration a = g(1 − share): t = √(2s/a)."""
    time = math.sqrt(2 * drop / (G * (1 - share))) * (1 + 1e-12)
    assert from_drop(mass, drop, time, "video").ratio.value == pytest.approx(share, abs=1e-9)


def test_pulls() -> None:
    one = from_pull([1.2], 0.45)
    assert one.ratio.value == pytest.approx(1.2 / (0.45 * G)) and one.ratio.unit == "dimensionless"
    many = from_pull([1.18, 1.22, 1.20, 1.21], 0.45)
    assert many.force_n == pytest.approx(1.2025) and many.u_force_n > 0.02
    assert judge_reading(FRICTION, one.ratio).band == "green"
    assert judge_reading(FRICTION, from_pull([2.0], 0.45).ratio).band == "amber"
    assert judge_reading(FRICTION, from_pull([3.2], 0.45).ratio).verdict == "specialist"
    assert judge_reading(FRICTION, from_drop(0.45, 0.2, 0.31, "video", u_time_s=0.02).ratio).band == "again"


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (lambda: from_drop(0.45, 0.25, 0.2, "sound"), "Nothing falls"),
        (lambda: from_drop(0.45, 0.5, 0.36, "sound"), "between 5 and 25"),
        (lambda: from_drop(0.45, 0.25, 9.0, "sound"), "hung"),
        (lambda: from_drop(0.45, 0.25, math.nan, "sound"), "Nothing falls"),
        (lambda: from_drop(30.0, 0.25, 0.3, "sound"), "weighs"),
        (lambda: from_pull([], 0.45), "pull"),
        (lambda: from_pull([-1.0], 0.45), "pull"),
    ],
)
def test_what_cannot_be(call: object, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        call()  # type: ignore[operator]


# --- valves ---------------------------------------------------------------------------------------------------------


def test_all_seatings_are_tried() -> None:
    assert len(ALL) == len(set(ALL)) == 6 * 2**3


def test_answers_leave_what_fits_and_nothing_else() -> None:
    for answers in (dict(zip(ASKED, values, strict=True)) for values in product((True, False), repeat=4)):
        fit = [s for s in ALL if all(s.answer(a) == v for a, v in answers.items())]
        if fit:
            assert set(fitting(answers)) == set(fit)
        else:
            with pytest.raises(BadInput, match="contradict"):
                fitting(answers)


def test_the_truth_always_remains_and_advice_leads_to_it() -> None:
    for truth in ALL:
        answers: dict[str, bool] = {}
        for asked in ASKED:
            answers[asked] = truth.answer(asked)
            assert truth in fitting(answers)
        words = advice(answers)
        first = next((c for c in (1, 2, 3) if not truth.passes(c)), None)
        assert words == "All three sit right." if first is None else f"Casing {first}" in words


def test_words_of_valves() -> None:
    assert advice({}) == "Now blow with no valve down."
    assert "valve 1 down and its slide drawn" in advice({"open": False})
    two = fitting({"open": False, "1": True, "2": False})
    assert two[0].wrong == 1 and two[0].words() == "piston 2 is turned the wrong way"
    assert any(s.words() == "piston 3 is in casing 2; piston 2 is in casing 3" for s in two)
    with pytest.raises(BadInput, match="not asked"):
        fitting({"4": True})
