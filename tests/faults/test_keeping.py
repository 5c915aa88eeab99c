"""Nothing is lost around the records: the demo keeps to its own folder, exports replace nothing, renters can go."""

from __future__ import annotations

import json
import os
import resource
import sqlite3
import subprocess
import sys
from io import BytesIO
from pathlib import Path
from typing import Any

import pytest
from PIL import Image
from sqlalchemy import text

from creekbed.cli.main import main
from creekbed.core.errors import BadInput, Refused
from creekbed.demo.folder import MARKER, is_demo, is_made, reset
from creekbed.demo.seed import make_demo
from creekbed.store.journal import dump, replay
from creekbed.store.layout import FILE
from creekbed.store.photos import PhotoStore, clean
from creekbed.store.records import Hire
from creekbed.store.sqlite.backup import back_up
from creekbed.store.sqlite.copies import find, restore
from creekbed.store.sqlite.damage import find as damages
from creekbed.workshop.arrival import intake, photos
from creekbed.workshop.inspection.history import history
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.privacy import UNDO_TIME, erase_renter, sweep_files
from creekbed.workshop.shop.shop import Shop
from tests.conftest import MORNING, Hand


def run(capsys: Any, *arguments: str) -> tuple[int, str, str]:
    status = main(arguments)
    out, err = capsys.readouterr()
    return status, out, err


def seen(folder: Path) -> dict[str, bytes]:
    """What lies in a folder; SQLite's own index of its log comes and goes."""
    files = [p for p in folder.rglob("*") if p.is_file() and not p.name.endswith(("-shm", "-wal"))]
    return {str(p.relative_to(folder)): p.read_bytes() for p in files}


def later() -> HandClock:
    """The clock an hour on."""
    clock = HandClock(MORNING)
    clock.advance(hours=1)
    return clock


@pytest.fixture
def real(tmp_path: Path) -> Path:
    """A shop that is no demo."""
    shop = Shop(tmp_path / "real", HandClock(MORNING))
    intake.book_in(shop, "MH-0142", family="violin")
    shop.close()
    back_up(tmp_path / "real", "daily")
    return tmp_path / "real"


# --- the demo -------------------------------------------------------------------------------------------------------


def test_the_demo_does_not_move_into_a_real_shop(capsys: Any, real: Path) -> None:
    before = seen(real)
    for arguments in (["plan"], ["demo", "--reset", "--offscreen", "--quit-when-shown"], ["history", "MH-0142"]):
        status, out, err = run(capsys, "--demo", "--folder", str(real), *arguments)
        assert (status, out) == (1, "") and "not touched" in err and "Traceback" not in err
    for call in (reset, lambda folder: make_demo(folder, MORNING)):
        with pytest.raises(Refused, match="not touched"):
            call(real)
    assert seen(real) == before


def test_a_mark_alone_makes_no_demo_of_a_real_shop(capsys: Any, real: Path) -> None:
    """An earlier version wrote its mark into whatever folder it was pointed at."""
    (real / MARKER).write_text('{"offset_seconds": 0, "began": "2026-11-19T11:52:00+00:00"}')
    before = seen(real)
    assert not is_demo(real)
    status, _, err = run(capsys, "--demo", "--folder", str(real), "plan")
    assert status == 1 and "not touched" in err and seen(real) == before


def test_a_reset_takes_away_only_what_the_demo_made(demo_folder: Path) -> None:
    (demo_folder / "notes.txt").write_text("mine")
    (demo_folder / "catalogue" / "families").mkdir(parents=True)
    (demo_folder / "catalogue" / "families" / "own.toml").write_text("# mine")
    back_up(demo_folder, "daily")
    reset(demo_folder)
    assert sorted(seen(demo_folder)) == ["catalogue/families/own.toml", "notes.txt"]


def test_a_demo_of_an_earlier_version_is_known_by_its_journal(demo_folder: Path) -> None:
    (demo_folder / MARKER).write_text('{"offset_seconds": 0, "began": "2026-11-19T11:52:00+00:00"}')
    assert is_made(demo_folder)
    reset(demo_folder)
    assert not demo_folder.exists()


# --- exports --------------------------------------------------------------------------------------------------------


