"""How strong a mix is, however the label says it: parts, ppm, available chlorine, alcohol by volume."""

from __future__ import annotations

import re

from creekbed.core.conventions import number
from creekbed.core.errors import BadInput, Refused
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.units import parse_quantity

CHLORINE_SHARE = 0.9525
"""Available chlorine for each part of NaOCl by mass: 70.906 / 74.442, atomic weights."""
ETHANOL_DENSITY_KG_M3 = (
    9.982012300e2, -1.929769495e2, 3.891238958e2, -1.668103923e3, 1.352215441e4, -8.829278388e4,
    3.062874042e5, -6.138381234e5, 7.470172998e5, -5.478461354e5, 2.234460334e5, -3.903285426e4,
)  # fmt: skip
"""Coefficients of the density of ethanol and water at 20 °C by powers of the share of ethanol by mass: OIML R 22,
International alcoholometric tables (1975), general formula; from memory, checked against densities of two tables."""
WATER_G_ML = ETHANOL_DENSITY_KG_M3[0] / 1000
"""Density of water at 20 °C, g/ml: the same formula at no ethanol."""


def percent_of_parts(parts_stock: float, parts_water: float, stock_pct: float) -> float:
    """Strength of so many parts of stock and so many parts of water, both said: "1 + 9", never "1:10".

    1:10 means 1 + 9 in one house and 1 + 10 in another; it is not taken here.

    Args:
        parts_stock, parts_water: by volume. stock_pct: strength of the stock, %.

    Raises:
        BadInput: parts that cannot be.
    """
    if not (parts_stock > 0 and parts_water >= 0 and 0 < stock_pct <= 100):
        raise BadInput("Parts and strength must be more than 0.", todo="Say it as 1 part and 9 parts.")
    return stock_pct * parts_stock / (parts_stock + parts_water)


def ppm_of_percent_wv(percent: float) -> float:
    """Parts per million of a strength in mass for volume: 1 % w/v is 10 g/l, 10 000 mg/l."""
    return percent * 10_000.0


def available_chlorine_ppm(naocl_percent_wv: float) -> float:
    """Available chlorine of a sodium hypochlorite solution, mg/l, from its NaOCl in % w/v."""
    return ppm_of_percent_wv(naocl_percent_wv) * CHLORINE_SHARE


def _density_by_mass(share: float) -> float:
    """Density at 20 °C, g/ml, by share of ethanol by mass, 0 to 1."""
    density = 0.0
    for coefficient in reversed(ETHANOL_DENSITY_KG_M3):
        density = density * share + coefficient
    return density / 1000


def ethanol_density(percent_vv: float) -> float:
    """Density of ethanol and water at 20 °C, g/ml, by strength by volume.

    The share by mass that belongs to the strength is found by fixed-point iteration: each round makes its error at
    least five times smaller.

    Raises:
        BadInput: not 0 to 100 %.

    Reference:
        OIML R 22 (1975), International alcoholometric tables.
    """
    if not 0 <= percent_vv <= 100:
        raise BadInput("Strength by volume is 0 to 100 %.")
    pure = percent_vv / 100 * _density_by_mass(1.0)
    share = percent_vv / 100
    for _ in range(40):
        share = pure / _density_by_mass(share)
    return _density_by_mass(share)


def water_for_ethanol_ml(stock_ml: float, stock_pct: float, target_pct: float) -> tuple[float, float]:
    """Water that brings ethanol to a strength by volume, and what it then makes, ml: they shrink when mixed.

    Args:
        stock_ml: of the stock. stock_pct, target_pct: % v/v.

    Returns:
        (water, mix) in ml at 20 °C. Fill up to the second rather than adding the first.

    Raises:
        BadInput: amounts that cannot be. Refused: the target is stronger than the stock.
    """
    if not stock_ml > 0 or not 0 < target_pct <= 100 or not 0 < stock_pct <= 100:
        raise BadInput("Amount and strengths must be more than 0, and at most 100 %.")
    if target_pct > stock_pct:
        raise Refused("Water only makes it weaker.", todo=f"Take a bottle of {number(target_pct)} % or more.")
    mix = stock_ml * stock_pct / target_pct
    grams = mix * ethanol_density(target_pct) - stock_ml * ethanol_density(stock_pct)
    return grams / WATER_G_ML, mix


