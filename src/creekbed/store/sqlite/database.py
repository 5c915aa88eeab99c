"""Opening the records safely: first start, migration with a copy before it, and every way it can go wrong, in words."""

from __future__ import annotations

import contextlib
import json
import os
import sqlite3
import stat
from datetime import datetime
from pathlib import Path
from urllib.parse import quote

from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError

from creekbed.core.bounded import read_at_most
from creekbed.core.conventions import clock
from creekbed.core.errors import BadInput, StoreProblem
from creekbed.store.files import clear_litter, private_folder, tighten
from creekbed.store.layout import ABOUT, BACKUPS, FILE, LOGS, OURS, own_traces
from creekbed.store.problems import CANNOT_READ, from_error, kind_of, problem
from creekbed.store.sqlite.backup import back_up, copies_in
from creekbed.store.sqlite.checking import is_newer, last_entry, revision_in
from creekbed.store.sqlite.copies import rejoin_log
from creekbed.store.sqlite.making import BUSY_MS, make_engine, make_records
from creekbed.store.sqlite.migrating import HEAD, KNOWN, lacking, migrate
from creekbed.store.sqlite.reading import reading
from creekbed.store.witness import Witness, WitnessedEntry


def open_engine(folder: Path, *, busy_ms: int = BUSY_MS) -> Engine:
    """Open the records in a data folder, making or migrating them where needed.

    Records are made only where nothing is: an empty file, or backups without records, are never taken for a new shop.

    Args:
        folder: the data folder; made when missing, readable by its owner only.
        busy_ms: how long to wait for another program that holds the file.

    Returns:
        An engine with WAL, full synchronous writes and foreign keys on.

    Raises:
        StoreProblem: ``kind`` is one of :data:`creekbed.store.problems.WORDS`.
    """
    try:
        private_folder(folder)
        for place in (folder, *(folder / name for name in OURS)):
            if place.is_dir():
                tighten(place)
                clear_litter(place)
        engine = _opened(folder, busy_ms)
        for path in (folder / FILE, *(folder / (FILE + end) for end in LOGS)):
            with contextlib.suppress(FileNotFoundError, PermissionError):
                if path.stat().st_mode & 0o077:
                    path.chmod(0o600)
        return engine
    except DBAPIError as error:
        raise from_error(error.orig or error, folder) from error
    except (*CANNOT_READ, OSError) as error:
        raise from_error(error, folder) from error


def _opened(folder: Path, busy_ms: int) -> Engine:
    path = folder / FILE
    if not _is_there(folder):
        make_records(folder)
    revision = _revision(folder, busy_ms)
    engine = make_engine(path, busy_ms)
    try:
        if revision != HEAD:
            back_up(folder, "before-migration")
            migrate(engine)
        _need_all(folder)
    except BaseException:
        engine.dispose()
        raise
    return engine


def _is_there(folder: Path) -> bool:
    """Whether there are records; ``False`` only where nothing of a shop is.

    Raises:
        StoreProblem: something else has their name, or they are gone and what tells of them is not.
    """
    path = folder / FILE
    try:
        found = path.lstat()
    except FileNotFoundError:
        traces = own_traces(folder)
        if traces:
            rejoin_log(folder)
            raise problem("missing", folder, traces=", ".join(traces)) from None
        return False
    if stat.S_ISLNK(found.st_mode):
        if not path.exists():
            raise problem("not_a_file", folder, name=FILE, what="a link to something that is not there")
        found = path.stat()
    if not stat.S_ISREG(found.st_mode):
        raise problem("not_a_file", folder, name=FILE, what="a folder" if stat.S_ISDIR(found.st_mode) else "a device")
    if not (os.access(path, os.W_OK) and os.access(folder, os.W_OK)):
        raise problem("read_only", folder)
    if found.st_size == 0:
        if own_traces(folder):
            raise problem("damaged", folder, what="it is empty")
        raise problem("empty", folder)
    return True


def _revision(folder: Path, busy_ms: int) -> str:
    """Revision of an existing file, after proving that it can be written and has its tables.

    Raises:
        StoreProblem: it is newer, damaged or somebody else's. sqlite3.Error: it cannot be read or written.
    """
    name = f"file:{quote(str(folder / FILE))}?mode=rw"
    with contextlib.closing(sqlite3.connect(name, uri=True, timeout=busy_ms / 1000, isolation_level=None)) as file:
        revision = revision_in(file)
        try:
            file.execute("PRAGMA busy_timeout=0")
            file.execute("BEGIN IMMEDIATE")
            file.execute("ROLLBACK")
        except sqlite3.OperationalError as error:
            if kind_of(error) != "busy":
                raise
            # another program writes just now, so it can be written; reading goes on beside it
        if is_newer(revision):
            raise problem("newer", folder)
        if revision not in KNOWN:
            what = f"its version is “{revision[:20]}”" if revision else "it holds no version of ours"
            raise problem("damaged" if own_traces_but_logs(folder) else "foreign", folder, what=what)
        wrong = lacking(file, revision)
        if wrong:
            raise problem("damaged", folder, what=wrong)
        return revision


def own_traces_but_logs(folder: Path) -> bool:
    """Whether something beside the records and their log tells of a shop."""
    return any(t != "a log of the records" for t in own_traces(folder))


def _need_all(folder: Path) -> None:
    """Compare the journal with what was seen of it outside the records, and take note of it where nothing was.

    Raises:
        StoreProblem: actions that were on record are missing, or others stand in their place.
    """
    witness = Witness(folder)
    seen = witness.read()
    with reading(folder / FILE) as file:
        number, chain, at = last_entry(file)
        if seen is None:
            seen = _by_copies(folder)
        if seen is not None and seen.number:
            row = file.execute("SELECT chain FROM journal WHERE id = ?", (seen.number,)).fetchone()
            if row is None or (seen.chain and row[0] != seen.chain):
                raise _rolled_back(folder, seen.number - number, seen.number, at)
    witness.note(WitnessedEntry(number, chain))


def _rolled_back(folder: Path, missing: int, last: int, at: datetime | None) -> StoreProblem:
    until = clock(at, "%a %d %b, ") if at is not None else "the beginning"
    words = "One action that was on record is" if missing == 1 else "Actions that were on record are"
    words = f"{missing} actions that were on record are" if missing > 1 else words
    return problem("rolled_back", folder, missing=words, last=last, until=until, count=max(missing, 0))


def _by_copies(folder: Path) -> WitnessedEntry | None:
    """What the newest copy says of the journal, where nothing else does."""
    for copy in reversed(copies_in(folder / BACKUPS)):
        try:
            about = json.loads(read_at_most(copy / ABOUT, 100_000))
            return WitnessedEntry(int(about["entries"]), str(about["chain"]))
        except (OSError, ValueError, KeyError, TypeError, BadInput):
            continue
    return None
