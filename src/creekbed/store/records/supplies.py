"""Stock and prices."""

from __future__ import annotations

from dataclasses import field
from datetime import datetime
from typing import ClassVar

from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.records.base import INDEXED, KEY, NEW, Versioned, refers


@dataclass(frozen=True, slots=True, kw_only=True)
class Lot(Versioned):
    """Stock of one supply that came or was made together.

    Attributes:
        contact_min: contact time that its label asks for, minutes.
    """

    TABLE: ClassVar[str] = "lot"
    id: int = field(default=NEW, metadata=KEY)
    item: str = field(metadata=INDEXED)
    lot: str = ""
    amount: float
    strength_pct: float | None = None
    contact_min: float | None = None
    made_at: datetime
    discard_at: datetime | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class StockMove(Versioned):
    """What was put into a lot or taken out of it."""

    TABLE: ClassVar[str] = "stock_move"
    id: int = field(default=NEW, metadata=KEY)
    lot_id: int = field(metadata=refers("lot.id", index=True))
    job_id: int | None = field(default=None, metadata=refers("job.id", index=True))
    amount: float
    why: str
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Price(Versioned):
    """What one piece of a supply costs on the bill from a date on, in the shop's money; ``None``: no price."""

    TABLE: ClassVar[str] = "price"
    INDEXES: ClassVar[dict[str, tuple[str, ...]]] = {"ix_price_item": ("item", "valid_from")}
    id: int = field(default=NEW, metadata=KEY)
    item: str
    price: float | None = None
    valid_from: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class ShelfEntry(Versioned):
    """What the shop says of a supply.

    Attributes:
        place: where it lies, in the shop's words, or "". aside: the shop never uses it. minimum: from which amount on
            it is ordered; ``None``: as it ships.
    """

    TABLE: ClassVar[str] = "shelf_entry"
    item: str = field(metadata=KEY)
    place: str = ""
    aside: bool = False
    minimum: float | None = None