def blend(first_pct: float, second_pct: float, target_pct: float, make_ml: float) -> tuple[float, float]:
    """Volumes of two stocks of one agent that together have a strength between theirs, ml (alligation).

    Args:
        first_pct, second_pct: strengths on one basis, %. target_pct: wanted. make_ml: volume wanted.

    Raises:
        BadInput: amounts that cannot be. Refused: the target does not lie between the two.
    """
    if not make_ml > 0 or any(not 0 <= p <= 100 for p in (first_pct, second_pct, target_pct)):
        raise BadInput("Volume must be more than 0 and strengths 0 to 100 %.")
    low, high = sorted((first_pct, second_pct))
    if not low - 1e-9 <= target_pct <= high + 1e-9 or low == high:
        raise Refused(
            f"{number(target_pct)} % does not lie between {number(low)} and {number(high)} %.",
            todo="Take other bottles.",
        )
    first = make_ml * (target_pct - second_pct) / (first_pct - second_pct)
    return first, make_ml - first


@dataclass(frozen=True)
class Measure:
    """A measure at hand: its name and what it holds, ml."""

    name: str
    ml: float


METRIC = (Measure("100 ml", 100.0), Measure("10 ml", 10.0), Measure("1 ml", 1.0), Measure("drop", 0.05))
SPOONS = (
    Measure("US cup", 236.5882365), Measure("US tablespoon", 14.78676478125), Measure("US teaspoon", 4.92892159375),
)  # fmt: skip
"""US customary measures: NIST Handbook 44, appendix C. A drop of water is about 0.05 ml: common practice, no source."""


@dataclass(frozen=True)
class Measured:
    """An amount in the measures at hand: how many of each, what that makes, and how far it is off."""

    counts: tuple[tuple[Measure, int], ...]
    ml: float
    error_ml: float

    def words(self) -> str:
        """ "2 US tablespoons, 1 US teaspoon" """
        said = [f"{n} {'×' if m.name[0].isdigit() else ''} {m.name}".replace("  ", " ") for m, n in self.counts]
        return ", ".join(said) or "none"


def in_measures(ml: float, measures: tuple[Measure, ...] = METRIC) -> Measured:
    """An amount in the fewest of the measures at hand, the largest first, the last one rounded.

    Args:
        ml: the amount. measures: what is at hand.

    Raises:
        BadInput: nothing to measure, or nothing to measure with.
    """
    if not ml > 0 or not measures:
        raise BadInput("The amount must be more than 0 ml, and there must be something to measure it with.")
    ordered = sorted(measures, key=lambda m: -m.ml)
    counts, left = [], ml
    for n, measure in enumerate(ordered):
        last = n == len(ordered) - 1
        count = int(left / measure.ml + 0.5) if last else int(left / measure.ml + 1e-9)
        if count:
            counts.append((measure, count))
            left -= count * measure.ml
    made = sum(m.ml * n for m, n in counts)
    return Measured(tuple(counts), made, made - ml)


@dataclass(frozen=True)
class Strength:
    """A strength as it was written: %, on which basis ("v/v", "w/v", "w/w", or "" where none was said)."""

    percent: float
    basis: str = ""


_PARTS = re.compile(r"\s*([0-9]+(?:[.,][0-9]+)?)\s*(\+|:|/|in)\s*([0-9]+(?:[.,][0-9]+)?)\s*(?:parts?)?\s*")
_BASES = re.compile(r"(.*?)\s*\(?\b(v|w|m)\s*/\s*(v|w|m)\)?\s*")
_WEIGHED = re.compile(r"(.*?)\s*(mg\s*/\s*l|g\s*/\s*l|ppm)\s*", re.IGNORECASE)


