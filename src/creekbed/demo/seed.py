"""Makes the demo shop: old hires written at once, the last day worked by the use cases themselves, by its plan."""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.parts import Check
from creekbed.core.errors import Refused
from creekbed.core.inspection.verdicts import judge_reading
from creekbed.core.local import at_hour
from creekbed.core.measure import Reading
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.procedure.situation import asked_joints
from creekbed.demo.folder import DEMO_PERSON, MAKING, begin, last_thursday, mark_made
from creekbed.store.records import (
    AirReading,
    Departure,
    DepartureKind,
    Finding,
    Hire,
    Instrument,
    Job,
    Mark,
    StepRecord,
    TagPrint,
)
from creekbed.store.unit_of_work import Change
from creekbed.workshop.arrival import intake
from creekbed.workshop.arrival.condition_marks import add_mark
from creekbed.workshop.bench import bench_view, job_steps
from creekbed.workshop.bench.job_view import JobView, load_job
from creekbed.workshop.cleaning import shelf
from creekbed.workshop.inspection import findings as lookover
from creekbed.workshop.inspection.answers import earlier_rows
from creekbed.workshop.release import release_check
from creekbed.workshop.shop import staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock

WINDS = ("Lamplighters' band", "Harbour Street winds", "Winter festival")
STRINGS = ("Boatyard strings", "Winter festival", "Netloft fiddles")
# Tags of the other families; the MH-01 numbers are alto saxophones, the MH-02 numbers violins.
OTHERS: dict[str, str] = {
    "MH-0302": "soprano_saxophone", "MH-0305": "tenor_saxophone", "MH-0308": "baritone_saxophone",
    "MH-0311": "clarinet", "MH-0312": "clarinet", "MH-0314": "clarinet", "MH-0317": "bass_clarinet",
    "MH-0320": "flute", "MH-0321": "flute", "MH-0325": "piccolo", "MH-0331": "oboe", "MH-0341": "bassoon",
    "MH-0402": "trumpet", "MH-0404": "trumpet", "MH-0409": "cornet", "MH-0415": "trombone", "MH-0421": "horn",
    "MH-0430": "euphonium", "MH-0440": "tuba", "MH-0451": "viola", "MH-0452": "viola", "MH-0503": "cello",
    "MH-0504": "cello", "MH-0509": "double_bass", "MH-0511": "acoustic_guitar", "MH-0515": "electric_guitar",
    "MH-0519": "bass_guitar", "MH-0602": "bow", "MH-0605": "bow",
}  # fmt: skip


def family_of(tag: str) -> str:
    """The family of a demo tag."""
    return OTHERS.get(tag, "violin" if tag.startswith("MH-02") else "alto_saxophone")


def groups_of(tag: str) -> tuple[str, ...]:
    """The groups that hire it."""
    return STRINGS if tag[3:5] in ("02", "05", "06") or family_of(tag) == "viola" else WINDS


STOCK: tuple[tuple[str, float, dict[str, Any]], ...] = (
    ("peroxide_6_ml", 920.0, {"lot": "PX-11", "strength_pct": 6.0, "contact_min": 10.0}),
    ("alcohol_96_ml", 700.0, {"lot": "AL-3", "strength_pct": 96.0}),
    ("bleach_5_ml", 480.0, {"lot": "BL-7", "strength_pct": 5.0, "contact_min": 10.0}),
    ("soap_ml", 400.0, {}), ("vinegar_ml", 350.0, {}), ("pad_paper", 60.0, {}), ("cork_grease_ml", 18.0, {}),
    ("reed_alto_2", 13.0, {"lot": "box 4"}), ("reed_case", 4.0, {}), ("ligature_alto", 2.0, {}), ("cap_alto", 3.0, {}),
    ("end_plug_alto", 2.0, {}), ("strap_sax", 3.0, {}), ("swab_sax_body", 4.0, {}), ("swab_sax_slim", 3.0, {}),
    ("cork_grease_tube", 5.0, {}), ("shoulder_rest", 3.0, {}), ("rosin_cake", 6.0, {}), ("cloth_cotton", 9.0, {}),
    ("tuner_clip", 2.0, {}), ("pencil", 7.0, {}), ("string_violin_g", 3.0, {}), ("string_violin_d", 4.0, {}),
    ("string_violin_a", 4.0, {}), ("string_violin_e", 6.0, {}),
)  # fmt: skip

