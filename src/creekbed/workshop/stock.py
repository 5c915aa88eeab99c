"""Stock: drawing down, booking in, making a mix."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import select

from creekbed.core.catalogue.load import Catalogue
from creekbed.core.catalogue.models import Recipe, Supply
from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.mixes import Mix, dilute, most_from
from creekbed.core.procedure.build import BuiltStep
from creekbed.core.supplies.stock import draw
from creekbed.store.tables import Lot, StockMove
from creekbed.workshop.shop import Act, Shop
from creekbed.workshop.views import usable_lots


@dataclass(frozen=True)
class StockView:
    """One supply with what is left of it."""

    supply: Supply
    amount: float
    lots: tuple[Lot, ...]

    @property
    def short(self) -> bool:
        """At or under the reorder point; a mix made here is never ordered."""
        return self.supply.reorder_at > 0 and self.amount <= self.supply.reorder_at


def stock_list(shop: Shop) -> list[StockView]:
    """Every supply, those that run short first."""
    with shop.reading() as session:
        now = shop.now
        views = [
            StockView(s, sum(x.amount for x in lots), tuple(lots))
            for s in shop.catalogue.supplies.values()
            for lots in [usable_lots(session, s.key, now)]
        ]
    return sorted(views, key=lambda v: (not v.short, v.supply.name))


def uses_words(catalogue: Catalogue, step: BuiltStep) -> str:
    """What a step takes from stock: "100 ml of Peroxide mix 3 %", or ""."""
    rows = ((catalogue.supplies[item], amount) for item, amount in step.supplies)
    return ", ".join(f"{amount:g} {supply.unit} of {supply.name}" for supply, amount in rows)


def draw_from_lots(shop: Shop, act: Act, item: str, amount: float, why: str, job_id: int | None) -> None:
    """Take an amount from the lots of a supply, first to be discarded first, inside a use case.

    Raises:
        Refused: there is not enough; nothing was taken.
    """
    supply = shop.catalogue.supplies[item]
    lots = usable_lots(act.session, item, act.now)
    have = sum(x.amount for x in lots)
    result = draw(supply.name, supply.unit, have, amount, supply.reorder_at)
    rest = amount
    for lot in lots:
        take = min(rest, lot.amount)
        if take <= 0:
            break
        lot.amount = round(lot.amount - take, 6)
        rest = round(rest - take, 6)
        act.session.add(StockMove(lot_id=lot.id, job_id=job_id, amount=-take, why=why[:120], at=act.now))
    if result.short and supply.reorder_at > 0:
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
    if supply.agent is not None and supply.unit == "ml" and strength_pct is None and supply.key.startswith("peroxide"):
        raise BadInput("The strength of the bottle is missing.", todo="Type what its label says, for example 6 %.")
    if discard_at is not None and discard_at <= shop.now:
        raise BadInput("That stock is past its date already.", todo="Do not use it; look at the date again.")
    with shop.act("stock.in") as act:
        row = Lot(
            item=item, lot=lot.strip()[:40], amount=amount, strength_pct=strength_pct, contact_min=contact_min,
            made_at=act.now, discard_at=discard_at,
        )  # fmt: skip
        act.session.add(row)
        act.session.flush()
        act.session.add(StockMove(lot_id=row.id, job_id=None, amount=amount, why="booked in", at=act.now))
        act.words = f"Stock in: {amount:g} {supply.unit} of {supply.name}"


def count_stock(shop: Shop, item: str, amount: float, reason: str) -> None:
    """Correct a supply to what was counted.

    Raises:
        BadInput: a negative or absurd count. Refused: more than the records know and no lot to put it in.
    """
    supply = shop.catalogue.supplies.get(item)
    if supply is None or not 0 <= amount <= 100_000:
        raise BadInput("A count is 0 or more.", todo="Count again.")
    with shop.act("stock.count") as act:
        lots = usable_lots(act.session, item, act.now)
        if not lots:
            last = act.session.scalars(select(Lot).where(Lot.item == item).order_by(Lot.id.desc())).first()
            if last is None or (last.discard_at is not None and last.discard_at <= act.now):
                raise Refused(f"No usable lot of {supply.name} is on record.", todo="Book the stock in instead.")
            lots = [last]
        difference = amount - sum(x.amount for x in lots)
        rest = difference
        for row in lots:
            change = max(rest, -row.amount) if rest < 0 else rest
            row.amount = round(row.amount + change, 6)
            rest = round(rest - change, 6)
            act.session.add(
                StockMove(lot_id=row.id, job_id=None, amount=change, why=f"counted {reason}"[:120], at=act.now)
            )
            if rest == 0:
                break
        act.words = f"Counted {supply.name}: {amount:g} {supply.unit}"


def prices(shop: Shop) -> dict[str, float]:
    """What the shop charges for one piece of a supply, as far as it has said so; in the shop's own money."""
    return {str(k): float(v) for k, v in (shop.setting("prices") or {}).items()}


