"""Quantities as people type them: ``3/32 in``, ``1 1/2 cup``, ``2,4 mm``, ``100 °F``, ``6 %``.

One rule holds for a number without a unit: it is in the bench's unit of its kind (``BENCH_UNITS``), which is also what
the fields of the window show. Whoever wants to say so each time listens with ``bare_numbers``.

The arithmetic of units is Pint's; this module only reads what people write and says what is wrong with it.
Pint is imported on first use, so that the window can open without it.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import lru_cache
from typing import Any

from creekbed.core.conventions import current, displayed, displayed_difference, number
from creekbed.core.errors import BadInput

_NUMBER = re.compile(
    r"""^\s*(?P<sign>[+\-−])?\s*
        (?:(?P<whole>[0-9]+)\s+(?P<n1>[0-9]+)\s*/\s*(?P<d1>[0-9]+)      # 1 1/2
          |(?P<n2>[0-9]+)\s*/\s*(?P<d2>[0-9]+)                       # 3/32
          |(?P<dec>[0-9]+(?:[.,][0-9]+)*|[.,][0-9]+)                    # 2.4  2,4  .5  1,000.5
        )\s*(?P<unit>.*?)\s*$""",
    re.VERBOSE,
)
_UNIT = re.compile(r"^[A-Za-z°%\"'][A-Za-z°./]{0,19}(?: [A-Za-z]{1,12})?$")
_GROUPED = re.compile(r"[0-9]{1,3}(?:,[0-9]{3})+(?:\.[0-9]+)?|[0-9]{1,3}(?:\.[0-9]{3})+(?:,[0-9]+)?")
_ASKED = re.compile(r"[1-9][0-9]{0,2},[0-9]{3}")
BENCH_UNITS = {
    "meter": "millimeter", "liter": "milliliter", "kilogram": "gram", "hour": "minute",
    "pascal": "kilopascal",
}  # fmt: skip
"""What a number without a unit is in, where that is not the unit wanted: lengths mm, volumes ml, weights g, times min,
pressures kPa; for all others, such as °C, %, ° or N, it is the unit wanted. House default."""
US_BENCH_UNITS = {"millimeter": "inch", "degC": "degF", "liter": "gallon"}
"""The same for a shop that works in US units (:mod:`creekbed.core.conventions`)."""
_GLYPHS = {"½": " 1/2", "¼": " 1/4", "¾": " 3/4"}
# How people write units, and what Pint calls them.
_NAMES = {
    '"': "inch", "in": "inch", "in.": "inch", "inches": "inch", "'": "foot",
    "°": "degree", "deg": "degree", "degrees": "degree",
    "°c": "degC", "c": "degC", "°f": "degF", "f": "degF",
    "%": "percent", "pct": "percent", "min": "minute", "mins": "minute", "h": "hour",
    "ml": "milliliter", "l": "liter", "cl": "centiliter", "cups": "cup",
    "tbsp": "tablespoon", "tsp": "teaspoon", "oz": "fluid_ounce", "fl oz": "fluid_ounce",
    "cents": "cent", "mm": "millimeter", "cm": "centimeter", "m": "meter", "n": "newton", "kpa": "kilopascal",
    "pa": "pascal", "mbar": "millibar", "hpa": "hectopascal", "cmh2o": "cmH2O", "cmh₂o": "cmH2O", "mmh2o": "mmH2O",
    "mmh₂o": "mmH2O", "inh2o": "inH2O", "inh₂o": "inH2O", "inhg": "inHg", "mmhg": "mmHg", "psi": "psi",
}  # fmt: skip
_FORCES = {"lb": "force_pound", "lbs": "force_pound", "lbf": "force_pound", "oz": "force_ounce", "kg": "kilogram_force",
           "kgf": "kilogram_force", "g": "gram_force", "p": "gram_force", "kp": "kilogram_force"}  # fmt: skip
"""What spring balances and string makers write, where a force is wanted: 1 kgf is 9.80665 N (CGPM 1901)."""
_WEIGHTS = {"oz": "ounce", "lbs": "pound"}
_heard: ContextVar[list[str] | None] = ContextVar("heard", default=None)


@contextmanager
def bare_numbers() -> Iterator[list[str]]:
    """Collects, while it is open, one sentence for each number that was read without a unit."""
    found: list[str] = []
    token = _heard.set(found)
    try:
        yield found
    finally:
        _heard.reset(token)


@lru_cache(maxsize=1)
def _registry() -> Any:
    import pint

    return pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


def parse_quantity(
    text: str,
    unit: str,
    *,
    what: str = "The value",
    default_unit: str | None = None,
    minimum: float | None = None,
    maximum: float | None = None,
    shown: str | None = None,
) -> float:
    """Read a typed quantity and give its value in ``unit``.

    Args:
        text: what was typed, a number with or without a unit.
        unit: the unit wanted, in Pint's names (``"millimeter"``, ``"percent"``, ``"degC"``).
        what: how the message names the quantity.
        default_unit: taken when no unit was typed; ``None`` means the bench's unit of that kind (``BENCH_UNITS``).
        minimum, maximum: smallest and largest value that can be true, in ``unit``, both allowed.
        shown: what messages quote, where ``text`` is only a part of what was typed.

    Returns:
        The value in ``unit``, finite.

    Raises:
        BadInput: empty, not a number, a number that can be read in two ways ("1,000" is one or one thousand), an
            unknown unit, a unit of another kind, or outside the range.
    """
    quoted = (text if shown is None else shown).strip()[:40]
    cleaned = text
    for glyph, plain in _GLYPHS.items():
        cleaned = cleaned.replace(glyph, plain)
    if not cleaned.strip():
        raise BadInput(f"{what} is empty.", todo=f"Type a number, for example {example(unit)}.", field=what)
    match = _NUMBER.match(cleaned)
    if match is None:
        raise BadInput(
            f"“{quoted}” is not a number with a unit.",
            todo=f"{what} is typed like {example(unit)}.", field=what,
        )  # fmt: skip
    number = _number(match, quoted, what)
    typed = match["unit"].strip()
    taken = typed or default_unit or bare_unit(unit)
    value = _convert(number, taken, unit, what)
    if not math.isfinite(value):
        raise BadInput(f"“{quoted}” is too large to be true.", todo="Type it again.", field=what)
    bare = "" if typed else f" A number without a unit is {_bare_words(taken)}."
    for wrong, bound, word in (
        (minimum is not None and value < minimum, minimum, "less"),
        (maximum is not None and value > maximum, maximum, "more"),
    ):
        if wrong and bound is not None:
            raise BadInput(
                f"{what} cannot be {word} than {show(bound, unit)}; “{quoted}” was given.{bare}",
                todo="Measure or type it again.", field=what,
            )  # fmt: skip
    heard = _heard.get()
    if heard is not None and not typed:
        heard.append(f"{what}: {quoted} is read as {quoted}{_spaced(taken)}.")
    return value


def bare_unit(unit: str) -> str:
    """The unit of a number that is typed without one, where ``unit`` is wanted or shown."""
    taken = BENCH_UNITS.get(unit, unit)
    return US_BENCH_UNITS.get(taken, taken) if current().units == "us" else taken


def _spaced(unit: str) -> str:
    short = SHORT.get(unit, unit)
    return short if short == "°" else f" {short}"


def _bare_words(unit: str) -> str:
    return {"percent": "in % (a half is 50 %)", "degree": "in degrees"}.get(unit, f"in {SHORT.get(unit, unit)}")


def _number(match: re.Match[str], text: str, what: str) -> float:
    groups = match.groupdict()
    try:
        if groups["dec"] is not None:
            number = float(_plain(groups["dec"], text, what))
        elif groups["n1"] is not None:
            number = int(groups["whole"]) + int(groups["n1"]) / int(groups["d1"])
        else:
            number = int(groups["n2"]) / int(groups["d2"])
    except (ZeroDivisionError, OverflowError, ValueError):
        raise BadInput(f"“{text}” has no value.", todo="Type it again.", field=what) from None
    return -number if groups["sign"] in ("-", "−") else number


def _plain(digits: str, text: str, what: str) -> str:
    """Digits with one point at most; groups of three are joined where nobody can read them otherwise.

    Raises:
        BadInput: "1,000", which is one in one country and one thousand in another; or groups that are none.
    """
    if _ASKED.fullmatch(digits):
        whole, part = digits.split(",")
        raise BadInput(
            f"“{text}” can be read as {int(whole)} or as {whole}{part}.",
            todo=f"Type {whole}{part}, or {whole}.{part} with a point.", field=what,
        )  # fmt: skip
    marks = [c for c in digits if c in ",."]
    if len(marks) <= 1:
        return digits.replace(",", ".")
    if not _GROUPED.fullmatch(digits):
        raise ValueError(digits)
    if len(set(marks)) == 1:
        return re.sub("[.,]", "", digits)
    return digits.replace(marks[0], "").replace(",", ".")


def _convert(number: float, typed: str, unit: str, what: str) -> float:
    low = typed.lower()
    name = _NAMES.get(low, low if typed.isupper() and len(typed) > 2 else typed)  # a scanner types capitals
    if unit == "newton":
        name = _FORCES.get(low, name)
    elif unit in ("gram", "kilogram"):
        name = _WEIGHTS.get(low, name)
    if name == unit:
        return number
    import pint

    unknown = BadInput(
        f"“{typed[:40]}” is not a unit that is known here.", todo=f"{what} is typed like {example(unit)}.", field=what
    )
    if low not in _NAMES and name in (typed, low) and not _UNIT.match(name):  # Pint would take whole expressions
        raise unknown
    other = BadInput(
        f"“{typed[:40]}” does not measure this; {_lowered(what)} is wanted in {SHORT.get(unit, unit)}.",
        todo=f"Type it like {example(unit)}.", field=what,
    )  # fmt: skip
    try:
        registry = _registry()
        if (name in ANGLES and unit in _NUMBERS) or (name in _NUMBERS and unit in ANGLES):
            raise other  # to the arithmetic an angle is a plain number: 5 % would be 2.86°
        return float(registry.Quantity(number, name).to(unit).magnitude)
    except pint.DimensionalityError:
        raise other from None
    except (pint.PintError, ValueError, AttributeError, TypeError, ArithmeticError, AssertionError, LookupError):
        raise unknown from None


ANGLES = ("degree", "radian", "turn", "arcminute", "arcsecond", "rad")
_NUMBERS = ("percent", "dimensionless", "ppm", "count")


def _lowered(what: str) -> str:
    """The name in the middle of a sentence: "The air" becomes "the air", "A4" stays."""
    return what[:1].lower() + what[1:] if what[1:2].islower() or what[1:2] == " " else what


SHORT = {
    "millimeter": "mm", "degree": "°", "percent": "%", "degC": "°C", "milliliter": "ml", "minute": "min",
    "newton": "N", "cent": "cents", "gram": "g", "day": "days", "turn": "turns",
    "milliliter/minute": "ml/min", "dimensionless": "of its weight", "kilopascal": "kPa", "liter": "l",
    "kilogram": "kg", "second": "s", "meter": "m", "pascal": "Pa", "hour": "h",
    "inch": "in", "degF": "°F", "gallon": "gal",
}  # fmt: skip


def example(unit: str) -> str:
    """A well-written example of a quantity in ``unit``, for messages."""
    return {
        "millimeter": "2.4 mm or 3/32 in",
        "degree": "2.5°",
        "percent": "6 %",
        "degC": "21 °C or 70 °F",
        "milliliter": "500 ml or 2 cups",
        "minute": "30 min",
        "dimensionless": "0.25",
    }.get(unit, f"12 {SHORT.get(unit, unit)}")


def with_doubt(value: float, expanded: float, unit: str) -> str:
    """A value and its expanded uncertainty, both to the digits that mean something: "33 ± 9 ml/min".

    Reference:
        JCGM 100:2008, 7.2.6: an uncertainty to at most two digits, the value to the same place.
    """
    if not expanded > 0 or not math.isfinite(expanded):
        return show(value, unit)
    (value, shown, _), expanded = displayed(value, unit), displayed_difference(expanded, unit)
    place = math.floor(math.log10(expanded))
    if round(expanded / 10**place, 6) < 3:  # 0.12 rather than 0.1, 0.9 rather than 0.87
        place -= 1
    digits = max(-place, 0)
    rounded = [round(x / 10**place) * 10**place for x in (value, expanded)]
    return f"{number(rounded[0], digits).replace('-', '−')} ± {number(rounded[1], digits)}{_spaced(shown)}"


def show(value: float, unit: str, digits: int = 2) -> str:
    """A value with its unit as people read it: at most ``digits`` decimals, a true minus sign."""
    value, shown, more = displayed(value, unit)
    text = f"{value:.{digits + more}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    text = "0" if text in ("-0", "") else text.replace("-", "−").replace(".", current().decimal)
    return f"{text}{_spaced(shown)}"
