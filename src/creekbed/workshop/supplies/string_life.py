"""How long each string of the shop was on hire, and how long strings of its kind last here."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta

from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.strings.life import Life, life_of
from creekbed.store.reader import Reader
from creekbed.store.records import Hire
from creekbed.workshop.shop.shop import Shop

StringKey = tuple[str, str]
"""Family and string."""


@dataclass(frozen=True)
class StringAge:
    """A string that is on an instrument: since when, and how many days of that on hire."""

    since: datetime
    hire_days: float


@dataclass(frozen=True)
class StringLives:
    """What is known of the shop's strings.

    Attributes:
        lives: of each kind that the house has a number for. ages: tag → string → its age.
    """

    lives: Mapping[StringKey, Life]
    ages: Mapping[str, Mapping[str, StringAge]]


def _overlap_days(hires: Sequence[tuple[datetime, datetime]], start: datetime, end: datetime) -> float:
    """Days on hire between two moments."""
    held = sum((max(min(back, end) - max(out, start), timedelta(0)) for out, back in hires), timedelta(0))
    return held.total_seconds() / 86_400


def string_lives(shop: Shop) -> StringLives:
    """How long the strings of the shop last, and how old those are that are on; slow over years of records."""
    with shop.reading() as records:
        return _lives_in(records, shop)


def _lives_in(records: Reader, shop: Shop) -> StringLives:
    now = shop.now
    put_on: dict[tuple[str, str, str], list[datetime]] = defaultdict(list)
    for tag, family, key, at in records.steps.strings_put_on():
        put_on[tag, family, key].append(at)
    tags = sorted({tag for tag, _, _ in put_on})
    hires: dict[str, list[tuple[datetime, datetime]]] = defaultdict(list)
    for hire in records.all_of(Hire, tag=tags) if tags else ():
        hires[hire.tag].append((hire.out_at, hire.back_at or now))
    looked: dict[str, list[tuple[datetime, frozenset[str]]]] = defaultdict(list)
    for tag, places, at in records.jobs.strings_found(tags):
        looked[tag].append((at, frozenset(places)))
    worn: dict[StringKey, list[float]] = defaultdict(list)
    fine: dict[StringKey, list[float]] = defaultdict(list)
    ages: dict[str, dict[str, StringAge]] = defaultdict(dict)
    for (tag, family, key), times in put_on.items():
        for n, start in enumerate(times):
            end = times[n + 1] if n + 1 < len(times) else now
            looks = [(at, key in places) for at, places in looked[tag] if start < at <= end]
            found = next((at for at, bad in looks if bad), None)
            last = found if found is not None else max((at for at, _ in looks), default=None)
            if last is not None:
                days = _overlap_days(hires[tag], start, last)
                (worn if found is not None else fine)[family, key].append(days)
        ages[tag][key] = StringAge(times[-1], _overlap_days(hires[tag], times[-1], now))
    lives = {}
    for name, family_of in shop.catalogue.families.items():
        if family_of.stringed is not None and family_of.stringed.life_days is not None:
            for spec in family_of.stringed.strings:
                kind = (name, spec.key)
                lives[kind] = life_of(worn[kind], fine[kind], family_of.stringed.life_days)
    return StringLives(lives, ages)