def set_price(shop: Shop, item: str, price: float | None) -> None:
    """Say what one piece of a supply costs on the bill; ``None`` forgets it.

    Raises:
        BadInput: an unknown supply or a price that cannot be.
    """
    supply = shop.catalogue.supplies.get(item)
    if supply is None:
        raise BadInput("That supply is not known here.")
    if price is not None and not 0 <= price <= 100_000:
        raise BadInput("A price is 0 or more.", todo="Type it again.")
    known = {k: v for k, v in prices(shop).items() if k != item}
    if price is not None:
        known[item] = round(price, 2)
    words = "forgotten" if price is None else f"{price:.2f}"
    shop.set_setting("prices", known, f"Price of {supply.name}: {words}")


@dataclass(frozen=True)
class MixPlan:
    """A mix as it would be made from the bottle in use."""

    recipe: Recipe
    lot: Lot
    mix: Mix
    most_ml: float


def plan_mix(shop: Shop, recipe: Recipe, make_ml: float | None = None, target_pct: float | None = None) -> MixPlan:
    """How a recipe comes out with the bottle in use.

    Raises:
        Refused: no bottle is left, it is too weak, or there is not enough in it.
        BadInput: a volume or strength that cannot be.
    """
    with shop.reading() as session:
        lots = [x for x in usable_lots(session, recipe.stock, shop.now) if x.strength_pct is not None]
    name = shop.catalogue.supplies[recipe.stock].name
    if not lots:
        raise Refused(f"No usable bottle is left: {name}.", todo="Book a new one in under Stock.")
    target = recipe.target_pct if target_pct is None else target_pct
    lot = max(lots, key=lambda x: x.amount if x.strength_pct and x.strength_pct >= target else -1)
    assert lot.strength_pct is not None
    mix = dilute(lot.strength_pct, target, recipe.make_ml if make_ml is None else make_ml, recipe.graduation_ml)
    most = most_from(lot.amount, lot.strength_pct, target)
    if mix.stock_rounded_ml > lot.amount + 1e-9:
        raise Refused(
            f"{mix.stock_rounded_ml:g} ml are needed, {lot.amount:g} ml are left in the bottle.",
            todo=f"It makes {most:.0f} ml at most. Make less, or book a new bottle in.",
            most_ml=most,
        )
    return MixPlan(recipe, lot, mix, most)


def make_mix(shop: Shop, act: Act, plan: MixPlan, job_id: int | None) -> Lot:
    """Make the mix inside a use case: the bottle is drawn down, the mix becomes a lot with a discard time."""
    bottle = act.session.get(Lot, plan.lot.id)
    if bottle is None or bottle.amount + 1e-9 < plan.mix.stock_rounded_ml:
        raise Refused("The bottle has changed meanwhile.", todo="Look at the mix again.")
    bottle.amount = round(bottle.amount - plan.mix.stock_rounded_ml, 6)
    act.session.add(
        StockMove(lot_id=bottle.id, job_id=job_id, amount=-plan.mix.stock_rounded_ml, why="mix", at=act.now)
    )
    made = Lot(
        item=plan.recipe.product,
        lot=f"from {bottle.lot or 'bottle'}",
        amount=plan.mix.make_ml,
        strength_pct=round(plan.mix.strength_pct, 3),
        contact_min=bottle.contact_min,
        made_at=act.now,
        discard_at=act.now + timedelta(hours=plan.recipe.keeps_hours),
    )
    act.session.add(made)
    act.session.flush()
    supply = shop.catalogue.supplies[plan.recipe.stock]
    if bottle.amount <= supply.reorder_at:
        act.notes.append(f"{supply.name}: {bottle.amount:g} {supply.unit} left, order more.")
    return made
