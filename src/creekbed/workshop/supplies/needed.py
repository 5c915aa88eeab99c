"""Which supplies the shop's own instruments use."""

from __future__ import annotations

from collections.abc import Iterable

from creekbed.core.catalogue.models.family import Family
from creekbed.store.records import Instrument
from creekbed.workshop.shop.shop import Shop


def families_here(shop: Shop) -> list[str]:
    """Families of which the shop has an instrument, by name."""
    with shop.reading() as records:
        keys = {i.family for i in records.readable(Instrument)}
    known = shop.catalogue.families
    return sorted((k for k in keys if k in known), key=lambda k: known[k].name)


def used_by(shop: Shop, family: str) -> frozenset[str]:
    """Supplies that a step of a family may use."""
    return _used(shop, [shop.catalogue.families[family]])


def needed(shop: Shop) -> frozenset[str]:
    """Supplies that a step of a family in the fleet may use; all of them where no instrument is known yet."""
    known = [shop.catalogue.families[key] for key in families_here(shop)]
    return _used(shop, known) if known else frozenset(shop.catalogue.supplies)


def _used(shop: Shop, families: Iterable[Family]) -> frozenset[str]:
    catalogue = shop.catalogue
    used = {use.item for family in families for step in family.step for use in step.supplies}
    stocks = {recipe.stock for recipe in catalogue.house.every_recipe if recipe.product in used}
    return frozenset((used | stocks) & set(catalogue.supplies))
