"""Sentences of the shop's days, its clock, its bill and its instruments, from plain values."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta

import pytest

from creekbed.words.bill import bill_words, missing_words
from creekbed.words.calendar import ON_CLOSED, day_words, rhythm_words, season_words, spans_words, tags_are, week_words
from creekbed.words.clocks import after_restart, clock_set, computer_off
from creekbed.words.instruments import back_words, stands_still, unreadable
from creekbed.words.pages import PAGES, SHORT_PAGES, page_code, types
from creekbed.words.reeds import STATES, after_bath, reed_words, too_long
from creekbed.words.set_up import NAMES, until_said


def test_a_week_says_days_that_are_alike_together_and_leaves_shut_ones_out() -> None:
    open_ = spans_words([(8.5, 12), (13, 17)])
    assert open_ == "08:30-12:00, 13:00-17:00"
    assert week_words([open_] * 5 + [spans_words([])] * 2) == f"Mon to Fri {open_}"
    assert week_words([open_, "shut", open_, "shut", "shut", "shut", "shut"]) == f"Mon {open_}; Wed {open_}"
    assert season_words({}) == "Shut all the time"
    assert (
        season_words({"0": [(9, 12)], "1": [(9, 12)], "4": [(9, 10.25)]}) == "Mon to Tue 09:00-12:00, Fri 09:00-10:15"
    )


@pytest.mark.parametrize(
    ("weekdays", "every", "dates", "words"),
    [
        ((0,), 1, 0, "Mondays 08:30"),
        ((0, 3), 1, 0, "Mondays and Thursdays 08:30"),
        ((0, 2, 4), 2, 0, "every 2 weeks on Mondays, Wednesdays and Fridays 08:30"),
        ((), 1, 1, "on 1 date 08:30"),
        ((), 1, 3, "on 3 dates 08:30"),
    ],
)
def test_rhythms(weekdays: tuple[int, ...], every: int, dates: int, words: str) -> None:
    assert rhythm_words(510, weekdays, every, dates) == words


def test_days_without_leading_zeros() -> None:
    assert day_words("2026-12-24", "2027-01-01") == "Thu 24 Dec 2026 to Fri 1 Jan 2027"
    assert day_words("2026-05-01", "2026-05-01", yearly=True) == "1 May, every year"
    assert set(ON_CLOSED) == {"skip", "before", "keep"}
    assert tags_are(["V-1"]) == "V-1 is" and tags_are([f"V-{n}" for n in range(1, 6)]) == "V-1, V-2, V-3 and 2 more are"


def test_a_clock_that_was_set() -> None:
    back = clock_set(timedelta(minutes=-7), rebooted=False, waits=2)
    assert "set back by 7 min" in back and "Waits go on" in back
    assert clock_set(timedelta(seconds=20), rebooted=False, waits=0).endswith("forward by less than a minute.")
    assert "look at each" in clock_set(timedelta(minutes=-7), rebooted=True, waits=1)
    assert "1 h 30" in computer_off(timedelta(minutes=90)) and "end it with a reason" in computer_off(
        timedelta(hours=1)
    )
    assert "a wait ran" in after_restart(1) and "3 waits ran" in after_restart(3)


def test_a_bill_adds_what_has_a_price_and_counts_what_has_none() -> None:
    assert bill_words([]) == ""
    assert "Together" not in bill_words([("bell: dent", None)])
    both = bill_words([(missing_words("Cap", replaced=True), 4.0), ("Rosin: missing", 2.5), ("bell: dent", None)])
    assert "Cap: missing, replaced from stock, " in both and "6.5" in both and "and 1 without a price yet." in both


def test_what_stands_in_an_instruments_way() -> None:
    back = datetime(2026, 12, 4, 9, tzinfo=UTC)
    assert stands_still("", False, "", None) == ""
    assert stands_still("mould", False, "bow maker", back) == "mould"
    assert stands_still("mould", True, "", None).startswith("mould. Treated")
    assert stands_still("", False, "bow maker", None) == "bow maker"
    assert stands_still("", False, "bow maker", back).startswith("bow maker, back Fri ")
    assert back_words(None, back.date()) == ""
    assert back_words(date(2026, 12, 3), back.date()) == "overdue since 03 Dec 2026"
    assert back_words(date(2026, 12, 4), back.date()) == "back by 04 Dec 2026"
    assert len(unreadable("KeyError", "x" * 500)) < 250


def test_reeds_pages_and_what_is_still_to_say() -> None:
    assert reed_words("rests", 11.6) == "rests, 12 h more" and all(reed_words(s) for s in STATES)
    assert too_long(0.4) == "" and "3 min past" in after_bath(3)
    assert all(page_code(key) for key in PAGES) and set(SHORT_PAGES) <= set(PAGES)
    assert types(" ") == "types a space" and types("7") == "types 7"
    assert set(until_said("IW", "Mon 09:00-12:00", 442, 20)) == set(NAMES)
