"""Checks: overrulings, and how warm a run started"""

import sqlalchemy as sa
from alembic import op

import rulvek.store.types

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    _no_fixed_coverage_factor()
    op.add_column("attempt_ending", sa.Column("start_sink_c", sa.Double(), nullable=True))
    op.create_table(
        "overruling",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("attempt_id", sa.Integer(), nullable=False),
        sa.Column("code", sa.String(length=200), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.Column("by", sa.String(length=200), nullable=False),
        sa.Column("at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.ForeignKeyConstraint(["attempt_id"], ["attempt.id"], name="fk_overruling_attempt_id_attempt"),
        sa.PrimaryKeyConstraint("id", name="pk_overruling"),
    )
    op.create_index("ix_overruling_attempt_id", "overruling", ["attempt_id"])


def _no_fixed_coverage_factor() -> None:
    """k was a number of the method; it follows from each reading's budget now."""
    campaign = sa.table("campaign", sa.column("id"), sa.column("method", sa.JSON()))
    bind = op.get_bind()
    for identity, method in bind.execute(sa.select(campaign.c.id, campaign.c.method)).all():
        kept = {name: value for name, value in method.items() if name != "coverage_factor"}
        bind.execute(campaign.update().where(campaign.c.id == identity).values(method=kept))
