"""Disks that are full or read-only: a real small file system where one may be mounted, and a limit on file size."""

from __future__ import annotations

import contextlib
import os
import resource
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest

from creekbed.core.errors import StoreProblem
from creekbed.store.layout import BACKUPS
from creekbed.store.sqlite.backup import copies_in, is_good
from creekbed.store.sqlite.damage import find
from creekbed.workshop.arrival import photos
from creekbed.workshop.shop import own_values
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.conftest import MORNING, Hand
from tests.faults.day import entries_of, picture


@pytest.fixture
def disk(tmp_path: Path) -> Iterator[Path]:
    """A file system of three megabytes."""
    place = tmp_path / "disk"
    place.mkdir()
    done = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", "size=3m", "tmpfs", str(place)], check=False, capture_output=True
    )
    if done.returncode:
        pytest.skip("no file system may be mounted here; the limit on file size below tries the same")
    yield place
    subprocess.run(["umount", "-l", str(place)], check=True)


def filled(place: Path, leave: int) -> Path:
    """Fill a disk up to so many bytes."""
    path = place / "film"
    free = os.statvfs(place).f_bavail * os.statvfs(place).f_frsize
    with path.open("wb") as file:
        file.write(b"x" * max(free - leave, 0))
    return path


def test_a_full_disk_at_work(disk: Path) -> None:
    clock = HandClock(MORNING)
    shop = Shop(disk / "shop", clock)
    stock.book_in_stock(shop, "soap_ml", 100)
    film = filled(disk, 20_000)
    acknowledged = entries_of(shop)
    problems = []
    for _ in range(40):
        try:
            stock.book_in_stock(shop, "soap_ml", 1)
            acknowledged += 1
        except StoreProblem as problem:
            problems.append(problem.fields["kind"])
    assert set(problems) == {"full"} and problems
    job = Hand(shop, clock)
    for act in (
        lambda: shop.daily_backup(), lambda: photos.add_photo(shop, 1, picture()), lambda: job.book(),
        lambda: own_values.set_house(shop, {("place", "tub", "capacity"): 3}, "three tubs"),
    ):  # fmt: skip
        with pytest.raises(Exception, match=r"full|room|finished"):
            act()
    assert entries_of(shop) == acknowledged and copies_in(disk / "shop" / BACKUPS) == []
    shop.close()
    with contextlib.suppress(StoreProblem):  # opened on the full disk it says so, or works
        Shop(disk / "shop", clock).close()
    film.unlink()
    again = Shop(disk / "shop", clock)
    assert entries_of(again) == acknowledged and find(disk / "shop") == []
    stock.book_in_stock(again, "soap_ml", 1)
    again.close()


def test_a_first_start_on_a_full_disk(disk: Path) -> None:
    film = filled(disk, 30_000)
    with pytest.raises(StoreProblem) as caught:
        Shop(disk / "shop", HandClock(MORNING))
    assert caught.value.fields["kind"] in ("full", "disk")
    film.unlink()
    shop = Shop(disk / "shop", HandClock(MORNING))  # nothing half made stands in the way
    stock.book_in_stock(shop, "soap_ml", 1)
    shop.close()


def test_a_disk_that_is_write_protected(disk: Path) -> None:
    shop = Shop(disk / "shop", HandClock(MORNING))
    stock.book_in_stock(shop, "soap_ml", 1)
    before = entries_of(shop)
    shop.close()
    subprocess.run(["mount", "-o", "remount,ro", str(disk)], check=True)
    with pytest.raises(StoreProblem) as caught:
        Shop(disk / "shop", HandClock(MORNING))
    assert caught.value.fields["kind"] == "read_only" and "write-protected" in caught.value.todo
    subprocess.run(["mount", "-o", "remount,rw", str(disk)], check=True)
    shop = Shop(disk / "shop", HandClock(MORNING))
    assert entries_of(shop) == before
    shop.close()


def test_a_disk_with_no_room_for_a_second_copy(disk: Path) -> None:
    clock = HandClock(MORNING)
    shop = Shop(disk / "shop", clock)
    for _ in range(30):
        stock.book_in_stock(shop, "soap_ml", 1)
    with pytest.raises(StoreProblem) as caught:
        shop.daily_backup()  # it would leave less than is spared
    assert caught.value.fields["kind"] == "no_room" and not shop.backup_due()
    clock.advance(minutes=30)
    assert shop.backup_due()
    shop.close()


def test_files_that_may_not_grow(tmp_path: Path) -> None:
    """The same by a limit on the size of files, which any user can set for a process of their own."""
    clock = HandClock(MORNING)
    shop = Shop(tmp_path / "shop", clock)
    stock.book_in_stock(shop, "soap_ml", 100)
    shop.close()
    mine, theirs = os.pipe()
    child = os.fork()
    if child == 0:
        told, done = [], 0
        with contextlib.suppress(BaseException):
            shop = Shop(tmp_path / "shop", clock)
            resource.setrlimit(resource.RLIMIT_FSIZE, (60_000, resource.RLIM_INFINITY))
            for _ in range(60):
                try:
                    stock.book_in_stock(shop, "soap_ml", 1)
                    done += 1
                except StoreProblem as problem:
                    told.append(problem.fields["kind"])
        os.write(theirs, f"{done} {' '.join(sorted(set(told)))}".encode())
        os._exit(0)
    os.close(theirs)
    with os.fdopen(mine) as pipe:
        done, *kinds = pipe.read().split()
    os.waitpid(child, 0)
    assert kinds and set(kinds) <= {"full", "disk"}
    shop = Shop(tmp_path / "shop", clock)
    assert entries_of(shop) == 1 + int(done) and find(shop.folder) == []
    assert shop.daily_backup() is not None
    assert all(is_good(p) for p in copies_in(shop.folder / BACKUPS))
    shop.close()
