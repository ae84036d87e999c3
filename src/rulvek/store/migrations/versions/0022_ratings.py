"""Ratings with their lives; what a calibration found before anything was adjusted."""

import sqlalchemy as sa
from alembic import op

from rulvek.store.types import UtcDateTime

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "rating",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("model_id", sa.Integer(), sa.ForeignKey("model.id", name="fk_rating_model_id_model"), nullable=False),
    )
    op.create_index("ix_rating_model_id", "rating", ["model_id"])
    op.create_table(
        "rating_step",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "rating_id",
            sa.Integer(),
            sa.ForeignKey("rating.id", name="fk_rating_step_rating_id_rating"),
            nullable=False,
        ),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(200), nullable=False),
        sa.Column("by", sa.String(200), nullable=False),
        sa.Column("at", UtcDateTime(), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.Column("digest", sa.String(200), nullable=False),
        sa.Column("settles", sa.JSON(), nullable=False),
        sa.Column("terms", sa.JSON()),
        sa.Column("basis", sa.Text()),
        sa.UniqueConstraint("rating_id", "number", name="uq_rating_step_rating_id"),
    )
    op.create_index("ix_rating_step_rating_id", "rating_step", ["rating_id"])
    op.create_table(
        "rating_sample",
        sa.Column(
            "rating_id",
            sa.Integer(),
            sa.ForeignKey("rating.id", name="fk_rating_sample_rating_id_rating"),
            primary_key=True,
        ),
        sa.Column("version", sa.String(200), nullable=False),
        sa.Column("data", sa.Text(), nullable=False),
    )
    op.add_column("instrument", sa.Column("as_found", sa.String(200), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("instrument", "as_found")
    op.drop_table("rating_sample")
    op.drop_table("rating_step")
    op.drop_table("rating")