# What the technician finds: tag → check → reading, choice or places.
FINDS: dict[str, dict[str, Any]] = {
    "MH-0119": {"neck_cork": 7.6, "pads": {}, "mouthpiece": "sound"},
    "MH-0142": {"neck_cork": 9.4, "pads": {"G sharp": "sticks", "palm D": "wet"}, "mouthpiece": "lime"},
    "MH-0184": {"neck_cork": 7.5, "pads": {"low E flat": "wet"}, "mouthpiece": "sound"},
    "MH-0150": {"neck_cork": 7.1, "pads": {"low C sharp": "sticks"}, "mouthpiece": "sound"},
    "MH-0163": {"neck_cork": 6.9, "pads": {}, "mouthpiece": "lime"},
    "MH-0107": {"neck_cork": 8.0, "pads": {"G sharp": "sticks"}, "mouthpiece": "scratched"},
    "MH-0171": {"neck_cork": 3.4, "pads": {"low B": "torn"}, "mouthpiece": "sound"},
    "MH-0212": {"bridge_lean": 0.4, "fine_tuner": 5.2, "chin_rest": "tight", "strings": {"A": "worn"}},
    "MH-0233": {"bridge_lean": 1.6, "fine_tuner": 4.8, "chin_rest": "moves", "strings": {"E": "missing"}},
    "MH-0207": {"bridge_lean": 5.2, "fine_tuner": 4.4, "chin_rest": "tight", "strings": {}},
    "MH-0245": {"bridge_lean": 0.2, "fine_tuner": 1.1, "chin_rest": "tight", "strings": {"G": "worn"}},
    "MH-0228": {"bridge_lean": -0.3, "fine_tuner": 6.1, "chin_rest": "tight", "strings": {}},
    "MH-0312": {"pads": {"C sharp": "wet"}, "corks": {"lower joint": "dry"}, "mouthpiece": "lime"},
    "MH-0404": {"valve_return": {"2": "slow"}, "dents": 2.5, "mouthpiece": "lime"},
    "MH-0503": {"bridge_lean": 0.8, "end_pin": "no_tip", "strings": {"A": "worn"}},
    "MH-0415": {"lift": "rises", "dents": 3.0},
    "MH-0602": {"hair": 4.0, "bow_camber": 8.0},
}
WORN = {("MH-0207", "bridge_lean"): (0.5, 1.5, 2.2), ("MH-0245", "fine_tuner"): (5.1, 3.9, 3.4)}
"""What went on from hire to hire: as it went out, as it came back, as it went out again."""
SLIDES = {"MH-0415": (0.71, 0.21)}
"""Friction of a slide against its weight: as it came back from the hire before, and cleaned."""
JOINED = {"MH-0142", "MH-0101", "MH-0233"}
"""Instruments that come back in one piece."""
SENT_OUT = {"MH-0207": "luthier", "MH-0171": "woodwind repairer"}
MISSING = {"MH-0107": ("end_plug",), "MH-0233": ("rosin",), "MH-0150": ("cap",)}


PACE_SD = 0.25
"""How much the demo technician's pace varies: standard deviation of its logarithm, invented."""


