"""Who works at the bench, what they can do, and when they are there."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import field
from datetime import datetime, timedelta

from creekbed.core.conventions import clock
from creekbed.core.errors import BadInput, Refused
from creekbed.core.local import at_hour, midnight
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.reader import Reader
from creekbed.store.records import Attendance, InHand, Person
from creekbed.words.calendar import clock_of
from creekbed.workshop.shop.shop import NOBODY, Act, Shop
from creekbed.workshop.shop.shop_calendar import calendar_of

HORIZON_DAYS = 21
HELPER = frozenset({"helper"})
BEYOND_MIN = 60.0
"""How long a person stays who comes after the opening hours, minutes: house default."""
_TIMES = re.compile(r"([0-9]{1,2})(?::([0-5][0-9]))?\s*[-–]\s*([0-9]{1,2})(?::([0-5][0-9]))?")
_INITIALS = re.compile(r"[A-Z][A-Z0-9]{0,3}")

Span = tuple[datetime, datetime]


@dataclass(frozen=True)
class Worker:
    """Somebody at the bench.

    Attributes:
        key: initials. helper: does what needs no technician only. hours: local time of day from and till which they
            are there while the bench is open, as decimal hours.
        away, stays: stretches in which they are not there though the bench is open, and there though it is not.
    """

    key: str
    helper: bool = False
    hours: tuple[float, float] = (0.0, 24.0)
    away: tuple[Span, ...] = field(default=())
    stays: tuple[Span, ...] = field(default=())

    @property
    def skills(self) -> frozenset[str]:
        """What they can do, as the planner knows it; empty: everything."""
        return HELPER if self.helper else frozenset()


def is_initials(text: str) -> bool:
    """Whether a text can be somebody's initials: a letter, then up to three letters or digits."""
    return _INITIALS.fullmatch(text) is not None


def workers(shop: Shop) -> tuple[Worker, ...]:
    """Everybody who works here; who sits at this window comes first."""
    with shop.reading() as records:
        return workers_in(records, shop.person)


def workers_in(records: Reader, person: str) -> tuple[Worker, ...]:
    """As :func:`workers`, from records that are open already."""
    people = {p.initials: p for p in records.readable(Person)}
    people.setdefault(person, Person(initials=person))
    spans: dict[str, list[Attendance]] = {}
    for row in records.readable(Attendance):
        spans.setdefault(row.person, []).append(row)
    found = [_worker(p, spans.get(p.initials, ())) for p in people.values()]
    return tuple(sorted(found, key=lambda w: (w.key != person, w.key)))


def _worker(person: Person, attendance: Sequence[Attendance]) -> Worker:
    spans = {kind: tuple((a.begins_at, a.ends_at) for a in attendance if a.kind == kind) for kind in ("away", "stays")}
    hours = (person.from_hour, person.to_hour)
    return Worker(person.initials, person.helper, hours, spans["away"], spans["stays"])


def open_spans(shop: Shop, now: datetime, days: int = HORIZON_DAYS) -> list[Span]:
    """Opening of the bench as the shop's calendar has it; local clock times, so daylight saving is kept."""
    today, spans = now.astimezone().date(), []
    with shop.reading() as records:
        calendar = calendar_of(records, shop.catalogue)
    for date in (today + timedelta(days=day) for day in range(days)):
        for start, end in calendar.hours_on(date):
            a, b = at_hour(date, start), at_hour(date, end)
            if b > now:
                spans.append((a, b))
    return spans


def windows_of(worker: Worker, spans: list[Span], now: datetime) -> tuple[tuple[float, float], ...]:
    """When somebody is there, minutes from now, ascending."""
    merged: list[list[datetime]] = []
    mine = [_within(span, worker.hours) for span in spans]
    for a, b in sorted([*(s for s in mine if s[0] < s[1]), *worker.stays]):
        if merged and a <= merged[-1][1]:
            merged[-1][1] = max(merged[-1][1], b)
        else:
            merged.append([a, b])
    for start, end in worker.away:
        rest: list[list[datetime]] = []
        for a, b in merged:
            if end <= a or start >= b:
                rest.append([a, b])
                continue
            rest += [[x, y] for x, y in ((a, start), (end, b)) if x < y]
        merged = rest
    minutes = [((a - now).total_seconds() / 60, (b - now).total_seconds() / 60) for a, b in merged]
    return tuple((max(a, 0.0), b) for a, b in minutes if b > 0)


def _within(span: Span, hours: tuple[float, float]) -> Span:
    """The part of an opening that lies within a person's own hours of the day."""
    day = span[0].astimezone().date()
    first, last = (at_hour(day, h) for h in hours)
    return max(span[0], first), min(span[1], last)


