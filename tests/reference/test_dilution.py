"""Dilution against published recipes and arithmetic."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.mixes import dilute, most_from
from creekbed.core.hygiene.strengths import Strength, one_basis, parse_strength

GALLON_ML, TABLESPOON_ML = 3785.411784, 14.78676478  # US, NIST Handbook 44, appendix C
QUART_ML, TEASPOON_ML = 946.352946, 4.92892159
AVAILABLE_CHLORINE = 0.9525  # grams of available chlorine per gram NaOCl (70.906/74.442)


def test_half_strength() -> None:
    """500 ml of 3 % from 6 %: 250 ml and 250 ml of water (arithmetic)."""
    mix = dilute(6, 3, 500)
    assert (mix.stock_ml, mix.diluent_ml) == (250, 250)


@pytest.mark.parametrize(
    ("stock_pct", "stock_ml", "target_pct"),
    [
        # WHO guide to local production of hand rub, to make 10 l, recalled: formulation 1 and 2
        (96.0, 8333.0, 80.0),
        (3.0, 417.0, 0.125),
        (98.0, 145.0, 1.42),
        (99.8, 7515.0, 75.0),
    ],
)
def test_hand_rub_recipes(stock_pct: float, stock_ml: float, target_pct: float) -> None:
    assert dilute(stock_pct, target_pct, 10_000).stock_ml == pytest.approx(stock_ml, rel=4e-3)


def test_household_bleach() -> None:
    """CDC household-bleach guidance, recalled: 5 tablespoons of 5.25 % in a gallon; 4 teaspoons in a quart."""
    gallon = 5.25 * 5 * TABLESPOON_ML / (GALLON_ML + 5 * TABLESPOON_ML)
    assert gallon * 10_000 == pytest.approx(1006, abs=3)
    assert gallon * 10_000 * AVAILABLE_CHLORINE == pytest.approx(958, abs=3)
    made = GALLON_ML + 5 * TABLESPOON_ML
    assert dilute(5.25, gallon, made).stock_ml == pytest.approx(5 * TABLESPOON_ML, rel=1e-9)
    quart = 5.25 * 4 * TEASPOON_ML / (QUART_ML + 4 * TEASPOON_ML)
    assert quart * 10_000 == pytest.approx(1071, abs=4)


@pytest.mark.parametrize(("stock", "target", "parts_water"), [(5.0, 0.5, 9), (3.5, 0.5, 6)])
def test_parts_rule(stock: float, target: float, parts_water: float) -> None:
    """Parts of water = stock/target − 1 (CDC guidance, recalled)."""
    mix = dilute(stock, target, 1000)
    assert mix.diluent_ml / mix.stock_ml == pytest.approx(parts_water)


@given(st.floats(0.1, 100), st.floats(0.01, 100), st.floats(1, 20_000))
def test_nothing_is_gained_or_lost(stock: float, target: float, make: float) -> None:
    if target > stock:
        with pytest.raises(Refused, match="weaker"):
            dilute(stock, target, make)
        return
    mix = dilute(stock, target, make)
    assert mix.stock_ml * stock == pytest.approx(make * target)
    assert mix.stock_ml + mix.diluent_ml == pytest.approx(make)
    assert most_from(mix.stock_ml, stock, target) == pytest.approx(make)


@given(st.floats(1, 100), st.floats(0.05, 1), st.floats(100, 5000), st.sampled_from([5.0, 10.0, 25.0, 50.0]))
def test_rounding_to_the_jug(stock: float, share: float, make: float, marks: float) -> None:
    try:
        mix = dilute(stock, stock * share, make, marks)
    except Refused as refused:  # the nearest mark is more than a tenth off
        nearest = max(round(make * share / marks) * marks, 0.0)
        assert refused.fields["coarse"] and abs(min(nearest, make) / (make * share) - 1) > 0.0999
        return
    assert 0 < mix.stock_rounded_ml <= make
    assert abs(mix.strength_error_pct) <= 0.1001 * stock * share
    assert (
        mix.stock_rounded_ml / marks == pytest.approx(round(mix.stock_rounded_ml / marks))
        or mix.stock_rounded_ml == make
    )
    assert mix.strength_pct == pytest.approx(stock * mix.stock_rounded_ml / make)
    if mix.stock_ml >= marks / 2:
        assert abs(mix.stock_rounded_ml - mix.stock_ml) <= marks / 2 + 1e-6
    assert mix.diluent_rounded_ml == pytest.approx(make - mix.stock_rounded_ml)


@pytest.mark.parametrize(
    ("stock", "target", "make", "marks"),
    [(0, 3, 500, None), (6, 0, 500, None), (6, 3, 0, None), (-6, 3, 500, None), (120, 3, 500, None), (6, 3, 500, 0),
     (6, 3, float("inf"), None), (float("nan"), 3, 500, None), (6, 3, float("nan"), None)],
)  # fmt: skip
def test_nonsense_is_refused(stock: float, target: float, make: float, marks: float | None) -> None:
    with pytest.raises(BadInput):
        dilute(stock, target, make, marks)


def test_marks_too_coarse() -> None:
    with pytest.raises(Refused) as caught:
        dilute(6, 3, 20, 50)
    assert "finer" in caught.value.todo


@pytest.mark.parametrize(
    ("text", "percent", "basis"),
    [
        ("6 %", 6.0, ""), ("70 % v/v", 70.0, "v/v"), ("3% (w/v)", 3.0, "w/v"), ("5 % m/m", 5.0, "w/w"),
        ("1000 mg/l", 0.1, "w/v"), ("5000 ppm", 0.5, "w/v"), ("5 g/l", 0.5, "w/v"), ("1 + 9", 0.6, "w/v"),
        ("1+1", 3.0, "w/v"),
    ],
)  # fmt: skip
def test_strengths_as_labels_say_them(text: str, percent: float, basis: str) -> None:
    """10 g in a litre are 1 % w/v (arithmetic); 1 + 9 of a bottle of 6 % w/v is a tenth of it."""
    found = parse_strength(text, stock=Strength(6.0, "w/v"))
    assert found.percent == pytest.approx(percent) and found.basis == basis


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("1:10", "1 \\+ 9 or 1 \\+ 10"), ("1/10", "or as 10 %"), ("1 in 10", "1 \\+ 9 or 1 \\+ 10"),
        ("0 %", "more than 0"),
        ("101 %", "at most 100"), ("1,000 ppm", "1,000 ppm"), ("5 % v/w", "by volume, or by weight"), ("", "empty"),
    ],
)  # fmt: skip
def test_strengths_that_are_asked_for_again(text: str, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        parse_strength(text, stock=Strength(6.0))


def test_two_bases_are_not_compared_and_parts_need_a_bottle() -> None:
    with pytest.raises(BadInput, match="cannot be compared"):
        one_basis(Strength(70.0, "v/v"), Strength(5.0, "w/w"))
    assert one_basis(Strength(70.0, "v/v"), Strength(5.0)) == "v/v" and one_basis(Strength(1.0)) == ""
    with pytest.raises(BadInput, match="without the bottle"):
        parse_strength("1 + 9")
