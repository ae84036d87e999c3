"""Revisions, lots, documents, insides, photographs and listening; more of models and units; lots that are named so far.

A lot, a revision or a document that units and claims name becomes a record of its own.
"""

from datetime import UTC, datetime

import sqlalchemy as sa
from alembic import op

from rulvek.store.types import UtcDateTime

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None

_KINDS = (("manual", "manual"), ("carton", "carton"), ("web", "web page"), ("print", "print on the unit"))


def upgrade() -> None:
    kept = op.create_table(
        "kept_entry",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("kind", sa.String(200), nullable=False),
        sa.Column("model_id", sa.Integer(), sa.ForeignKey("model.id", name="fk_kept_entry_model_id_model")),
        sa.Column("unit_id", sa.Integer(), sa.ForeignKey("unit.id", name="fk_kept_entry_unit_id_unit")),
        sa.Column("entry", sa.JSON(), nullable=False),
        sa.Column("entered_by", sa.String(200), nullable=False),
        sa.Column("entered_at", UtcDateTime(), nullable=False),
        sa.Column("closed", sa.Boolean(), nullable=False, server_default=sa.false()),
    )
    op.create_index("ix_kept_entry_model_id", "kept_entry", ["model_id"])
    op.create_index("ix_kept_entry_unit_id", "kept_entry", ["unit_id"])
    op.create_table(
        "brought_file",
        sa.Column("sha256", sa.String(200), primary_key=True),
        sa.Column("path", sa.String(200), nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("media", sa.String(200), nullable=False),
        sa.Column("bytes", sa.Integer(), nullable=False),
        sa.Column("width", sa.Integer()),
        sa.Column("height", sa.Integer()),
        sa.Column("thumbnail", sa.String(200)),
        sa.Column("added_by", sa.String(200), nullable=False),
        sa.Column("added_at", UtcDateTime(), nullable=False),
    )
    op.add_column("series", sa.Column("rating_step_watts", sa.Double()))
    op.add_column("series", sa.Column("currency", sa.String(200), nullable=False, server_default=""))
    op.add_column("model", sa.Column("facts", sa.JSON(), nullable=False, server_default="{}"))
    op.add_column("unit", sa.Column("facts", sa.JSON(), nullable=False, server_default="{}"))
    op.add_column("channel_group", sa.Column("topology", sa.String(200), nullable=False, server_default=""))
    op.add_column("channel_group", sa.Column("band_low_hz", sa.Double()))
    op.add_column("channel_group", sa.Column("band_high_hz", sa.Double()))
    op.add_column("claim", sa.Column("stands_at", sa.String(200)))
    now = datetime.now(UTC)
    for kind, query in (
        ("revision", "SELECT model_id, revision FROM unit WHERE revision <> '' GROUP BY 1, 2 ORDER BY min(id)"),
        ("lot", "SELECT model_id, lot, max(revision) FROM unit WHERE lot <> '' GROUP BY 1, 2 ORDER BY min(id)"),
        ("document", "SELECT model_id, document FROM claim GROUP BY 1, 2 ORDER BY min(id)"),
    ):
        for model_id, name, *more in op.get_bind().execute(sa.text(query)).all():
            entry = {"name": name} | ({"revision": more[0]} if more else {})
            if kind == "document":
                words = name.casefold()
                entry["kind"] = next((one for word, one in _KINDS if word in words), "other")
            row = {"kind": kind, "model_id": model_id, "entry": entry, "entered_by": "", "entered_at": now}
            op.execute(sa.insert(kept).values(**row, closed=False))


def downgrade() -> None:
    op.drop_column("claim", "stands_at")
    for name in ("band_high_hz", "band_low_hz", "topology"):
        op.drop_column("channel_group", name)
    op.drop_column("unit", "facts")
    op.drop_column("model", "facts")
    op.drop_column("series", "currency")
    op.drop_column("series", "rating_step_watts")
    op.drop_table("brought_file")
    op.drop_table("kept_entry")
