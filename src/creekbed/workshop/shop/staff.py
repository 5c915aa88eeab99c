"""Who works at the bench, what they can do, and when they are there."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from creekbed.core.errors import BadInput, Refused
from creekbed.core.local import at_hour, midnight
from creekbed.store.tables import InHand
from creekbed.workshop.shop.shop import Shop

SETTING = "people"
HORIZON_DAYS = 21
HELPER = frozenset({"helper"})
BEYOND_MIN = 60.0
"""So long is here who comes after the hours of the day, minutes: house default."""
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


def workers(shop: Shop) -> tuple[Worker, ...]:
    """Everybody who works here; who sits at this window comes first."""
    kept: dict[str, Any] = dict(shop.setting(SETTING) or {})
    kept.setdefault(shop.person, {})
    found = [_worker(key, row) for key, row in kept.items()]
    return tuple(sorted(found, key=lambda w: (w.key != shop.person, w.key)))


def _worker(key: str, row: dict[str, Any]) -> Worker:
    spans = {
        name: tuple((datetime.fromisoformat(a), datetime.fromisoformat(b)) for a, b in row.get(name, ()))
        for name in ("away", "stays")
    }
    first, last = row.get("hours") or (0.0, 24.0)
    return Worker(key, bool(row.get("helper", False)), (float(first), float(last)), spans["away"], spans["stays"])


def open_spans(shop: Shop, now: datetime, days: int = HORIZON_DAYS) -> list[Span]:
    """Opening of the bench; local clock times, so daylight saving is kept."""
    local = now.astimezone()
    spans = []
    for day in range(days):
        date = (local + timedelta(days=day)).date()
        for start, end in shop.catalogue.house.hours.open.get(str(date.weekday()), ()):
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
    """What of an opening lies within somebody's own hours of the day."""
    day = span[0].astimezone().date()
    first, last = (at_hour(day, h) for h in hours)
    return max(span[0], first), min(span[1], last)


def _change(shop: Shop, key: str, words: str, action: str, *, aside: bool = False, **change: Any) -> None:
    """Change what is kept of somebody; ``aside``: what they have in hand is put aside."""
    kept: dict[str, Any] = dict(shop.setting(SETTING) or {})
    kept.setdefault(shop.person, {})  # who sits here stays known when somebody else sits down
    row = {**kept.get(key, {}), **change}
    row["away"], row["stays"] = (
        [s for s in row.get(name, []) if datetime.fromisoformat(s[1]) > shop.now] for name in ("away", "stays")
    )
    with shop.act(action) as act:
        shop.keep_setting(act, SETTING, {**kept, key: row})
        held = act.session.get(InHand, key) if aside else None
        if held is not None:
            act.session.delete(held)
        act.words = words


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
        raise BadInput(f"“{initials[:16]}” are no initials.", todo="One to four letters, such as IW.")
    hours = read_hours(times) if times.strip() else (0.0, 24.0)
    role = "as a helper" if helper else "as technician"
    when = f", {clock_of(hours[0])} to {clock_of(hours[1])}" if times.strip() else ""
    _change(shop, key, f"{key} works at the bench {role}{when}", "people", helper=helper, hours=list(hours))
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


def clock_of(hour: float) -> str:
    """A decimal hour of the day as a clock shows it."""
    return f"{int(hour):02d}:{round(hour % 1 * 60):02d}"


def remove_worker(shop: Shop, key: str) -> None:
    """Somebody works here no more; what they did stays on record.

    Raises:
        Refused: it is who sits here, or nobody of that name works here.
    """
    kept: dict[str, Any] = dict(shop.setting(SETTING) or {})
    if key == shop.person:
        raise Refused("Who sits at this window cannot be taken off.", todo="Let somebody else take over first.")
    if key not in kept:
        raise Refused(f"{key} does not work here.")
    del kept[key]
    with shop.act("people") as act:
        shop.keep_setting(act, SETTING, kept)
        held = act.session.get(InHand, key)
        if held is not None:
            act.session.delete(held)
        act.words = f"{key} works here no more"


def _row(shop: Shop, key: str) -> dict[str, Any]:
    return dict((shop.setting(SETTING) or {}).get(key, {}))


def goes_home(shop: Shop, key: str, until: datetime | None = None) -> None:
    """Somebody leaves now; they are back at ``until``, or on the next day."""
    now = shop.now
    back = until or midnight(now, 1)
    away = [*_row(shop, key).get("away", []), [now.isoformat(), back.isoformat()]]
    back_words = f", back at {back.astimezone():%H:%M}" if until else " for today"
    _change(shop, key, f"{key} has left{back_words}", "people", aside=True, away=away)


def is_back(shop: Shop, key: str) -> None:
    """Somebody is here after all: also before their hours of that day, in a break, and for an hour beyond."""
    now, row = shop.now, _row(shop, key)
    away = [s for s in row.get("away", []) if not _holds(s, now)]
    stays, words = list(row.get("stays", [])), f"{key} is here"
    windows = windows_of(_worker(key, {**row, "away": away}), open_spans(shop, now), now)
    begins = now + timedelta(minutes=windows[0][0]) if windows else None
    if begins is None or begins > now:
        if begins is None or begins.astimezone().date() != now.astimezone().date():
            begins = now + timedelta(minutes=BEYOND_MIN)
            words += f" till {begins.astimezone():%H:%M}"
        stays.append([now.isoformat(), begins.isoformat()])
    _change(shop, key, words, "people", away=away, stays=stays)


def _holds(span: list[str], at: datetime) -> bool:
    return datetime.fromisoformat(span[0]) <= at < datetime.fromisoformat(span[1])


def stays_on(shop: Shop, key: str, start: datetime, minutes: float) -> None:
    """Somebody works from a moment on though the bench is closed then.

    Raises:
        BadInput: no length, or more than a day.
    """
    if not 0 < minutes <= 24 * 60:
        raise BadInput("That is no length of time to stay.", todo="From a minute to a day.")
    end = start + timedelta(minutes=minutes)
    stays = [*_row(shop, key).get("stays", []), [start.isoformat(), end.isoformat()]]
    words = f"{key} works {start.astimezone():%H:%M} to {end.astimezone():%H:%M} too"
    _change(shop, key, words, "people", stays=stays)
