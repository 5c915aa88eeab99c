"""How well each person places points in a picture, learned from points that were placed twice."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from creekbed.workshop.shop.shop import Shop, one_change
from creekbed.workshop.shop.stored import readable

if TYPE_CHECKING:  # it needs numpy, and most windows measure nothing in a picture
    from creekbed.core.inspection.photo import Placings, Point

SETTING = "placings"
MOST = 400
"""So many numbers are kept; older ones fade: house default."""


def placings_of(shop: Shop) -> Placings:
    """What is known of who sits here."""
    from creekbed.core.inspection.photo import Placings

    return _known(shop).get(shop.person, Placings())


def _known(shop: Shop) -> dict[str, Placings]:
    return readable(shop.setting(SETTING), _placings)


def _placings(row: Any) -> Placings:
    from creekbed.core.inspection.photo import Placings

    squares, free = float(row[0]), int(row[1])
    if not (math.isfinite(squares) and squares >= 0 and 0 < free <= MOST):
        raise ValueError(row)
    return Placings(squares, free)


@one_change
def learn(shop: Shop, repeats: Sequence[Sequence[Point]], pixel: float) -> Placings:
    """Keep what points that were placed twice say of who sits here.

    Args:
        repeats: for each point all its placings. pixel: what counts as one pixel in this picture.

    Raises:
        BadInput: a point that was placed once.
    """
    known, found = _known(shop), placings_of(shop).and_(repeats, pixel)
    if found.free > MOST:
        found = type(found)(found.squares * MOST / found.free, MOST)
    kept = {person: [round(p.squares, 6), p.free] for person, p in {**known, shop.person: found}.items()}
    shop.set_setting(SETTING, kept, f"{shop.person} places points to within {found.u_px:.1f} pixels")
    return found
