"""The bench as a whole: what next, forecasts, pools; what would help; history; policies; stock; the clock."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta

import pytest

from creekbed.core.errors import BadInput, Refused
from creekbed.store.records import Wait
from creekbed.workshop.arrival import intake
from creekbed.workshop.arrival.condition_marks import add_mark
from creekbed.workshop.bench import job_steps, waits
from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.inspection.history import history
from creekbed.workshop.planning.remedies import help_for
from creekbed.workshop.release import release_check
from creekbed.workshop.shop import policies
from creekbed.workshop.shop.clock import HandClock, SystemClock, moved_by
from creekbed.workshop.shop.departures import add_departure
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.conftest import MORNING, Hand


def test_an_empty_bench(shop: Shop) -> None:
    view = home(shop)
    assert view.next is None and view.waits == () and all(p.count == 0 for p in view.stages)


def test_eight_jobs_are_forecast_against_their_boats(shop: Shop, hand: Hand, clock: HandClock) -> None:
    soon = add_departure(shop, "Noon packet", clock.now() + timedelta(hours=2))
    late = add_departure(shop, "Friday boat", clock.now() + timedelta(hours=25))
    jobs = [hand.book(f"MH-01{n:02d}", departure_id=soon if n < 2 else late) for n in range(10, 18)]
    view = home(shop)
    assert len(view.jobs) == 8 and view.next is not None
    packet, friday = view.shipments
    assert len(packet.items) + len(friday.items) == len(jobs)
    for shipment in view.shipments:
        for item in shipment.items:
            assert item.finish is not None
            late_min = max(0.0, (item.finish - shipment.departure.leaves_at).total_seconds() / 60)
            assert item.late_min == pytest.approx(late_min, abs=0.01)
    assert view.next.view.departure is not None


def test_the_plan_follows_every_event(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    first = home(shop).next
    assert first is not None and first.step.step.key == "contents" and not first.in_hand
    hand.do(job, "contents")
    second = home(shop).next
    assert second is not None and second.step.step.key == "apart"
    shop.undo()
    again = home(shop).next
    assert again is not None and again.step.step.key == "contents"


def test_what_is_in_hand_stays_until_done_or_put_aside(shop: Shop, hand: Hand, clock: HandClock) -> None:
    calm = hand.book("MH-0142", departure_id=add_departure(shop, "Tuesday boat", clock.now() + timedelta(days=5)))
    job_steps.take_up(shop, calm, "contents")
    hand.book("MH-0150", departure_id=add_departure(shop, "Noon", clock.now() + timedelta(hours=1)))
    following = home(shop).next
    assert following is not None and following.in_hand and following.view.tag == "MH-0142"
    assert following.why == "It is in your hands."
    job_steps.put_aside(shop)
    following = home(shop).next
    assert following is not None and following.view.tag == "MH-0150"


def test_a_wait_that_must_end_is_next(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    other = hand.book("MH-0150")
    hand.until(job, "disinfect")
    clock.advance(minutes=15)
    following = home(shop).next
    assert following is not None and following.step.step.key == "rinse" and "must be ended within" in following.why
    assert hand.view(other).stage == "book_in"


def test_pools_count_stages_and_who_waits_for_hands(shop: Shop, hand: Hand) -> None:
    a, b, c = hand.book("MH-0142"), hand.book("MH-0150"), hand.book("MH-0163")
    hand.until(a, "look")
    hand.until(b, "contents")
    intake.set_quarantine(shop, c, "mould")
    stages = {p.stage: p for p in home(shop).stages}
    assert (stages["book_in"].count, stages["look_over"].count, stages["clean"].count) == (1, 1, 1)
    assert stages["book_in"].for_hands == 0 and stages["clean"].for_hands == 1


def test_ready_ones_are_in_time(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "pack")
    release_check.make_ready(shop, job)
    shipment = home(shop).shipments[0]
    assert shipment.will_make_it == 1 and shipment.items[0].ready
    assert {p.stage: p.count for p in home(shop).stages}["ready"] == 1


def test_blocked_ones_will_not_make_it(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    intake.tick_item(shop, job, "end_plug", "missing")
    view = home(shop)
    assert view.shipments[0].will_make_it == 0
    assert view.blocked == (("MH-0142", job, "end plug missing"),)


def test_what_would_help_a_late_job(shop: Shop, hand: Hand, clock: HandClock) -> None:
    departure = add_departure(shop, "Noon packet", clock.now() + timedelta(minutes=40))
    hand.book("MH-0142", departure_id=departure)
    add_departure(shop, "Friday boat", clock.now() + timedelta(days=1))
    rows = help_for(shop, departure)
    assert [r.tag for r in rows] == ["MH-0142"] and not rows[0].makes_it
    assert "Friday boat" in rows[0].words and "late" in rows[0].words
    assert help_for(shop, 999) == []


def test_taking_it_first_is_found_where_it_helps(shop: Shop, hand: Hand, clock: HandClock) -> None:
    departure = add_departure(shop, "Noon packet", clock.now() + timedelta(minutes=188))
    for n in range(4):
        hand.book(f"MH-019{n}", departure_id=departure, weight=9.0)
    light = hand.book("MH-0142", departure_id=departure, weight=0.2)
    late = {a.tag: a.late_min for a in home(shop).shipments[0].items}
    rows = {r.tag: r for r in help_for(shop, departure)}
    assert set(rows) == {t for t, m in late.items() if m > 0}
    assert light and rows["MH-0142"].makes_it and "taken first" in rows["MH-0142"].words


# --- history --------------------------------------------------------------------------------------------------------


def test_condition_out_and_in_side_by_side(shop: Shop, hand: Hand, hired: Callable[..., None]) -> None:
    condition = [
        {"check": "neck_cork", "value": 7.0, "unit": "millimeter", "band": "green", "words": ""},
        {"check": "mouthpiece", "value": None, "unit": "", "band": "green", "words": "Sound and clean."},
        {"zone": "bell", "kind": "scratch", "size_mm": 10.0},
        {"zone": "keys", "kind": "bent", "size_mm": None},
    ]
    hired("MH-0142", condition=condition)
    job = hand.book()
    intake.tick_item(shop, job, "end_plug", "missing")
    hand.look(job, neck_cork=9.4, mouthpiece="lime")
    add_mark(shop, job, "bell", "scratch", 25.0)
    add_mark(shop, job, "bow", "dent", 6.0)
    rows = {(c.what, c.came_in): c for c in history(shop, "mh-0142").periods[0].compared}
    by = {c.what: c for c in rows.values()}
    assert (by["Neck-cork fit"].out, by["Neck-cork fit"].came_in, by["Neck-cork fit"].status) == (
        "7 mm",
        "9.4 mm",
        "grown",
    )
    assert by["Mouthpiece"].status == "new" and by["Sticking pads"].out == "not recorded"
    assert (
        by["Mark: bell"].status == "grown"
        and by["Mark: bow"].status == "new"
        and by["Mark: keys"].status == "unchanged"
    )
    assert by["End plug"].status == "missing"


def test_a_difference_within_its_uncertainty_is_no_change(shop: Shop, hand: Hand, hired: Callable[..., None]) -> None:
    """u = 0.25 mm each: the difference of two readings has U = 2·√2·0.25 = 0.71 mm (JCGM 100:2008, 5.1.2)."""
    hired(
        "MH-0142", condition=[{"check": "neck_cork", "value": 7.0, "unit": "millimeter", "band": "green", "words": ""}]
    )
    job = hand.book()
    hand.look(job, neck_cork=7.6)
    assert history(shop, "MH-0142").periods[0].compared[0].status == "unchanged"
    hand.look(job, neck_cork=7.9)
    assert history(shop, "MH-0142").periods[0].compared[0].status == "changed"


def test_history_of_nobody(shop: Shop) -> None:
    with pytest.raises(Refused, match="No instrument"):
        history(shop, "MH-0999")
    with pytest.raises(BadInput):
        history(shop, "nonsense")


# --- policies --------------------------------------------------------------------------------------------------------


def test_a_policy_counts_for_future_jobs_only(shop: Shop, hand: Hand) -> None:
    before = hand.book("MH-0142")
    assert policies.effect(shop, "sax_body_pulls", "one").difference.minutes == pytest.approx(-1.6)
    policies.choose_policy(shop, "sax_body_pulls", "one")
    after = hand.book("MH-0150")
    assert "2 slow pulls" in hand.view(before).step("body_swab").step.what  # type: ignore[union-attr]
    assert "1 slow pull" in hand.view(after).step("body_swab").step.what  # type: ignore[union-attr]
    policies.choose_policy(shop, "sax_body_pulls", "by_hours")
    assert policies.chosen(shop)["sax_body_pulls"] == "by_hours"
    shop.undo()
    assert policies.chosen(shop)["sax_body_pulls"] == "one"


def test_no_such_policy(shop: Shop) -> None:
    for topic, choice in (("sax_body_pulls", "nine"), ("tea", "milk_first")):
        with pytest.raises(BadInput):
            policies.choose_policy(shop, topic, choice)


# --- stock ----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("item", "amount", "more"),
    [
        ("gold", 1, {}), ("pad_paper", 0, {}), ("pad_paper", -3, {}), ("peroxide_6_ml", 100, {}),
        ("peroxide_6_ml", 100, {"strength_pct": 0}), ("peroxide_6_ml", 100, {"strength_pct": 130}),
        ("peroxide_6_ml", 100, {"strength_pct": 6, "contact_min": 0}),
        ("pad_paper", 5, {"discard_at": MORNING - timedelta(days=1)}), ("pad_paper", 1e9, {}),
    ],
)  # fmt: skip
def test_stock_that_cannot_be(shop: Shop, item: str, amount: float, more: dict[str, object]) -> None:
    with pytest.raises(BadInput):
        stock.book_in_stock(shop, item, amount, **more)  # type: ignore[arg-type]


def test_first_to_be_discarded_is_used_first(shop: Shop, hand: Hand, clock: HandClock) -> None:
    stock.book_in_stock(shop, "reed_alto_2", 2, lot="old", discard_at=clock.now() + timedelta(days=3))
    job = hand.book()
    hand.until(job, "reed_new")
    view = next(v for v in stock.stock_list(shop) if v.supply.key == "reed_alto_2")
    assert {x.lot: x.amount for x in view.lots} == {"box 4": 13, "old": 1}
    clock.advance(days=4)
    view = next(v for v in stock.stock_list(shop) if v.supply.key == "reed_alto_2")
    assert view.amount == 13  # what is past its date does not count


def test_counting_up_and_down(shop: Shop) -> None:
    stock.count_stock(shop, "pad_paper", 3, "at the shelf")
    assert next(v for v in stock.stock_list(shop) if v.supply.key == "pad_paper").amount == 3
    stock.count_stock(shop, "pad_paper", 300, "a box behind it")
    assert next(v for v in stock.stock_list(shop) if v.supply.key == "pad_paper").amount == 300
    assert stock.stock_list(shop)[0].short or not any(v.short for v in stock.stock_list(shop))
    with pytest.raises(BadInput):
        stock.count_stock(shop, "pad_paper", -1, "x")


def test_a_mix_alone(shop: Shop) -> None:
    recipe = shop.catalogue.house.recipe[0]
    plan = stock.plan_mix(shop, recipe, 250.0)
    assert (plan.mix.stock_rounded_ml, plan.most_ml) == (125.0, 1840.0)
    with pytest.raises(Refused, match="weaker"):
        stock.plan_mix(shop, recipe, 250.0, 9.0)
    with pytest.raises(BadInput):
        stock.plan_mix(shop, recipe, 0.0)
    stock.count_stock(shop, "peroxide_6_ml", 0, "empty")
    with pytest.raises(Refused, match="No usable bottle"):
        stock.plan_mix(shop, recipe)


# --- time -----------------------------------------------------------------------------------------------------------


def wait_left(hand: Hand, job: int) -> float:
    return hand.wait(job).contact.remaining.total_seconds()


@pytest.mark.parametrize("hours", [-1, 2, -30])
def test_a_clock_that_is_set_does_not_stretch_waits(shop: Shop, hand: Hand, clock: HandClock, hours: int) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    assert shop.look_at_clock() == ""
    clock.advance(minutes=4)
    clock.step(hours=hours)
    words = shop.look_at_clock()
    assert ("back" if hours < 0 else "forward") in words and "true time" in words
    assert wait_left(hand, job) == pytest.approx(6 * 60, abs=1)
    assert shop.look_at_clock() == ""
    clock.advance(minutes=6)
    job_steps.finish_step(shop, job, "rinse")


def test_moving_the_clock_cannot_be_undone_by_hand(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    clock.step(hours=1)
    shop.look_at_clock()
    assert shop.undoable(1)[0].action == "step.done"


def test_undo_of_a_step_after_the_clock_was_moved(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    clock.step(hours=1)
    shop.look_at_clock()
    shop.undo()  # the wait that it began was moved with the clock, and goes with it
    assert "disinfect" not in {w.key for w in hand.view(job).waits}
    clock.advance(minutes=1)
    hand.do(job, "disinfect")
    clock.advance(minutes=1)
    waits.dried(shop, hand.wait(job).id)
    clock.step(hours=1)
    with pytest.raises(Refused, match="the clock was set since"):
        shop.undo()  # the minute that it was wet would become an hour
    assert hand.wait(job).wet_since is None
    assert not shop.undoable(1) or shop.undoable(1)[0].tag != "MH-0142"  # nothing before it on the same instrument


def test_set_back_across_a_reboot(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    clock.advance(minutes=4)
    shop.look_at_clock()
    clock.reboot()
    clock.step(days=-1)
    assert "look at each" in shop.look_at_clock()
    assert wait_left(hand, job) == pytest.approx(6 * 60, abs=1)


def test_a_night_with_the_computer_off_is_time_that_passed(shop: Shop, hand: Hand, clock: HandClock) -> None:
    """But for contact times: that it was a night, the computer's clock alone says."""
    job = hand.book()
    hand.until(job, "disinfect")
    clock.reboot()
    clock.step(hours=14)
    assert "off for 14 h 00 by its own clock while a contact time ran" in shop.look_at_clock()
    assert shop.look_at_clock() == ""
    assert not hand.wait(job).contact.may_end
    clock.advance(minutes=10)
    hand.until(job, "rinse")
    shop.look_at_clock()
    clock.reboot()
    clock.step(hours=14)
    assert "The computer was started anew while" in shop.look_at_clock() and shop.look_at_clock() == ""
    assert [w for w in hand.view(job).waits if w.contact.remaining] == []


