"""Evidence says itself whether it was simulated, and a campaign which lab it came from."""

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # Attempts of before leave it open: their bench's register says so, and their seals stay as they were.
    op.add_column("attempt", sa.Column("simulated", sa.Boolean(), nullable=True))
    op.add_column("campaign", sa.Column("came_from", sa.String(200), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("campaign", "came_from")
    op.drop_column("attempt", "simulated")
