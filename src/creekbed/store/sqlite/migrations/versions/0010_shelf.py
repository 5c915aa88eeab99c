"""Where supplies lie on the shelf, which are put aside, and from when the shop orders them."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.create_table(
        "shelf_entry", sa.Column("item", sa.String(), primary_key=True),
        sa.Column("place", sa.String(), nullable=False), sa.Column("aside", sa.Boolean(), nullable=False),
        sa.Column("minimum", sa.Double()), sa.Column("version", sa.Integer(), nullable=False, server_default="0"),
    )  # fmt: skip
