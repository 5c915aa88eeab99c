"""Reading everything on record at the start of the day: is each value readable, and as the journal says it is?

Run as ``python -m creekbed.store.sqlite.damage FOLDER`` it prints what it finds as JSON, so that a window can have it
done in a process of its own. Nothing is changed.
"""

from __future__ import annotations

import json
import sqlite3
import subprocess
import sys
from collections.abc import Iterator, Sequence
from dataclasses import asdict, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import Boolean, Connection, Table, bindparam, select
from sqlalchemy.dialects import sqlite

from creekbed.core.errors import Refused
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.chain import Link, broken, digest_of, said
from creekbed.store.journal import replay
from creekbed.store.layout import BACKUPS, FILE
from creekbed.store.problems import CANNOT_READ, from_error
from creekbed.store.sqlite.backup import copies_in, is_good, records_of
from creekbed.store.sqlite.reading import reading
from creekbed.store.sqlite.redaction import journal_open
from creekbed.store.tables import METADATA, UNJOURNALLED, Json, UtcDateTime, defaults_of, from_plain, row_of
from creekbed.store.unit_of_work import Change

JOURNAL = "the journal"
LONGEST_S = 900.0
"""Checking everything takes no longer, else it is given up: house default."""
MOST = 200
"""More damages are not listed: the file as a whole is damaged then."""
LOOKED_AT_ELSEWHERE = {"journal", "clock_anchor"}
"""Tables with checksums of their own; the clock's is looked at before every action, and written anew."""
_ENTRY = (
    "id", "at", "person", "seat", "action", "words", "tag", "undoes", "undoable", "changes", "digest", "chain", "erased"
)  # fmt: skip
_JOURNAL = METADATA.tables["journal"]


@dataclass(frozen=True)
class Damage:
    """Something on record that is not as it was written.

    Attributes:
        table: of the records; "" for the file itself. key: of its row. what: is wrong with it, in words.
        source: who has it whole: "the journal", the name of a copy, "the file itself", or "" when nobody has.
        good: the row as it was, in the form of the journal; ``None`` where it is to go.
    """

    table: str
    key: dict[str, Any]
    what: str
    source: str = ""
    good: dict[str, Any] | None = None

    @property
    def row(self) -> str:
        """Its row, in words: its number, and the instrument's tag where it has one."""
        number, tag = " ".join(str(v) for v in self.key.values()), str((self.good or {}).get("tag", ""))
        return f"{number} ({tag})" if tag and tag not in number else number

    @property
    def words(self) -> str:
        """What a person is told."""
        where = f"{self.table.replace('_', ' ').capitalize()} {self.row}: " if self.table else ""
        if self.source and not self.table:
            return f"{self.what[:1].upper()}{self.what[1:]}. What is out of order can be put in order."
        who = f"{self.source[:1].upper()}{self.source[1:]} has it" if self.source else "Nobody has it"
        return f"{where}{self.what}. {who} whole."


def find(folder: Path) -> list[Damage]:
    """Everything on record that is not as it was written.

    Raises:
        sqlite3.Error: the file cannot be read at all.
    """
    found: list[Damage] = []
    with reading(folder / FILE) as file:
        wrong = file.execute("PRAGMA integrity_check(20)").fetchall()
        if wrong != [("ok",)]:
            index = all("index" in str(row[0]) for row in wrong)
            words = str(wrong[0][0]).splitlines()[-1][:120]
            found.append(Damage("", {}, f"the file's own check says: {words}", "the file itself" if index else ""))
        entries, damages, whole = _journal(file, folder)
        found += damages
        state = _replayed(entries) if whole else None
        for table in METADATA.sorted_tables:
            found += _table(file, table, state)
            if len(found) > MOST:
                break
    return [_with_copy(d, folder) if not d.source and d.table else d for d in found[:MOST]]


def check_records(folder: Path) -> list[Damage]:
    """As :func:`find`.

    Raises:
        StoreProblem: the file cannot be read at all.
    """
    try:
        return find(folder)
    except CANNOT_READ as error:
        raise from_error(error, folder) from error


def check_beside(folder: Path) -> list[Damage] | None:
    """The same in a process of its own; ``None`` when it could not be done. To be called off the window's thread."""
    command = [sys.executable, "-m", "creekbed.store.sqlite.damage", str(folder)]
    try:
        done = subprocess.run(command, capture_output=True, timeout=LONGEST_S, check=True, stdin=subprocess.DEVNULL)
        return [Damage(**row) for row in json.loads(done.stdout)]
    except (OSError, subprocess.SubprocessError, ValueError, TypeError):
        return None


