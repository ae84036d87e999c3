"""Benches and their leases, what is concluded, files by their hashes, actors, and skips as codes."""

import json
import re

import sqlalchemy as sa
from alembic import op

import rulvek.store.types

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

_ITEMS = {
    "clamp's zero": "clamp",
    "loads": "loads",
    "controls": "controls",
    "gains": "gains",
    "supply's volts": "supply",
}
_SKIPPED = re.compile(r"(?P<name>[^:]+?) skipped: (?P<reason>.*) \((?P<by>[^()]*)\)", re.DOTALL)


def upgrade() -> None:
    for table in ("model", "unit"):
        op.add_column(table, sa.Column("version", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("model", sa.Column("claims_version", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("campaign", sa.Column("runs_left", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("campaign", sa.Column("arriving", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.create_index("ix_campaign_open", "campaign", ["id"], sqlite_where=sa.text("runs_left > 0"))
    op.add_column("audit_entry", sa.Column("version", sa.Integer(), nullable=False, server_default="1"))
    op.add_column("audit_entry", sa.Column("actor", sa.String(length=200), nullable=False, server_default="person"))
    _files_by_hash()
    _benches()
    _conclusions()
    _skips_as_codes()
    _count_what_is_left()


def _files_by_hash() -> None:
    """The same bytes twice are one file, so two attempts may name the same path."""
    with op.batch_alter_table("capture_file", schema=None) as batch_op:
        batch_op.drop_constraint("uq_capture_file_path", type_="unique")
        batch_op.add_column(sa.Column("described_sha256", sa.String(length=200), nullable=False, server_default=""))


def _benches() -> None:
    op.create_table(
        "bench",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=200), nullable=False),
        sa.Column("kind", sa.String(length=200), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_bench"),
        sa.UniqueConstraint("name", name="uq_bench_name"),
    )
    op.create_table(
        "bench_lease",
        sa.Column("bench_id", sa.Integer(), nullable=False),
        sa.Column("server", sa.String(length=200), nullable=False),
        sa.Column("host", sa.String(length=200), nullable=False),
        sa.Column("process", sa.String(length=200), nullable=False),
        sa.Column("expires_at", rulvek.store.types.UtcDateTime(), nullable=False),
        sa.Column("doing", sa.String(length=200), nullable=False),
        sa.Column("campaign_id", sa.Integer(), nullable=True),
        sa.Column("attempt_id", sa.Integer(), nullable=True),
        sa.Column("person", sa.String(length=200), nullable=True),
        sa.Column("holder", sa.String(length=200), nullable=True),
        sa.Column("asked_by", sa.String(length=200), nullable=True),
        sa.Column("off_asked_by", sa.String(length=200), nullable=True),
        sa.ForeignKeyConstraint(["bench_id"], ["bench.id"], name="fk_bench_lease_bench_id_bench"),
        sa.PrimaryKeyConstraint("bench_id", name="pk_bench_lease"),
    )
    bind = op.get_bind()
    known = bind.execute(sa.text("SELECT DISTINCT bench FROM campaign ORDER BY bench")).scalars().all()
    bench = sa.table("bench", sa.column("name"), sa.column("kind"))
    # A new lab finds a simulated bench that stands ready.
    bind.execute(bench.insert(), [{"name": name, "kind": "simulated"} for name in known or ["Bench 1"]])


def _conclusions() -> None:
    for name in ("unit", "model"):
        more = ("data", "voltage", "fits", "known") if name == "unit" else ("data", "known")
        op.create_table(
            f"{name}_conclusion",
            sa.Column(f"{name}_id", sa.Integer(), nullable=False),
            sa.Column("rule", sa.String(length=200), nullable=False),
            sa.Column("version", sa.String(length=200), nullable=False),
            *(sa.Column(column, sa.Text(), nullable=False) for column in more),
            sa.ForeignKeyConstraint([f"{name}_id"], [f"{name}.id"], name=f"fk_{name}_conclusion_{name}_id_{name}"),
            sa.PrimaryKeyConstraint(f"{name}_id", "rule", name=f"pk_{name}_conclusion"),
        )


def _skips_as_codes() -> None:
    """What was skipped before power was kept as a sentence; from now on as item, reason and who."""
    bind = op.get_bind()
    rows = bind.execute(sa.text("SELECT id, skipped FROM attempt WHERE skipped NOT IN ('[]', 'null')")).all()
    for identity, kept in rows:
        sentences = json.loads(kept) if isinstance(kept, str) else kept
        found = [match for text in sentences if (match := _SKIPPED.fullmatch(text))]
        moved = [{"item": _ITEMS[m["name"]], "reason": m["reason"], "by": m["by"]} for m in found]
        bind.execute(
            sa.text("UPDATE attempt SET skipped = :skipped WHERE id = :id"),
            {"skipped": json.dumps(moved), "id": identity},
        )


def _count_what_is_left() -> None:
    op.execute(
        """
        UPDATE campaign SET runs_left = (
            SELECT count(*) FROM run WHERE run.campaign_id = campaign.id AND NOT EXISTS (
                SELECT 1 FROM attempt JOIN attempt_ending ON attempt_ending.attempt_id = attempt.id
                WHERE attempt.run_id = run.id
                AND attempt_ending."end" NOT IN ('operator', 'link_lost', 'supply_low', 'too_hot', 'not_recorded')
            )
        )
        """
    )
