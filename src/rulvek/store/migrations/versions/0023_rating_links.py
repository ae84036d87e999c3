"""Links under which somebody without an account sees a rating."""

import sqlalchemy as sa
from alembic import op

from rulvek.store.types import UtcDateTime

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "rating_link",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column(
            "rating_id",
            sa.Integer(),
            sa.ForeignKey("rating.id", name="fk_rating_link_rating_id_rating"),
            nullable=False,
        ),
        sa.Column("token", sa.String(200), nullable=False),
        sa.Column("meant_for", sa.String(200), nullable=False),
        sa.Column("with_records", sa.Boolean(), nullable=False),
        sa.Column("made_by", sa.String(200), nullable=False),
        sa.Column("made_at", UtcDateTime(), nullable=False),
        sa.Column("until", UtcDateTime(), nullable=False),
        sa.Column("ended_at", UtcDateTime()),
        sa.UniqueConstraint("token", name="uq_rating_link_token"),
    )
    op.create_index("ix_rating_link_rating_id", "rating_link", ["rating_id"])


def downgrade() -> None:
    op.drop_table("rating_link")
