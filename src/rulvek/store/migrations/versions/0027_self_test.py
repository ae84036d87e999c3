"""How a bench of instruments was found when somebody looked at it."""

import sqlalchemy as sa
from alembic import op

from rulvek.store.types import UtcDateTime

revision = "0027"
down_revision = "0026"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "self_test",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("bench_id", sa.Integer(), sa.ForeignKey("bench.id"), nullable=False, index=True),
        sa.Column("at", UtcDateTime(), nullable=False),
        sa.Column("by", sa.String(200), nullable=False),
        sa.Column("channels", sa.Integer(), nullable=False),
        sa.Column("powered", sa.Boolean(), nullable=False),
        sa.Column("looked", sa.JSON(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("self_test")
