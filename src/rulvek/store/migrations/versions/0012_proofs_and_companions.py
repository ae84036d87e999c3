"""How companions were driven, and what a proof is to hold.

``companions_full``: whether channels that were only loaded and driven gave what they certify themselves.
"""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("attempt_ending", sa.Column("companions_full", sa.Boolean(), nullable=True))
    op.add_column("run", sa.Column("hold_watts", sa.Double(), nullable=True))


def downgrade() -> None:
    op.drop_column("run", "hold_watts")
    op.drop_column("attempt_ending", "companions_full")
