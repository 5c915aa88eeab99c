"""How the shop writes: what its country suggests, what it says, and that every window follows."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from creekbed.cli.main import main
from creekbed.core import conventions
from creekbed.core.catalogue.book import search
from creekbed.core.conventions import PLAIN, Conventions
from creekbed.core.errors import BadData, BadInput
from creekbed.store.records import Setting
from creekbed.workshop.shop import formats
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.house_numbers import HouseNumbers, house_numbers, set_house_numbers
from creekbed.workshop.shop.set_up import set_up
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.shop.stored import FORMATS
from creekbed.workshop.supplies import stock
from tests.conftest import MORNING, Hand


@pytest.mark.parametrize(
    ("code", "expected", "paper"),
    [
        ("US", Conventions("en_US", ".", "USD", 12, "us"), "Letter"),
        ("NZ", Conventions("en_NZ", ".", "NZD", 12), "A4"),
        ("DE", Conventions("de_DE", ",", "EUR", 24), "A4"),
        ("CA", Conventions("en_CA", ".", "CAD", 12), "Letter"),
        ("FR", Conventions("fr_FR", ",", "EUR", 24), "A4"),
    ],
)  # fmt: skip
def test_what_is_usual_in_a_country(code: str, expected: Conventions, paper: str) -> None:
    """Facts of daily life there: money, clock, decimal mark, units and paper."""
    found = formats.country(code)
    assert (found.conventions, found.paper) == (expected, paper)


def test_every_country_can_be_chosen_and_written(shop: Shop) -> None:
    assert 200 < len(formats.countries()) < 300
    for code in formats.countries():
        usual = formats.country(code).conventions
        with conventions.trying(usual):
            assert "1" in conventions.money(1.0), code
    formats.set_formats(shop, formats.country("JP").conventions)
    assert formats.formats(shop).currency == "JPY"
    with pytest.raises(BadInput, match="no country"):
        formats.country("XX")


def test_they_hold_at_once_after_a_restart_and_in_the_other_window(shop: Shop, clock: HandClock, hand: Hand) -> None:
    other = Shop(shop.folder, clock)
    before = other.catalogue
    wanted = Conventions("en_US", ".", "USD", 12, "us", "America/New_York")
    assert set_up(shop).lacks("formats")
    formats.set_formats(shop, wanted)
    assert conventions.current() == wanted and not set_up(shop).lacks("formats")
    conventions.use(PLAIN)  # as if the other window were a process of its own
    assert [e.action for e in other.others()] == [FORMATS]
    assert conventions.current() == wanted and other.catalogue is not before
    other.close()
    conventions.use(PLAIN)
    Shop(shop.folder, clock).close()
    assert conventions.current() == wanted
    assert conventions.clock(MORNING) == "4:00 am"  # 09:00 UTC, five hours behind in November (IANA)


def test_bills_carry_the_money_of_the_shop(shop: Shop) -> None:
    formats.set_formats(shop, Conventions("en_GB", ".", "GBP"))
    stock.set_price(shop, "strap_sax", 12.5)
    with shop.reading() as records:
        (entry,) = records.journal.since(records.journal.newest() - 1)
    assert "£12.50" in entry.words


@pytest.mark.parametrize(
    "wrong",
    [
        Conventions(currency="XYZ"), Conventions(zone="Mars/Olympus"), Conventions(zone="../../etc/passwd"),
        Conventions(locale="no such"), Conventions(hours=13), Conventions(units="imperial"),  # type: ignore[arg-type]
        Conventions(decimal="·"),
    ],
)  # fmt: skip
def test_what_is_not_known_is_refused(shop: Shop, wrong: Conventions) -> None:
    with pytest.raises(BadInput):
        formats.set_formats(shop, wrong)
    assert formats.formats(shop) == PLAIN and conventions.current() == PLAIN


@pytest.mark.parametrize("kept", [None, "12 h", {"hours": "noon", "currency": 7, "zone": None}, {"units": "us"}])
def test_what_cannot_be_read_is_as_it_ships(shop: Shop, kept: Any) -> None:
    with shop.act("spoilt") as act:
        act.records.put(Setting(key=FORMATS, value={"v": kept}))
    found = formats.formats(shop)
    assert found == (Conventions(units="us") if kept == {"units": "us"} else PLAIN)


def test_the_pitch_changes_what_strings_are_tuned_to(shop: Shop, hand: Hand) -> None:
    assert house_numbers(shop).a4_hz == 440
    set_house_numbers(shop, HouseNumbers(415.0, 19.0))
    assert house_numbers(shop) == HouseNumbers(415.0, 19.0)
    with pytest.raises(BadData):
        set_house_numbers(shop, HouseNumbers(900.0, 19.0))
    assert house_numbers(shop).a4_hz == 415


def test_the_shell_says_and_shows_them(tmp_path: Path, capsys: Any) -> None:
    folder = ("--folder", str(tmp_path / "new"))
    assert main([*folder, "shop", "--country", "DE", "--pitch", "442 Hz", "--room", "70 °F", "--name", "Ours"]) == 0
    said = capsys.readouterr().out
    assert "24 h, metric, EUR" in said and "A4 = 442 Hz, room 21,1 °C" in said
    assert main([*folder, "shop", "--hours", "12", "--json"]) == 0
    assert '"currency": "EUR"' in capsys.readouterr().out
    assert main([*folder, "shop", "--zone", "Mars/Olympus"]) == 1
    assert "no time zone that is known" in capsys.readouterr().err


def test_what_the_catalogue_remembers_is_put_into_words_anew(shop: Shop) -> None:
    """The reference and the cautions of products are remembered; a shop that changes its units reads them anew."""

    def told() -> str:
        return " ".join(line.words for line in search(shop.catalogue, {}, "lacquer lifts"))

    assert "40 °C" in told()
    shop.write_by(Conventions(units="us"))
    assert "104 °F" in told() and "°C" not in told()
