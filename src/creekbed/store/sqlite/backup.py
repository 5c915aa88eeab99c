"""Copies of the whole shop: published only when they are proven whole, and never fewer good ones because bad ones came.

A copy is a folder ``backups/<time>-<why>/`` with the records, the shop's own families and values, and ``about.json``,
which says what it holds. Photographs and sounds never change and are named by their contents; all copies share
``backups/photos/`` and ``backups/sounds/``, which hold those that a copy speaks of.
"""

from __future__ import annotations

import contextlib
import fcntl
import hashlib
import json
import os
import shutil
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path
from urllib.parse import quote

from creekbed.core.errors import BadInput
from creekbed.core.progress import Progress, untold
from creekbed.store.files import (
    PART,
    clear_litter,
    create_private,
    free_bytes,
    open_private,
    part_of,
    private_folder,
    sync_file,
    sync_folder,
    write_whole,
)
from creekbed.store.layout import ABOUT, BACKUPS, CATALOGUE, FILE, KEPT_FILES, LOGS
from creekbed.store.problems import CANNOT_READ, from_error, problem
from creekbed.store.retention import DAYS, kept
from creekbed.store.sqlite.checking import Facts, examine, last_entry
from creekbed.store.sqlite.reading import reading
from creekbed.store.witness import Witness

SPARE_BYTES = 8_000_000
"""Room that a copy leaves on the disk: house default."""
LARGEST_OWN = 4_000_000
"""A file among the shop's own families and values that is larger is not copied, bytes."""
PAGES_AT_ONCE = 2000
COPIED = 0.5
"""Share of the work that is done when all is copied; the rest is reading it back."""
GIVEN_UP = "Given up; no copy was made."
STAMP = "%Y%m%dT%H%M%S%fZ"


@contextmanager
def _one_at_a_time(folder: Path) -> Iterator[None]:
    """Two that copy at once wait for each other; what an interrupted one left is cleared by the next."""
    handle = open_private(folder / "making")
    try:
        fcntl.flock(handle, fcntl.LOCK_EX)
        clear_litter(folder, older_s=0.0)
        yield None
    finally:
        os.close(handle)


def back_up(folder: Path, why: str, *, now: datetime | None = None, progress: Progress = untold) -> Path:
    """Copy the whole shop, consistent while in use, to a folder of its own in ``backups/``.

    Args:
        why: "daily", "before-migration" or the like: letters and hyphens. now: its time; the computer's if not given.
        progress: told the share that is done; false gives up.

    Returns:
        The copy's folder. It is there only when all of it is on disk and proven whole.

    Raises:
        StoreProblem: there is no room, the copy cannot be made, or the records are damaged. BadInput: given up. No copy
            is published then, and none of those that are there is touched.
    """
    at = (now or datetime.now(UTC)).astimezone(UTC)
    try:
        backups = private_folder(folder / BACKUPS)
        with _one_at_a_time(backups):
            while (target := backups / f"{at.strftime(STAMP)}-{why}").exists():
                at += timedelta(microseconds=1)
            part = part_of(target)
            try:
                facts = _fill(folder, private_folder(part), progress)
                _mirror_all(folder, backups, part / FILE)
                _describe(part, facts, at.strftime(STAMP), why)
                os.rename(part, target)
                sync_folder(backups)
            finally:
                shutil.rmtree(part, ignore_errors=True)
            prune(folder)
    except (*CANNOT_READ, OSError) as error:
        raise from_error(error, folder) from error
    return target


def _fill(folder: Path, part: Path, progress: Progress) -> Facts:
    """Copy records and own files into a folder, and prove them whole."""
    size = sum(p.stat().st_size for p in (folder / FILE, folder / (FILE + LOGS[0])) if p.exists())
    if free_bytes(part) < size + SPARE_BYTES:
        raise problem(
            "no_room", folder, what=f"a copy takes {size / 1e6:.1f} MB, and {SPARE_BYTES / 1e6:.0f} MB must be left"
        )
    copy = part / FILE
    name = f"file:{quote(str(folder / FILE))}?mode=rw"
    with contextlib.closing(sqlite3.connect(name, uri=True, timeout=5.0, isolation_level=None)) as source:
        least, _, _ = last_entry(source)
        known = Witness(folder).read()
        os.close(create_private(copy))
        with contextlib.closing(sqlite3.connect(copy, isolation_level=None)) as target:
            source.execute("BEGIN")  # one state throughout, whatever others write meanwhile
            source.execute("SELECT count(*) FROM sqlite_master").fetchone()
            source.backup(target, pages=PAGES_AT_ONCE, progress=_telling(progress))
            source.execute("COMMIT")
            target.execute("PRAGMA journal_mode=DELETE")  # one file, without a log
    if not progress(COPIED):
        raise BadInput(GIVEN_UP)
    facts = examine(copy)
    if not facts.whole:
        raise problem("damaged", folder, what=facts.wrong)
    least = max(least, known.number if known is not None else 0)
    if facts.entries < least:
        raise problem("damaged", folder, what=f"{least - facts.entries} actions are missing from a copy of it")
    sync_file(copy)
    copy_own(folder / CATALOGUE, part / CATALOGUE)
    return facts


def _telling(progress: Progress) -> Callable[[int, int, int], None]:
    """Progress as SQLite reports it: pages that are left, of all."""

    def tell(status: int, left: int, pages: int) -> None:
        if not progress(COPIED * (1 - left / max(pages, 1))):
            raise BadInput(GIVEN_UP)

    return tell


def copy_own(source: Path, target: Path) -> None:
    """Copy the shop's own families and values, ordinary files only."""
    for path in sorted(source.rglob("*.toml")):
        if path.is_file() and not path.is_symlink() and path.stat().st_size <= LARGEST_OWN:
            write_whole(target / path.relative_to(source), path.read_bytes())


