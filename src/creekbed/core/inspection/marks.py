"""Marks out and in: what is new, what grew, what was mended; and what of it the hire pays for."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Literal

from creekbed.core.catalogue.models.house import FairWear
from creekbed.core.conventions import millimetres
from creekbed.core.quick_dataclasses import dataclass

Status = Literal["new", "grown", "unchanged", "repaired", "unseen"]
GROWN_SHARE, GROWN_MM = 1.1, 0.5
"""A mark has grown when it is a tenth and half a millimetre longer, which a ruler tells for certain: house default."""


@dataclass(frozen=True)
class MarkSeen:
    """A mark as it was seen once: zone, kind, size in mm if it was measured; ``repaired``: it is gone now."""

    zone: str
    kind: str
    size_mm: float | None = None
    repaired: bool = False
    id: int = 0

    def words(self) -> str:
        """The mark in one line."""
        return self.kind if self.size_mm is None else f"{self.kind}, {millimetres(self.size_mm)}"


@dataclass(frozen=True)
class MarkCompared:
    """A mark out beside in. ``unseen``: it went out so and was not looked for yet."""

    zone: str
    out: MarkSeen | None
    came_in: MarkSeen | None
    status: Status


def compare_marks(out: Sequence[MarkSeen], came_in: Sequence[MarkSeen]) -> list[MarkCompared]:
    """Marks as the instrument went out beside those it came back with.

    Each mark found is matched with the nearest in size of the same kind on the same zone that went out.
    """
    left = list(out)
    rows = []
    for mark in came_in:
        alike = [m for m in left if (m.zone, m.kind) == (mark.zone, mark.kind)]
        old = min(alike, key=lambda m: abs((m.size_mm or 0.0) - (mark.size_mm or 0.0)), default=None)
        if old is not None:
            left.remove(old)
        rows.append(MarkCompared(mark.zone, old, mark, _status(old, mark)))
    return rows + [MarkCompared(m.zone, m, None, "unseen") for m in left]


def _status(old: MarkSeen | None, mark: MarkSeen) -> Status:
    if mark.repaired:
        return "repaired"
    if old is None:
        return "new"
    if old.size_mm is None or mark.size_mm is None:
        return "unchanged"
    return "grown" if mark.size_mm > old.size_mm * GROWN_SHARE + GROWN_MM else "unchanged"


def is_fair(rules: Iterable[FairWear], mark: MarkSeen) -> bool:
    """Whether a new mark is fair wear, not charged. A size that was not measured is fair only where any size is."""
    for rule in rules:
        if rule.kind != mark.kind or (rule.zones and mark.zone not in rule.zones):
            continue
        if rule.up_to_mm is None or (mark.size_mm is not None and mark.size_mm <= rule.up_to_mm):
            return True
    return False


def charged(rules: Sequence[FairWear], rows: Iterable[MarkCompared]) -> list[str]:
    """Lines of the bill's draft for marks: what this hire left beyond fair wear. The shop puts the price."""
    lines = []
    for row in rows:
        if row.came_in is None or row.status not in ("new", "grown") or is_fair(rules, row.came_in):
            continue
        was = f", was {millimetres(row.out.size_mm)}" if row.out is not None and row.out.size_mm is not None else ""
        lines.append(f"{row.zone}: {row.came_in.words()}{was}")
    return lines
