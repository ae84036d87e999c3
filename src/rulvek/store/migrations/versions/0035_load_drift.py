"""How the load that a reading was taken at drifts as it warms, where the bench knows it."""

import sqlalchemy as sa
from alembic import op

revision = "0035"
down_revision = "0034"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("reading", sa.Column("load_ppm_per_kelvin", sa.Double(), nullable=True))


def downgrade() -> None:
    op.drop_column("reading", "load_ppm_per_kelvin")
