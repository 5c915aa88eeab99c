"""Which supplies the shop's own instruments use."""

from __future__ import annotations

from creekbed.store.records import Instrument
from creekbed.workshop.shop.shop import Shop


def needed(shop: Shop) -> frozenset[str]:
    """Supplies that a step of a family in the fleet may use; all of them where no instrument is known yet."""
    catalogue = shop.catalogue
    with shop.reading() as records:
        families = {i.family for i in records.readable(Instrument)}
    known = [catalogue.families[key] for key in families if key in catalogue.families]
    if not known:
        return frozenset(catalogue.supplies)
    used = {use.item for family in known for step in family.step for use in step.supplies}
    stocks = {recipe.stock for recipe in catalogue.house.every_recipe if recipe.product in used}
    return frozenset((used | stocks) & set(catalogue.supplies))