def put_back(change: Change, damage: Damage) -> None:
    """Put a damaged row back as the journal, or the copy that it names, has it.

    Raises:
        Refused: nobody has it whole, or it is no longer as it was found.
    """
    if not damage.source:
        raise Refused("Nobody has this value whole.", todo="Go back to a copy, or look at the instrument again.")
    connection = change.connection
    if not damage.table:
        connection.exec_driver_sql("REINDEX")
    elif damage.table == "journal":
        _put_entry_back(connection, damage)
    else:
        _put_row_back(connection, damage)


def _put_row_back(connection: Connection, damage: Damage) -> None:
    table = METADATA.tables[damage.table]
    where = [table.c[n] == from_plain(table, n, v) for n, v in damage.key.items()]
    there = connection.execute(select(*table.primary_key).where(*where)).first() is not None
    if damage.good is None:
        connection.execute(table.delete().where(*where))
        return
    values = row_of(table, damage.good)
    if there:
        connection.execute(table.update().where(*where).values(**values))
    else:
        connection.execute(table.insert().values({**defaults_of(damage.table), **values}))


def _put_entry_back(connection: Connection, damage: Damage) -> None:
    good = damage.good
    if good is None:
        raise Refused("Nobody has this entry whole.")
    values = row_of(_JOURNAL, {**good, "at": f"{good['at']}+00:00"})
    text_of = said(
        values["id"], values["at"], values["person"], values["seat"], values["action"], values["words"], values["tag"],
        values["undoes"], values["undoable"], values["changes"],
    )  # fmt: skip
    if digest_of(text_of) != values["digest"]:
        raise Refused("The copy's entry is not whole either.")
    with journal_open(connection):
        where = _JOURNAL.c.id == values["id"]
        if connection.execute(select(_JOURNAL.c.id).where(where)).first() is not None:
            connection.execute(_JOURNAL.update().where(where).values(**values))
        else:
            connection.execute(_JOURNAL.insert().values(**values))


def _journal(file: sqlite3.Connection, folder: Path) -> tuple[list[Any], list[Damage], bool]:
    """The changes of all entries as they were written, what is damaged, and whether all of it could be had."""
    links, changes = [], {}
    for row in file.execute(_asked(_JOURNAL, _ENTRY)):
        link, what = _link(row)
        links.append(link)
        changes[link.number] = what
    damages, whole = [], True
    for number, words in broken(links):
        entry = _entry_in_copies(folder, number)
        key = {"id": number}
        if entry is None:
            whole = False
            damages.append(Damage("journal", key, words))
            continue
        source, good = entry
        changes[number] = good["changes"]
        damages.append(Damage("journal", key, words, source, good))
    return [changes[n] for n in sorted(changes)], damages, whole and all(c is not None for c in changes.values())


def _asked(table: Table, columns: Sequence[str], key: Sequence[str] = ()) -> str:
    """The question for some columns of a table in the order of its key, or of the one row with a key."""
    question = select(*(table.c[n] for n in columns)).order_by(*table.primary_key)
    for name in key:
        question = question.where(table.c[name] == bindparam(name))
    return str(question.compile(dialect=sqlite.dialect(paramstyle="qmark")))


def _link(row: tuple[Any, ...]) -> tuple[Link, Any]:
    """An entry as a link of the chain, with its changes; what cannot be read is unlike anything that was written."""
    number, at, person, seat, action, words, tag, undoes, undoable, changes, digest, chain, erased = row
    try:
        when = datetime.fromisoformat(at).replace(tzinfo=UTC)
        what, gone = json.loads(changes), json.loads(erased)
        text = said(int(number), when, person, seat, action, words, tag, undoes, bool(undoable), what)
        return Link(int(number), text, str(digest), str(chain), dict(gone)), what
    except (ValueError, TypeError, RecursionError):
        return Link(int(number), ascii(row[:10]), str(digest), str(chain), {}), None


