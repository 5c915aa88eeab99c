"""How much room things take in a place: some are large, and alike small ones share a vessel."""

from __future__ import annotations

from collections.abc import Iterable

from creekbed.core.quick_dataclasses import dataclass


@dataclass(frozen=True)
class Piece:
    """What lies in a place.

    Attributes:
        takes: how much of the place's room; what is larger than the place fills it.
        alike: with which others it may share one of the place's vessels, such as a tub of one mix; "": with none.
    """

    takes: int = 1
    alike: str = ""


ONE = Piece()


def taken(pieces: Iterable[Piece], capacity: int, holds: int = 1) -> int:
    """How much of a place's room these take together.

    Alike ones are moved together where a vessel has room again: that is done in a moment.

    Args:
        capacity: the place's room. holds: alike pieces that one unit of it takes.
    """
    apart, alike = 0, dict[str, int]()
    for piece in pieces:
        if piece.alike and holds > 1:
            alike[piece.alike] = alike.get(piece.alike, 0) + piece.takes
        else:
            apart += min(piece.takes, capacity)
    return apart + sum(-(-count // holds) for count in alike.values())


def units(piece: Piece, capacity: int, holds: int = 1) -> int:
    """What it takes of a place counted in ``capacity * holds`` units, where vessels of any mixes could be shared.

    Together such units are never more than what :func:`taken` counts: a relaxation for solvers.
    """
    return piece.takes if piece.alike and holds > 1 else min(piece.takes, capacity) * holds
