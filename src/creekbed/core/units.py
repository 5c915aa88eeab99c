"""Quantities as people type them: ``3/32 in``, ``1 1/2 cup``, ``2,4 mm``, ``100 °F``, ``6 %``.

The arithmetic of units is Pint's; this module only reads what people write and says what is wrong with it.
Pint is imported on first use, so that the window can open without it.
"""

from __future__ import annotations

import math
import re
from functools import lru_cache
from typing import Any

from creekbed.core.errors import BadInput

_NUMBER = re.compile(
    r"""^\s*(?P<sign>[+\-−])?\s*
        (?:(?P<whole>[0-9]+)\s+(?P<n1>[0-9]+)\s*/\s*(?P<d1>[0-9]+)      # 1 1/2
          |(?P<n2>[0-9]+)\s*/\s*(?P<d2>[0-9]+)                       # 3/32
          |(?P<dec>[0-9]+(?:[.,][0-9]+)?|[.,][0-9]+)                    # 2.4  2,4  .5
        )\s*(?P<unit>.*?)\s*$""",
    re.VERBOSE,
)
_UNIT = re.compile(r"^[A-Za-z°%\"'][A-Za-z°.]{0,19}(?: [A-Za-z]{1,12})?$")
_GLYPHS = {"½": " 1/2", "¼": " 1/4", "¾": " 3/4"}
# How people write units, and what Pint calls them.
_NAMES = {
    '"': "inch", "in": "inch", "in.": "inch", "inches": "inch", "'": "foot",
    "°": "degree", "deg": "degree", "degrees": "degree",
    "°c": "degC", "c": "degC", "°f": "degF", "f": "degF",
    "%": "percent", "pct": "percent", "min": "minute", "mins": "minute", "h": "hour",
    "ml": "milliliter", "l": "liter", "cl": "centiliter", "cups": "cup",
    "tbsp": "tablespoon", "tsp": "teaspoon", "oz": "fluid_ounce", "fl oz": "fluid_ounce",
    "cents": "cent", "mm": "millimeter", "cm": "centimeter", "m": "meter", "n": "newton",
}  # fmt: skip


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
) -> float:
    """Read a typed quantity and give its value in ``unit``.

    Args:
        text: what was typed, a number with or without a unit.
        unit: the unit wanted, in Pint's names (``"millimeter"``, ``"percent"``, ``"degC"``).
        what: how the message names the quantity.
        default_unit: taken when no unit was typed; ``None`` means ``unit``.
        minimum, maximum: smallest and largest value that can be true, in ``unit``, both allowed.

    Returns:
        The value in ``unit``, finite.

    Raises:
        BadInput: empty, not a number, an unknown unit, a unit of another kind, or outside the range.
    """
    cleaned = text
    for glyph, plain in _GLYPHS.items():
        cleaned = cleaned.replace(glyph, plain)
    if not cleaned.strip():
        raise BadInput(f"{what} is empty.", todo=f"Type a number, for example {example(unit)}.", field=what)
    match = _NUMBER.match(cleaned)
    if match is None:
        raise BadInput(
            f"“{text.strip()}” is not a number with a unit.",
            todo=f"Type it like {example(unit)}.", field=what,
        )  # fmt: skip
    number = _number(match, text)
    typed_unit = match["unit"].strip()
    value = _convert(number, typed_unit or default_unit or unit, unit, text, what)
    if not math.isfinite(value):
        raise BadInput(f"“{text.strip()}” is too large to be true.", todo="Type it again.", field=what)
    if minimum is not None and value < minimum:
        raise BadInput(
            f"{what} cannot be less than {show(minimum, unit)}; {show(value, unit)} was given.",
            todo="Measure or type it again.", field=what,
        )  # fmt: skip
    if maximum is not None and value > maximum:
        raise BadInput(
            f"{what} cannot be more than {show(maximum, unit)}; {show(value, unit)} was given.",
            todo="Measure or type it again.", field=what,
        )  # fmt: skip
    return value


def _number(match: re.Match[str], text: str) -> float:
    groups = match.groupdict()
    try:
        if groups["dec"] is not None:
            number = float(groups["dec"].replace(",", "."))
        elif groups["n1"] is not None:
            number = int(groups["whole"]) + int(groups["n1"]) / int(groups["d1"])
        else:
            number = int(groups["n2"]) / int(groups["d2"])
    except (ZeroDivisionError, OverflowError, ValueError):
        raise BadInput(f"“{text.strip()[:40]}” has no value.", todo="Type it again.") from None
    return -number if groups["sign"] in ("-", "−") else number


def _convert(number: float, typed: str, unit: str, text: str, what: str) -> float:
    name = _NAMES.get(typed.lower(), typed)
    if name == unit:
        return number
    import pint

    unknown = BadInput(
        f"“{typed[:40]}” is not a unit that is known here.", todo=f"Type it like {example(unit)}.", field=what
    )
    if not _UNIT.match(typed):  # Pint would take whole expressions
        raise unknown
    try:
        return float(_registry().Quantity(number, name).to(unit).magnitude)
    except pint.DimensionalityError:
        raise BadInput(
            f"“{typed}” does not measure this; {what.lower()} wants {SHORT.get(unit, unit)}.",
            todo=f"Type it like {example(unit)}.", field=what,
        ) from None  # fmt: skip
    except (pint.PintError, ValueError, AttributeError, TypeError, ArithmeticError):
        raise unknown from None


SHORT = {
    "millimeter": "mm", "degree": "°", "percent": "%", "degC": "°C", "milliliter": "ml", "minute": "min",
    "newton": "N", "cent": "cents", "gram": "g", "day": "days", "turn": "turns",
    "milliliter/minute": "ml/min", "dimensionless": "of its weight", "kilopascal": "kPa", "liter": "l",
    "kilogram": "kg", "second": "s",
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
    }.get(unit, f"12 {SHORT.get(unit, unit)}")


def show(value: float, unit: str, digits: int = 2) -> str:
    """A value with its unit as people read it: at most ``digits`` decimals, a true minus sign."""
    number = f"{value:.{digits}f}".rstrip("0").rstrip(".") if digits else f"{value:.0f}"
    number = "0" if number in ("-0", "") else number.replace("-", "−")
    short = SHORT.get(unit, unit)
    return f"{number}{short}" if short == "°" else f"{number} {short}"
