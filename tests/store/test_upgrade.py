"""A shop made by the version before revision 0008 opens, replays and shows the same jobs.

``shop_0007.sql.gz`` is such a shop as SQL text, ``shop_0007.json`` what that version showed of it.
"""

from __future__ import annotations

import gzip
import json
import sqlite3
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import Any

import pytest

from creekbed.core.errors import Refused
from creekbed.store.journal import dump, replay
from creekbed.store.layout import FILE
from creekbed.store.maintenance import check_records
from creekbed.store.records import FixedStart, Setting
from creekbed.store.tables import METADATA
from creekbed.workshop.bench.job_view import load_jobs
from creekbed.workshop.cleaning import bench_reeds, cloths, hand_washing, products, running_bath, shelf
from creekbed.workshop.inspection import air_way, point_placing
from creekbed.workshop.shop import policies, staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock

HERE = Path(__file__).parent
SHOWN: dict[str, Any] = json.loads((HERE / "shop_0007.json").read_text())


@pytest.fixture
def old(tmp_path: Path) -> Path:
    folder = tmp_path / "old"
    folder.mkdir(mode=0o700)
    with sqlite3.connect(folder / FILE) as file:
        file.executescript(gzip.decompress((HERE / "shop_0007.sql.gz").read_bytes()).decode())
    return folder


@pytest.fixture
def upgraded(old: Path) -> Iterator[Shop]:
    shop = Shop(old, HandClock(datetime.fromisoformat(SHOWN["now"])))
    yield shop
    shop.close()


def test_the_same_jobs_are_shown(upgraded: Shop) -> None:
    with upgraded.reading() as records:
        views = load_jobs(records, upgraded.catalogue, upgraded.now)
    shown = {v.tag: {s.step.key: s.state for s in v.steps} for v in views}
    assert shown["MH-0300"]["retune_3"] == "later"  # new strings are retuned until they hold: a step that came since
    for tag, steps in SHOWN["jobs"].items():
        before = {key: state for key, state in steps if key in shown[tag]}
        assert len(before) >= 0.8 * len(steps)  # few steps went with the catalogue of that time
        settled = {key for key, state in before.items() if state in ("done", "waived")}
        assert {key for key in settled if shown[tag][key] == before[key]} == settled


def test_every_reference_is_kept_by_the_records_themselves(upgraded: Shop) -> None:
    """Undo relies on it: a row on which something hangs cannot be removed."""
    with sqlite3.connect(upgraded.folder / FILE) as file:
        for table in METADATA.sorted_tables:
            kept = {(row[3], row[2]) for row in file.execute(f'PRAGMA foreign_key_list("{table.name}")')}
            assert kept == {(c.name, f.column.table.name) for c in table.c for f in c.foreign_keys}


def test_what_was_kept_in_settings_is_there(upgraded: Shop) -> None:
    people = [[w.key, w.helper, list(w.hours), len(w.away), len(w.stays)] for w in staff.workers(upgraded)]
    assert people == SHOWN["people"]
    assert stock.prices(upgraded) == SHOWN["prices"]
    assert [[r.id, r.group, r.uses, r.cleanings] for r in bench_reeds.reeds(upgraded)] == SHOWN["reeds"]
    lying, bath = bench_reeds.bath(upgraded), running_bath.running(upgraded)
    assert lying is not None and list(lying.reeds) == SHOWN["lying"]
    assert bath is not None and round(bath.tau_min, 2) == SHOWN["bath"] == round(running_bath.tau_min(upgraded) or 0, 2)
    assert shelf.counts(upgraded)["silk"].words() == SHOWN["silk"]
    every = sorted([v.cloth.name, round(v.phi, 3), v.uses, v.washes] for v in cloths.cloths(upgraded))
    assert every == SHOWN["cloths"]
    assert policies.asks(upgraded) == SHOWN["asks"]
    assert sorted(products.own_products(upgraded)) == SHOWN["products"]
    assert hand_washing.last_washed(upgraded, "IW") is not None
    assert point_placing.placings_of(upgraded).free > 0
    assert upgraded.setting("theme.dark") is True and upgraded.setting("devices") == {"scale": "/dev/ttyUSB9"}
    with upgraded.reading() as records:
        trumpet = next(v for v in load_jobs(records, upgraded.catalogue, upgraded.now) if v.tag == "MH-0404")
        left = {s.key for s in records.all_of(Setting)}
        assert len(records.all_of(FixedStart)) == 1 and sum(map(len, records.jobs.awaited_parts().values())) == 1
    assert list(air_way.air_way(trumpet)) == SHOWN["air_way"]
    assert left == {"theme.dark", "devices"}


def test_the_journal_replays_to_the_state(upgraded: Shop) -> None:
    with upgraded.reading() as records:
        assert replay(records.journal.all_changes()) == dump(records.connection)
    assert check_records(upgraded.folder) == []


def test_work_goes_on_and_old_work_can_be_taken_back(upgraded: Shop) -> None:
    """What was done before can still be taken back, as far as its rows are as they were."""
    assert [e.words for e in upgraded.undoable(3)] == SHOWN["undoable"]
    assert upgraded.undo().words == f"Undone: {SHOWN['undoable'][0]}"
    with pytest.raises(Refused, match="cannot be taken back"):
        upgraded.undo()  # it was kept in a setting then, and is a row of its own now
    staff.add_worker(upgraded, "ZZ")
    upgraded.undo()
    with upgraded.reading() as records:
        assert replay(records.journal.all_changes()) == dump(records.connection)


def test_a_spoilt_setting_stays_and_stops_nothing(old: Path) -> None:
    with sqlite3.connect(old / FILE) as file:
        file.execute("UPDATE setting SET value = '{\"v\": {\"IW\": 3}}' WHERE key = 'people'")
        file.execute("UPDATE setting SET value = 'no json' WHERE key = 'prices'")
    shop = Shop(old, HandClock(datetime.fromisoformat(SHOWN["now"])))
    try:
        assert [w.key for w in staff.workers(shop)] == ["IW"] and stock.prices(shop) == {}
        assert {d.table for d in check_records(shop.folder)} == {"setting"}
        assert len(bench_reeds.reeds(shop)) == 3
    finally:
        shop.close()


def test_the_copy_before_the_upgrade_is_kept(old: Path) -> None:
    Shop(old, HandClock(datetime.fromisoformat(SHOWN["now"]))).close()
    assert any("before-migration" in p.name for p in (old / "backups").iterdir())
