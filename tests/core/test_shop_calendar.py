"""The shop's calendar: days of a rhythm counted one by one, days off, seasons, dates and times as typed."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.errors import BadInput
from creekbed.core.local import at_hour, read_clock
from creekbed.core.shop_calendar import DateRange, Rhythm, SeasonHours, ShopCalendar, read_dates, weekdays_of

WEEK = {n: [[9.0, 12.0], [13.0, 17.0]] for n in range(5)}
DATES = st.dates(date(2020, 1, 1), date(2040, 12, 31))


@given(
    weekdays=st.sets(st.integers(0, 6), min_size=1), every=st.integers(1, 8), first=DATES, gap=st.integers(-400, 400),
    length=st.integers(0, 400),
)  # fmt: skip
def test_a_weekly_rhythm_is_what_counting_days_finds(
    weekdays: set[int], every: int, first: date, gap: int, length: int
) -> None:
    """By whole weeks since the Monday of the first week, from the definition alone."""
    since = first + timedelta(days=gap)
    until = since + timedelta(days=length)
    monday = first - timedelta(days=first.weekday())
    each = (since + timedelta(days=n) for n in range(length + 1))
    expected = [d for d in each if d >= first and d.weekday() in weekdays and (d - monday).days // 7 % every == 0]
    assert Rhythm(tuple(sorted(weekdays)), every, first).days(since, until) == expected


def test_a_rhythm_without_a_first_day_comes_every_week() -> None:
    """Mondays of November 2026, by a printed calendar: 2, 9, 16, 23, 30."""
    found = Rhythm((0,)).days(date(2026, 11, 1), date(2026, 11, 30))
    assert [d.day for d in found] == [2, 9, 16, 23, 30]


def test_days_off_are_skipped_kept_or_brought_forward() -> None:
    """24 December 2026 is a Thursday (printed calendar)."""
    calendar = ShopCalendar(WEEK, closed=(DateRange(date(2026, 12, 24), date(2027, 1, 1)),))
    since, until = date(2026, 12, 14), date(2027, 1, 8)
    thursdays = [date(2026, 12, 17), date(2026, 12, 24), date(2026, 12, 31), date(2027, 1, 7)]
    assert [at for _, at in Rhythm((3,)).leaving(since, until, calendar)] == [thursdays[0], thursdays[3]]
    assert [at for _, at in Rhythm((3,), on_closed="keep").leaving(since, until, calendar)] == thursdays
    moved = Rhythm((3,), on_closed="before").leaving(since, until, calendar)
    assert moved[1] == (date(2026, 12, 24), date(2026, 12, 23))  # a Wednesday
    assert [at for _, at in moved] == [thursdays[0], date(2026, 12, 23), thursdays[3]]  # nothing open before the 31st


def test_a_weekday_that_is_always_shut_is_no_day_off() -> None:
    """A van may come on a Sunday on which nobody works."""
    assert Rhythm((6,)).moved(date(2026, 11, 29), ShopCalendar(WEEK)) == date(2026, 11, 29)


def test_seasons_have_hours_of_their_own_and_days_off_go_before() -> None:
    summer = SeasonHours(DateRange(date(2026, 7, 1), date(2026, 8, 15), yearly=True), {0: [[8.0, 11.0]]})
    calendar = ShopCalendar(WEEK, (summer,), (DateRange(date(2026, 7, 13), date(2026, 7, 13)),))
    assert calendar.hours_on(date(2026, 6, 29)) == WEEK[0]
    assert calendar.hours_on(date(2026, 7, 6)) == [[8.0, 11.0]]
    assert calendar.hours_on(date(2026, 7, 7)) == ()  # a Tuesday: left out, shut
    assert calendar.hours_on(date(2026, 7, 13)) == ()
    assert calendar.hours_on(date(2031, 7, 7)) == [[8.0, 11.0]]  # a Monday five years later


@given(first=DATES.filter(lambda d: d.month > 2), length=st.integers(0, 50), day=DATES)
def test_what_comes_every_year_holds_on_the_same_dates(first: date, length: int, day: date) -> None:
    """Compared by month and day alone; a stretch from March on that ends before the next leap day may."""
    last = first + timedelta(days=length)
    begin, end, at = ((d.month, d.day) for d in (first, last, day))
    within = begin <= at <= end if begin <= end else at >= begin or at <= end
    assert (day in DateRange(first, last, yearly=True)) == within


def test_a_leap_day_comes_every_year() -> None:
    leap = DateRange(date(2024, 2, 29), date(2024, 2, 29), yearly=True)
    assert date(2028, 2, 29) in leap and date(2026, 3, 1) in leap and date(2026, 2, 28) not in leap


@pytest.mark.parametrize("first, last", [(date(2026, 5, 2), date(2026, 5, 1)), (date(2026, 1, 1), date(2027, 6, 1))])
def test_days_that_cannot_be_right(first: date, last: date) -> None:
    with pytest.raises(BadInput):
        DateRange(first, last)


def test_weekdays() -> None:
    assert weekdays_of([3, 0, 3]) == (0, 3)
    for bad in ([], [7], [-1]):
        with pytest.raises(BadInput):
            weekdays_of(bad)


TODAY = date(2026, 11, 19)


@pytest.mark.parametrize(
    "typed, expected",
    [
        ("3 Dec, 14 Jan 2027", (date(2026, 12, 3), date(2027, 1, 14))),
        ("2027-01-14; 3.12.2026", (date(2026, 12, 3), date(2027, 1, 14))),
        ("1 March", (date(2027, 3, 1),)),
        ("5/12/2026", (date(2026, 12, 5),)),
        ("", ()),
    ],
)
def test_dates_as_typed(typed: str, expected: tuple[date, ...]) -> None:
    assert read_dates(typed, TODAY) == expected


@pytest.mark.parametrize("typed", ["soon", "December", "32 Dec", "2026", "3 Dec, x", "12"])
def test_what_is_no_date(typed: str) -> None:
    with pytest.raises(BadInput):
        read_dates(typed, TODAY)


@given(st.text(max_size=40))
def test_any_text_is_dates_or_refused(text: str) -> None:
    try:
        assert all(isinstance(d, date) for d in read_dates(text, TODAY))
    except BadInput as error:
        assert error.happened


@pytest.mark.parametrize("typed, minutes", [("8:30", 510), ("08.05", 485), ("9", 540), ("23:59", 1439), ("0:00", 0)])
def test_times_of_day(typed: str, minutes: int) -> None:
    assert read_clock(typed) == minutes


@pytest.mark.parametrize("typed", ["", "24:00", "8:60", "half nine", "-1", "8:3", "٨:٣٠"])
def test_what_is_no_time_of_day(typed: str) -> None:
    with pytest.raises(BadInput):
        read_clock(typed)


def test_a_weekly_time_keeps_its_clock_over_the_change_to_winter_time(monkeypatch: pytest.MonkeyPatch) -> None:
    """In central Europe clocks went back on 25 October 2026, 03:00 (Directive 2000/84/EC: last Sunday of October)."""
    import time

    monkeypatch.setenv("TZ", "CET-1CEST,M3.5.0,M10.5.0/3")
    time.tzset()
    try:
        before, after = (at_hour(d, 8.5) for d in Rhythm((0,)).days(date(2026, 10, 19), date(2026, 10, 26)))
        assert (before.hour, before.minute) == (after.hour, after.minute) == (8, 30)
        assert (after - before) == timedelta(days=7, hours=1)
    finally:
        monkeypatch.undo()
        time.tzset()
