"""Looking at a file of records without changing it: is it whole, and what does it hold?"""

from __future__ import annotations

import os
import sqlite3
import stat
from datetime import UTC, datetime
from pathlib import Path

from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.problems import in_words
from creekbed.store.sqlite.migrating import HEAD, KNOWN, lacking
from creekbed.store.sqlite.reading import reading

_LAST = "SELECT id, chain, at FROM journal ORDER BY id DESC LIMIT 1"
_LAST_BEFORE = "SELECT id, '', at FROM journal ORDER BY id DESC LIMIT 1"
"""The same before revision 0007."""
_COUNTS = "SELECT (SELECT count(*) FROM job), (SELECT count(*) FROM instrument)"


@dataclass(frozen=True)
class Facts:
    """What a file of records holds.

    Attributes:
        entries: the number of the journal's last entry. chain: its checksum, "" before revision 0007.
        last_at: when that was; ``None`` in a shop without any. jobs, instruments: how many.
        wrong: why it is not whole, in words; "" when it is.
    """

    revision: str
    entries: int
    chain: str
    last_at: datetime | None
    jobs: int
    instruments: int
    wrong: str = ""

    @property
    def whole(self) -> bool:
        """Whether nothing is wrong with it."""
        return not self.wrong


def unreadable(why: str) -> Facts:
    """The facts of a file that says nothing."""
    return Facts("", 0, "", None, 0, 0, why)


def what_is_wrong(connection: sqlite3.Connection) -> str:
    """Why a database is not whole, in words; "" when it is: integrity, references, tables.

    Raises:
        sqlite3.Error: it cannot even be read so far.
    """
    found = connection.execute("PRAGMA integrity_check(3)").fetchall()
    if found != [("ok",)]:
        return f"its check says: {str(found[0][0]).splitlines()[-1][:120]}"
    revision = revision_in(connection)
    if revision not in KNOWN:
        return f"its version is “{revision[:20]}”" if revision else "it has no version"
    wrong = lacking(connection, revision)
    if wrong:
        return wrong
    loose = connection.execute("PRAGMA foreign_key_check").fetchone()
    return f"a row of its table “{loose[0]}” hangs on nothing" if loose is not None else ""


def revision_in(connection: sqlite3.Connection) -> str:
    """The version of its tables; "" where it says none.

    Raises:
        sqlite3.Error: it cannot be read.
    """
    there = connection.execute("SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = 'alembic_version'")
    if there.fetchone() is None:
        return ""
    row = connection.execute("SELECT version_num FROM alembic_version").fetchone()
    return "" if row is None or row[0] is None else str(row[0])


def last_entry(connection: sqlite3.Connection) -> tuple[int, str, datetime | None]:
    """Number, chain and time of the journal's last entry; (0, "", None) where there is none.

    Raises:
        sqlite3.Error: it cannot be read.
    """
    row = connection.execute(_LAST if revision_in(connection) >= "0007" else _LAST_BEFORE).fetchone()
    return (0, "", None) if row is None else (int(row[0]), str(row[1]), _when(row[2]))


def _when(text: object) -> datetime | None:
    try:
        return datetime.fromisoformat(str(text)).replace(tzinfo=UTC)
    except ValueError:
        return None


def examine(path: Path, *, still: bool = False, deep: bool = True) -> Facts:
    """What a file of records holds, and whether it is whole; the file is not changed.

    Args:
        still: as :func:`reading`. deep: check its integrity too, which reads all of it.
    """
    try:
        if not stat.S_ISREG(os.stat(path).st_mode):
            return unreadable("it is not a file")
        if path.stat().st_size == 0:
            return unreadable("it is empty")
        with reading(path, still=still) as connection:
            wrong = what_is_wrong(connection) if deep else ""
            number, chain, at = last_entry(connection)
            jobs, instruments = connection.execute(_COUNTS).fetchone()
            return Facts(revision_in(connection), number, chain, at, int(jobs), int(instruments), wrong)
    except (sqlite3.Error, OSError, ValueError) as error:
        return unreadable(in_words(error))


def is_newer(revision: str) -> bool:
    """Whether a version is one that a later Creekbed may have written."""
    return revision.isdigit() and len(revision) == len(HEAD) and revision > HEAD
