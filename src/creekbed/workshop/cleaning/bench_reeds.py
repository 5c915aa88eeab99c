"""The bench's own reeds for play-tests: each rests after use, is cleaned in time, and thrown away in time."""

from __future__ import annotations

from datetime import datetime, timedelta

from creekbed.core.conventions import number
from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.contact import Contact, contact_at
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.reader import Reader
from creekbed.store.records import BenchReed, ReedBath
from creekbed.words.reeds import reed_words, too_long
from creekbed.workshop.shop.shop import Act, Shop

RESTS = timedelta(hours=24)
"""How long a cane reed rests after it was played, so that it dries through: house default."""
CLEAN_AFTER, CLEAN_DAYS = 5, 7.0
"""Uses, and days since the first of them, after which it is cleaned: weekly, common practice, no source."""
LASTS, LASTS_MIN = 30, 360.0
"""Uses, and minutes of playing, after which it is thrown away: house default."""
LONGEST_PLAY_MIN = 240.0
"""Nobody plays one reed longer without a rest: house default."""
CONTACT, LONGEST = timedelta(minutes=30), timedelta(minutes=45)
"""In peroxide about 30 minutes: common practice, no source; longest time: house default."""
MOST = 60


@dataclass(frozen=True)
class Reed:
    """One reed of the bench.

    Attributes:
        id: its number on the case. group: of the families that it is for. uses: since it was new; fresh_uses: since it
        was cleaned. last: when it was played last. first: when it was first played since cleaning. cleanings: so far.
        minutes: how long it was played since it was new.
    """

    id: int
    group: str
    uses: int = 0
    fresh_uses: int = 0
    last: datetime | None = None
    first: datetime | None = None
    cleanings: int = 0
    minutes: float = 0.0

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
        return self.uses >= LASTS or self.minutes >= LASTS_MIN

    def state(self, now: datetime) -> str:
        """How it stands, in words."""
        if self.worn:
            return reed_words("worn")
        if self.to_clean(now):
            return reed_words("clean")
        if not self.rested(now):
            assert self.last is not None
            return reed_words("rests", (RESTS - (now - self.last)).total_seconds() / 3600)
        return reed_words("ready")


@dataclass(frozen=True)
class LyingReeds:
    """Reeds that lie in peroxide together."""

    reeds: tuple[int, ...]
    since: datetime

    def at(self, now: datetime) -> Contact:
        """How its time stands."""
        return contact_at(now, self.since, CONTACT, LONGEST, self.since)


def reeds(shop: Shop) -> list[Reed]:
    """Every reed of the bench, by group and number."""
    with shop.reading() as records:
        return reeds_in(records)


def reeds_in(records: Reader) -> list[Reed]:
    """As :func:`reeds`, from records that are open already."""
    return sorted(map(_reed, records.readable(BenchReed)), key=lambda r: (r.group, r.id))


def _reed(row: BenchReed) -> Reed:
    return Reed(row.id, row.group_name, row.uses, row.fresh_uses, row.last_at, row.first_at, row.cleanings, row.minutes)


def next_reed(shop: Shop, group: str) -> Reed | None:
    """The reed to take for a play-test: clean, rested, the one that has rested longest; ``None``: none is."""
    now = shop.now
    with shop.reading() as records:
        lying = _lying(records)
        in_bath = lying.reeds if lying is not None else ()
        fit = [
            r for r in reeds_in(records)
            if r.group == group and r.id not in in_bath and not r.worn and r.rested(now) and not r.to_clean(now)
        ]  # fmt: skip
    return min(fit, key=lambda r: (r.last is not None, r.last or now, r.id), default=None)


def add_reed(shop: Shop, group: str) -> Reed:
    """A new reed for a group of families.

    Raises:
        BadInput: a group that plays no reed, or too many.
    """
    if group not in {f.group for f in shop.catalogue.families.values()}:
        raise BadInput("That group is not known here.")
    with shop.act("reed") as act:
        rows = act.records.all_of(BenchReed)
        if len(rows) >= MOST:
            raise BadInput(f"There are {MOST} reeds already.", todo="Throw the worn ones away.")
        number = max((r.id for r in rows), default=0) + 1
        act.records.add(BenchReed(id=number, group_name=group))
        act.words = f"Bench reed {number}, {group}: new"
    return Reed(number, group)


