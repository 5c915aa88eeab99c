"""Stock: drawing down, booking in, making a mix."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from typing import Any

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.models.house import Recipe, Supply
from creekbed.core.conventions import money, number
from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.mixes import Mix, TwoSteps, between, in_two_steps, most_from
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.supplies.stock import draw
from creekbed.core.text import line
from creekbed.store.reader import Reader
from creekbed.store.records import Lot, Price, ShelfEntry, StockMove
from creekbed.workshop.bench.cupboard import usable_and_minimums, usable_by_item, usable_lots
from creekbed.workshop.shop.shop import Act, Shop
from creekbed.workshop.supplies.shelf_entries import entries, least_of, minimum_of


@dataclass(frozen=True)
class StockView:
    """One supply with what is left of it."""

    supply: Supply
    amount: float
    lots: tuple[Lot, ...]
    counted: bool = True
    """Whether there ever was any on record: what nobody has counted is neither there nor short."""
    said: ShelfEntry | None = None
    """What the shop says of it."""

    @property
    def minimum(self) -> float:
        """From which amount on it is ordered; 0: never."""
        return least_of(self.supply, None if self.said is None else self.said.minimum)

    @property
    def aside(self) -> bool:
        """Whether the shop never uses it."""
        return self.said is not None and self.said.aside

    @property
    def place(self) -> str:
        """Where it lies, or ""."""
        return self.said.place if self.said is not None else ""

    @property
    def short(self) -> bool:
        """At or under the reorder point; a mix made here is never ordered."""
        return self.counted and not self.aside and self.minimum > 0 and self.amount <= self.minimum


def stock_list(shop: Shop) -> list[StockView]:
    """Every supply, those that run short first."""
    now = shop.now
    with shop.reading() as records:
        usable = usable_by_item(records, list(shop.catalogue.supplies), now)
        counted = records.stock.counted()
        said = entries(records)
    views = [
        StockView(s, sum(x.amount for x in lots), tuple(lots), s.key in counted, said.get(s.key))
        for s in shop.catalogue.supplies.values()
        for lots in [usable.get(s.key, ())]
    ]
    return sorted(views, key=lambda v: (not v.short, v.supply.name))


def uses_words(catalogue: Catalogue, step: BuiltStep, cloth: str = "") -> str:
    """What a step takes from stock: "100 ml of Peroxide mix 3 %", and the cloth that it takes, or ""."""
    rows = ((catalogue.supplies[item], amount) for item, amount in step.supplies)
    return ", ".join(
        [*(f"{number(amount)} {_unit(supply.unit, amount)} of {supply.name}" for supply, amount in rows),
         *filter(None, [cloth])]
    )  # fmt: skip


def _unit(unit: str, amount: float) -> str:
    """The unit for so much of it: "1 piece", but "2 pieces"; "ml" is always that."""
    return unit.removesuffix("s") if amount == 1 and len(unit) > 2 else unit


def draw_supplies(shop: Shop, act: Act, supplies: Sequence[tuple[str, float]], why: str, job_id: int | None) -> None:
    """Take amounts from the lots of supplies, first to be discarded first, inside a use case.

    Of what nobody has ever counted here nothing is taken: it stops no work. A mix must be made first all the same.

    Args:
        supplies: (supply, amount in its unit) of each; amounts of the same supply are taken together.

    Raises:
        Refused: there is not enough of one; nothing was taken of it.
    """
    if not supplies:
        return
    wanted: dict[str, float] = {}
    for item, amount in supplies:
        wanted[item] = wanted.get(item, 0.0) + amount
    usable, said = usable_and_minimums(act.records, wanted, act.now)
    mixes = {recipe.product for recipe in shop.catalogue.house.every_recipe}
    for item, amount in wanted.items():
        supply, lots = shop.catalogue.supplies[item], usable.get(item, [])
        if not lots and item not in mixes and act.records.stock.last_lot(item) is None:
            continue
        least = least_of(supply, said[item]) if item in said else minimum_of(act.records, supply)
        _draw(act, supply, lots, amount, least, why, job_id)


def _draw(
    act: Act, supply: Supply, lots: Sequence[Lot], amount: float, least: float, why: str, job_id: int | None
) -> None:
    have = sum(x.amount for x in lots)
    result = draw(supply.name, supply.unit, have, amount, least)
    rest = amount
    for lot in lots:
        take = min(rest, lot.amount)
        if take <= 0:
            break
        act.records.update(lot, amount=round(lot.amount - take, 6))
        rest = round(rest - take, 6)
        act.records.add(StockMove(lot_id=lot.id, job_id=job_id, amount=-take, why=why[:120], at=act.now))
    if result.short and least > 0:
        act.notes.append(result.words)


def book_in_stock(
    shop: Shop,
    item: str,
    amount: float,
    *,
    lot: str = "",
    strength_pct: float | None = None,
    contact_min: float | None = None,
    discard_at: datetime | None = None,
) -> None:
    """Put new stock on the shelf.

    Args:
        item: supply key. amount: in the supply's unit. strength_pct: of a bottle, %.
        contact_min: contact time its label asks for, minutes. discard_at: not to be used after.

    Raises:
        BadInput: an unknown item, or numbers or dates that cannot be right.
    """
    supply = shop.catalogue.supplies.get(item)
    if supply is None:
        raise BadInput("That supply is not known here.")
    if not 0 < amount <= 100_000:
        raise BadInput("The amount must be more than 0.", todo="Count or read the label again.")
    if strength_pct is not None and not 0 < strength_pct <= 100:
        raise BadInput("A strength is more than 0 % and at most 100 %.", todo="Read the label again.")
    if contact_min is not None and not 0 < contact_min <= 24 * 60:
        raise BadInput("A contact time is more than 0 min and at most a day.", todo="Read the label again.")
    if strength_pct is None and item in {r.stock for r in shop.catalogue.house.every_recipe}:
        raise BadInput("The strength of the bottle is missing.", todo="Type what its label says, for example 6 %.")
    if discard_at is not None and discard_at <= shop.now:
        raise BadInput("That stock is past its date already.", todo="Do not use it; look at the date again.")
    lot = line(lot, what="The lot", longest=40)
    with shop.act("stock.in") as act:
        row = act.records.add(Lot(
            item=item, lot=lot, amount=amount, strength_pct=strength_pct, contact_min=contact_min,
            made_at=act.now, discard_at=discard_at,
        ))  # fmt: skip
        act.records.add(StockMove(lot_id=row.id, job_id=None, amount=amount, why="booked in", at=act.now))
        act.words = f"Stock in: {number(amount)} {supply.unit} of {supply.name}"


MOST_COUNTED = 100_000.0
"""A larger count is a slip: house default."""


def count_stock(shop: Shop, item: str, amount: float, reason: str) -> None:
    """Correct a supply to what was counted.

    Raises:
        BadInput: a negative or absurd count. Refused: a bottle of which no lot is on record.
    """
    with shop.act("stock.count") as act:
        supply = _count(shop, act, item, amount, f"counted {reason}"[:120])
        act.words = f"Counted {supply.name}: {number(amount)} {supply.unit}"


def count_many(shop: Shop, counted: Mapping[str, float]) -> int:
    """Correct many supplies to what was counted, in one action; one undo takes all of it back.

    Args:
        counted: supply → how many there are.

    Returns:
        How many were counted.

    Raises:
        BadInput: nothing was counted, or a count that cannot be. Refused: a bottle of which no lot is on record.
    """
    if not counted:
        raise BadInput("Nothing was counted yet.", todo="Type how many there are beside what you count.")
    with shop.act("stock.count_many") as act:
        for item, amount in counted.items():
            _count(shop, act, item, amount, "counted on the shelf")
        act.words = f"Counted {len(counted)} supplies on the shelf"
        return len(counted)


def needs_label(shop: Shop, item: str) -> bool:
    """Whether a supply has a strength: a bottle is booked in with its label, a mix is made; neither is counted in."""
    return item in {key for r in shop.catalogue.house.every_recipe for key in (r.stock, r.product)}


def _count(shop: Shop, act: Act, item: str, amount: float, why: str) -> Supply:
    supply = shop.catalogue.supplies.get(item)
    if supply is None or not 0 <= amount <= MOST_COUNTED:
        raise BadInput("A count is 0 or more.", todo="Count again.")
    lots = usable_lots(act.records, item, act.now)
    if not lots:
        last = act.records.stock.last_lot(item)
        if last is None or (last.discard_at is not None and last.discard_at <= act.now):
            if needs_label(shop, item) or last is not None:
                raise Refused(f"No usable lot of {supply.name} is on record.", todo="Book the stock in instead.")
            last = act.records.add(Lot(item=item, amount=0.0, made_at=act.now))
        lots = [last]
    rest = amount - sum(x.amount for x in lots)
    for row in lots:
        change = max(rest, -row.amount) if rest < 0 else rest
        act.records.update(row, amount=round(row.amount + change, 6))
        rest = round(rest - change, 6)
        act.records.add(StockMove(lot_id=row.id, job_id=None, amount=change, why=why, at=act.now))
        if rest == 0:
            break
    return supply


def prices(shop: Shop) -> dict[str, float]:
    """What the shop charges for one piece of a supply, as far as it has said so; in the shop's own money."""
    with shop.reading() as records:
        return records.stock.prices(shop.now)


