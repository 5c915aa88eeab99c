"""What a check found before and after work: nothing that was read is lost, and a slip of the finger is corrected."""

from __future__ import annotations

from dataclasses import replace

import pytest

from creekbed.core.catalogue.models.parts import Check
from creekbed.core.measure import Reading
from creekbed.store.records import Finding, Hire, Instrument
from creekbed.workshop.bench import job_steps
from creekbed.workshop.bench.job_situation import measured
from creekbed.workshop.inspection import findings
from creekbed.workshop.inspection.answers import answers
from creekbed.workshop.inspection.history import history
from creekbed.workshop.inspection.trends import CheckHistory, check_history
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.conftest import STOCK, Hand, HandClock

SLIDE = "MH-0415"


def friction(ratio: float) -> Reading:
    """A reading of a slide's friction against its weight."""
    return Reading(ratio, 0.03, "dimensionless", "from a pull")


def found_of(hand: Hand, job: int, check: str) -> Finding:
    """What a check found."""
    return hand.view(job).findings[check]


def values(finding: Finding) -> list[list[float]]:
    """The readings of each answer, the oldest first."""
    return [[row["value"] for row in answer.readings] for answer in answers(finding)]


def friction_history(shop: Shop, hand: Hand, job: int) -> CheckHistory | None:
    view = hand.view(job)
    check: Check = next(c for c in view.checks if c.key == "friction")
    return check_history(shop, view, check)


def test_what_was_found_before_cleaning_stays_beside_what_is_found_after(shop: Shop, hand: Hand) -> None:
    job = hand.book(SLIDE, "trombone")
    hand.until(job, "look", friction=0.71, lift="rises")
    assert friction_history(shop, hand, job) is None
    assert found_of(hand, job, "friction").verdict == "bench"  # it is cleaned before the brass repairer is asked
    hand.until(job, "inner_wipe")
    hand.clock.advance(minutes=1)
    findings.record_reading(shop, job, "friction", friction(0.25))
    findings.record_choice(shop, job, "lift", "stays")
    read, lift = found_of(hand, job, "friction"), found_of(hand, job, "lift")
    assert values(read) == [[0.71], [0.25]] and measured(read) == friction(0.25)
    assert [(a.choice, a.band) for a in answers(lift)] == [("rises", "amber"), ("stays", "green")]
    rows = {row.what: row for row in history(shop, SLIDE).periods[0].compared}
    assert rows["Slide friction against its weight"].came_in == "0.71 of its weight"
    assert "It rises" in rows["Lift test"].came_in
    found = friction_history(shop, hand, job)
    assert found is not None and found.first is not None and found.first.reading.value == 0.71
    assert "it read 0.71 of its weight: 0.46 ± 0.08 of its weight less now." in found.words()
    assert [s.again for s in found.seen] == [True, False] and len(found.trend.readings) == 1


def test_a_reading_after_work_is_not_averaged_with_one_before_it(shop: Shop, hand: Hand) -> None:
    job = hand.book(SLIDE, "trombone")
    hand.until(job, "look", friction=0.7)
    findings.record_reading(shop, job, "friction", friction(0.74), again=True)
    assert values(found_of(hand, job, "friction")) == [[0.7, 0.74]]
    hand.until(job, "inner_wipe")
    hand.clock.advance(minutes=1)
    findings.record_reading(shop, job, "friction", friction(0.2), again=True)
    findings.record_reading(shop, job, "friction", friction(0.24), again=True)
    assert values(found_of(hand, job, "friction")) == [[0.7, 0.74], [0.2, 0.24]]
    shop.undo()
    shop.undo()
    assert values(found_of(hand, job, "friction")) == [[0.7, 0.74]]


