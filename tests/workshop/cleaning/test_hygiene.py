"""Evidence of disinfection, the last call, dry by weight, trays, and alike steps done together."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path

import pytest

from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.contact import LAST_CALL, contact_at
from creekbed.papers.tag import tag_lines
from creekbed.store.records import Tray, Wait
from creekbed.words.findings import disinfection_words
from creekbed.workshop.bench import batch, job_steps, waits
from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.cleaning import drying, running_bath, trays
from creekbed.workshop.inspection.history import history
from creekbed.workshop.release.release_check import disinfections, release_check, tag_facts
from creekbed.workshop.shop import room_climate
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from tests.conftest import MORNING, Hand


def running(shop: Shop, name: str) -> Wait:
    with shop.reading() as session:
        return next(w for w in session.all_of(Wait) if w.ended_at is None and name in w.name)


def test_what_was_disinfected_is_on_record(shop: Shop, clock: HandClock, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "disinfect", mouthpiece="sound")
    wait = running(shop, "contact")
    clock.advance(minutes=4)
    waits.dried(shop, wait.id)
    clock.advance(minutes=1)
    waits.rewet(shop, wait.id)
    began = clock.now()
    clock.advance(minutes=11)
    hand.do(job, "rinse")
    (row,) = disinfections(shop, job)
    assert row["part"] == "mouthpiece" and row["agent"] == "hydrogen peroxide" and row["person"] == "IW"
    assert row["strength_pct"] == pytest.approx(3.0) and row["lot"].startswith("from ")
    assert row["required_min"] == 10.0 and row["restarts"] == 1
    wet = (datetime.fromisoformat(row["ended_at"]) - began).total_seconds() / 60
    assert row["wet_min"] == pytest.approx(wet, abs=0.01) and 11 <= wet < 14
    assert datetime.fromisoformat(row["began_at"]) == began and row["over_min"] == 0.0
    words = disinfection_words(row)
    assert (
        f"{wet:.0f} min wet of 10 asked for, hydrogen peroxide 3 %" in words
        and "dried and begun again 1 times" in words
    )
    facts = tag_facts(shop, hand.view(job))
    assert any(f"{wet:.0f} min hydrogen peroxide 3 %" in line for _, line in tag_lines(facts))
    assert history(shop, "MH-0142").periods[0].disinfections == (row,)
    shop.undo()
    assert disinfections(shop, job) == []


def test_a_longest_time_that_was_passed_is_on_record(shop: Shop, clock: HandClock, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "disinfect", mouthpiece="sound")
    clock.advance(minutes=26)
    hand.do(job, "rinse")
    (row,) = disinfections(shop, job)
    ended, began = (datetime.fromisoformat(row[k]) for k in ("ended_at", "began_at"))
    over = (ended - began).total_seconds() / 60 - 20  # min at the longest
    assert row["over_min"] == pytest.approx(over, abs=0.01) and over >= 6
    assert f"{over:.0f} min past its longest time" in disinfection_words(row)


def test_the_last_call() -> None:
    """Two minutes or a tenth before the longest time, once it may end; never after."""
    wet = MORNING

    def presses(minutes: float, longest: float) -> bool:
        now = wet + timedelta(minutes=minutes)
        state = contact_at(now, wet, timedelta(minutes=10), timedelta(minutes=longest), wet)
        return state.presses(now)

    assert timedelta(minutes=2) == LAST_CALL
    assert not presses(9.9, 11) and presses(10, 11) and presses(19, 20) and not presses(17, 20) and not presses(21, 20)
    assert presses(41, 45) and not presses(40, 45)
    assert not contact_at(wet, wet, timedelta(0), None, wet).presses(wet)


def test_dry_by_weight_decides_over_time(shop: Shop, clock: HandClock, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "rinse", mouthpiece="sound")
    wait = running(shop, "drying")
    for grams in (62.0, 60.6, 59.9, 59.55, 59.38):  # about 1.2 g of water when it is first weighed, half in 5 min
        drying.add_weighing(shop, wait.id, grams)
        clock.advance(minutes=5)
    clock.advance(minutes=30)  # its time is over, its weighings do not say that it is dry
    view = hand.view(job)
    assert any(w.id == wait.id and w.damp for w in view.waits) or drying.drying_of(shop, wait.id).fit is None
    dry = next(line for line in release_check(view) if line.key == "dry")
    assert [p.code for p in dry.problems] == ["not_dry_by_weight"]
    waits.end_early(shop, wait.id, "felt dry, warm room")
    assert next(line for line in release_check(hand.view(job)) if line.key == "dry").holds


def _trays(shop: Shop) -> dict[int, str]:
    with shop.reading() as records:
        return {t.job_id: t.letter for t in records.all_of(Tray)}


# --- trays and batches ----------------------------------------------------------------------------------------------


def brass(hand: Hand, tag: str, family: str = "trumpet") -> int:
    job = hand.book(tag, family)
    hand.until(job, "apart")
    return job


def test_each_instrument_has_its_tray(shop: Shop, hand: Hand) -> None:
    first, second = brass(hand, "MH-0901"), brass(hand, "MH-0902", "cornet")
    letters = [trays.tray_of(shop, hand.view(j)) for j in (first, second)]
    assert letters == ["A", "B"] and trays.tray_of(shop, hand.view(hand.book())) == ""
    shop.undo()  # the last one was booked in only; then take apart the apart
    shop.undo()
    assert _trays(shop) == {first: "A"}
    third = brass(hand, "MH-0903")
    assert trays.tray_of(shop, hand.view(third)) == "B"


def test_one_bath_for_several(shop: Shop, hand: Hand) -> None:
    jobs = [brass(hand, tag) for tag in ("MH-0901", "MH-0902", "MH-0903")]
    for job in jobs:
        hand.until(job, "rings_wash")
    bench = home(shop)
    view = bench.job(jobs[0])
    assert view is not None
    step = view.step("bath")
    assert step is not None and step.state == "ready"
    others = batch.alike(shop, bench.jobs, bench.waits, view, step)
    room = next(p.capacity for p in shop.catalogue.house.place if p.key == "bath")
    assert [o.tag for o in others] == ["MH-0902", "MH-0903"][: room - 1]
    batch.finish_together(shop, (jobs[0], "bath"), others)
    done = [j for j in jobs if (s := hand.view(j).step("bath")) is not None and s.work is not None]
    assert len(done) == min(room, 3)
    shop.undo()  # each is its own entry
    again = [j for j in jobs if (s := hand.view(j).step("bath")) is not None and s.work is not None]
    assert len(again) == len(done) - 1


def test_a_batch_that_cannot_go_on_says_where_it_stopped(shop: Shop, hand: Hand) -> None:
    jobs = [brass(hand, tag) for tag in ("MH-0901", "MH-0902")]
    hand.until(jobs[0], "rings_wash")
    other = batch.Alike(jobs[1], "MH-0902", "bath", "trumpet")
    with pytest.raises(Refused, match="MH-0902") as refused:
        batch.finish_together(shop, (jobs[0], "bath"), [other])
    assert "The first one is done" in refused.value.todo
    step = hand.view(jobs[0]).step("bath")
    assert step is not None and step.work is not None


# --- the room's air -------------------------------------------------------------------------------------------------


def test_a_log_is_kept_by_the_minute(shop: Shop, clock: HandClock) -> None:
    assert room_climate.air_now(shop) is None and room_climate.last_air(shop) is None
    room_climate.log_air(shop, 18.0, 0.5)
    room_climate.log_air(shop, 18.5, 0.52)
    log = room_climate.air_log(shop)
    assert len(log.at) == 1 and log.celsius == (18.5,) and log.found is None
    clock.advance(hours=2)
    room_climate.log_air(shop, 19.0, 0.5)
    assert room_climate.air_now(shop) == (19.0, 0.5) and room_climate.air_log(shop).found is not None
    clock.advance(hours=20)
    assert room_climate.air_now(shop) is None  # too old to speak of now
    for c, h in ((99.0, 0.5), (18.0, 1.5)):
        with pytest.raises(BadInput):
            room_climate.log_air(shop, c, h)


def test_a_file_that_is_none(shop: Shop, tmp_path: Path) -> None:
    for name, content in (("a.csv", b"\xff\xfe\x00"), ("b.csv", b"time,celsius,humidity_pct\n" + b"x" * 6_000_000)):
        path = tmp_path / name
        path.write_bytes(content)
        with pytest.raises(BadInput):
            room_climate.import_air(shop, path)
    with pytest.raises(BadInput):
        room_climate.import_air(shop, tmp_path / "none.csv")


def test_a_bath_keeps_true_time_when_the_clock_is_set(shop: Shop, clock: HandClock, hand: Hand) -> None:
    given = dict.fromkeys(("volume_l", "target_c", "hot_c", "cold_c", "room_c", "lowest_c"), 38.0)
    running_bath.fill(shop, given)
    shop.look_at_clock()
    clock.step(hours=3)
    assert "was set forward" in shop.look_at_clock()
    moved = running_bath.running(shop).since  # type: ignore[union-attr]
    assert abs((shop.now - moved).total_seconds()) < 60


# --- the room's air and drying, vessels -----------------------------------------------------------------------------


def test_damp_air_stretches_a_drying(shop: Shop, clock: HandClock, hand: Hand) -> None:
    """20 to 30 °C at 50 % dries 1.28 times as fast (psychrolib, vapour pressure at the wet bulb)."""
    plain = hand.book("MH-0142")
    hand.until(plain, "rinse", mouthpiece="sound")
    house = running(shop, "drying").min_minutes
    for tag, c, h, factor in (("MH-0143", 30.0, 0.5, 1 / 1.28), ("MH-0144", 20.0, 0.97, 2.0)):
        room_climate.log_air(shop, c, h)
        job = hand.book(tag)
        hand.until(job, "rinse", mouthpiece="sound")
        with shop.reading() as session:
            wait = session.all_of(Wait, job_id=job, ended_at=None)[0]
        assert wait.min_minutes == pytest.approx(house * factor, rel=0.02)
        clock.advance(minutes=2)


def test_damp_air_does_not_stretch_what_soaks_in(shop: Shop, hand: Hand) -> None:
    """Bore oil soaks into the wood; it does not dry as water does: common practice, no source."""
    minutes = []
    for tag, c, h in (("MH-0142", 0.0, 0.0), ("MH-0143", 30.0, 0.2), ("MH-0144", 20.0, 0.97)):
        if c:
            room_climate.log_air(shop, c, h)
        job = hand.book(tag, "oboe")
        hand.until(job, "bore_oil")
        with shop.reading() as session:
            waits = [w for w in session.all_of(Wait, job_id=job, ended_at=None) if "soaking" in w.name]
        minutes.append(waits[0].min_minutes)
    assert minutes == [120.0, 120.0, 120.0]


def test_two_baths_that_must_not_be_one(shop: Shop, hand: Hand) -> None:
    first = hand.book("MH-0142")
    hand.until(first, "disinfect", mouthpiece="sound")
    said: list[str] = []
    shop.listen(lambda done: said.extend(done.notes))
    second = hand.book("MH-0143")
    hand.until(second, "disinfect", mouthpiece="sound")
    assert not any("Not into the water" in s for s in said)  # peroxide beside peroxide
    third = hand.book("MH-0902", "trumpet")
    hand.until(third, "bath", mouthpiece="sound")
    assert not any("Not into the water" in s for s in said)  # soap in another place


def test_agents_that_clash_are_told_apart_by_vessel(shop: Shop, hand: Hand) -> None:
    """With a made-up rule between soap and peroxide, pistons in soap beside a mouthpiece in peroxide are spoken of."""
    rule = next(iter(shop.catalogue.never.values())).model_copy(
        update={"key": "made_up", "between": ("peroxide", "soap"), "kind": "danger", "forms": "foam, made up"}
    )
    first = hand.book("MH-0142")
    hand.until(first, "disinfect", mouthpiece="sound")
    second = hand.book("MH-0902", "trumpet")
    hand.until(second, "valves_wipe", mouthpiece="sound", valve_return={"1": "slow"})
    said: list[str] = []
    shop.listen(lambda done: said.extend(done.notes))
    shop.catalogue = replace(shop.catalogue, never={"made_up": rule})
    job_steps.finish_step(shop, second, "piston_jar")
    assert any("Not into the water of MH-0142: foam, made up. Take another vessel" in s for s in said)