def set_price(shop: Shop, item: str, price: float | None) -> None:
    """Say what one piece of a supply costs on the bill from now on; ``None``: it has no price.

    Raises:
        BadInput: an unknown supply or a price that cannot be.
    """
    supply = shop.catalogue.supplies.get(item)
    if supply is None:
        raise BadInput("That supply is not known here.")
    if price is not None and not 0 <= price <= 100_000:
        raise BadInput("A price is 0 or more.", todo="Type it again.")
    with shop.act("price") as act:
        act.records.add(Price(item=item, price=None if price is None else round(price, 2), valid_from=act.now))
        act.words = f"Price of {supply.name}: {'forgotten' if price is None else money(price)}"


@dataclass(frozen=True)
class MixPlan:
    """A mix as it would be made from the bottle in use.

    Attributes:
        second: what fills it up, where that is not water. most_ml: what the bottle still makes.
        water_ml: water that is added, ml; alcohol and water shrink, so that it is more than what is missing.
        steps: two steps, where one would ask for less than the measure can tell.
        only_in_steps: one step would miss the strength by more than is allowed; ``mix`` is then the second of the two.
    """

    recipe: Recipe
    lot: Lot
    mix: Mix
    most_ml: float
    second: Lot | None
    water_ml: float
    steps: TwoSteps | None
    only_in_steps: bool = False

    @property
    def bottle_ml(self) -> float:
        """What is taken out of the bottle, ml."""
        if self.only_in_steps and self.steps is not None:
            return self.steps.first.stock_rounded_ml
        return self.mix.stock_rounded_ml


