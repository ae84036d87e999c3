"""The inductance of the load that a reading was taken at, where the bench knows it."""

import sqlalchemy as sa
from alembic import op

revision = "0034"
down_revision = "0033"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("reading", sa.Column("load_inductance_uh", sa.Double(), nullable=True))


def downgrade() -> None:
    op.drop_column("reading", "load_inductance_uh")
