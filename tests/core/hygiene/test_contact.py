"""Contact time as wet time; stock draw-down; words of reasons."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.contact import contact_at
from creekbed.core.planning.model import Reason
from creekbed.core.supplies.stock import draw
from creekbed.words.plan import why_words
from creekbed.words.times import span

START = datetime(2026, 11, 19, 9, 0, tzinfo=UTC)
TEN, TWENTY = timedelta(minutes=10), timedelta(minutes=20)


def at(minutes: float) -> datetime:
    return START + timedelta(minutes=minutes)


def test_it_may_end_when_the_labels_time_has_passed() -> None:
    assert not contact_at(at(9.9), START, TEN, TWENTY, START).may_end
    state = contact_at(at(10), START, TEN, TWENTY, START)
    assert state.may_end and state.remaining == timedelta(0) and state.over == timedelta(0)
    assert state.latest == at(20)


def test_dry_does_not_count_and_restarts() -> None:
    dry = contact_at(at(30), None, TEN, None, START)
    assert not dry.may_end and dry.remaining == TEN
    again = contact_at(at(35), at(30), TEN, None, START)
    assert again.wet_for == timedelta(minutes=5) and again.remaining == timedelta(minutes=5)


def test_longest_time_counts_from_the_first_touch() -> None:
    state = contact_at(at(24), at(18), TEN, TWENTY, START)
    assert state.over == timedelta(minutes=4)


def test_a_clock_before_the_start_gives_nothing_negative() -> None:
    state = contact_at(at(-5), START, TEN, TWENTY, START)
    assert state.wet_for == timedelta(0) and state.remaining == TEN


@given(st.floats(0, 60), st.floats(0, 60), st.floats(0.5, 60))
def test_wet_and_remaining_always_add_up(elapsed: float, wetted: float, required: float) -> None:
    need = timedelta(minutes=required)
    state = contact_at(at(elapsed), at(min(wetted, elapsed)), need, None, START)
    assert state.may_end == (state.remaining == timedelta(0))
    assert state.wet_for + state.remaining >= need or state.may_end


def test_drawing_down() -> None:
    left = draw("Reeds", "pieces", 8, 1, 6)
    assert left.left == 7 and not left.short
    short = draw("Reeds", "pieces", 7, 1, 6)
    assert short.short and "order more" in short.words
    with pytest.raises(Refused, match="2 pieces are needed, 1 are left"):
        draw("Reeds", "pieces", 1, 2, 6)
    with pytest.raises(BadInput):
        draw("Reeds", "pieces", 1, 0, 6)
    with pytest.raises(Refused):
        draw("Reeds", "pieces", 0, 1, 6)


@pytest.mark.parametrize(
    ("minutes", "words"),
    [(0, "0 min"), (59.4, "59 min"), (60, "1 h 00"), (65, "1 h 05"), (36 * 60, "2 days"), (-3, "0 min")],
)
def test_lengths_of_time(minutes: float, words: str) -> None:
    assert span(minutes) == words


@pytest.mark.parametrize(
    ("reason", "spare", "words"),
    [
        (None, None, "Nothing waits"),
        (Reason("must_end", 100, 8), 100, "within 8 min"),
        (Reason("must_end", 100, -3), 100, "3 min ago"),
        (Reason("too_late", 100, 9), 100, "within 9 min, and no hands"),
        (Reason("least_slack", 30), 20, "20 min to spare before the Friday boat"),
        (Reason("late", -5), -23, "23 min late for the Friday boat"),
        (Reason("starts_wait", 300, 45), 300, "wait of 45 min"),
        (Reason("frees", 300), 300, "frees the place"),
        (Reason("short_way", 300, 12), 300, "12 min of work"),
        (Reason("in_hand"), -4, "in your hands"),
        (Reason("only", None), None, "only thing"),
    ],
)
def test_reasons_in_words(reason: Reason | None, spare: float | None, words: str) -> None:
    assert words in why_words(reason, "Friday boat", spare)