def bottles(shop: Shop, recipe: Recipe) -> list[Lot]:
    """Bottles and mixes of a recipe's agent with a known strength, the stock first; none past its date."""
    with shop.reading() as records:
        return _bottles(records, recipe, shop.now)


def _bottles(records: Reader, recipe: Recipe, now: datetime) -> list[Lot]:
    usable = usable_by_item(records, [recipe.stock, recipe.product], now)
    return [x for item in (recipe.stock, recipe.product) for x in usable.get(item, ()) if x.strength_pct]


def opened_at(shop: Shop, lot_id: int) -> datetime | None:
    """When something was first taken out of a bottle."""
    with shop.reading() as records:
        return records.stock.opened_at(lot_id)


COARSE = 0.05
"""A measure that misses the strength by more than this share asks for two steps: house default."""


def plan_mix(
    shop: Shop,
    recipe: Recipe,
    make_ml: float | None = None,
    target_pct: float | None = None,
    *,
    lot_id: int | None = None,
    second_id: int | None = None,
    graduation_ml: float | None = None,
) -> MixPlan:
    """How a recipe comes out with the bottle in use.

    Args:
        make_ml, target_pct: the recipe's if not given. lot_id: another bottle than the one in use.
        second_id: what fills it up instead of water. graduation_ml: marks of the measure, the recipe's if not given.

    Raises:
        Refused: no bottle is left, it is too weak, or there is not enough in it.
        BadInput: a volume or strength that cannot be.
    """
    with shop.reading() as records:
        return plan_mix_in(
            records, shop, recipe, make_ml, target_pct, lot_id=lot_id, second_id=second_id, graduation_ml=graduation_ml
        )


def plan_mix_in(
    records: Reader,
    shop: Shop,
    recipe: Recipe,
    make_ml: float | None = None,
    target_pct: float | None = None,
    *,
    lot_id: int | None = None,
    second_id: int | None = None,
    graduation_ml: float | None = None,
) -> MixPlan:
    """As :func:`plan_mix`, from records that are open already."""
    every = _bottles(records, recipe, shop.now)
    lots = [x for x in every if x.item == recipe.stock]
    name = shop.catalogue.supplies[recipe.stock].name
    if not lots:
        raise Refused(f"No usable bottle is left: {name}.", todo="Book a new one in under Stock.")
    target = recipe.target_pct if target_pct is None else target_pct
    make = recipe.make_ml if make_ml is None else make_ml
    marks = recipe.graduation_ml if graduation_ml is None else graduation_ml
    lot = max(lots, key=lambda x: x.amount if x.strength_pct and x.strength_pct >= target else -1)
    if lot_id is not None:
        lot = _bottle(every, lot_id)
    second = None if second_id is None else _bottle(every, second_id)
    if second is not None and second.id == lot.id:
        raise BadInput("A bottle cannot be filled up with itself.", todo="Take water, or another bottle.")
    assert lot.strength_pct is not None
    filler = (second.strength_pct or 0.0) if second is not None else 0.0
    steps, only = None, False
    try:
        mix = between(lot.strength_pct, filler, target, make, marks, basis=recipe.basis)
    except Refused as refused:
        if not refused.fields.get("coarse") or second is not None:
            raise
        steps, only = in_two_steps(lot.strength_pct, target, make, marks), True
        mix = steps.second
    if not only and second is None and abs(mix.strength_error_pct) > COARSE * target:
        steps = _better_in_steps(mix, lot.strength_pct, target, make, marks)
    water = 0.0 if second is not None else mix.diluent_rounded_ml
    most = most_from(lot.amount, lot.strength_pct, target) if second is None else make
    plan = MixPlan(recipe, lot, mix, most, second, water, steps, only)
    for bottle, wanted in ((lot, plan.bottle_ml), *(((second, mix.diluent_rounded_ml),) if second else ())):
        if wanted > bottle.amount + 1e-9:
            raise Refused(
                f"{number(wanted)} ml are needed, {number(bottle.amount)} ml are left in the bottle.",
                todo=f"It makes {number(most, 0)} ml at most. Make less, or book a new bottle in."
                if second is None else "Make less, or take another bottle.",
                most_ml=most,
            )  # fmt: skip
    return plan


