"""Earlier versions of what people maintain; what is renamed is found by its new name."""

import sqlalchemy as sa
from alembic import op

from rulvek.store.types import UtcDateTime

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None

_UNITS = "SELECT id FROM unit WHERE model_id = new.id"
_RENAMED = {
    "model": (
        "name, description ON model",
        "UPDATE found SET name = new.name, of = new.description WHERE kind = 'model' AND ref = new.id;"
        f" UPDATE found SET of = new.name WHERE kind = 'unit' AND ref IN ({_UNITS});"
        " UPDATE found SET of = (SELECT unit.serial || ' ' || new.name"
        " FROM campaign JOIN unit ON unit.id = campaign.unit_id"
        f" WHERE campaign.id = found.ref) WHERE kind = 'campaign'"
        f" AND ref IN (SELECT id FROM campaign WHERE unit_id IN ({_UNITS}));",
    ),
    "unit": (
        "serial ON unit",
        "UPDATE found SET name = new.serial WHERE kind = 'unit' AND ref = new.id;"
        " UPDATE found SET of = new.serial || ' ' || (SELECT name FROM model WHERE id = new.model_id)"
        " WHERE kind = 'campaign' AND ref IN (SELECT id FROM campaign WHERE unit_id = new.id);",
    ),
}


def upgrade() -> None:
    op.create_table(
        "entry_version",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("subject", sa.String(200), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("data", sa.JSON(), nullable=False),
        sa.Column("by", sa.String(200), nullable=False),
        sa.Column("at", UtcDateTime(), nullable=False),
        sa.UniqueConstraint("subject", "number", name="uq_entry_version_subject"),
    )
    for kind, (when, then) in _RENAMED.items():
        op.execute(f"CREATE TRIGGER found_{kind}_renamed AFTER UPDATE OF {when} BEGIN {then} END")


def downgrade() -> None:
    for kind in _RENAMED:
        op.execute(f"DROP TRIGGER found_{kind}_renamed")
    op.drop_table("entry_version")
