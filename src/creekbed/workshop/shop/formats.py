"""How this shop writes times, numbers, money and quantities: what its country suggests, and what it says itself."""

from __future__ import annotations

from functools import lru_cache

from creekbed.core.conventions import Conventions, Hours, UnitSystem
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.records import Setting
from creekbed.workshop.shop.identity import Paper
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.shop.stored import FORMATS, conventions_in

LETTER = frozenset(("BZ", "CA", "CL", "CO", "CR", "GT", "MX", "NI", "PA", "PH", "PR", "SV", "US", "VE"))
"""Countries that print on Letter (Unicode CLDR, supplemental data, paperSize)."""
US_UNITS = frozenset(("US", "LR", "PR"))
"""Countries where people read °F and inches (Unicode CLDR, supplemental data, measurementSystem and temperature)."""


def formats(shop: Shop) -> Conventions:
    """What is on record."""
    with shop.reading() as records:
        return conventions_in(records)


@dataclass(frozen=True)
class Country:
    """What is usual in a country.

    Attributes:
        code: ISO 3166-1. name: in English. conventions: how people write there. paper: that they print on.
    """

    code: str
    name: str
    conventions: Conventions
    paper: Paper


@lru_cache(maxsize=1)
def countries() -> dict[str, str]:
    """Code and English name of each country, by name (Unicode CLDR, through Babel)."""
    from babel import Locale

    names = Locale("en").territories
    found = {code: str(name) for code, name in names.items() if len(code) == 2 and code not in _NO_COUNTRY}
    return dict(sorted(found.items(), key=lambda row: row[1]))


_NO_COUNTRY = frozenset(("EU", "EZ", "UN", "XA", "XB", "ZZ", "QO"))


def country(code: str) -> Country:
    """What is usual in a country (Unicode CLDR, through Babel).

    Raises:
        BadInput: the code is of no country.
    """
    name = countries().get(code)
    if name is None:
        raise BadInput(f"“{code[:12]}” is no country that is known.", todo="Give its two letters, such as NZ.")
    from babel import Locale, UnknownLocaleError
    from babel.numbers import get_decimal_symbol, get_territory_currencies

    try:
        locale = Locale.parse(f"und_{code}")
    except (UnknownLocaleError, ValueError):
        locale = Locale("en")
    if locale.script not in (None, "Latn") or locale.character_order != "left-to-right":
        locale = Locale("en")
    mark = get_decimal_symbol(locale)
    hours: Hours = 12 if "h" in locale.time_formats["short"].pattern else 24
    units: UnitSystem = "us" if code in US_UNITS else "metric"
    money = get_territory_currencies(code)
    usual = Conventions(
        locale=str(locale),
        decimal="," if mark == "," else ".",
        currency=money[0] if money else "",
        hours=hours,
        units=units,
    )
    return Country(code, name, usual, "Letter" if code in LETTER else "A4")


@lru_cache(maxsize=1)
def currencies() -> dict[str, str]:
    """Code and English name of each currency in use, by code (Unicode CLDR, through Babel)."""
    from babel import Locale
    from babel.numbers import get_territory_currencies

    names = Locale("en").currencies
    used = {code for land in countries() for code in get_territory_currencies(land)}
    return {code: str(names.get(code, code)) for code in sorted(used)}


@lru_cache(maxsize=1)
def zones() -> tuple[str, ...]:
    """Names of the time zones that ship (IANA), those of continents and oceans."""
    from importlib.resources import files

    names = files("tzdata").joinpath("zones").read_text(encoding="utf-8").split()
    return tuple(sorted(n for n in names if "/" in n and not n.startswith(("Etc/", "US/", "Canada/", "Brazil/"))))


def set_formats(shop: Shop, wanted: Conventions) -> None:
    """Say how the shop writes; it holds at once, in every window.

    Raises:
        BadInput: a locale, currency, zone, mark, clock or system of units that is not known.
    """
    _check(wanted)
    kept = {name: getattr(wanted, name) for name in Conventions.__dataclass_fields__}
    with shop.act(FORMATS, undoable=False) as act:
        act.records.put(Setting(key=FORMATS, value={"v": kept}))
        clock = f"{wanted.hours} h clock"
        units = "US units" if wanted.units == "us" else "metric units"
        act.words = ", ".join(x for x in (clock, units, wanted.currency, wanted.zone) if x)

        def write_so() -> str:
            shop.write_by(wanted)
            return ""

        act.after.insert(0, write_so)


def _check(wanted: Conventions) -> None:
    from babel import Locale, UnknownLocaleError

    try:
        Locale.parse(wanted.locale)
    except (UnknownLocaleError, ValueError):
        raise BadInput(f"“{wanted.locale[:12]}” is no language and country that is known.") from None
    for value, known, what in (
        (wanted.currency, ("", *currencies()), "currency"), (wanted.zone, ("", *zones()), "time zone"),
        (wanted.decimal, (".", ","), "decimal mark"), (wanted.hours, (24, 12), "clock"),
        (wanted.units, ("metric", "us"), "system of units"),
    ):  # fmt: skip
        if value not in known:
            raise BadInput(f"“{str(value)[:24]}” is no {what} that is known.", todo="Choose one of the list.")