def _better_in_steps(mix: Mix, strength: float, target: float, make: float, marks: float) -> TwoSteps | None:
    try:
        steps = in_two_steps(strength, target, make, marks)
    except Refused:  # the measure cannot hold them
        return None
    return steps if abs(steps.second.strength_error_pct) < abs(mix.strength_error_pct) else None


def _bottle(every: Sequence[Lot], lot_id: int) -> Lot:
    found = next((x for x in every if x.id == lot_id), None)
    if found is None:
        raise Refused("That bottle is empty or past its date.", todo="Take another one.")
    return found


def make_mix(shop: Shop, act: Act, plan: MixPlan, job_id: int | None) -> Lot:
    """Make the mix inside a use case: the bottles are drawn down, the mix becomes a lot with a discard time."""
    bottle = _draw_bottle(act, plan.lot, plan.bottle_ml, job_id)
    discard = act.now + timedelta(hours=plan.recipe.keeps_hours)
    names = [bottle.lot or "bottle"]
    if plan.second is not None:
        second = _draw_bottle(act, plan.second, plan.mix.diluent_rounded_ml, job_id)
        names.append(second.lot or "bottle")
        discard = min(discard, second.discard_at or discard)
    made = act.records.add(
        Lot(
            item=plan.recipe.product,
            lot=f"from {' and '.join(names)}"[:40],
            amount=plan.mix.make_ml,
            strength_pct=round(plan.mix.strength_pct, 4),
            contact_min=bottle.contact_min,
            made_at=act.now,
            discard_at=min(discard, bottle.discard_at or discard),
        )
    )
    supply = shop.catalogue.supplies[bottle.item]
    if 0 < minimum_of(act.records, supply) >= bottle.amount:
        act.notes.append(f"{supply.name}: {number(bottle.amount)} {supply.unit} left, order more.")
    return made


def _draw_bottle(act: Act, planned: Lot, ml: float, job_id: int | None) -> Lot:
    bottle = act.records.get(Lot, planned.id)
    if bottle is None or bottle.amount + 1e-9 < ml:
        raise Refused("The bottle has changed meanwhile.", todo="Look at the mix again.")
    act.records.add(StockMove(lot_id=bottle.id, job_id=job_id, amount=-ml, why="mix", at=act.now))
    return act.records.update(bottle, amount=round(bottle.amount - ml, 6))


def mix_alone(shop: Shop, plan: MixPlan) -> int:
    """Make a mix that no step asked for; gives the number of its lot."""
    with shop.act("mix") as act:
        made = make_mix(shop, act, plan, None)
        act.words = (
            f"Made {number(plan.mix.make_ml)} ml: {plan.recipe.name.lower()}, {number(made.strength_pct or 0.0)} %"
        )
        return made.id


def label_facts(shop: Shop, lot_id: int) -> dict[str, Any]:
    """What stands on the label of a mix.

    Raises:
        Refused: there is no such mix.
    """
    with shop.reading() as records:
        lot = records.get(Lot, lot_id)
    recipe = next((r for r in shop.catalogue.house.every_recipe if lot is not None and r.product == lot.item), None)
    if lot is None or recipe is None:
        raise Refused("There is no such mix.", todo="Look at the stock again.")
    agent = shop.catalogue.agents[recipe.agent].name.partition(",")[0]
    return {
        "what": agent.capitalize(), "strength": f"{lot.strength_pct:.3g} % {recipe.basis}",
        "amount": f"{number(lot.amount)} ml",
        "made_at": lot.made_at.isoformat(), "discard_at": lot.discard_at.isoformat() if lot.discard_at else "",
        "person": shop.person, "caution": recipe.caution, "code": f"SU-{recipe.product}", "lot": lot.lot,
    }  # fmt: skip
