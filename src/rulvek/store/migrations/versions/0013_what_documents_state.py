"""More of what documents state: a range of volts, a total, driven channels, no load, linked units."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("claim", sa.Column("supply_high_volts", sa.Double(), nullable=True))
    op.add_column("claim", sa.Column("total_of", sa.Integer(), nullable=True))
    op.add_column("claim", sa.Column("driven_channels", sa.Integer(), nullable=True))
    op.add_column("claim", sa.Column("load_stated", sa.Boolean(), nullable=False, server_default=sa.true()))
    op.add_column("claim", sa.Column("linked", sa.Boolean(), nullable=False, server_default=sa.false()))


def downgrade() -> None:
    for name in ("linked", "load_stated", "driven_channels", "total_of", "supply_high_volts"):
        op.drop_column("claim", name)
