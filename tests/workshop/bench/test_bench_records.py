"""What is read again after something was done: never anything else than what reading everything would find."""

from __future__ import annotations

import random
from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest
from sqlalchemy import event

from creekbed.core.errors import CreekbedError
from creekbed.core.turns import whole
from creekbed.store.records import Departure, Instrument, Lot
from creekbed.workshop.arrival import intake
from creekbed.workshop.arrival.condition_marks import add_mark
from creekbed.workshop.bench import bench_records, job_steps, waits
from creekbed.workshop.bench.bench_records import Records, read, read_in_turns
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.inspection import findings as inspection
from creekbed.workshop.inspection import specialist
from creekbed.workshop.release import release_check
from creekbed.workshop.shop import staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.departures import add_departure, coming_departures
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import awaited_parts, stock
from tests.conftest import Hand


def row(found: Any) -> Any:
    """What stands in a row of a table."""
    return found


def seen(view: JobView) -> list[Any]:
    """Everything that a job shows."""
    return [
        row(view.job), row(view.instrument), row(view.hire), row(view.departure), repr(view.situation), view.waits,
        [(s.step, s.state, s.until, row(s.work), s.parts) for s in view.steps], view.parts,
        {k: row(v) for k, v in view.lines.items()}, {k: row(v) for k, v in view.findings.items()},
        [row(w) for w in view.all_work], [row(m) for m in view.marks],
    ]  # fmt: skip


def told(found: Records) -> list[Any]:
    """Everything that records tell."""
    return [
        [(v.tag, seen(v)) for v in found.views], found.held, [row(b) for b in found.departures],
        [(row(j), f) for j, f in found.done], found.waits, found.entry, found.coming,
    ]  # fmt: skip


class Days:
    """Somebody who does whatever can be done, in no sensible order."""

    def __init__(self, seed: int, shop: Shop, other: Shop, clock: HandClock):
        self.chance, self.clock, self.shops = random.Random(seed), clock, (shop, other)
        self.shop = shop
        self.count = 0

    def jobs(self) -> list[JobView]:
        return list(read(self.shop, self.shop.now).views)

    def act(self) -> str:
        """Do something; what it was."""
        self.shop = self.chance.choice(self.shops)
        what = self.chance.choice(
            ["book", "book", "step", "step", "step", "step", "tick", "take", "aside", "undo", "time", "time",
             "quarantine",
             "find", "mark", "departure", "new_departure", "bottle", "part",
             "here", "away", "back", "waive", "dry", "ready",
             "person", "name", "pour"]
        )  # fmt: skip
        try:
            getattr(self, what)()
        except CreekbedError:
            what += ", refused"
        return what

    def one(self) -> JobView:
        found = self.jobs()
        return self.chance.choice(found) if found else self.book()

    def book(self) -> JobView:
        self.count += 1
        family = self.chance.choice(["violin", "alto_saxophone", "trumpet", "flute", "double_bass"])
        departures = coming_departures(self.shop)
        cold = self.chance.choice([None, None, 4.0])
        job = intake.book_in(
            self.shop, f"MH-{self.count:04d}" if self.chance.random() < 0.8 else "MH-0001", family=family,
            departure_id=self.chance.choice([None, *(b.id for b in departures)]), case_c=cold,
        )  # fmt: skip
        return next(v for v in self.jobs() if v.job.id == job)

    def step(self) -> None:
        view = self.one()
        step = next((s for s in view.open_steps if s.state == "ready"), None)
        if step is None:
            return
        job, key = view.job.id, step.step.key
        if step.step.kind == "contents":
            intake.tick_rest(self.shop, job)
        if step.step.kind == "look":
            inspection.rest_is_sound(self.shop, job)
        more = {"closes": True, "nothing_presses": True, "latches_hold": True} if step.step.kind == "pack" else {}
        job_steps.finish_step(self.shop, job, key, **more)

    def tick(self) -> None:
        view = self.one()
        item = self.chance.choice(view.family.item).key
        intake.tick_item(self.shop, view.job.id, item, self.chance.choice(["present", "missing"]))

    def take(self) -> None:
        view = self.one()
        job_steps.take_up(self.shop, view.job.id, self.chance.choice(view.steps).step.key)

    def aside(self) -> None:
        job_steps.put_aside(self.shop)

    def undo(self) -> None:
        self.shop.undo()

    def time(self) -> None:
        self.clock.advance(minutes=self.chance.choice([0.5, 3, 12, 90, 1500]))

    def quarantine(self) -> None:
        intake.set_quarantine(self.shop, self.one().job.id, self.chance.choice(["", "Mould"]))

    def find(self) -> None:
        view = self.one()
        check = self.chance.choice([c for c in view.checks if c.kind == "choice"])
        inspection.record_choice(self.shop, view.job.id, check.key, self.chance.choice(check.options).key)

    def mark(self) -> None:
        view = self.one()
        add_mark(self.shop, view.job.id, view.family.zones[0], "scratch", 4.0)

    def departure(self) -> None:
        departures = coming_departures(self.shop)
        if departures:
            intake.change_departure(self.shop, self.one().job.id, self.chance.choice(departures).id)

    def new_departure(self) -> None:
        hours = self.chance.choice([2, 20, 60])
        add_departure(self.shop, f"Boat {self.count} {hours}", self.shop.now + timedelta(hours=hours))

    def bottle(self) -> None:
        item = self.chance.choice([r.product for r in self.shop.catalogue.house.recipe])
        stock.book_in_stock(self.shop, item, 500.0, lot=f"L{self.count}")

    def pour(self) -> None:
        item = self.chance.choice([r.product for r in self.shop.catalogue.house.recipe])
        stock.count_stock(self.shop, item, 0.0, "poured away")

    def part(self) -> None:
        view = self.one()
        at = self.shop.now + timedelta(hours=self.chance.choice([1, 30]))
        awaited_parts.wait_for(self.shop, view.job.id, self.chance.choice(view.steps).step.key, "a pad", at)

    def here(self) -> None:
        view = self.one()
        awaited_parts.is_here(self.shop, view.job.id, self.chance.choice(view.steps).step.key)

    def away(self) -> None:
        specialist.note_for(self.shop, self.one().job.id, "luthier")
        inspection.send_out(self.shop, self.one().job.id, "luthier", self.shop.now + timedelta(hours=5))

    def back(self) -> None:
        inspection.back_from(self.shop, self.one().job.id, "mended")

    def waive(self) -> None:
        view = self.one()
        job_steps.waive_step(self.shop, view.job.id, self.chance.choice(view.steps).step.key, "no time for it")

    def dry(self) -> None:
        running = [w for v in self.jobs() for w in v.waits if w.id is not None]
        if running:
            self.chance.choice([waits.rewet, waits.dried])(self.shop, self.chance.choice(running).id)

    def ready(self) -> None:
        release_check.make_ready(self.shop, self.one().job.id)

    def person(self) -> None:
        staff.add_worker(self.shop, self.chance.choice(["AB", "CD"]))

    def name(self) -> None:
        """What no use case does today: an instrument is put right."""
        tag = self.one().tag
        with self.shop.act("put_right") as act:
            found = act.records.get(Instrument, tag)
            assert found is not None
            act.records.update(found, serial=f"{self.count}")
            act.words = "put right"


