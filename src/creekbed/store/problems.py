"""What can be wrong with the records, by what SQLite and the disk say, and in words.

Codes are SQLite's result codes (sqlite.org/rescode.html); only what SQLite itself calls corrupt, or what its integrity
check finds, is called damaged.
"""

from __future__ import annotations

import errno
import sqlite3
from pathlib import Path
from typing import Any

from creekbed.core.errors import StoreProblem

CODES = {
    sqlite3.SQLITE_BUSY: "busy", sqlite3.SQLITE_LOCKED: "busy", sqlite3.SQLITE_READONLY: "read_only",
    sqlite3.SQLITE_PERM: "read_only", sqlite3.SQLITE_AUTH: "read_only", sqlite3.SQLITE_CANTOPEN: "unreachable",
    sqlite3.SQLITE_FULL: "full", sqlite3.SQLITE_IOERR: "disk", sqlite3.SQLITE_CORRUPT: "damaged",
    sqlite3.SQLITE_NOTADB: "damaged", sqlite3.SQLITE_CONSTRAINT: "conflict", sqlite3.SQLITE_TOOBIG: "too_big",
    sqlite3.SQLITE_NOMEM: "memory",
}  # fmt: skip
ERRNO = {
    errno.ENOSPC: "full", errno.EDQUOT: "full", errno.EFBIG: "full", errno.EROFS: "read_only",
    errno.EACCES: "read_only", errno.EPERM: "read_only", errno.EIO: "disk", errno.ENOTDIR: "not_a_folder",
    errno.EEXIST: "not_a_folder", errno.ENOENT: "unreachable", errno.ELOOP: "unreachable",
    errno.ENAMETOOLONG: "unreachable",
}  # fmt: skip
NOT_CHANGED = "Nothing was changed, and nothing is lost."
GO_BACK = "Look at the copies that are there, and choose one to go back to; what is here now is kept aside."

WORDS: dict[str, tuple[str, str, str]] = {
    "missing": ("The records file is gone.", "What tells of it is still there: {traces}.", GO_BACK),
    "busy": (
        "Another program holds the records.", NOT_CHANGED,
        "Close the other program, or wait for the copy that runs, then try again.",
    ),
    "in_use": (
        "The shop is open elsewhere: {who}.", NOT_CHANGED, "Close it there, then try again.",
    ),
    "restoring": (
        "Somebody is going back to a copy of these records just now.", NOT_CHANGED, "Try again in a moment.",
    ),
    "read_only": (
        "The records cannot be written.", "What is recorded is safe and was not changed.",
        "Check that the folder belongs to you and that the disk is not write-protected, then try again.",
    ),
    "unreachable": (
        "The records cannot be opened.", "They were not touched.",
        "Check that the folder can be read and that its disk is connected, then try again.",
    ),
    "not_a_file": (
        "{name} is {what}, not the records' file.", "It was not touched.", "Move it away, then try again.",
    ),
    "not_a_folder": (
        "The data folder cannot be used: {what}.", "It was not touched.",
        "Move away what has its name, or choose another folder, then try again.",
    ),
    "newer": (
        "The records were written by a newer Creekbed.", "They were not touched.",
        "Start the newer version, or bring this one up to date.",
    ),
    "damaged": (
        "The records file is damaged: {what}.", "It was not changed, and is kept aside if you go back to a copy.",
        GO_BACK,
    ),
    "foreign": (
        "The records file is not one of ours: {what}.", "It was not changed, and is kept aside if you go back to a "
        "copy.", "Move it away, or go back to a copy.",
    ),
    "empty": (
        "The records file is empty, and there is nothing to go back to.", "It was not changed.",
        "If this is to be a new shop, start it; the empty file is kept aside.",
    ),
    "rolled_back": (
        "{missing} missing; the last of them was number {last}.",
        "The records are whole as far as they go, up to {until}. They were not changed.",
        "Perhaps an old copy was put in their place, or their log was lost. Look at the copies, or go on without.",
    ),
    "full": (
        "The disk is full; this last action was not recorded.", "Everything acknowledged before it is safe.",
        "Make room on the disk and do it again.",
    ),
    "disk": (
        "The disk does not take it; this last action was not recorded.", "Everything acknowledged before it is safe.",
        "Look whether the disk is connected and sound, then do it again.",
    ),
    "conflict": (
        "Something else on record stands against that.", NOT_CHANGED,
        "Look at the page again; somebody may have changed it just now.",
    ),
    "too_big": ("That is more than one record can hold.", NOT_CHANGED, "Make it smaller."),
    "memory": ("The computer has no memory left.", NOT_CHANGED, "Close other programs, then do it again."),
    "cell": (
        "A value on record cannot be read: {what}.", "Nothing was changed; the rest can be read.",
        "Open “Backups”, which can put it back.",
    ),
    "no_room": (
        "There is too little room on the disk for that: {what}.", NOT_CHANGED, "Make room, then try again.",
    ),
    "not_whole": ("That copy is not whole: {what}.", "It was not put in place.", "Choose another copy."),
    "unexpected": (
        "The records could not be used: {what}.", "What was acknowledged is safe; nothing was changed.",
        "Try again; if it happens again, tell whoever keeps Creekbed running.",
    ),
}  # fmt: skip
"""Kind → what happened, what is safe, what to do."""


