"""The gear register: instruments with their accuracy and calibration, and what each attempt was read with"""

import sqlalchemy as sa
from alembic import op

import rulvek.store.types

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("attempt", sa.Column("instruments", sa.JSON(), nullable=False, server_default="{}"))
    op.create_table(
        "instrument",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("role", sa.String(length=200), nullable=False),
        sa.Column("name", sa.String(length=200), nullable=False),
        sa.Column("serial", sa.String(length=200), nullable=False),
        sa.Column("percent_of_reading", sa.Double(), nullable=False),
        sa.Column("percent_of_range", sa.Double(), nullable=False),
        sa.Column("full_range", sa.Double(), nullable=False),
        sa.Column("digits", sa.Double(), nullable=False),
        sa.Column("resolution", sa.Double(), nullable=False),
        sa.Column("calibrated_on", sa.Date(), nullable=True),
        sa.Column("due_on", sa.Date(), nullable=True),
        sa.Column("entered_by", sa.String(length=200), nullable=False),
        sa.Column("entered_at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_instrument"),
    )
