"""The shop's own word on its supplies: where each lies, which are put aside, and from when they are ordered."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping
from datetime import timedelta

from creekbed.core.catalogue.models.house import Supply
from creekbed.core.conventions import number
from creekbed.core.errors import BadInput
from creekbed.core.procedure.build import build
from creekbed.core.procedure.imagine import imagine
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.supplies.minimum import YEAR_DAYS, Use, minimum, rounded
from creekbed.core.text import line
from creekbed.store.reader import Reader
from creekbed.store.records import Instrument, ShelfEntry
from creekbed.words.supplies import minimum_words
from creekbed.workshop.bench.job_situation import policy_choices
from creekbed.workshop.shop.shop import Act, Shop

LEAD_DAYS = 21.0
"""From an order until it is on the shelf: house default."""
RETURNS_A_YEAR = 2.0
"""How often an instrument comes back, until the records tell: house default."""
ENOUGH_JOBS, ENOUGH_DAYS = 20, 180.0
"""From so many jobs in so many days on, the records tell how often instruments come back: house default."""
MOST_MINIMUM = 100_000.0


def entries(records: Reader) -> dict[str, ShelfEntry]:
    """What the shop has said of its supplies, by supply."""
    return {entry.item: entry for entry in records.readable(ShelfEntry)}


def minimum_of(records: Reader, supply: Supply) -> float:
    """From which amount on a supply is short: the shop's own, else what ships."""
    said = records.get(ShelfEntry, supply.key)
    return least_of(supply, None if said is None else said.minimum)


def least_of(supply: Supply, said: float | None) -> float:
    """As :func:`minimum_of`, from the amount that the shop says; ``None``: it says nothing."""
    return supply.reorder_at if said is None else said


def _change(shop: Shop, act: Act, items: Collection[str], **fields: object) -> None:
    for item in items:
        if item not in shop.catalogue.supplies:
            raise BadInput("That supply is not known here.")
        known = act.records.get(ShelfEntry, item)
        if known is None:
            act.records.add(ShelfEntry(item=item, **fields))  # type: ignore[arg-type]
        else:
            act.records.update(known, **fields)


def _named(shop: Shop, items: Collection[str]) -> str:
    supply = shop.catalogue.supplies.get(next(iter(items), ""))
    return supply.name if supply is not None and len(items) == 1 else f"{len(items)} supplies"


def put_aside(shop: Shop, items: Collection[str], aside: bool = True) -> None:
    """Put supplies aside that the shop never uses, or take them back; what lies aside is never short.

    Raises:
        BadInput: none, or one that is not known.
    """
    _need(items)
    with shop.act("shelf.aside") as act:
        _change(shop, act, items, aside=aside)
        act.words = f"{_named(shop, items)} {'put aside' if aside else 'in use again'}"


def set_place(shop: Shop, items: Collection[str], place: str) -> None:
    """Say where supplies lie; "" forgets it.

    Raises:
        BadInput: none, one that is not known, or words that are too long.
    """
    _need(items)
    place = line(place, what="The place", longest=40)
    with shop.act("shelf.place") as act:
        _change(shop, act, items, place=place)
        act.words = f"{_named(shop, items)}: {f'in {place}' if place else 'nowhere in particular'}"


def set_minimums(shop: Shop, amounts: Mapping[str, float | None]) -> None:
    """Say from which amount on supplies are ordered; ``None``: as it ships. One action for all of them.

    Raises:
        BadInput: none, one that is not known, or an amount that cannot be.
    """
    _need(amounts)
    if any(a is not None and not 0 <= a <= MOST_MINIMUM for a in amounts.values()):
        raise BadInput("An amount to order at is 0 or more.", todo="Type it again.")
    with shop.act("shelf.minimum") as act:
        for item, amount in amounts.items():
            _change(shop, act, (item,), minimum=amount)
        only = next(iter(amounts.values())) if len(amounts) == 1 else None
        act.words = f"{_named(shop, amounts)}: order at {number(only) if only is not None else 'the amount that fits'}"


def _need(items: Collection[str]) -> None:
    if not items:
        raise BadInput("No supply is chosen.", todo="Choose one or more rows.")


@dataclass(frozen=True)
class Proposal:
    """A minimum that follows from the fleet.

    Attributes:
        amount: in the unit of the supply. a_year: how much the fleet uses in a year. returns: how often an instrument
            comes back a year. from_records: whether that was counted, or is the house's guess.
    """

    amount: float
    a_year: float
    returns: float
    from_records: bool

    def words(self, unit: str) -> str:
        """Why so much."""
        return minimum_words(self.a_year, unit, self.returns, LEAD_DAYS, from_records=self.from_records)


def proposed(shop: Shop) -> dict[str, Proposal]:
    """A minimum for each supply that plain jobs of the fleet's instruments take: enough for one job at least.

    The supplies of a plain job by the house rules, times the jobs to expect while an order is under way, with a margin
    for chance (:func:`creekbed.core.supplies.minimum.minimum`). Of a mix that is made here, its bottle is counted.
    """
    catalogue = shop.catalogue
    with shop.reading() as records:
        fleet = Counter(i.family for i in records.readable(Instrument) if i.standing == "")
        jobs, first = records.jobs.opened_since(shop.now - timedelta(days=YEAR_DAYS))
        choices = policy_choices(records)
    known = {key: count for key, count in fleet.items() if key in catalogue.families}
    instruments = sum(known.values())
    seen_days = min((shop.now - first).total_seconds() / 86400, YEAR_DAYS) if first is not None else 0.0
    from_records = jobs >= ENOUGH_JOBS and seen_days >= ENOUGH_DAYS and instruments > 0
    returns = jobs / instruments * YEAR_DAYS / seen_days if from_records else RETURNS_A_YEAR
    uses: dict[str, list[Use]] = {}
    for key, count in known.items():
        steps = build(catalogue, imagine(catalogue, catalogue.families[key], policies=choices))
        taken: dict[str, float] = {}
        for step in steps:
            for item, amount in step.supplies:
                taken[item] = taken.get(item, 0.0) + amount
        for recipe in catalogue.house.every_recipe:
            made = catalogue.supplies.get(recipe.product)
            if made is not None and recipe.product in taken:
                bottle = recipe.target_pct / _stock_pct(shop, recipe.stock, recipe.target_pct)
                taken[recipe.stock] = taken.get(recipe.stock, 0.0) + taken.pop(recipe.product) * bottle
        for item, amount in taken.items():
            uses.setdefault(item, []).append(Use(amount, count * returns))
    found = {}
    for item, of in uses.items():
        if item in catalogue.supplies:
            amount = rounded(max(minimum(of, LEAD_DAYS), *(u.amount for u in of)))
            a_year = sum(u.amount * u.jobs_per_year for u in of)
            found[item] = Proposal(amount, a_year, returns, from_records)
    return found


def _stock_pct(shop: Shop, item: str, least: float) -> float:
    """How strong the bottle is that a mix is made of, %: the last one on the shelf, else as strong as the mix."""
    with shop.reading() as records:
        last = records.stock.last_lot(item)
    known = last.strength_pct if last is not None else None
    return max(known or least, least)