def _known(act: Act, shop: Shop, key: str) -> Person:
    """A person's record, made where there is none; absences that have passed are removed."""
    if shop.person != NOBODY and act.records.get(Person, shop.person) is None:  # who sits here stays known
        act.records.add(Person(initials=shop.person))
    for row in act.records.all_of(Attendance, person=key):
        if row.ends_at <= act.now:
            act.records.remove(row)
    return act.records.get(Person, key) or act.records.add(Person(initials=key))


def _put_aside(act: Act, key: str) -> None:
    """Put aside what a person has in hand."""
    held = act.records.get(InHand, key)
    if held is not None:
        act.records.remove(held)


def add_worker(shop: Shop, text: str, *, helper: bool = False) -> str:
    """Somebody works here from now on; known already, they become technician or helper, or get other hours.

    Args:
        text: initials, and the hours of the day if they are not the shop's: "TO 13-17".

    Returns:
        Their initials.

    Raises:
        BadInput: initials or hours that are none.
    """
    initials, _, times = text.strip().partition(" ")
    key = initials.upper()
    if not _INITIALS.fullmatch(key):
        raise BadInput(f"“{initials[:16]}” are no initials.", todo="One to four letters, such as AB.")
    hours = read_hours(times) if times.strip() else (0.0, 24.0)
    role = "as a helper" if helper else "as technician"
    when = f", {clock_of(hours[0])} to {clock_of(hours[1])}" if times.strip() else ""
    with shop.act("people") as act:
        act.records.update(_known(act, shop, key), helper=helper, from_hour=hours[0], to_hour=hours[1])
        act.words = f"{key} works at the bench {role}{when}"
    return key


def read_hours(text: str) -> tuple[float, float]:
    """Hours of the day as typed, "9:30-12", as decimal hours.

    Raises:
        BadInput: they are none, or end before they begin.
    """
    found = _TIMES.fullmatch(text.strip())
    if found is None:
        raise BadInput(f"“{text[:16]}” are no hours.", todo="Such as 13-17 or 9:30-12.")
    first, last = (int(h) + int(m or 0) / 60 for h, m in (found.group(1, 2), found.group(3, 4)))
    if not 0 <= first < last <= 24:
        raise BadInput("These hours end before they begin.", todo="Such as 13-17 or 9:30-12.")
    return first, last


def remove_worker(shop: Shop, key: str) -> None:
    """Somebody works here no more; what they did stays on record.

    Raises:
        Refused: it is who sits here, or nobody of that name works here.
    """
    if key == shop.person:
        raise Refused("Who sits at this window cannot be taken off.", todo="Let somebody else take over first.")
    with shop.act("people") as act:
        person = act.records.get(Person, key)
        if person is None:
            raise Refused(f"{key} does not work here.")
        for row in act.records.all_of(Attendance, person=key):
            act.records.remove(row)
        act.records.remove(person)
        _put_aside(act, key)
        act.words = f"{key} works here no more"


def goes_home(shop: Shop, key: str, until: datetime | None = None) -> None:
    """Somebody leaves now; they are back at ``until``, or on the next day."""
    with shop.act("people") as act:
        _known(act, shop, key)
        back = until or midnight(act.now, 1)
        act.records.add(Attendance(person=key, kind="away", begins_at=act.now, ends_at=back))
        _put_aside(act, key)
        back_words = f", back at {clock(back)}" if until else " for today"
        act.words = f"{key} has left{back_words}"


def is_back(shop: Shop, key: str) -> None:
    """Somebody is here after all: also before their hours of that day, in a break, and for an hour beyond."""
    with shop.act("people") as act:
        now, person, words = act.now, _known(act, shop, key), f"{key} is here"
        for row in act.records.all_of(Attendance, person=key, kind="away"):
            if row.begins_at <= now < row.ends_at:
                act.records.remove(row)
        worker = _worker(person, act.records.all_of(Attendance, person=key))
        windows = windows_of(worker, open_spans(shop, now), now)
        begins = now + timedelta(minutes=windows[0][0]) if windows else None
        if begins is None or begins > now:
            if begins is None or begins.astimezone().date() != now.astimezone().date():
                begins = now + timedelta(minutes=BEYOND_MIN)
                words += f" till {clock(begins)}"
            act.records.add(Attendance(person=key, kind="stays", begins_at=now, ends_at=begins))
        act.words = words


def stays_on(shop: Shop, key: str, start: datetime, minutes: float) -> None:
    """Somebody works from a moment on though the bench is closed then.

    Raises:
        BadInput: no length, or more than a day.
    """
    if not 0 < minutes <= 24 * 60:
        raise BadInput("That is no length of time to stay.", todo="From a minute to a day.")
    end = start + timedelta(minutes=minutes)
    with shop.act("people") as act:
        _known(act, shop, key)
        act.records.add(Attendance(person=key, kind="stays", begins_at=start, ends_at=end))
        act.words = f"{key} works {clock(start)} to {clock(end)} too"
