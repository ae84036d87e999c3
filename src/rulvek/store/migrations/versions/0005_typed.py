"""Typed readings: what a person read by hand, kept as it was typed"""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("attempt", sa.Column("typed", sa.JSON(), nullable=False, server_default="{}"))