def test_the_program_closed_and_opened_again(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    clock.advance(minutes=7)
    again = Shop(shop.folder, clock)
    with again.reading() as session:
        assert len(session.all_of(Wait, key="disinfect")) == 1
    dip = next(w for w in home(again).waits if w.key == "disinfect")
    assert dip.contact.remaining == timedelta(minutes=3)
    again.close()


def test_small_corrections_are_no_news() -> None:
    clock = HandClock(MORNING)
    before = clock.tick()
    clock.advance(minutes=5)
    clock.step(seconds=3)
    assert moved_by(before, clock.tick()) == timedelta(0)


def test_the_system_clock_goes_forward() -> None:
    clock = SystemClock(timedelta(days=-3))
    first, second = clock.tick(), clock.tick()
    assert second.boot_seconds >= first.boot_seconds and first.boot_id == second.boot_id
    assert moved_by(first, second) == timedelta(0)


def test_daily_backup_once_a_day(shop: Shop, clock: HandClock) -> None:
    assert shop.daily_backup() is not None
    assert shop.daily_backup() is None
    clock.advance(days=1)
    assert shop.daily_backup() is not None


def test_settings(shop: Shop) -> None:
    assert shop.setting("theme.dark", False) is False
    shop.set_setting("theme.dark", True, "Window: dark")
    shop.set_setting("theme.dark", False, "Window: light")
    assert shop.setting("theme.dark") is False
    assert all(e.action != "setting" for e in shop.undoable(50))


# --- what a group or teacher asks for -------------------------------------------------------------------------------


def test_a_teacher_may_ask_for_another_policy(shop: Shop, hand: Hand) -> None:
    policies.ask(shop, "Netloft fiddles", "bow_loosening", "turns")
    theirs = hand.book("MH-0300", "violin", next_group="Netloft fiddles")
    others = hand.book("MH-0310", "violin", next_group="Boatyard strings")
    step = hand.view(theirs).step("after_bow")
    assert step is not None and "3 or 4 turns" in step.step.what
    assert step.step.policy == "Bow: how far to loosen it: 3 or 4 turns, as Netloft fiddles asks"
    plain = hand.view(others).step("after_bow")
    assert plain is not None and "asks" not in plain.step.policy and "few hairs" in plain.step.what
    hand.until(theirs, "pack")
    facts = release_check.make_ready(shop, theirs)
    assert any("as Netloft fiddles asks" in s for s in facts["policies"])
    policies.ask(shop, "Netloft fiddles", "bow_loosening", "")
    assert policies.asks(shop) == {} and "asks" in hand.view(theirs).step("after_bow").step.policy  # type: ignore[union-attr]


def test_hygiene_is_the_house_rule_for_everybody(shop: Shop) -> None:
    for topic in ("sanitising", "mouthpiece_wash", "reed_cleaning", "case_lid", "minor_adjust"):
        with pytest.raises(Refused, match="hygiene, chemistry or safety"):
            policies.ask(shop, "Netloft fiddles", topic, shop.catalogue.topics[topic].choice[-1].key)
    with pytest.raises(BadInput, match="Nobody is named"):
        policies.ask(shop, "  ", "bow_loosening", "turns")
    with pytest.raises(BadInput, match="does not exist"):
        policies.ask(shop, "Netloft fiddles", "no_such_topic", "turns")
    assert policies.asks(shop) == {}
