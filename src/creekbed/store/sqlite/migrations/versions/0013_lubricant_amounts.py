"""How much of a lubricant an instrument took the times before the last."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.add_column("lubricant_taken", sa.Column("earlier", sa.JSON(), nullable=False, server_default="[]"))
