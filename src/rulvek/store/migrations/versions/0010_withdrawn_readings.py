"""Readings that somebody withdrew, and that were let count again; both stay on record."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "reading_withdrawal",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("attempt_id", sa.Integer(), sa.ForeignKey("attempt.id"), nullable=False),
        sa.Column("withdrawn", sa.Boolean(), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.Column("by", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_reading_withdrawal_attempt_id", "reading_withdrawal", ["attempt_id"])


def downgrade() -> None:
    op.drop_table("reading_withdrawal")
