"""Text at the door: one tag however it is typed, nothing hidden, nothing endless; local times of their date."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.bounded import read_at_most
from creekbed.core.errors import BadInput
from creekbed.core.local import at_hour, midnight, next_clock, next_weekday
from creekbed.core.text import LONGEST, clean, code, everywhere, line


@pytest.mark.parametrize(
    "typed",
    ["MH-0142", " mh-0142 ", "MH-٠١٤٢", "ＭＨ－０１４２", "МН-0142", "ΜΗ-0142", "MH‑0142", "MH–0142", "MH-०१४२",
     "M\u200bH-01\x0042", "\u202eMH-0142\u202c"],
)  # fmt: skip
def test_one_tag_however_it_is_typed(typed: str) -> None:
    assert code(typed) == "MH-0142"


def test_what_nobody_types_on_purpose_goes() -> None:
    assert clean("ne\u0301ck\x00 \x1b[31mred\u202e\ufeff") == "néck [31mred"
    assert clean("two\nlines\tand") == "two\nlines\tand"
    assert line("  a \n b\t c ") == "a b c"
    assert everywhere({"a\x00": ["x\x07", 1, None, {"b": "e\u0301"}]}) == {"a": ["x", 1, None, {"b": "é"}]}


def test_lengths_are_refused_not_cut() -> None:
    with pytest.raises(BadInput, match="201 characters; 200 are the most"):
        line("x" * 201)
    with pytest.raises(BadInput, match="The lot has 41"):
        line("x" * 41, what="The lot", longest=40)
    with pytest.raises(BadInput, match="more than can be kept"):
        clean("é" * (LONGEST + 1))


@given(st.text(max_size=200))
def test_cleaning_twice_is_cleaning_once(text: str) -> None:
    once = clean(text)
    assert clean(once) == once and "\x00" not in once
    once.encode("utf-8")  # whatever came, it can be stored
    assert code(code(text)) == code(text)


# --- files ----------------------------------------------------------------------------------------------------------


def test_no_more_than_a_limit_is_read(tmp_path: Path) -> None:
    path = tmp_path / "f"
    path.write_bytes(b"x" * 100)
    assert read_at_most(path, 100) == b"x" * 100
    with pytest.raises(BadInput, match="larger than"):
        read_at_most(path, 99)
    huge = tmp_path / "huge"
    with huge.open("wb") as file:
        file.truncate(3_000_000_000)
    with pytest.raises(BadInput, match="larger than 1 MB"):
        read_at_most(huge, 1_000_000)
    os.mkfifo(tmp_path / "pipe")
    for strange in (tmp_path / "pipe", Path("/dev/zero")):
        with pytest.raises(BadInput, match="not an ordinary file"):
            read_at_most(strange, 10)
    with pytest.raises(OSError):
        read_at_most(tmp_path, 10)


# --- local times ----------------------------------------------------------------------------------------------------


@pytest.fixture(params=["Europe/Copenhagen", "America/Halifax", "Australia/Lord_Howe", "UTC"])
def zone(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> Iterator[str]:
    """A place with its own daylight saving; Lord Howe's is half an hour."""
    monkeypatch.setenv("TZ", request.param)
    time.tzset()
    yield request.param
    monkeypatch.undo()
    time.tzset()


def test_a_time_of_day_is_that_of_its_date(zone: str) -> None:
    """Every day of a year, spring and autumn included, at hours at which no clock is set."""
    for n in range(366):
        day = date(2026, 1, 1) + timedelta(days=n)
        for hour in (0.0, 7.5, 9.0, 17.25, 23.9833333):
            at = at_hour(day, hour).astimezone(UTC).astimezone()
            assert (at.date(), at.hour, at.minute) == (day, int(hour), round(hour % 1 * 60)), (zone, at)
        assert at_hour(day, 24.0) == at_hour(day + timedelta(days=1), 0.0)


def test_the_next_of_a_kind_across_a_change(zone: str) -> None:
    for start in (datetime(2026, 3, 27, 15, tzinfo=UTC), datetime(2026, 10, 23, 15, tzinfo=UTC)):
        for hours in range(0, 24 * 12, 5):
            now = start + timedelta(hours=hours)
            at = next_clock(now, 9, 30)
            assert now <= at and (at.astimezone().hour, at.astimezone().minute) == (9, 30)
            assert at - now <= timedelta(hours=25)
            for weekday in range(7):
                back = next_weekday(now, weekday, 14, 0).astimezone(UTC).astimezone()
                assert back > now and (back.weekday(), back.hour, back.minute) == (weekday, 14, 0)
                assert back - now <= timedelta(days=7, hours=1)
            assert midnight(now) <= now < midnight(now, 1)
