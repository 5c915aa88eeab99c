"""What was forecast of each job, to tell how often forecasts came true; when it is back from a specialist."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.create_table(
        "forecast",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("job.id"), nullable=False),
        sa.Column("boat_id", sa.Integer(), sa.ForeignKey("boat.id"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("chance", sa.Double(), nullable=False),
    )
    op.create_index("ix_forecast_job_id", "forecast", ["job_id"])
    op.add_column("job", sa.Column("back_at", sa.DateTime(), nullable=True))