def usual_minutes(shop: Shop, group: str) -> float:
    """How long a play-test of a group takes: what its step takes of hands, the longest of its families; 0: none has."""
    families = (f for f in shop.catalogue.families.values() if f.group == group)
    return max((s.hands_min for f in families for s in f.step if s.blows), default=0.0)


def play(shop: Shop, reed_id: int, minutes: float | None = None) -> None:
    """A reed was played.

    Args:
        minutes: how long; as long as a play-test takes if not given.

    Raises:
        Refused: it lies in peroxide, is worn, or wants cleaning. BadInput: a time that nobody plays.
    """
    if minutes is not None and not 0 < minutes <= LONGEST_PLAY_MIN:
        raise BadInput("Nobody plays one reed for so long.", todo="Type the minutes again.")
    with shop.act("reed") as act:
        row = _named(act, reed_id)
        reed = _reed(row)
        if row.bath_id is not None:
            raise Refused(f"Reed {reed_id} lies in peroxide.", todo="Take another one.")
        if reed.worn or reed.to_clean(act.now):
            raise Refused(f"Reed {reed_id}: {reed.state(act.now)}.", todo="Take another one.")
        first = row.first_at if row.fresh_uses else act.now
        played = usual_minutes(shop, row.group_name) if minutes is None else minutes
        act.records.update(
            row, uses=row.uses + 1, fresh_uses=row.fresh_uses + 1, last_at=act.now, first_at=first,
            minutes=row.minutes + played,
        )  # fmt: skip
        act.words = f"Bench reed {reed_id}: played, {row.uses + 1} times"


def throw_away(shop: Shop, reed_id: int) -> None:
    """A reed is gone."""
    with shop.act("reed") as act:
        act.records.remove(_named(act, reed_id))
        act.words = f"Bench reed {reed_id}: thrown away"


def _named(act: Act, reed_id: int) -> BenchReed:
    found = act.records.get(BenchReed, reed_id)
    if found is None:
        raise BadInput("That reed is not here.")
    return found


def bath(shop: Shop) -> LyingReeds | None:
    """The reeds that lie in peroxide now."""
    with shop.reading() as records:
        return _lying(records)


def _lying(records: Reader) -> LyingReeds | None:
    row = next(iter(records.readable(ReedBath, ended_at=None)), None)
    if row is None:
        return None
    return LyingReeds(tuple(r.id for r in records.all_of(BenchReed, bath_id=row.id)), row.since)


def lay_in(shop: Shop) -> LyingReeds:
    """Lay every reed in that wants cleaning, of all groups, as one batch.

    Raises:
        Refused: a batch lies in already, or none wants cleaning.
    """
    with shop.act("reed.bath") as act:
        if _lying(act.records) is not None:
            raise Refused("A batch lies in already.", todo="Take it out first.")
        rows = [r for r in act.records.all_of(BenchReed) if _reed(r).to_clean(act.now) and not _reed(r).worn]
        if not rows:
            raise Refused("No reed wants cleaning.")
        made = act.records.add(ReedBath(since=act.now, machine=shop.clock.machine))
        for row in rows:
            act.records.update(row, bath_id=made.id)
        ids = tuple(r.id for r in sorted(rows, key=lambda r: (r.group_name, r.id)))
        act.words = f"Bench reeds {', '.join(map(str, ids))}: into peroxide"
    return LyingReeds(ids, made.since)


def take_out(shop: Shop) -> float:
    """Take the batch out; what was passed of its longest time is on record.

    Returns:
        By how much its longest time was passed, minutes; 0 for not at all.

    Raises:
        Refused: none lies in, or its time is not over.
    """
    with shop.act("reed.bath") as act:
        row = act.records.first_of(ReedBath, ended_at=None)
        if row is None:
            raise Refused("No reed lies in peroxide.")
        lying = act.records.all_of(BenchReed, bath_id=row.id)
        state = LyingReeds((), row.since).at(act.now)
        if not state.may_end:
            left = state.remaining.total_seconds() / 60
            raise Refused(f"Not yet: {number(left, 0)} min are missing.", todo="See that the playing ends are wet.")
        over = state.over.total_seconds() / 60
        for reed in lying:
            act.records.update(
                reed, fresh_uses=0, first_at=None, cleanings=reed.cleanings + 1, last_at=act.now, bath_id=None
            )
        act.records.update(row, ended_at=act.now)
        act.words = (
            f"Bench reeds {', '.join(str(r.id) for r in lying)}: cleaned, the peroxide thrown away{too_long(over)}"
        )
    return over
