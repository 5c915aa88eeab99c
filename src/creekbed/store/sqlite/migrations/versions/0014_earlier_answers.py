"""What a check found before the work that was done since in the same job."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    op.add_column("finding", sa.Column("earlier", sa.JSON(), nullable=False, server_default="[]"))