@pytest.mark.parametrize("seed", range(8))
def test_what_is_read_again_is_what_reading_everything_finds(seed: int, shop: Shop, clock: HandClock) -> None:
    other = Shop(shop.folder, clock, person="AB", catalogue=shop.catalogue)
    days = Days(seed, shop, other, clock)
    known = read(shop, shop.now)
    done, most = [], 0
    for _ in range(80):
        done.append(days.act())
        if days.chance.random() < 0.7:  # now and then several things happen between two looks
            known = read(shop, shop.now, known)
            assert told(known) == told(read(shop, shop.now)), done
            most = max(most, len(known.views))
    assert most > 2 and sum("refused" not in d for d in done) > 40
    other.close()


def test_a_job_goes_from_the_door_to_the_boat(shop: Shop, hand: Hand) -> None:
    job, other = hand.book("MH-0201", "violin"), hand.book("MH-0202", "flute")
    known = read(shop, shop.now)
    while (view := known.job(job)) is not None:
        step = next((s for s in view.open_steps if s.state in ("ready", "waiting")), None)
        if step is None:
            release_check.make_ready(shop, job)
        else:
            hand.do(job, step.step.key)
        known = read(shop, shop.now, known)
        assert told(known) == told(read(shop, shop.now))
    assert [v.job.id for v in known.views] == [other] and [j.id for j, _ in known.done] == [job]
    shop.undo()
    known = read(shop, shop.now, known)
    assert known.job(job) is not None and known.done == () and told(known) == told(read(shop, shop.now))


@pytest.fixture
def asked(shop: Shop) -> list[str]:
    """Every question that the records are asked."""
    found: list[str] = []
    event.listen(shop.store.engine, "before_cursor_execute", lambda c, k, words, *_: found.append(words))
    return found


