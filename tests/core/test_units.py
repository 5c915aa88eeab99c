"""Quantities as people type them."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.errors import BadInput
from creekbed.core.units import parse_quantity, show


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
