"""How much more power a larger THD+N came with at the limit."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("attempt_ending", sa.Column("limit_slope", sa.Double(), nullable=True))


def downgrade() -> None:
    op.drop_column("attempt_ending", "limit_slope")
