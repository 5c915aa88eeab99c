"""Weighings of what dries."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.add_column("wait", sa.Column("weighings", sa.JSON(), nullable=False, server_default="[]"))
