"""Recorded attempts, and second readings of an attempt by another instrument."""

import sqlalchemy as sa
from alembic import op

import rulvek.store.types

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("attempt", sa.Column("recorded", sa.JSON(), nullable=False, server_default="{}"))
    op.add_column("attempt_ending", sa.Column("start_watts", sa.Double(), nullable=True))
    op.create_table(
        "second_reading",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("attempt_id", sa.Integer(), nullable=False),
        sa.Column("channel", sa.Integer(), nullable=False),
        sa.Column("watts", sa.Double(), nullable=False),
        sa.Column("volts_rms", sa.Double(), nullable=True),
        sa.Column("instrument", sa.String(length=200), nullable=False),
        sa.Column("percent_of_reading", sa.Double(), nullable=False),
        sa.Column("by", sa.String(length=200), nullable=False),
        sa.Column("at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.ForeignKeyConstraint(["attempt_id"], ["attempt.id"], name="fk_second_reading_attempt_id_attempt"),
        sa.PrimaryKeyConstraint("id", name="pk_second_reading"),
    )
    op.create_index("ix_second_reading_attempt_id", "second_reading", ["attempt_id"])
