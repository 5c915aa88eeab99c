"""Diluting a stock to a target strength, in the measures at hand.

C1·V1 = C2·V2 with both strengths on the same basis (both % v/v, both % w/v). The mix is always *made up to*
its volume: alcohol and water shrink when mixed, so the water is what is missing to the mark, not a sum.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.strengths import blend


@dataclass(frozen=True)
class Mix:
    """How to make a mix.

    Attributes:
        stock_ml: how much stock to measure, exactly, ml.
        diluent_ml: how much water brings it to ``make_ml`` if volumes add, ml.
        make_ml: volume made, ml.
        stock_rounded_ml: stock as the jug's marks allow, ml.
        strength_pct: the strength that results from the rounded amount, %.
        stock_pct, target_pct: strengths asked for, %.
        diluent_pct: strength of what fills it up, %: 0 for water.
    """

    stock_ml: float
    diluent_ml: float
    make_ml: float
    stock_rounded_ml: float
    strength_pct: float
    stock_pct: float
    target_pct: float
    diluent_pct: float = 0.0

    @property
    def diluent_rounded_ml(self) -> float:
        """Water with the rounded stock, ml."""
        return self.make_ml - self.stock_rounded_ml

    @property
    def strength_error_pct(self) -> float:
        """Resulting strength less the target, in % points."""
        return self.strength_pct - self.target_pct


def dilute(stock_pct: float, target_pct: float, make_ml: float, graduation_ml: float | None = None) -> Mix:
    """Amounts of stock and water for ``make_ml`` at ``target_pct``.

    Rounding goes to the nearest mark; where two marks give a strength on either side of the target the
    nearer one is taken, and at least one mark of stock is always used.

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
    if not (make_ml > 0 and math.isfinite(make_ml)):
        raise BadInput("The volume to make must be more than 0 ml.", todo="Say how much is needed.")
    if target_pct > stock_pct:
        raise Refused(
            f"A {target_pct:g} % mix cannot be made from a {stock_pct:g} % bottle: water only makes it weaker.",
            todo=f"Take a bottle of {target_pct:g} % or more.",
        )
    stock_ml = make_ml * target_pct / stock_pct
    rounded = stock_ml
    if graduation_ml is not None:
        if not graduation_ml > 0:
            raise BadInput("The jug's marks must be more than 0 ml apart.")
        if graduation_ml > make_ml:
            raise Refused(
                f"Marks {graduation_ml:g} ml apart cannot measure {make_ml:g} ml.", todo="Take a finer measure."
            )
        rounded = round_to_mark(stock_ml, graduation_ml, make_ml)
    return Mix(
        stock_ml=stock_ml,
        diluent_ml=make_ml - stock_ml,
        make_ml=make_ml,
        stock_rounded_ml=rounded,
        strength_pct=stock_pct * rounded / make_ml,
        stock_pct=stock_pct,
        target_pct=target_pct,
    )


def between(
    stock_pct: float, diluent_pct: float, target_pct: float, make_ml: float, graduation_ml: float | None = None
) -> Mix:
    """Amounts of two stocks of one agent for a strength between theirs (alligation); water is a stock of 0 %.

    Args:
        stock_pct, diluent_pct, target_pct: strengths on one basis, %. make_ml, graduation_ml: as for :func:`dilute`.

    Raises:
        BadInput: a strength, volume or graduation that cannot be.
        Refused: the target does not lie between the two, or the measure's marks are too coarse.
    """
    if diluent_pct == 0:
        return dilute(stock_pct, target_pct, make_ml, graduation_ml)
    plain = dilute(max(stock_pct, diluent_pct), target_pct, make_ml, graduation_ml)
    exact, _ = blend(stock_pct, diluent_pct, target_pct, make_ml)
    rounded = exact if graduation_ml is None else round_to_mark(exact, graduation_ml, make_ml)
    strength = (stock_pct * rounded + diluent_pct * (make_ml - rounded)) / make_ml
    return replace(
        plain, stock_ml=exact, diluent_ml=make_ml - exact, stock_rounded_ml=rounded, strength_pct=strength,
        stock_pct=stock_pct, diluent_pct=diluent_pct,
    )  # fmt: skip


def round_to_mark(ml: float, graduation_ml: float, most_ml: float) -> float:
    """An amount at the nearest mark of a measure: at least one mark, at most ``most_ml``."""
    return min(max(1, math.floor(ml / graduation_ml + 0.5)) * graduation_ml, most_ml)


@dataclass(frozen=True)
class TwoSteps:
    """A strong dilution in two steps, each of which the measure can hold.

    Attributes:
        between_pct: strength of the mix made first. first: how that is made. second: how the mix follows from it.
    """

    between_pct: float
    first: Mix
    second: Mix


def in_two_steps(stock_pct: float, target_pct: float, make_ml: float, graduation_ml: float) -> TwoSteps:
    """A serial dilution: the first step goes to the geometric mean of both strengths, so that both are alike strong.

    Raises:
        BadInput, Refused: as for :func:`dilute`.
    """
    middle = math.sqrt(stock_pct * target_pct)
    second = dilute(middle, target_pct, make_ml, graduation_ml)
    enough = max(second.stock_rounded_ml, 10 * graduation_ml)
    first = dilute(stock_pct, middle, math.ceil(enough / graduation_ml) * graduation_ml, graduation_ml)
    second = dilute(first.strength_pct, target_pct, make_ml, graduation_ml)
    return TwoSteps(first.strength_pct, first, second)


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
