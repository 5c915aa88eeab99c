"""How well each person places points in a picture, learned from points that were placed twice."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

from creekbed.core.conventions import number
from creekbed.store.records import PointPlacing
from creekbed.workshop.shop.shop import Shop

if TYPE_CHECKING:  # it needs numpy, and most windows measure nothing in a picture
    from creekbed.core.inspection.photo import Placings, Point

MOST = 400
"""How many numbers are kept; older ones lose weight: house default."""


def placings_of(shop: Shop) -> Placings:
    """What is known of who sits here."""
    with shop.reading() as records:
        return _placings(records.get(PointPlacing, shop.person))


def _placings(row: PointPlacing | None) -> Placings:
    from creekbed.core.inspection.photo import Placings

    if row is None or not (math.isfinite(row.squares) and row.squares >= 0 and 0 < row.free <= MOST):
        return Placings()
    return Placings(row.squares, row.free)


def learn(shop: Shop, repeats: Sequence[Sequence[Point]], pixel: float) -> Placings:
    """Keep what points that were placed twice say of who sits here.

    Args:
        repeats: for each point all its placings. pixel: what counts as one pixel in this picture.

    Raises:
        BadInput: a point that was placed once.
    """
    with shop.act("placing") as act:
        found = _placings(act.records.get(PointPlacing, shop.person)).and_(repeats, pixel)
        if found.free > MOST:
            found = type(found)(found.squares * MOST / found.free, MOST)
        act.records.put(PointPlacing(person=shop.person, squares=round(found.squares, 6), free=found.free))
        act.words = f"{shop.person} places points to within {number(found.u_px, 1)} pixels"
    return found
