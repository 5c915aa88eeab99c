"""Which joints of an instrument were together when its case was opened."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    op.add_column("job", sa.Column("joined", sa.JSON(), nullable=True))