def test_only_what_was_changed_is_read(shop: Shop, hand: Hand, asked: list[str]) -> None:
    job = hand.book("MH-0201", "violin")
    for n in (2, 3):
        hand.book(f"MH-020{n}", "violin")
    known = read(shop, shop.now)
    others = [v for v in known.views if v.job.id != job]
    intake.tick_item(shop, job, shop.catalogue.families["violin"].item[0].key, "present")

    def look() -> tuple[Records, list[str]]:
        asked.clear()
        found = read(shop, shop.now, known)
        return found, [w for w in asked if w.startswith("SELECT")]

    found, questions = look()
    assert len(questions) == 2 and "journal" in questions[0] and "content_line" in questions[1]
    assert [v for v in found.views if v.job.id != job] == others and found.job(job) is not known.job(job)
    assert all(a is b for a, b in zip([v for v in found.views if v.job.id != job], others, strict=True))
    known = found
    found, questions = look()
    assert len(questions) == 1 and all(found.job(v.job.id) is v for v in known.views)  # nothing has happened


def test_a_view_goes_on_only_while_time_changes_nothing(shop: Shop, hand: Hand, clock: HandClock) -> None:
    cold, plain = hand.book("MH-0301", "violin", case_c=4.0), hand.book("MH-0302", "violin")
    known = read(shop, shop.now)
    assert {w.tag for w in known.waits} == {"MH-0301"}
    clock.advance(minutes=1)
    later = read(shop, shop.now, known)
    assert later.job(plain) is known.job(plain) and later.job(cold) is not known.job(cold)
    clock.advance(hours=12)
    later = read(shop, shop.now, later)
    assert later.waits == () and told(later) == told(read(shop, shop.now))
    clock.advance(hours=-12)
    assert told(read(shop, shop.now, later)) == told(read(shop, shop.now))  # a clock that is set back


def test_other_rules_and_much_work_are_read_whole(
    shop: Shop, hand: Hand, clock: HandClock, monkeypatch: pytest.MonkeyPatch
) -> None:
    job = hand.book("MH-0401", "violin")
    known = read(shop, shop.now)
    shop.catalogue = replace(shop.catalogue)
    found = read(shop, shop.now, known)
    assert found.catalogue is shop.catalogue and found.job(job) is not known.job(job)
    monkeypatch.setattr(bench_records, "MOST_ENTRIES", 2)
    for n in range(4):
        intake.tick_item(shop, job, shop.catalogue.families["violin"].item[n].key, "present")
    assert told(read(shop, shop.now, found)) == told(read(shop, shop.now))


def test_one_state_of_the_records_however_long_it_takes(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0501", "violin")
    hand.book("MH-0500", "violin")
    before = told(read(shop, shop.now))
    work = read_in_turns(shop, shop.now)
    next(work)
    intake.tick_rest(shop, job)  # in the middle of reading
    hand.book("MH-0502", "flute")
    found = whole(work)
    assert told(found) == before
    known = read(shop, shop.now, found)
    assert len(known.views) == 3 and told(known) == told(read(shop, shop.now))


def test_no_turn_is_taken_while_the_records_are_read(shop: Shop, hand: Hand) -> None:
    hand.book("MH-0601", "violin")
    work = read_in_turns(shop, shop.now)
    next(work)
    work.close()
    assert shop.store.engine.pool.checkedout() == 0  # type: ignore[attr-defined]


def test_what_changes_a_mix_changes_every_job_that_needs_it(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book("MH-0701", "alto_saxophone")
    known = read(shop, shop.now)
    view = known.job(job)
    assert view is not None and "mix_peroxide" not in {s.step.key for s in view.steps if s.work is not None}
    recipe = shop.catalogue.house.recipe[0]
    with shop.act("put") as act:
        act.records.add(Lot(item=recipe.product, amount=recipe.dose_ml * 3, made_at=shop.now,
                            discard_at=shop.now + timedelta(hours=5)))  # fmt: skip
        act.words = "a mix stands ready"
    found = read(shop, shop.now, known)
    assert found.job(job) is not view and told(found) == told(read(shop, shop.now))
    clock.advance(hours=6)  # it is to be discarded now, and nobody did a thing
    later = read(shop, shop.now, found)
    assert later.job(job) is not found.job(job) and told(later) == told(read(shop, shop.now))


def test_a_boat_that_is_put_off_is_put_off_for_all(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0801", "violin")
    known = read(shop, shop.now)
    departure = known.departures[0].id
    with shop.act("put_off") as act:
        found = act.records.get(Departure, departure)
        assert found is not None
        act.records.update(found, leaves_at=found.leaves_at + timedelta(hours=3))
        act.words = "put off"
    later = read(shop, shop.now, known)
    view = later.job(job)
    assert (
        view is not None
        and view.departure is not None
        and view.departure.leaves_at == known.departures[0].leaves_at + timedelta(hours=3)
    )
    assert told(later) == told(read(shop, shop.now))
