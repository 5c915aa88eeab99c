"""What a draw-down leaves, and whether that is running short."""

from __future__ import annotations

from creekbed.core.conventions import number
from creekbed.core.errors import BadInput, Refused
from creekbed.core.quick_dataclasses import dataclass


@dataclass(frozen=True)
class Drawn:
    """Result of taking from a stock: what is left, and a warning when it is at or under the reorder point."""

    left: float
    short: bool
    words: str


def draw(name: str, unit: str, have: float, take: float, reorder_at: float) -> Drawn:
    """Take an amount from a stock.

    Args:
        name, unit: for the message. have, take, reorder_at: in ``unit``.

    Raises:
        BadInput: nothing or less is taken.
        Refused: there is not enough.
    """
    if not take > 0:
        raise BadInput("An amount taken must be more than nothing.")
    if take > have + 1e-9:
        raise Refused(
            f"{name}: {number(take)} {unit} are needed, {number(max(have, 0))} are left.",
            todo="Book in new stock, or waive the step with a reason.",
            have=have,
            need=take,
        )
    left = max(0.0, round(have - take, 6))
    short = left <= reorder_at
    words = f"{name}: {number(left)} {unit} left" + (", order more." if short else ".")
    return Drawn(left, short, words)
