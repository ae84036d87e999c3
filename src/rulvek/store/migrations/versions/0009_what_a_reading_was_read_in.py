"""What belongs to a reading: the band it was read in, whether it was held, what came beyond it, a burst's last step."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None

_COLUMNS = ("band_high_hz", "largest_bracket_db", "beyond_watts", "outside_share")


def upgrade() -> None:
    op.add_column("attempt_ending", sa.Column("held", sa.Boolean(), nullable=False, server_default=sa.true()))
    for name in _COLUMNS:
        op.add_column("attempt_ending", sa.Column(name, sa.Double(), nullable=True))


def downgrade() -> None:
    for name in ("held", *_COLUMNS):
        op.drop_column("attempt_ending", name)
