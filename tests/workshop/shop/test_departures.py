"""How instruments leave: kinds that come again, the list, days off, and due times of single jobs."""

from __future__ import annotations

import time
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

import pytest

from creekbed.core.errors import BadInput, Refused
from creekbed.store.records import ClosedDays, Departure, Season
from creekbed.words.calendar import season_words
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.release import release_check
from creekbed.workshop.shop import shop_days, staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.departures import (
    AHEAD_DAYS,
    KindRequest,
    add_departure,
    add_kind,
    cancel_departure,
    change_kind,
    coming_departures,
    drop_kind,
    kinds,
    rhythm_said,
    roll,
)
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand

VAN = KindRequest("Monday van", 510, weekdays=(0,))
"""The clock of these tests stands at Thursday 19 November 2026, 09:00 UTC; the next Monday is the 23rd."""


def days(shop: Shop, name: str = "Monday van") -> list[date]:
    return [d.leaves_at.astimezone().date() for d in coming_departures(shop) if d.name == name]


def test_a_kind_puts_its_departures_on_the_list(shop: Shop) -> None:
    add_kind(shop, VAN)
    found = coming_departures(shop)
    assert days(shop) == [date(2026, 11, 23) + timedelta(weeks=n) for n in range(6)]
    assert all((d.leaves_at.astimezone().hour, d.leaves_at.astimezone().minute) == (8, 30) for d in found)
    assert shop.last_done is not None and shop.last_done.words == "Instruments leave by: Monday van, Mondays 08:30"
    shop.undo()
    assert coming_departures(shop) == [] and kinds(shop) == []


def test_the_list_goes_on_as_days_go_by(shop: Shop, clock: HandClock) -> None:
    add_kind(shop, VAN)
    entry = shop.last_done
    assert roll(shop) == 0 and shop.last_done is entry  # nothing is written where nothing is missing
    clock.advance(minutes=14 * 24 * 60)
    assert roll(shop) == 2
    assert days(shop)[-1] == date(2026, 12, 28) + timedelta(weeks=2)
    assert (days(shop)[-1] - shop.now.astimezone().date()).days <= AHEAD_DAYS
    clock.advance(minutes=200 * 24 * 60)  # nobody came for months
    assert roll(shop) >= 5 and all(d.leaves_at > shop.now for d in coming_departures(shop))


def test_what_is_booked_follows_its_kind(shop: Shop, hand: Hand) -> None:
    number = add_kind(shop, VAN)
    first = coming_departures(shop)[0]
    job = hand.book(departure_id=first.id)
    change_kind(shop, number, replace(VAN, name="Early van", minute=445))
    departure = hand.view(job).departure
    assert departure is not None and departure.name == "Early van" and departure.id == first.id
    assert departure.leaves_at == first.leaves_at - timedelta(minutes=65)
    shop.undo()
    departure = hand.view(job).departure
    assert departure is not None and departure.leaves_at == first.leaves_at


def test_what_no_longer_leaves_is_taken_off_unless_it_is_booked(shop: Shop, hand: Hand) -> None:
    number = add_kind(shop, VAN)
    first, second = coming_departures(shop)[:2]
    hand.book("MH-0142", departure_id=first.id)
    drop_kind(shop, number)
    assert shop.last_done is not None
    assert any("MH-0142 is booked" in note for note in shop.last_done.notes)
    assert [d.id for d in coming_departures(shop)] == [first.id]  # nobody's instrument loses its day silently
    with pytest.raises(Refused):
        drop_kind(shop, number)
    with pytest.raises(Refused):
        intake.change_departure(shop, 1, second.id)
    shop.undo()
    assert len(days(shop)) == 6


def test_one_of_them_does_not_take_place(shop: Shop, hand: Hand) -> None:
    add_kind(shop, VAN)
    first, second = coming_departures(shop)[:2]
    job = hand.book(departure_id=first.id)
    with pytest.raises(Refused, match="MH-0142 is booked for it"):
        cancel_departure(shop, first.id)
    intake.change_departure(shop, job, second.id)
    cancel_departure(shop, first.id)
    assert first.id not in {d.id for d in coming_departures(shop)}
    assert first.id not in {x.departure.id for x in home(shop).shipments}
    roll(shop)
    change_kind(shop, 1, replace(VAN, minute=540))
    assert first.id not in {d.id for d in coming_departures(shop)}, "what somebody cancelled stays cancelled"
    with pytest.raises(Refused):
        cancel_departure(shop, first.id)


