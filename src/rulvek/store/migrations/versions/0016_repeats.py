"""What a unit's repeated attempts come to, to be pooled over all units."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("unit_conclusion", sa.Column("repeat_squares", sa.Double(), nullable=False, server_default="0"))
    op.add_column("unit_conclusion", sa.Column("repeat_freedom", sa.Integer(), nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("unit_conclusion", "repeat_freedom")
    op.drop_column("unit_conclusion", "repeat_squares")