def _entry_in_copies(folder: Path, number: int) -> tuple[str, dict[str, Any]] | None:
    """The name of the newest copy that has an entry whole, and the entry."""
    for copy in reversed(copies_in(folder / BACKUPS)):
        if not is_good(copy):
            continue
        try:
            with reading(records_of(copy), still=True) as file:
                before = file.execute("SELECT chain FROM journal WHERE id = ?", (number - 1,)).fetchone()
                row = file.execute(_asked(_JOURNAL, _ENTRY, ("id",)), (number,)).fetchone()
        except CANNOT_READ:
            continue
        if row is None or (before is None and number > 1):
            continue
        link, changes = _link(row)
        if changes is not None and digest_of(link.said) == link.digest:
            good = dict(zip(_ENTRY, row, strict=True))
            return copy.name, {**good, "changes": changes, "erased": link.erased, "undoable": bool(good["undoable"])}
    return None


def _replayed(entries: list[Any]) -> dict[str, dict[tuple[Any, ...], dict[str, Any]]] | None:
    try:
        return replay(entries)
    except (KeyError, TypeError, AttributeError):
        return None


def _table(
    file: sqlite3.Connection, table: Table, state: dict[str, dict[tuple[Any, ...], dict[str, Any]]] | None
) -> Iterator[Damage]:
    """What is wrong in one table: values that cannot be read, rows unlike the journal's."""
    columns = list(table.columns)
    said_so = None if state is None or table.name in UNJOURNALLED else dict(state.get(table.name, {}))
    if table.name in LOOKED_AT_ELSEWHERE:
        return
    for raw in file.execute(_asked(table, [c.name for c in columns])):
        row, wrong = {}, ""
        for column, value in zip(columns, raw, strict=True):
            try:
                row[column.name] = _plain(column, value)
            except (ValueError, TypeError, RecursionError):
                row[column.name] = None
                wrong = wrong or f"“{column.name}” cannot be read"
        key = {c.name: row[c.name] for c in table.primary_key}
        good = said_so.pop(tuple(key.values()), None) if said_so is not None else None
        if said_so is not None and good is None:
            yield Damage(table.name, key, "no action made this row", JOURNAL)
            continue
        unlike = [n for n, v in (good or {}).items() if n in row and row[n] != v]
        if unlike and not wrong:
            wrong = f"“{unlike[0]}” is not what was written"
        if wrong:
            yield Damage(table.name, key, wrong, JOURNAL if good is not None else "", good)
    for values, good in (said_so or {}).items():
        key = dict(zip((c.name for c in table.primary_key), values, strict=True))
        yield Damage(table.name, key, "the row is gone", JOURNAL, good)


def _plain(column: Any, value: Any) -> Any:
    """A value as the journal has it.

    Raises:
        ValueError, TypeError: it is none of its column's.
    """
    if value is None:
        if not column.nullable:
            raise ValueError("it is empty")
        return None
    if isinstance(column.type, UtcDateTime):
        return datetime.fromisoformat(value).replace(tzinfo=UTC).isoformat()
    if isinstance(column.type, Json):
        found = json.loads(value)
        if found is not None and not isinstance(found, column.type.kind):
            raise TypeError(f"it is no {column.type.kind.__name__}")
        return found
    if isinstance(column.type, Boolean):
        return bool(value)
    wanted = column.type.python_type
    if not isinstance(value, (int, float) if wanted is float else wanted):
        raise TypeError(f"it is no {wanted.__name__}")
    if isinstance(value, str) and "\ufffd" in value:
        raise ValueError("it is no text")
    return value


def _with_copy(damage: Damage, folder: Path) -> Damage:
    """With the newest copy that has the row whole, where one has."""
    table = METADATA.tables[damage.table]
    if damage.table == "journal" or any(v is None for v in damage.key.values()):
        return damage
    for copy in reversed(copies_in(folder / BACKUPS)):
        if not is_good(copy):
            continue
        try:
            with reading(records_of(copy), still=True) as file:
                one = _asked(table, [c.name for c in table.columns], list(damage.key))
                raw = file.execute(one, list(damage.key.values())).fetchone()
            if raw is None:
                continue
            good = {c.name: _plain(c, v) for c, v in zip(table.columns, raw, strict=True)}
        except (sqlite3.Error, ValueError, TypeError, RecursionError):
            continue
        return replace(damage, source=copy.name, good=good)
    return damage


def main(folder: str) -> int:
    """Print what is damaged in a data folder as JSON."""
    print(json.dumps([asdict(d) for d in find(Path(folder))], ensure_ascii=True))
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