def _describe(part: Path, facts: Facts, stamp: str, why: str) -> None:
    about = {
        "format": "creekbed-copy-1", "made_at": stamp, "why": why, "revision": facts.revision,
        "entries": facts.entries, "chain": facts.chain, "jobs": facts.jobs, "instruments": facts.instruments,
        "last_at": facts.last_at.isoformat() if facts.last_at is not None else None,
        "sha256": sha256_of(part / FILE),
    }  # fmt: skip
    write_whole(part / ABOUT, json.dumps(about, indent=1).encode())


def sha256_of(path: Path) -> str:
    """The SHA-256 of a file, hex.

    Raises:
        OSError: it cannot be read.
    """
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def prune(folder: Path) -> list[Path]:
    """Remove copies by their age (:func:`creekbed.store.retention.kept`), and files that no copy names any more.

    A copy that is not whole does not count; it is removed when it is older than a week of good ones.

    Returns:
        What was removed.
    """
    copies = copies_in(folder / BACKUPS)
    good = [p for p in copies if is_good(p)]
    stay = kept([t for p in good if (t := time_of(p)) is not None])
    days = sorted({t.date() for p in good if (t := time_of(p)) is not None})
    removed = [p for p in good if time_of(p) not in stay]
    if len(days) >= DAYS:
        bad = (p for p in copies if p not in good)
        removed += [p for p in bad if (t := time_of(p)) is not None and t.date() < days[-DAYS]]
    for path in removed:
        if path.is_dir():
            shutil.rmtree(path)
        else:
            path.unlink()
    for place, table, ending in KEPT_FILES:
        named: set[str] = set()
        for path in copies:
            if path not in removed:
                try:
                    named |= files_named(records_of(path), table)
                except CANNOT_READ:
                    return removed  # it may speak of any of them
        for file in (folder / BACKUPS / place).glob(f"??/*{ending}"):
            if file.name.split(".")[0] not in named:
                file.unlink(missing_ok=True)
    return removed


def copies_in(folder: Path) -> list[Path]:
    """The copies in a folder, oldest first; what has another name than a copy's is passed over."""
    try:
        found = [p for p in folder.iterdir() if time_of(p) is not None and PART not in p.name]
    except OSError:
        return []
    whole = [p for p in found if (p.is_dir() and (p / FILE).is_file()) or (p.suffix == ".sqlite3" and p.is_file())]
    return sorted(whole, key=lambda p: p.name)


def records_of(copy: Path) -> Path:
    """The records' file of a copy; copies of earlier versions are that file itself."""
    return copy / FILE if copy.is_dir() else copy


def time_of(copy: Path) -> datetime | None:
    """When a copy was made, from its name; ``None`` where that is not a copy's name."""
    try:
        return datetime.strptime(copy.name.split("-")[0], STAMP).replace(tzinfo=UTC)
    except ValueError:
        return None


def is_good(copy: Path) -> bool:
    """Whether a copy was proven whole when it was made; one of an earlier version is looked at."""
    if copy.is_dir():
        return (copy / ABOUT).is_file()
    return examine(copy, still=True).whole


_NAMES = {"photo": "SELECT name FROM photo", "recording": "SELECT name FROM recording"}


def files_named(records: Path, table: str) -> set[str]:
    """Names of the files that a copy's records speak of.

    Args:
        table: of :data:`creekbed.store.layout.KEPT_FILES`; a copy of an earlier version may not have it.

    Raises:
        sqlite3.Error: they cannot be read.
    """
    with reading(records, still=True) as connection:
        asked = "SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = ?"
        there = connection.execute(asked, (table,)).fetchone()
        return {str(row[0]) for row in connection.execute(_NAMES[table])} if there else set()


def _mirror_all(folder: Path, backups: Path, records: Path) -> None:
    for place, table, ending in KEPT_FILES:
        mirror(folder / place, backups / place, files_named(records, table), ending=ending)


def mirror(source: Path, target: Path, names: set[str] | None = None, *, ending: str) -> int:
    """Put files that are missing in ``target`` there: by a second name for the same file where the disk can.

    They never change, so that what is there already is left alone.

    Args:
        names: which are wanted; all if not given. ending: of their names, with its dot.

    Returns:
        How many were missing.

    Raises:
        OSError: one cannot be put there.
    """
    made = 0
    for path in sorted(source.glob(f"??/*{ending}")):
        there = target / path.relative_to(source)
        if there.exists() or (names is not None and path.name.split(".")[0] not in names):
            continue
        private_folder(there.parent)
        part = part_of(there)
        try:
            try:
                os.link(path, part)
            except OSError:  # a disk without second names
                with os.fdopen(create_private(part), "wb") as to, path.open("rb") as out:
                    shutil.copyfileobj(out, to)
                    to.flush()
                    os.fsync(to.fileno())
            os.replace(part, there)
        finally:
            part.unlink(missing_ok=True)
        made += 1
    return made


def newest(folder: Path) -> Path | None:
    """The newest copy that was proven whole, or ``None``."""
    return next((p for p in reversed(copies_in(folder / BACKUPS)) if is_good(p)), None)


def made_on(folder: Path, now: datetime, why: str = "daily") -> bool:
    """Whether a good copy of some kind was made on the local day of ``now``."""
    day = now.astimezone().date()
    for copy in reversed(copies_in(folder / BACKUPS)):
        at = time_of(copy)
        kind = copy.name.partition("-")[2].removesuffix(".sqlite3")
        if at is not None and at.astimezone().date() == day and kind == why and is_good(copy):
            return True
    return False
