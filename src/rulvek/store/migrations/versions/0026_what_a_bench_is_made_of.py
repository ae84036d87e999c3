"""What a bench of instruments is made of."""

import sqlalchemy as sa
from alembic import op

revision = "0026"
down_revision = "0025"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("bench", sa.Column("assembly", sa.Text(), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("bench", "assembly")
