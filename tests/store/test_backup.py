"""Copies: published only when whole, never fewer good ones because bad ones came, and going back to one."""

from __future__ import annotations

import contextlib
import gzip
import json
import multiprocessing
import os
import shutil
import sqlite3
from collections import namedtuple
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

import creekbed.store.sqlite.backup as backup
import creekbed.store.sqlite.copies as copies
import creekbed.store.sqlite.database as database
from creekbed.core.errors import Refused, StoreProblem
from creekbed.store.layout import ABOUT, ASIDE, BACKUPS, FILE
from creekbed.store.presence import Presence
from creekbed.store.retention import kept
from creekbed.store.sqlite.backup import back_up, copies_in, is_good, newest, records_of, time_of
from creekbed.store.sqlite.checking import examine
from creekbed.store.sqlite.copies import all_copies, find, prune_aside, restore
from creekbed.store.sqlite.database import open_engine
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from tests.conftest import MORNING


def act(folder: Path, words: str = "x", clock: HandClock | None = None) -> None:
    shop = Shop(folder, clock or HandClock(MORNING))
    with shop.act("x") as done:
        done.words = words
    shop.close()


def words_in(folder: Path) -> list[str]:
    with sqlite3.connect(folder / FILE) as file:
        return [row[0] for row in file.execute("SELECT words FROM journal ORDER BY id")]


def test_a_copy_is_whole_and_private(tmp_path: Path) -> None:
    act(tmp_path)
    (tmp_path / "catalogue" / "families").mkdir(parents=True)
    (tmp_path / "catalogue" / "overrides.toml").write_text("# ours\n")
    (tmp_path / "catalogue" / "families" / "own.toml").write_text("# own\n")
    made = back_up(tmp_path, "daily")
    about = json.loads((made / ABOUT).read_text())
    assert about["entries"] == 1 and about["jobs"] == 0 and examine(made / FILE, still=True).whole
    assert (made / "catalogue" / "overrides.toml").read_text() == "# ours\n"
    assert (made / "catalogue" / "families" / "own.toml").exists()
    for path in (made, *made.rglob("*")):
        assert path.stat().st_mode & 0o777 == (0o700 if path.is_dir() else 0o600)
    assert newest(tmp_path) == made


