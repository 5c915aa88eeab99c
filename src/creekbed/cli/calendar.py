"""Commands of the shop's days: how instruments leave, days off, seasons with other hours."""

from __future__ import annotations

import argparse
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from creekbed.cli.shop import shop_of
from creekbed.cli.show import Add, show
from creekbed.core.conventions import clock
from creekbed.core.errors import BadInput

if TYPE_CHECKING:
    from creekbed.workshop.shop.departures import KindRequest
    from creekbed.workshop.shop.shop import Shop


def add_commands(add: Add) -> list[argparse.ArgumentParser]:
    """Add ``departures``, ``closed`` and ``season``.

    Args:
        add: makes a command from its name, what it runs, and its help.

    Returns:
        The parsers, each of which prints JSON too.
    """
    leaving = add("departures", _departures, "how instruments leave, and what is on the list")
    leaving.add_argument("--add", metavar="NAME", help="they leave in this way from now on; known already, it changes")
    leaving.add_argument("--on", metavar="DAYS", help='"Mon, Thu"; with --add')
    leaving.add_argument("--dates", metavar="DATES", help='instead of weekdays: "3 Dec, 2027-01-14"')
    leaving.add_argument("--at", metavar="HH:MM", help="time of day; with --add")
    leaving.add_argument("--every", type=int, default=1, metavar="WEEKS", help="every so many weeks")
    leaving.add_argument("--first", type=_date, metavar="DATE", help="first day, from which weeks are counted")
    leaving.add_argument("--on-closed", choices=["skip", "before", "keep"], default="skip", help="on days off")
    leaving.add_argument("--drop", metavar="NAME", help="they no longer leave in this way")
    leaving.add_argument("--cancel", type=int, metavar="NUMBER", help="one departure does not take place")
    closed = add("closed", _closed, "days on which the shop is closed")
    closed.add_argument("name", nargs="?", help="of days off to add")
    closed.add_argument("first", nargs="?", type=_date, metavar="FROM")
    closed.add_argument("last", nargs="?", type=_date, metavar="TO", help="a single day if missing")
    closed.add_argument("--yearly", action="store_true", help="on these dates of every year")
    closed.add_argument("--calendar", type=Path, metavar="FILE", help="take over the whole days of an .ics file")
    closed.add_argument("--remove", type=int, metavar="NUMBER")
    season = add("season", _season, "weeks in which the bench is open at other hours")
    season.add_argument("name", nargs="?")
    season.add_argument("first", nargs="?", type=_date, metavar="FROM")
    season.add_argument("last", nargs="?", type=_date, metavar="TO")
    season.add_argument("hours", nargs="*", metavar="DAY=HOURS", help='"Monday=9-12"; a day left out is shut')
    season.add_argument("--yearly", action="store_true", help="on these dates of every year")
    season.add_argument("--remove", type=int, metavar="NUMBER")
    return [leaving, closed, season]


def _date(text: str) -> date:
    return date.fromisoformat(text)


def _weekday(text: str) -> int:
    """A weekday by its first three letters or more.

    Raises:
        BadInput: it is none.
    """
    from creekbed.words.calendar import DAYS

    word = text.strip().lower()
    found = [n for n, day in enumerate(DAYS) if len(word) >= 3 and day.lower().startswith(word)]
    if not found:
        raise BadInput(f"“{text[:16]}” is no weekday.", todo="Such as Mon or Thursday.")
    return found[0]


def _departures(given: argparse.Namespace) -> int:
    from creekbed.workshop.shop import departures

    shop = shop_of(given)
    try:
        if given.add:
            _keep(shop, given.add, _wanted(given, shop))
        if given.drop:
            departures.drop_kind(shop, _number_of(shop, given.drop, needed=True))
        if given.cancel is not None:
            departures.cancel_departure(shop, given.cancel)
        kinds, coming = departures.kinds(shop), departures.coming_departures(shop)
    finally:
        shop.close()
    facts: dict[str, Any] = {
        "kinds": [
            {
                "name": k.name, "rhythm": departures.rhythm_said(k), "weekdays": k.weekdays, "dates": k.dates,
                "every_weeks": k.every_weeks, "minute_of_day": k.minute, "on_closed": k.on_closed,
            }
            for k in kinds
        ],
        "departures": [{"number": d.id, "name": d.name, "leaves_at": d.leaves_at.isoformat()} for d in coming],
    }  # fmt: skip
    lines = [f"{k.name}: {departures.rhythm_said(k)}" for k in kinds] or ["How instruments leave is not known yet."]
    lines += [f"{d.id:5d}  {clock(d.leaves_at, '%a %d %b ')}  {d.name}" for d in coming]
    return show(given, facts, "\n".join(lines))


