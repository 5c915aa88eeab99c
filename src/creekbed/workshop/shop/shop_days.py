"""Days on which the shop is closed, and seasons with opening hours of their own."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date

from creekbed.core.errors import BadInput, Refused
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.shop_calendar import DateRange
from creekbed.core.text import line
from creekbed.interchange.calendar_file import Holiday
from creekbed.store.records import ClosedDays, Season
from creekbed.words.calendar import day_words
from creekbed.workshop.shop.bench_capacity import read_opening
from creekbed.workshop.shop.departures import put_on_list
from creekbed.workshop.shop.shop import Shop

LONGEST_NAME = 60


@dataclass(frozen=True)
class ShopDays:
    """What the shop has set, in order of date."""

    closed: tuple[ClosedDays, ...]
    seasons: tuple[Season, ...]


def shop_days(shop: Shop) -> ShopDays:
    """Days off and seasons that are not over."""
    today = shop.now.astimezone().date().isoformat()
    with shop.reading() as records:
        closed = [c for c in records.readable(ClosedDays) if c.yearly or c.last_on >= today]
        seasons = [s for s in records.readable(Season) if s.yearly or s.last_on >= today]
    return ShopDays(
        tuple(sorted(closed, key=lambda c: (c.first_on, c.name))),
        tuple(sorted(seasons, key=lambda s: (s.first_on, s.name))),
    )


def days_of(row: ClosedDays | Season) -> str:
    """The days of a row in words."""
    return day_words(row.first_on, row.last_on, row.yearly)


def close(shop: Shop, name: str, first: date, last: date, *, yearly: bool = False) -> int:
    """The shop is closed on some days.

    Returns:
        The row's number.

    Raises:
        BadInput: no name, or days that cannot be right.
    """
    name = _name(name, "A holiday")
    DateRange(first, last, yearly)
    with shop.act("calendar") as act:
        row = act.records.add(
            ClosedDays(name=name, first_on=first.isoformat(), last_on=last.isoformat(), yearly=yearly)
        )
        act.words = f"Closed: {name}, {day_words(row.first_on, row.last_on, yearly)}"
        put_on_list(shop, act)
        return row.id


def bring_holidays(shop: Shop, holidays: tuple[Holiday, ...]) -> tuple[int, int]:
    """Take over the days off of a calendar file; those brought before are changed, not added again.

    Returns:
        How many are new, and how many were changed.
    """
    with shop.act("calendar") as act:
        known = {c.uid: c for c in act.records.all_of(ClosedDays) if c.uid}
        new = changed = 0
        for day in holidays:
            name, first, last = _name(day.name, "A holiday"), day.first.isoformat(), day.last.isoformat()
            DateRange(day.first, day.last)
            there = known.get(day.uid)
            if there is None:
                act.records.add(ClosedDays(name=name, first_on=first, last_on=last, uid=day.uid))
                new += 1
            elif act.records.update(there, name=name, first_on=first, last_on=last) != there:
                changed += 1
        if not new and not changed:
            raise Refused("All of that is in the calendar already.", todo="Nothing was changed.")
        put_on_list(shop, act)
        act.words = f"Brought days off: {new} new, {changed} changed"
        return new, changed


def set_season(
    shop: Shop, name: str, first: date, last: date, hours: Mapping[int, str], *, yearly: bool = False
) -> int:
    """The bench is open at other hours for a while.

    Args:
        hours: weekday from 0 (Monday) → opening as typed: "8:30-12, 13-17"; a day that is left out is shut.

    Raises:
        BadInput: no name, days or hours that cannot be right.
    """
    name = _name(name, "A season")
    DateRange(first, last, yearly)
    spans = {str(day): read_opening(text) for day, text in hours.items()}
    with shop.act("calendar") as act:
        row = act.records.add(
            Season(
                name=name, first_on=first.isoformat(), last_on=last.isoformat(), yearly=yearly,
                hours={d: s for d, s in spans.items() if s},
            )
        )  # fmt: skip
        act.words = f"Other hours: {name}, {day_words(row.first_on, row.last_on, yearly)}"
        put_on_list(shop, act)
        return row.id


def remove_days(shop: Shop, kind: type[ClosedDays] | type[Season], number: int) -> None:
    """Days off, or a season, no longer hold.

    Raises:
        Refused: there are none of that number.
    """
    with shop.act("calendar") as act:
        row = act.records.get(kind, number)
        if row is None:
            raise Refused("That is not in the calendar any more.")
        act.records.remove(row)
        put_on_list(shop, act)
        act.words = f"No longer in the calendar: {row.name}, {day_words(row.first_on, row.last_on, row.yearly)}"


def _name(text: str, what: str) -> str:
    name = line(text, what=f"{what}'s name", longest=LONGEST_NAME)
    if not name:
        raise BadInput(f"{what} has no name.", todo="Give it one, such as “Summer”.")
    return name