def test_a_copy_that_cannot_be_finished_is_not_there(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    act(tmp_path)
    good = back_up(tmp_path, "daily")
    wrong = examine(good / FILE, still=True)
    monkeypatch.setattr(backup, "examine", lambda path, **k: wrong.__class__(**{**wrong.__dict__, "wrong": "torn"}))
    with pytest.raises(StoreProblem, match="torn"):
        back_up(tmp_path, "daily")
    monkeypatch.undo()
    short = wrong.__class__(**{**wrong.__dict__, "entries": 0})
    monkeypatch.setattr(backup, "examine", lambda path, **k: short)
    with pytest.raises(StoreProblem, match="1 actions are missing"):
        back_up(tmp_path, "daily")
    monkeypatch.undo()
    usage = namedtuple("usage", "total used free")
    monkeypatch.setattr(shutil, "disk_usage", lambda path: usage(10**9, 10**9, 10**6))
    with pytest.raises(StoreProblem) as caught:
        back_up(tmp_path, "daily")
    assert caught.value.fields["kind"] == "no_room"
    assert copies_in(tmp_path / BACKUPS) == [good] and newest(tmp_path) == good
    assert not list((tmp_path / BACKUPS).glob("*.part"))


def _copy_in_a_process(folder: str, n: int) -> None:
    back_up(Path(folder), f"hand-{'abc'[n]}", now=MORNING + timedelta(seconds=n))


def test_two_at_once_leave_each_other_alone(tmp_path: Path) -> None:
    act(tmp_path)
    spawn = multiprocessing.get_context("fork")
    workers = [spawn.Process(target=_copy_in_a_process, args=(str(tmp_path), n)) for n in range(3)]
    for worker in workers:
        worker.start()
    for worker in workers:
        worker.join(60)
    assert [w.exitcode for w in workers] == [0, 0, 0]
    assert len(copies_in(tmp_path / BACKUPS)) == 3 and all(is_good(p) for p in copies_in(tmp_path / BACKUPS))


def test_litter_of_interrupted_work_is_cleared(tmp_path: Path) -> None:
    act(tmp_path)
    litter = tmp_path / BACKUPS / "20260101T000000000000Z-daily.77-abc.part"
    litter.mkdir(parents=True)
    (litter / FILE).write_bytes(b"half")
    old = tmp_path / "records.sqlite3.77-abc.part"
    old.write_bytes(b"half")
    os.utime(old, (0, 0))
    back_up(tmp_path, "daily")
    open_engine(tmp_path).dispose()
    assert not litter.exists() and not old.exists()


def test_old_copies_go_and_bad_ones_do_not_push_good_ones_out(tmp_path: Path) -> None:
    act(tmp_path)
    for n in range(1, 15):
        back_up(tmp_path, "daily", now=datetime(2026, 10, n, tzinfo=UTC))
    for n in range(15, 29):  # an earlier version published what was cut off
        (tmp_path / BACKUPS / f"202610{n:02d}T000000000000Z-daily.sqlite3").touch()
    last = back_up(tmp_path, "daily", now=datetime(2026, 10, 30, tzinfo=UTC))
    good = [time_of(p) for p in copies_in(tmp_path / BACKUPS) if is_good(p)]
    week, sundays = [9, 10, 11, 12, 13, 14, 30], [4, 11]
    assert newest(tmp_path) == last
    assert [t.day for t in good if t is not None] == sorted({*week, *sundays})


# Expected by counting on a calendar: 2026-10-30 is a Friday, the Sundays before it are the 25th, 18th, 11th and 4th.
def test_copies_are_kept_by_their_age() -> None:
    last = datetime(2026, 10, 30, 12, tzinfo=UTC)
    stay = kept([last - timedelta(days=n) for n in range(800)])
    days = sorted({(last - t).days for t in stay})
    weeks, months = [5, 12, 19], [30, 60, 91, 122, 152, 183, 213, 244, 272, 303, 334]
    assert days == sorted({*range(7), *weeks, *months})
    assert kept([]) == set() and kept([last]) == {last}


@given(st.lists(st.datetimes(datetime(2020, 1, 1), datetime(2030, 1, 1), timezones=st.just(UTC)), max_size=60))
def test_keeping_is_bounded_and_keeps_the_newest(times: list[datetime]) -> None:
    stay = kept(times)
    assert stay <= set(times) and (not times or max(times) in stay)
    assert len({t.date() for t in stay}) <= 7 + 4 + 12
    assert kept(sorted(stay)) == stay


def test_photographs_go_from_the_copies_with_their_age(tmp_path: Path) -> None:
    act(tmp_path)
    picture = tmp_path / BACKUPS / "photos" / "ab" / f"ab{'0' * 62}.jpg"
    picture.parent.mkdir(parents=True)
    picture.write_bytes(b"x")  # of a copy that is gone
    back_up(tmp_path, "daily")
    assert not picture.exists()


def test_one_is_made_every_local_day_while_the_window_stays_open(tmp_path: Path) -> None:
    clock = HandClock(MORNING)
    shop = Shop(tmp_path, clock)
    made = 0
    for _ in range(7 * 24):
        if shop.backup_due():
            assert shop.daily_backup() is not None
            made += 1
        clock.advance(hours=1)
    assert made in (7, 8) and shop.daily_backup() is None
    shop.close()


def test_one_that_failed_is_tried_again_the_same_day(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    clock = HandClock(MORNING)
    shop = Shop(tmp_path, clock)
    usage = namedtuple("usage", "total used free")
    with monkeypatch.context() as patch:
        patch.setattr(shutil, "disk_usage", lambda path: usage(10**9, 10**9, 0))
        with pytest.raises(StoreProblem):
            shop.daily_backup()
    assert not shop.backup_due()
    clock.advance(minutes=21)
    assert shop.backup_due() and shop.daily_backup() is not None
    shop.close()


def test_a_copy_before_a_migration_and_none_of_damaged_records(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    old = gzip.decompress((Path(__file__).parent / "shop_0007.sql.gz").read_bytes()).decode()
    with sqlite3.connect(tmp_path / FILE) as file:  # as the version before left it
        file.executescript(old)

    def fail(*_: object) -> None:
        raise RuntimeError("half way")

    with monkeypatch.context() as patch:
        patch.setattr(database, "migrate", fail)
        with pytest.raises(RuntimeError):
            open_engine(tmp_path)
    made = newest(tmp_path)
    assert made is not None and "before-migration" in made.name
    assert examine(made / FILE, still=True).revision == "0007"
    shop = Shop(tmp_path, HandClock(MORNING))
    assert [d for d in all_copies(tmp_path) if not d.facts.whole] == []
    with shop.reading() as session:
        assert session.connection.exec_driver_sql("SELECT min(length(chain)) FROM journal").scalar() == 64
    shop.close()


# --- going back -----------------------------------------------------------------------------------------------------


def test_the_list_says_what_each_copy_holds_and_what_would_be_lost(tmp_path: Path) -> None:
    for n in range(3):
        act(tmp_path, f"morning {n}")
    first = back_up(tmp_path, "daily", now=MORNING)
    for n in range(4):
        act(tmp_path, f"noon {n}")
    second = back_up(tmp_path, "by-hand", now=MORNING + timedelta(hours=1))
    act(tmp_path, "last")
    found = all_copies(tmp_path)
    assert [c.path for c in found] == [second, first]
    assert [(c.facts.entries, c.lost, c.facts.whole) for c in found] == [(7, 1, True), (3, 5, True)]
    assert found[0].kind == "made by hand"


def test_going_back_keeps_what_is_there_and_can_be_taken_back(tmp_path: Path) -> None:
    act(tmp_path, "one")
    (tmp_path / "catalogue").mkdir()
    (tmp_path / "catalogue" / "overrides.toml").write_text("# then\n")
    back_up(tmp_path, "daily", now=MORNING)
    act(tmp_path, "two")
    (tmp_path / "catalogue" / "overrides.toml").write_text("# now\n")
    aside = restore(tmp_path, find(tmp_path))
    assert words_in(tmp_path) == ["one"] and aside is not None and aside.parent.name == ASIDE
    assert (tmp_path / "catalogue" / "overrides.toml").read_text() == "# then\n"
    act(tmp_path, "three")  # the witness goes on from the copy
    back = next(c for c in all_copies(tmp_path) if c.aside)
    assert back.facts.whole and back.facts.entries == 2
    restore(tmp_path, back)
    assert words_in(tmp_path) == ["one", "two"]
    assert (tmp_path / "catalogue" / "overrides.toml").read_text() == "# now\n"
    assert len([c for c in all_copies(tmp_path) if c.aside]) == 2


def test_what_is_only_in_the_log_is_kept_aside_too(tmp_path: Path) -> None:
    act(tmp_path, "one")
    back_up(tmp_path, "daily", now=MORNING)
    shop = Shop(tmp_path, HandClock(MORNING))
    with shop.act("x") as done:
        done.words = "in the log"
    here = {p.name: p.read_bytes() for p in tmp_path.glob(f"{FILE}*") if not p.name.endswith("-shm")}
    shop.close()
    for name, content in here.items():  # as a power cut leaves it
        (tmp_path / name).write_bytes(content)
    restore(tmp_path, find(tmp_path))
    assert words_in(tmp_path) == ["one"]
    back = next(c for c in all_copies(tmp_path) if c.aside)
    assert back.facts.entries == 2
    restore(tmp_path, back)
    assert words_in(tmp_path) == ["one", "in the log"]


@pytest.mark.parametrize("cut", ["rename", "replace"])
def test_going_back_that_is_cut_off_loses_nothing(tmp_path: Path, cut: str, monkeypatch: pytest.MonkeyPatch) -> None:
    act(tmp_path, "one")
    back_up(tmp_path, "daily", now=MORNING)
    act(tmp_path, "two")
    real, calls = getattr(os, cut), []

    def stop(source: Any, target: Any, *more: Any) -> None:
        if FILE in str(source):
            calls.append(source)
            raise OSError(28, "No space left on device")
        real(source, target, *more)

    with monkeypatch.context() as patch:
        patch.setattr(os, cut, stop)
        with pytest.raises(StoreProblem):
            restore(tmp_path, find(tmp_path))
    assert calls
    kept = [tmp_path / FILE] if (tmp_path / FILE).exists() else [records_of(c.path) for c in all_copies(tmp_path)]
    assert any(examine(p).entries == 2 for p in kept)


def test_never_under_an_open_shop(tmp_path: Path) -> None:
    act(tmp_path)
    back_up(tmp_path, "daily")
    shop = Shop(tmp_path, HandClock(MORNING))
    with pytest.raises(StoreProblem, match="a window since") as caught:
        restore(tmp_path, find(tmp_path))
    assert caught.value.fields["kind"] == "in_use" and str(os.getpid()) in caught.value.happened
    shop.close()
    restore(tmp_path, find(tmp_path))


def test_who_died_with_the_shop_open_is_in_nobodys_way(tmp_path: Path) -> None:
    act(tmp_path)
    back_up(tmp_path, "daily")
    child = os.fork()
    if child == 0:
        Presence(tmp_path)
        os._exit(9)  # without getting up
    os.waitpid(child, 0)
    restore(tmp_path, find(tmp_path))


def test_a_copy_that_is_not_whole_is_not_put_in_place_unasked(tmp_path: Path) -> None:
    act(tmp_path)
    made = back_up(tmp_path, "daily", now=MORNING)
    old = tmp_path / BACKUPS / "20250101T000000000000Z-daily.sqlite3"
    with sqlite3.connect(old) as file:
        file.execute("CREATE TABLE job (id)")
    (made / FILE).write_bytes((made / FILE).read_bytes()[:-4096])
    found = {c.name: c for c in all_copies(tmp_path)}
    assert not found[made.name].facts.whole and not found[old.name].facts.whole
    with pytest.raises(StoreProblem, match="not whole"):
        restore(tmp_path, found[old.name])
    with pytest.raises(Refused, match="no copy that is whole"):
        find(tmp_path)
    with pytest.raises(Refused, match="no copy"):
        find(tmp_path, "20240101T000000000000Z-daily")
    restore(tmp_path, found[old.name], even_damaged=True)
    restore(tmp_path, next(c for c in all_copies(tmp_path) if c.aside and c.facts.whole))
    assert words_in(tmp_path) == ["x"]


def test_a_copy_changed_afterwards_is_not_whole(tmp_path: Path) -> None:
    act(tmp_path)
    made = back_up(tmp_path, "daily", now=MORNING)
    with sqlite3.connect(made / FILE) as file:
        file.execute("UPDATE alembic_version SET version_num = version_num")
        file.execute("CREATE INDEX later ON job (id)")
    assert "changed after" in all_copies(tmp_path)[0].facts.wrong


def test_an_old_copy_that_misses_a_table_is_not_whole(tmp_path: Path) -> None:
    act(tmp_path)
    old = tmp_path / BACKUPS / "20250101T000000000000Z-daily.sqlite3"
    old.parent.mkdir()
    shutil.copyfile(tmp_path / FILE, old)
    assert all_copies(tmp_path)[0].facts.whole
    with contextlib.closing(sqlite3.connect(old)) as file:
        file.execute("DROP TABLE stock_move")
    assert "stock_move" in all_copies(tmp_path)[0].facts.wrong


def test_no_room_to_go_back(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    act(tmp_path, "one")
    back_up(tmp_path, "daily")
    act(tmp_path, "two")
    copy = find(tmp_path)
    monkeypatch.setattr(copies, "free_bytes", lambda folder: 1000)
    with pytest.raises(StoreProblem, match="too little room"):
        restore(tmp_path, copy)
    monkeypatch.undo()
    assert words_in(tmp_path) == ["one", "two"]


def test_what_was_put_aside_goes_only_when_somebody_says_so(tmp_path: Path) -> None:
    act(tmp_path)
    back_up(tmp_path, "daily", now=MORNING - timedelta(days=200))
    aside = restore(tmp_path, find(tmp_path), now=MORNING - timedelta(days=100))
    for n in range(18):
        back_up(tmp_path, "daily", now=MORNING + timedelta(days=n))
    assert aside is not None and aside.exists()
    with pytest.raises(Refused):
        prune_aside(tmp_path, 1)
    with pytest.raises(Refused):
        prune_aside(tmp_path, float("nan"))
    assert prune_aside(tmp_path, 120, now=MORNING) == [] and aside.exists()
    assert prune_aside(tmp_path, 90, now=MORNING) == [aside.name] and not aside.exists()


def test_what_an_earlier_version_put_aside_is_offered(tmp_path: Path) -> None:
    act(tmp_path)
    shutil.copyfile(tmp_path / FILE, tmp_path / "kept-aside-20260101T000000000000Z.sqlite3")
    found = all_copies(tmp_path)
    assert len(found) == 1 and found[0].aside and found[0].facts.whole and found[0].made_at.year == 2026
