"""Writing into the journal what was there before, and taking a renter out of it: the two exceptions to append-only."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from sqlalchemy import Connection, Engine, select, text

from creekbed.store.chain import digest_of, said
from creekbed.store.records import Hire, Job, JournalEntry, TagPrint
from creekbed.store.tables import TABLES

ERASED = "erased"
RENTER_COLUMNS = {"hire": ("renter",), "job": ("came_from",)}
"""Columns that hold a renter's code."""
_LOCK = (
    "CREATE TRIGGER journal_no_update BEFORE UPDATE ON journal "
    "BEGIN SELECT RAISE(ABORT, 'the journal is append-only'); END"
)


@contextmanager
def journal_open(connection: Connection) -> Iterator[None]:
    """Let entries of the journal be written anew, inside this transaction only."""
    connection.execute(text("DROP TRIGGER IF EXISTS journal_no_update"))
    yield None
    connection.execute(text(_LOCK))


def forget_log(engine: Engine) -> None:
    """Overwrite what the log of the records still holds of what was erased."""
    with engine.connect() as connection:
        connection.exec_driver_sql("ROLLBACK")
        connection.exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")


def erase(connection: Connection, code: str) -> tuple[int, dict[str, str]]:
    """Take a renter's code out of every table and of the journal; deleted text is overwritten in the file.

    Returns:
        In how many places of the tables it stood, and the entries that were changed: number → digest since.
    """
    connection.execute(text("PRAGMA secure_delete=ON"))
    places = 0
    for model, columns in ((Hire, RENTER_COLUMNS["hire"]), (Job, RENTER_COLUMNS["job"])):
        table = TABLES[model]
        for name in columns:
            done = connection.execute(table.update().where(table.c[name] == code).values({name: ERASED}))
            places += done.rowcount
    prints = TABLES[TagPrint]
    for row in connection.execute(select(prints.c.id, prints.c.facts)).all():
        facts = _without(row.facts, code)
        if facts != row.facts:
            connection.execute(prints.update().where(prints.c.id == row.id).values(facts=facts))
            places += 1
    return places, _erase_entries(connection, code)


def _erase_entries(connection: Connection, code: str) -> dict[str, str]:
    journal = TABLES[JournalEntry]
    changed: dict[str, str] = {}
    whole_word = re.compile(rf"(?<![\w-]){re.escape(code)}(?![\w-])")
    with journal_open(connection):
        rows = connection.execute(select(journal).where(text("instr(changes, :code) > 0 OR instr(words, :code) > 0")), {
            "code": code,
        }).mappings().all()  # fmt: skip
        for row in rows:
            changes = [_without_change(c, code) for c in row["changes"]]
            words = whole_word.sub(ERASED, row["words"])
            if changes == row["changes"] and words == row["words"]:
                continue
            connection.execute(journal.update().where(journal.c.id == row["id"]).values(changes=changes, words=words))
            changed[str(row["id"])] = digest_of(said(
                row["id"], row["at"], row["person"], row["seat"], row["action"], words, row["tag"], row["undoes"],
                row["undoable"], changes,
            ))  # fmt: skip
    return changed


def _without_change(change: dict[str, Any], code: str) -> dict[str, Any]:
    names = RENTER_COLUMNS.get(change["t"])
    if change["t"] == "tag_print":
        return {**change, "b": _without(change["b"], code), "a": _without(change["a"], code)}
    if names is None:
        return change

    def image(row: dict[str, Any] | None) -> dict[str, Any] | None:
        return None if row is None else {n: ERASED if n in names and v == code else v for n, v in row.items()}

    return {**change, "b": image(change["b"]), "a": image(change["a"])}


def _without(value: Any, code: str) -> Any:
    """A value of plain lists and dicts without a text that is the code."""
    if isinstance(value, dict):
        return {k: _without(v, code) for k, v in value.items()}
    if isinstance(value, list):
        return [_without(v, code) for v in value]
    return ERASED if value == code else value
