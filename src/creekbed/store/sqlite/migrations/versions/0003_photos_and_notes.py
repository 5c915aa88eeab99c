"""Photographs of jobs, marks and checks."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.create_table(
        "photo",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(64), nullable=False),
        sa.Column("tag", sa.String(32), sa.ForeignKey("instrument.tag"), nullable=False),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("job.id"), nullable=False),
        sa.Column("about", sa.String(), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("taken_at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_photo_tag", "photo", ["tag"])
    op.create_index("ix_photo_job_id", "photo", ["job_id"])
    op.add_column("mark", sa.Column("status", sa.String(), nullable=False, server_default=""))
