"""How well each person places points in a picture, learned from points that were placed twice."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

from creekbed.workshop.shop import Shop, one_change

if TYPE_CHECKING:  # it needs numpy, and most windows measure nothing in a picture
    from creekbed.core.inspection.photo import Placings, Point

SETTING = "placings"
MOST = 400
"""So many numbers are kept; older ones fade: house default."""


def placings_of(shop: Shop) -> Placings:
    """What is known of who sits here."""
    return _known(shop.setting(SETTING)).get(shop.person) or _none()


def _none() -> Placings:
    from creekbed.core.inspection.photo import Placings

    return Placings()


def _known(value: Any) -> dict[str, Placings]:
    from creekbed.core.inspection.photo import Placings

    found = {}
    for person, row in (value if isinstance(value, Mapping) else {}).items():
        try:
            squares, free = float(row[0]), int(row[1])
        except (TypeError, ValueError, IndexError, KeyError):
            continue
        if math.isfinite(squares) and squares >= 0 and 0 < free <= MOST:
            found[str(person)] = Placings(squares, free)
    return found


@one_change
def learn(shop: Shop, repeats: Sequence[Sequence[Point]], pixel: float) -> Placings:
    """Keep what points that were placed twice say of who sits here.

    Args:
        repeats: for each point all its placings. pixel: what counts as one pixel in this picture.

    Raises:
        BadInput: a point that was placed once.
    """
    known = _known(shop.setting(SETTING))
    found = (known.get(shop.person) or _none()).and_(repeats, pixel)
    if found.free > MOST:
        found = type(found)(found.squares * MOST / found.free, MOST)
    kept = {person: [round(p.squares, 6), p.free] for person, p in {**known, shop.person: found}.items()}
    shop.set_setting(SETTING, kept, f"{shop.person} places points to within {found.u_px:.1f} pixels")
    return found
