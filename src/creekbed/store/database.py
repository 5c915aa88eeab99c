"""Opening the records safely: first start, migration with backup, and every way it can go wrong, in words."""

from __future__ import annotations

import contextlib
import os
import shutil
import sqlite3
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, event
from sqlalchemy.engine import URL

from creekbed.core.errors import StoreProblem

FILE = "records.sqlite3"
BACKUPS = "backups"
PHOTOS = "photos"
HEAD = "0006"
"""Newest revision this program knows; a test compares it with the migration scripts."""
KEEP_BACKUPS = 14
BUSY_MS = 2000


def open_engine(folder: Path, *, busy_ms: int = BUSY_MS) -> Engine:
    """Open the records in a data folder, making or migrating them where needed.

    Args:
        folder: the data folder; made when missing, readable by its owner only.
        busy_ms: how long to wait for another program that holds the file.

    Returns:
        An engine with WAL, full synchronous writes and foreign keys on.

    Raises:
        StoreProblem: ``kind`` is missing, locked, read_only, newer, damaged or full.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    except OSError as error:
        raise _problem("read_only", folder, error) from error
    path = folder / FILE
    new = not path.exists()
    if new and latest_backup(folder) is not None:
        raise _problem("missing", folder, None)
    if new:
        _create_private(path)
    revision = None if new else _revision(path, folder, busy_ms)
    engine = _engine(path, busy_ms)
    if revision != HEAD:
        try:
            if not new:
                back_up(folder, "before-migration")
            migrate(engine)
        except Exception:
            engine.dispose()
            if new:
                path.unlink(missing_ok=True)
            raise
    for leftover in (path, path.with_name(FILE + "-wal"), path.with_name(FILE + "-shm")):
        with contextlib.suppress(FileNotFoundError, PermissionError):
            if leftover.stat().st_mode & 0o077:
                leftover.chmod(0o600)
    return engine


def _create_private(path: Path) -> None:
    try:
        os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))
    except FileExistsError:
        return
    except OSError as error:
        raise _problem("read_only", path.parent, error) from error


def _engine(path: Path, busy_ms: int) -> Engine:
    engine = create_engine(URL.create("sqlite", database=str(path)), connect_args={"timeout": busy_ms / 1000})

    @event.listens_for(engine, "connect")
    def _connect(connection: Any, record: Any) -> None:
        connection.isolation_level = None  # transactions are begun below, not guessed by the driver
        for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def _begin(connection: Any) -> None:
        write = connection.get_execution_options().get("write", False)
        connection.exec_driver_sql("BEGIN IMMEDIATE" if write else "BEGIN")

    return engine


def _revision(path: Path, folder: Path, busy_ms: int) -> str | None:
    """Revision of an existing file, after proving that it can be written; ``None`` for an empty one."""
    try:
        with contextlib.closing(sqlite3.connect(path, timeout=busy_ms / 1000, isolation_level=None)) as connection:
            connection.execute("BEGIN IMMEDIATE")
            connection.execute("ROLLBACK")
            tables = {r[0] for r in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            if "alembic_version" not in tables:
                if tables:
                    raise _problem("damaged", folder, None)
                return None
            row = connection.execute("SELECT version_num FROM alembic_version").fetchone()
    except sqlite3.Error as error:
        raise from_sqlite(error, folder) from error
    revision = None if row is None else str(row[0])
    if revision is not None and revision > HEAD:
        raise _problem("newer", folder, None)
    return revision


def from_sqlite(error: BaseException, folder: Path) -> StoreProblem:
    """The problem behind an SQLite error."""
    text = str(error).lower()
    if "locked" in text or "busy" in text:
        return _problem("locked", folder, error)
    if "readonly" in text or "read-only" in text or "unable to open" in text or "permission" in text:
        return _problem("read_only", folder, error)
    if "full" in text:
        return _problem("full", folder, error)
    return _problem("damaged", folder, error)


def _problem(kind: str, folder: Path, error: BaseException | None) -> StoreProblem:
    backup = latest_backup(folder)
    at = backup_time(backup).astimezone().strftime("%a %d %b, %H:%M") if backup else ""
    restore = f"Go back to the backup of {at}." if backup else "No backup is there; ask for help before going on."
    words = {
        "missing": (
            "The records file is gone.",
            f"The backups are still there; the newest is of {at}.",
            restore,
        ),
        "locked": (
            "Another program holds the records.",
            "Nothing was changed, and nothing is lost.",
            "Close the other Creekbed, or wait for the copy that runs, then try again.",
        ),
        "read_only": (
            "The records cannot be written.",
            "What is recorded is safe and was not changed.",
            "Check that the folder belongs to you and that the disk is not write-protected, then try again.",
        ),
        "newer": (
            "The records were written by a newer Creekbed.",
            "They were not touched.",
            "Start the newer version, or bring this one up to date.",
        ),
        "damaged": (
            "The records file is damaged or is not one of ours.",
            "It was not changed, and is kept aside if you go back to a backup.",
            restore,
        ),
        "full": (
            "The disk is full; this last action was not recorded.",
            "Everything acknowledged before it is safe.",
            "Make room on the disk and do it again.",
        ),
    }[kind]
    return StoreProblem(words[0], safe=words[1], todo=words[2], kind=kind, folder=str(folder), detail=str(error or ""))


def migrate(engine: Engine, revision: str = "head") -> None:
    """Bring the tables to a revision with Alembic, in one transaction."""
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.execution_options(write=True).begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)


def back_up(folder: Path, why: str, *, now: datetime | None = None) -> Path:
    """Copy the records, consistent while in use, to ``backups/``; keep the newest ones.

    Raises:
        StoreProblem: the copy cannot be made, or the records fail their integrity check.
    """
    target_folder = folder / BACKUPS
    target_folder.mkdir(mode=0o700, exist_ok=True)
    stamp = (now or datetime.now(UTC)).strftime("%Y%m%dT%H%M%S%fZ")
    target = target_folder / f"{stamp}-{why}.sqlite3"
    part = target.with_suffix(".part")
    for stale in target_folder.glob("*.part"):  # left by a program that was stopped in the middle of a backup
        stale.unlink()
    try:
        with contextlib.closing(sqlite3.connect(folder / FILE)) as source:
            _create_private(part)
            with contextlib.closing(sqlite3.connect(part)) as copy:
                source.backup(copy)
                if copy.execute("PRAGMA quick_check").fetchone()[0] != "ok":
                    raise _problem("damaged", folder, None)
    except sqlite3.Error as error:
        raise from_sqlite(error, folder) from error
    finally:
        if part.exists() and not target.exists():
            with contextlib.suppress(OSError):
                if _whole(part):
                    os.replace(part, target)
                else:
                    part.unlink()
    mirror(folder / PHOTOS, target_folder / PHOTOS)
    for old in sorted(target_folder.glob("*.sqlite3"))[:-KEEP_BACKUPS]:
        old.unlink()
    return target


def mirror(source: Path, target: Path) -> int:
    """Put every photograph that is missing in ``target`` there: by a second name for the same file where the disk can.

    Photographs never change, so that what is there already is left alone.

    Returns:
        How many were missing.
    """
    made = 0
    for path in sorted(source.glob("??/*.jpg")):
        there = target / path.relative_to(source)
        if there.exists():
            continue
        for parent in (target, there.parent):
            parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        part = there.with_suffix(".part")
        part.unlink(missing_ok=True)
        try:
            os.link(path, part)
        except OSError:  # a disk without second names
            shutil.copyfile(path, part)
            part.chmod(0o600)
        os.replace(part, there)
        made += 1
    return made


def _whole(path: Path) -> bool:
    try:
        with contextlib.closing(sqlite3.connect(path)) as connection:
            return bool(connection.execute("PRAGMA quick_check").fetchone()[0] == "ok")
    except sqlite3.Error:
        return False


def latest_backup(folder: Path) -> Path | None:
    """The newest backup, or ``None``."""
    return max((folder / BACKUPS).glob("*.sqlite3"), default=None)


def backup_time(backup: Path) -> datetime:
    """When a backup was made, from its name."""
    return datetime.strptime(backup.name.split("-")[0], "%Y%m%dT%H%M%S%fZ").replace(tzinfo=UTC)


def restore_latest(folder: Path) -> Path | None:
    """Put the newest backup in place; what was there is kept beside it, never deleted.

    Returns:
        Where the old file now lies, or ``None`` when there was none.

    Raises:
        StoreProblem: there is no backup.
    """
    backup = latest_backup(folder)
    if backup is None:
        raise _problem("missing", folder, None)
    path = folder / FILE
    aside: Path | None = None
    stamp = datetime.now(UTC).strftime("%Y%m%dT%H%M%S%fZ")
    for suffix in ("", "-wal", "-shm"):
        old = path.with_name(FILE + suffix)
        if old.exists():
            kept = path.with_name(f"kept-aside-{stamp}.sqlite3{suffix}")
            old.rename(kept)
            aside = aside or kept
    part = path.with_suffix(".part")
    _create_private(part)
    shutil.copyfile(backup, part)
    os.replace(part, path)
    mirror(folder / BACKUPS / PHOTOS, folder / PHOTOS)
    return aside
