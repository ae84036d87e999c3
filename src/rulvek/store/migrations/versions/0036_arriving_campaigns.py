"""Campaigns that still arrive are found at once, however many are there."""

import sqlalchemy as sa
from alembic import op

revision = "0036"
down_revision = "0035"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # A part of an index is used where a question says the same, word for word.
    lite, postgres = sa.text("arriving = 1"), sa.text("arriving")
    op.create_index("ix_campaign_arriving", "campaign", ["id"], sqlite_where=lite, postgresql_where=postgres)


def downgrade() -> None:
    op.drop_index("ix_campaign_arriving", "campaign")
