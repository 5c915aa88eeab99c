"""Facts about stock that steps depend on."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import field, replace
from datetime import datetime

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.models.family import Family
from creekbed.core.procedure.step_words import dip_ml
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.reader import Reader
from creekbed.store.records import (
    Lot,
)
from creekbed.workshop.cleaning.shelf import Shelf


@dataclass(frozen=True)
class Cupboard:
    """Facts about stock that steps depend on."""

    mixes: dict[str, tuple[float, float]]
    """Mix → the most of it that stands usable in one vessel, and what one part usually takes, ml."""
    stock_pct: dict[str, float]
    contact_min: dict[str, float]
    shelf: Shelf = field(default_factory=Shelf)
    """Without the counts of cloths: which job has a dry one is shared out beside it."""

    def mixes_ready(self, family: Family) -> frozenset[str]:
        """Mixes of which enough stands ready for a mouthpiece of this family."""
        wanted = dip_ml(family.dip) if family.dip is not None else 0.0
        return frozenset(product for product, (there, dose) in self.mixes.items() if there >= max(wanted, dose))


def cupboard(catalogue: Catalogue, lots: Iterable[Lot], now: datetime, shelf: Shelf) -> Cupboard:
    """Which mixes stand ready, which bottle is in use, and what labels ask for.

    Args:
        lots: as :func:`mixing_lots` gives them. shelf: what is kept beside them.
    """
    ready: dict[str, tuple[float, float]] = {}
    pct: dict[str, float] = {}
    contact: dict[str, float] = {}
    lots = _usable(lots, now)
    for recipe in catalogue.house.recipe:
        for lot in (x for x in lots if x.item == recipe.stock):
            if lot.strength_pct is not None:
                pct.setdefault(recipe.stock, lot.strength_pct)
            if lot.contact_min is not None:
                contact.setdefault(recipe.product, lot.contact_min)
        for lot in (x for x in lots if x.item == recipe.product):
            there, _ = ready.get(recipe.product, (0.0, 0.0))
            ready[recipe.product] = max(there, lot.amount), recipe.dose_ml
            if lot.contact_min is not None:
                contact[recipe.product] = lot.contact_min
    return Cupboard(ready, pct, contact, replace(shelf, cloths={}))


def usable_lots(records: Reader, item: str, now: datetime) -> list[Lot]:
    """Lots with something in them that are not past their discard time, first to be discarded first."""
    return _usable(records.stock.lots_of([item]), now)


def usable_by_item(records: Reader, items: Collection[str], now: datetime) -> dict[str, list[Lot]]:
    """Supply → its :func:`usable_lots`, asked in one question."""
    return _by_item(_usable(records.stock.lots_of(items), now))


def usable_and_minimums(
    records: Reader, items: Collection[str], now: datetime
) -> tuple[dict[str, list[Lot]], dict[str, float | None]]:
    """As :func:`usable_by_item`, and :meth:`Stock.lots_and_minimums`'s minimums, in the same question."""
    lots, least = records.stock.lots_and_minimums(items)
    return _by_item(_usable(lots, now)), least


def _by_item(lots: Iterable[Lot]) -> dict[str, list[Lot]]:
    found: dict[str, list[Lot]] = {}
    for lot in lots:
        found.setdefault(lot.item, []).append(lot)
    return found


def _usable(lots: Iterable[Lot], now: datetime) -> list[Lot]:
    usable = [x for x in lots if x.discard_at is None or x.discard_at > now]
    return sorted(usable, key=lambda x: (x.discard_at is None, x.discard_at or now, x.id))