def make_demo(folder: Path, now: datetime, progress: Callable[[str], None] = lambda words: None) -> None:
    """Make the demo shop in an empty folder; it is marked as made only when it is whole.

    Args:
        folder: its data folder. now: real time; the demo's day is the Thursday before it.
        progress: told in words what is being made.

    Raises:
        Refused: the folder holds something else; it was not touched.
    """
    begin(folder)
    thursday = last_thursday(now)
    clock = HandClock(thursday - timedelta(days=1))
    shop = Shop(folder, clock, person=DEMO_PERSON)
    _hurry(shop)
    progress("Two seasons of hires …")
    day = thursday.date()
    friday = at_hour(day + timedelta(days=1), 10.25)
    tuesday = at_hour(day + timedelta(days=5), 9.0)
    packet = at_hour(day, 12 + 50 / 60)
    departures = _past(shop, thursday, {"packet": packet, "friday": friday, "tuesday": tuesday})
    for item, amount, more in STOCK:
        stock.book_in_stock(shop, item, amount, **more)
    there = {row[0] for row in STOCK} | {r.product for r in shop.catalogue.house.every_recipe}
    for supply in shop.catalogue.supplies.values():
        if supply.key not in there:
            stock.book_in_stock(shop, supply.key, round(supply.reorder_at * 2.5) + 1.0)
    _air(shop, thursday)
    progress("The last day at the bench …")
    _work(shop, clock, departures, thursday)
    staff.add_worker(shop, "TO 13-17", helper=True)
    shop.look_at_clock()
    shop.close()
    mark_made(folder, clock.now())
    (folder / MAKING).unlink(missing_ok=True)


def _hurry(shop: Shop) -> None:
    """While the demo is made nothing is acknowledged to anybody, so it need not wait for the disk."""

    shop.store.hurry()


def _past(shop: Shop, thursday: datetime, leaving: dict[str, datetime]) -> dict[str, int]:
    """Some eighty instruments with the hires of two seasons, in one entry."""
    chance = random.Random(1912)
    with shop.act("demo.past", undoable=False) as act:
        records = act.records
        departures = _departures(records, leaving)
        tags = [f"MH-0{100 + n}" for n in (1, 3, 7, 12, 19, 26, 31, 38, 42, 50, 55, 63, 71, 77, 84, 90)]
        tags += [f"MH-0{100 + n}" for n in (14, 15, 22, 29, 35, 44, 47, 52, 58, 61, 66, 69, 73, 79, 81, 87, 93)]
        violins = [f"MH-0{200 + n}" for n in range(1, 50)]
        keep = {"MH-0201", "MH-0207", "MH-0212", "MH-0215", "MH-0222", "MH-0228", "MH-0233", "MH-0245"}
        violins = sorted(keep | set(chance.sample(violins, 18)))
        every = tags + violins + sorted(OTHERS)
        for tag in every:
            _one_past(shop, records, tag, family_of(tag), thursday, chance)
        act.words = f"{len(every)} instruments and two seasons of hires"
        return {name: departure.id for name, departure in departures.items()}


NAMES = {"packet": "Thursday packet", "friday": "Friday boat", "tuesday": "Tuesday boat"}
"""The island's word for a departure is a boat."""


def _departures(records: Change, leaving: dict[str, datetime]) -> dict[str, Departure]:
    """The boats of each week, and the next of each."""
    found = {}
    for key, at in leaving.items():
        local = at.astimezone()
        kind = records.add(DepartureKind(
            name=NAMES[key], rhythm="weekly", weekdays=[local.weekday()], minute=local.hour * 60 + local.minute,
        ))  # fmt: skip
        day = local.date().isoformat()
        found[key] = records.add(Departure(name=kind.name, leaves_at=at, kind_id=kind.id, day=day))
    return found


def _air(shop: Shop, thursday: datetime) -> None:
    """Three weeks of the storage room, every two hours: a dry spell, then a wet weekend with the door open."""
    chance = random.Random(11)
    with shop.act("demo.air", undoable=False) as act:
        for n in range(21 * 12):
            at = thursday.replace(hour=11, minute=0) - timedelta(hours=2 * (21 * 12 - 1 - n))
            day = n / 12
            wet = 0.22 * math.exp(-(((day - 16.2) / 1.3) ** 2)) - 0.08 * math.exp(-(((day - 7) / 2.0) ** 2))
            round_ = math.sin(2 * math.pi * (at.hour - 9) / 24)
            humidity = 0.49 + wet - 0.03 * round_ + chance.gauss(0, 0.008)
            celsius = 17.5 + 1.6 * round_ + chance.gauss(0, 0.15)
            act.records.add(AirReading(at=at, celsius=round(celsius, 1), humidity=round(humidity, 3), source="devices"))
        act.words = "Three weeks of the storage room's air"


