"""How a shop writes times, numbers, money and quantities."""

from __future__ import annotations

from datetime import UTC, datetime

import pint
import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core import conventions
from creekbed.core.conventions import Conventions, quantities_in, significant, trying
from creekbed.core.units import parse_quantity, show, with_doubt

US = Conventions("en_US", ".", "USD", 12, "us")
GERMAN = Conventions("de_DE", ",", "EUR", 24)


def test_what_no_shop_has_said_is_metric_with_24_hours() -> None:
    at = datetime(2026, 11, 19, 13, 5, tzinfo=UTC).astimezone()
    assert conventions.clock(at) == f"{at:%H:%M}" and conventions.clock(at, "%a ") == f"{at:%a %H:%M}"
    assert conventions.temperature(21.5) == "21.5 °C" and conventions.millimetres(2.4, 1) == "2.4 mm"
    assert conventions.money(4.5) == "4.50" and conventions.number(1000) == "1000"


@pytest.mark.parametrize(("hour", "words"), [(0, "12:05 am"), (11, "11:05 am"), (12, "12:05 pm"), (23, "11:05 pm")])
def test_twelve_hours_begin_with_twelve(hour: int, words: str) -> None:
    """Noon is 12 pm, midnight 12 am (NIST, "Times of Day FAQs")."""
    at = datetime(2026, 11, 19, hour, 5).astimezone()
    conventions.use(US)
    assert conventions.clock(at) == words
    assert conventions.clock(at, "%a %d %b ") == f"Thu 19 Nov {words}"


def test_money_as_the_country_writes_it() -> None:
    """By the Unicode CLDR: the sign before or after, a thin or no space, the country's decimal mark."""
    conventions.use(US)
    assert conventions.money(1234.5) == "$1,234.50"
    conventions.use(GERMAN)
    assert conventions.money(1234.5).replace("\N{NO-BREAK SPACE}", " ") == "1.234,50 €"
    conventions.use(Conventions("ja_JP", ".", "JPY"))
    assert "1,234" in conventions.money(1234) and "." not in conventions.money(1234)  # yen have no hundredths


def test_the_decimal_mark_goes_through_every_quantity_and_can_be_typed_back() -> None:
    conventions.use(GERMAN)
    assert show(2.4, "millimeter") == "2,4 mm" and with_doubt(33.2, 0.9, "milliliter/minute") == "33,2 ± 0,9 ml/min"
    assert parse_quantity(show(2.4, "millimeter"), "millimeter") == 2.4
    assert conventions.temperature(-3.5) == "-3,5 °C"


def test_us_units_against_pint() -> None:
    registry = pint.UnitRegistry(autoconvert_offset_to_baseunit=True)
    conventions.use(US)
    for value, unit, other in ((21.0, "degC", "degF"), (328.0, "millimeter", "inch"), (20.0, "liter", "gallon")):
        shown, name, _ = conventions.displayed(value, unit)
        assert name == other and shown == pytest.approx(registry.Quantity(value, unit).to(other).magnitude)
    assert conventions.temperature(37.0) == "98.6 °F" and conventions.millimetres(25.4) == "1 in"
    assert show(2.4, "millimeter") == "0.0945 in" and show(250, "milliliter") == "250 ml"


def test_an_uncertainty_of_a_temperature_has_no_offset() -> None:
    conventions.use(US)
    assert with_doubt(20.0, 1.0, "degC") == "68.0 ± 1.8 °F"


@given(st.floats(-20, 60))
def test_what_is_shown_in_us_units_reads_back(celsius: float) -> None:
    with conventions.trying(US):
        assert parse_quantity(conventions.temperature(celsius, 2), "degC") == pytest.approx(celsius, abs=0.01)


def test_a_bare_number_is_in_the_units_that_are_shown() -> None:
    assert parse_quantity("21", "degC") == 21
    conventions.use(US)
    assert parse_quantity("70", "degC") == pytest.approx(21.11, abs=0.01)
    assert parse_quantity("1", "millimeter") == 25.4
    assert parse_quantity("1", "liter") == 0.001  # litres were never bare: the bench's unit is ml, and stays it
    assert parse_quantity("5", "gram") == 5


def test_the_zone_of_the_shop_is_that_of_local_times() -> None:
    """The clocks of New Zealand stand 13 hours ahead in November, those of New York 5 behind (IANA)."""
    noon = datetime(2026, 11, 19, 12, 0, tzinfo=UTC)
    conventions.use(Conventions(zone="Pacific/Auckland"))
    assert conventions.clock(noon, "%a ") == "Fri 01:00"
    conventions.use(Conventions(zone="America/New_York"))
    assert conventions.clock(noon) == "07:00"
    assert conventions.clock(datetime(2026, 7, 1, 12, 0, tzinfo=UTC)) == "08:00"  # summer time there
    conventions.use(conventions.PLAIN)
    assert conventions.clock(noon) == f"{noon.astimezone():%H:%M}"


@pytest.mark.parametrize("zone", ["Mars/Olympus", "../../../etc/hostname", "/etc/passwd", "Europe"])
def test_a_zone_that_is_none_is_the_computers(zone: str) -> None:
    noon = datetime(2026, 11, 19, 12, 0, tzinfo=UTC)
    before = conventions.clock(noon)
    conventions.use(Conventions(zone="Pacific/Auckland"))
    conventions.use(Conventions(zone=zone))
    assert conventions.clock(noon) == before


def test_temperatures_in_the_texts_of_the_catalogue() -> None:
    """US: 40 °C is 104 °F, 60 °C 140 °F, 17 °C 62.6 °F, by the definition of the scale."""
    text = "Above 40 °C lacquer lifts; 60 °C scalds; it burns from about 17 °C on; −2.5 °C is frost."
    assert quantities_in(text) == text
    with trying(Conventions(units="us")):
        assert quantities_in(text) == (
            "Above 104 °F lacquer lifts; 140 °F scalds; it burns from about 63 °F on; 27.5 °F is frost."
        )
        assert quantities_in("at 104 °F, 40 ml, A4") == "at 104 °F, 40 ml, A4"
    with trying(Conventions(decimal=",")):
        assert quantities_in("12.5 °C and 40 °C") == "12,5 °C and 40 °C"


def test_figures_that_count() -> None:
    assert significant(0.012345, 3) == "0.0123" and significant(12.0, 4) == "12"
    with trying(Conventions(decimal=",")):
        assert significant(1.25, 3) == "1,25"


def test_lengths_and_litres_in_the_texts_of_the_catalogue() -> None:
    """A tub of 80 l holds 21.13 US gallons, 4 mm are 0.157 in (definitions); ranges keep one unit, small volumes ml."""
    text = "80 l; at least 4 mm; 6.5 to 8.5 mm of it; 2 ml to the litre, 10 to 20 cm, 1 lint-free cloth"
    assert quantities_in(text) == text
    with trying(Conventions(units="us")):
        assert quantities_in(text) == (
            "21.13 gal; at least 0.157 in; 0.256 to 0.335 in of it; 2 ml to the litre, 10 to 20 cm, 1 lint-free cloth"
        )
        assert quantities_in("8.76 gal, 0.25 in") == "8.76 gal, 0.25 in"
    with trying(Conventions(decimal=",")):
        assert quantities_in("33,2 l and 6.5 to 8.5 mm") == "33,2 l and 6,5 to 8,5 mm"