def test_an_export_replaces_nothing_that_is_not_its_own(capsys: Any, real: Path, tmp_path: Path) -> None:
    export = ("--folder", str(real), "export", "--to")
    letter = tmp_path / "letter.json"
    letter.write_text('{"dear": "aunt"}')
    link, pipe, place = tmp_path / "link", tmp_path / "pipe", tmp_path / "place"
    link.symlink_to(letter)
    os.mkfifo(pipe)
    place.mkdir()
    for target in (letter, link, pipe, place, Path("/dev/null"), tmp_path / "dangling"):
        if target.name == "dangling":
            target.symlink_to(tmp_path / "nowhere")
        status, _, err = run(capsys, *export, str(target), "--replace")
        assert status == 1 and err.strip(), target
    assert letter.read_text() == '{"dear": "aunt"}' and link.is_symlink() and not (tmp_path / "nowhere").exists()
    fresh = tmp_path / "out.json"
    assert run(capsys, *export, str(fresh))[0] == 0
    assert "there already" in run(capsys, *export, str(fresh))[2]
    assert run(capsys, *export, str(fresh), "--replace")[0] == 0
    assert json.loads(fresh.read_text())["format"] == "creekbed-export-2"
    mode = tmp_path.stat().st_mode
    assert run(capsys, *export, str(place / "x.json"))[0] == 0 and tmp_path.stat().st_mode == mode


def test_csv_goes_into_a_folder_of_its_own(capsys: Any, real: Path, tmp_path: Path) -> None:
    export = ("--folder", str(real), "export", "--csv", "--to")
    (tmp_path / "home").mkdir()
    (tmp_path / "home" / "thesis.txt").write_text("x")
    status, _, err = run(capsys, *export, str(tmp_path / "home"), "--replace")
    assert status == 1 and "thesis.txt" in err
    assert run(capsys, *export, str(tmp_path / "csv"))[0] == 0
    assert run(capsys, *export, str(tmp_path / "csv"))[0] == 1
    assert run(capsys, *export, str(tmp_path / "csv"), "--replace")[0] == 0
    assert run(capsys, *export, str(tmp_path / "home" / "thesis.txt"))[0] == 1


# --- the shell ------------------------------------------------------------------------------------------------------


def test_copies_and_going_back_from_a_shell(capsys: Any, real: Path) -> None:
    status, out, _ = run(capsys, "--folder", str(real), "copies")
    assert status == 0 and "whole" in out and "Nothing that is on record now would be missing" in out
    shop = Shop(real, later())
    intake.book_in(shop, "MH-0300", family="violin")
    status, _, err = run(capsys, "--folder", str(real), "restore")
    assert status == 1 and "open elsewhere" in err
    shop.close()
    rows = json.loads(run(capsys, "--folder", str(real), "copies", "--json")[1])["copies"]
    assert rows[0]["actions_lost"] == 1 and rows[0]["whole"] is True
    status, out, _ = run(capsys, "--folder", str(real), "restore", rows[0]["name"])
    assert status == 0 and "kept as" in out
    assert len(json.loads(run(capsys, "--folder", str(real), "copies", "--json")[1])["copies"]) == 2
    assert run(capsys, "--folder", str(real), "restore", "gong")[0] == 1
    status, out, _ = run(capsys, "--folder", str(real), "backup")
    assert status == 0 and "read back" in out
    assert run(capsys, "--folder", str(real), "examine")[:2] == (0, "All of it is as it was written.\n")
    with sqlite3.connect(real / FILE) as file:
        file.execute("UPDATE job SET came_from = 'x'")
    status, out, _ = run(capsys, "--folder", str(real), "examine")
    assert status == 1 and "Job 1 (MH-0142)" in out
    assert run(capsys, "--folder", str(real), "examine", "--put-back")[0] == 0
    assert run(capsys, "--folder", str(real), "examine")[0] == 0
    assert run(capsys, "--folder", str(real / "nowhere"), "copies")[0] == 1
    assert not (real / "nowhere").exists()
    assert run(capsys, "--folder", str(real), "copies", "--forget-aside", "30")[1] == "Nothing is that old.\n"


def test_missing_actions_in_a_shell(capsys: Any, real: Path) -> None:
    old = (real / FILE).read_bytes()
    shop = Shop(real, later())
    intake.book_in(shop, "MH-0300", family="violin")
    shop.close()
    (real / FILE).write_bytes(old)
    status, out, err = run(capsys, "--folder", str(real), "plan")
    assert status == 1 and out == "" and "One action" in err and len(err.strip().splitlines()) == 1
    assert "Going on without 1" in run(capsys, "--folder", str(real), "go-on")[1]
    assert run(capsys, "--folder", str(real), "plan")[0] == 0


