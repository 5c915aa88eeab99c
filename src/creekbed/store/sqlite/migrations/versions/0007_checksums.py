"""At which window an entry of the journal was done, and checksums of all that was done so far."""

import json
from datetime import UTC, datetime

import sqlalchemy as sa
from alembic import op

from creekbed.store.chain import START, digest_of, next_chain, said

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    for name in ("seat", "digest", "chain"):
        op.add_column("journal", sa.Column(name, sa.String(), nullable=False, server_default=""))
    op.add_column("clock_anchor", sa.Column("checksum", sa.String(), nullable=False, server_default=""))
    op.add_column("journal", sa.Column("erased", sa.JSON(), nullable=False, server_default="{}"))
    op.execute("DROP TRIGGER IF EXISTS journal_no_update")
    connection = op.get_bind()
    rows = connection.exec_driver_sql(
        "SELECT id, at, person, action, words, tag, undoes, undoable, changes FROM journal ORDER BY id"
    )
    chain = START
    while some := rows.fetchmany(500):
        made = []
        for number, at, person, action, words, tag, undoes, undoable, changes in some:
            when = datetime.fromisoformat(at).replace(tzinfo=UTC)
            text = said(number, when, person, "", action, words, tag, undoes, undoable, json.loads(changes))
            digest = digest_of(text)
            chain = next_chain(chain, digest)
            made.append((digest, chain, number))
        connection.exec_driver_sql("UPDATE journal SET digest = ?, chain = ? WHERE id = ?", made)
    op.execute(
        "CREATE TRIGGER journal_no_update BEFORE UPDATE ON journal "
        "BEGIN SELECT RAISE(ABORT, 'the journal is append-only'); END"
    )
