"""What is kept beside the stock: cloths dry, wet and dirty, water that was weighed, what each instrument takes."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from typing import TYPE_CHECKING, Any

from sqlalchemy.orm import Session

from creekbed.core.climate.breath import Share, learn_share
from creekbed.core.errors import BadInput, Refused
from creekbed.core.procedure.build import BuiltStep, school_values, water_of
from creekbed.core.units import parse_quantity
from creekbed.store.problems import DamagedCell
from creekbed.store.tables import Setting
from creekbed.workshop.inspection.air_way import SETTING as WAYS
from creekbed.workshop.inspection.air_way import own_ways
from creekbed.workshop.shop.shop import Act, Shop
from creekbed.workshop.shop.stored import readable

if TYPE_CHECKING:
    from creekbed.workshop.bench.job_view import JobView

CLOTHS, WATER, TOOK = "shelf_cloths", "water_weighed", "took"
STUFFS = ("silk", "microfibre", "cotton")
DRY_HOURS = {"silk": 2.0, "microfibre": 4.0, "cotton": 6.0}
"""How long a washed cloth hangs until it is dry: house default."""
AT_FIRST = 12
"""So many of each stuff lie dry on the shelf until they are counted: house default."""
MOST_CLOTHS, MOST_WEIGHED, MOST_GRAMS = 200, 40, 200.0


@dataclass(frozen=True)
class Count:
    """Cloths of one stuff. wet: until when, and how many."""

    dry: int = AT_FIRST
    dirty: int = 0
    wet: tuple[tuple[datetime, int], ...] = ()

    def at(self, now: datetime) -> Count:
        """What has dried by now counts as dry."""
        done = sum(n for until, n in self.wet if until <= now)
        return replace(self, dry=self.dry + done, wet=tuple((u, n) for u, n in self.wet if u > now))

    @property
    def hanging(self) -> int:
        """How many are wet."""
        return sum(n for _, n in self.wet)

    @property
    def next_dry(self) -> datetime | None:
        """When the next one is dry."""
        return min((u for u, _ in self.wet), default=None)

    def words(self) -> str:
        """As people say it: "5 dry, 2 wet, 1 dirty"."""
        return f"{self.dry} dry, {self.hanging} wet, {self.dirty} dirty"


@dataclass(frozen=True)
class Shelf:
    """What jobs depend on of it.

    Attributes:
        cloths: stuff → count, as it was kept. weighed: family → (bound, water found), g. ways: tag → way of the air.
        took: tag → supply → amount that it took last.
    """

    cloths: Mapping[str, Count] = field(default_factory=dict)
    weighed: Mapping[str, tuple[tuple[float, float], ...]] = field(default_factory=dict)
    ways: Mapping[str, tuple[int, ...]] = field(default_factory=dict)
    took: Mapping[str, Mapping[str, float]] = field(default_factory=dict)

    def count(self, stuff: str, now: datetime) -> Count:
        """How many cloths of a stuff are dry, wet and dirty now."""
        return self.cloths.get(stuff, Count()).at(now)

    def dry(self, now: datetime) -> dict[str, int]:
        """How many washed, dry cloths of each stuff lie there now."""
        return {s: self.count(s, now).dry for s in STUFFS}

    def share(self, family: str) -> Share:
        """What share of the water that breath can leave was found, in a family."""
        return learn_share(self.weighed.get(family, ()))


def shelf_of(session: Session) -> Shelf:
    """As it is kept; what cannot be read is passed by, and the daily reading tells of it."""
    return Shelf(
        readable(_read(session, CLOTHS), _count_of), readable(_read(session, WATER), _pairs_of),
        own_ways(_read(session, WAYS)), readable(_read(session, TOOK), _amounts_of),
    )  # fmt: skip


def _read(session: Session, key: str) -> Any:
    try:
        row = session.get(Setting, key)
    except DamagedCell:
        return None
    return row.value.get("v") if row is not None else None


def _count_of(row: Any) -> Count:
    wet = tuple((datetime.fromisoformat(u), int(n)) for u, n in row["wet"])
    return Count(max(int(row["dry"]), 0), max(int(row["dirty"]), 0), wet)


def _pairs_of(rows: Any) -> tuple[tuple[float, float], ...]:
    return tuple((float(a), float(b)) for a, b in rows)


def _amounts_of(rows: Any) -> dict[str, float]:
    return {str(k): float(v) for k, v in rows.items()}


# --- cloths ---------------------------------------------------------------------------------------------------------


def counts(shop: Shop) -> dict[str, Count]:
    """Every stuff with its count now."""
    with shop.reading() as session:
        shelf = shelf_of(session)
    return {stuff: shelf.count(stuff, shop.now) for stuff in STUFFS}


def _kept(count: Count) -> dict[str, Any]:
    return {"dry": count.dry, "dirty": count.dirty, "wet": [[u.isoformat(), n] for u, n in count.wet]}


def _all(found: Mapping[str, Count]) -> dict[str, Any]:
    return {stuff: _kept(count) for stuff, count in found.items()}


def stuff_of(step: BuiltStep, pulled: str = "") -> str:
    """What the washed, dry cloth is of that a step takes from the shelf; "" where it takes none.

    Args:
        pulled: stuff of the pull-through that it was done with.
    """
    if not step.fresh or not step.cloth:
        return ""
    if pulled in STUFFS:
        return pulled
    return next((s for s in STUFFS if s in step.cloth), "cotton" if "cloth" in step.cloth else "")


def _lying(act: Act) -> dict[str, Count]:
    """Every stuff with its count, as the use case finds it."""
    shelf = shelf_of(act.session)
    return {stuff: shelf.count(stuff, act.now) for stuff in STUFFS}


def take(shop: Shop, act: Act, stuff: str) -> None:
    """A washed, dry cloth is taken and is dirty now, inside a use case."""
    found = _lying(act)
    here = found[stuff]
    if here.dry == 0:
        act.notes.append(f"By the count no dry {stuff} was on the shelf: count them again.")
    found[stuff] = replace(here, dry=max(here.dry - 1, 0), dirty=here.dirty + 1)
    shop.keep_setting(act, CLOTHS, _all(found))


def hang_up(shop: Shop, stuff: str) -> None:
    """All dirty cloths of a stuff were washed and hang on the line.

    Raises:
        BadInput: no such stuff. Refused: none is dirty.
    """
    if stuff not in STUFFS:
        raise BadInput("There is no such cloth.")
    with shop.changing() as act:
        found = _lying(act)
        here = found[stuff]
        if not here.dirty:
            raise Refused(f"No {stuff} lies in the basket.")
        until = act.now + timedelta(hours=DRY_HOURS[stuff])
        found[stuff] = replace(here, dirty=0, wet=(*here.wet, (until, here.dirty)))
        shop.keep_setting(act, CLOTHS, _all(found))
        act.words = f"{here.dirty} {stuff} washed, on the line till {until.astimezone():%H:%M}"


def count_again(shop: Shop, stuff: str, dry: int, dirty: int) -> None:
    """What lies there was counted; what hangs wet stays.

    Raises:
        BadInput: no such stuff, or numbers that cannot be.
    """
    if stuff not in STUFFS or not (0 <= dry <= MOST_CLOTHS and 0 <= dirty <= MOST_CLOTHS):
        raise BadInput(f"Count 0 to {MOST_CLOTHS} cloths of {', '.join(STUFFS)}.")
    with shop.changing() as act:
        found = _lying(act)
        found[stuff] = replace(found[stuff], dry=dry, dirty=dirty)
        shop.keep_setting(act, CLOTHS, _all(found))
        act.words = f"{stuff.capitalize()}: {dry} dry, {dirty} dirty, counted"


_COUNT = re.compile(r"\s*(\d{1,3})\s*(?:dry)?\s*(?:,|and)?\s*(?:(\d{1,3})\s*dirty)?\s*")


def read_count(text: str) -> tuple[int, int]:
    """How many are dry and how many dirty, from "5 dry, 2 dirty" or "5".

    Raises:
        BadInput: it cannot be read.
    """
    found = _COUNT.fullmatch(text.lower())
    if found is None:
        raise BadInput(f"“{text[:30]}” cannot be read.", todo="Write “5 dry, 2 dirty”.")
    return int(found[1]), int(found[2] or 0)


# --- water, and what was taken --------------------------------------------------------------------------------------


def weigh_water(shop: Shop, family: str, bound_g: float, found_g: float) -> Share:
    """Keep how much water a played bore, or the cloth after it, was found to hold.

    Args:
        bound_g: what breath can leave at most, of that playing. found_g: what the scale says.

    Returns:
        What is known of that family now.

    Raises:
        BadInput: a family that is not blown, or weights that cannot be.
    """
    known = shop.catalogue.families.get(family)
    if known is None or known.breath is None:
        raise BadInput("That family is not blown.")
    if not (0 < bound_g <= MOST_GRAMS and 0 < found_g <= MOST_GRAMS):
        raise BadInput("So much water cannot be.", todo="Weigh it again: after, less before.")
    with shop.changing() as act:
        weighed = dict(shelf_of(act.session).weighed)
        weighed[family] = (*weighed.get(family, ()), (bound_g, found_g))[-MOST_WEIGHED:]
        shop.keep_setting(act, WATER, {f: [list(row) for row in rows] for f, rows in weighed.items()})
        act.words = f"{known.name}: {found_g:.1f} g of water weighed, {bound_g:.1f} g at most by breath"
    return learn_share(weighed[family])


def weigh_played(shop: Shop, view: JobView, gained: str) -> Share:
    """What an instrument, or the cloth that was drawn through it, gained by the play-test, as typed.

    Raises:
        BadInput: no weight, or one that cannot be.
    """
    grams = parse_quantity(gained, "gram", what="What it gained", minimum=0.0, maximum=MOST_GRAMS)
    values = school_values(shop.catalogue.picked(view.family, view.situation.schools))
    water = water_of(shop.catalogue, view.family, view.situation, values)
    return weigh_water(shop, view.family.key, water.bound_g if water is not None else 0.0, grams)


def note_took(shop: Shop, act: Act, tag: str, supply: str, amount: float) -> None:
    """Keep how much of a supply an instrument took, inside a use case."""
    took = {t: dict(rows) for t, rows in shelf_of(act.session).took.items()}
    took[tag] = {**took.get(tag, {}), supply: amount}
    shop.keep_setting(act, TOOK, took)
