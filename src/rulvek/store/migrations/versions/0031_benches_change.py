"""That a bench was changed after it was put together: how often, and when last."""

import sqlalchemy as sa
from alembic import op

from rulvek.store.types import UtcDateTime

revision = "0031"
down_revision = "0030"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("bench", sa.Column("version", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("bench", sa.Column("changed_at", UtcDateTime(), nullable=True))


def downgrade() -> None:
    op.drop_column("bench", "changed_at")
    op.drop_column("bench", "version")
