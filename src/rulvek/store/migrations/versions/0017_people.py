"""People with accounts, their sessions and tokens."""

import sqlalchemy as sa
from alembic import op

from rulvek.store.types import UtcDateTime

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "person",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("folded", sa.String(200), nullable=False, unique=True),
        sa.Column("roles", sa.JSON(), nullable=False),
        sa.Column("password", sa.String(200), nullable=False),
        sa.Column("code", sa.String(200), nullable=False),
        sa.Column("code_until", UtcDateTime()),
        sa.Column("demo", sa.Boolean(), nullable=False),
        sa.Column("made_at", UtcDateTime(), nullable=False),
        sa.Column("closed_at", UtcDateTime()),
    )
    op.create_table(
        "person_session",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("person_id", sa.Integer(), sa.ForeignKey("person.id"), nullable=False, index=True),
        sa.Column("token", sa.String(200), nullable=False, unique=True),
        sa.Column("began_at", UtcDateTime(), nullable=False),
        sa.Column("seen_at", UtcDateTime(), nullable=False),
        sa.Column("ended_at", UtcDateTime()),
        sa.Column("address", sa.String(200), nullable=False),
        sa.Column("browser", sa.String(200), nullable=False),
    )
    op.create_table(
        "script_token",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("person_id", sa.Integer(), sa.ForeignKey("person.id"), nullable=False, index=True),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("roles", sa.JSON(), nullable=False),
        sa.Column("token", sa.String(200), nullable=False, unique=True),
        sa.Column("made_at", UtcDateTime(), nullable=False),
        sa.Column("until", UtcDateTime(), nullable=False),
        sa.Column("ended_at", UtcDateTime()),
    )
    op.create_table(
        "sign_in_wait",
        sa.Column("key", sa.String(200), primary_key=True),
        sa.Column("failures", sa.Integer(), nullable=False),
        sa.Column("until", UtcDateTime(), nullable=False),
    )


def downgrade() -> None:
    for table in ("sign_in_wait", "script_token", "person_session", "person"):
        op.drop_table(table)
