"""Answers that were given to requests with a key, so that one that comes again after a restart is not done again."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "given_answer",
        sa.Column("mark", sa.String(), primary_key=True),
        sa.Column("at", sa.DateTime(), nullable=False, index=True),
        sa.Column("status", sa.Integer(), nullable=False),
        sa.Column("content_type", sa.String(), nullable=False),
        sa.Column("body", sa.LargeBinary(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("given_answer")
