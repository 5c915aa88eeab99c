"""How instruments leave the shop: the kinds of departures that come again, and those that are on the list."""

from __future__ import annotations

import itertools
from collections.abc import Iterable
from datetime import date, datetime, timedelta

from creekbed.core.conventions import clock
from creekbed.core.errors import BadInput, Refused
from creekbed.core.local import at_hour
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.shop_calendar import OnClosed, Rhythm, ShopCalendar, weekdays_of
from creekbed.core.text import line
from creekbed.store.reader import Reader
from creekbed.store.records import Departure, DepartureKind
from creekbed.words.calendar import rhythm_words, tags_are
from creekbed.workshop.shop.shop import Act, Shop
from creekbed.workshop.shop.shop_calendar import calendar_of

AHEAD_DAYS = 42
"""So many days ahead departures are on the list: house default."""
AHEAD = timedelta(days=366)
"""A single departure can be this far ahead: house default."""
CALENDAR, PERSON = "calendar", "person"
"""Why a departure does not take place."""
DUE = "due time"
"""Name of a departure that is no more than the time by which one instrument must be ready."""
LONGEST_NAME = 60


@dataclass(frozen=True)
class KindRequest:
    """A kind of departures as somebody asks for it.

    Attributes:
        name: as people call it. minute: local time of day, minutes. weekdays: 0 (Monday) to 6; every_weeks: 1 for each
            week. first: not before this day. dates: instead of weekdays. on_closed: what happens on closed days.
    """

    name: str
    minute: int
    weekdays: tuple[int, ...] = ()
    every_weeks: int = 1
    first: date | None = None
    dates: tuple[date, ...] = ()
    on_closed: OnClosed = "skip"


def rhythm_of(kind: DepartureKind) -> Rhythm:
    """The rhythm of a kind."""
    first = date.fromisoformat(kind.first_on) if kind.first_on else None
    dates = tuple(date.fromisoformat(d) for d in kind.dates)
    on_closed: OnClosed = kind.on_closed  # type: ignore[assignment]
    return Rhythm(tuple(kind.weekdays), kind.every_weeks, first, dates, on_closed)


def kinds(shop: Shop) -> list[DepartureKind]:
    """Every kind that there is, by name."""
    with shop.reading() as records:
        return _kinds(records)


def _kinds(records: Reader) -> list[DepartureKind]:
    there = (k for k in records.readable(DepartureKind) if k.dropped_at is None)
    return sorted(there, key=lambda k: (k.name.lower(), k.id))


def add_kind(shop: Shop, wanted: KindRequest) -> int:
    """Instruments leave in this way from now on.

    Raises:
        BadInput: no name, no day, or a time that is none. Refused: there is one of that name.
    """
    values = _values(wanted)
    with shop.act("departure.kind") as act:
        _need_free_name(act, str(values["name"]))
        kind = act.records.add(DepartureKind(**values))  # type: ignore[arg-type]
        put_on_list(shop, act)
        act.words = f"Instruments leave by: {kind.name}, {rhythm_said(kind)}"
        return kind.id


def change_kind(shop: Shop, number: int, wanted: KindRequest) -> None:
    """A kind has another name, time or rhythm; departures of it that are still to come follow.

    Raises:
        BadInput: no name, no day, or a time that is none. Refused: it is no more, or there is another of that name.
    """
    values = _values(wanted)
    with shop.act("departure.kind") as act:
        kind = _need_kind(act, number)
        if values["name"] != kind.name:
            _need_free_name(act, str(values["name"]))
        changed = act.records.update(kind, **values)
        put_on_list(shop, act)
        act.words = f"{changed.name}: {rhythm_said(changed)}"


def drop_kind(shop: Shop, number: int) -> None:
    """Instruments no longer leave in this way. Departures for which instruments are booked stay on the list.

    Raises:
        Refused: it is no more.
    """
    with shop.act("departure.kind") as act:
        kind = _need_kind(act, number)
        act.records.update(kind, dropped_at=act.now)
        put_on_list(shop, act)
        act.words = f"Instruments no longer leave by: {kind.name}"


def _need_kind(act: Act, number: int) -> DepartureKind:
    kind = act.records.get(DepartureKind, number)
    if kind is None or kind.dropped_at is not None:
        raise Refused("That way to leave is not on the list any more.")
    return kind


def _need_free_name(act: Act, name: str) -> None:
    if any(k.name.lower() == name.lower() for k in _kinds(act.records)):
        raise Refused(f"There is “{name}” already.", todo="Change that one, or choose another name.")


def _values(wanted: KindRequest) -> dict[str, object]:
    name = _need_name(wanted.name)
    if not 0 <= wanted.minute < 24 * 60:
        raise BadInput("That is no time of day.", todo="From 00:00 to 23:59.")
    if not 1 <= wanted.every_weeks <= 52:
        raise BadInput("It must come every 1 to 52 weeks.")
    if wanted.dates and wanted.weekdays:
        raise BadInput("It leaves either on weekdays or on dates.", todo="Make two of it.")
    weekdays = () if wanted.dates else weekdays_of(wanted.weekdays)
    if len(wanted.dates) > AHEAD.days:
        raise BadInput("These are too many dates.", todo=f"Up to {AHEAD.days}.")
    return {
        "name": name, "minute": wanted.minute, "rhythm": "dates" if wanted.dates else "weekly",
        "weekdays": list(weekdays), "every_weeks": wanted.every_weeks,
        "first_on": wanted.first.isoformat() if wanted.first is not None else "",
        "dates": [d.isoformat() for d in sorted(set(wanted.dates))], "on_closed": wanted.on_closed,
    }  # fmt: skip


