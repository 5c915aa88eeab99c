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
from creekbed.core.inspection.valves import TRUMPET_WAY, TUBA_WAY, advice, asked_of, fitting, seatings
from creekbed.core.inspection.verdicts import judge_reading

FRICTION = shipped().families["trombone"].find_check("friction")


def test_the_force_behind_a_drop() -> None:
    """F = m(g − 2s/t²), mechanics: 0.45 kg, 0.25 m in 0.25 s."""
    found = from_drop(0.45, 0.25, 0.25, "sound")
    assert found.force_n == pytest.approx(0.45 * (G - 2 * 0.25 / 0.0625), rel=1e-12)
    assert found.ratio.value == pytest.approx(found.force_n / (0.45 * G), rel=1e-12)


def test_a_video_says_no_more_than_its_frames() -> None:
    """Each of two moments lies anywhere in a frame: 1/√6 of it in their difference (JCGM 100, 4.3.7); asked for."""
    with pytest.raises(BadInput, match="frames"):
        from_drop(0.45, 0.25, 0.25, "video")
    with pytest.raises(BadInput, match="20 to 10 000"):
        from_drop(0.45, 0.25, 0.25, "video", frames_per_s=2.0)
    slow, quick = (from_drop(0.45, 0.25, 0.25, "video", frames_per_s=f).ratio.u for f in (30.0, 240.0))
    sound = from_drop(0.45, 0.25, 0.25, "sound", u_time_s=1 / 30 / math.sqrt(6)).ratio.u
    assert slow == pytest.approx(sound, rel=0.15) and slow > 2.5 * quick


def test_why_hands_do_not_time_it() -> None:
    """dF/dt = 4ms/t³: 0.45 kg over 0.25 m in 0.25 s, a twentieth of a second is 1.4 N, more than the friction."""
    by_hand = from_drop(0.45, 0.25, 0.25, "sound", u_time_s=0.05)
    assert by_hand.u_force_n == pytest.approx(4 * 0.45 * 0.25 / 0.25**3 * 0.05, rel=0.01)
    assert by_hand.u_force_n > by_hand.force_n
    with pytest.raises(BadInput, match="by hand"):
        from_drop(0.45, 0.25, 0.25, "hand")


@given(st.floats(0.2, 1.5), st.floats(0.06, 0.25), st.floats(0.0, 0.9))
def test_a_drop_gives_back_its_friction(mass: float, drop: float, share: float) -> None:
    """Constant acceleration a = g(1 − share): t = √(2s/a)."""
    time = math.sqrt(2 * drop / (G * (1 - share))) * (1 + 1e-12)
    assert from_drop(mass, drop, time, "sound").ratio.value == pytest.approx(share, abs=1e-9)


def test_pulls() -> None:
    one = from_pull([1.2], 0.45)
    assert one.ratio.value == pytest.approx(1.2 / (0.45 * G)) and one.ratio.unit == "dimensionless"
    many = from_pull([1.18, 1.22, 1.20, 1.21], 0.45)
    assert many.force_n == pytest.approx(1.2025) and many.u_force_n > 0.02
    assert judge_reading(FRICTION, one.ratio).band == "green"
    assert judge_reading(FRICTION, from_pull([2.0], 0.45).ratio).band == "amber"
    assert judge_reading(FRICTION, from_pull([3.2], 0.45).ratio).verdict == "specialist"
    assert judge_reading(FRICTION, from_drop(0.45, 0.2, 0.31, "video", frames_per_s=25.0).ratio).band == "again"


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


WAYS = (TRUMPET_WAY, TUBA_WAY, (1, 2, 3, 4), (2, 3, 1))


def test_all_seatings_are_tried() -> None:
    assert len(set(seatings(3))) == 6 * 2**3 and len(set(seatings(4))) == 24 * 2**4


def passed(way: tuple[int, ...], pistons: tuple[int, ...], right: tuple[bool, ...], asked: str) -> bool:
    """Air walked through the casings one after another, by hand."""
    for casing in way:
        if pistons[casing - 1] != casing or not right[casing - 1]:
            return False
        if asked == str(casing):
            return True
    return True


@pytest.mark.parametrize("way", WAYS)
def test_answers_leave_what_fits_and_nothing_else(way: tuple[int, ...]) -> None:
    """All orders, turns and answers, against air walked through by hand."""
    asked = asked_of(way)
    for answers in (dict(zip(asked, values, strict=True)) for values in product((True, False), repeat=len(asked))):
        fit = [s for s in seatings(len(way))
               if all(passed(way, s.pistons, s.right_way, a) == v for a, v in answers.items())]  # fmt: skip
        if fit:
            assert set(fitting(answers, way)) == set(fit)
            continue
        with pytest.raises(BadInput, match="contradict") as told:
            fitting(answers, way)
        single = [a for a in asked if any(
            all(passed(way, s.pistons, s.right_way, k) == (v if k != a else not v) for k, v in answers.items())
            for s in seatings(len(way))
        )]  # fmt: skip
        for name in single:
            assert ("no valve" if name == "open" else f"valve {name} ") in told.value.todo
        if single:
            assert told.value.todo.count("with ") == len(single)


@pytest.mark.parametrize("way", WAYS)
def test_the_truth_always_remains_and_advice_leads_to_it(way: tuple[int, ...]) -> None:
    for truth in list(seatings(len(way)))[:: 1 if len(way) < 4 else 7]:  # four valves: every seventh of their seatings
        answers: dict[str, bool] = {}
        for asked in asked_of(way):
            answers[asked] = truth.answer(asked, way)
            assert truth in fitting(answers, way)
        words = advice(answers, way)
        first = next((c for c in way if not truth.passes(c)), None)
        assert words.endswith("sit right.") if first is None else f"Casing {first}" in words


def test_the_air_meets_the_third_first_on_a_trumpet_and_the_first_on_a_tuba() -> None:
    """From memory: the mouthpipe of a trumpet or cornet enters casing 3; of most euphoniums and tubas casing 1."""
    families = shipped().families
    assert families["trumpet"].air_way == families["cornet"].air_way == (3, 2, 1)
    assert families["euphonium"].air_way[0] == families["tuba"].air_way[0] == 1
    answers = {"open": False, "3": True, "2": False}
    assert "Casing 2" in advice(answers, TRUMPET_WAY)
    with pytest.raises(BadInput, match="contradict"):  # on a tuba air that came out at 3 has passed 2
        fitting(answers, TUBA_WAY)


def test_a_middle_valve_that_stops_is_not_said_to_be_the_first() -> None:
    """Nothing was asked of casing 3 yet: it may be the one that stops the air."""
    assert advice({"2": False}, TRUMPET_WAY) == "Now blow with no valve down."


@pytest.mark.parametrize("way", [(), (1, 2), (1, 1, 2), (0, 1, 2), (1, 2, 3, 4, 5)])
def test_a_way_that_cannot_be(way: tuple[int, ...]) -> None:
    with pytest.raises(BadInput, match="no way"):
        fitting({}, way)


def test_words_of_valves() -> None:
    assert advice({}) == "Now blow with no valve down."
    assert "valve 3 down and its slide drawn" in advice({"open": False})
    two = fitting({"open": False, "3": True, "2": False})
    assert two[0].wrong == 1 and two[0].words() == "piston 2 is turned the wrong way"
    assert any(s.words() == "piston 2 is in casing 1; piston 1 is in casing 2" for s in two)
    with pytest.raises(BadInput, match="not asked"):
        fitting({"4": True})
