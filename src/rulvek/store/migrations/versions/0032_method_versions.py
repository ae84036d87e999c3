"""The lab's own methods: versions that are proposed and approved."""

import sqlalchemy as sa
from alembic import op

from rulvek.store.types import UtcDateTime

revision = "0032"
down_revision = "0031"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "method_version",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("profile", sa.JSON(), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.Column("proposed_by", sa.String(200), nullable=False),
        sa.Column("proposed_at", UtcDateTime(), nullable=False),
        sa.Column("approved_by", sa.String(200), nullable=False),
        sa.Column("approved_at", UtcDateTime(), nullable=True),
        sa.UniqueConstraint("name", "number", name="uq_method_version"),
    )


def downgrade() -> None:
    op.drop_table("method_version")
