"""Practice: jobs that people tried themselves on, and exams. Nothing else refers to them."""

import sqlalchemy as sa
from alembic import op

from rulvek.store.types import UtcDateTime

revision = "0029"
down_revision = "0028"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "practice_exam",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("by", sa.String(200), nullable=False),
        sa.Column("level", sa.String(200), nullable=False),
        sa.Column("jobs", sa.Integer(), nullable=False),
        sa.Column("begun_at", UtcDateTime(), nullable=False),
        sa.Column("ended_at", UtcDateTime(), nullable=True),
        sa.Column("points", sa.Integer(), nullable=True),
        sa.Column("of", sa.Integer(), nullable=True),
    )
    op.create_index("ix_practice_exam_by", "practice_exam", ["by"])
    op.create_table(
        "practice_job",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("by", sa.String(200), nullable=False),
        sa.Column("exam_id", sa.Integer(), sa.ForeignKey("practice_exam.id"), nullable=True),
        sa.Column("level", sa.String(200), nullable=False),
        sa.Column("seed", sa.Integer(), nullable=False),
        sa.Column("begun_at", UtcDateTime(), nullable=False),
        sa.Column("answered_at", UtcDateTime(), nullable=True),
        sa.Column("answer", sa.JSON(), nullable=True),
        sa.Column("points", sa.Integer(), nullable=True),
        sa.Column("of", sa.Integer(), nullable=True),
    )
    op.create_index("ix_practice_job_by", "practice_job", ["by"])
    op.create_index("ix_practice_job_exam_id", "practice_job", ["exam_id"])


def downgrade() -> None:
    op.drop_table("practice_job")
    op.drop_table("practice_exam")