def _wanted(given: argparse.Namespace, shop: Shop) -> KindRequest:
    from creekbed.core.local import read_clock
    from creekbed.core.shop_calendar import read_dates
    from creekbed.workshop.shop.departures import KindRequest

    weekdays = tuple(_weekday(day) for day in (given.on or "").split(",") if day.strip())
    dates = read_dates(given.dates or "", shop.now.astimezone().date())
    return KindRequest(
        given.add, read_clock(given.at or ""), weekdays, given.every, given.first, dates, given.on_closed
    )  # fmt: skip


def _keep(shop: Shop, name: str, wanted: KindRequest) -> None:
    from creekbed.workshop.shop import departures

    number = _number_of(shop, name)
    if number:
        departures.change_kind(shop, number, wanted)
    else:
        departures.add_kind(shop, wanted)


def _number_of(shop: Shop, name: str, *, needed: bool = False) -> int:
    """The number of the kind with a name; 0 where there is none.

    Raises:
        BadInput: there is none, and one is needed.
    """
    from creekbed.workshop.shop.departures import kinds

    found = next((k.id for k in kinds(shop) if k.name.lower() == name.strip().lower()), 0)
    if needed and not found:
        raise BadInput(f"Nothing leaves by “{name[:40]}”.", todo="Look at the list.")
    return found


def _closed(given: argparse.Namespace) -> int:
    from creekbed.interchange.calendar_file import MOST_BYTES, read_calendar
    from creekbed.interchange.files import chosen_file
    from creekbed.store.records import ClosedDays
    from creekbed.workshop.shop import shop_days

    shop, told = shop_of(given), {}
    try:
        if given.name is not None:
            if given.first is None:
                raise BadInput("From when is the shop closed?", todo="Name, first day, and last day if it is longer.")
            shop_days.close(shop, given.name, given.first, given.last or given.first, yearly=given.yearly)
        if given.calendar is not None:
            found = read_calendar(chosen_file(given.calendar, MOST_BYTES), shop.now.astimezone().date())
            new, changed = shop_days.bring_holidays(shop, found.holidays)
            told = {"new": new, "changed": changed, "left_out_at_a_time_of_day": found.timed}
        if given.remove is not None:
            shop_days.remove_days(shop, ClosedDays, given.remove)
        rows = shop_days.shop_days(shop).closed
    finally:
        shop.close()
    facts = told | {
        "closed": [
            {"number": c.id, "name": c.name, "first": c.first_on, "last": c.last_on, "yearly": c.yearly} for c in rows
        ]
    }
    lines = [f"{told['new']} new, {told['changed']} changed"] if told else []
    lines += [f"{c.id:5d}  {c.name}: {shop_days.days_of(c)}" for c in rows] or ["No days off are known."]
    return show(given, facts, "\n".join(lines))


def _season(given: argparse.Namespace) -> int:
    from creekbed.store.records import Season
    from creekbed.words.calendar import season_words
    from creekbed.workshop.shop import shop_days

    shop = shop_of(given)
    try:
        if given.name is not None:
            if given.first is None or given.last is None:
                raise BadInput("From when to when?", todo="Name, first day, last day, and hours such as Monday=9-12.")
            parts = [text.partition("=") for text in given.hours]
            hours = {_weekday(day): spans for day, _, spans in parts}
            shop_days.set_season(shop, given.name, given.first, given.last, hours, yearly=given.yearly)
        if given.remove is not None:
            shop_days.remove_days(shop, Season, given.remove)
        rows = shop_days.shop_days(shop).seasons
    finally:
        shop.close()
    facts = {
        "seasons": [
            {
                "number": s.id, "name": s.name, "first": s.first_on, "last": s.last_on, "yearly": s.yearly,
                "hours": s.hours,
            }
            for s in rows
        ]
    }  # fmt: skip
    lines = [f"{s.id:5d}  {s.name}: {shop_days.days_of(s)}. {season_words(s.hours)}" for s in rows]
    return show(given, facts, "\n".join(lines or ["The usual hours hold all year."]))
