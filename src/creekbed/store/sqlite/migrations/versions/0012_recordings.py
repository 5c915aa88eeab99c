"""Sounds that are kept with a job, and how long a bench reed was played."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.create_table(
        "recording", sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(64), nullable=False),
        sa.Column("tag", sa.String(32), sa.ForeignKey("instrument.tag"), nullable=False),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("job.id"), nullable=False),
        sa.Column("about", sa.String(), nullable=False), sa.Column("key", sa.String(), nullable=False),
        sa.Column("seconds", sa.Double(), nullable=False), sa.Column("rate", sa.Double(), nullable=False),
        sa.Column("size", sa.Integer(), nullable=False), sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("person", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False, server_default="0"),
    )  # fmt: skip
    op.add_column("bench_reed", sa.Column("minutes", sa.Double(), nullable=False, server_default="0"))
    op.create_index("ix_recording_tag", "recording", ["tag"])
    op.create_index("ix_recording_job_id", "recording", ["job_id"])
