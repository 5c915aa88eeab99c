"""Records beside the stock: dry, wet and dirty cloths, weighed water, amounts that each instrument took."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from dataclasses import field, replace
from datetime import datetime, timedelta
from typing import TYPE_CHECKING, Any

from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.steps import STUFFS
from creekbed.core.climate.breath import Share, learn_share
from creekbed.core.conventions import clock, number
from creekbed.core.errors import BadInput, Refused
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.procedure.situation import policy_values
from creekbed.core.procedure.step_waits import water_of
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.strings.learned import Reading, learned_times
from creekbed.core.units import parse_quantity
from creekbed.store.reader import Reader
from creekbed.store.records import ClothCount, ClothOnLine, LubricantTaken, StringDrop, WaterWeighing
from creekbed.words.cloths import count_words
from creekbed.workshop.shop.shop import Act, Shop

if TYPE_CHECKING:
    from creekbed.workshop.bench.job_view import JobView

DRY_HOURS = {"silk": 2.0, "microfibre": 4.0, "cotton": 6.0}
"""How long a washed cloth hangs until it is dry: house default."""
AT_FIRST = 12
"""How many dry cloths of each material are assumed until they are counted: house default."""
MOST_CLOTHS, MOST_WEIGHED, MOST_GRAMS = 200, 40, 200.0
MOST_DROPS = 400
"""So many of the last readings of settling strings teach."""


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
        return count_words(self.dry, self.hanging, self.dirty)


@dataclass(frozen=True)
class Shelf:
    """What jobs depend on of it.

    Attributes:
        cloths: stuff → count, as it was kept. weighed: family → (bound, water found), g.
        took: tag → supply → amounts that it took, the last at the end.
        settled: family → job → what was read of its new strings.
    """

    cloths: Mapping[str, Count] = field(default_factory=dict)
    weighed: Mapping[str, tuple[tuple[float, float], ...]] = field(default_factory=dict)
    took: Mapping[str, Mapping[str, tuple[float, ...]]] = field(default_factory=dict)
    settled: Mapping[str, Mapping[int, tuple[Reading, ...]]] = field(default_factory=dict)

    def creeps_times(self, family: Family, job_id: int) -> float:
        """How many times as much as the house says the new strings of a family creep here, by those of other jobs."""
        known = self.settled.get(family.key)
        if family.stringed is None or not known:
            return 1.0
        others = [readings for job, readings in known.items() if job != job_id]
        return learned_times(others, family.stringed.creep_cents, family.stringed.creep_tau_min)

    def count(self, stuff: str, now: datetime) -> Count:
        """How many cloths of a stuff are dry, wet and dirty now."""
        return self.cloths.get(stuff, Count()).at(now)

    def dry(self, now: datetime) -> dict[str, int]:
        """How many washed, dry cloths of each stuff lie there now."""
        return {s: self.count(s, now).dry for s in STUFFS}

    def share(self, family: str) -> Share:
        """What share of the water that breath can leave was found, in a family."""
        return learn_share(self.weighed.get(family, ()))


CLOTHS, WATER, TOOK, SETTLED = ("cloth_count", "cloth_on_line"), "water_weighing", "lubricant_taken", "string_drop"
TABLES = frozenset({*CLOTHS, WATER, TOOK, SETTLED})
"""What a :class:`Shelf` is read from."""


def shelf_of(records: Reader, tables: Collection[str] = TABLES, known: Shelf | None = None) -> Shelf:
    """As it is kept; what cannot be read is passed by, and the daily check tells of it.

    Args:
        tables: what is read; the rest is as ``known``, or empty.
    """
    read: dict[str, Any] = {}
    if not set(CLOTHS).isdisjoint(tables):
        read["cloths"] = _counts(records)
    if WATER in tables:
        read["weighed"] = _weighed(records)
    if TOOK in tables:
        took: dict[str, dict[str, tuple[float, ...]]] = {}
        for taken in records.readable(LubricantTaken):
            took.setdefault(taken.tag, {})[taken.supply] = (*taken.earlier, taken.amount)
        read["took"] = took
    if SETTLED in tables:
        settled: dict[str, dict[int, tuple[Reading, ...]]] = {}
        for drop in records.readable(StringDrop, newest=True, limit=MOST_DROPS):
            mine = settled.setdefault(drop.family, {})
            mine[drop.job_id] = (*mine.get(drop.job_id, ()), (drop.from_min, drop.to_min, drop.cents))
        read["settled"] = settled
    return replace(known or Shelf(), **read)


def _weighed(records: Reader) -> dict[str, tuple[tuple[float, float], ...]]:
    weighed: dict[str, tuple[tuple[float, float], ...]] = {}
    for row in records.readable(WaterWeighing):
        weighed[row.family] = (*weighed.get(row.family, ()), (row.bound_g, row.found_g))[-MOST_WEIGHED:]
    return weighed


def _counts(records: Reader) -> dict[str, Count]:
    wet: dict[str, tuple[tuple[datetime, int], ...]] = {}
    for row in records.readable(ClothOnLine):
        wet[row.stuff] = (*wet.get(row.stuff, ()), (row.dry_at, row.number))
    found = {c.stuff: Count(c.dry, c.dirty, wet.get(c.stuff, ())) for c in records.readable(ClothCount)}
    return {**{stuff: Count(wet=hanging) for stuff, hanging in wet.items()}, **found}


# --- cloths ---------------------------------------------------------------------------------------------------------


def counts(shop: Shop) -> dict[str, Count]:
    """Every stuff with its count now."""
    with shop.reading() as records:
        found = _counts(records)
    return {stuff: found.get(stuff, Count()).at(shop.now) for stuff in STUFFS}


def stuff_of(step: BuiltStep, pulled: str = "") -> str:
    """What the washed, dry cloth is of that a step takes from the shelf; "" where it takes none.

    Args:
        pulled: stuff of the pull-through that it was done with.
    """
    if not step.fresh or not step.cloth:
        return ""
    return pulled if pulled in STUFFS else step.stuff


def _row(act: Act, stuff: str) -> ClothCount:
    """The count of a stuff with what has dried by now taken in; to be put on record."""
    row = act.records.get(ClothCount, stuff) or ClothCount(stuff=stuff, dry=AT_FIRST)
    dried = 0
    for line in act.records.all_of(ClothOnLine, stuff=stuff):
        if line.dry_at <= act.now:
            dried += line.number
            act.records.remove(line)
    return replace(row, dry=row.dry + dried)


def take(act: Act, stuff: str) -> None:
    """A washed, dry cloth is taken and is dirty now, inside a use case."""
    row = _row(act, stuff)
    if row.dry == 0:
        act.notes.append(f"By the count no dry {stuff} was on the shelf: count them again.")
    act.records.put(replace(row, dry=max(row.dry - 1, 0), dirty=row.dirty + 1))


def hang_up(shop: Shop, stuff: str) -> None:
    """All dirty cloths of a stuff were washed and hang on the line.

    Raises:
        BadInput: no such stuff. Refused: none is dirty.
    """
    if stuff not in STUFFS:
        raise BadInput("There is no such cloth.")
    with shop.act("cloths") as act:
        row = _row(act, stuff)
        if not row.dirty:
            raise Refused(f"No {stuff} lies in the basket.")
        until = act.now + timedelta(hours=DRY_HOURS[stuff])
        act.records.add(ClothOnLine(stuff=stuff, number=row.dirty, dry_at=until))
        act.records.put(replace(row, dirty=0))
        act.words = f"{row.dirty} {stuff} washed, on the line till {clock(until)}"


def count_again(shop: Shop, stuff: str, dry: int, dirty: int) -> None:
    """What lies there was counted; what hangs wet stays.

    Raises:
        BadInput: no such stuff, or numbers that cannot be.
    """
    if stuff not in STUFFS or not (0 <= dry <= MOST_CLOTHS and 0 <= dirty <= MOST_CLOTHS):
        raise BadInput(f"Count 0 to {MOST_CLOTHS} cloths of {', '.join(STUFFS)}.")
    with shop.act("cloths") as act:
        act.records.put(replace(_row(act, stuff), dry=dry, dirty=dirty))
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
    with shop.act("water") as act:
        act.records.add(WaterWeighing(family=family, bound_g=bound_g, found_g=found_g, at=act.now))
        weighed = [(w.bound_g, w.found_g) for w in act.records.all_of(WaterWeighing, family=family)]
        act.words = f"{known.name}: {number(found_g, 1)} g of water weighed, {number(bound_g, 1)} g at most by breath"
    return learn_share(weighed[-MOST_WEIGHED:])


def weigh_played(shop: Shop, view: JobView, gained: str) -> Share:
    """What an instrument, or the cloth that was drawn through it, gained by the play-test, as typed.

    Raises:
        BadInput: no weight, or one that cannot be.
    """
    grams = parse_quantity(gained, "gram", what="What it gained", minimum=0.0, maximum=MOST_GRAMS)
    values = policy_values(shop.catalogue.picked(view.family, view.situation.policies))
    water = water_of(shop.catalogue, view.family, view.situation, values)
    return weigh_water(shop, view.family.key, water.bound_g if water is not None else 0.0, grams)


MOST_TOOK = 11
"""So many amounts before the last are kept: an instrument changes over the years; house default."""


def note_took(act: Act, tag: str, supply: str, amount: float) -> None:
    """Keep how much of a supply an instrument took, inside a use case."""
    before = act.records.get(LubricantTaken, tag, supply)
    earlier = [*before.earlier, before.amount][-MOST_TOOK:] if before is not None else []
    act.records.put(LubricantTaken(tag=tag, supply=supply, amount=amount, earlier=earlier))
