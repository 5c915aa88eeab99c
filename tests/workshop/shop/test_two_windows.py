"""Two windows on one shop, in any order of every kind of edit: nothing is lost, and who loses a race is told."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import timedelta
from typing import Any

import pytest

from creekbed.core.catalogue.models.steps import STUFFS
from creekbed.core.errors import CreekbedError, StoreProblem
from creekbed.store.journal import dump, replay
from creekbed.store.maintenance import check_records
from creekbed.store.problems import StaleRecord
from creekbed.store.records import (
    Attendance,
    BenchReed,
    ClothCount,
    ClothRecord,
    Finding,
    HouseValue,
    OwnProduct,
    Person,
    PolicyRequest,
    Price,
    WaterWeighing,
)
from creekbed.workshop.arrival import intake
from creekbed.workshop.arrival.condition_marks import add_mark
from creekbed.workshop.bench import job_steps
from creekbed.workshop.cleaning import bench_reeds, cloths, hand_washing, products, running_bath, shelf
from creekbed.workshop.inspection import air_way, findings, point_placing
from creekbed.workshop.planning import fixed_starts
from creekbed.workshop.shop import policies, staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import awaited_parts, stock
from tests.conftest import Hand

BATH = {"volume_l": 20.0, "target_c": 38.0, "hot_c": 60.0, "cold_c": 12.0, "room_c": 19.0, "lowest_c": 32.0}


@pytest.fixture
def both(shop: Shop, clock: HandClock) -> Iterator[tuple[Shop, Shop]]:
    other = Shop(shop.folder, clock, person="TO", catalogue=shop.catalogue)
    yield shop, other
    other.close()


def count(shop: Shop, kind: Any, **equals: Any) -> int:
    with shop.reading() as records:
        return len(records.all_of(kind, **equals))


def test_two_windows_that_each_add_one_lose_none(both: tuple[Shop, Shop]) -> None:
    """What was kept in one setting each, and was lost to whoever wrote last, is a row each."""
    one, two = both
    for n, window in enumerate((one, two)):
        staff.add_worker(window, f"P{n}")
        bench_reeds.add_reed(window, "clarinet")
        cloths.add_cloth(window, f"Silk {n}", 300.0, 0.1, "clarinet")
        stock.set_price(window, ("reed_alto_2", "strap_sax")[n], 3.0 + n)
        products.add_product(window, f"Gleam {n}", "water, ethanol 40 %")
        shelf.weigh_water(window, "alto_saxophone", 2.2, 1.0 + n)
        topic = [t for t in window.catalogue.topics.values() if not t.hygiene][n]
        policies.ask(window, f"Group {n}", topic.key, topic.choice[-1].key)
    assert {p.key for p in staff.workers(one)} >= {"P0", "P1"} and count(one, BenchReed) == 2
    assert count(one, ClothRecord) == count(one, OwnProduct) == count(one, WaterWeighing) == 2
    assert stock.prices(two) == {"reed_alto_2": 3.0, "strap_sax": 4.0} and set(policies.asks(one)) == {
        "Group 0",
        "Group 1",
    }


def test_what_belongs_together_is_one_action(both: tuple[Shop, Shop], clock: HandClock) -> None:
    """Taking reeds out, and reading a bath, were two transactions; each is one action now, and is undone as one."""
    one, _ = both
    reed = bench_reeds.add_reed(one, "clarinet")
    for _ in range(bench_reeds.CLEAN_AFTER):
        bench_reeds.play(one, reed.id)
        clock.advance(hours=25)
    bench_reeds.lay_in(one)
    clock.advance(minutes=31)
    bench_reeds.take_out(one)
    assert bench_reeds.bath(one) is None and bench_reeds.reeds(one)[0].cleanings == 1
    one.undo()
    lying = bench_reeds.bath(one)
    assert lying is not None and lying.reeds == (reed.id,) and bench_reeds.reeds(one)[0].cleanings == 0
    running_bath.fill(one, BATH)
    clock.advance(minutes=20)
    tau = running_bath.read(one, 35.0)
    bath = running_bath.running(one)
    assert bath is not None and bath.tau_min == tau == running_bath.tau_min(one)
    one.undo()
    bath = running_bath.running(one)
    assert bath is not None and bath.tau_min != tau and running_bath.tau_min(one) is None


def test_who_writes_over_what_another_wrote_is_told(both: tuple[Shop, Shop], hand: Hand) -> None:
    one, two = both
    job = hand.book()
    findings.record_choice(one, job, "mouthpiece", "sound")
    with two.reading() as records:
        seen = records.first_of(Finding, job_id=job)
    assert seen is not None
    findings.record_choice(one, job, "mouthpiece", "lime")
    with pytest.raises(StaleRecord, match="IW has done this just now"), two.act("close") as act:
        act.records.update(seen, closed="as it was seen")
    with two.reading() as records:
        now = records.first_of(Finding, job_id=job)
    assert now is not None and now.closed == "" and now.choice == "lime"


@dataclass
class Windows:
    """Two windows whose people do anything, in any order."""

    shops: tuple[Shop, Shop]
    clock: HandClock
    jobs: list[int]
    chance: random.Random
    done: dict[str, int] = field(default_factory=dict)

    def edits(self, shop: Shop) -> list[Callable[[], Any]]:
        """Every kind of edit."""
        c, job = self.chance, self.chance.choice(self.jobs)
        with shop.reading() as records:
            view = intake.need_job(shop, records, job, shop.now)
        item = c.choice(view.family.item).key
        step = c.choice(view.open_steps).step.key if view.open_steps else "none"
        topic = c.choice([t for t in shop.catalogue.topics.values() if not t.hygiene])
        who = c.choice(["IW", "TO", "AB", "CD"])
        stuff, later = c.choice(STUFFS), shop.now + timedelta(hours=c.randint(1, 30))
        reeds = bench_reeds.reeds(shop)
        reed = c.choice(reeds).id if reeds else 1
        cloth = c.choice(cloths.cloths(shop)).cloth.key
        return [
            lambda: staff.add_worker(shop, f"{who} {c.randint(8, 12)}-{c.randint(13, 18)}", helper=c.random() < 0.5),
            lambda: staff.remove_worker(shop, who), lambda: staff.goes_home(shop, who),
            lambda: staff.is_back(shop, who), lambda: staff.stays_on(shop, who, later, 30.0),
            lambda: bench_reeds.add_reed(shop, "clarinet"), lambda: bench_reeds.play(shop, reed),
            lambda: bench_reeds.throw_away(shop, reed), lambda: bench_reeds.lay_in(shop),
            lambda: bench_reeds.take_out(shop), lambda: running_bath.fill(shop, BATH),
            lambda: running_bath.top_up(shop), lambda: running_bath.read(shop, 36.0), lambda: running_bath.empty(shop),
            lambda: cloths.washed(shop, cloth), lambda: cloths.replaced(shop, cloth),
            lambda: cloths.calibrate(shop, cloth, 30.0),
            lambda: cloths.add_cloth(shop, f"C{c.randint(0, 9)}", 300.0, 0.1, "clarinet"),
            lambda: shelf.hang_up(shop, stuff), lambda: shelf.count_again(shop, stuff, c.randint(0, 9), 2),
            lambda: shelf.weigh_water(shop, "alto_saxophone", 2.2, 1.5),
            lambda: stock.set_price(shop, "strap_sax", c.choice([None, 3.0, 4.0])),
            lambda: stock.count_stock(shop, "pad_paper", float(c.randint(0, 80)), "again"),
            lambda: stock.book_in_stock(shop, "soap_ml", 5.0),
            lambda: policies.choose_policy(shop, topic.key, c.choice(topic.choice).key),
            lambda: policies.ask(shop, c.choice("AB"), topic.key, c.choice([*(x.key for x in topic.choice), ""])),
            lambda: products.add_product(shop, f"Gleam {c.randint(0, 4)}", "water"),
            lambda: products.forget_product(shop, f"named_gleam_{c.randint(0, 4)}"),
            lambda: hand_washing.washed(shop),
            lambda: point_placing.learn(shop, [[(1.0, 1.0), (2.0, 2.0)]], 1.0),
            lambda: air_way.set_air_way(shop, view, (1, 2, 3)),
            lambda: fixed_starts.lock(shop, job, step, who, later), lambda: fixed_starts.unlock(shop, job, step),
            lambda: awaited_parts.wait_for(shop, job, step, "a felt", later),
            lambda: awaited_parts.is_here(shop, job, step),
            lambda: intake.tick_item(shop, job, item, c.choice(["present", "missing", "worn"])),
            lambda: intake.replace_item(shop, job, item), lambda: intake.note_surplus(shop, job, "a comb"),
            lambda: add_mark(shop, job, c.choice(view.family.zones), "dent", 3.0),
            lambda: intake.set_quarantine(shop, job, c.choice(["", "mould"])),
            lambda: findings.send_out(shop, job, "luthier"), lambda: findings.back_from(shop, job, "mended"),
            lambda: findings.rest_is_sound(shop, job), lambda: job_steps.take_up(shop, job, step),
            lambda: job_steps.put_aside(shop), lambda: job_steps.finish_step(shop, job, step),
            lambda: job_steps.waive_step(shop, job, step, "not today"),
            lambda: shop.set_setting("theme.dark", c.random() < 0.5, "dark"), lambda: shop.undo(),
        ]  # fmt: skip

    def act(self) -> None:
        shop = self.chance.choice(self.shops)
        edit = self.chance.choice(self.edits(shop))
        try:
            edit()
            self.done["done"] = self.done.get("done", 0) + 1
        except StoreProblem as problem:  # one after another, nobody is in anybody's way
            raise AssertionError(problem.words()) from problem
        except CreekbedError:
            self.done["refused"] = self.done.get("refused", 0) + 1
        self.clock.advance(minutes=self.chance.choice([0, 0, 1, 5, 40]))


@pytest.mark.parametrize("seed", range(4))
def test_any_order_of_every_edit(seed: int, both: tuple[Shop, Shop], hand: Hand, clock: HandClock) -> None:
    jobs = [hand.book(), hand.book("MH-0404", "trumpet"), hand.book("MH-0312", "clarinet")]
    windows = Windows(both, clock, jobs, random.Random(seed))
    for _ in range(150):
        windows.act()
    one, two = both
    with one.reading() as mine, two.reading() as theirs:
        state = dump(mine.connection)
        assert state == dump(theirs.connection) == replay(mine.journal.all_changes())
    assert check_records(one.folder) == []
    assert windows.done["done"] > 60 and windows.done["refused"] > 5, windows.done
    numbers = {
        kind.TABLE: count(one, kind) for kind in (Person, Attendance, Price, ClothCount, HouseValue, PolicyRequest)
    }
    assert sum(map(bool, numbers.values())) >= 4, numbers
