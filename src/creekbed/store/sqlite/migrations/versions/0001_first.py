"""The first tables, and triggers that keep the journal append-only."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "boat",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("leaves_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("boat", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_boat_leaves_at"), ["leaves_at"], unique=False)

    op.create_table(
        "clock_anchor",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("utc", sa.DateTime(), nullable=False),
        sa.Column("boot_id", sa.String(), nullable=False),
        sa.Column("boot_seconds", sa.Double(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "instrument",
        sa.Column("tag", sa.String(length=32), nullable=False),
        sa.Column("family", sa.String(), nullable=False),
        sa.Column("size", sa.String(), nullable=False),
        sa.Column("serial", sa.String(), nullable=False),
        sa.Column("materials", sa.JSON(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("tag"),
    )
    op.create_table(
        "journal",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("person", sa.String(), nullable=False),
        sa.Column("action", sa.String(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("tag", sa.String(), nullable=False),
        sa.Column("undoes", sa.Integer(), nullable=True),
        sa.Column("undoable", sa.Boolean(), nullable=False),
        sa.Column("changes", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("journal", schema=None) as batch_op:
        batch_op.create_index("ix_journal_tag", ["tag"], unique=False)
        batch_op.create_index("ix_journal_undoes", ["undoes"], unique=False)

    op.create_table(
        "lot",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("item", sa.String(), nullable=False),
        sa.Column("lot", sa.String(), nullable=False),
        sa.Column("amount", sa.Double(), nullable=False),
        sa.Column("strength_pct", sa.Double(), nullable=True),
        sa.Column("contact_min", sa.Double(), nullable=True),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("discard_at", sa.DateTime(), nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("lot", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_lot_item"), ["item"], unique=False)

    op.create_table(
        "school_choice",
        sa.Column("topic", sa.String(), nullable=False),
        sa.Column("choice", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("topic"),
    )
    op.create_table(
        "setting",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("value", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("key"),
    )
    op.create_table(
        "hire",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("tag", sa.String(length=32), nullable=False),
        sa.Column("renter", sa.String(), nullable=False),
        sa.Column("group_name", sa.String(), nullable=False),
        sa.Column("out_at", sa.DateTime(), nullable=False),
        sa.Column("back_at", sa.DateTime(), nullable=True),
        sa.Column("contents_out", sa.JSON(), nullable=False),
        sa.Column("condition_out", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(
            ["tag"],
            ["instrument.tag"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("hire", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_hire_tag"), ["tag"], unique=False)

    op.create_table(
        "job",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("tag", sa.String(length=32), nullable=False),
        sa.Column("hire_id", sa.Integer(), nullable=True),
        sa.Column("boat_id", sa.Integer(), nullable=True),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("opened_at", sa.DateTime(), nullable=False),
        sa.Column("ready_at", sa.DateTime(), nullable=True),
        sa.Column("release_at", sa.DateTime(), nullable=True),
        sa.Column("came_from", sa.String(), nullable=False),
        sa.Column("next_group", sa.String(), nullable=False),
        sa.Column("weight", sa.Double(), nullable=False),
        sa.Column("case_c", sa.Double(), nullable=True),
        sa.Column("schools", sa.JSON(), nullable=False),
        sa.Column("quarantine", sa.String(), nullable=False),
        sa.Column("waiting_for", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["boat_id"],
            ["boat.id"],
        ),
        sa.ForeignKeyConstraint(
            ["hire_id"],
            ["hire.id"],
        ),
        sa.ForeignKeyConstraint(
            ["tag"],
            ["instrument.tag"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("job", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_job_state"), ["state"], unique=False)
        batch_op.create_index(batch_op.f("ix_job_tag"), ["tag"], unique=False)

    op.create_table(
        "content_line",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("item", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["job_id"],
            ["job.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("job_id", "item"),
    )
    with op.batch_alter_table("content_line", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_content_line_job_id"), ["job_id"], unique=False)

    op.create_table(
        "finding",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("check_key", sa.String(), nullable=False),
        sa.Column("readings", sa.JSON(), nullable=False),
        sa.Column("choice", sa.String(), nullable=False),
        sa.Column("places", sa.JSON(), nullable=False),
        sa.Column("band", sa.String(), nullable=False),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("overruled", sa.String(), nullable=False),
        sa.Column("overrule_reason", sa.String(), nullable=False),
        sa.Column("closed", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("person", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["job_id"],
            ["job.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("finding", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_finding_job_id"), ["job_id"], unique=False)

    op.create_table(
        "in_hand",
        sa.Column("person", sa.String(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("since", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["job_id"],
            ["job.id"],
        ),
        sa.PrimaryKeyConstraint("person"),
    )
    op.create_table(
        "mark",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("tag", sa.String(length=32), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=True),
        sa.Column("zone", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("size_mm", sa.Double(), nullable=True),
        sa.Column("seen_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["job_id"],
            ["job.id"],
        ),
        sa.ForeignKeyConstraint(
            ["tag"],
            ["instrument.tag"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("mark", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_mark_tag"), ["tag"], unique=False)

    op.create_table(
        "stock_move",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("lot_id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=True),
        sa.Column("amount", sa.Double(), nullable=False),
        sa.Column("why", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["job_id"],
            ["job.id"],
        ),
        sa.ForeignKeyConstraint(
            ["lot_id"],
            ["lot.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("stock_move", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_stock_move_job_id"), ["job_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_stock_move_lot_id"), ["lot_id"], unique=False)

    op.create_table(
        "tag_print",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("person", sa.String(), nullable=False),
        sa.Column("facts", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(
            ["job_id"],
            ["job.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("tag_print", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_tag_print_job_id"), ["job_id"], unique=False)

    op.create_table(
        "wait",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("place", sa.String(), nullable=False),
        sa.Column("at_end", sa.String(), nullable=False),
        sa.Column("started_at", sa.DateTime(), nullable=False),
        sa.Column("wet_since", sa.DateTime(), nullable=True),
        sa.Column("wet", sa.Boolean(), nullable=False),
        sa.Column("restarts", sa.Integer(), nullable=False),
        sa.Column("min_minutes", sa.Double(), nullable=False),
        sa.Column("max_minutes", sa.Double(), nullable=True),
        sa.Column("ended_at", sa.DateTime(), nullable=True),
        sa.Column("ended_why", sa.String(), nullable=False),
        sa.Column("detail", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["job_id"],
            ["job.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("wait", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_wait_ended_at"), ["ended_at"], unique=False)
        batch_op.create_index(batch_op.f("ix_wait_job_id"), ["job_id"], unique=False)

    op.create_table(
        "work",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("what", sa.String(), nullable=False),
        sa.Column("stage", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("minutes", sa.Double(), nullable=True),
        sa.Column("data", sa.JSON(), nullable=False),
        sa.Column("person", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["job_id"],
            ["job.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("job_id", "key"),
    )
    with op.batch_alter_table("work", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_work_job_id"), ["job_id"], unique=False)

    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER journal_no_{verb.lower()} BEFORE {verb} ON journal "
            "BEGIN SELECT RAISE(ABORT, 'the journal is append-only'); END"
        )


def downgrade() -> None:
    raise NotImplementedError("go back with a backup; the first version has nothing before it")
