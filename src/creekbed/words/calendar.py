"""Days, opening hours and rhythms of departures in words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date

from creekbed.words.phrases import listed

DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
SHUT = "shut"
ON_CLOSED = {
    "skip": "is left out", "before": "leaves on the open day before", "keep": "leaves all the same",
}  # fmt: skip
"""What becomes of a departure on a closed day → words."""


def clock_of(hour: float) -> str:
    """A decimal hour of the day as a clock shows it."""
    return f"{int(hour):02d}:{round(hour % 1 * 60):02d}"


def spans_words(spans: Sequence[Sequence[float]]) -> str:
    """The opening of a day, as it can be typed: "08:30-12:00, 13:00-17:00", or "shut"."""
    return ", ".join(f"{clock_of(a)}-{clock_of(b)}" for a, b in spans) or SHUT


def week_words(days: Sequence[str], *, between: str = "; ") -> str:
    """The hours of a week, days alike together: "Mon to Fri 08:30-12:00, 13:00-17:00"; shut days are left out.

    Args:
        days: as :func:`spans_words` gives them, Monday first.
    """
    runs: list[tuple[str, int, int]] = []
    for day, words in enumerate(days):
        if runs and runs[-1][0] == words:
            runs[-1] = (words, runs[-1][1], day)
        else:
            runs.append((words, day, day))
    said = [f"{DAYS[a][:3]}{f' to {DAYS[b][:3]}' if b > a else ''} {words}" for words, a, b in runs if words != SHUT]
    return between.join(said)


def season_words(hours: Mapping[str, Sequence[Sequence[float]]]) -> str:
    """The hours of a season: "Mon to Fri 09:00-12:00".

    Args:
        hours: number of the weekday, Monday "0" → spans in decimal hours.
    """
    return week_words([spans_words(hours.get(str(day), ())) for day in range(7)], between=", ") or "Shut all the time"


def day_words(first: str, last: str, yearly: bool = False) -> str:
    """A stretch of days in words: "Thu 24 Dec 2026 to Fri 1 Jan 2027, every year"; ``first``, ``last``: ISO 8601."""
    a, b = date.fromisoformat(first), date.fromisoformat(last)
    dates = f"{a:%d %b}" if yearly else f"{a:%a %d %b %Y}"
    until = "" if a == b else f" to {b:%d %b}" if yearly else f" to {b:%a %d %b %Y}"
    return f"{dates}{until}{', every year' if yearly else ''}".replace(" 0", " ").removeprefix("0")


def rhythm_words(minute: int, weekdays: Sequence[int], every_weeks: int, dates: int) -> str:
    """A rhythm in words: "Mondays and Thursdays 08:30", "every 2 weeks on Mondays 08:30", "on 3 dates 10:00".

    Args:
        minute: of the day. weekdays: Monday 0. dates: how many single dates it has; 0 where it goes by weekdays.
    """
    clock = clock_of(minute / 60)
    if dates:
        return f"on {dates} {'dates' if dates != 1 else 'date'} {clock}"
    days = [f"{DAYS[d]}s" for d in weekdays]
    named = " and ".join([", ".join(days[:-1]), days[-1]] if len(days) > 1 else days)
    return f"{named} {clock}" if every_weeks == 1 else f"every {every_weeks} weeks on {named} {clock}"


def tags_are(tags: Sequence[str]) -> str:
    """Tags in a sentence: "V-12 is", "V-12, V-15 and 4 more are"."""
    return f"{listed(tags)} {'is' if len(tags) == 1 else 'are'}"
