"""Opening a folder in whatever state it is: a new shop only where nothing is, and words for everything else."""

from __future__ import annotations

import errno
import os
import sqlite3
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.errors import StoreProblem
from creekbed.store.layout import BACKUPS, FILE, WITNESS
from creekbed.store.problems import CODES, WORDS, from_error
from creekbed.store.sqlite.backup import back_up
from creekbed.store.sqlite.checking import examine
from creekbed.store.sqlite.copies import go_on_without, set_aside_empty
from creekbed.store.sqlite.database import open_engine
from creekbed.store.witness import SLOT, Witness, WitnessedEntry
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from tests.conftest import MORNING


def kind_of(folder: Path) -> str:
    with pytest.raises(StoreProblem) as caught:
        open_engine(folder, busy_ms=50)
    error = caught.value
    assert error.happened and error.safe and error.todo
    assert "{" not in error.words() and "…" not in error.words(), error.words()
    return str(error.fields["kind"])


def worked(folder: Path, actions: int = 3) -> None:
    shop = Shop(folder, HandClock(MORNING))
    for n in range(actions):
        with shop.act("x") as act:
            act.words = f"action {n}"
    shop.close()


def emptied(folder: Path) -> None:
    (folder / FILE).write_bytes(b"")


def gone(folder: Path) -> None:
    (folder / FILE).unlink()


def tables_gone(folder: Path) -> None:
    (folder / FILE).unlink()
    sqlite3.connect(folder / FILE).executescript("CREATE TABLE x (y); DROP TABLE x; VACUUM;").close()


def without(table: str) -> Callable[[Path], None]:
    def change(folder: Path) -> None:
        with sqlite3.connect(folder / FILE) as file:
            file.execute(f"DROP TABLE {table}")

    return change


def version(text: str | None) -> Callable[[Path], None]:
    def change(folder: Path) -> None:
        with sqlite3.connect(folder / FILE) as file:
            file.execute("DELETE FROM alembic_version")
            if text is not None:
                file.execute("INSERT INTO alembic_version VALUES (?)", (text,))

    return change


def a_folder(folder: Path) -> None:
    (folder / FILE).unlink()
    (folder / FILE).mkdir()


def a_dangling_link(folder: Path) -> None:
    (folder / FILE).unlink()
    (folder / FILE).symlink_to(folder / "nowhere")


def a_pipe(folder: Path) -> None:
    (folder / FILE).unlink()
    os.mkfifo(folder / FILE)


STATES: list[tuple[Callable[[Path], None], str]] = [
    (emptied, "damaged"), (gone, "missing"), (tables_gone, "damaged"), (without("hire"), "damaged"),
    (without("journal"), "damaged"), (version(None), "damaged"), (version(""), "damaged"), (version("zzz"), "damaged"),
    (version("0999"), "newer"), (a_folder, "not_a_file"), (a_dangling_link, "not_a_file"), (a_pipe, "not_a_file"),
]  # fmt: skip


@pytest.mark.parametrize(("change", "kind"), STATES)
def test_records_that_are_not_as_they_were(tmp_path: Path, change: Callable[[Path], None], kind: str) -> None:
    worked(tmp_path)
    change(tmp_path)
    before = (tmp_path / FILE).read_bytes() if (tmp_path / FILE).is_file() else None
    assert kind_of(tmp_path) == kind
    assert ((tmp_path / FILE).read_bytes() if (tmp_path / FILE).is_file() else None) == before
    assert Witness(tmp_path).read() is not None


def test_an_empty_file_with_nothing_beside_it_is_no_new_shop_until_somebody_says_so(tmp_path: Path) -> None:
    (tmp_path / FILE).touch()
    assert kind_of(tmp_path) == "empty"
    aside = set_aside_empty(tmp_path)
    assert aside is not None and (aside / FILE).exists()
    assert kind_of(tmp_path) == "missing"  # what was put aside tells of it


def test_a_folder_of_other_things_becomes_a_new_shop(tmp_path: Path) -> None:
    (tmp_path / "notes.txt").write_text("mine")
    (tmp_path / "demo").mkdir()
    open_engine(tmp_path).dispose()
    assert (tmp_path / "notes.txt").read_text() == "mine" and examine(tmp_path / FILE).whole


@pytest.mark.parametrize("name", ["backups", "photos", "catalogue", "in-use"])
def test_strange_things_beside_the_records(tmp_path: Path, name: str) -> None:
    (tmp_path / name).write_text("a file where a folder should be")
    try:
        Shop(tmp_path, HandClock(MORNING)).close()
    except StoreProblem as problem:
        assert problem.todo


def test_strange_names_among_the_backups(tmp_path: Path) -> None:
    worked(tmp_path)
    for name in ("holiday.sqlite3", "2026-daily.sqlite3", "20261119T090000000000Z-daily", "x.part"):
        (tmp_path / BACKUPS / name).mkdir(parents=True)
    Shop(tmp_path, HandClock(MORNING)).close()
    back_up(tmp_path, "daily")


