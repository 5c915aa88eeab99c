"""What lies on an instrument's parts, and what is known of its next renter."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.add_column("instrument", sa.Column("finishes", sa.JSON(), nullable=False, server_default="{}"))
    op.add_column("job", sa.Column("renter", sa.String(), nullable=False, server_default=""))