@pytest.mark.parametrize("what", ["a file", "a dangling link", "a folder for a file", "a version nobody knows"])
def test_a_shell_says_in_one_line_what_is_wrong(capsys: Any, real: Path, tmp_path: Path, what: str) -> None:
    folder = real
    if what == "a file":
        folder = real / FILE
    elif what == "a dangling link":
        folder = tmp_path / "link"
        folder.symlink_to(tmp_path / "nowhere")
    elif what == "a folder for a file":
        (real / FILE).unlink()
        (real / FILE).mkdir()
    else:
        with sqlite3.connect(real / FILE) as file:
            file.execute("UPDATE alembic_version SET version_num = 'gong'")
    status, out, err = run(capsys, "--folder", str(folder), "plan")
    assert status == 1 and out == "" and len(err.strip().splitlines()) == 1 and "Traceback" not in err, err


# --- privacy --------------------------------------------------------------------------------------------------------


def test_a_renter_is_erased_from_rows_journal_and_file(shop: Shop, hand: Hand, hired: Any) -> None:
    hired("MH-0142")
    with shop.reading() as session:
        code = session.all_of(Hire)[0].renter
    with pytest.raises(Refused, match="is out with this renter"):
        erase_renter(shop, code)
    job = hand.book("MH-0142")
    hand.until(job, "look")
    raw = b"".join(p.read_bytes() for p in shop.folder.glob(f"{FILE}*"))
    assert code.encode() in raw
    done = erase_renter(shop, code)
    assert done.places == 2 and done.entries >= 2 and "copies" in done.words.lower()
    found = history(shop, "MH-0142")
    assert found.periods[0].hire is not None and found.periods[0].hire.renter == "erased"
    assert damages(shop.folder) == []  # the chain holds, and rows are as the journal says
    with shop.reading() as session:
        entries = session.journal.all_changes()
        assert replay(entries) == dump(session.connection)
    raw = b"".join(p.read_bytes() for p in shop.folder.glob(f"{FILE}*"))
    assert code.encode() not in raw  # nor is it left in the file's free places
    shop.undo()  # what was done before can still be taken back
    with pytest.raises(Refused, match="nowhere"):
        erase_renter(shop, code)
    for wrong in ("", "x", "erased", "R" * 100):
        with pytest.raises((BadInput, Refused)):
            erase_renter(shop, wrong)
    with pytest.raises(Exception, match="append-only"), shop.store.engine.begin() as connection:
        connection.execute(text("UPDATE journal SET words = 'x'"))


def picture() -> bytes:
    out = BytesIO()
    Image.new("RGB", (60, 40), "red").save(out, "JPEG")
    return out.getvalue()


def test_a_photograph_taken_back_leaves_the_disk_after_its_undo_time(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    view = photos.add_photo(shop, job, picture())
    path = PhotoStore(shop.folder).path(view.name)
    made = back_up(shop.folder, "daily", now=MORNING)
    photos.remove_photo(shop, view.id)
    assert photos.photos_of(shop, job) == [] and sweep_files(shop) == 0 and path.exists()
    shop.undo()
    assert len(photos.photos_of(shop, job)) == 1
    photos.remove_photo(shop, view.id)
    long_ago = path.stat().st_mtime - UNDO_TIME.total_seconds() - 60
    for file in path.parent.iterdir():
        os.utime(file, (long_ago, long_ago))
    assert sweep_files(shop) == 1 and not path.exists()
    with pytest.raises(Refused, match="left the disk"):
        shop.undo()
    assert (shop.folder / "backups" / "photos" / path.parent.name / path.name).exists()  # with that copy's age
    shop.close()
    restore(shop.folder, find(shop.folder, made.name))
    assert path.exists()


# --- limits ---------------------------------------------------------------------------------------------------------

BOMB = """
import resource, sys
resource.setrlimit(resource.RLIMIT_AS, (900_000_000, 900_000_000))
from creekbed.core.errors import BadInput
from creekbed.store.photos import clean
try:
    print(clean(sys.stdin.buffer.read()).width)
except BadInput as error:
    print(error.happened)
print(next(line.split()[1] for line in open("/proc/self/status") if line.startswith("VmHWM")))  # since it began
"""


@pytest.mark.parametrize(("side", "read"), [(12_000, False), (5_000, True)])
def test_a_small_file_that_is_a_huge_picture(side: int, read: bool) -> None:
    out = BytesIO()
    Image.new("1", (side, side)).save(out, "PNG")
    assert len(out.getvalue()) < 700_000
    done = subprocess.run([sys.executable, "-c", BOMB], input=out.getvalue(), capture_output=True, check=False)
    answer, peak = done.stdout.decode().strip().splitlines()
    assert (answer == str(side)) if read else ("more than a photograph" in answer), done.stderr
    assert int(peak) < 500_000, f"{int(peak) / 1000:.0f} MB"
    assert resource.getrlimit(resource.RLIMIT_AS)[0] == resource.RLIM_INFINITY


def test_an_ordinary_picture_still_passes() -> None:
    assert clean(picture()).width == 60
