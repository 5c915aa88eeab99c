"""Looks by state, what findings forbid, and answers by eye, on records. Common practice, no source."""

from __future__ import annotations

import pytest

from creekbed.core.errors import BadInput, Refused
from creekbed.core.measure import Reading
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps
from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.inspection import findings
from creekbed.workshop.inspection.trends import check_history
from creekbed.workshop.release.packing import pieces_to_pack
from creekbed.workshop.release.release_check import make_ready, release_check
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand


def lean(value: float, u: float = 0.2) -> Reading:
    return Reading(value, u, "degree")


def test_what_shows_only_joined_is_asked_while_it_is_joined(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0400", "clarinet")
    intake.tick_rest(shop, job)
    intake.came(shop, job, ["mouthpiece", "barrel", "bell", "middle"])
    order = [s.step.key for s in hand.view(job).steps]
    assert order.index("look_joined") < order.index("apart") and "look_together" not in order
    shop.undo()
    intake.came(shop, job, [])
    view = hand.view(job)
    order = [s.step.key for s in view.steps]
    assert "look_joined" not in order and order.index("together") < order.index("look_together") < order.index("play")
    apart = view.step("apart")
    assert apart is not None and not {m.key for m in apart.step.moves} & {"middle_off", "bell_off", "barrel_off"}


def test_a_joint_that_nobody_is_asked_about_is_refused(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0400", "clarinet")
    with pytest.raises(BadInput, match="no such joint"):
        intake.came(shop, job, ["ligature"])


def test_a_look_ends_with_its_own_checks_and_no_others(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0300", "violin")
    hand.until(job, "look")
    assert "bridge_lean" not in hand.view(job).findings
    hand.do(job, "tune")
    with pytest.raises(Refused, match="Not looked at yet: Bridge lean"):
        job_steps.finish_step(shop, job, "look_tuned")


def test_a_fallen_post_waits_for_the_luthier_and_goes_on_when_it_is_back(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0300", "violin")
    hand.until(job, "look", sound_post="fallen")
    with pytest.raises(Refused, match="What was found forbids it: sound post"):
        job_steps.finish_step(shop, job, "tune")
    for _ in range(12):
        step = next(s for s in hand.view(job).open_steps if s.state in ("ready", "waiting"))
        if step.step.kind == "send":
            break
        hand.do(job, step.step.key)
    assert step.step.kind == "send" and "luthier" in step.step.what
    planned = [p.operation for p in home(shop).plan.steps if p.job == "MH-0300"]
    assert planned == ["send_out"]  # what is held is not planned
    with pytest.raises(Refused, match="Say to whom it goes"):
        job_steps.finish_step(shop, job, "send_out")
    with pytest.raises(Refused, match="cannot be skipped"):
        job_steps.waive_step(shop, job, "send_out", "no time")
    findings.send_out(shop, job, "luthier")
    assert hand.view(job).blocked == "At the luthier"
    findings.back_from(shop, job, "post set")
    view = hand.view(job)
    assert not any(s.step.held for s in view.steps) and view.step("tune").state == "ready"  # type: ignore[union-attr]
    hand.until(job, "pack")
    assert all(c.holds for c in release_check(hand.view(job)))


def test_a_cracked_bow_is_asked_nothing_more_and_the_bench_s_bow_plays(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0300", "violin")
    hand.until(job, "look", cracks="tip")
    view = hand.view(job)
    assert not {"hair", "bow_camber", "bow_speaks", "bow_relaxes"} & {c.key for c in view.needed}
    assert view.step("play") is None and view.step("play_bench_bow") is not None
    hand.until(job, "play_bench_bow")
    rosin = next(c for c in release_check(hand.view(job)) if c.key == "rosin")
    assert not rosin.holds and "strings" in rosin.problems[0].names
    hand.until(job, "after_rosin")
    assert next(c for c in release_check(hand.view(job)) if c.key == "rosin").holds


def test_sound_by_eye_is_an_answer_and_starts_no_trend(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0300", "violin")
    hand.until(job, "tune")
    result = findings.record_by_eye(shop, job, "bridge_lean")
    assert (result.band, result.verdict) == ("green", "ready") and "by eye" in result.reason
    found = hand.view(job).findings["bridge_lean"]
    assert found.readings == [] and found.choice == "by_eye"
    check = hand.view(job).family.find_check("bridge_lean")
    assert check_history(shop, hand.view(job), check) is None
    with pytest.raises(BadInput, match="not told by eye"):
        findings.record_by_eye(shop, job, "hair")


def test_the_rest_by_eye_is_recorded_as_by_eye(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0300", "violin")
    hand.until(job, "bow_loosen")
    names = findings.rest_is_sound(shop, job)
    found = hand.view(job).findings
    assert "Bow: hair to stick, tightened" in names and found["bow_camber"].choice == "by_eye"
    assert "hair" not in found  # turns are counted


def test_how_far_the_bridge_has_moved_is_worked_out(shop: Shop, hand: Hand) -> None:
    """0.2° first, 1.8° after tuning: 1.6° further, with the doubt of both readings, 2·√(0.2² + 0.2²) (JCGM 100)."""
    job = hand.book("MH-0300", "violin")
    hand.until(job, "look", fine_tuner=1)
    hand.do(job, "tune")
    findings.record_reading(shop, job, "bridge_lean", lean(0.2))
    findings.record_by_eye(shop, job, "string_height")
    job_steps.finish_step(shop, job, "look_tuned")
    hand.until(job, "tuner_back")
    small = findings.record_reading(shop, job, "bridge_moved", lean(0.5))
    assert small.band == "green" and "moved by 0.3 ± 0.6°" in small.reason
    far = findings.record_reading(shop, job, "bridge_moved", lean(0.9, 0.05))
    assert far.band == "green"  # 0.7° is no more than it may
    far = findings.record_reading(shop, job, "bridge_moved", Reading(-0.9, 0.05, "degree"))
    assert far.band == "green" and "-1.1" in far.reason.replace("−", "-")  # within its doubt of 1°
    hand.clock.advance(minutes=40)
    findings.record_reading(shop, job, "bridge_lean", lean(-0.9, 0.02))
    far = findings.record_reading(shop, job, "bridge_moved", lean(0.8, 0.02))
    assert far.band == "amber" and "moved by 1.7" in far.reason


def test_packing_is_a_deed_piece_by_piece(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0142", "alto_saxophone")
    hand.until(job, "contents")
    hand.until(job, "after_strap")
    hand.clock.advance(minutes=180)
    wanted = pieces_to_pack(hand.view(job))
    names = [p.name for p in wanted]
    assert "neck" in names and "end plug" in names and "reed, new" in names  # the last renter's was thrown away
    assert "body swab" in names and sum("new" in n for n in names) == 1  # washed and swapped is not new
    answers = {"closes": True, "nothing_presses": True, "latches_hold": True}
    with pytest.raises(Refused, match="Not in the case yet: end plug"):
        job_steps.finish_step(shop, job, "pack", packed=[p.key for p in wanted if p.key != "end_plug"], **answers)  # type: ignore[arg-type]
    with pytest.raises(BadInput, match="does not go out with it"):
        job_steps.finish_step(shop, job, "pack", packed=["a hat"], **answers)  # type: ignore[arg-type]
    job_steps.finish_step(shop, job, "pack", packed=[p.key for p in wanted], **answers)  # type: ignore[arg-type]
    contents = next(c for c in release_check(hand.view(job)) if c.key == "contents")
    assert contents.holds
    intake.tick_item(shop, job, "slim_swab", "missing")
    intake.replace_item(shop, job, "slim_swab")
    assert next(c for c in release_check(hand.view(job)) if c.key == "contents").holds
    facts = make_ready(shop, job)
    assert facts["renewed"] == ["reed"] and "reed" not in {r["check"] for r in facts["condition"]}
    assert facts["pieces"] == [p.key for p in wanted]


def test_a_bow_that_stays_out_is_not_packed(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0300", "violin")
    hand.until(job, "look", cracks="tip")
    hand.until(job, "after_rosin")
    assert "bow" not in {p.key for p in pieces_to_pack(hand.view(job))}
