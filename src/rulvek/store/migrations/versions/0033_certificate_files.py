"""A calibration's certificate as a file."""

import sqlalchemy as sa
from alembic import op

revision = "0033"
down_revision = "0032"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("instrument", sa.Column("certificate_file", sa.String(), nullable=True))


def downgrade() -> None:
    op.drop_column("instrument", "certificate_file")
