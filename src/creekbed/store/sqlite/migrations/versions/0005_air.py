"""The storage room's air, what was disinfected with what, and readings of a thermometer in a case."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.create_table(
        "air_reading",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("celsius", sa.Double(), nullable=False),
        sa.Column("humidity", sa.Double(), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
    )
    op.create_index("ix_air_reading_at", "air_reading", ["at"], unique=True)
    op.create_table(
        "disinfection",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("job.id"), nullable=False),
        sa.Column("part", sa.String(), nullable=False),
        sa.Column("agent", sa.String(), nullable=False),
        sa.Column("lot", sa.String(), nullable=False),
        sa.Column("strength_pct", sa.Double(), nullable=True),
        sa.Column("began_at", sa.DateTime(), nullable=False),
        sa.Column("ended_at", sa.DateTime(), nullable=False),
        sa.Column("required_min", sa.Double(), nullable=False),
        sa.Column("wet_min", sa.Double(), nullable=False),
        sa.Column("restarts", sa.Integer(), nullable=False),
        sa.Column("over_min", sa.Double(), nullable=False),
        sa.Column("person", sa.String(), nullable=False),
    )
    op.create_index("ix_disinfection_job_id", "disinfection", ["job_id"])
    op.add_column("job", sa.Column("case_readings", sa.JSON(), nullable=False, server_default="[]"))