def test_the_folder_itself(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    assert kind_of(tmp_path / "file") == "not_a_folder"
    assert kind_of(tmp_path / "file" / "below") == "not_a_folder"
    (tmp_path / "loop").symlink_to(tmp_path / "loop")
    assert kind_of(tmp_path / "loop") in ("unreachable", "not_a_folder")


def test_records_that_went_back_in_time_are_noticed(tmp_path: Path) -> None:
    worked(tmp_path, 5)
    old = (tmp_path / FILE).read_bytes()
    worked(tmp_path, 60)
    (tmp_path / FILE).write_bytes(old)
    with pytest.raises(StoreProblem, match="60 actions that were on record are missing") as caught:
        open_engine(tmp_path)
    assert caught.value.fields["kind"] == "rolled_back" and caught.value.fields["count"] == 60
    assert go_on_without(tmp_path) == 60
    worked(tmp_path, 1)  # and it works on from there
    assert examine(tmp_path / FILE).entries == 6


def test_a_lost_log_is_noticed(tmp_path: Path) -> None:
    worked(tmp_path, 3)
    shop = Shop(tmp_path, HandClock(MORNING))
    for n in range(7):
        with shop.act("x") as act:
            act.words = f"in the log {n}"
    copy = tmp_path.parent / f"{tmp_path.name}-copy"
    copy.mkdir()
    for name in (FILE, WITNESS):  # somebody copies the records without their log
        (copy / name).write_bytes((tmp_path / name).read_bytes())
    shop.close()
    with pytest.raises(StoreProblem, match="7 actions"):
        open_engine(copy)


def test_another_story_of_the_same_length_is_noticed(tmp_path: Path) -> None:
    worked(tmp_path / "one", 4)
    shop = Shop(tmp_path / "other", HandClock(MORNING))
    with shop.act("x") as act:
        act.words = "another beginning"
    shop.close()
    worked(tmp_path / "other", 2)
    shop = Shop(tmp_path / "other", HandClock(MORNING))
    shop.undo()
    shop.close()
    (tmp_path / "one" / FILE).write_bytes((tmp_path / "other" / FILE).read_bytes())
    assert kind_of(tmp_path / "one") == "rolled_back"


def test_without_a_witness_the_newest_copy_tells(tmp_path: Path) -> None:
    worked(tmp_path, 2)
    old = (tmp_path / FILE).read_bytes()
    worked(tmp_path, 9)
    back_up(tmp_path, "daily")
    (tmp_path / FILE).write_bytes(old)
    (tmp_path / WITNESS).unlink()
    assert kind_of(tmp_path) == "rolled_back"


@given(st.binary(max_size=2 * SLOT), st.integers(0, 2 * SLOT))
def test_a_torn_witness_is_not_believed(tmp_path_factory: pytest.TempPathFactory, rubbish: bytes, at: int) -> None:
    folder = tmp_path_factory.mktemp("witness")
    witness = Witness(folder)
    for n in (1, 2, 3):
        witness.note(WitnessedEntry(n, f"{n:064x}"))
    content = bytearray(witness.path.read_bytes())
    content[at : at + len(rubbish)] = rubbish
    witness.path.write_bytes(bytes(content))
    seen = witness.read()
    assert seen is None or (seen.number in (1, 2, 3) and seen.chain == f"{seen.number:064x}")


def test_a_witness_never_goes_back_by_itself(tmp_path: Path) -> None:
    witness = Witness(tmp_path)
    for n in (5, 3, 9, 8, 7):
        witness.note(WitnessedEntry(n, "a"))
    assert witness.read() == WitnessedEntry(9, "a")
    witness.note(WitnessedEntry(2, "b"), anew=True)
    assert witness.read() == WitnessedEntry(2, "b")


@pytest.mark.parametrize("umask", [0o000, 0o077, 0o777])
def test_private_whatever_the_umask(tmp_path: Path, umask: int) -> None:
    folder = tmp_path / "a" / "b"
    before = os.umask(umask)
    try:
        worked(folder)
        back_up(folder, "daily")
    finally:
        os.umask(before)
    for path in (tmp_path / "a", folder, *folder.rglob("*")):
        assert path.stat().st_mode & 0o777 == (0o700 if path.is_dir() else 0o600), path


def test_words_for_what_the_disk_says(tmp_path: Path) -> None:
    for code, kind in ((errno.ENOSPC, "full"), (errno.EROFS, "read_only"), (errno.EIO, "disk")):
        problem = from_error(OSError(code, os.strerror(code)), tmp_path)
        assert problem.fields["kind"] == kind
    for code, kind in CODES.items():
        error = sqlite3.OperationalError("x")
        error.sqlite_errorcode = code | (3 << 8)  # an extended code of it
        assert from_error(error, tmp_path).fields["kind"] == kind in WORDS
    strange = sqlite3.OperationalError("no such function: gong")
    assert from_error(strange, tmp_path).fields["kind"] == "unexpected"  # and not “damaged”