def _one_past(shop: Shop, records: Change, tag: str, family: str, thursday: datetime, chance: random.Random) -> None:
    kind = shop.catalogue.families[family]
    size = chance.choice(["4/4", "4/4", "3/4", "3/4", "1/2", "1/4"]) if family == "violin" else kind.sizes[0]
    mouthpiece = kind.find_part("mouthpiece")
    reeded = mouthpiece is not None and "hard_rubber" in mouthpiece.materials
    materials = {"mouthpiece": chance.choice(["hard_rubber", "hard_rubber", "abs"])} if reeded else {}
    made = thursday - timedelta(days=chance.randint(800, 1500))
    records.add(
        Instrument(
            tag=tag, family=family, size=size, serial=f"{chance.randint(10000, 99999)}", materials=materials,
            created_at=made,
        )
    )  # fmt: skip
    contents = [i.key for i in kind.item]
    out = thursday - timedelta(days=chance.randint(560, 620))
    condition = _condition(kind, size, chance, 0)
    for row in condition:
        row["value"] = WORN.get((tag, row["check"]), (row["value"],))[0]
    for season in range(2):
        back = out + timedelta(days=chance.randint(180, 240))
        last = season == 1
        renter = f"R-{chance.randint(10, 89):03d}"
        hire = records.add(Hire(
            tag=tag, renter=renter, group_name=chance.choice(groups_of(tag)), out_at=out,
            back_at=None if last else back, contents_out=contents, condition_out=condition,
        ))  # fmt: skip
        if not last:
            job = records.add(Job(
                tag=tag, hire_id=hire.id, departure_id=None, state="gone", opened_at=back, came_from=renter,
                ready_at=back + timedelta(days=2),
            ))  # fmt: skip
            condition = _condition(kind, size, chance, season + 1)
            for row in condition:
                leaned = WORN.get((tag, row["check"]))
                if leaned is not None:
                    records.add(_found(job, kind.find_check(row["check"]), leaned[1]))
                    row["value"] = leaned[2]
            if tag in SLIDES:
                _slide_cleaned(records, job, kind.find_check("friction"), *SLIDES[tag])
            records.add(
                TagPrint(
                    job_id=job.id, at=back + timedelta(days=2), person="IW", facts={"tag": tag, "family": kind.name}
                )
            )
            if chance.random() < 0.4:
                zone = chance.choice(kind.zones)
                mark: dict[str, Any] = {"zone": zone, "kind": "scratch", "size_mm": float(chance.randint(4, 30))}
                condition.append(mark)
                records.add(Mark(tag=tag, job_id=job.id, seen_at=back, **mark))
            out = back + timedelta(days=chance.randint(20, 60))


def _found(job: Job, check: Check, value: float, how: str = "from two lengths", closed: str = "mended") -> Finding:
    """What was read when it came back that time."""
    reading = Reading(value, check.u, check.unit, how)
    row = {"value": value, "u": check.u, "unit": check.unit, "how": reading.how}
    result = judge_reading(check, reading)
    return Finding(
        job_id=job.id, check=check.key, readings=[row], choice="", places={}, band=result.band,
        verdict=result.verdict or "", reason=result.reason, overruled="", overrule_reason="", closed=closed,
        at=job.opened_at, person="IW",
    )  # fmt: skip