def test_days_off_move_the_list_and_back(shop: Shop, hand: Hand) -> None:
    number = add_kind(shop, VAN)
    job = hand.book(departure_id=coming_departures(shop)[1].id)  # the 30th
    off = shop_days.close(shop, "Stocktaking", date(2026, 11, 30), date(2026, 11, 30))
    assert shop.last_done is not None and any("MH-0142 is booked" in n for n in shop.last_done.notes)
    shop_days.close(shop, "Holiday", date(2026, 12, 7), date(2026, 12, 7))
    assert date(2026, 12, 7) not in days(shop) and date(2026, 11, 30) in days(shop)
    change_kind(shop, number, replace(VAN, on_closed="before"))
    moved = hand.view(job).departure
    assert moved is not None and moved.leaves_at.astimezone().date() == date(2026, 11, 28)  # a Saturday, half open
    assert date(2026, 12, 5) in days(shop)
    shop_days.remove_days(shop, ClosedDays, off)
    moved = hand.view(job).departure
    assert moved is not None and moved.leaves_at.astimezone().date() == date(2026, 11, 30)
    with pytest.raises(Refused):
        shop_days.remove_days(shop, ClosedDays, off)


def test_nobody_is_planned_with_on_days_off_and_in_seasons_less(shop: Shop, clock: HandClock) -> None:
    def open_on(day: date) -> list[tuple[float, float]]:
        spans = staff.open_spans(shop, clock.now())
        return [
            (a.astimezone().hour + a.astimezone().minute / 60, b.astimezone().hour + b.astimezone().minute / 60)
            for a, b in spans if a.astimezone().date() == day
        ]  # fmt: skip

    friday, monday = date(2026, 11, 20), date(2026, 11, 23)
    assert open_on(friday)
    shop_days.close(shop, "Feast", friday, friday)
    assert open_on(friday) == []
    season = shop_days.set_season(shop, "Quiet", monday, date(2026, 12, 4), {0: "10-12", 3: ""})
    assert open_on(monday) == [(10.0, 12.0)] and open_on(date(2026, 11, 26)) == []
    windows = home(shop).problem.windows
    assert windows[-1][1] > 0
    assert season_words(shop_days.shop_days(shop).seasons[0].hours) == "Mon 10:00-12:00"
    shop_days.remove_days(shop, Season, season)
    assert open_on(monday) != [(10.0, 12.0)]


def test_a_job_may_have_a_due_time_of_its_own(shop: Shop, hand: Hand, clock: HandClock) -> None:
    at = clock.now() + timedelta(hours=30)
    a = intake.book_in(shop, "MH-0142", family="alto_saxophone", due_at=at)
    b = intake.book_in(shop, "MH-0143", family="alto_saxophone", due_at=at)
    view = home(shop)
    assert coming_departures(shop) == []  # it is nothing that others could go with
    (shipment,) = view.shipments
    assert shipment.departure.single and {i.job_id for i in shipment.items} == {a, b}
    assert next(j for j in view.problem.jobs if j.key == "MH-0142").due == pytest.approx(30 * 60)
    intake.change_due_time(shop, b, at + timedelta(hours=5))
    departure = hand.view(b).departure
    assert departure is not None and departure.leaves_at == at + timedelta(hours=5)
    for wrong in (clock.now() - timedelta(minutes=1), clock.now() + timedelta(days=400)):
        with pytest.raises(BadInput):
            intake.change_due_time(shop, a, wrong)
        with pytest.raises(BadInput):
            intake.book_in(shop, "MH-0144", family="alto_saxophone", due_at=wrong)
    add_kind(shop, VAN)
    intake.change_departure(shop, a, coming_departures(shop)[0].id)
    departure = hand.view(a).departure
    assert departure is not None and departure.name == "Monday van"
    assert release_check.tag_facts(shop, hand.view(a))["departure"] == "Monday van"


@pytest.mark.parametrize(
    "wanted",
    [
        replace(VAN, name="  "), replace(VAN, name="x" * 61), replace(VAN, minute=1440), replace(VAN, minute=-1),
        replace(VAN, weekdays=()), replace(VAN, weekdays=(7,)), replace(VAN, every_weeks=0),
        replace(VAN, every_weeks=53), replace(VAN, dates=(date(2026, 12, 3),)),
    ],
)  # fmt: skip
def test_what_is_no_way_to_leave(shop: Shop, wanted: KindRequest) -> None:
    with pytest.raises(BadInput):
        add_kind(shop, wanted)
    assert kinds(shop) == []


def test_names_are_given_once(shop: Shop) -> None:
    number = add_kind(shop, VAN)
    with pytest.raises(Refused, match="already"):
        add_kind(shop, replace(VAN, name="monday VAN"))
    other = add_kind(shop, replace(VAN, name="School", weekdays=(), dates=(date(2026, 12, 3), date(2027, 9, 1))))
    with pytest.raises(Refused):
        change_kind(shop, other, VAN)
    change_kind(shop, number, replace(VAN, every_weeks=2, first=date(2026, 11, 19)))
    assert days(shop) == [date(2026, 11, 30), date(2026, 12, 14), date(2026, 12, 28)]  # weeks of 16, 30 November …
    assert days(shop, "School") == [date(2026, 12, 3)]  # the other is too far ahead to be on the list yet


