"""What an attempt was read again from: a waveform that was kept, and by what."""

import sqlalchemy as sa
from alembic import op

revision = "0025"
down_revision = "0024"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("attempt", sa.Column("read_again", sa.String(), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("attempt", "read_again")
