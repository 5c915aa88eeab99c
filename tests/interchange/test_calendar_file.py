"""Days off from calendar files: what RFC 5545 says of whole days, files of other makes, hostile and damaged ones."""

from __future__ import annotations

import random
from datetime import date, timedelta

import pytest

from creekbed.core.errors import BadInput
from creekbed.interchange.calendar_file import MOST_BYTES, MOST_DAYS, read_calendar

TODAY = date(2026, 11, 19)


def calendar(*events: str, head: str = "VERSION:2.0\r\nPRODID:-//test//EN\r\n") -> bytes:
    body = "".join(f"BEGIN:VEVENT\r\nDTSTAMP:20260101T000000Z\r\n{e}\r\nEND:VEVENT\r\n" for e in events)
    return f"BEGIN:VCALENDAR\r\n{head}{body}END:VCALENDAR\r\n".encode()


MIDWINTER = "UID:a@x\r\nDTSTART;VALUE=DATE:20261224\r\nDTEND;VALUE=DATE:20270102\r\nSUMMARY:Midwinter"
YEARLY = "UID:b@x\r\nDTSTART;VALUE=DATE:20200501\r\nRRULE:FREQ=YEARLY\r\nSUMMARY:May day"
FOURTH_THURSDAY = "UID:c@x\r\nDTSTART;VALUE=DATE:20191128\r\nRRULE:FREQ=YEARLY;BYMONTH=11;BYDAY=4TH\r\nSUMMARY:Feast"
MEETING = "UID:d@x\r\nDTSTART:20261201T090000Z\r\nDTEND:20261201T100000Z\r\nSUMMARY:Meeting"


def test_the_end_of_a_whole_day_is_the_day_after() -> None:
    """RFC 5545, 3.6.1: DTEND is not in it; without one, a date is one day."""
    found = read_calendar(calendar(MIDWINTER, "UID:e\r\nDTSTART;VALUE=DATE:20261130\r\nSUMMARY:Stock"), TODAY)
    assert [(h.name, h.first, h.last) for h in found.holidays] == [
        ("Stock", date(2026, 11, 30), date(2026, 11, 30)), ("Midwinter", date(2026, 12, 24), date(2027, 1, 1)),
    ]  # fmt: skip


def test_what_comes_every_year_is_followed_for_two() -> None:
    found = read_calendar(calendar(YEARLY), TODAY).holidays
    assert [h.first for h in found] == [date(2027, 5, 1), date(2028, 5, 1)]
    assert len({h.uid for h in found}) == 2


def test_a_day_that_moves_by_its_weekday() -> None:
    """Fourth Thursdays of November by printed calendars: 26 in 2026, 25 in 2027."""
    rule = FOURTH_THURSDAY.replace("BYDAY=4TH", "BYDAY=+4TH")
    found = read_calendar(calendar(rule), TODAY).holidays
    assert [h.first for h in found] == [date(2026, 11, 26), date(2027, 11, 25)]


def test_what_is_at_a_time_of_day_is_counted_and_left_out() -> None:
    found = read_calendar(calendar(MEETING, MIDWINTER), TODAY)
    assert found.timed == 1 and [h.name for h in found.holidays] == ["Midwinter"]


def test_the_same_file_read_again_gives_the_same() -> None:
    data = calendar(MIDWINTER, YEARLY)
    assert read_calendar(data, TODAY) == read_calendar(data, TODAY)
    a, b = read_calendar(data, TODAY).holidays, read_calendar(data, TODAY + timedelta(days=20)).holidays
    assert {h.uid for h in a} == {h.uid for h in b}


@pytest.mark.parametrize(
    "data",
    [
        b"", b"\x00\xff" * 50, b"name;date\nMay;1", b"BEGIN:VCALENDAR", b"x" * (MOST_BYTES + 1),
        calendar("UID:f\r\nDTSTART;VALUE=DATE:20261201\r\nRRULE:FREQ=SECONDLY"),
        calendar("UID:g\r\nDTSTART;VALUE=DATE:20261201\r\nRRULE:FREQ=DAILY;BYSECOND=1,2,3"),
        calendar("UID:i\r\nDTSTART;VALUE=DATE:20261201\r\nRRULE:FREQ=DAILY;INTERVAL=0"),
        calendar("UID:h\r\nDTSTART;VALUE=DATE:20200101\r\nRRULE:FREQ=DAILY\r\nSUMMARY:Every day"),
        calendar(*(f"UID:{n}\r\nDTSTART;VALUE=DATE:20261201" for n in range(2001))),
    ],
    ids=["empty", "bytes", "table", "cut", "long", "secondly", "seconds", "no step", "every day", "many"],
)  # fmt: skip
def test_what_is_no_calendar_of_days_off(data: bytes) -> None:
    with pytest.raises(BadInput) as caught:
        found = read_calendar(data, TODAY)
        assert found.holidays or found.timed, "an empty calendar is no mistake"
        raise AssertionError(found)
    assert caught.value.happened and caught.value.todo


def test_an_empty_calendar_has_no_days_off() -> None:
    assert read_calendar(calendar(), TODAY).holidays == ()


def test_damaged_files_are_read_or_refused() -> None:
    """800 files with some bytes changed, taken out or doubled."""
    chance, whole, read = random.Random(3), calendar(MIDWINTER, YEARLY, MEETING), 0
    for _ in range(800):
        data = bytearray(whole)
        for _ in range(chance.randint(1, 6)):
            at = chance.randrange(len(data))
            how = chance.randrange(3)
            if how == 0:
                data[at] = chance.randrange(256)
            elif how == 1:
                del data[at : at + chance.randint(1, 12)]
            else:
                data[at:at] = data[at : at + chance.randint(1, 30)]
        try:
            found = read_calendar(bytes(data), TODAY)
        except BadInput:
            continue
        read += 1
        assert len(found.holidays) <= MOST_DAYS
        assert all(h.first <= h.last and h.name and len(h.uid) <= 140 for h in found.holidays)
    assert read > 100