def test_a_slip_is_corrected_and_a_later_look_is_kept(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book(SLIDE, "trombone")
    hand.until(job, "look", friction=0.07)
    clock.advance(minutes=2)
    findings.record_reading(shop, job, "friction", friction(0.7))
    assert values(found_of(hand, job, "friction")) == [[0.7]]
    clock.advance(minutes=31)  # nothing was done: the brass repairer had it, say
    findings.record_reading(shop, job, "friction", friction(0.3))
    assert values(found_of(hand, job, "friction")) == [[0.7], [0.3]]


def test_what_was_closed_stays_when_it_is_found_again(shop: Shop, hand: Hand) -> None:
    job = hand.book(SLIDE, "trombone")
    hand.until(job, "look", slide_dents="any")
    findings.overrule(shop, job, "slide_dents", "specialist", "two of them")
    findings.close_finding(shop, job, "slide_dents", "taken out by the brass repairer")
    findings.record_choice(shop, job, "slide_dents", "any")
    first, now = answers(found_of(hand, job, "slide_dents"))
    assert (first.overruled, first.overrule_reason, now.overruled) == ("specialist", "two of them", "")
    assert first.closed == "taken out by the brass repairer" and now.closed == "" and now.band == "act"


def test_what_an_earlier_answer_does_not_say_is_not_taken_from_the_last(shop: Shop, hand: Hand) -> None:
    job = hand.book(SLIDE, "trombone")
    hand.until(job, "look", slide_dents="any")
    findings.overrule(shop, job, "slide_dents", "bench", "hardly one")
    now = found_of(hand, job, "slide_dents")
    row = {"readings": [], "choice": "none", "band": "green", "reason": "None.", "at": now.at.isoformat()}
    first, last = answers(replace(now, earlier=[row]))
    assert (first.choice, first.overruled, first.overrule_reason) == ("none", "", "")
    assert last.overrule_reason == "hardly one"


def test_a_test_that_fails_twice_says_both(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    view = hand.view(job)
    key = next(s.step.key for s in view.steps if s.step.kind == "test")
    while hand.view(job).step(key).state not in ("ready", "waiting"):  # type: ignore[union-attr]
        step = next(s for s in hand.view(job).open_steps if s.state in ("ready", "waiting"))
        hand.do(job, step.step.key)
    step = hand.view(job).step(key)
    assert step is not None
    job_steps.fail_test(shop, job, key, "low B leaks")
    findings.close_finding(shop, job, key, "pad seated")
    job_steps.fail_test(shop, job, key, "low C leaks")
    first, now = answers(found_of(hand, job, key))
    assert "low B" in first.reason and first.closed == "pad seated" and "low C" in now.reason and not now.closed


def cleaned_job(shop: Shop, hand: Hand, before: float, after: float) -> int:
    """A job of a slide that was read, cleaned, read again, and left."""
    job = hand.book(SLIDE, "trombone")
    hand.until(job, "look", friction=before)
    hand.until(job, "inner_wipe")
    hand.clock.advance(minutes=1)
    findings.record_reading(shop, job, "friction", friction(after))
    with shop.act("gone") as act:
        act.records.update(hand.view(job).job, state="gone")
    hand.clock.advance(days=40)
    for item, amount, more in STOCK:  # each cleaning takes from the shelf
        stock.book_in_stock(shop, item, amount, **more)
    return job


def test_it_says_what_cleaning_will_take_and_when_it_left_more_than_before(shop: Shop, hand: Hand) -> None:
    for before, after in ((0.7, 0.24), (0.45, 0.26), (0.8, 0.25)):
        cleaned_job(shop, hand, before, after)
    job = hand.book(SLIDE, "trombone")
    hand.until(job, "look", friction=0.7)
    found = friction_history(shop, hand, job)
    assert found is not None and not found.cleaned and found.left is not None
    assert found.left.likely == pytest.approx(0.25)
    assert (
        "Earlier cleanings left 0.25 ± 0.15 of its weight: cleaning will take 0.45 ± 0.16 of its weight off."
        in found.words()
    )
    hand.until(job, "inner_wipe")
    hand.clock.advance(minutes=1)
    findings.record_reading(shop, job, "friction", friction(0.24))
    found = friction_history(shop, hand, job)
    assert found is not None and found.cleaned and found.words().endswith("left 0.25 ± 0.15 of its weight.")
    findings.record_reading(shop, job, "friction", friction(0.7))
    assert found_of(hand, job, "friction").verdict == "specialist"
    found = friction_history(shop, hand, job)
    assert found is not None and "this one more: dirt that stayed, wear, or out of line" in found.words()


def test_a_slide_as_good_as_after_cleaning_is_told_so(shop: Shop, hand: Hand) -> None:
    cleaned_job(shop, hand, 0.5, 0.22)
    job = hand.book(SLIDE, "trombone")
    hand.until(job, "look", friction=0.24)
    found = friction_history(shop, hand, job)
    assert found is not None and found.words().endswith("before left 0.22 of its weight: it is as good as that now.")


def test_what_it_went_out_with_and_what_was_read_before_that_is_one_reading(shop: Shop, hand: Hand) -> None:
    job = cleaned_job(shop, hand, 0.7, 0.24)
    row = {"check": "friction", "value": 0.24, "unit": "dimensionless", "band": "green", "words": ""}
    with shop.act("hire") as act:
        assert act.records.get(Instrument, SLIDE) is not None
        out = hand.clock.now()
        act.records.add(Hire(tag=SLIDE, renter="", out_at=out, back_at=out, condition_out=[row]))
    now = hand.book(SLIDE, "trombone")
    hand.until(now, "look", friction=0.5)
    found = friction_history(shop, hand, now)
    assert found is not None and job != now
    assert [(s.reading.value, s.out, s.again) for s in found.seen] == [
        (0.7, False, True), (0.24, True, False), (0.5, False, False),
    ]  # fmt: skip
    assert [r.value for r in found.trend.readings] == [0.24, 0.5]
