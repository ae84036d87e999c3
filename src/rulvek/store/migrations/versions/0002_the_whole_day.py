"""The whole day: every mode, plans with wirings, preparations, choices of attempts, remarks"""

import json

import sqlalchemy as sa
from alembic import op

import rulvek.store.types

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # Columns are added in place: a table that others refer to cannot be made anew while foreign keys hold.
    op.add_column("model", sa.Column("fuse_amps", sa.JSON(), nullable=False, server_default="[]"))
    op.add_column("unit", sa.Column("design", sa.String(length=200), nullable=True))
    op.add_column("campaign", sa.Column("wishes", sa.JSON(), nullable=False, server_default="{}"))
    op.add_column("run", sa.Column("burst", sa.String(length=200), nullable=False, server_default=""))
    op.add_column("run", sa.Column("exploratory", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.add_column("run", sa.Column("wiring", sa.Integer(), nullable=False, server_default="1"))
    op.add_column("run", sa.Column("wiring_key", sa.String(length=200), nullable=False, server_default=""))
    op.add_column("run", sa.Column("predicted", sa.JSON(), nullable=False, server_default="{}"))
    op.add_column("attempt", sa.Column("cause", sa.String(length=200), nullable=False, server_default=""))
    op.add_column("attempt", sa.Column("skipped", sa.JSON(), nullable=False, server_default="[]"))
    op.add_column("attempt_ending", sa.Column("largest_watts", sa.Double(), nullable=True))
    op.add_column("attempt_ending", sa.Column("load_c", sa.Double(), nullable=True))
    op.add_column("attempt_ending", sa.Column("start_outside", sa.Text(), nullable=False, server_default=""))
    _companions_by_connection()
    op.create_table(
        "preparation",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("campaign_id", sa.Integer(), nullable=False),
        sa.Column("wiring_key", sa.String(length=200), nullable=False),
        sa.Column("item", sa.String(length=200), nullable=False),
        sa.Column("done", sa.Boolean(), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.Column("data", sa.JSON(), nullable=False),
        sa.Column("by", sa.String(length=200), nullable=False),
        sa.Column("at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.ForeignKeyConstraint(["campaign_id"], ["campaign.id"], name="fk_preparation_campaign_id_campaign"),
        sa.PrimaryKeyConstraint("id", name="pk_preparation"),
    )
    op.create_index("ix_preparation_campaign_id", "preparation", ["campaign_id"])
    op.create_table(
        "attempt_choice",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("run_id", sa.Integer(), nullable=False),
        sa.Column("attempt_id", sa.Integer(), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.Column("by", sa.String(length=200), nullable=False),
        sa.Column("at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["run.id"], name="fk_attempt_choice_run_id_run"),
        sa.ForeignKeyConstraint(["attempt_id"], ["attempt.id"], name="fk_attempt_choice_attempt_id_attempt"),
        sa.PrimaryKeyConstraint("id", name="pk_attempt_choice"),
    )
    op.create_index("ix_attempt_choice_run_id", "attempt_choice", ["run_id"])
    op.create_table(
        "remark",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("attempt_id", sa.Integer(), nullable=False),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("by", sa.String(length=200), nullable=False),
        sa.Column("at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.ForeignKeyConstraint(["attempt_id"], ["attempt.id"], name="fk_remark_attempt_id_attempt"),
        sa.PrimaryKeyConstraint("id", name="pk_remark"),
    )
    op.create_index("ix_remark_attempt_id", "remark", ["attempt_id"])


def _companions_by_connection() -> None:
    """Companions were channel and ohms; a connection may lie across a pair, so it names all its channels now."""
    run = sa.table("run", sa.column("id"), sa.column("companions"))
    bind = op.get_bind()
    for identity, kept in bind.execute(sa.select(run.c.id, run.c.companions)).all():
        pairs = json.loads(kept) if isinstance(kept, str) else kept
        moved = json.dumps([[[channel], ohms] for channel, ohms in pairs])
        bind.execute(run.update().where(run.c.id == identity).values(companions=moved))
