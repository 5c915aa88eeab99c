"""Lots, what was taken out of them, prices, and the storage room's air."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import bindparam, func, select

from creekbed.store.records import AirReading, Lot, Price, ShelfEntry, StockMove
from creekbed.store.tables import TABLES

if TYPE_CHECKING:
    from creekbed.store.reader import Reader

_L, _M, _A, _P, _E = TABLES[Lot], TABLES[StockMove], TABLES[AirReading], TABLES[Price], TABLES[ShelfEntry]
_LEFT = select(_L).where(_L.c.item.in_(bindparam("items", expanding=True)), _L.c.amount > 0).order_by(_L.c.id)
_LEFT_AND_LEAST = _LEFT.add_columns(_E.c.minimum.label("least")).outerjoin(_E, _E.c.item == _L.c.item)
_LAST_LOT = select(_L).where(_L.c.item == bindparam("item")).order_by(_L.c.id.desc()).limit(1)
_DRAWN = (
    select(_L)
    .join(_M, _M.c.lot_id == _L.c.id)
    .where(
        _M.c.job_id == bindparam("job_id"), _L.c.item.in_(bindparam("items", expanding=True)), _M.c.amount < 0
    )
    .order_by(_M.c.id.desc())
    .limit(1)
)  # fmt: skip
_MOVES = (
    select(_M.c.amount, _L.c.item)
    .join(_L, _L.c.id == _M.c.lot_id)
    .where(_M.c.job_id == bindparam("job_id"))
    .order_by(_M.c.id)
)
_OPENED = select(_M.c.at).where(_M.c.lot_id == bindparam("lot_id"), _M.c.amount < 0).order_by(_M.c.id).limit(1)
_COUNTED = select(_L.c.item).distinct()
_NEWEST_FIRST = func.row_number().over(partition_by=_P.c.item, order_by=(_P.c.valid_from.desc(), _P.c.id.desc()))
_RANKED = (
    select(_P.c.item, _P.c.price, _NEWEST_FIRST.label("rank")).where(_P.c.valid_from <= bindparam("at")).subquery()
)
_PRICES = select(_RANKED.c.item, _RANKED.c.price).where(_RANKED.c.rank == 1)
_AIR_SINCE = select(_A).where(_A.c.at >= bindparam("since")).order_by(_A.c.at)
_AIR_LAST = select(_A).order_by(_A.c.at.desc()).limit(1)


class Stock:
    """Questions about supplies and the storage room."""

    def __init__(self, reader: Reader):
        self._reader = reader

    def lots_of(self, items: Collection[str]) -> list[Lot]:
        """Lots of some supplies with something in them, by number; those that cannot be read are left out."""
        from creekbed.store.problems import DamagedCell

        try:
            return self._reader.fetch(Lot, _LEFT, {"items": sorted(items)})
        except DamagedCell:
            return [x for x in self._reader.readable(Lot, item=list(items)) if x.amount > 0]

    def lots_and_minimums(self, items: Collection[str]) -> tuple[list[Lot], dict[str, float | None]]:
        """As :meth:`lots_of`, and from which amount on the shop calls each of these supplies short.

        The minimum of a supply without such a lot is not among them; ``None``: the shop has said nothing.
        """
        from creekbed.store.problems import DamagedCell

        try:
            found = self._reader.fetch_with(Lot, _LEFT_AND_LEAST, {"items": sorted(items)})
        except DamagedCell:
            said = {e.item: e.minimum for e in self._reader.readable(ShelfEntry)}
            return self.lots_of(items), {item: said.get(item) for item in items}
        return [lot for lot, _ in found], {row["item"]: row["least"] for _, row in found}

    def counted(self) -> frozenset[str]:
        """Supplies of which there ever was a lot."""
        return frozenset(item for (item,) in self._reader.rows(_COUNTED))

    def last_lot(self, item: str) -> Lot | None:
        """The newest lot of a supply, also an empty one."""
        return next(iter(self._reader.fetch(Lot, _LAST_LOT, {"item": item})), None)

    def last_drawn(self, job_id: int, items: Collection[str]) -> Lot | None:
        """The lot of some supplies that a job drew from last."""
        return next(iter(self._reader.fetch(Lot, _DRAWN, {"job_id": job_id, "items": sorted(items)})), None)

    def moves_of(self, job_id: int) -> list[tuple[float, str]]:
        """(amount, supply) of everything that a job moved."""
        return [(amount, item) for amount, item in self._reader.rows(_MOVES, {"job_id": job_id})]

    def opened_at(self, lot_id: int) -> datetime | None:
        """When something was first taken out of a lot."""
        found: datetime | None = self._reader.value(_OPENED, {"lot_id": lot_id})
        return found

    def prices(self, at: datetime) -> dict[str, float]:
        """Supply → what one piece costs at a moment; supplies without a price are not among them."""
        return {item: price for item, price in self._reader.rows(_PRICES, {"at": at}) if price is not None}

    # --- the storage room ---------------------------------------------------------------------------------------

    def air_since(self, since: datetime) -> list[AirReading]:
        """Readings of the room's air from a moment on, oldest first."""
        return self._reader.fetch(AirReading, _AIR_SINCE, {"since": since})

    def last_air(self) -> AirReading | None:
        """The newest reading of the room's air."""
        return next(iter(self._reader.fetch(AirReading, _AIR_LAST)), None)

    def air_times(self) -> set[datetime]:
        """When the room's air was read."""
        return {at for (at,) in self._reader.rows(select(_A.c.at))}