def test_rhythms_in_words(shop: Shop) -> None:
    add_kind(shop, replace(VAN, weekdays=(0, 2, 4)))
    add_kind(shop, replace(VAN, name="b", every_weeks=2))
    add_kind(shop, replace(VAN, name="c", weekdays=(), dates=(date(2026, 12, 3),)))
    words = {k.name: rhythm_said(k) for k in kinds(shop)}
    assert words == {
        "Monday van": "Mondays, Wednesdays and Fridays 08:30", "b": "every 2 weeks on Mondays 08:30",
        "c": "on 1 date 08:30",
    }  # fmt: skip


def test_a_departure_of_no_kind_is_never_moved(shop: Shop, clock: HandClock) -> None:
    number = add_departure(shop, "Ferry", clock.now() + timedelta(days=4))
    add_kind(shop, VAN)
    shop_days.close(shop, "All", date(2026, 11, 20), date(2026, 12, 20))
    with shop.reading() as records:
        row = records.get(Departure, number)
    assert row is not None and row.leaves_at == clock.now() + timedelta(days=4) and not row.off


def test_holidays_brought_twice_are_there_once(shop: Shop) -> None:
    from creekbed.interchange.calendar_file import Holiday

    a, b = date(2026, 12, 24), date(2027, 5, 1)
    first = (Holiday("u1", "Midwinter", a, a), Holiday("u2", "May day", b, b))
    assert shop_days.bring_holidays(shop, first) == (2, 0)
    with pytest.raises(Refused, match="already"):
        shop_days.bring_holidays(shop, first)
    assert shop_days.bring_holidays(shop, (replace(first[0], last=a + timedelta(days=2)), first[1])) == (0, 1)
    rows = shop_days.shop_days(shop).closed
    assert [(r.name, r.first_on, r.last_on) for r in rows] == [
        ("Midwinter", "2026-12-24", "2026-12-26"), ("May day", "2027-05-01", "2027-05-01"),
    ]  # fmt: skip
    shop.undo()
    assert shop_days.shop_days(shop).closed[0].last_on == "2026-12-24"


def test_days_in_words() -> None:
    assert shop_days.day_words("2026-12-24", "2026-12-24") == "Thu 24 Dec 2026"
    assert shop_days.day_words("2026-12-04", "2027-01-01") == "Fri 4 Dec 2026 to Fri 1 Jan 2027"
    assert shop_days.day_words("2026-05-01", "2026-05-01", True) == "1 May, every year"


def test_what_cannot_be_days_off(shop: Shop) -> None:
    a = date(2026, 12, 24)
    for name, first, last in (("", a, a), ("x", a, a - timedelta(days=1)), ("x", a, a + timedelta(days=400))):
        with pytest.raises(BadInput):
            shop_days.close(shop, name, first, last)
        with pytest.raises(BadInput):
            shop_days.set_season(shop, name, first, last, {})
    with pytest.raises(BadInput):
        shop_days.set_season(shop, "x", a, a, {0: "12-9"})
    assert shop_days.shop_days(shop) == shop_days.ShopDays((), ())


def test_two_windows_put_the_list_in_order_at_once(shop: Shop, clock: HandClock) -> None:
    add_kind(shop, VAN)
    clock.advance(minutes=21 * 24 * 60)
    other = Shop(shop.folder, clock, person="TO")
    try:
        roll(shop)
        roll(other)
        with shop.reading() as records:
            rows = [(d.kind_id, d.day) for d in records.all_of(Departure) if d.kind_id]
        assert len(rows) == len(set(rows))
    finally:
        other.close()


def test_a_departure_is_at_its_clock_time_also_after_the_clocks_change(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """New York goes back on the first Sunday of November (Energy Policy Act of 2005): 1 November 2026."""
    monkeypatch.setenv("TZ", "EST5EDT,M3.2.0,M11.1.0")
    time.tzset()
    try:
        shop = Shop(tmp_path / "shop", HandClock(datetime(2026, 10, 22, 15, 0, tzinfo=UTC)))
        add_kind(shop, VAN)
        found = coming_departures(shop)
        shop.close()
        assert {d.leaves_at.astimezone().strftime("%a %H:%M") for d in found} == {"Mon 08:30"}
        assert {d.leaves_at.astimezone(UTC).hour for d in found} == {12, 13}
    finally:
        monkeypatch.undo()
        time.tzset()
