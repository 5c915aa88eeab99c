"""Looking over, doing the job, waits, the gate."""

from __future__ import annotations

import math
from datetime import timedelta

import pytest

from creekbed.core.errors import BadInput, Refused
from creekbed.core.measure import Reading
from creekbed.store.records import Wait
from creekbed.words.release import condition_words
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps, settling, waits
from creekbed.workshop.inspection import findings as inspection
from creekbed.workshop.inspection.history import history
from creekbed.workshop.release import release_check
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.conftest import Hand


def amount(shop: Shop, item: str) -> float:
    return next(v.amount for v in stock.stock_list(shop) if v.supply.key == item)


# --- looking over ---------------------------------------------------------------------------------------------------


def test_lengths_or_angle(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0300", "violin")
    check = hand.view(job).family.find_check("bridge_lean")
    by_angle = inspection.typed_reading(check, "3.05°")
    by_lengths = inspection.typed_reading(check, "30 mm", "1.6 mm")
    inches = inspection.typed_reading(check, "1.1811 in", "0.062992 in")
    assert by_lengths.value == pytest.approx(by_angle.value, abs=0.01) == pytest.approx(inches.value, abs=0.01)
    assert by_lengths.how == "from two lengths" and by_lengths.u != by_angle.u


@pytest.mark.parametrize(
    ("first", "second"),
    [("", ""), ("banana", ""), ("-3 mm", "1 mm"), ("30 mm", "kg"), ("500°", ""), ("10 mm", "20 mm")],
)
def test_nonsense_is_said_and_nothing_kept(shop: Shop, hand: Hand, first: str, second: str) -> None:
    job = hand.book("MH-0300", "violin")
    check = hand.view(job).family.find_check("bridge_lean")
    with pytest.raises(BadInput):
        inspection.record_reading(shop, job, "bridge_lean", inspection.typed_reading(check, first, second))
    assert hand.view(job).findings == {}


def test_measure_again_until_it_is_sure(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0300", "violin")
    reading = Reading(1.95, 0.15, "millimeter")
    result = inspection.record_reading(shop, job, "fine_tuner", reading)
    assert result.band == "again" and result.verdict is None
    hand.until(job, "bow_loosen")
    hand.look(job, fine_tuner=1.95)
    with pytest.raises(Refused, match="Not sure yet: Fine-tuner clearance"):
        job_steps.finish_step(shop, job, "look")
    again = inspection.record_reading(shop, job, "fine_tuner", Reading(1.5, 0.05, "millimeter"), again=True)
    assert len(hand.view(job).findings["fine_tuner"].readings) == 2
    assert again.band == "again"  # two readings that far apart are no certainty
    assert inspection.record_reading(shop, job, "fine_tuner", Reading(1.5, 0.05, "millimeter")).band == "act"
    job_steps.finish_step(shop, job, "look")
    assert hand.view(job).step("tuner_back") is not None


def test_overruling_keeps_both(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0300", "violin")
    inspection.record_reading(shop, job, "bridge_lean", Reading(5, 0.2, "degree"))
    with pytest.raises(BadInput, match="reason"):
        inspection.overrule(shop, job, "bridge_lean", "ready", "")
    with pytest.raises(BadInput, match="no verdict"):
        inspection.overrule(shop, job, "bridge_lean", "burn", "because of it")
    with pytest.raises(Refused, match="not been done"):
        inspection.overrule(shop, job, "fine_tuner", "ready", "because of it")
    inspection.overrule(shop, job, "bridge_lean", "ready", "set by the luthier last week")
    finding = hand.view(job).findings["bridge_lean"]
    assert (finding.verdict, finding.overruled) == ("specialist", "ready")
    assert not release_check.finding_open(hand.view(job), finding)
    inspection.record_reading(shop, job, "bridge_lean", Reading(6, 0.2, "degree"))  # a new reading stands for itself
    assert hand.view(job).findings["bridge_lean"].overruled == ""


def test_wrong_unit_of_a_reading(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0300", "violin")
    with pytest.raises(BadInput, match="not measured in"):
        inspection.record_reading(shop, job, "bridge_lean", Reading(5, 0.2, "millimeter"))
    with pytest.raises(BadInput, match="no check"):
        inspection.record_choice(shop, job, "pads", "sticks")


def test_specialist_goes_out_and_comes_back(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0300", "violin")
    hand.until(job, "look", bridge_lean=5)
    inspection.send_out(shop, job, "luthier")
    with pytest.raises(Refused, match="At the luthier"):
        job_steps.take_up(shop, job, "dust_strings")
    assert [(o.code, o.what) for o in release_check.obstacles(hand.view(job), shop.now)] == [
        ("stands", "At the luthier")
    ]
    inspection.back_from(shop, job, "bridge set square")
    assert release_check.open_findings(hand.view(job)) == []
    hand.until(job, "pack")
    release_check.make_ready(shop, job)
    with pytest.raises(Refused):
        inspection.back_from(shop, job, "again")


def test_a_finding_mended_at_the_bench_closes_with_its_step(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0300", "violin")
    hand.until(job, "look", chin_rest="moves")
    assert [f.check for f in release_check.open_findings(hand.view(job))] == ["chin_rest"]
    hand.until(job, "chin_tighten")
    assert release_check.open_findings(hand.view(job)) == []


def test_a_chipped_mouthpiece_must_be_dealt_with(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "pack", mouthpiece="chipped")
    with pytest.raises(Refused, match="mouthpiece: retire"):
        release_check.make_ready(shop, job)
    inspection.close_finding(shop, job, "mouthpiece", "mouthpiece replaced")
    release_check.make_ready(shop, job)


# --- steps and waits ------------------------------------------------------------------------------------------------


def test_only_in_a_safe_order(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    for key in ("apart", "disinfect", "pack", "play"):
        with pytest.raises(Refused, match="comes before"):
            job_steps.finish_step(shop, job, key)
    with pytest.raises(Refused, match="does not belong"):
        job_steps.finish_step(shop, job, "polish")


def test_contents_and_checks_must_be_whole(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    with pytest.raises(Refused, match="Not ticked yet: neck"):
        job_steps.finish_step(shop, job, "contents")
    hand.until(job, "apart")
    with pytest.raises(Refused, match="Not looked at yet: Neck cork"):
        job_steps.finish_step(shop, job, "look")


def test_the_mouthpiece_from_mix_to_rack(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.until(job, "mix", mouthpiece="sound")
    assert amount(shop, "peroxide_6_ml") == 920 - 250  # C1·V1 = C2·V2 (arithmetic)
    assert amount(shop, "peroxide_3_ml") == 500
    job_steps.finish_step(shop, job, "disinfect")
    assert amount(shop, "peroxide_3_ml") == 400
    wait = hand.wait(job)
    assert (wait.place, wait.required, wait.wet) == ("tub", timedelta(minutes=10), True)
    clock.advance(minutes=9.9)
    with pytest.raises(Refused, match="Not yet"):
        job_steps.finish_step(shop, job, "rinse")
    clock.advance(minutes=0.2)
    job_steps.finish_step(shop, job, "rinse")
    assert hand.wait(job, "rinse").place == "rack" and "disinfect" not in {w.key for w in hand.view(job).waits}


def test_dried_starts_again(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    clock.advance(minutes=8)
    wait = hand.wait(job).id
    waits.dried(shop, wait)
    clock.advance(minutes=5)
    with pytest.raises(Refused, match="dried"):
        job_steps.finish_step(shop, job, "rinse")
    with pytest.raises(Refused, match="dry already"):
        waits.dried(shop, wait)
    waits.rewet(shop, wait)
    clock.advance(minutes=6)
    with pytest.raises(Refused, match="4 min are missing"):
        job_steps.finish_step(shop, job, "rinse")
    clock.advance(minutes=4)
    job_steps.finish_step(shop, job, "rinse")
    assert any("longest time" in n for n in shop.last_done.notes)  # type: ignore[union-attr]  # 23 of 20 min
    period = history(shop, "MH-0142").periods[0]
    dip = next(w for w in period.waits if w.key == "disinfect")
    assert dip.restarts == 1 and "past its longest" in dip.ended_why


def test_rewetting_what_is_wet_changes_nothing(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    clock.advance(minutes=4)
    waits.rewet(shop, hand.wait(job).id)
    assert hand.wait(job).contact.wet_for == timedelta(minutes=4)


def test_contact_cannot_be_cut_short_drying_can(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    with pytest.raises(Refused, match="cannot be cut short"):
        waits.end_early(shop, hand.wait(job).id, "in a hurry")
    with pytest.raises(Refused):
        job_steps.waive_step(shop, job, "rinse", "in a hurry")
    clock.advance(minutes=11)
    job_steps.finish_step(shop, job, "rinse")
    wait = hand.wait(job, "rinse").id
    with pytest.raises(BadInput):
        waits.end_early(shop, wait, "")
    waits.end_early(shop, wait, "weighed dry")
    assert "rinse" not in {w.key for w in hand.view(job).waits}
    with pytest.raises(Refused, match="over"):
        waits.end_early(shop, wait, "weighed dry")


def test_the_second_saxophone_shares_the_mix(shop: Shop, hand: Hand, clock: HandClock) -> None:
    first, second = hand.book("MH-0142"), hand.book("MH-0150")
    hand.until(first, "mix")
    assert hand.view(second).step("mix") is None
    clock.advance(hours=9)  # past its discard time
    assert hand.view(second).step("mix") is not None


def test_too_little_in_the_bottle(shop: Shop, hand: Hand) -> None:
    stock.count_stock(shop, "peroxide_6_ml", 100, "spilt")
    job = hand.book()
    with pytest.raises(Refused, match="250 ml are needed, 100 ml are left") as caught:
        hand.until(job, "mix")
    assert "200 ml at most" in caught.value.todo
    stock.book_in_stock(shop, "peroxide_6_ml", 1000, strength_pct=6.0, lot="new")
    hand.until(job, "mix")


def test_parts_draw_down_and_say_when_short(shop: Shop, hand: Hand) -> None:
    stock.count_stock(shop, "reed_alto_2", 7, "counted")
    job = hand.book()
    hand.until(job, "reed_new")
    assert amount(shop, "reed_alto_2") == 6
    assert "order more" in shop.last_done.notes[0]  # type: ignore[union-attr]


def test_leaving_out_wants_a_reason_and_stays_on_record(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "look")
    with pytest.raises(BadInput):
        job_steps.waive_step(shop, job, "brush_rod", " ")
    hand.until(job, "hands")
    job_steps.waive_step(shop, job, "brush_rod", "it is at the wash")
    step = hand.view(job).step("brush_rod")
    assert (
        step is not None
        and step.state == "waived"
        and step.work is not None
        and step.work.reason == "it is at the wash"
    )
    with pytest.raises(Refused, match="done already"):
        job_steps.finish_step(shop, job, "brush_rod")
    for key in ("pack", "play"):
        with pytest.raises(Refused):
            job_steps.waive_step(shop, job, key, "no time at all")


def test_looking_over_cannot_be_left_out(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    with pytest.raises(Refused, match="cannot be skipped"):
        job_steps.waive_step(shop, job, "contents", "no time at all")


def test_in_hand(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    with pytest.raises(Refused, match="Nothing is in hand"):
        job_steps.put_aside(shop)
    job_steps.take_up(shop, job, "contents")
    clock.advance(minutes=4)
    intake.tick_rest(shop, job)
    job_steps.finish_step(shop, job, "contents")
    work = hand.view(job).step("contents").work  # type: ignore[union-attr]
    assert work is not None and work.minutes == pytest.approx(4)
    with pytest.raises(Refused):
        job_steps.put_aside(shop)  # done is no longer in hand


def test_a_string_settles_with_two_retunes(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book("MH-0300", "violin")
    hand.until(job, "hang", strings={"A": "worn"})
    assert amount(shop, "string_violin_a") == 3
    first = hand.wait(job, "hang")
    assert first.place == "hook" and first.required == timedelta(minutes=12)  # τ(e^(15/12) − 1), τ = 5
    with pytest.raises(Refused, match="Not yet"):
        job_steps.finish_step(shop, job, "retune_1", cents="15")
    clock.advance(minutes=13)
    with pytest.raises(BadInput):
        job_steps.finish_step(shop, job, "retune_1", cents="very")
    job_steps.finish_step(shop, job, "retune_1", cents="30 cents")
    second = hand.wait(job, "retune_1")
    assert second.required < timedelta(minutes=43)  # it crept more than the house law says
    clock.advance(minutes=60)
    job_steps.finish_step(shop, job, "retune_2", cents="")
    drops = hand.view(job).situation.drops
    assert len(drops) == 1 and drops[0][2] == 30


def test_a_failed_test_must_be_dealt_with_and_done_again(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "outside")
    hand.clock.advance(minutes=60)
    with pytest.raises(Refused):
        job_steps.fail_test(shop, job, "outside", "it buzzes")
    hand.until(job, "look_together")
    job_steps.fail_test(shop, job, "play", "low B does not speak")
    assert "low B" in hand.view(job).findings["play"].reason
    hand.until(job, "pack")
    with pytest.raises(Refused, match="play-test: specialist"):
        release_check.make_ready(shop, job)
    inspection.close_finding(shop, job, "play", "pad reseated")
    release_check.make_ready(shop, job)


def test_packing_wants_both_answers(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "after_strap")
    hand.clock.advance(minutes=180)
    for closes, presses in ((None, None), (True, False), (False, True)):
        with pytest.raises(Refused, match="close without force"):
            job_steps.finish_step(shop, job, "pack", closes=closes, nothing_presses=presses, latches_hold=True)
    with pytest.raises(Refused, match="latches do not"):
        job_steps.finish_step(shop, job, "pack", closes=True, nothing_presses=True)


# --- the gate -------------------------------------------------------------------------------------------------------


def test_the_gate_names_everything_that_does_not_hold(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    with pytest.raises(Refused) as caught:
        release_check.make_ready(shop, job)
    assert set(caught.value.fields["conditions"]) == {"contents", "steps", "findings", "tests", "mouth", "case"}
    hand.until(job, "pack")
    assert all(line.holds for line in release_check.release_check(hand.view(job)))
    release_check.make_ready(shop, job)
    with pytest.raises(Refused, match="finished"):
        release_check.make_ready(shop, job)


def test_a_change_after_the_test_makes_it_void(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book("MH-0300", "violin")
    hand.until(job, "pack")
    clock.advance(minutes=5)
    hand.look(job, chin_rest="moves")
    assert not next(x for x in release_check.release_check(hand.view(job)) if x.key == "steps").holds
    hand.do(job, "chin_tighten")
    tests = next(x for x in release_check.release_check(hand.view(job)) if x.key == "tests")
    assert [p.code for p in tests.problems] == ["changed_since"]


def test_wet_parts_block(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    assert not next(x for x in release_check.release_check(hand.view(job)) if x.key == "dry").holds


def test_no_wait_is_left_running_when_it_is_ready(shop: Shop, hand: Hand) -> None:
    for tag, family, found in (("MH-0142", "alto_saxophone", {}), ("MH-0300", "violin", {"strings": {"A": "worn"}})):
        job = hand.book(tag, family)
        hand.until(job, "pack", **found)
        release_check.make_ready(shop, job)
    with shop.reading() as session:
        waits = session.all_of(Wait)
    assert len(waits) == 11 and all(w.ended_at is not None and w.ended_why == "done" for w in waits)


def test_what_the_tag_says(shop: Shop, hand: Hand) -> None:
    job = hand.book(next_group="Lamplighters' band")
    intake.tick_item(shop, job, "end_plug", "missing")
    intake.replace_item(shop, job, "end_plug")
    intake.tick_item(shop, job, "strap", "missing")
    intake.waive_item(shop, job, "strap", "the renter has one")
    intake.tick_rest(shop, job)
    hand.until(job, "pack")
    facts = release_check.make_ready(shop, job)
    assert (
        facts["tag"] == "MH-0142"
        and facts["next_group"] == "Lamplighters' band"
        and facts["departure"] == "Friday boat"
    )
    assert "end plug" in facts["new_parts"] and "Alto saxophone reed, strength 2" in facts["new_parts"]
    assert facts["without"] == ["neck strap"]
    assert facts["disinfected_at"] and any("pulls of the swab" in s for s in facts["policies"])
    assert {row["check"] for row in facts["condition"]} >= {"neck_cork", "pads", "mouthpiece", "smell"}


def test_vinegar_never_follows_peroxide_without_a_rinse(shop: Shop, hand: Hand) -> None:
    """Lime is found while the mouthpiece lies in peroxide: the vinegar waits until it is rinsed."""
    job = hand.book("MH-0450", "trumpet", finishes={"mouthpiece": "bare"})
    hand.until(job, "disinfect")
    inspection.record_choice(shop, job, "mouthpiece", "lime")
    descale = hand.view(job).step("descale")
    assert descale is not None and descale.state == "ready"
    with pytest.raises(Refused, match=r"peroxide.*white vinegar.*peracetic"):
        job_steps.finish_step(shop, job, "descale")
    with pytest.raises(Refused, match="taken out and rinsed"):
        hand.clock.advance(minutes=11)
        job_steps.waive_step(shop, job, "rinse", "no time")
    hand.do(job, "rinse")
    job_steps.finish_step(shop, job, "descale")


def test_the_shop_s_own_strings_teach(shop: Shop, hand: Hand, clock: HandClock) -> None:
    """Strings that creep more than the house says make the next one's first wait shorter; its own reading does not."""
    first = hand.book("MH-0300", "violin")
    hand.until(first, "hang", strings={"A": "worn"})
    assert hand.view(first).situation.creeps_times == 1.0
    clock.advance(minutes=13)
    job_steps.finish_step(shop, first, "retune_1", cents="26 cents")
    assert hand.view(first).situation.creeps_times == 1.0  # by other jobs only
    second = hand.book("MH-0301", "violin")
    hand.until(second, "hang", strings={"E": "worn"})
    times = hand.view(second).situation.creeps_times
    assert 1.1 < times < 26 / (12 * math.log(18 / 5))
    assert hand.wait(second, "hang").required < timedelta(minutes=12)
    assert hand.view(hand.book("MH-0302", "viola")).situation.creeps_times == 1.0
    shop.undo(next(e.id for e in shop.undoable(40) if e.action == "step.done" and "Retune" in e.words))
    assert hand.view(second).situation.creeps_times == 1.0


def _strings_condition(hand: Hand, job: int) -> str:
    found = [c for c in release_check.release_check(hand.view(job)) if c.key == "strings"]
    return condition_words(found[0]) if found else ""


def test_new_strings_are_retuned_until_they_hold_for_a_day(shop: Shop, hand: Hand, clock: HandClock) -> None:
    """The last retune is a step of the plan with its wait, and comes again while the forecast says that it must."""
    job = hand.book("MH-0300", "violin")
    assert _strings_condition(hand, job) == ""
    hand.until(job, "hang", strings={"A": "worn"})
    assert _strings_condition(hand, job) == "not retuned yet"
    with pytest.raises(Refused, match="come first"):
        job_steps.retune_again(shop, job, "3 cents")
    clock.advance(minutes=13)
    job_steps.finish_step(shop, job, "retune_1", cents="24 cents")
    clock.advance(minutes=45)
    job_steps.finish_step(shop, job, "retune_2", cents="23 cents")
    assert "cents flat in the first day" in _strings_condition(hand, job)
    (wait,) = [w for w in hand.view(job).waits if w.key == "retune_2"]
    assert timedelta(hours=1) < wait.required <= timedelta(hours=24)
    with pytest.raises(Refused, match="Not yet"):
        job_steps.finish_step(shop, job, "retune_3", cents="9 cents")
    clock.advance(seconds=wait.required.total_seconds() + 60)
    with pytest.raises(BadInput):
        job_steps.finish_step(shop, job, "retune_3", cents="flat")
    job_steps.finish_step(shop, job, "retune_3", cents="150 cents")  # much more than was forecast
    assert [s.step.key for s in hand.view(job).open_steps if s.step.kind == "retune"] == ["retune_4"]
    assert "cents flat in the first day" in _strings_condition(hand, job)
    with pytest.raises(Refused):
        job_steps.finish_step(shop, job, "pack", closes=True, nothing_presses=True, latches_hold=True)
    hand.until(job, "pack")
    view = hand.view(job)
    assert _strings_condition(hand, job) == "by the forecast, or accepted"
    assert not any(s.step.kind == "retune" for s in view.open_steps) and not view.waits
    job_steps.retune_again(shop, job, "2 cents")
    assert hand.view(job).situation.drops[-1][2] == 2
    release_check.make_ready(shop, job)
    assert not settling.accepted(view)


def test_strings_that_may_not_hold_can_be_accepted(shop: Shop, hand: Hand, clock: HandClock) -> None:
    """Nothing waits for them any more then; taken back, they settle on."""
    job = hand.book("MH-0300", "violin")
    with pytest.raises(Refused, match="nothing to accept"):
        settling.accept(shop, job, "the renter tunes it")
    hand.until(job, "hang", strings={"A": "worn"})
    with pytest.raises(Refused, match="come before"):
        settling.accept(shop, job, "the renter tunes it")
    hand.until(job, "retune_2")
    with pytest.raises(BadInput):
        settling.accept(shop, job, " ")
    assert [w.key for w in hand.view(job).waits] == ["retune_2"]
    settling.accept(shop, job, "the renter tunes it")
    assert settling.accepted(hand.view(job)) and _strings_condition(hand, job) == "by the forecast, or accepted"
    assert not hand.view(job).waits and not any(s.step.kind == "retune" for s in hand.view(job).open_steps)
    with pytest.raises(Refused):
        settling.accept(shop, job, "again")
    shop.undo()
    assert not settling.accepted(hand.view(job)) and [w.key for w in hand.view(job).waits] == ["retune_2"]


def test_a_retune_that_was_skipped_is_not_counted_as_turned(shop: Shop, hand: Hand, clock: HandClock) -> None:
    """How flat a string is at the next one came since it was last turned, not since a retune was left out."""
    job = hand.book("MH-0300", "violin")
    hand.until(job, "hang", strings={"A": "worn"})
    clock.advance(minutes=20)
    job_steps.finish_step(shop, job, "retune_1", cents="24 cents")
    clock.advance(minutes=60)
    job_steps.waive_step(shop, job, "retune_2", "no time")
    clock.advance(minutes=60 * 8)
    job_steps.finish_step(shop, job, "retune_3", cents="20 cents")
    read = [w.data for w in hand.view(job).all_work if w.data.get("cents") is not None]
    assert read[1]["from_min"] == pytest.approx(read[0]["to_min"])
    assert read[1]["to_min"] - read[1]["from_min"] == pytest.approx(60 * 9)


def test_retunes_that_are_left_out_can_be_accepted(shop: Shop, hand: Hand, clock: HandClock) -> None:
    """Whoever leaves the retunes out with a reason accepts the strings too; nothing settles on for ever."""
    job = hand.book("MH-0300", "violin")
    hand.until(job, "hang", strings={"A": "worn"})
    clock.advance(minutes=13)
    for key in ("retune_1", "retune_2", "retune_3"):
        job_steps.waive_step(shop, job, key, "the renter tunes it")
    assert "cents flat in the first day" in _strings_condition(hand, job)
    settling.accept(shop, job, "the renter tunes it")
    assert not hand.view(job).waits
    hand.until(job, "pack")
    release_check.make_ready(shop, job)


def test_a_reed_that_is_hollow_is_replaced_for_the_same_renter(shop: Shop, hand: Hand) -> None:
    """Where somebody measured it; for a new renter an old reed is thrown away in any case, and is not asked about."""
    job = hand.book(renter="same")
    hand.until(job, "look", reed_warp=0.45)
    assert hand.view(job).findings["reed_warp"].band == "act"
    assert {"reed_replace"} <= {s.step.key for s in hand.view(job).steps}
    other = hand.book("MH-0143", renter="same")
    hand.until(other, "look", reed_warp=0.05)
    assert "reed_replace" not in {s.step.key for s in hand.view(other).steps}
    fresh = hand.book("MH-0144")
    assert "reed_warp" not in {c.key for c in hand.view(fresh).checks}


def test_how_a_reed_stands_on_its_mouthpiece_can_be_measured_and_blocks_nothing(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "look", reed_aside=0.8, reed_hairline=0.2)
    found = hand.view(job).findings
    assert (found["reed_aside"].band, found["reed_hairline"].band) == ("act", "green")
    assert {found["reed_aside"].verdict, found["reed_hairline"].verdict} == {"ready"}
    assert "before a pad is blamed" in found["reed_aside"].reason
