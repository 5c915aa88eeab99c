"""The bench's own reeds for play-tests: each rests after use, is cleaned in time, and thrown away in time."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.contact import Contact, contact_at
from creekbed.workshop.shop.shop import Shop, one_change

SETTING, BATH = "reeds", "reed_bath"
RESTS = timedelta(hours=24)
"""How long a cane reed rests after it was played, so that it dries through: house default."""
CLEAN_AFTER, CLEAN_DAYS = 5, 7.0
"""Uses, and days since the first of them, after which it is cleaned: weekly, common practice, no source."""
LASTS = 30
"""Uses after which it is thrown away: house default."""
CONTACT, LONGEST = timedelta(minutes=30), timedelta(minutes=45)
"""In peroxide about 30 minutes: common practice, no source; longest time: house default."""
MOST = 60


@dataclass(frozen=True)
class Reed:
    """One reed of the bench.

    Attributes:
        id: its number on the case. group: of the families that it is for. uses: since it was new; fresh_uses: since it
        was cleaned. last: when it was played last. first: when it was first played since cleaning. cleanings: so far.
    """

    id: int
    group: str
    uses: int = 0
    fresh_uses: int = 0
    last: datetime | None = None
    first: datetime | None = None
    cleanings: int = 0

    def rested(self, now: datetime) -> bool:
        """Whether it has dried through since it was played."""
        return self.last is None or now - self.last >= RESTS

    def to_clean(self, now: datetime) -> bool:
        """Whether it wants cleaning before it is played again."""
        old = self.first is not None and now - self.first >= timedelta(days=CLEAN_DAYS)
        return self.fresh_uses >= CLEAN_AFTER or (self.fresh_uses > 0 and old)

    @property
    def worn(self) -> bool:
        """Whether it is thrown away."""
        return self.uses >= LASTS

    def state(self, now: datetime) -> str:
        """How it stands, in words."""
        if self.worn:
            return "throw it away"
        if self.to_clean(now):
            return "clean it first"
        if not self.rested(now):
            assert self.last is not None
            hours = (RESTS - (now - self.last)).total_seconds() / 3600
            return f"rests, {hours:.0f} h more"
        return "ready"


@dataclass(frozen=True)
class ReedBath:
    """Reeds that lie in peroxide together."""

    reeds: tuple[int, ...]
    since: datetime

    def at(self, now: datetime) -> Contact:
        """How its time stands."""
        return contact_at(now, self.since, CONTACT, LONGEST, self.since)


def _time(text: Any) -> datetime | None:
    return datetime.fromisoformat(text) if text else None


def reeds(shop: Shop) -> list[Reed]:
    """Every reed of the bench, by group and number."""
    found = [
        Reed(int(r["id"]), str(r["group"]), int(r["uses"]), int(r["fresh_uses"]), _time(r.get("last")),
             _time(r.get("first")), int(r["cleanings"]))
        for r in shop.setting(SETTING) or []
    ]  # fmt: skip
    return sorted(found, key=lambda r: (r.group, r.id))


def _keep(shop: Shop, rows: list[Reed], words: str) -> None:
    value = [
        {
            "id": r.id, "group": r.group, "uses": r.uses, "fresh_uses": r.fresh_uses, "cleanings": r.cleanings,
            "last": r.last.isoformat() if r.last else "", "first": r.first.isoformat() if r.first else "",
        }
        for r in rows
    ]  # fmt: skip
    shop.set_setting(SETTING, value, words)


def next_reed(shop: Shop, group: str) -> Reed | None:
    """The reed to take for a play-test: clean, rested, the one that has rested longest; ``None``: none is."""
    now = shop.now
    lying = bath(shop)
    in_bath = lying.reeds if lying is not None else ()
    fit = [
        r for r in reeds(shop)
        if r.group == group and r.id not in in_bath and not r.worn and r.rested(now) and not r.to_clean(now)
    ]  # fmt: skip
    return min(fit, key=lambda r: (r.last is not None, r.last or now, r.id), default=None)


@one_change
def add_reed(shop: Shop, group: str) -> Reed:
    """A new reed for a group of families.

    Raises:
        BadInput: a group that plays no reed, or too many.
    """
    groups = {f.group for f in shop.catalogue.families.values()}
    rows = reeds(shop)
    if group not in groups:
        raise BadInput("That group is not known here.")
    if len(rows) >= MOST:
        raise BadInput(f"There are {MOST} reeds already.", todo="Throw the worn ones away.")
    reed = Reed(max((r.id for r in rows), default=0) + 1, group)
    _keep(shop, [*rows, reed], f"Bench reed {reed.id}, {group}: new")
    return reed


@one_change
def play(shop: Shop, reed_id: int) -> None:
    """A reed was played.

    Raises:
        Refused: it lies in peroxide, is worn, or wants cleaning.
    """
    reed, now = _named(shop, reed_id), shop.now
    lying = bath(shop)
    if lying is not None and reed_id in lying.reeds:
        raise Refused(f"Reed {reed_id} lies in peroxide.", todo="Take another one.")
    if reed.worn or reed.to_clean(now):
        raise Refused(f"Reed {reed_id}: {reed.state(now)}.", todo="Take another one.")
    played = replace(
        reed, uses=reed.uses + 1, fresh_uses=reed.fresh_uses + 1, last=now, first=reed.first if reed.fresh_uses else now
    )
    _replace(shop, played, f"Bench reed {reed_id}: played, {played.uses} times")


@one_change
def throw_away(shop: Shop, reed_id: int) -> None:
    """A reed is gone."""
    _named(shop, reed_id)
    _keep(shop, [r for r in reeds(shop) if r.id != reed_id], f"Bench reed {reed_id}: thrown away")


def _named(shop: Shop, reed_id: int) -> Reed:
    found = next((r for r in reeds(shop) if r.id == reed_id), None)
    if found is None:
        raise BadInput("That reed is not here.")
    return found


def _replace(shop: Shop, reed: Reed, words: str) -> None:
    _keep(shop, [reed if r.id == reed.id else r for r in reeds(shop)], words)


def bath(shop: Shop) -> ReedBath | None:
    """The reeds that lie in peroxide now."""
    value = shop.setting(BATH)
    return ReedBath(tuple(value["reeds"]), datetime.fromisoformat(value["since"])) if value else None


@one_change
def lay_in(shop: Shop) -> ReedBath:
    """Lay every reed in that wants cleaning, of all groups, as one batch.

    Raises:
        Refused: a batch lies in already, or none wants cleaning.
    """
    if bath(shop) is not None:
        raise Refused("A batch lies in already.", todo="Take it out first.")
    ids = [r.id for r in reeds(shop) if r.to_clean(shop.now) and not r.worn]
    if not ids:
        raise Refused("No reed wants cleaning.")
    value = {"reeds": ids, "since": shop.now.isoformat()}
    shop.set_setting(BATH, value, f"Bench reeds {', '.join(map(str, ids))}: into peroxide")
    return ReedBath(tuple(ids), shop.now)


@one_change
def take_out(shop: Shop) -> str:
    """Take the batch out; what was passed of its longest time is said and on record.

    Raises:
        Refused: none lies in, or its time is not over.
    """
    lying = bath(shop)
    if lying is None:
        raise Refused("No reed lies in peroxide.")
    state = lying.at(shop.now)
    if not state.may_end:
        left = state.remaining.total_seconds() / 60
        raise Refused(f"Not yet: {left:.0f} min are missing.", todo="See that the playing ends are wet.")
    over = state.over.total_seconds() / 60
    late = f", {over:.0f} min past the longest time: look at each tip" if over >= 0.5 else ""
    rows = [
        replace(r, fresh_uses=0, first=None, cleanings=r.cleanings + 1, last=shop.now) if r.id in lying.reeds else r
        for r in reeds(shop)
    ]
    _keep(shop, rows, f"Bench reeds {', '.join(map(str, lying.reeds))}: cleaned{late}")
    shop.set_setting(BATH, {}, f"The peroxide of the bench reeds is thrown away{late}")
    return f"Soak them in clean water, rinse several times, dry them flat. Throw the peroxide away{late}."
