"""Diluting a stock to a target strength, in the measures at hand.

C1·V1 = C2·V2 with both strengths on the same basis (both % v/v, both % w/v). The mix is always *made up to*
its volume: alcohol and water shrink when mixed, so the water is what is missing to the mark, not a sum.
"""

from __future__ import annotations

import math
from dataclasses import replace

from creekbed.core.conventions import litres, number
from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.strengths import blend, two_ethanols_ml, water_for_ethanol_ml
from creekbed.core.quick_dataclasses import dataclass

TOO_COARSE = 0.1
"""Marks that make a mix stronger or weaker than wished by more than this share are refused: house default."""
MOST_ML = 1_000_000.0
"""The largest mix at once, ml: house default."""


@dataclass(frozen=True)
class Mix:
    """How to make a mix.

    Attributes:
        stock_ml: how much stock to measure, exactly, ml.
        diluent_ml: how much of what fills it up goes with it, ml: if volumes add, or, for alcohol, as it shrinks.
        make_ml: volume made, ml.
        stock_rounded_ml: stock as the jug's marks allow, ml.
        strength_pct: the strength that results from the rounded amount, %.
        stock_pct, target_pct: strengths asked for, %.
        diluent_pct: strength of what fills it up, %: 0 for water.
        shrinks: by how much less than the sum of both they make, ml: 0 unless it is alcohol.
    """

    stock_ml: float
    diluent_ml: float
    make_ml: float
    stock_rounded_ml: float
    strength_pct: float
    stock_pct: float
    target_pct: float
    diluent_pct: float = 0.0
    shrinks: float = 0.0

    @property
    def diluent_rounded_ml(self) -> float:
        """What fills up the rounded stock, ml."""
        return max(self.make_ml + self.shrinks - self.stock_rounded_ml, 0.0)

    @property
    def strength_error_pct(self) -> float:
        """Resulting strength less the target, in % points."""
        return self.strength_pct - self.target_pct


def dilute(stock_pct: float, target_pct: float, make_ml: float, graduation_ml: float | None = None) -> Mix:
    """Amounts of stock and water for ``make_ml`` at ``target_pct``.

    Rounding goes to the nearest mark. A wish that the marks miss by more than a tenth is refused.

    Args:
        stock_pct, target_pct: strengths on one basis, %, more than 0 and at most 100.
        make_ml: volume wanted, ml, more than 0.
        graduation_ml: distance of the marks on the jug, ml; ``None`` for exact amounts.

    Raises:
        BadInput: a strength, volume or graduation that is zero, negative or above 100 %.
        Refused: the target is stronger than the stock, or the jug's marks are too coarse for it.
    """
    for name, value in (("The stock's strength", stock_pct), ("The target strength", target_pct)):
        if not 0 < value <= 100:
            raise BadInput(f"{name} must be more than 0 % and at most 100 %.", todo="Read the label again.")
    if not 0 < make_ml <= MOST_ML:
        raise BadInput(
            f"The volume to make must be more than 0 ml and at most {litres(MOST_ML / 1000)}.",
            todo="Say how much is needed.",
        )
    if target_pct > stock_pct:
        raise Refused(
            f"A {number(target_pct)} % mix cannot be made from a {number(stock_pct)} % bottle: water "
            "only makes it weaker.",
            todo=f"Take a bottle of {number(target_pct)} % or more.",
        )
    stock_ml = make_ml * target_pct / stock_pct
    rounded = stock_ml
    if graduation_ml is not None:
        if not graduation_ml > 0:
            raise BadInput("The jug's marks must be more than 0 ml apart.")
        if graduation_ml > make_ml:
            raise Refused(
                f"Marks {number(graduation_ml)} ml apart cannot measure {number(make_ml)} ml.",
                todo="Take a finer measure.",
            )
        rounded = round_to_mark(stock_ml, graduation_ml, make_ml)
        _need_marks(stock_pct * rounded / make_ml, target_pct, graduation_ml)
    return Mix(
        stock_ml=stock_ml,
        diluent_ml=make_ml - stock_ml,
        make_ml=make_ml,
        stock_rounded_ml=rounded,
        strength_pct=stock_pct * rounded / make_ml,
        stock_pct=stock_pct,
        target_pct=target_pct,
    )


def _need_marks(strength_pct: float, target_pct: float, graduation_ml: float) -> None:
    if abs(strength_pct - target_pct) > TOO_COARSE * target_pct * (1 + 1e-9):
        raise Refused(
            f"By marks {number(graduation_ml)} ml apart it comes out at {strength_pct:.2g} %, not "
            f"{number(target_pct)} %.",
            todo="Take a finer measure, make more at once, or make it in two steps.", coarse=True,
        )  # fmt: skip


