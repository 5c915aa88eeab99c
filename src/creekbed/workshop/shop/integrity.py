"""Whether all that is on record is as it was written, and putting back what is not."""

from __future__ import annotations

import json
import sqlite3
import subprocess
import sys
from pathlib import Path

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from creekbed.core.errors import Refused
from creekbed.store.chain import digest_of, said
from creekbed.store.damage import Damage, find
from creekbed.store.journal import from_plain, row_of
from creekbed.store.problems import from_error
from creekbed.store.redaction import journal_open
from creekbed.store.tables import Base
from creekbed.workshop.shop.shop import Done, Shop

LONGEST_S = 900.0
"""Reading everything takes no longer, else it is given up: house default."""


def examine(shop: Shop) -> list[Damage]:
    """Everything on record that is not as it was written, read now.

    Raises:
        StoreProblem: the file cannot be read at all.
    """
    try:
        return find(shop.folder)
    except sqlite3.Error as error:
        raise from_error(error, shop.folder) from error


def examine_beside(folder: Path) -> list[Damage] | None:
    """The same, in a process of its own; ``None`` when it could not be done. To be called off the window's thread."""
    command = [sys.executable, "-m", "creekbed.store.damage", str(folder)]
    try:
        done = subprocess.run(command, capture_output=True, timeout=LONGEST_S, check=True, stdin=subprocess.DEVNULL)
        return [Damage(**row) for row in json.loads(done.stdout)]
    except (OSError, subprocess.SubprocessError, ValueError, TypeError):
        return None


def put_back(shop: Shop, damage: Damage) -> Done:
    """Put a damaged row back as the journal, or the copy that it names, has it; it is on record that this was done.

    Raises:
        Refused: nobody has it whole, or it is no longer as it was found. StoreProblem: it cannot be written.
    """
    if not damage.source:
        raise Refused("Nobody has this value whole.", todo="Go back to a copy, or look at the instrument again.")
    with shop.act("put_back", undoable=False) as act:
        if not damage.table:
            act.session.execute(text("REINDEX"))
        elif damage.table == "journal":
            _put_entry_back(act.session, damage)
        else:
            _put_row_back(act.session, damage)
        where = f"{damage.table.replace('_', ' ')} {damage.row}".strip() or "the order of the file"
        act.words = f"Put back as it was, from {damage.source}: {where}"
    assert shop.last_done is not None
    return shop.last_done


def _put_row_back(session: Session, damage: Damage) -> None:
    table = Base.metadata.tables[damage.table]
    connection = session.connection()
    where = [table.c[n] == from_plain(table, n, v) for n, v in damage.key.items()]
    there = connection.execute(select(*table.primary_key).where(*where)).first() is not None
    if damage.good is None:
        connection.execute(table.delete().where(*where))
        return
    values = row_of(table, damage.good)
    if there:
        connection.execute(table.update().where(*where).values(**values))
    else:
        connection.execute(table.insert().values(**values))


def _put_entry_back(session: Session, damage: Damage) -> None:
    good = damage.good
    if good is None:
        raise Refused("Nobody has this entry whole.")
    table = Base.metadata.tables["journal"]
    plain = {**good, "at": f"{good['at']}+00:00"}
    values = row_of(table, plain)
    text_of = said(
        values["id"], values["at"], values["person"], values["seat"], values["action"], values["words"], values["tag"],
        values["undoes"], values["undoable"], values["changes"],
    )  # fmt: skip
    if digest_of(text_of) != values["digest"]:
        raise Refused("The copy's entry is not whole either.")
    with journal_open(session):
        connection = session.connection()
        there = connection.execute(select(table.c.id).where(table.c.id == values["id"])).first() is not None
        if there:
            connection.execute(table.update().where(table.c.id == values["id"]).values(**values))
        else:
            connection.execute(table.insert().values(**values))
