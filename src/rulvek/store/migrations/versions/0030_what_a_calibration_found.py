"""What a calibration found and left, and the certificate that says so."""

import sqlalchemy as sa
from alembic import op

revision = "0030"
down_revision = "0029"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("instrument", sa.Column("certificate", sa.String(200), nullable=False, server_default=""))
    for name in ("checked_at", "found", "left"):
        op.add_column("instrument", sa.Column(name, sa.Double(), nullable=True))


def downgrade() -> None:
    for name in ("left", "found", "checked_at", "certificate"):
        op.drop_column("instrument", name)