def parse_strength(text: str, *, what: str = "The strength", stock: Strength | None = None) -> Strength:
    """A strength as labels say it: ``6 %``, ``70 % v/v``, ``1000 mg/l``, ``5000 ppm``, ``1 + 9`` of the bottle.

    Args:
        text: what was typed. what: how messages name it. stock: the bottle, of which parts are taken.

    Returns:
        More than 0 % and at most 100 %. Milligrams in a litre and ppm are mass for volume, as disinfectants say it.

    Raises:
        BadInput: no strength; "1:10", which some mean as 1 + 9 and some as 1 + 10; "1/10"; parts of a bottle that is
            not known.
    """
    parts = _PARTS.fullmatch(text)
    if parts is not None:
        return _of_parts(text, parts, what, stock)
    weighed = _WEIGHED.fullmatch(text)
    if weighed is not None:
        per_liter = re.sub(r"\s", "", weighed[2].lower())
        amount = parse_quantity(f"{weighed[1]} %", "percent", what=what, shown=text)
        found = Strength(amount / (10.0 if per_liter == "g/l" else 10_000.0), "w/v")
    else:
        bases = _BASES.fullmatch(text)
        basis = f"{bases[2]}/{bases[3]}".replace("m", "w") if bases else ""
        if basis == "v/w":
            raise BadInput(f"{what} is by volume, or by weight.", todo="Type % v/v, % w/v or % w/w.", field=what)
        found = Strength(parse_quantity(bases[1] if bases else text, "percent", what=what), basis)
    if not 0 < found.percent <= 100:
        raise BadInput(
            f"{what} must be more than 0 % and at most 100 %; “{text.strip()[:40]}” was given.",
            todo="Read the label again.", field=what,
        )  # fmt: skip
    return found


def _of_parts(text: str, parts: re.Match[str], what: str, stock: Strength | None) -> Strength:
    first, mark, second = parts[1], parts[2], parts[3]
    one, other = (float(x.replace(",", ".")) for x in (first, second))
    if mark != "+":
        less = number(other - one) if other > one else second
        ratio = f"{one / other * 100:.3g} %" if other else "0 %"
        raise BadInput(
            f"“{text.strip()[:40]}” is read in two ways: {first} + {less} or {first} + {second}"
            + (f", or as {ratio}." if mark == "/" else "."),
            todo=f"Type {first} + {less} ({first} part of the bottle, {less} of water) or {first} + {second}, as the "
            "label means it, or the strength in %.",
            field=what,
        )  # fmt: skip
    if stock is None:
        raise BadInput(
            f"{what} in parts says nothing without the bottle.", todo="Type the strength on the bottle's label in %.",
            field=what,
        )  # fmt: skip
    return Strength(percent_of_parts(one, other, stock.percent), stock.basis)


def one_basis(*strengths: Strength, basis: str = "") -> str:
    """The basis of strengths that are compared: what is said of one, where nothing else is said of another.

    Args:
        strengths: of bottle and mix. basis: what was said for all.

    Raises:
        BadInput: two bases: a volume of alcohol is no weight of it.
    """
    said = {s.basis for s in strengths if s.basis} | ({basis} if basis else set())
    if len(said) > 1:
        raise BadInput(
            f"Strengths by {' and by '.join(sorted(said))} cannot be compared.",
            todo="Take both as the same label says them.",
        )
    return said.pop() if said else ""


def two_ethanols_ml(first_pct: float, second_pct: float, target_pct: float, make_ml: float) -> tuple[float, float]:
    """Volumes of two bottles of ethanol and water that come to a strength and a volume when mixed, ml at 20 °C.

    Neither volume is what is missing to the mark: they shrink. What stays is the alcohol, V₁c₁ + V₂c₂ = V·c, and the
    mass, V₁ρ₁ + V₂ρ₂ = V·ρ. Water is a bottle of 0 %.

    Args:
        first_pct, second_pct, target_pct: % v/v. make_ml: volume of the mix.

    Raises:
        BadInput, Refused: as :func:`blend`.
    """
    blend(first_pct, second_pct, target_pct, make_ml)
    rho_1, rho_2, rho = (ethanol_density(x) for x in (first_pct, second_pct, target_pct))
    # Cramer's rule
    whole = first_pct * rho_2 - second_pct * rho_1
    return make_ml * (target_pct * rho_2 - second_pct * rho) / whole, make_ml * (
        first_pct * rho - target_pct * rho_1
    ) / whole
