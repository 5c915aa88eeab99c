"""How a shop writes times, numbers, money and quantities.

This is presentation only: what is stored and computed is in UTC and in metric units. The conventions of the open shop
hold for the whole process, as a locale does: words are made in many places, and all must look alike.
"""

from __future__ import annotations

import os
import re
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import Literal

from creekbed.core.quick_dataclasses import dataclass

Hours = Literal[24, 12]
UnitSystem = Literal["metric", "us"]


@dataclass(frozen=True)
class Conventions:
    """How a shop writes.

    Attributes:
        locale: language and country by their codes, "en_GB": it decides how money is written.
        decimal: the mark between whole and part of a number, "." or ",".
        currency: ISO 4217 code, "EUR"; "": prices are plain numbers.
        hours: of the clock, 24 or 12.
        units: "us" shows °F, inches and gallons. Small volumes and weights stay in ml and g: that is what measures and
            scales of a bench are marked in.
        zone: IANA time zone, "Pacific/Auckland"; "": the computer's.
    """

    locale: str = "en_GB"
    decimal: str = "."
    currency: str = ""
    hours: Hours = 24
    units: UnitSystem = "metric"
    zone: str = ""


PLAIN = Conventions()
_current = PLAIN
_computer_zone: str | None = os.environ.get("TZ")


def current() -> Conventions:
    """The conventions that hold now."""
    return _current


def use(conventions: Conventions) -> None:
    """Write by these from now on; local times follow their zone, in processes that are started later too.

    A zone that is not known is the computer's.
    """
    global _current
    before, _current = _current, conventions
    if conventions.zone == before.zone:
        return
    file = _zone_file(conventions.zone) if conventions.zone else None
    if file is not None:
        os.environ["TZ"] = f":{file}"
    elif _computer_zone is None:
        os.environ.pop("TZ", None)
    else:
        os.environ["TZ"] = _computer_zone
    time.tzset()


@contextmanager
def trying(conventions: Conventions) -> Iterator[None]:
    """Write by other conventions for a moment, to show what they look like; local times keep their zone."""
    global _current
    before, _current = _current, conventions
    try:
        yield
    finally:
        _current = before


def _zone_file(zone: str) -> Path | None:
    """The file of a time zone as it ships, for a bare machine may have none; ``None`` where there is no such zone."""
    from importlib.resources import files

    base = Path(str(files("tzdata"))) / "zoneinfo"
    file = base / zone
    return file if ".." not in zone.split("/") and base in file.parents and file.is_file() else None


def number(value: float, digits: int | None = None) -> str:
    """A number with the shop's decimal mark: with so many decimals, or as short as it is without loss."""
    return (f"{value:g}" if digits is None else f"{value:.{digits}f}").replace(".", _current.decimal)


def significant(value: float, figures: int) -> str:
    """A number with so many figures that count, at most, and the shop's decimal mark."""
    return f"{value:.{figures}g}".replace(".", _current.decimal)


MM_PER_INCH = 25.4
LITRES_PER_GALLON = 3.785411784
"""International inch; US liquid gallon of 231 cubic inches (NIST Handbook 44, appendix C)."""


def displayed(value: float, unit: str) -> tuple[float, str, int]:
    """A value in the unit that the shop sees it in.

    Args:
        unit: Pint's name of the unit that the value is in.

    Returns:
        Value, unit, and how many more decimals it needs to say as much as before.
    """
    if _current.units == "us":
        if unit == "degC":
            return value * 9 / 5 + 32, "degF", 0
        if unit == "millimeter":
            return value / MM_PER_INCH, "inch", 2
        if unit == "liter":
            return value / LITRES_PER_GALLON, "gallon", 1
    return value, unit, 0


def displayed_difference(value: float, unit: str) -> float:
    """A difference or uncertainty in the unit that the shop sees: of a temperature, without its offset."""
    return value * 9 / 5 if _current.units == "us" and unit == "degC" else displayed(value, unit)[0]


_SHORT = {"degC": "°C", "degF": "°F", "millimeter": "mm", "inch": "in", "liter": "l", "gallon": "gal"}


def sign(unit: str) -> str:
    """How a unit of :func:`displayed` is written; any other is written as it is."""
    return _SHORT.get(unit, unit)


def _quantity(value: float, unit: str, digits: int | None) -> str:
    shown, name, more = displayed(value, unit)
    if digits is None and name != unit:
        digits = 1 + more
        text = f"{shown:.{digits}f}".rstrip("0").rstrip(".")
        return f"{text.replace('.', _current.decimal)} {_SHORT[name]}"
    return f"{number(shown, None if digits is None else digits + more)} {_SHORT[name]}"


def temperature(value: float, digits: int | None = None) -> str:
    """A temperature given in °C, with its unit, as the shop writes it."""
    return _quantity(value, "degC", digits)


_NUMBER = r"([−-]?\d+(?:\.\d+)?)"
_IN_TEXT = re.compile(rf"(?<![\w.,/]){_NUMBER}(?: to {_NUMBER})? (°C|mm|l)(?!\w)")
_UNITS = {"°C": "degC", "mm": "millimeter", "l": "liter"}


def quantities_in(text: str) -> str:
    """A text of the catalogue with its temperatures, lengths in mm and litres as the shop writes them.

    There they are metric, with a point: "40 °C", "6.5 to 8.5 mm", "80 l".
    """
    if _current.units == "metric" and _current.decimal == ".":
        return text

    def said(found: re.Match[str]) -> str:
        texts = [x.replace("−", "-") for x in found.groups()[:2] if x is not None]
        digits = [len(x.partition(".")[2]) if found[3] == "°C" else None for x in texts]
        shown = [_quantity(float(x), _UNITS[found[3]], d) for x, d in zip(texts, digits, strict=True)]
        return " to ".join([*(x.rpartition(" ")[0] for x in shown[:-1]), shown[-1]])

    return _IN_TEXT.sub(said, text)


def millimetres(value: float, digits: int | None = None) -> str:
    """A length given in mm, with its unit, as the shop writes it."""
    return _quantity(value, "millimeter", digits)


def litres(value: float, digits: int | None = None) -> str:
    """A volume given in litres, with its unit, as the shop writes it."""
    return _quantity(value, "liter", digits)


def money(value: float) -> str:
    """An amount of money as the shop's country writes it."""
    if not _current.currency:
        return number(value, 2)
    from babel.numbers import format_currency

    return str(format_currency(value, _current.currency, locale=_current.locale))


def clock(at: datetime, day: str = "") -> str:
    """The local time of a moment, "13:05" or "1:05 pm".

    Args:
        day: how its day stands before it, for ``strftime``: "%a " gives "Fri 13:05".
    """
    local = at.astimezone()
    if _current.hours == 24:
        return local.strftime(f"{day}%H:%M")
    return f"{local.strftime(day)}{local.hour % 12 or 12}:{local:%M} {'am' if local.hour < 12 else 'pm'}"