class DamagedCell(StoreProblem):
    """A value on record that cannot be read; the rest of the records can."""

    def __init__(self, what: str):
        happened, safe, todo = WORDS["cell"]
        super().__init__(happened.format(what=what), safe=safe, todo=todo, kind="cell", what=what)


class StaleRecord(StoreProblem):
    """A record that somebody has changed since it was read.

    Attributes:
        table, key: which one. person, words: who changed it, and the words of that journal entry, where known.
    """

    def __init__(self, table: str, key: tuple[Any, ...], person: str, words: str):
        what = f"{person} has done this just now: “{words}”" if person else "somebody has changed it just now"
        super().__init__(
            f"That was not done: {what}.", safe="Nothing was changed.", todo="Look at it as it is now, then try again.",
            kind="conflict", table=table, key=key, person=person, words=words,
        )  # fmt: skip
        self.table, self.key, self.person, self.words_of_entry = table, key, person, words


def problem(kind: str, folder: Path, error: BaseException | None = None, **words: Any) -> StoreProblem:
    """A problem of some kind, told in words; ``words`` fill its gaps and are its fields too."""
    happened, safe, todo = (text.format_map(_Gaps(words)) for text in WORDS[kind])
    detail = str(error) if error is not None else ""
    return StoreProblem(happened, safe=safe, todo=todo, kind=kind, folder=str(folder), detail=detail, **words)


class _Gaps(dict[str, Any]):
    def __missing__(self, key: str) -> str:
        return "…"


CANNOT_READ = (sqlite3.Error, UnicodeDecodeError)
"""What SQLite raises on a file that it cannot read; the second where damage has got into what it says of it."""


def kind_of(error: BaseException) -> str:
    """The kind of a problem behind an error of SQLite or of the disk."""
    if isinstance(error, UnicodeDecodeError):
        return "damaged"
    if isinstance(error, sqlite3.Error):
        code = getattr(error, "sqlite_errorcode", None)
        return CODES.get(code & 0xFF, "unexpected") if code is not None else "unexpected"
    if isinstance(error, OSError) and error.errno is not None:
        return ERRNO.get(error.errno, "unexpected")
    return "unexpected"


def from_error(error: BaseException, folder: Path) -> StoreProblem:
    """The problem behind an error of SQLite or of the disk."""
    return problem(kind_of(error), folder, error, what=in_words(error))


def in_words(error: BaseException) -> str:
    """What an error says, in one short line without the paths of this machine."""
    text = error.strerror if isinstance(error, OSError) and error.strerror else str(error) or type(error).__name__
    return " ".join(text.split())[:160].rstrip(".")
