"""How instruments leave, days off, seasons; what instruments cost, when hires are due, and the shop's own names."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def _version() -> "sa.Column[int]":
    return sa.Column("version", sa.Integer(), nullable=False, server_default="0")


def upgrade() -> None:
    op.create_table(
        "departure_kind",
        sa.Column("id", sa.Integer(), primary_key=True), sa.Column("name", sa.String(), nullable=False),
        sa.Column("rhythm", sa.String(), nullable=False), sa.Column("weekdays", sa.JSON(), nullable=False),
        sa.Column("every_weeks", sa.Integer(), nullable=False), sa.Column("first_on", sa.String(), nullable=False),
        sa.Column("dates", sa.JSON(), nullable=False), sa.Column("minute", sa.Integer(), nullable=False),
        sa.Column("on_closed", sa.String(), nullable=False), sa.Column("dropped_at", sa.DateTime()), _version(),
    )  # fmt: skip
    for name, last in (
        ("closed_days", sa.Column("uid", sa.String(), nullable=False)),
        ("season", sa.Column("hours", sa.JSON(), nullable=False)),
    ):
        op.create_table(
            name, sa.Column("id", sa.Integer(), primary_key=True), sa.Column("name", sa.String(), nullable=False),
            sa.Column("first_on", sa.String(), nullable=False), sa.Column("last_on", sa.String(), nullable=False),
            sa.Column("yearly", sa.Boolean(), nullable=False), last, _version(),
        )  # fmt: skip
    op.execute("ALTER TABLE departure ADD COLUMN kind_id INTEGER REFERENCES departure_kind (id)")
    for name in ("day", "off"):
        op.add_column("departure", sa.Column(name, sa.String(), nullable=False, server_default=""))
    op.add_column("departure", sa.Column("single", sa.Boolean(), nullable=False, server_default=sa.false()))
    for name in ("bought_on", "standing", "standing_why"):
        op.add_column("instrument", sa.Column(name, sa.String(), nullable=False, server_default=""))
    op.add_column("instrument", sa.Column("cost", sa.Double()))
    op.add_column("hire", sa.Column("due_on", sa.String(), nullable=False, server_default=""))
    op.create_table(
        "own_name", sa.Column("words", sa.String(), primary_key=True), sa.Column("family", sa.String(), nullable=False),
        sa.Column("size", sa.String(), nullable=False), _version(),
    )  # fmt: skip
    op.create_index("ix_departure_kind", "departure", ["kind_id", "day"])
