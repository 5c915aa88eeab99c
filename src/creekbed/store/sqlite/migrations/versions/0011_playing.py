"""Play-tests by sound, and how new strings settled: what was read before a retune teaches of the next string."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    op.create_table(
        "playing", sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("job.id"), nullable=False),
        sa.Column("tag", sa.String(), nullable=False), sa.Column("key", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False), sa.Column("person", sa.String(), nullable=False),
        sa.Column("a4_hz", sa.Double(), nullable=False), sa.Column("warmth_cents", sa.Double(), nullable=False),
        sa.Column("lies_cents", sa.Double(), nullable=False), sa.Column("u_lies_cents", sa.Double(), nullable=False),
        sa.Column("notes", sa.JSON(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False, server_default="0"),
    )  # fmt: skip
    op.create_table(
        "string_drop", sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("job.id"), nullable=False),
        sa.Column("family", sa.String(), nullable=False), sa.Column("from_min", sa.Double(), nullable=False),
        sa.Column("to_min", sa.Double(), nullable=False), sa.Column("cents", sa.Double(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False, server_default="0"),
    )  # fmt: skip
    op.create_index("ix_string_drop_job_id", "string_drop", ["job_id"])
    op.create_index("ix_playing_job_id", "playing", ["job_id"])
    op.create_index("ix_playing_tag", "playing", ["tag", "id"])
