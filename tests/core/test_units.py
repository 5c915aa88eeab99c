"""Quantities as people type them."""

import math

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from creekbed.core.errors import BadInput
from creekbed.core.units import bare_numbers, parse_quantity, show, with_doubt


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        # conversions: the inch is 25.4 mm exactly (international yard and pound agreement, 1959)
        ("3/32 in", "millimeter", 2.38125),
        ("5/16 in", "millimeter", 7.9375),
        ('1 1/2"', "millimeter", 38.1),
        ("2.4 mm", "millimeter", 2.4),
        ("2,4 mm", "millimeter", 2.4),
        ("2.4", "millimeter", 2.4),
        (".5 mm", "millimeter", 0.5),
        ("1½ in", "millimeter", 38.1),
        ("0.24cm", "millimeter", 2.4),
        ("−1.5°", "degree", -1.5),
        ("-1.5 deg", "degree", -1.5),
        ("100 °F", "degC", 37.7777778),
        ("4 °C", "degC", 4.0),
        ("-40 f", "degC", -40.0),
        ("6 %", "percent", 6.0),
        ("1 1/2 cup", "milliliter", 354.88235),  # US cup 236.588 ml (NIST Handbook 44, appendix C)
        ("0.5 l", "milliliter", 500.0),
        ("2 h", "minute", 120.0),
        ("16 cents", "cent", 16.0),
    ],
)
def test_reads_what_people_type(text: str, unit: str, value: float) -> None:
    assert parse_quantity(text, unit) == pytest.approx(value, rel=1e-6)


@pytest.mark.parametrize(
    "text",
    ["", "   ", "mm", "abc", "2..4 mm", "1/0 in", "3 bananas", "2.4 kg", "5 °C",
     "1e400 mm", "--3", "2.4 mm mm", "٣ mm?",
     "2 [", "2 '''", "9" * 400 + " mm", "1 + 1 mm", "import os", "2 mm; 3 mm"],
)  # fmt: skip
def test_says_what_is_wrong(text: str) -> None:
    with pytest.raises(BadInput) as caught:
        parse_quantity(text, "millimeter", what="The clearance")
    assert caught.value.happened and caught.value.safe == "Nothing was changed."


def test_names_the_unit_it_wants() -> None:
    with pytest.raises(BadInput, match="does not measure this"):
        parse_quantity("2.4 kg", "millimeter", what="The clearance")


@pytest.mark.parametrize(("text", "low", "high"), [("-3 mm", 0.0, None), ("900 mm", 0.0, 25.0), ("0 mm", 0.1, None)])
def test_refuses_what_cannot_be_true(text: str, low: float, high: float | None) -> None:
    with pytest.raises(BadInput, match="cannot be"):
        parse_quantity(text, "millimeter", minimum=low, maximum=high)


@given(st.text(max_size=30))
@example("0)0A")  # capitals were once read as a unit without being looked at
def test_any_text_is_a_number_or_a_clear_refusal(text: str) -> None:
    try:
        assert math.isfinite(parse_quantity(text, "millimeter"))
    except BadInput as error:
        assert error.happened


@given(st.floats(0.001, 5000, allow_nan=False))
def test_millimetres_and_inches_agree(value: float) -> None:
    assert parse_quantity(f"{value / 25.4:.12f} in", "millimeter") == pytest.approx(value, rel=1e-6, abs=1e-9)


@pytest.mark.parametrize(
    ("value", "unit", "words"),
    [
        (2.0, "millimeter", "2 mm"),
        (-0.001, "millimeter", "0 mm"),
        (-1.5, "degree", "−1.5°"),
        (0.256, "percent", "0.26 %"),
    ],
)
def test_shows_numbers_for_reading(value: float, unit: str, words: str) -> None:
    assert show(value, unit) == words


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        # bench units for bare numbers: house default; the rest: NIST SP 811, appendix B.8
        ("120", "liter", 0.12), ("450", "kilogram", 0.45), ("250", "meter", 0.25), ("50", "percent", 50.0),
        ("3 mbar", "pascal", 300.0), ("25 cmH₂O", "pascal", 2451.66), ("25 cmH2O", "pascal", 2451.66),
        ("1 inHg", "pascal", 3386.39), ("58 lb", "newton", 257.997), ("1 kg", "newton", 9.80665),
        ("2 oz", "gram", 56.699),
        ("1,000.5 ml", "milliliter", 1000.5), ("1.000,5 ml", "milliliter", 1000.5), ("1,000,000 ml", "milliliter", 1e6),
        ("0,125 in", "millimeter", 3.175), ("0.25 turn", "degree", 90.0), ("1 rad", "degree", 57.29578),
    ],
)  # fmt: skip
def test_units_of_the_bench_and_of_others(text: str, unit: str, value: float) -> None:
    assert parse_quantity(text, unit) == pytest.approx(value, rel=1e-4)


@pytest.mark.parametrize(
    ("text", "unit", "words"),
    [
        ("1,000 ml", "milliliter", "as 1 or as 1000"), ("12,500", "millimeter", "as 12 or as 12500"),
        ("5 %", "degree", "does not measure this"), ("5°", "percent", "does not measure this"),
        ("1,00,0 mm", "millimeter", "no value"), ("c/", "millimeter", "not a number"),
        ("2 c/", "millimeter", "not a unit"),
    ],
)  # fmt: skip
def test_what_can_be_read_in_two_ways_is_asked(text: str, unit: str, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        parse_quantity(text, unit)


def test_numbers_without_a_unit_are_heard() -> None:
    with bare_numbers() as heard:
        parse_quantity("120", "liter", what="The volume")
        parse_quantity("120 ml", "liter")
    assert heard == ["The volume: 120 is read as 120 ml."]
    with pytest.raises(BadInput, match="without a unit is in ml"):
        parse_quantity("0", "liter", minimum=0.001)


@pytest.mark.parametrize(
    ("value", "expanded", "unit", "words"),
    [
        # JCGM 100:2008, 7.2.6: at most two digits of the uncertainty
        (33.42, 9.01, "milliliter/minute", "33 ± 9 ml/min"), (4.213, 0.76, "degree", "4.2 ± 0.8°"),
        (0.3491, 0.0123, "dimensionless", "0.349 ± 0.012 of its weight"), (1234.5, 250, "gram", "1230 ± 250 g"),
        (-2.5, 0.99, "degree", "−2.5 ± 1.0°"), (5.0, 0.0, "gram", "5 g"),
    ],
)  # fmt: skip
def test_a_value_is_told_to_digits_that_mean_something(value: float, expanded: float, unit: str, words: str) -> None:
    assert with_doubt(value, expanded, unit) == words


def test_words_in_capitals_are_the_same_units() -> None:
    """Scanners and capitals-lock type so."""
    assert parse_quantity("4 TURNS", "turn") == 4 and parse_quantity("2 CUPS", "milliliter") == parse_quantity(
        "2 cups", "milliliter"
    )
    assert parse_quantity("2.4 MM", "millimeter") == 2.4
