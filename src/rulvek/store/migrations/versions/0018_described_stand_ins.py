"""A simulated amplifier that a lab describes for a model of its own."""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("model", sa.Column("described_design", sa.Text(), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("model", "described_design")