def between(
    stock_pct: float, diluent_pct: float, target_pct: float, make_ml: float, graduation_ml: float | None = None,
    *, basis: str = "w/v",
) -> Mix:  # fmt: skip
    """Amounts of two stocks of one agent for a strength between theirs (alligation); water is a stock of 0 %.

    Args:
        stock_pct, diluent_pct, target_pct: strengths on one basis, %. make_ml, graduation_ml: as for :func:`dilute`.
        basis: "v/v" is alcohol, whose volumes do not add; for all others they are taken to.

    Raises:
        BadInput: a strength, volume or graduation that cannot be.
        Refused: the target does not lie between the two, or the measure's marks are too coarse.
    """
    if diluent_pct == 0:
        mix = dilute(stock_pct, target_pct, make_ml, graduation_ml)
        if basis != "v/v" or target_pct == stock_pct or mix.strength_pct >= stock_pct:
            return mix
        water, _ = water_for_ethanol_ml(mix.stock_rounded_ml, stock_pct, mix.strength_pct)
        return replace(mix, shrinks=water + mix.stock_rounded_ml - make_ml)
    plain = dilute(max(stock_pct, diluent_pct), target_pct, make_ml)
    if basis == "v/v":
        exact, filler = two_ethanols_ml(stock_pct, diluent_pct, target_pct, make_ml)
    else:
        exact, filler = blend(stock_pct, diluent_pct, target_pct, make_ml)
    rounded, strength = exact, target_pct
    if graduation_ml is not None:
        if not graduation_ml > 0:
            raise BadInput("The jug's marks must be more than 0 ml apart.")
        rounded = round_to_mark(exact, graduation_ml, make_ml)
        strength = _filled_up(stock_pct, diluent_pct, rounded, make_ml, basis)
        _need_marks(strength, target_pct, graduation_ml)
        if basis == "v/v":
            filler = two_ethanols_ml(stock_pct, diluent_pct, strength, make_ml)[1]
        else:
            filler = make_ml - rounded
    return replace(
        plain, stock_ml=exact, diluent_ml=filler, stock_rounded_ml=rounded, strength_pct=strength,
        stock_pct=stock_pct, diluent_pct=diluent_pct, shrinks=filler + rounded - make_ml,
    )  # fmt: skip


def _filled_up(stock_pct: float, diluent_pct: float, stock_ml: float, make_ml: float, basis: str) -> float:
    """Strength of so much stock, filled up to a volume with the other, %."""
    if basis != "v/v":
        return (stock_pct * stock_ml + diluent_pct * (make_ml - stock_ml)) / make_ml
    low, high = sorted((stock_pct, diluent_pct))
    for _ in range(60):  # the more stock, the nearer to it: halved until the volume of stock is right
        middle = (low + high) / 2
        needs = two_ethanols_ml(stock_pct, diluent_pct, middle, make_ml)[0]
        if (needs < stock_ml) == (stock_pct > diluent_pct):
            low = middle
        else:
            high = middle
    return (low + high) / 2


def round_to_mark(ml: float, graduation_ml: float, most_ml: float) -> float:
    """An amount at the nearest mark of a measure: nothing where nothing is needed, at most ``most_ml``."""
    return min(math.floor(ml / graduation_ml + 0.5) * graduation_ml, most_ml)


@dataclass(frozen=True)
class TwoSteps:
    """A strong dilution in two steps, each of them within what the measure can show.

    Attributes:
        between_pct: strength of the mix made first. first: how that is made. second: how the mix follows from it.
    """

    between_pct: float
    first: Mix
    second: Mix


def in_two_steps(stock_pct: float, target_pct: float, make_ml: float, graduation_ml: float) -> TwoSteps:
    """A serial dilution by whole marks that comes nearest to the target, with two steps as equal as possible.

    Raises:
        BadInput: as for :func:`dilute`. Refused: also two steps miss the wish by more than a tenth.
    """
    dilute(stock_pct, target_pct, make_ml)
    marks = int(make_ml / graduation_ml + 1e-9) if graduation_ml > 0 else 0
    found: tuple[float, int, int, int] | None = None
    wide = max(marks // MOST_MARKS, 1)  # a fine measure has more marks than need be tried
    for second in range(1, marks + 1, wide):
        for whole in range(max(second, 2), marks + 1, wide):
            exact = target_pct * make_ml * whole / (stock_pct * second * graduation_ml)
            for first in {math.floor(exact), math.ceil(exact)} - {0}:
                if first > whole:
                    continue
                off = abs(first / exact - 1)
                apart = abs(math.log(first / whole) - math.log(second * graduation_ml / make_ml))
                # a fiftieth off is as good as nothing; then alike, then little
                cost = 100 * max(off - 0.02, 0.0) + apart + whole / marks
                if off <= TOO_COARSE and (found is None or cost < found[0]):
                    found = cost, first, whole, second
    if found is None:
        raise Refused(
            f"Marks {number(graduation_ml)} ml apart do not make {number(target_pct)} % of {number(stock_pct)} %, "
            "not in two steps either.",
            todo="Take a finer measure, or make more at once.", coarse=True,
        )  # fmt: skip
    _, first, whole, second = found
    middle = stock_pct * first / whole
    one = replace(dilute(stock_pct, middle, whole * graduation_ml), stock_rounded_ml=first * graduation_ml)
    comes_to = middle * second * graduation_ml / make_ml
    two = replace(
        dilute(middle, min(target_pct, middle), make_ml), stock_rounded_ml=second * graduation_ml,
        strength_pct=comes_to, target_pct=target_pct,
    )  # fmt: skip
    return TwoSteps(middle, one, two)


MOST_MARKS = 120
"""How many marks of a measure are tried for a dilution in two steps: house default."""


def most_from(stock_ml: float, stock_pct: float, target_pct: float) -> float:
    """How much of the target mix what is left in the bottle makes, ml.

    Args:
        stock_ml: what is left, ml, not negative.
        stock_pct, target_pct: strengths on one basis, %.

    Raises:
        BadInput, Refused: as for :func:`dilute`.
    """
    if not stock_ml >= 0:
        raise BadInput("What is left in the bottle cannot be less than 0 ml.")
    dilute(stock_pct, target_pct, 1.0)
    return stock_ml * stock_pct / target_pct