def _need_name(text: str) -> str:
    name = line(text, what="The departure's name", longest=LONGEST_NAME)
    if not name:
        raise BadInput("The departure has no name.", todo="Give it one, for example “Monday’s van”.")
    return name


def rhythm_said(kind: DepartureKind) -> str:
    """The rhythm of a kind in words."""
    return rhythm_words(kind.minute, kind.weekdays, kind.every_weeks, len(kind.dates) if kind.rhythm == "dates" else 0)


# --- the list -----------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class _Due:
    """A departure that should be on the list."""

    kind: DepartureKind
    day: str
    at: datetime


def _wanted(kind: DepartureKind, calendar: ShopCalendar, now: datetime, days: int) -> list[_Due]:
    today = now.astimezone().date()
    found = rhythm_of(kind).leaving(today, today + timedelta(days=days), calendar)
    due = [_Due(kind, day.isoformat(), at_hour(on, kind.minute / 60)) for day, on in found]
    return [d for d in due if d.at > now]


def put_on_list(shop: Shop, act: Act) -> int:
    """Make the list of departures follow kinds and calendar: what is missing is added, what moved is moved.

    A departure that no longer takes place is taken off; where instruments are booked for it, it stays and is told.

    Returns:
        How many rows were added, moved or taken off.
    """
    records, calendar = act.records, calendar_of(act.records, shop.catalogue)
    listed = [d for d in records.jobs.departures_after(act.now) if d.kind_id is not None]
    there = {(d.kind_id, d.day): d for d in listed}
    done, wanted = 0, set()
    for due in itertools.chain.from_iterable(_wanted(k, calendar, act.now, AHEAD_DAYS) for k in _kinds(records)):
        wanted.add((due.kind.id, due.day))
        row = there.get((due.kind.id, due.day))
        if row is None:
            if not records.all_of(Departure, kind_id=due.kind.id, day=due.day):  # else it has left, earlier than this
                records.add(Departure(name=due.kind.name, leaves_at=due.at, kind_id=due.kind.id, day=due.day))
                done += 1
        else:
            off = "" if row.off == CALENDAR else row.off
            done += records.update(row, name=due.kind.name, leaves_at=due.at, off=off) != row
    gone = [d for key, d in there.items() if key not in wanted and not d.off]
    return done + _take_off(act, gone)


def _take_off(act: Act, gone: Iterable[Departure]) -> int:
    done = 0
    for row in gone:
        tags = act.records.jobs.booked_for(row.id)
        if tags:
            act.notes.append(f"{_when(row)}: {tags_are(tags)} booked, though it does not leave then any more.")
        else:
            act.records.update(row, off=CALENDAR)
            done += 1
    return done


def roll(shop: Shop) -> int:
    """Put the departures of the coming weeks on the list; nothing is written where they are.

    Returns:
        How many were added or moved.
    """
    with shop.reading() as records:
        calendar, now = calendar_of(records, shop.catalogue), shop.now
        there = {(d.kind_id, d.day): d for d in records.jobs.departures_after(now)}
        due = [d for k in _kinds(records) for d in _wanted(k, calendar, now, AHEAD_DAYS)]
        if all((d.kind.id, d.day) in there for d in due):
            return 0
    with shop.act("departure.roll", undoable=False) as act:
        count = put_on_list(shop, act)
        act.words = f"Departures of the next {AHEAD_DAYS // 7} weeks are on the list"
    return count


def coming_departures(shop: Shop) -> list[Departure]:
    """Departures that have not left and take place, next first; without due times of single instruments."""
    with shop.reading() as records:
        return [d for d in records.jobs.departures_after(shop.now) if not d.off and not d.single]


def add_departure(shop: Shop, name: str, leaves_at: datetime) -> int:
    """Put one departure on the list that is of no kind.

    Raises:
        BadInput: no name, or a time that has passed or is more than a year away.
    """
    name = _need_name(name)
    need_in_a_year(leaves_at, shop.now)
    with shop.act("departure.add") as act:
        departure = act.records.add(Departure(name=name, leaves_at=leaves_at))
        act.words = f"Added {_when(departure)}"
        return departure.id


def cancel_departure(shop: Shop, number: int) -> None:
    """One departure does not take place.

    Raises:
        Refused: instruments are booked for it, or it is over.
    """
    with shop.act("departure.cancel") as act:
        row = need_departure(act, number)
        tags = act.records.jobs.booked_for(number)
        if tags:
            raise Refused(
                f"{_when(row)}: {tags_are(tags)} booked for it.", todo="Let them go with another one first.", tags=tags
            )
        act.records.update(row, off=PERSON)
        act.words = f"Does not take place: {_when(row)}"


def need_departure(act: Act, number: int) -> Departure:
    """A departure that takes place and is still to come.

    Raises:
        Refused: there is none of that number.
    """
    row = act.records.get(Departure, number)
    if row is None or row.off or row.leaves_at <= act.now:
        raise Refused("That departure is over, or is not on the list.", todo="Choose a later one.")
    return row


def due_by(act: Act, at: datetime) -> int:
    """The departure that stands for a due time of its own; instruments that are due at the same time share it.

    Raises:
        BadInput: a time that has passed or is more than a year away.
    """
    need_in_a_year(at, act.now)
    same = [d for d in act.records.all_of(Departure, leaves_at=at) if d.single]
    return (same[0] if same else act.records.add(Departure(name=DUE, leaves_at=at, single=True))).id


def need_in_a_year(at: datetime, now: datetime) -> None:
    """Refuse a time that has passed or is more than a year away.

    Raises:
        BadInput: it is one.
    """
    if not now < at < now + AHEAD:
        raise BadInput("A departure must be in the coming year.", todo="Look at date and time again.")


def _when(row: Departure) -> str:
    return f"{row.name}, {clock(row.leaves_at, '%a %d %b ')}"