def _slide_cleaned(records: Change, job: Job, check: Check, before: float, after: float) -> None:
    """A hand slide that was read, cleaned, and read again."""
    came, left = (_found(job, check, ratio, "from a pull", "") for ratio in (before, after))
    cleaned, read_again = job.opened_at + timedelta(hours=1), job.opened_at + timedelta(hours=2)
    records.add(StepRecord(
        job_id=job.id, key="inner_wipe", what="Wipe the inner tubes down", stage="clean", state="done", at=cleaned,
        person="IW",
    ))  # fmt: skip
    records.add(replace(left, earlier=earlier_rows(came, (), read_again), at=read_again))


def _condition(family: Family, size: str, chance: random.Random, season: int) -> list[dict[str, Any]]:
    """A sound instrument's condition: every measure in its green band, a little worn with each season."""
    rows: list[dict[str, Any]] = []
    for check in (c for c in family.check if not c.optional):
        if check.kind == "measure":
            bands = check.bands_for(size)
            assert bands is not None
            value = bands.good() + chance.gauss(0.0, check.u) + 0.5 * check.u * season
            row = {"check": check.key, "value": round(value, 1 if check.u >= 0.1 else 2), "unit": check.unit}
            rows.append({**row, "band": "green", "words": ""})
            continue
        words = "None found." if check.kind == "places" else f"{check.options[0].name.capitalize()}."
        rows.append({"check": check.key, "value": None, "unit": "", "band": "green", "words": words})
    return rows


# When each came to the door: day, local hour, tag, boat, next group, case °C, weight.
ARRIVALS: tuple[tuple[str, float, str, str, str, float | None, float], ...] = (
    ("wed", 9.0, "MH-0119", "friday", "Lamplighters' band", None, 1.0),
    ("wed", 9.0, "MH-0228", "friday", "Boatyard strings", None, 1.0),
    ("wed", 9.1, "MH-0171", "friday", "Harbour Street winds", None, 1.0),
    ("wed", 9.2, "MH-0207", "friday", "Winter festival", None, 2.0),
    ("wed", 13.5, "MH-0163", "packet", "Lamplighters' band", None, 1.0),
    ("wed", 14.6, "MH-0212", "packet", "Boatyard strings", None, 1.0),
    ("thu", 9.2, "MH-0107", "friday", "Harbour Street winds", None, 1.0),
    ("thu", 9.8, "MH-0404", "friday", "Lamplighters' band", None, 1.0),
    ("thu", 10.0, "MH-0233", "friday", "Netloft fiddles", None, 1.0),
    ("thu", 10.2, "MH-0142", "friday", "Lamplighters' band", None, 2.0),
    ("thu", 10.4, "MH-0150", "friday", "Lamplighters' band", None, 1.0),
    ("thu", 10.5, "MH-0245", "friday", "Winter festival", None, 1.0),
    ("thu", 10.9, "MH-0312", "friday", "Harbour Street winds", None, 1.0),
    ("thu", 11.0, "MH-0602", "friday", "Boatyard strings", None, 1.0),
    ("thu", 11.25, "MH-0503", "tuesday", "Boatyard strings", 6.0, 1.0),
    ("thu", 11.35, "MH-0184", "packet", "Lamplighters' band", None, 1.0),
    ("thu", 11.6, "MH-0215", "tuesday", "Boatyard strings", None, 1.0),
    ("thu", 11.65, "MH-0321", "friday", "Harbour Street winds", None, 1.0),
    ("thu", 11.68, "MH-0511", "tuesday", "Winter festival", 28.0, 1.0),
    ("thu", 11.7, "MH-0155", "tuesday", "Winter festival", 4.0, 1.0),
    ("thu", 11.78, "MH-0415", "tuesday", "Lamplighters' band", None, 1.0),
    ("thu", 11.8, "MH-0222", "tuesday", "Netloft fiddles", 31.0, 1.0),
)


