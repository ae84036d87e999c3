"""When a capture was found to be other than it was kept."""

import sqlalchemy as sa
from alembic import op

from rulvek.store.types import UtcDateTime

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("capture_file", sa.Column("changed_at", UtcDateTime()))


def downgrade() -> None:
    op.drop_column("capture_file", "changed_at")
