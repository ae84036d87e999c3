"""What is wanted of a campaign that waits: until when, where in the day's order, and whether any bench may have it."""

import sqlalchemy as sa
from alembic import op

from rulvek.store.types import UtcDateTime

revision = "0028"
down_revision = "0027"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "waiting",
        sa.Column("campaign_id", sa.Integer(), sa.ForeignKey("campaign.id"), primary_key=True),
        sa.Column("due_on", sa.Date(), nullable=True),
        sa.Column("place", sa.Integer(), nullable=True),
        sa.Column("anywhere", sa.Boolean(), nullable=False),
        sa.Column("by", sa.String(200), nullable=False),
        sa.Column("at", UtcDateTime(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("waiting")