def _work(shop: Shop, clock: HandClock, departures: dict[str, int], thursday: datetime) -> None:
    """Work from Wednesday morning to Thursday late morning as the plan says, with what is found by script."""
    day = thursday.date()
    now_is = at_hour(day, 11 + 52 / 60)
    days = {"wed": day - timedelta(days=1), "thu": day}
    waiting = [(at_hour(days[row[0]], int(row[1]) + int(row[1] % 1 * 60) / 60), *row[2:]) for row in ARRIVALS]
    chance = random.Random(17)
    _go_to(clock, waiting[0][0])
    today = clock.now().date()
    while clock.now() < now_is:
        if clock.now().date() != today:  # the basket is washed in the evening
            today = clock.now().date()
            for stuff in (s for s, count in shelf.counts(shop).items() if count.dirty):
                shelf.hang_up(shop, stuff)
        while waiting and waiting[0][0] <= clock.now():
            _, tag, departure, group, case_c, weight = waiting.pop(0)
            intake.book_in(
                shop, tag, departure_id=departures[departure], next_group=group, case_c=case_c, weight=weight,
                family=family_of(tag),
            )  # fmt: skip
        following = bench_view.home(shop).next
        if following is None or following.start > now_is:
            _go_to(clock, min([now_is] + [row[0] for row in waiting[:1]]))
            continue
        if waiting and following.start > waiting[0][0]:
            _go_to(clock, waiting[0][0])
            continue
        _go_to(clock, following.start)
        if clock.now() + timedelta(minutes=following.step.step.hands_min) > now_is:
            break
        _one_step(shop, clock, following.view.job.id, following.step.step.key, chance.lognormvariate(0.0, PACE_SD))
    _go_to(clock, now_is)


def _go_to(clock: HandClock, at: datetime) -> None:
    seconds = (at - clock.now()).total_seconds()
    if seconds > 0:
        clock.advance(seconds=seconds)


def _one_step(shop: Shop, clock: HandClock, job_id: int, key: str, pace: float) -> None:
    with shop.reading() as records:
        view = load_job(records, shop.catalogue, clock.now(), job_id)
    assert view is not None
    step = view.step(key)
    assert step is not None
    job_steps.take_up(shop, job_id, key)
    clock.advance(minutes=step.step.hands_min * pace)
    if step.step.kind == "contents":
        _tick(shop, view)
    elif step.step.kind == "look":
        _look(shop, view, step.step)
    try:
        if step.step.kind == "pack":
            job_steps.finish_step(shop, job_id, key, closes=True, nothing_presses=True, latches_hold=True)
            release_check.make_ready(shop, job_id)
        elif step.step.kind == "retune":
            job_steps.finish_step(shop, job_id, key, cents="16 cents" if key == "retune_1" else "13 cents")
        else:
            job_steps.finish_step(shop, job_id, key)
    except Refused:
        if step.step.kind != "pack":  # packed, but something stands in the way of ready: it stays open
            raise
    if step.step.key == "look" and view.tag in SENT_OUT:
        lookover.send_out(shop, job_id, SENT_OUT[view.tag])


def _tick(shop: Shop, view: JobView) -> None:
    for item in MISSING.get(view.tag, ()):
        intake.tick_item(shop, view.job.id, item, "missing")
    intake.tick_rest(shop, view.job.id)
    if joints := [j.key for j in asked_joints(view.family)]:
        intake.came(shop, view.job.id, joints if view.tag in JOINED else [])
    for item in MISSING.get(view.tag, ()):
        if item != "end_plug":
            intake.replace_item(shop, view.job.id, item)


def _look(shop: Shop, view: JobView, look: BuiltStep) -> None:
    finds = FINDS.get(view.tag, {})
    for check in view.needed_at(look):
        found = finds.get(check.key)
        if check.kind == "measure":
            bands = check.bands_for(view.instrument.size)
            assert bands is not None
            value = bands.good() if found is None else float(found)
            lookover.record_reading(shop, view.job.id, check.key, Reading(value, check.u, check.unit, "caliper"))
        elif check.kind == "choice":
            lookover.record_choice(shop, view.job.id, check.key, found or lookover.sound_answer(check))
        else:
            lookover.record_places(shop, view.job.id, check.key, found or {})
    if view.tag == "MH-0142":
        add_mark(shop, view.job.id, "bell", "dent", 9.0)
